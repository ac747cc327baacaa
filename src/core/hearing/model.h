// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "acoustics/air.h"
#include "acoustics/lane.h"
#include "geometry/pose.h"
#include "geometry/sphere_index.h"
#include "hearing/for_ears.h"
#include "hearing/memory.h"
#include "hearing/reflections.h"
#include "hearing/room_field.h"
#include "hearing/terms.h"
#include "project/document.h"
#include "world/moment.h"
#include "world/reach.h"
#include "world/world.h"

#include <memory>
#include <optional>
#include <span>
#include <utility>
#include <vector>

namespace stone
{

/// What reaches the ears from one emitter, and why.
struct Heard {
    std::uint32_t index = 0; ///< into the level's emitters
    bool audible = false;    ///< loud enough to be mixed, by itself or by what rooms make of it
    double level_db = 0.0;   ///< exactly the sum of the terms
    Start start;             ///< what of it is heard
    Vec3 at{0.0};            ///< the place it sounds from: of an area or a zone's bed the nearest
    Bearing bearing;         ///< of that place; of a bed that is everywhere: nothing
    /// Direction of the part in the world, in the ears' frame (x right, y ahead, z above). Its length says how wide:
    /// 1 from one point, 0 from all round; see spread.h.
    Vec3 direction{0.0};
    /// How much of the power at the ears comes from the world, 0 to 1; the rest is fixed in the ears.
    double worldShare = 1.0;
    /// How far an area or a bed surrounds the ears, 0 to 1: with it the channels of its image go to their own directions.
    double opened = 0.0;
    double offFront_deg = 0.0;  ///< between the emitter's front and the ears, 0 to 180
    double front_deg = 0.0;     ///< heading of its front now
    double imageTurn_deg = 0.0; ///< by which an image that stays in the world is turned as seen from the ears
    double depth_m = 0.0;       ///< of the character in its zone
    double speed_m_s = 0.0;     ///< between the ears and the emitter
    /// What arrives now has come so far: of what moves, from where it was when it gave that.
    double travelled_m = 0.0;
    double air_m = 0.0;                    ///< metres of air that count; 0 where the emitter does not ask for it
    double offGaze_deg = 0.0;              ///< between the gaze and the way to it, in space
    Gazed gazed;                           ///< what the gazes make of it
    Screened screened;                     ///< what walls take from the part in the world
    std::uint32_t room = RoomMap::outside; ///< in which it sounds
    double given_db = -200.0;              ///< its own level at 1 m, as it goes into the space round it; below -199: nothing
    RoomSends sends{};                     ///< into which rooms' late fields it goes, and how loudly
    double reverb_db = -200.0;             ///< what these give of it at the ears; below -199: nothing
    LaneValues values;                     ///< of all lanes, with what the family adds to them
    Terms terms;
    std::optional<GaveWay> gaveWay{}; ///< to whom and why, when it did
};

/// What hear() works with, kept by the caller so that a control step allocates nothing.
struct HearScratch {
    Frame frame;                    ///< of the ears of the moment
    Vec3 looksAlong{0.0, 1.0, 0.0}; ///< the gaze of the moment, a unit vector
    std::vector<std::uint32_t> near;
    ZonesAt zones;
    std::vector<std::pair<std::uint32_t, LaneValues>> fades; ///< by zone, as far as they were needed
    Occluder::Scratch walls;
    std::vector<Occluder::Source::Point> points;
    std::vector<Occluder::Source::Leaf> leaves;
    RoomField::Scratch rooms;
    std::vector<RoomHeard> roomsHeard; ///< what of the rooms was heard last
    /// Of somebody who listens on and on; none: walls and gaze count as they are at the moment, and who gives way is decided
    /// as if all had come just then.
    std::optional<HearMemory> memory{};
    /// What is left out for whoever asks in very many places: walls, so that levels are the most that they can be; rooms, so
    /// that nothing is known of what they make of it; directions, and how far a bed surrounds, where no level depends on them.
    bool withoutWalls = false;
    bool withoutRooms = false;
    bool withoutGaze = false;
    bool withoutDirections = false;
    GiveWay justNow; ///< of somebody without a memory
    std::vector<Copy> copies;
    std::vector<std::uint32_t> copiesOf; ///< into what is heard
    std::vector<GiveWay::Verdict> verdicts;
    std::vector<Heard> inReach;
};

/// The one hearing model: everything that wants to know how loud something is asks here.
///
/// Immutable: built on a World, then asked from any thread. Building costs n log n for n emitters, hear() grows with the
/// number of emitters in whose reach the ears are.
class HearingModel
{
public:
    /// `unreadable`: by playable, those none of whose files can be read; empty: nothing is known of that. `before`: a model
    /// from which what has not changed is taken over, as after an edit; the result is the same without it.
    explicit HearingModel(std::shared_ptr<const World> world, const ForEars& forEars = {}, std::vector<bool> unreadable = {},
                          const HearingModel* before = nullptr);
    /// A level without its geometry. The project must have the level. `length`: see World; without it a sound never counts
    /// as over.
    HearingModel(const std::shared_ptr<const Project>& project, const LevelId& level, LengthOf length = {});

    const World& world() const { return *world_; }
    const std::shared_ptr<const World>& sharedWorld() const { return world_; }
    const Project& project() const { return world_->project(); }
    const Level& level() const { return world_->level(); }

    /// Everything in whose reach the ears are and all one-shots that fall at the moment, a Heard for each start. Clears `heard`
    /// first; allocates only when its capacity or that of `scratch` is too small.
    void hear(const Moment& moment, std::vector<Heard>& heard, HearScratch& scratch) const;

    /// One emitter, in reach or not: the loudest of its starts; silent when there is none. `index` into level().emitters.
    Heard hearOne(const Moment& moment, std::uint32_t index) const;

    /// For whoever asks in very many places, one by one. ready() readies `scratch` for hearStart() at the same moment: what
    /// hear() says of a start where nobody has to give way.
    void ready(const Moment& moment, HearScratch& scratch) const { prepare(moment, scratch); }
    Heard hearStart(const Moment& moment, std::uint32_t index, const Start& start, HearScratch& scratch) const
    {
        return hearFrom(moment, index, start, scratch);
    }
    /// What was heard without walls and rooms, heard with walls.
    void addWalls(const Moment& moment, Heard& heard, HearScratch& scratch) const;
    /// Appends whose reach a place is in, by index; those without a place of their own are not among them.
    void near(const Vec3& place, std::vector<std::uint32_t>& found) const { index_.containing(place, found); }
    /// Whether anybody might have to give way if all that is `near` and all that was started were heard: some limit is
    /// passed.
    bool crowded(const Moment& moment, std::span<const std::uint32_t> near) const;

    /// Everything in the level, in reach or not, by index.
    std::vector<Heard> hearAll(const Moment& moment) const;
    /// The same for somebody who asks again and again. Clears `heard` first.
    void hearAll(const Moment& moment, std::vector<Heard>& heard, HearScratch& scratch) const;
    /// The same where some of it is known already, as what the engine heard at that moment is: of each emitter in `known` its
    /// loudest is taken, only the others are reckoned.
    void hearAll(const Moment& moment, std::span<const Heard> known, std::vector<Heard>& heard, HearScratch& scratch) const;

    /// The same for somebody who stands there in a level where nothing has happened yet.
    Heard hearOne(const Ears& ears, const TimeSpan& when, std::uint32_t index) const
    {
        return hearOne(Moment(ears, when), index);
    }
    std::vector<Heard> hearAll(const Ears& ears, const TimeSpan& when) const { return hearAll(Moment(ears, when)); }

    /// From this distance on the emitter is silent; infinity for what is everywhere and for lanes without an end.
    double reach_m(std::uint32_t index) const { return sources_[index].reach_m; }

    /// When an emitter that starts with the level begins and, if it plays once and its length is known, ends.
    TimeSpan sounds(std::uint32_t index) const
    {
        return {world_->simpleStart(index).began_s, world_->simpleStart(index).ends_s};
    }

    /// Whether there is nothing to play for a start, or for an emitter before it starts.
    bool soundless(std::uint32_t index, const Start& start) const;

    /// Whether whoever listens has silenced it for their own ears, by muting it or by soloing something else.
    bool silencedForEars(std::uint32_t index) const { return sources_[index].mutedForEars || sources_[index].soloElsewhere; }

    /// Whether anybody may ever have to give way in this level.
    bool mayCrowd() const { return mayCrowd_; }

    /// Whether there is more in all of the level that simply goes on for ever than some limit lets sound together. Where not,
    /// nobody ever gives way while all time is asked for.
    bool mayCrowdForEver() const { return mayCrowdForEver_; }

    /// Who is mixed first; see Priority.
    Priority priority(std::uint32_t index) const { return sources_[index].priority; }

    /// What the air takes, dB per metre, by octave band.
    const Bands& air_db_m() const { return air_db_m_; }

    /// The level in each octave band: level_db with what filters, air and walls take there.
    Bands bands_db(const Heard& heard) const;

    /// What walls and air take in each band beyond what is in level_db; negative where they take less than in the mean. Eased
    /// as the filters ease it: no band lies more than 30 dB below the one beside it.
    Bands colouring_db(const Heard& heard) const;

    /// What stands between the ears and something that is heard, ray by ray; nothing where nothing is reckoned.
    std::optional<Explained> explain(const Moment& moment, const Heard& heard) const;
    const Occluder& occluder() const { return occluder_; }
    const RoomField& rooms() const { return roomField_; }
    const Reflections& reflections() const { return reflections_; }
    /// What of each room's late field is heard at a moment, and how loudly it sounds from everything that is in it.
    std::vector<RoomHeard> hearRooms(const Moment& moment) const;

private:
    /// What of an emitter takes long to find, and depends on the emitter, on what of the project it names and on the ground
    /// alone.
    struct Part {
        std::shared_ptr<const Emitter> emitter;
        double silentFrom_m = 0.0;
        double audibleWithin_m = 0.0;
        std::vector<Vec3> extent; ///< where its rays go: beside its place; of an area: in its own frame
    };

    /// What of an emitter does not depend on the ears, gathered where a control step finds it in one place.
    struct Source {
        EmitterKind kind;
        bool muted;
        bool familyMuted;
        bool mutedForEars;
        bool soloElsewhere;
        Priority priority;
        double emitter_db;
        double lowPass_hz; ///< of its family
        double highPass_hz;
        double inWorld;
        bool forTwoEars; ///< its sound goes to the ears as it is; only its level is of the world
        double reach_m;
        std::optional<std::uint32_t> zone;
        /// Of areas that share a voice: all of them, at the one that has it; the others have its number.
        std::vector<std::uint32_t> sharers;
        std::optional<std::uint32_t> sharedBy;
        const Emitter* emitter;
        const Falloff* falloff;
        const Falloff* otherFalloff;      ///< of its family, for while its condition holds; null: none
        const Family* family;             ///< null: none
        std::vector<std::uint32_t> gazes; ///< into the project's
        bool turned;                      ///< a lane of its own needs to know from where it is heard
        std::span<const Vec3> extent;     ///< of its part
        std::optional<std::uint32_t> housing;
        std::uint32_t familyLimit = Copy::unlimited; ///< into limits_
    };

    /// How the place or shape that something sounds from lies to the ears.
    struct Extent {
        Vec3 at{0.0};
        double distance_m = 0.0;
        Vec3 mean{0.0};      ///< in level coordinates; see Solid
        double closed = 1.0; ///< 1: heard from its direction, 0: it surrounds
        double front_deg = 0.0;
        Vec3 velocity_m_s{0.0};
        double moving = 1.0; ///< of a Roamer that is heard only on its way
    };

    /// Whether parts of another model hold for this one, where their emitters are the same.
    bool sharesParts(const HearingModel& other) const;
    std::shared_ptr<const Part> partOf(const HearingModel* before, std::uint32_t index) const;
    const Falloff& falloffAt(const Moment& moment, const Source& source) const;
    double familyNearness(const Moment& moment, const Source& source) const;
    Source gather(std::uint32_t index, const ForEars& forEars) const;
    void shareVoices();
    Sphere askedWithin(std::uint32_t index) const;
    void prepare(const Moment& moment, HearScratch& scratch) const;
    Heard hearFrom(const Moment& moment, std::uint32_t index, const Start& start, HearScratch& scratch) const;
    void addOthers(const Moment& moment, std::span<const Heard> known, std::vector<Heard>& heard, HearScratch& scratch) const;
    Heard loudestOf(const Moment& moment, std::uint32_t index, HearScratch& scratch) const;
    /// `directions`: whether their mean is wanted, too, and how far a bed surrounds.
    Extent extentOf(const Moment& moment, const Source& source, std::uint32_t index, const Start& start, bool directions) const;
    /// How far what arrives now has come: from the place at which the source was then. Only what moves in time, and by itself,
    /// was elsewhere.
    double travelled_m(const Moment& moment, const Source& source, std::uint32_t index, const Start& start,
                       const Extent& extent) const;
    Extent extentOfArea(const Moment& moment, const Source& source, std::uint32_t index, bool directions) const;
    void placeInWorld(const Moment& moment, const Source& source, const Extent& extent, Heard& heard,
                      HearScratch& scratch) const;
    void takeWalls(const Moment& moment, Heard& heard, HearScratch& scratch) const;
    void followLanes(const Moment& moment, const Source& source, Heard& heard) const;
    /// Whether walls are reckoned with for an emitter.
    bool screens(const Emitter& emitter) const;
    std::vector<Vec3> extentOf(std::uint32_t index) const;
    Occluder::Source soundingFrom(const Moment& moment, const Heard& heard, HearScratch& scratch) const;
    void listLimits();
    /// Counts copies by limit, and whether one of these was passed.
    class LimitCount;
    /// Whether limits on copies are about it, while it is heard.
    static bool counts(const Moment& moment, const Start& start);
    /// Who of what is heard gives way to whom; see GiveWay.
    void letThrough(const Moment& moment, std::vector<Heard>& heard, HearScratch& scratch) const;
    void excite(const Source& source, const Vec3& ears, Heard& heard, const HearScratch& scratch) const;
    static void addUp(const std::vector<Heard>& heard, const RoomField& field, std::vector<RoomHeard>& rooms);
    bool silenced(const Source& source, const Start& start, const Moment& moment) const;
    void gazeAt(const Moment& moment, const Source& source, const Vec3& at, Heard& heard, HearScratch& scratch) const;
    void screen(const Moment& moment, const Source& source, Heard& heard, HearScratch& scratch) const;
    /// What walls leave, as somebody has it who listens on and on: a moment further on its way to what was reckoned last.
    Screened remembered(const Moment& moment, const HearMemory& memory, HearMemory::Kept& kept) const;
    const LaneValues& fadesOf(const Moment& moment, std::uint32_t zone, HearScratch& scratch) const;

    std::shared_ptr<const World> world_;
    std::vector<bool> unreadable_;
    std::vector<std::shared_ptr<const Part>> parts_; ///< by emitter
    std::vector<Source> sources_;
    SphereIndex index_;
    Bands air_db_m_;
    Occluder occluder_;
    RoomField roomField_;
    Reflections reflections_;
    bool mayCrowd_ = false;
    bool mayCrowdForEver_ = false;
    std::vector<Limit> limits_;              ///< the level's, then those of sounds and families that have one
    std::vector<std::uint32_t> soundLimits_; ///< by playable, into limits_
};

} // namespace stone
