// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "geometry/vec.h"
#include "project/ambience.h"
#include "project/picker.h"

#include <cstdint>
#include <memory>
#include <mutex>
#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace stone
{

class Ground;

/// What is done about ways round walls that nobody has looked for yet.
enum class Ways {
    find,     ///< they are looked for, and waited for
    foundOnly ///< they go straight until somebody has found them
};

/// From a stop, to a stop.
using Leg = std::pair<std::size_t, std::size_t>;
/// The legs that a Roamer may ever go.
std::vector<Leg> legsOf(const Roaming& roaming);

/// Where a Roamer is when: a function of the time since it set off, its stops, the project's seed and its id. May be asked
/// for any time from any thread; rounds that differ from each other are worked out once and kept.
class Route
{
public:
    /// `ground`: for ways round walls; null: straight ones.
    Route(const Roaming& roaming, std::uint64_t seed, std::string id, const Ground* ground, Ways ways = Ways::find);

    struct Place {
        Vec3 at{0.0};
        double heading_deg = 0.0; ///< along the way, turned smoothly
        double speed_m_s = 0.0;
        double moving = 0.0;  ///< 0 at rest, 1 on the way; eased over a quarter of a second
        std::size_t next = 0; ///< stop that it goes to, or waits at
        std::uint64_t round = 0;
        bool over = false; ///< all rounds are done
    };
    /// time_s >= 0.
    Place at(double time_s) const;

    struct Arrival {
        double time_s = 0.0;
        std::size_t stop = 0;
        std::uint64_t number = 0; ///< since it set off
    };
    /// Arrivals in (from_s, to_s], in order.
    void arrivals(double from_s, double to_s, std::vector<Arrival>& found) const;

    /// When it stands still for good; infinite when it does not.
    double ends_s() const;
    /// How long one round takes: the first.
    double round_s() const;
    /// Which stops of the present round have been reached.
    std::vector<std::size_t> visited(double time_s) const;

    /// The line that one round follows, for drawing.
    std::vector<Vec3> line() const;
    /// Legs for which there is no way round walls: they go straight.
    const std::vector<Leg>& blocked() const { return blocked_; }
    /// Whether some legs go straight only because nobody has looked for their ways yet.
    bool waysMissing() const { return waysMissing_; }
    bool empty() const { return stops_.empty(); }

private:
    /// The way from one stop to another, with the length up to each of its corners.
    struct Way {
        std::vector<Vec3> corners;
        std::vector<double> lengths;
    };
    struct Passage {
        std::size_t from;
        std::size_t to;
        double departs_s; ///< since the round began
        double arrives_s;
        double heading_deg; ///< of its last piece
        const Way* way;
    };
    struct Round {
        double begins_s = 0.0;
        double length_s = 0.0;
        std::uint64_t arrivalsBefore = 0;
        double headingBefore_deg = 0.0; ///< of the last leg before it
        double headingAfter_deg = 0.0;  ///< of the first leg after it
        std::size_t first = 0;          ///< stop at which it begins
        std::vector<Passage> legs;
    };

    static double firstHeading(const Way& way);
    const Way& wayOf(std::size_t from, std::size_t to) const;
    Round makeRound(const std::vector<std::size_t>& order, bool setsOff) const;
    std::vector<std::size_t> nextOrder() const;
    /// The round in which a time lies, and its number.
    std::pair<const Round*, std::uint64_t> roundAt(double time_s, double& since_s) const;
    double wait_s(std::size_t stop) const;

    std::vector<Stop> stops_;
    Roaming how_;
    std::uint64_t seed_;
    std::string id_;
    std::vector<Leg> blocked_;
    bool waysMissing_ = false;
    std::vector<Way> ways_; ///< from * stops + to
    mutable std::mutex mutex_;
    mutable std::vector<std::unique_ptr<Round>> rounds_;
    mutable std::optional<Picker> picker_;    ///< of shuffled stops, as far as `coming_`
    mutable std::vector<std::size_t> coming_; ///< the stops of the round after the last one in `rounds_`
};

} // namespace stone
