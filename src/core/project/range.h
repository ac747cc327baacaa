// SPDX-License-Identifier: MPL-2.0
#pragma once

namespace stone
{

enum class LaneProperty;

/// Inclusive bounds of a number.
struct Range {
    double least;
    double most;
};

/// Bounds that many fields share.
namespace ranges
{
constexpr Range metres{-1e6, 1e6};
constexpr Range length{0.0, 1e6};
constexpr Range scale{1e-6, 1e6};
constexpr Range seconds{0.0, 1e6};
constexpr Range level_db{-200.0, 60.0};
constexpr Range degrees{-36000.0, 36000.0};
constexpr Range angle{-360.0, 360.0};
constexpr Range semitones{-48.0, 48.0};
constexpr Range cutoff_hz{1.0, 200'000.0};
constexpr Range share{0.0, 1.0};
constexpr Range wallLoss_db{0.0, 120.0}; ///< in each band
} // namespace ranges

/// What the document allows in a field: the same statement that the reader refuses by, for forms to offer. Known for the
/// numbers of every part of the document; others do not link. Asking for a member that is not in the document throws
/// std::logic_error.
template <class Thing> Range rangeOf(double Thing::*member);
template <class Thing> Range rangeOf(int Thing::*member);

/// The values that a lane of this property may draw, in its unit.
Range rangeOf(LaneProperty property);
/// Where a lane's points may lie, in the unit of what it follows.
constexpr Range laneInputs = ranges::metres;

} // namespace stone
