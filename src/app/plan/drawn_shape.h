// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/playback.h"
#include "geometry/solid.h"
#include "level/fit_shape.h"

namespace stone
{

/// The shape that can be worked on: of the selected zone, room, plant rule, area or sprinkle.
struct DrawnShape {
    Shape shape;
    Vec3 at{0.0}; ///< in the document: an offset when it rides on something
    double heading_deg = 0.0;
    Solid::Frame frame; ///< where it is just now
};

/// Where an emitter is just now. `preview_s`: of a Roamer, so long after it set off instead; below 0: now.
Vec3 placeNow(const Playback& playback, const Emitter& emitter, double preview_s = -1.0);

/// The place by which an emitter is moved: a Roamer by its first stop.
Vec3 handleOf(const Emitter& emitter);

/// Where something stands that may ride on something else.
Solid::Frame frameNow(const Playback& playback, const Vec3& at, double heading_deg, const Riding& riding);

/// Nothing when what is selected has no shape.
std::optional<DrawnShape> drawnShape(const Session& session, const Playback& playback);

/// Gives what is selected another shape, place and heading. `what` and `gesture` as in Session::edit().
void setDrawnShape(Session& session, const FittedShape& next, const QString& what, const QString& gesture);

} // namespace stone
