// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/ambience/sprinkle_form.h"

#include "project/ambience_points.h"
#include "world/sprinkling.h"

namespace stone
{

namespace
{

using Where = Sprinkling::Where;

} // namespace

SprinkleForm::SprinkleForm(Session& session, Playback& playback)
    : EmitterForm(session, playback), expected_(theme::caption({})), measured_(new QLabel)
{
    /// The other end of a pair of the sprinkle's numbers.
    const auto with = [](double Sprinkling::*other, bool above) {
        return Partner<Emitter>{[other](Emitter& e) -> double& { return e.sprinkling.*other; }, above};
    };
    const auto seconds = [this](const QString& label, const char* name, double Sprinkling::*member, const QString& what,
                                const QString& help, const std::optional<Partner<Emitter>>& partner = {}) {
        return part(label, &Emitter::sprinkling, member, {name, "s", what, help}, {1, 0.5}, partner);
    };
    const auto metres = [this](const QString& label, const char* name, double Sprinkling::*member, const QString& what,
                               const Partner<Emitter>& partner) {
        return part(label, &Emitter::sprinkling, member, {name, "m", what, {}}, {1, 1}, partner);
    };
    const auto angle = [this](const QString& label, const char* name, double Sprinkling::*member, const QString& help,
                              const Partner<Emitter>& partner) {
        return part(label, &Emitter::sprinkling, member, {name, QStringLiteral("°"), label.toLower() + " %1°", help}, {0, 5},
                    partner);
    };
    std::vector<std::pair<QString, QString>> points;
    for (const SprinklePoint& point : sprinklePoints()) {
        points.emplace_back(tr(point.name), tr(point.words));
    }
    box_->addWidget(startingPoints("sprinklePoints", points, [](Emitter& e, std::size_t index) {
        const SoundId answer = e.sprinkling.answer;
        e.sprinkling = sprinklePoints()[index].values;
        e.sprinkling.answer = answer;
    }));
    head(tr("When"));
    row({seconds(tr("Between starts, least"), "sprinkleLeast", &Sprinkling::least_s, tr("least time %1 s"),
                 tr("Shortest time from one start to the next"), with(&Sprinkling::most_s, true)),
         seconds(tr("most"), "sprinkleMost", &Sprinkling::most_s, tr("most time %1 s"),
                 tr("Longest time; of a natural rate the mean lies halfway, and no time is the longest"),
                 with(&Sprinkling::least_s, false)),
         part(tr("Stays silent"), &Emitter::sprinkling, &Sprinkling::skipChance,
              {"sprinkleSkip", "%", tr("skips %1 %"), tr("So many of the starts are left out by chance")}, {0, 5, 100})});
    row({flag("sprinkleNatural", tr("natural rate"),
              tr("As drops fall: mostly short times, now and then a long one. Otherwise evenly between least and most"),
              [](Emitter& e) -> bool& { return e.sprinkling.naturalRate; }),
         flag("sprinkleTail", tr("waits for the tail"), tr("The time counts from the end of one to the start of the next"),
              [](Emitter& e) -> bool& { return e.sprinkling.waitsForTail; })});
    box_->addWidget(
        theme::explained(tr("Natural: mostly short times, now and then a long one, as drops fall. Tail: the time counts from "
                            "the end of one sound to the start of the next.")));
    const auto count = [this](const char* name, const QString& what, const QString& help, int least, int most,
                              int Sprinkling::*member) {
        auto* field = new NumberField({}, least, most, 0, 1);
        field->setObjectName(name);
        field->setToolTip(help);
        shows_.push_back([field, member](const Emitter& e) { field->present(e.sprinkling.*member); });
        connect(field, &NumberField::valueEdited, this, [this, field, what, member](double value) {
            edit(what.arg(value), field->objectName(), [&](Emitter& e) { e.sprinkling.*member = static_cast<int>(value); });
        });
        connect(field, &NumberField::editingFinished, this, [this] { session_.endGesture(); });
        return field;
    };
    row({labelled(tr("At once"), count("sprinkleAtOnce", tr("%1 at once"), tr("No more than so many sound together"), 1, 32,
                                       &Sprinkling::atOnce)),
         labelled(tr("In all (0: no end)"),
                  count("sprinkleInAll", tr("%1 in all"), tr("No more than so many starts; 0: no end"), 0, 1'000'000,
                        &Sprinkling::inAll)),
         labelled(tr("Zone"), zone("sprinkleZone", tr("anywhere")))});

    head(tr("Where"));
    auto* evenly = flag("sprinkleEvenly", tr("all sides in turn"), tr("Directions take turns instead of clustering by chance"),
                        [](Emitter& e) -> bool& { return e.sprinkling.evenly; });
    row({labelled(tr("They fall"), choice(
                                       "sprinkleWhere", tr("Where"),
                                       {tr("in a ring round the player"), tr("in a box round the player"), tr("inside a shape"),
                                        tr("inside its zone")},
                                       [](const Emitter& e) { return static_cast<int>(e.sprinkling.where); },
                                       [](Emitter& e, int index) { e.sprinkling.where = static_cast<Where>(index); }))});
    auto* ring = new QWidget;
    auto* ringGrid = new QGridLayout(ring);
    ringGrid->setContentsMargins(0, 0, 0, 0);
    ringGrid->setHorizontalSpacing(6);
    ringGrid->setVerticalSpacing(2);
    ringGrid->addWidget(metres(tr("Nearest"), "sprinkleNearest", &Sprinkling::nearest_m, tr("nearest %1 m"),
                               with(&Sprinkling::farthest_m, true)),
                        0, 0);
    ringGrid->addWidget(metres(tr("Farthest"), "sprinkleFarthest", &Sprinkling::farthest_m, tr("farthest %1 m"),
                               with(&Sprinkling::nearest_m, false)),
                        1, 0);
    ringGrid->addWidget(angle(tr("From angle"), "sprinkleFrom", &Sprinkling::fromAngle_deg, tr("0 ahead, 90 right, −90 left"),
                              with(&Sprinkling::toAngle_deg, true)),
                        0, 1);
    ringGrid->addWidget(angle(tr("To angle"), "sprinkleTo", &Sprinkling::toAngle_deg, tr("0 ahead, 90 right, −90 left"),
                              with(&Sprinkling::fromAngle_deg, false)),
                        1, 1);
    ringGrid->addWidget(angle(tr("Lowest"), "sprinkleLowest", &Sprinkling::lowest_deg, tr("0 level with the ears"),
                              with(&Sprinkling::highest_deg, true)),
                        0, 2);
    ringGrid->addWidget(angle(tr("Highest"), "sprinkleHighest", &Sprinkling::highest_deg, tr("90 straight above"),
                              with(&Sprinkling::lowest_deg, false)),
                        1, 2);
    box_->addWidget(ring);
    showWhen(ring, [](const Emitter& e) { return e.sprinkling.where == Where::ring; });

    auto* cuboid = new QWidget;
    auto* grid = new QGridLayout(cuboid);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(6);
    grid->setVerticalSpacing(2);
    static const char* names[2][3] = {{"sprinkleLowAside", "sprinkleLowAhead", "sprinkleLowUp"},
                                      {"sprinkleHighAside", "sprinkleHighAhead", "sprinkleHighUp"}};
    const QString labels[2][3] = {{tr("Aside, least"), tr("Ahead, least"), tr("Up, least")},
                                  {tr("most"), tr("most"), tr("most")}};
    const auto corner = [](int which, int axis) -> std::function<double&(Emitter&)> {
        return
            [which, axis](Emitter& e) -> double& { return which == 0 ? e.sprinkling.low_m[axis] : e.sprinkling.high_m[axis]; };
    };
    for (int which = 0; which < 2; ++which) {
        for (int axis = 0; axis < 3; ++axis) {
            grid->addWidget(
                labelled(labels[which][axis],
                         number({names[which][axis], "m", tr("box %1 m"), tr("From the player's feet, as the player faces")},
                                {-1e4, 1e4, 1, 1}, corner(which, axis), Partner<Emitter>{corner(1 - which, axis), which == 0})),
                which, axis);
        }
    }
    box_->addWidget(cuboid);
    showWhen(cuboid, [](const Emitter& e) { return e.sprinkling.where == Where::box; });
    ShapeFields* own = shape("sprinkle", [](Emitter& e) -> Shape& { return e.sprinkling.shape; });
    box_->addWidget(own);
    showWhen(own, [](const Emitter& e) { return e.sprinkling.where == Where::shape; });
    row({stacked({flag("sprinkleFollows", tr("goes along with you"),
                       tr("What has started goes along with the player; otherwise it stays where it fell"),
                       [](Emitter& e) -> bool& { return e.sprinkling.follows; }),
                  flag("sprinkleSolids", tr("never in walls"), tr("Not inside solid geometry, nor under the ground"),
                       [](Emitter& e) -> bool& { return e.sprinkling.outsideSolids; })}),
         stacked({flag("sprinkleInside", tr("inside its zone"), tr("Never beyond the zone that it belongs to"),
                       [](Emitter& e) -> bool& { return e.sprinkling.insideZone; }),
                  evenly})});
    allow(findChild<QWidget*>("sprinkleInside"),
          [](const Emitter& e) { return e.zone.empty() ? tr("it belongs to no zone") : QString(); });

    head(tr("Answer"));
    row({labelled(tr("Sound"), sound("sprinkleAnswer", tr("Answer"), tr("none"),
                                     [](Emitter& e) -> std::string& { return e.sprinkling.answer.text; })),
         seconds(tr("After, least"), "sprinkleAnswerLeast", &Sprinkling::answerLeast_s, tr("answers after %1 s at least"),
                 tr("From the start of the call"), with(&Sprinkling::answerMost_s, true)),
         seconds(tr("most"), "sprinkleAnswerMost", &Sprinkling::answerMost_s, tr("answers after %1 s at most"), {},
                 with(&Sprinkling::answerLeast_s, false))});
    row({part(tr("It answers"), &Emitter::sprinkling, &Sprinkling::answerChance,
              {"sprinkleAnswerChance", "%", tr("answers %1 %"), tr("So many of the calls are answered")}, {0, 5, 100})});
    for (const char* name : {"sprinkleAnswerLeast", "sprinkleAnswerMost", "sprinkleAnswerChance"}) {
        allow(findChild<QWidget*>(name),
              [](const Emitter& e) { return e.sprinkling.answer.empty() ? tr("nothing answers") : QString(); });
    }
    head(tr("What falls"));
    expected_->setWordWrap(true);
    measured_->setWordWrap(true);
    measured_->setObjectName("sprinkleMeasured");
    measured_->setFont(theme::text(8.5));
    box_->addWidget(expected_);
    box_->addWidget(measured_);
}

void SprinkleForm::refresh()
{
    EmitterForm::refresh();
    const Emitter* emitter = thing();
    if (emitter == nullptr) {
        return;
    }
    const Sprinkling& s = emitter->sprinkling;
    const double perMinute = 60.0 / meanInterval_s(s) * (1.0 - s.skipChance);
    QString words = s.waitsForTail ? tr("Expected: up to %1 a minute, less by the length of each.").arg(perMinute, 0, 'f', 1)
                                   : tr("Expected: %1 a minute.").arg(perMinute, 0, 'f', 1);
    if (const Sound* sound = session_.project().sounds.find(emitter->sound)) {
        words += sound->files.size() < 2 ? tr(" One file: the same each time.")
                                         : tr(" %1 files, never the same twice running.").arg(sound->files.size());
    }
    expected_->setText(words);
    follow();
}

void SprinkleForm::follow()
{
    const int index = session_.subjectIndex();
    const WorldState* world = playback_.world();
    if (index < 0 || world == nullptr) {
        measured_->setText(tr("Listen, or scrub the walk, to see what falls."));
        return;
    }
    const auto found = world->sprinkles.find(static_cast<std::uint32_t>(index));
    if (found == world->sprinkles.end()) {
        measured_->setText(tr("Not yet: nobody was near."));
        return;
    }
    const SprinkleState& s = found->second;
    const double minutes = s.near_s / 60.0;
    QString words = tr("Measured: %1 in %2 of being near, %3 a minute.")
                        .arg(s.begun)
                        .arg(theme::clock(s.near_s))
                        .arg(minutes > 0.0 ? static_cast<double>(s.begun) / minutes : 0.0, 0, 'f', 1);
    if (s.firstRepeat) {
        words += tr(" First repeat after %1.").arg(*s.firstRepeat);
    }
    if (s.skipped > 0) {
        words += tr(" %1 left out.").arg(s.skipped);
    }
    if (s.placeless > 0) {
        words += tr(" %1 found no free place.").arg(s.placeless);
    }
    measured_->setText(words);
}

} // namespace stone
