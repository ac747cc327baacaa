// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/ambience/plant_page.h"

#include "app/forms/names_of.h"
#include "geometry/solid.h"
#include "project/plant_json.h"
#include "world/planting.h"

#include <QHBoxLayout>

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

QGridLayout* gridIn(QWidget* part)
{
    auto* grid = new QGridLayout(part);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(6);
    grid->setVerticalSpacing(3);
    for (int column = 0; column < 3; ++column) {
        grid->setColumnStretch(column, 1);
    }
    return grid;
}

/// A field round a line that has no width: something can be strewn in it.
Prism roundLine(const Ribbon& line)
{
    constexpr double about_m = 4.0;
    const auto [low, high] = Solid(line, {}).box();
    Prism field{{{low.x - about_m, low.y - about_m},
                 {high.x + about_m, low.y - about_m},
                 {high.x + about_m, high.y + about_m},
                 {low.x - about_m, high.y + about_m}},
                3.0};
    for (Vec2& corner : field.corners) {
        corner = {std::round(corner.x * 10.0) / 10.0, std::round(corner.y * 10.0) / 10.0};
    }
    return field;
}

} // namespace

PlantPage::PlantPage(Session& session, Playback& playback, QWidget* parent)
    : ThingForm(session, parent), playback_(playback), shape_(new ShapeFields("plant")), count_(new QLabel)
{
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(14, 12, 14, 8);
    box->setSpacing(7);
    auto* name = words("plantName", tr("Name"), [](Plant& p) -> std::string& { return p.name; });
    name->setFont(theme::text(12, QFont::Bold));
    box->addWidget(name);
    box->addWidget(
        theme::explained(tr("Plant rule: puts copies of a pattern by the level's geometry. It stays a rule: they follow when "
                            "it, the pattern or the level changes.")));
    auto* copies = reference(
        "plantPattern", tr("Copies of"), tr("no pattern yet"), [this] { return namesOf(session_.project().patterns); },
        [](Plant& p) -> std::string& { return p.pattern.text; });
    copies->setToolTip(tr("Patterns are made of emitters, on their bench. Points, Areas and Sprinkles can be planted"));
    auto* where = choice(
        "plantWhere", tr("Where"),
        {tr("along a drawn line"), tr("along edges of the floor"), tr("at corners of edges"), tr("strewn in a shape"),
         tr("strewn over a surface"), tr("at named nodes"), tr("in openings"), tr("along a Roamer's way")},
        [](const Plant& p) { return static_cast<int>(p.where); },
        [](Plant& p, int index) {
            p.where = static_cast<Plant::Where>(index);
            if (p.where == Plant::Where::line && !std::holds_alternative<Ribbon>(p.shape)) {
                p.shape = asKind(p.shape, Shape(Ribbon{}).index());
            }
            if (p.where == Plant::Where::shape && std::holds_alternative<Ribbon>(p.shape)) {
                p.shape = roundLine(std::get<Ribbon>(p.shape));
            }
            if (strews(p.where) && p.apart_m <= 0.0) {
                p.apart_m = Plant::usualApart_m;
            }
        });
    auto* top = new QWidget;
    auto* topGrid = gridIn(top);
    topGrid->addWidget(labelled(tr("Copies of"), copies), 0, 0);
    topGrid->addWidget(labelled(tr("Where"), where), 0, 1, 1, 2);
    box->addWidget(top);

    count_->setObjectName("plantCount");
    count_->setWordWrap(true);
    count_->setFont(theme::text(10, QFont::Bold));
    auto* on = flag("plantOn", tr("planted"), tr("Off, its places are only shown on the Plan, as rings"),
                    [](Plant& p) -> bool& { return p.on; });
    auto* counted = new QHBoxLayout;
    counted->addWidget(count_, 1);
    counted->addWidget(on);
    box->addLayout(counted);

    box->addWidget(whereFields());
    box->addWidget(shape_);
    showWhen(shape_, [](const Plant& p) { return p.where == Plant::Where::shape; });
    connect(shape_, &ShapeFields::edited, this, [this](const Shape& shape, const QString& words, const QString& gesture) {
        edit(tr("shape %1").arg(words), gesture, [&](Plant& p) { p.shape = shape; });
    });
    connect(shape_, &ShapeFields::gestureEnded, this, [this] { session_.endGesture(); });
    connect(shape_, &ShapeFields::fitWanted, this, &PlantPage::fitWanted);
    box->addWidget(theme::heading(tr("How each stands")));
    box->addWidget(standingFields());
    box->addWidget(theme::heading(tr("Only where")));
    box->addWidget(conditionFields());
    copyBox_ = copyFields();
    box->addWidget(copyBox_);
    putBack_ = button("plantPutBack", {}, tr("What was left out or let loose is planted again"), [this] {
        edit(tr("all planted again"), {}, [](Plant& p) {
            for (OddCopy& one : p.exceptions) {
                one.leftOut = false;
            }
            std::erase_if(p.exceptions, [](const OddCopy& one) { return !one.level_db && one.extras.empty(); });
        });
    });
    forget_ = button("plantForget", {}, tr("What was said of copies that are nowhere any more is forgotten"), [this] {
        const std::vector<std::string>& gone = planted()->unmatched;
        const std::set<std::string> keys(gone.begin(), gone.end());
        edit(tr("exceptions of nobody forgotten"), {},
             [&](Plant& p) { std::erase_if(p.exceptions, [&](const OddCopy& one) { return keys.contains(one.copy); }); });
    });
    allLoose_ =
        button("plantAllLoose", tr("Let all loose"),
               tr("They become emitters like those that were placed by hand, and the rule leaves their places out"), [this] {
                   std::vector<std::size_t> all(planted()->copies.size());
                   for (std::size_t i = 0; i < all.size(); ++i) {
                       all[i] = i;
                   }
                   letLoose(all);
               });
    auto* last = new QHBoxLayout;
    for (QPushButton* one : {putBack_, forget_, allLoose_}) {
        last->addWidget(one);
    }
    last->addStretch();
    box->addLayout(last);
    box->addStretch();
    connect(&playback_, &Playback::sceneChanged, this, &PlantPage::follow);
}

void PlantPage::showFor(QWidget* widget, std::initializer_list<Plant::Where> wheres)
{
    showWhen(widget,
             [all = std::vector(wheres)](const Plant& p) { return std::find(all.begin(), all.end(), p.where) != all.end(); });
}

/// What each kind of place asks for.
QWidget* PlantPage::whereFields()
{
    using Where = Plant::Where;
    auto* part = new QWidget;
    auto* grid = gridIn(part);
    static const char* axes[] = {"East", "North", "Height"};
    for (int axis = 0; axis < 3; ++axis) {
        static const char* names[] = {"plantEast", "plantNorth", "plantUp"};
        const QString label = tr(axes[axis]);
        auto* field = labelled(label, number({names[axis], "m", label.toLower() + " %1 m", {}}, {-1e6, 1e6, 2, 0.1},
                                             [axis](Plant& p) -> double& { return p.at[axis]; }));
        grid->addWidget(field, 0, axis);
        showFor(field, {Where::line, Where::shape});
    }
    auto* turned = labelled(tr("Turned"), number({"plantHeading", QStringLiteral("°"), tr("turned to %1°"), {}},
                                                 {-360, 360, 0, 5}, [](Plant& p) -> double& { return p.heading_deg; }));
    grid->addWidget(turned, 1, 0);
    showFor(turned, {Where::line, Where::shape});
    auto* draw = button("plantDraw", tr("Draw it"), tr("Click point after point on the Plan; Enter or a double click ends it"),
                        [this] { emit drawWanted(); });
    grid->addWidget(draw, 1, 1, Qt::AlignBottom);
    showFor(draw, {Where::line, Where::shape});
    auto* closed = new QCheckBox(tr("closed"));
    closed->setObjectName("plantClosed");
    closed->setToolTip(tr("The line goes back to where it began"));
    shows_.push_back([closed](const Plant& p) {
        const auto* ribbon = std::get_if<Ribbon>(&p.shape);
        closed->setChecked(ribbon != nullptr && ribbon->closed);
        closed->setVisible(p.where == Where::line);
    });
    connect(closed, &QCheckBox::clicked, this, [this](bool wanted) {
        edit(wanted ? tr("closed") : tr("open"), {}, [&](Plant& p) {
            if (auto* ribbon = std::get_if<Ribbon>(&p.shape)) {
                ribbon->closed = wanted;
            }
        });
    });
    grid->addWidget(closed, 1, 2, Qt::AlignBottom);

    auto* kinds = new QWidget;
    auto* row = new QHBoxLayout(kinds);
    row->setContentsMargins(0, 0, 0, 0);
    static const char* boxes[edgeKindCount] = {"plantDrops", "plantWalls", "plantKerbs", "plantSteps", "plantWater"};
    const QString labels[edgeKindCount] = {tr("drops"), tr("walls"), tr("kerbs"), tr("steps"), tr("water")};
    for (std::size_t kind = 0; kind < edgeKindCount; ++kind) {
        row->addWidget(flag(boxes[kind], labels[kind], tr("Edges of this kind; what counts as one is set on the level's page"),
                            [kind](Plant& p) -> bool& { return p.edges[kind]; }));
    }
    row->addStretch();
    grid->addWidget(kinds, 2, 0, 1, 3);
    showFor(kinds, {Where::edges, Where::corners});
    auto* every =
        labelled(tr("One every"),
                 number({"plantEvery", "m", tr("one every %1 m"), tr("What is left over is left in equal parts at both ends")},
                        NumberSteps{2, 0.5}.over(rangeOf(&Plant::every_m)), [](Plant& p) -> double& { return p.every_m; }));
    grid->addWidget(every, 3, 0);
    showFor(every, {Where::line, Where::edges, Where::route});
    auto* bend = labelled(tr("Bends from"), number({"plantBend", QStringLiteral("°"), tr("bends from %1° on"),
                                                    tr("Where an edge turns by less there is no corner")},
                                                   NumberSteps{0, 5}.over(rangeOf(&Plant::bend_deg)),
                                                   [](Plant& p) -> double& { return p.bend_deg; }));
    grid->addWidget(bend, 3, 0);
    showFor(bend, {Where::corners});
    auto* surface = labelled(tr("Floor of"), reference(
                                                 "plantSurface", tr("Floor of"), tr("any surface"),
                                                 [this] {
                                                     std::vector<std::pair<std::string, std::string>> known;
                                                     if (const Mesh* mesh = session_.loadedLevel().mesh()) {
                                                         for (const std::string& material : mesh->materials) {
                                                             known.emplace_back(material, material);
                                                         }
                                                     }
                                                     return known;
                                                 },
                                                 [](Plant& p) -> std::string& { return p.surface; }));
    grid->addWidget(surface, 3, 1, 1, 2);
    showFor(surface, {Where::edges, Where::corners, Where::shape, Where::surface});
    auto* names = words("plantNames", tr("Names"), [](Plant& p) -> std::string& { return p.names; });
    names->setToolTip(tr("* stands for any letters, ? for one: lamp_* is every node whose name begins so"));
    auto* named = labelled(tr("Whose name is"), names);
    grid->addWidget(named, 3, 0, 1, 3);
    showFor(named, {Where::nodes, Where::openings});
    auto* roamer = labelled(tr("Roamer"),
                            reference(
                                "plantRoamer", tr("Roamer"), tr("choose one"), [this] { return carriers(Riding::On::roamer); },
                                [](Plant& p) -> std::string& { return p.roamer.text; }));
    grid->addWidget(roamer, 3, 1, 1, 2);
    showFor(roamer, {Where::route});
    return part;
}

QWidget* PlantPage::standingFields()
{
    auto* part = new QWidget;
    auto* grid = gridIn(part);
    static const char* names[] = {"plantAside", "plantAhead", "plantAbove"};
    const QString labels[] = {tr("Aside"), tr("Ahead"), tr("Above")};
    const QString helps[] = {tr("To the right of the way along; of an edge that is beyond it"), tr("Along the way"),
                             tr("Over the line, the edge or the floor")};
    for (int axis = 0; axis < 3; ++axis) {
        grid->addWidget(
            labelled(labels[axis], number({names[axis], "m", labels[axis].toLower() + " %1 m", helps[axis]},
                                          {-1000, 1000, 2, 0.1}, [axis](Plant& p) -> double& { return p.offset[axis]; })),
            0, axis);
    }
    grid->addWidget(labelled(tr("Faces"), number({"plantTurn", QStringLiteral("°"), tr("faces %1°"),
                                                  tr("Clockwise from the way along, or from north")},
                                                 {-360, 360, 0, 15}, [](Plant& p) -> double& { return p.turn_deg; })),
                    1, 0);
    grid->addWidget(flag("plantTurns", tr("from the way along"), tr("Each turns with the line or the edge that it stands on"),
                         [](Plant& p) -> bool& { return p.turns; }),
                    2, 0, 1, 2, Qt::AlignBottom);
    grid->addWidget(labelled(tr("Tilted"), number({"plantTilt", QStringLiteral("°"), tr("tilted by %1°"),
                                                   tr("Of its front, positive upwards; it counts where its falloff has sides")},
                                                  NumberSteps{0, 15}.over(rangeOf(&Plant::tilt_deg)),
                                                  [](Plant& p) -> double& { return p.tilt_deg; })),
                    1, 1);
    auto* floor = flag("plantOnFloor", tr("on the floor"), tr("Stands on the floor that is below it"),
                       [](Plant& p) -> bool& { return p.onFloor; });
    grid->addWidget(floor, 2, 2, Qt::AlignBottom);
    allow(floor, [](const Plant& p) {
        return p.where == Plant::Where::surface ? tr("what is strewn over a surface stands on it") : QString();
    });
    return part;
}

QWidget* PlantPage::conditionFields()
{
    auto* part = new QWidget;
    auto* grid = gridIn(part);
    // Where something is strewn the least distance is how many there are.
    auto* apart = new NumberField("m", 0.0, rangeOf(&Plant::apart_m).most, 2, 0.5);
    apart->setObjectName("plantApart");
    apart->setToolTip(tr("No two are nearer to each other than this; of what is strewn it says how many there are"));
    shows_.push_back([apart](const Plant& p) { apart->present(p.apart_m); });
    connect(apart, &NumberField::valueEdited, this, [this, apart](double value) {
        edit(tr("%1 m apart").arg(value), apart->objectName(), [&](Plant& p) {
            constexpr double leastStrewn_m = 0.05;
            p.apart_m = strews(p.where) ? std::max(value, leastStrewn_m) : value;
        });
    });
    connect(apart, &NumberField::editingFinished, this, [this] { session_.endGesture(); });
    grid->addWidget(labelled(tr("Apart by"), apart), 0, 0);
    grid->addWidget(labelled(tr("Chance"), number({"plantChance", "%", tr("chance %1 %"),
                                                   tr("Of each place to get one, drawn by the project's seed and the place")},
                                                  NumberSteps{0, 5, 100.0}.over(rangeOf(&Plant::chance)),
                                                  [](Plant& p) -> double& { return p.chance; })),
                    0, 1);
    grid->addWidget(labelled(tr("Inside"),
                             reference(
                                 "plantZone", tr("Inside"), tr("anywhere"), [this] { return namesOf(session_.level().zones); },
                                 [](Plant& p) -> std::string& { return p.zone.text; })),
                    0, 2);
    const auto lowest = [](Plant& p) -> double& { return p.lowest_m; };
    const auto highest = [](Plant& p) -> double& { return p.highest_m; };
    grid->addWidget(labelled(tr("From height"), number({"plantLowest", "m", tr("from %1 m up"), tr("Lower there is none")},
                                                       NumberSteps{1, 0.5}.over(rangeOf(&Plant::lowest_m)), lowest,
                                                       Partner<Plant>{highest, true})),
                    1, 0);
    grid->addWidget(labelled(tr("to height"), number({"plantHighest", "m", tr("up to %1 m"), tr("Higher there is none")},
                                                     NumberSteps{1, 0.5}.over(rangeOf(&Plant::highest_m)), highest,
                                                     Partner<Plant>{lowest, false})),
                    1, 1);
    return part;
}

/// What can be otherwise of the copy that was clicked.
QWidget* PlantPage::copyFields()
{
    auto* part = new QWidget;
    auto* box = new QVBoxLayout(part);
    box->setContentsMargins(0, 0, 0, 0);
    copyWords_ = theme::heading({});
    copyWords_->setObjectName("plantCopy");
    copyWords_->setWordWrap(true);
    box->addWidget(copyWords_);
    ownLevel_ = new QCheckBox(tr("a level of its own"));
    ownLevel_->setObjectName("plantOwnLevel");
    level_ = new NumberField("dB", -96.0, 24.0, 1, 0.5);
    level_->setObjectName("plantLevel");
    level_->setAccessibleName(tr("Level of this copy"));
    connect(ownLevel_, &QCheckBox::clicked, this, [this](bool own) {
        const auto copy = copyInHand();
        const double now_db = copy ? planted()->copies[*copy]->level_db : 0.0;
        editCopy(own ? tr("a level of its own") : tr("the pattern's level"), {},
                 [&](Project project, const LevelId& level, const PlantId& plant, const PlantSpot& place) {
                     return withCopyLevel(std::move(project), level, plant, place, own ? std::optional(now_db) : std::nullopt);
                 });
    });
    connect(level_, &NumberField::valueEdited, this, [this](double value) {
        editCopy(tr("level %1 dB").arg(value), level_->objectName(),
                 [&](Project project, const LevelId& level, const PlantId& plant, const PlantSpot& place) {
                     return withCopyLevel(std::move(project), level, plant, place, value);
                 });
    });
    connect(level_, &NumberField::editingFinished, this, [this] { session_.endGesture(); });
    auto* row = new QHBoxLayout;
    row->addWidget(ownLevel_);
    row->addWidget(level_, 1);
    box->addLayout(row);
    row = new QHBoxLayout;
    row->addWidget(button("plantLeaveOut", tr("Leave out"), tr("There is none at its place, until it is put back"), [this] {
        editCopy(tr("one left out"), {},
                 [](Project project, const LevelId& level, const PlantId& plant, const PlantSpot& place) {
                     return withCopyLeftOut(std::move(project), level, plant, place, true);
                 });
    }));
    row->addWidget(button("plantLetLoose", tr("Let loose"),
                          tr("It becomes an emitter like those that were placed by hand, and the rule leaves its place out"),
                          [this] {
                              if (const auto copy = copyInHand()) {
                                  letLoose({*copy});
                              }
                          }));
    row->addStretch();
    box->addLayout(row);
    return part;
}

const PlantedRule* PlantPage::planted() const
{
    const auto& rules = playback_.hearing().world().planted().rules;
    const auto found = std::find_if(rules.begin(), rules.end(), [this](const PlantedRule& rule) {
        return thing() != nullptr && rule.plant->id == thing()->id;
    });
    return found != rules.end() ? &*found : nullptr;
}

std::optional<std::size_t> PlantPage::copyInHand() const
{
    const PlantedRule* rule = planted();
    for (std::size_t i = 0; rule != nullptr && i < rule->copies.size(); ++i) {
        if (rule->copies[i]->id == session_.copyInHand()) {
            return i;
        }
    }
    return {};
}

void PlantPage::edit(const QString& what, const QString& gesture, const std::function<void(Plant&)>& change)
{
    session_.editThing<Plant>(what, gesture, change);
}

void PlantPage::editCopy(const QString& what, const QString& gesture,
                         const std::function<Project(Project, const LevelId&, const PlantId&, const PlantSpot&)>& change)
{
    const auto copy = copyInHand();
    if (!copy) {
        return;
    }
    const PlantedRule& rule = *planted();
    session_.edit(change(session_.project(), session_.levelId(), rule.plant->id, rule.places[*copy]),
                  tr("%1: %2").arg(QString::fromStdString(rule.copies[*copy]->name), what), gesture);
}

void PlantPage::letLoose(const std::vector<std::size_t>& copies)
{
    const Planted& all = playback_.hearing().world().planted();
    const auto rule = static_cast<std::size_t>(planted() - all.rules.data());
    std::set<EmitterId> ids;
    for (const std::size_t copy : copies) {
        ids.insert(all.rules[rule].copies[copy]->id);
    }
    const QString name = copies.size() == 1
                             ? tr("Let %1 loose").arg(QString::fromStdString(all.rules[rule].copies[copies.front()]->name))
                             : tr("Let %n of %1 loose", nullptr, static_cast<int>(copies.size()))
                                   .arg(QString::fromStdString(all.rules[rule].plant->name));
    session_.edit(withCopiesLoose(session_.project(), all, rule, copies), name);
    if (!ids.empty()) {
        session_.select(ids, *ids.begin());
    }
}

void PlantPage::refresh()
{
    ThingForm::refresh();
    if (const Plant* plant = thing()) {
        shape_->present(plant->shape, session_.solidNodes());
        follow();
    }
}

void PlantPage::follow()
{
    const PlantedRule* rule = planted();
    if (thing() == nullptr || rule == nullptr) {
        return;
    }
    const int places = static_cast<int>(rule->spots->spots.size());
    QString words;
    switch (rule->trouble) {
    case PlantTrouble::none:
        words = rule->copies.empty() ? tr("Plants none: no place is as it asks for.")
                                     : tr("%n are planted.", nullptr, static_cast<int>(rule->copies.size()));
        break;
    case PlantTrouble::off:
        words = rule->spots->trouble == PlantTrouble::none
                    ? tr("Would plant %n.", nullptr, places)
                    : tr("Would plant none: %1.").arg(QString::fromStdString(wordsOf(rule->spots->trouble)));
        break;
    case PlantTrouble::tooMany:
        words = tr("%n are planted; %1.", nullptr, static_cast<int>(rule->copies.size()))
                    .arg(QString::fromStdString(wordsOf(rule->trouble)));
        break;
    default: words = tr("Plants none: %1.").arg(QString::fromStdString(wordsOf(rule->trouble)));
    }
    if (count_->text() != words) {
        count_->setText(words);
    }
    putBack_->setVisible(rule->leftOut > 0);
    putBack_->setText(tr("Put %n back", nullptr, static_cast<int>(rule->leftOut)));
    forget_->setVisible(!rule->unmatched.empty());
    forget_->setText(tr("Forget %n of nobody", nullptr, static_cast<int>(rule->unmatched.size())));
    allLoose_->setVisible(!rule->copies.empty());
    showCopy();
}

void PlantPage::showCopy()
{
    const auto copy = copyInHand();
    copyBox_->setVisible(copy.has_value());
    if (!copy) {
        return;
    }
    const PlantedRule& rule = *planted();
    const Emitter& one = *rule.copies[*copy];
    const auto index = rule.first + *copy;
    const auto& heard = playback_.heard();
    const QString name = QString::fromStdString(one.name);
    copyWords_->setText(index < heard.size() && heard[index].audible ? tr("%1: %2 dB at the ears, %3 away")
                                                                           .arg(name, theme::decibels(heard[index].level_db),
                                                                                theme::metres(heard[index].bearing.distance_m))
                                                                     : tr("%1: not heard here").arg(name));
    const bool own = one.own.test(static_cast<std::size_t>(Setting::level));
    ownLevel_->setChecked(own);
    level_->setEnabled(own);
    level_->setToolTip(own ? tr("Instead of the pattern's") : tr("No effect: it has the pattern's level"));
    level_->present(one.level_db);
}

} // namespace stone
