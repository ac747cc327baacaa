// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/walls/screening_fields.h"

namespace stone
{

ScreeningFields::ScreeningFields(Session& session, Playback& playback, QWidget* parent) : EmitterForm(session, playback, parent)
{
    head(tr("Behind walls"));
    auto* on = flag("screeningOn", tr("walls count"), tr("What stands between your ears and it takes its part"),
                    [](Emitter& e) -> bool& { return e.screening.on; });
    auto* size = part(tr("Sounds within"), &EmitterSettings::screening, &Screening::size_m,
                      {"screeningSize", "m", tr("sounds within %1 m"),
                       tr("The radius of what sounds: the larger, the more gradually it goes behind an edge")},
                      {2, 0.1});
    auto* housing = reference(
        "screeningHousing", tr("Its housing"), tr("no housing"),
        [this] {
            std::vector<std::pair<std::string, std::string>> nodes;
            for (const QString& name : session_.solidNodes()) {
                nodes.emplace_back(name.toStdString(), name.toStdString());
            }
            return nodes;
        },
        [](Emitter& e) -> std::string& { return e.screening.housing; });
    housing->setToolTip(tr("A part of the level that it sits in and that does not stop it"));
    row({on, size, labelled(tr("Its housing"), housing)});
    const auto counts = [](const Emitter& e) { return e.screening.on ? QString() : tr("walls do not count for it"); };
    allow(housing, counts);
}

} // namespace stone
