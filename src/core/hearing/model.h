#pragma once

#include "acoustics/air.h"
#include "acoustics/lane.h"
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

/// A stretch of time since the start of the level. The default is all of it: what would be heard while it sounds.
struct TimeSpan {
    double from_s = -std::numeric_limits<double>::infinity();
    double to_s = std::numeric_limits<double>::infinity();

    static TimeSpan at(double time_s) { return {time_s, time_s}; }
};

/// Where the ears are, which way they face and how fast they move.
struct Ears : Pose {
    Vec3 velocity_m_s{0.0};

    Ears() = default;
    Ears(const Pose& pose, const Vec3& velocity = Vec3{0.0}) : Pose(pose), velocity_m_s(velocity) {}
    Ears(const Vec3& place, double heading, double pitch, double roll) : Pose{place, heading, pitch, roll} {}
};

/// What reaches the ears from one emitter, and why.
struct Heard {
    std::uint32_t index = 0; ///< into the level's emitters
    bool audible = false;    ///< loud enough to be mixed
    double level_db = 0.0;   ///< exactly the sum of the terms
    Bearing bearing;         ///< of a bed: nothing, it has no direction
    /// Direction of the part in the world, in the ears' frame (x right, y ahead, z above). Its length says how wide:
    /// 1 from one point, 0 from all round; see spread.h.
    Vec3 direction{0.0};
    /// How much of the power at the ears comes from the world, 0 to 1; the rest is fixed in the ears.
    double worldShare = 1.0;
    double offFront_deg = 0.0; ///< between the emitter's front and the ears, 0 to 180
    double speed_m_s = 0.0;    ///< between the ears and the emitter
    double air_m = 0.0;        ///< metres of air that count; 0 where the emitter does not ask for it
    LaneValues values;         ///< of all lanes, with what the family adds to them
    Terms terms;
};

/// The one hearing model: everything that wants to know how loud something is asks here.
///
/// Immutable: built from a document for one of its levels, then asked from any thread. Building costs n log n for n
/// emitters, hear() grows with the number of emitters in whose reach the ears are.
class HearingModel
{
public:
    /// The project must have the level. `lengths_s`: how long the sound of each emitter is, infinite for those that go on,
    /// 0 where that is not known; empty when none is. Without it a sound never counts as over.
    HearingModel(std::shared_ptr<const Project> project, const LevelId& level, const std::vector<double>& lengths_s = {});

    const Project& project() const { return *project_; }
    const Level& level() const { return *level_; }

    /// Everything in whose reach the ears are, in the order of the document. Clears `heard` first; allocates only when
    /// its capacity or that of `scratch` is too small.
    void hear(const Ears& ears, const TimeSpan& when, std::vector<Heard>& heard, std::vector<std::uint32_t>& scratch) const;

    /// One emitter, in reach or not. `index` into level().emitters.
    Heard hearOne(const Ears& ears, const TimeSpan& when, std::uint32_t index) const;

    /// Everything in the level, in reach or not.
    std::vector<Heard> hearAll(const Ears& ears, const TimeSpan& when) const;

    /// From this distance on the emitter is silent; infinity for beds and for lanes without an end.
    double reach_m(std::uint32_t index) const { return sources_[index].reach_m; }

    /// When the emitter begins and, if it plays once and its length is known, ends.
    TimeSpan sounds(std::uint32_t index) const { return {sources_[index].starts_s, sources_[index].ends_s}; }

    /// Who is mixed first; see Priority.
    Priority priority(std::uint32_t index) const { return sources_[index].priority; }

    /// What the air takes, dB per metre, by octave band.
    const Bands& air_db_m() const { return air_db_m_; }

    /// The level in each octave band: level_db with what filters and air take there.
    Bands bands_db(const Heard& heard) const;

private:
    Heard hearFrom(const Frame& frame, const Ears& ears, const TimeSpan& when, std::uint32_t index) const;

    /// What of an emitter does not depend on the ears, gathered where a control step finds it in one place.
    struct Source {
        Vec3 at;
        EmitterKind kind;
        bool muted;
        bool familyMuted;
        bool soloElsewhere;
        Priority priority;
        double sound_db;
        double emitter_db;
        double lowPass_hz; ///< of sound and family together
        double highPass_hz;
        double inWorld;
        double reach_m;
        double starts_s;
        double ends_s;
        const Emitter* emitter;
        const Falloff* falloff;
        const Family* family; ///< null: none
    };

    Source gather(const Emitter& emitter, bool anySolo) const;
    double askedWithin_m(const Source& source) const;
    void placeInWorld(const Frame& frame, const Ears& ears, const Source& source, Heard& heard) const;

    std::shared_ptr<const Project> project_;
    const Level* level_;
    std::vector<Source> sources_;
    SphereIndex index_;
    Bands air_db_m_;
};

} // namespace stone
