// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/ambience/zone_page.h"

#include "app/widgets/still_place.h"
#include "project/range.h"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QPushButton>

#include <cmath>

namespace stone
{

ZonePage::ZonePage(Session& session, Playback& playback, QWidget* parent)
    : ThingForm(session, parent), playback_(playback), shape_(new ShapeFields("zone")), side_(new QComboBox),
      fades_(new ZoneFades(session, playback)), share_(new QLabel), members_(new QLabel)
{
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(14, 12, 14, 8);
    box->setSpacing(7);
    auto* name = words("zoneName", tr("Name"), [](Zone& z) -> std::string& { return z.name; });
    name->setFont(theme::text(12, QFont::Bold));
    box->addWidget(name);
    auto* what =
        theme::caption(tr("Zone: a region that owns an ambience. Inside, what belongs to it sounds; what belongs to its parent "
                          "fades with the depth."));
    what->setWordWrap(true);
    box->addWidget(what);

    auto* grid = new QGridLayout;
    grid->setHorizontalSpacing(6);
    grid->setVerticalSpacing(3);
    static const char* axes[] = {"East", "North", "Height"};
    for (int axis = 0; axis < 3; ++axis) {
        const QString label = tr(axes[axis]);
        static const char* names[] = {"zoneEast", "zoneNorth", "zoneUp"};
        grid->addWidget(labelled(label, number({names[axis], "m", label.toLower() + " %1 m", {}}, {-1e6, 1e6, 2, 0.1},
                                               [axis](Zone& z) -> double& { return z.at[axis]; })),
                        0, axis);
    }
    grid->addWidget(labelled(tr("Turned"), number({"zoneHeading", QStringLiteral("°"), tr("turned to %1°"), {}},
                                                  {-360, 360, 0, 5}, [](Zone& z) -> double& { return z.heading_deg; })),
                    1, 0);
    auto* draw = new QPushButton(tr("Draw outline"));
    draw->setObjectName("drawZone");
    draw->setToolTip(tr("Click corner after corner on the Plan; Enter or a double click ends it"));
    connect(draw, &QPushButton::clicked, this, &ZonePage::drawWanted);
    grid->addWidget(draw, 1, 1, 1, 2, Qt::AlignBottom);
    for (int column = 0; column < 3; ++column) {
        grid->setColumnStretch(column, 1);
    }
    box->addLayout(grid);
    box->addWidget(shape_);
    connect(shape_, &ShapeFields::edited, this, [this](const Shape& shape, const QString& words, const QString& gesture) {
        edit(tr("shape %1").arg(words), gesture, [&](Zone& z) { z.shape = shape; });
    });
    connect(shape_, &ShapeFields::gestureEnded, this, [this] { session_.endGesture(); });
    connect(shape_, &ShapeFields::fitWanted, this, &ZonePage::fitWanted);

    auto* rules = new QGridLayout;
    box->addLayout(rules);
    rules->setHorizontalSpacing(6);
    rules->setVerticalSpacing(3);
    rules->addWidget(labelled(tr("Inside of"), reference(
                                                   "zoneParent", tr("Inside of"), tr("no other zone"),
                                                   [this] {
                                                       std::vector<std::pair<std::string, std::string>> others;
                                                       for (const auto& other : session_.level().zones) {
                                                           if (thing() == nullptr || other->id != thing()->id) {
                                                               others.emplace_back(other->id.text, other->name);
                                                           }
                                                       }
                                                       return others;
                                                   },
                                                   [](Zone& z) -> std::string& { return z.parent.text; })),
                     0, 0, 1, 2);
    auto* margin = new NumberField("m", rangeOf(&Zone::margin_m), 1, 0.5);
    margin->setObjectName("zoneMargin");
    margin->setAccessibleName(tr("Margin"));
    margin->setToolTip(tr("So far outside the border its bed begins to open up; at the border it surrounds"));
    connect(margin, &NumberField::valueEdited, this, &ZonePage::editMargin);
    connect(margin, &NumberField::editingFinished, this, [this] { session_.endGesture(); });
    side_->setObjectName("zoneSide");
    side_->setAccessibleName(tr("Side of the margin"));
    side_->setToolTip(tr("All sides alike, or one of them; the one that is chosen is marked on the Plan"));
    connect(side_, &QComboBox::activated, this, [this, margin] {
        margin->present(marginOf(*thing()));
        emit sideChosen(side_->currentIndex() - 1);
    });
    shows_.push_back([this, margin](const Zone& z) {
        offerSides(z);
        margin->present(marginOf(z));
    });
    rules->addWidget(labelled(tr("Margin"), margin), 1, 0);
    rules->addWidget(labelled(tr("Margin on"), side_), 1, 1);
    auto* depth = new NumberField("m", 0.1, 1000, 1, 0.5);
    depth->setObjectName("zoneFade");
    depth->setToolTip(tr("So deep in this zone its parent is silent; halfway there it is 18 dB down"));
    shows_.push_back([depth](const Zone& z) {
        const bool simple = z.fades.size() == 1 && !z.fades.front().curve.empty();
        depth->present(simple ? z.fades.front().curve.back().x : 5.0);
    });
    connect(depth, &NumberField::valueEdited, this, [this, depth](double value) {
        edit(tr("parent silent %1 m deep").arg(value), depth->objectName(), [&](Zone& z) { z.fades = {fadeOverDepth(value)}; });
    });
    connect(depth, &NumberField::editingFinished, this, [this] { session_.endGesture(); });
    rules->addWidget(labelled(tr("Parent silent from"), depth), 0, 2);
    auto* holds = flag("zoneHolds", tr("holds the parent's sprinkles"), tr("None of them start while one is in here"),
                       [](Zone& z) -> bool& { return z.holdsSprinkles; });
    rules->addWidget(holds, 2, 0, 1, 2, Qt::AlignBottom);
    auto* drawFades = new QPushButton(tr("Draw the fades"));
    drawFades->setObjectName("drawFades");
    drawFades->setCheckable(true);
    drawFades->setToolTip(tr("Any curve over the depth in here, for the level and the filters of what belongs to its parents"));
    connect(drawFades, &QPushButton::toggled, fades_, &QWidget::setVisible);
    rules->addWidget(drawFades, 1, 2, Qt::AlignBottom);
    fades_->hide();
    for (QWidget* widget : {static_cast<QWidget*>(depth), static_cast<QWidget*>(holds), static_cast<QWidget*>(drawFades)}) {
        allow(widget, [](const Zone& z) { return z.parent.empty() ? tr("it is inside of no other zone") : QString(); });
    }
    rules->addWidget(labelled(tr("Rides on"), choice(
                                                  "zoneRides", tr("Rides on"),
                                                  {tr("nothing"), tr("the character"), tr("a Roamer"),
                                                   tr("a part of the level"), tr("a thing of the game")},
                                                  [](const Zone& z) { return static_cast<int>(z.riding.on); },
                                                  [](Zone& z, int index) { z.riding.on = static_cast<Riding::On>(index); })),
                     3, 0);
    rules->addWidget(
        labelled(tr("Which"), reference(
                                  "zoneCarrier", tr("Which"), tr("choose one"),
                                  [this] { return carriers(thing() != nullptr ? thing()->riding.on : Riding::On::nothing); },
                                  [](Zone& z) -> std::string& {
                                      return z.riding.on == Riding::On::node ? z.riding.node : z.riding.roamer.text;
                                  })),
        3, 1, 1, 2);
    allow(findChild<QWidget*>("zoneCarrier"), [](const Zone& z) {
        return z.riding.on == Riding::On::roamer || z.riding.on == Riding::On::node ? QString()
                                                                                    : tr("there is nothing to choose");
    });
    auto* turns = flag("zoneTurns", tr("turns along"), tr("Turns as what carries it turns; otherwise it keeps to the compass"),
                       [](Zone& z) -> bool& { return z.riding.turnsAlong; });
    allow(turns, [](const Zone& z) { return z.riding.on == Riding::On::nothing ? tr("it rides on nothing") : QString(); });
    rules->addWidget(turns, 4, 0, 1, 3);
    auto* named = labelled(tr("Its name in the game"), words("zoneThing", tr("Its name in the game"),
                                                             [](Zone& z) -> std::string& { return z.riding.thing; }));
    named->setToolTip(
        tr("Under which a game that is listened along to tells where it is. Until it does, it stays where it is put"));
    rules->addWidget(named, 5, 0, 1, 3);
    showWhen(named, [](const Zone& z) { return z.riding.on == Riding::On::game; });
    for (int column = 0; column < 3; ++column) {
        rules->setColumnStretch(column, 1);
    }
    box->addWidget(fades_);

    const auto head = [&](const QString& text) { box->addWidget(theme::heading(text)); };
    head(tr("At the ears, now"));
    share_->setObjectName("zoneShare");
    share_->setWordWrap(true);
    box->addWidget(new StillPlace(share_));
    head(tr("Belongs to it"));
    members_->setObjectName("zoneMembers");
    members_->setWordWrap(true);
    box->addWidget(members_);
    connect(members_, &QLabel::linkActivated, this, [this](const QString& id) { session_.selectOnly({id.toStdString()}); });
    box->addStretch();
}

void ZonePage::offerSides(const Zone& zone)
{
    QStringList sides{tr("all sides")};
    const bool prism = std::holds_alternative<Prism>(zone.shape);
    if (std::holds_alternative<Box>(zone.shape)) {
        sides << tr("ahead") << tr("right") << tr("behind") << tr("left") << tr("floor") << tr("ceiling");
    } else if (prism) {
        const auto corners = static_cast<int>(std::get<Prism>(zone.shape).corners.size());
        for (int i = 1; i <= corners; ++i) {
            sides << tr("side %1").arg(i);
        }
        sides << tr("floor") << tr("ceiling");
    }
    if (side_->count() != sides.size() || shown_ != zone.id || side_->itemText(1) != sides.value(1)) {
        const QSignalBlocker quiet(side_);
        side_->clear();
        side_->addItems(sides);
        shown_ = zone.id;
    }
}

/// Of the side that is chosen.
double ZonePage::marginOf(const Zone& zone) const
{
    const auto side = static_cast<std::size_t>(std::max(side_->currentIndex(), 0));
    return side == 0 || side > zone.margins.size() ? zone.margin_m : zone.margins[side - 1];
}

void ZonePage::editMargin(double metres)
{
    const int side = side_->currentIndex() - 1;
    edit(side < 0 ? tr("margin %1 m").arg(metres) : tr("margin of %1, %2 m").arg(side_->currentText()).arg(metres),
         "zoneMargin", [&](Zone& z) {
             if (side < 0) {
                 z.margin_m = metres;
                 z.margins.clear();
                 return;
             }
             // What lies before it in the list keeps the margin that it has had until now.
             z.margins.resize(std::max(z.margins.size(), static_cast<std::size_t>(side) + 1), z.margin_m);
             z.margins[static_cast<std::size_t>(side)] = metres;
         });
}

void ZonePage::edit(const QString& what, const QString& gesture, const std::function<void(Zone&)>& change)
{
    session_.editThing<Zone>(what, gesture, change);
}

void ZonePage::refresh()
{
    ThingForm::refresh();
    const Zone* zone = thing();
    if (zone == nullptr) {
        return;
    }
    shape_->present(zone->shape, session_.solidNodes());
    fades_->refresh();
    refreshMembers();
    follow();
}

void ZonePage::refreshMembers()
{
    QStringList names;
    for (const auto& emitter : session_.level().emitters) {
        if (emitter->zone == thing()->id) {
            names << QString("<a style='color:%3' href='%1'>%2</a>")
                         .arg(QString::fromStdString(emitter->id.text).toHtmlEscaped(),
                              QString::fromStdString(emitter->name).toHtmlEscaped(), theme::verdigris.name());
        }
    }
    members_->setText(names.isEmpty() ? tr("Nothing yet. Choose this zone on the bench of a bed or a sprinkle.")
                                      : names.join(", "));
}

void ZonePage::follow()
{
    const World& world = playback_.hearing().world();
    const auto index = thing() != nullptr ? world.zones().indexOf(thing()->id) : std::nullopt;
    if (!index) {
        return;
    }
    ZonesAt zones;
    const Moment moment = playback_.moment();
    world.zonesAt(moment, zones);
    const double depth = zones.depth(*index);
    const LaneValues fades =
        world.zones().fadesOf(*index, zones, [&](const GameValueId& id) { return world.valueAt(moment, id); });
    QString words = depth > 0.0 ? tr("The character is %1 inside.").arg(theme::metres(depth)) : tr("The character is outside.");
    if (fades.level_db < 0.0) {
        words +=
            tr(" Other zones leave it %1.")
                .arg(std::isfinite(fades.level_db) && fades.level_db > -96.0 ? theme::signedNumber(fades.level_db, 1) + " dB"
                                                                             : tr("nothing"));
    } else if (depth > 0.0) {
        words += tr(" It has all of its level.");
    }
    share_->setText(words);
    fades_->refreshEars();
}

} // namespace stone
