// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/levels/level_page.h"

#include "app/levels/project_form.h"
#include "level/find_storeys.h"
#include "level/floor_edges.h"
#include "project/side_on.h"

#include <QFileInfo>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLocale>

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

constexpr int rowHeight_px = 20;

/// High enough for all rows of a short list.
void fitRows(CellTable* table, std::size_t rows)
{
    constexpr int most = 12;
    const int shown = std::clamp(static_cast<int>(rows), 1, most);
    table->setFixedHeight(shown * rowHeight_px + table->horizontalHeader()->sizeHint().height() + 6);
}

QHBoxLayout* sideBySide(std::initializer_list<QWidget*> widgets)
{
    auto* row = new QHBoxLayout;
    row->setSpacing(6);
    for (QWidget* widget : widgets) {
        row->addWidget(widget);
    }
    row->addStretch();
    return row;
}

} // namespace

LevelPage::LevelPage(Session& session, Playback& playback, QWidget* parent)
    : ThingForm(session, parent), playback_(playback), facts_(new QLabel), edges_(new QLabel),
      storeys_(new CellTable("storeys", tr("Storeys"),
                             {{tr("storey"), tr("Its name, as at the upper right of the Plan"), 150, true},
                              {tr("floor m"), tr("Height of its floor"), 60},
                              {tr("cut at m"), tr("Height at which the Plan is cut: what stands there is drawn solid"), 60}})),
      places_(new CellTable("places", tr("Saved places"),
                            {{tr("place"), tr("Its name; the first nine are on the keys 1 to 9"), 112, true},
                             {tr("east"), tr("Metres"), 44},
                             {tr("north"), tr("Metres"), 44},
                             {tr("up"), tr("Of the feet, metres"), 36},
                             {tr("faces"), tr("Degrees clockwise from north"), 40}})),
      project_(new ProjectForm(session, playback))
{
    setObjectName("levelPage");
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(14, 12, 14, 8);
    box->setSpacing(7);
    auto* back = button("levelBack", tr("‹ back"), {}, [this] { emit backWanted(); });
    back->setProperty("link", true);
    box->addWidget(back, 0, Qt::AlignLeft);
    auto* name = words("levelName", tr("Name"), [](Level& l) -> std::string& { return l.name; });
    name->setFont(theme::text(12, QFont::Bold));
    box->addWidget(name);
    auto* what = theme::explained(tr("Level: what lies on the sheet, where one begins, and where its floors are."));
    box->addWidget(what);
    box->addWidget(makeSheet());
    box->addWidget(theme::heading(tr("The character")));
    box->addWidget(makeCharacter());
    box->addWidget(theme::heading(tr("Storeys")));
    box->addWidget(makeStoreys());
    box->addWidget(theme::heading(tr("Edges of the floor")));
    box->addWidget(makeEdges());
    box->addWidget(theme::heading(tr("Saved places")));
    box->addWidget(makePlaces());
    box->addWidget(theme::heading(tr("The whole project")));
    box->addWidget(project_);
    box->addStretch();
    connect(&session_, &Session::levelChanged, this, &LevelPage::refresh);
}

QWidget* LevelPage::makeSheet()
{
    auto* page = new QWidget;
    auto* grid = new QGridLayout(page);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(6);
    grid->setVerticalSpacing(3);
    facts_->setObjectName("levelFacts");
    facts_->setWordWrap(true);
    grid->addWidget(facts_, 0, 0, 1, 3);
    grid->addLayout(sideBySide({button("bringInLevel", tr("Bring in another…"),
                                       tr("Geometry from a glTF or OBJ file, or a picture to lay under the sheet"),
                                       [this] { emit levelWanted(); }),
                                button("emptySheet", tr("Empty the sheet"), tr("Nothing but the grid"),
                                       [this] { edit(tr("an empty sheet"), {}, [](Level& l) { l.geometry = {}; }); })}),
                    1, 0, 1, 3);
    auto* unit =
        number({"levelUnit", "m", tr("one unit is %1 m"), tr("How many metres one unit of the level's file is")},
               NumberSteps{4, 0.1}.over(rangeOf(&Level::metresPerUnit)), [](Level& l) -> double& { return l.metresPerUnit; });
    grid->addWidget(labelled(tr("One unit is"), unit), 2, 0);
    auto* up = choice(
        "levelUp", tr("Which way is up"), {tr("Y is up"), tr("Z is up")},
        [](const Level& l) {
            const auto* file = std::get_if<GeometryFile>(&l.geometry);
            return file != nullptr && file->up == UpAxis::z ? 1 : 0;
        },
        [](Level& l, int index) {
            if (auto* file = std::get_if<GeometryFile>(&l.geometry)) {
                file->up = index == 1 ? UpAxis::z : UpAxis::y;
            }
        });
    allow(up, [](const Level& l) {
        const auto* file = std::get_if<GeometryFile>(&l.geometry);
        return file != nullptr && QString::fromStdString(file->file).endsWith(".obj", Qt::CaseInsensitive)
                   ? QString()
                   : tr("only an OBJ leaves it open");
    });
    grid->addWidget(labelled(tr("In the file"), up), 2, 1);
    grid->addWidget(
        labelled(tr("Echoes outside"),
                 number({"outsideEchoes", "dB", tr("echoes outside %1 dB"),
                         tr("What lies in no room: how strongly the level's walls throw single echoes back. 0: as they are, "
                            "-96: not at all")},
                        NumberSteps{1, 1.0}.over(rangeOf(&Outside::echoes_db)),
                        [](Level& l) -> double& { return l.outside.echoes_db; })),
        2, 2);
    grid->addWidget(labelled(tr("Drawn and walked"), makeSide()), 3, 0, 1, 2);
    QWidget* face = labelled(tr("Its ears face"), makeFacing());
    showWhen(face, [](const Level& l) { return l.sideOn.has_value(); });
    grid->addWidget(face, 3, 2);
    // Numbers of a picture, which are shown only for one.
    static GeometryPicture none;
    const auto pictureOf = [](Level& l) -> GeometryPicture& {
        auto* picture = std::get_if<GeometryPicture>(&l.geometry);
        return picture != nullptr ? *picture : none;
    };
    const auto pictured = [](const Level& l) { return std::holds_alternative<GeometryPicture>(l.geometry); };
    const auto add = [&](int column, const QString& label, NumberField* field) {
        QWidget* both = labelled(label, field);
        showWhen(both, pictured);
        grid->addWidget(both, 4, column);
    };
    add(0, tr("Picture's width"),
        number({"pictureWidth", "m", tr("the picture is %1 m wide"), tr("The length that its width stands for")},
               NumberSteps{2, 1.0}.over(rangeOf(&GeometryPicture::width_m)),
               [pictureOf](Level& l) -> double& { return pictureOf(l).width_m; }));
    add(1, tr("Its left edge at"),
        number({"pictureEast", "m", tr("the picture begins at %1 m"), tr("East, or along the sheet from the side")},
               NumberSteps{2, 1.0}.over(ranges::metres), [pictureOf](Level& l) -> double& { return pictureOf(l).at.x; }));
    add(2, tr("its lower edge at"),
        number({"pictureNorth", "m", tr("the picture's lower edge at %1 m"), tr("North, or up on the sheet from the side")},
               NumberSteps{2, 1.0}.over(ranges::metres), [pictureOf](Level& l) -> double& { return pictureOf(l).at.y; }));
    for (int column = 0; column < 3; ++column) {
        grid->setColumnStretch(column, 1);
    }
    return page;
}

/// From above, or from a side: with that goes how the project listens, so it is more than this level that is changed.
QWidget* LevelPage::makeSide()
{
    auto* side = new QComboBox;
    side->setObjectName("levelSeen");
    side->setAccessibleName(tr("Drawn and walked"));
    side->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    side->addItems({tr("from above"), tr("from the side, looking north"), tr("from the side, looking west")});
    side->setToolTip(tr("From the side the sheet is a section through where the character begins. A and D walk along it, W "
                        "jumps; left and right are heard as they are on the screen"));
    shows_.push_back([side](const Level& l) {
        const QSignalBlocker quiet(side);
        side->setCurrentIndex(l.sideOn ? 1 + static_cast<int>(*l.sideOn) : 0);
    });
    connect(side, &QComboBox::activated, this, [this, side](int index) {
        const auto sideOn = index > 0 ? std::optional(static_cast<Looking>(index - 1)) : std::nullopt;
        session_.edit(seenFrom(session_.project(), session_.levelId(), sideOn),
                      tr("Level %1: seen %2").arg(QString::fromStdString(session_.level().name), side->itemText(index)));
    });
    return side;
}

QWidget* LevelPage::makeFacing()
{
    auto* facing = new QComboBox;
    facing->setObjectName("levelEars");
    facing->setAccessibleName(tr("Its ears face"));
    facing->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    facing->addItems({tr("into the picture"), tr("where it goes")});
    facing->setToolTip(tr("Into the picture, left and right are as on the screen; where it goes, what lies ahead is heard in "
                          "front. This is the project's rig"));
    shows_.push_back([this, facing](const Level& l) {
        const QSignalBlocker quiet(facing);
        facing->setCurrentIndex(l.sideOn && listensInto(session_.project(), *l.sideOn) ? 0 : 1);
    });
    connect(facing, &QComboBox::activated, this, [this](int index) {
        if (const auto& sideOn = session_.level().sideOn) {
            session_.edit(heardSideOn(session_.project(), *sideOn, index == 0),
                          index == 0 ? tr("Ears face into the picture") : tr("Ears face where the character goes"));
        }
    });
    return facing;
}

QWidget* LevelPage::makeCharacter()
{
    auto* page = new QWidget;
    auto* grid = new QGridLayout(page);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(6);
    grid->setVerticalSpacing(3);
    const auto start = [&](int column, const QString& label, const char* name, const QString& what, int axis) {
        grid->addWidget(labelled(label, number({name, "m", what, tr("Where the character's feet are when the level begins")},
                                               NumberSteps{2, 0.5}.over(ranges::metres),
                                               [axis](Level& l) -> double& { return l.character.start[axis]; })),
                        0, column);
    };
    start(0, tr("Begins east"), "startEast", tr("begins %1 m east"), 0);
    start(1, tr("north"), "startNorth", tr("begins %1 m north"), 1);
    start(2, tr("up"), "startUp", tr("begins %1 m up"), 2);
    grid->addWidget(
        labelled(tr("facing"),
                 number({"startHeading", QStringLiteral("°"), tr("begins facing %1°"), tr("0 north, 90 east")},
                        NumberSteps{0, 5}.over(ranges::angle), [](Level& l) -> double& { return l.character.heading_deg; })),
        0, 3);
    grid->addWidget(labelled(tr("Walks at"), number({"walkingSpeed", "m/s", tr("walks at %1 m/s"), {}},
                                                    NumberSteps{2, 0.1}.over(rangeOf(&Character::speed_m_s)),
                                                    [](Level& l) -> double& { return l.character.speed_m_s; })),
                    1, 0);
    grid->addWidget(labelled(tr("Ears at"), number({"earsHeight", "m", tr("ears %1 m above the feet"), tr("Above the feet")},
                                                   NumberSteps{2, 0.05}.over(rangeOf(&Character::earsHeight_m)),
                                                   [](Level& l) -> double& { return l.character.earsHeight_m; })),
                    1, 1);
    grid->addWidget(flag("startCollides", tr("walls stop it"), tr("Else it walks through them"),
                         [](Level& l) -> bool& { return l.character.collides; }),
                    1, 2, 1, 2, Qt::AlignBottom);
    grid->addWidget(labelled(tr("Keys move it"),
                             choice(
                                 "characterMoves", tr("How keys move it"),
                                 {tr("freely"), tr("cell by cell as it faces"), tr("cell by cell, a key a side")},
                                 [](const Level& l) { return static_cast<int>(l.character.moves); },
                                 [](Level& l, int index) { l.character.moves = static_cast<Character::Moves>(index); })),
                    2, 0, 1, 2);
    auto* cell =
        number({"characterCell", "m", tr("cells of %1 m"),
                tr("As large as a step on the grid; a cell's middle is where the level begins")},
               NumberSteps{2, 0.25}.over(rangeOf(&Character::cell_m)), [](Level& l) -> double& { return l.character.cell_m; });
    grid->addWidget(labelled(tr("A cell is"), cell), 2, 2);
    allow(cell,
          [](const Level& l) { return l.character.moves == Character::Moves::freely ? tr("it moves freely") : QString(); });
    grid->addWidget(
        labelled(tr("Jumps"), number({"jumpHeight", "m", tr("jumps %1 m high"), tr("By the key U, or ahead from the side")},
                                     NumberSteps{2, 0.1}.over(rangeOf(&Character::jump_m)),
                                     [](Level& l) -> double& { return l.character.jump_m; })),
        3, 0);
    grid->addWidget(labelled(tr("Falls by"), number({"gravity", "m/s²", tr("falls by %1 m/s²"), tr("9.81 on earth")},
                                                    NumberSteps{2, 0.5}.over(rangeOf(&Character::gravity_m_s2)),
                                                    [](Level& l) -> double& { return l.character.gravity_m_s2; })),
                    3, 1, 1, 2);
    grid->addLayout(sideBySide({button("startHere", tr("Begin where I am"),
                                       tr("The level begins where the character is now, facing as it does"),
                                       [this] {
                                           const Pose feet = playback_.feet();
                                           edit(tr("begins here"), {}, [&feet](Level& l) {
                                               l.character.start = feet.at;
                                               l.character.heading_deg = feet.heading_deg;
                                           });
                                       })}),
                    4, 0, 1, 4);
    for (int column = 0; column < 4; ++column) {
        grid->setColumnStretch(column, 1);
    }
    return page;
}

QWidget* LevelPage::makeStoreys()
{
    auto* page = new QWidget;
    auto* box = new QVBoxLayout(page);
    box->setContentsMargins(0, 0, 0, 0);
    box->addWidget(storeys_);
    connect(storeys_, &CellTable::typed, this, &LevelPage::storeyTyped);
    box->addLayout(sideBySide(
        {button("addStorey", tr("Add"), tr("A storey above the highest"),
                [this] {
                    constexpr double storey_m = 3.0;
                    edit(tr("another storey"), {}, [](Level& l) {
                        Storey storey = l.storeys.empty() ? Storey{} : l.storeys.front();
                        storey.name = tr("Storey %1").arg(l.storeys.size()).toStdString();
                        storey.floor_m += l.storeys.empty() ? 0.0 : storey_m;
                        storey.cut_m += l.storeys.empty() ? 0.0 : storey_m;
                        l.storeys.insert(l.storeys.begin(), storey);
                    });
                }),
         button("removeStorey", tr("Remove"), tr("The storey that is marked; what stands on it stays"),
                [this] {
                    const auto row = static_cast<std::size_t>(std::max(storeys_->currentRow(), 0));
                    if (session_.level().storeys.size() > 1 && row < session_.level().storeys.size()) {
                        const QString gone = QString::fromStdString(session_.level().storeys[row].name);
                        edit(tr("without the storey %1").arg(gone), {},
                             [row](Level& l) { l.storeys.erase(l.storeys.begin() + static_cast<std::ptrdiff_t>(row)); });
                    }
                }),
         button("findStoreys", tr("Find in the level"), tr("From its geometry: heights at which much of it can be stood on"),
                [this] { findStoreysInLevel(); })}));
    return page;
}

QWidget* LevelPage::makeEdges()
{
    auto* page = new QWidget;
    auto* grid = new QGridLayout(page);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(6);
    grid->setVerticalSpacing(3);
    const auto length = [&](int column, const QString& label, const char* name, const QString& what, const QString& help,
                            double EdgeRules::*member) {
        grid->addWidget(labelled(label, number({name, "m", what, help}, NumberSteps{2, 0.05}.over(rangeOf(member)),
                                               [member](Level& l) -> double& { return l.edges.*member; })),
                        0, column);
    };
    length(0, tr("A step is up to"), "edgeStep", tr("a step is up to %1 m"),
           tr("What is lower by more is a drop, what is higher by more a wall"), &EdgeRules::step_m);
    length(1, tr("a kerb from"), "edgeKerb", tr("a kerb from %1 m"), tr("Smaller differences are no edges"),
           &EdgeRules::kerb_m);
    length(2, tr("A stride is"), "edgeStride", tr("a stride of %1 m"),
           tr("So far ahead of an edge it is looked for what the ground does, and for the next step of a flight"),
           &EdgeRules::stride_m);
    auto* water = new QLineEdit;
    water->setObjectName("edgeWater");
    water->setAccessibleName(tr("Materials that are water"));
    water->setToolTip(tr("What has one of these in its material's name holds nobody; commas between"));
    shows_.push_back([water](const Level& l) {
        if (!water->hasFocus()) {
            QStringList names;
            for (const std::string& name : l.edges.water) {
                names << QString::fromStdString(name);
            }
            water->setText(names.join(", "));
        }
    });
    connect(water, &QLineEdit::editingFinished, this, [this, water] {
        if (water->isModified()) {
            water->setModified(false);
            edit(tr("what is water"), {}, [&](Level& l) {
                l.edges.water.clear();
                for (const QString& name : water->text().split(',')) {
                    if (!name.trimmed().isEmpty()) {
                        l.edges.water.push_back(name.trimmed().toStdString());
                    }
                }
            });
        }
    });
    grid->addWidget(labelled(tr("Water is"), water), 1, 0, 1, 3);
    edges_->setObjectName("edgeFacts");
    edges_->setWordWrap(true);
    grid->addWidget(edges_, 2, 0, 1, 3);
    shows_.push_back([this](const Level&) { edges_->setText(edgeWords()); });
    connect(&session_, &Session::edgesFound, this, [this] { edges_->setText(edgeWords()); });
    for (int column = 0; column < 3; ++column) {
        grid->setColumnStretch(column, 1);
    }
    return page;
}

/// What edges there are, in words.
QString LevelPage::edgeWords() const
{
    if (!session_.loadedLevel().ground) {
        return tr("Edges are found in a level's geometry: there is none yet.");
    }
    const auto edges = session_.floorEdges();
    if (!edges) {
        return tr("Being looked for…");
    }
    std::array<double, edgeKindCount> metres{};
    for (const FloorEdge& edge : edges->all()) {
        metres[static_cast<std::size_t>(edge.kind)] += edge.length_m();
    }
    const QString names[edgeKindCount] = {tr("drops"), tr("walls"), tr("kerbs"), tr("steps"), tr("water's edge")};
    QStringList words;
    for (std::size_t i = 0; i < edgeKindCount; ++i) {
        if (metres[i] > 0.0) {
            words << tr("%1 m of %2").arg(QLocale().toString(std::round(metres[i])), names[i]);
        }
    }
    return words.isEmpty() ? tr("Its floor has no edges.") : tr("Found: %1. Show them with Alt+Shift+9.").arg(words.join(", "));
}

QWidget* LevelPage::makePlaces()
{
    auto* page = new QWidget;
    auto* box = new QVBoxLayout(page);
    box->setContentsMargins(0, 0, 0, 0);
    box->addWidget(places_);
    connect(places_, &CellTable::typed, this, &LevelPage::placeTyped);
    const auto current = [this]() -> std::optional<std::size_t> {
        const int row = places_->currentRow();
        return row >= 0 && row < static_cast<int>(session_.level().places.size()) ? std::optional(static_cast<std::size_t>(row))
                                                                                  : std::nullopt;
    };
    box->addLayout(sideBySide(
        {button(
             "addPlace", tr("Save this place"), tr("Where the character is now"),
             [this] {
                 const Pose feet = playback_.feet();
                 edit(tr("another place"), {}, [&feet](Level& l) {
                     l.places.push_back({tr("Place %1").arg(l.places.size() + 1).toStdString(), feet.at, feet.heading_deg, {}});
                 });
             }),
         button("goToPlace", tr("Go there"), tr("The character goes to the place that is marked"),
                [this, current] {
                    if (const auto row = current()) {
                        const Place& place = session_.level().places[*row];
                        playback_.placeFeet({place.at, place.heading_deg, 0.0, 0.0});
                    }
                }),
         button("removePlace", tr("Remove"), tr("The place that is marked"), [this, current] {
             if (const auto row = current()) {
                 const QString gone = QString::fromStdString(session_.level().places[*row].name);
                 edit(tr("without the place %1").arg(gone), {},
                      [row](Level& l) { l.places.erase(l.places.begin() + static_cast<std::ptrdiff_t>(*row)); });
             }
         })}));
    return page;
}

void LevelPage::edit(const QString& what, const QString& gesture, const std::function<void(Level&)>& change)
{
    session_.edit(withLevel(session_.project(), session_.levelId(), change),
                  tr("Level %1: %2").arg(QString::fromStdString(session_.level().name), what), gesture);
}

void LevelPage::findStoreysInLevel()
{
    const Mesh* mesh = session_.loadedLevel().mesh();
    const std::vector<Storey> found = mesh != nullptr ? findStoreys(*mesh) : std::vector<Storey>{};
    if (found.empty()) {
        emit session_.failed(mesh == nullptr ? tr("There is no geometry to find storeys in: bring in a level first.")
                                             : tr("Nothing in this level's geometry can be stood on; type the storeys."));
        return;
    }
    edit(tr("%n storeys found in it", nullptr, static_cast<int>(found.size())), {}, [&found](Level& l) { l.storeys = found; });
}

void LevelPage::storeyTyped(int row, int column, const QString& text)
{
    const auto i = static_cast<std::size_t>(row);
    const std::optional<double> typed = CellTable::numberIn(text);
    if (i < session_.level().storeys.size()) {
        const QString called = QString::fromStdString(session_.level().storeys[i].name);
        if (column == 0 && !text.isEmpty()) {
            edit(tr("the storey %1 is called %2").arg(called, text), {},
                 [&](Level& l) { l.storeys[i].name = text.toStdString(); });
        } else if (column == 1 && typed) {
            edit(tr("floor of %1 at %2 m").arg(called).arg(*typed), {}, [&](Level& l) { l.storeys[i].floor_m = *typed; });
        } else if (column == 2 && typed) {
            edit(tr("%1 is cut at %2 m").arg(called).arg(*typed), {}, [&](Level& l) { l.storeys[i].cut_m = *typed; });
        }
    }
    refresh();
}

void LevelPage::placeTyped(int row, int column, const QString& text)
{
    const auto i = static_cast<std::size_t>(row);
    const std::optional<double> typed = CellTable::numberIn(text);
    if (i < session_.level().places.size()) {
        const QString called = QString::fromStdString(session_.level().places[i].name);
        if (column == 0 && !text.isEmpty()) {
            edit(tr("the place %1 is called %2").arg(called, text), {},
                 [&](Level& l) { l.places[i].name = text.toStdString(); });
        } else if (column == 4 && typed) {
            edit(tr("%1 faces %2°").arg(called).arg(*typed), {},
                 [&](Level& l) { l.places[i].heading_deg = wrapDegrees(*typed); });
        } else if (column > 0 && column < 4 && typed) {
            edit(tr("the place %1 moved").arg(called), {}, [&](Level& l) { l.places[i].at[column - 1] = *typed; });
        }
    }
    refresh();
}

void LevelPage::refresh()
{
    ThingForm::refresh();
    const Level& level = session_.level();
    const auto nameOf = [](const std::string& file) { return QFileInfo(QString::fromStdString(file)).fileName(); };
    const Mesh* mesh = session_.loadedLevel().mesh();
    if (const auto* file = std::get_if<GeometryFile>(&level.geometry)) {
        QString facts = nameOf(file->file);
        if (session_.loadingLevel()) {
            facts += tr(": being read…");
        } else if (mesh != nullptr) {
            const auto [low, high] = mesh->bounds();
            facts += tr(": %1 by %2, %3 high, %4 triangles")
                         .arg(theme::metres(high.x - low.x), theme::metres(high.y - low.y), theme::metres(high.z - low.z),
                              QLocale(QLocale::English).toString(static_cast<qulonglong>(mesh->triangles.size())));
        }
        facts_->setText(facts);
    } else if (const auto* picture = std::get_if<GeometryPicture>(&level.geometry)) {
        facts_->setText(tr("%1, a picture under the sheet").arg(nameOf(picture->file)));
    } else {
        facts_->setText(tr("An empty sheet: nothing but the grid."));
    }
    std::vector<QStringList> rows;
    for (const Storey& storey : level.storeys) {
        rows.push_back({QString::fromStdString(storey.name), CellTable::shortNumber(storey.floor_m),
                        CellTable::shortNumber(storey.cut_m)});
    }
    storeys_->showRows(rows);
    fitRows(storeys_, rows.size());
    rows.clear();
    for (const Place& place : level.places) {
        rows.push_back({QString::fromStdString(place.name), CellTable::shortNumber(place.at.x),
                        CellTable::shortNumber(place.at.y), CellTable::shortNumber(place.at.z),
                        QString::number(std::round(place.heading_deg))});
    }
    places_->showRows(rows);
    fitRows(places_, rows.size());
    project_->refresh();
}

} // namespace stone
