#pragma once

#include "geometry/pose.h"
#include "geometry/sphere_index.h"
#include "hearing/terms.h"
#include "project/document.h"

#include <limits>
#include <memory>
#include <string>
#include <vector>

namespace stone
{

/// Below this level at the ears a sound counts as silent: 80 dB under a full-scale recording is under the noise of any
/// room in which one plays. What is silent costs nothing.
constexpr double audible_db = -80.0;

/// Within this distance a Point opens up: its direction fades into "all round", so that walking through it turns the
/// sides over smoothly instead of in one step.
constexpr double nearRange_m = 0.5;

/// A stretch of time since the start of the level. The default is all of it: what would be heard while it sounds.
struct TimeSpan {
    double from_s = -std::numeric_limits<double>::infinity();
    double to_s = std::numeric_limits<double>::infinity();

    static TimeSpan at(double time_s) { return {time_s, time_s}; }
};

/// What reaches the ears from one emitter, and why.
struct Heard {
    std::uint32_t index = 0; ///< into the level's emitters
    bool audible = false;    ///< loud enough to be mixed
    double level_db = 0.0;   ///< exactly the sum of the terms
    Bearing bearing;         ///< of a bed: nothing, it has no direction
    /// Direction in the ears' frame (x right, y ahead, z above). Length 1: from one point; 0: from all round.
    Vec3 direction{0.0};
    Terms terms;
};

/// The one hearing model: everything that wants to know how loud something is asks here.
///
/// Immutable: built from a document for one of its levels, then asked from any thread. Building costs n log n for n
/// emitters, hear() grows with the number of emitters in whose reach the ears are.
class HearingModel
{
public:
    /// The project must have the level. `lengths_s`: how long the sound of each emitter is, 0 where that is not known;
    /// empty when none is. Without it a one-shot never counts as over.
    HearingModel(std::shared_ptr<const Project> project, const LevelId& level, const std::vector<double>& lengths_s = {});

    const Project& project() const { return *project_; }
    const Level& level() const { return *level_; }

    /// Everything in whose reach the ears are, in the order of the document. Clears `heard` first; allocates only when
    /// its capacity or that of `scratch` is too small.
    void hear(const Pose& ears, const TimeSpan& when, std::vector<Heard>& heard, std::vector<std::uint32_t>& scratch) const;

    /// One emitter, in reach or not. `index` into level().emitters.
    Heard hearOne(const Pose& ears, const TimeSpan& when, std::uint32_t index) const;

    /// Everything in the level, in reach or not.
    std::vector<Heard> hearAll(const Pose& ears, const TimeSpan& when) const;

    /// From this distance on the emitter is silent; infinity for beds and for formulas without an end.
    double reach_m(std::uint32_t index) const { return sources_[index].reach_m; }

    /// When the emitter begins and, if it plays once and its length is known, ends.
    TimeSpan sounds(std::uint32_t index) const { return {sources_[index].starts_s, sources_[index].ends_s}; }

private:
    Heard hearFrom(const Frame& frame, const Vec3& ears, const TimeSpan& when, std::uint32_t index) const;

    /// What of an emitter does not depend on the ears, gathered where a control step finds it in one place.
    struct Source {
        Vec3 at;
        EmitterKind kind;
        bool muted;
        double sound_db;
        double emitter_db;
        double reach_m;
        double starts_s;
        double ends_s;
        DistanceFormula formula;
    };

    std::shared_ptr<const Project> project_;
    const Level* level_;
    std::vector<Source> sources_;
    SphereIndex index_;
};

/// Why a line has its value, in plain words ("11.7 m away, full up to 4 m").
std::string reasonOf(const HearingModel& model, const Heard& heard, const Term& term);

} // namespace stone
