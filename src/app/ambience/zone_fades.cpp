// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/ambience/zone_fades.h"

#include <QVBoxLayout>

namespace stone
{

ZoneFades::ZoneFades(Session& session, Playback& playback, QWidget* parent)
    : QWidget(parent), session_(session), playback_(playback),
      lanes_(new LaneStack(LaneInput::depth,
                           {LaneProperty::level, LaneProperty::lowPass, LaneProperty::highPass, LaneProperty::send}, source()))
{
    setObjectName("zoneFades");
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    box->addWidget(lanes_);
}

LaneStack::Source ZoneFades::source()
{
    return {
        .lanes =
            [this] { return session_.selected<Zone>() != nullptr ? session_.selected<Zone>()->fades : std::vector<Lane>{}; },
        .change =
            [this](std::vector<Lane> lanes, const QString& what, const QString& gesture) {
                session_.editThing<Zone>(tr("fades, %1").arg(what), gesture, [&](Zone& z) { z.fades = lanes; });
            },
        .endGesture = [this] { session_.endGesture(); },
        .place = [this]() -> std::optional<double> {
            const World& world = playback_.hearing().world();
            const auto index =
                session_.selected<Zone>() != nullptr ? world.zones().indexOf(session_.selected<Zone>()->id) : std::nullopt;
            if (!index) {
                return {};
            }
            ZonesAt zones;
            world.zonesAt(playback_.moment(), zones);
            return zones.depth(*index);
        },
        .ghost = [] { return std::vector<Lane>{}; },
        .preview = [](double) {},
        .endPreview = [] {}};
}

void ZoneFades::refresh()
{
    lanes_->refresh();
}

} // namespace stone
