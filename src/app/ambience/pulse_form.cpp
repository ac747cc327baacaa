// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/ambience/pulse_form.h"

#include "app/theme/labels.h"

#include <QCheckBox>

namespace stone
{

PulseForm::PulseForm(Session& session, Playback& playback) : EmitterForm(session, playback), now_(theme::caption({}))
{
    now_->setObjectName("pulseNow");
    now_->setWordWrap(true);
    box_->addWidget(theme::explained(tr(
        "For players who do not see: the nearest edge of the floor is told by a beat from where it is. Level, pitch, tone and "
        "beat over the distance are lanes of the falloff.")));
    box_->addWidget(now_);

    head(tr("What it tells of, and the sound for it"));
    const struct {
        const char* name;
        const char* soundName;
        QString label;
        QString help;
        bool Pulsing::*tells;
        SoundId Pulsing::*sound;
    } kinds[] = {{"pulseDrops", "pulseDropSound", tr("drops"), tr("Where the ground ahead lies lower by more than a step"),
                  &Pulsing::drops, &Pulsing::dropSound},
                 {"pulseWalls", "pulseWallSound", tr("walls"), tr("Where it rises by more than a step, or something stands"),
                  &Pulsing::walls, &Pulsing::wallSound},
                 {"pulseWater", "pulseWaterSound", tr("water"), tr("What counts as water: see the level"), &Pulsing::water,
                  &Pulsing::waterSound},
                 {"pulseKerbs", "pulseKerbSound", tr("kerbs"), tr("A single difference that is walked over"), &Pulsing::kerbs,
                  &Pulsing::kerbSound},
                 {"pulseSteps", "pulseStepSound", tr("steps"), tr("Stairs"), &Pulsing::steps, &Pulsing::stepSound}};
    for (const auto& kind : kinds) {
        row({flag(kind.name, kind.label, kind.help, [tells = kind.tells](Emitter& e) -> bool& { return e.pulsing.*tells; }),
             sound(kind.soundName, tr("Sound for %1").arg(kind.label), tr("the one above"),
                   [which = kind.sound](Emitter& e) -> std::string& { return (e.pulsing.*which).text; })});
        allow(findChild<QWidget*>(kind.soundName), [tells = kind.tells](const Emitter& e) {
            return e.pulsing.*tells ? QString() : tr("it does not tell of these");
        });
    }

    head(tr("Where it looks"));
    QComboBox* looks = choice(
        "pulseLooks", tr("Where it looks"), {tr("ahead"), tr("ahead and to both sides"), tr("all round")},
        [](const Emitter& e) { return static_cast<int>(e.pulsing.looks); },
        [](Emitter& e, int index) { e.pulsing.looks = static_cast<Pulsing::Looks>(index); });
    row({labelled(tr("It looks"), looks)});
    row({part(tr("To either side"), &EmitterSettings::pulsing, &Pulsing::aside_deg,
              {"pulseAside", QStringLiteral("°"), tr("looks %1° to either side"),
               tr("What lies so far to either side of a way that it looks counts for it")},
              {0, 5}),
         part(tr("Silent beyond"), &EmitterSettings::pulsing, &Pulsing::within_m,
              {"pulseWithin", "m", tr("tells of what is within %1 m"), tr("Farther away there is no beat")}, {1, 0.5}),
         part(tr("Changes by"), &EmitterSettings::pulsing, &Pulsing::margin_m,
              {"pulseMargin", "m", tr("changes by %1 m"),
               tr("Another edge counts when it is nearer by so much: it does not go to and fro between two that are as near")},
              {2, 0.1})});
    allow(findChild<QWidget*>("pulseAside"), [](const Emitter& e) {
        return e.pulsing.looks == Pulsing::Looks::all ? tr("all round each way has its quarter") : QString();
    });

    head(tr("From beat to beat"));
    row({part(tr("At the edge"), &EmitterSettings::pulsing, &Pulsing::nearest_s,
              {"pulseNearest", "s", tr("a beat every %1 s at the edge"), tr("Where one stands on it")}, {2, 0.02}),
         part(tr("farthest away"), &EmitterSettings::pulsing, &Pulsing::farthest_s,
              {"pulseFarthest", "s", tr("a beat every %1 s far away"), tr("Where it begins to be told of; straight between")},
              {2, 0.05})});
    const auto drawn = [this](const Emitter& e) {
        const std::vector<Lane>& lanes = falloffOf(session_.project(), e).lanes;
        return std::any_of(lanes.begin(), lanes.end(),
                           [](const Lane& lane) { return lane.on && lane.property == LaneProperty::interval; })
                   ? tr("the falloff has a lane for the beat")
                   : QString();
    };
    for (const char* name : {"pulseNearest", "pulseFarthest"}) {
        allow(findChild<QWidget*>(name), drawn);
    }
}

void PulseForm::refresh()
{
    EmitterForm::refresh();
    showNow();
}

void PulseForm::showNow()
{
    const Emitter* emitter = thing();
    const World& world = playback_.hearing().world();
    const auto index = emitter != nullptr ? world.indexOf(emitter->id) : std::nullopt;
    if (world.edges() == nullptr) {
        now_->setText(session_.loadedLevel().ground ? tr("The edges of the floor are being looked for.")
                                                    : tr("There is no level's geometry whose edges it could tell of."));
        return;
    }
    const WorldState* state = playback_.world();
    if (state == nullptr || !index.has_value()) {
        now_->setText(tr("Listen and walk: what it measures is said here and drawn on the Plan."));
        return;
    }
    const auto pulse = state->pulses.find(index.value_or(0));
    const bool near = pulse != state->pulses.end() && pulse->second.hazard;
    const QString ways[] = {tr("ahead"), tr("to the left"), tr("to the right"), tr("behind")};
    now_->setText(near ? tr("Now: %1 %2, a beat every %3 s")
                             .arg(toldOf(*pulse->second.hazard), ways[pulse->second.hazard->way])
                             .arg(pulse->second.hazard->every_s, 0, 'f', 2)
                       : tr("Now: nothing is near that it tells of."));
}

QString toldOf(const PulseState::Hazard& hazard)
{
    const QString names[edgeKindCount] = {QObject::tr("drop"), QObject::tr("wall"), QObject::tr("kerb"), QObject::tr("step"),
                                          QObject::tr("water")};
    return names[static_cast<std::size_t>(hazard.kind)] + ' ' + theme::metres(hazard.distance_m);
}

} // namespace stone
