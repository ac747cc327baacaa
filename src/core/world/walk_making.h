// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/document.h"

#include <optional>
#include <vector>

namespace stone
{

/// Walks made and changed, each as another walk. What comes later moves along in time, signals and values on it too, so that
/// everything still happens where it happened. Times are kept to the millisecond and never run backwards. Points that do
/// not exist leave a walk as it is. Any thread.

/// Through places (feet, metres) at a speed (m/s, > 0), facing along the way.
Walk walkThrough(const std::vector<Vec3>& places, double speed_m_s);

/// How fast one goes on the leg that begins at a point; 0 where one stays.
double legSpeed_m_s(const Walk& walk, std::size_t leg);
/// A leg takes so long, seconds, at least a hundredth.
Walk withLegTime(Walk walk, std::size_t leg, double seconds);
/// A leg is walked at so many m/s, > 0; one on which nobody moves keeps its time.
Walk withLegSpeed(Walk walk, std::size_t leg, double speed_m_s);
/// The same for all legs on which one moves.
Walk withSpeed(Walk walk, double speed_m_s);

/// For how long one stays at a point before going on, seconds; 0: not at all.
double stay_s(const Walk& walk, std::size_t point);
/// One stays there for so long. A stay is a second point in the same place.
Walk withStay(Walk walk, std::size_t point, double seconds);

/// A point elsewhere, with the stay there; the legs to and from it keep their speeds.
Walk withPointAt(Walk walk, std::size_t point, const Vec3& at);
/// A point more on a leg, in the time that belongs to the place; the legs keep their speed.
Walk withPointOn(Walk walk, std::size_t leg, const Vec3& at);
/// One point less, and the stay there; what was two legs takes as long as both.
Walk withoutPoint(Walk walk, std::size_t point);
/// One more after the last, at the speed of the last leg (`speed_m_s` where there is none).
Walk withPointAfter(Walk walk, const Vec3& at, double speed_m_s);

/// The other way round: the same path, and whatever was faced is faced again.
Walk turnedRound(Walk walk);

/// One keeps one's eyes on a place all the way (or, where a point is given, on the leg that begins there): there are as many
/// points more as it takes for one who turns evenly between them to look there to two degrees, unless that is for less than a
/// tenth of a second. Up and down as well, from eyes so far above the feet.
Walk withEyesOn(Walk walk, const Vec3& place, double eyesHeight_m, std::optional<std::size_t> leg = {});

/// What was recorded, moment by moment, with as few points as give the same path: at every moment within `off_m` of where it
/// was and within `off_deg` of where it faced.
std::vector<WalkPoint> simplified(const std::vector<WalkPoint>& recorded, double off_m, double off_deg);
/// The same to half a centimetre and half a degree, as it is kept in a document: times to the millisecond, places to the
/// millimetre, angles to a tenth.
std::vector<WalkPoint> recordedPoints(const std::vector<WalkPoint>& recorded);

} // namespace stone
