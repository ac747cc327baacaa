// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "level/floor_edges.h"
#include "level/ground.h"
#include "project/document.h"
#include "world/moment.h"
#include "world/nesting.h"
#include "world/planting.h"
#include "world/room_map.h"
#include "world/route.h"
#include "world/sprinkling.h"
#include "world/world_state.h"
#include "world/zone_map.h"

#include <functional>
#include <memory>
#include <span>
#include <unordered_map>
#include <vector>

namespace stone
{

/// A sound as some emitter plays it: the emitter may have it go round and round, or once, against its own setting.
struct Playable {
    std::shared_ptr<const Sound> sound;
    bool used = false; ///< by an emitter of the level
};

/// All that can be played in a level: first the project's sounds in their order, then those that are looped otherwise.
std::vector<Playable> playablesOf(const Project& project, const Level& level);

/// How long a playable is at its own pitch, seconds: infinite when it goes on, 0 when that is not known. `courseId`: by whose
/// chance; `file`: which was picked, for sounds that play one of theirs.
using LengthOf =
    std::function<double(std::uint32_t playable, const std::string& courseId, const std::optional<std::size_t>& file)>;

/// What goes on in a level: how things move, what starts and stops, where sprinkles fall, which zones one is in. What it
/// decides depends on the document, the character's way and what was sent from outside, and on nothing else; so a walk that
/// is replayed goes the same way, whether it is heard, rendered or drawn.
///
/// The World itself is immutable and may be asked from any thread. What has happened is in a WorldState that belongs to
/// whoever advances it.
class World
{
public:
    /// The project must have the level. `ground`: null when there is no geometry, or none is needed. `length`: may be empty.
    World(const std::shared_ptr<const Project>& project, const LevelId& level, const std::shared_ptr<const Ground>& ground,
          LengthOf length, Ways ways = Ways::find);
    /// The same for whoever has planted what the level's rules say already, with the same ground, and listed what can be
    /// played. `playables`: playablesOf() the planted level.
    World(std::shared_ptr<const Planted> planted, std::shared_ptr<const Ground> ground, LengthOf length, Ways ways,
          std::vector<Playable> playables);

    /// The document with what its level's plant rules put there, see plant(): after the level's own emitters.
    const Project& project() const { return *project_; }
    const Level& level() const { return *level_; }
    const Planted& planted() const { return *planted_; }
    const std::shared_ptr<const Planted>& sharedPlanted() const { return planted_; }
    const Ground* ground() const { return ground_.get(); }
    const std::shared_ptr<const Ground>& sharedGround() const { return ground_; }
    const std::shared_ptr<const Project>& sharedProject() const { return project_; }
    /// As it was written: without what is planted.
    const std::shared_ptr<const Project>& document() const { return planted_->document; }
    const ZoneMap& zones() const { return zones_; }
    const RoomMap& rooms() const { return rooms_; }
    /// The edges that pulses measure; null where there are none.
    const FloorEdges* edges() const { return edges_.get(); }
    /// Whether what takes a search round walls is looked for, or only taken where it has been found before.
    Ways ways() const { return ways_; }
    /// Whether a gaze counts at a moment. `gaze`: into the project's.
    bool gazes(std::size_t gaze, const Moment& moment, const ZonesAt& zones) const;

    const std::vector<Playable>& playables() const { return playables_; }
    /// The emitter's own sound; none when the document does not have it.
    std::optional<std::uint32_t> playableOf(std::uint32_t emitter) const { return own_[emitter]; }

    /// What an emitter plays for this sound, looped or not as it is there; none when it plays no such.
    std::optional<std::uint32_t> playableFor(std::uint32_t emitter, const Sound& sound) const;

    /// Whether it starts with the level, plays on from there and nothing else: such need no state.
    bool simple(std::uint32_t emitter) const { return simple_[emitter]; }
    /// Its one start.
    const Start& simpleStart(std::uint32_t emitter) const { return simpleStarts_[emitter]; }

    /// An emitter's number.
    std::optional<std::uint32_t> indexOf(const EmitterId& id) const;

    /// The shape of an area, in the frame of what carries it; null for everything else.
    const Solid* solidOf(std::uint32_t emitter) const;
    const Route& routeOf(std::uint32_t emitter) const { return routes_.at(emitter); }

    /// How long a start's sound is, seconds: infinite when it goes on, 0 when that is not known.
    double lengthOf_s(const Start& start) const;
    /// The shape in which a sprinkle falls, in the frame of what carries it; null for one that falls round the player or in
    /// its zone.
    const Solid* scatterOf(std::uint32_t emitter) const
    {
        const auto found = scatterSolids_.find(emitter);
        return found != scatterSolids_.end() ? &found->second : nullptr;
    }

    /// By whose chance a start's sound goes on.
    std::string courseIdOf(const Start& start) const;

    /// The number of a game value at a moment; 0 for one that does not exist.
    double valueAt(const Moment& moment, const GameValueId& id) const;
    /// How far an opening stands open at a moment, 0 to 1.
    double openShare(const Moment& moment, std::uint32_t opening) const;
    /// Where the thing is that carries something.
    Carriage carriageOf(const Riding& riding, const Moment& moment) const;
    /// When a Roamer set off: the start that counts at a moment; none: it has not.
    std::optional<double> setOff_s(std::uint32_t roamer, const Moment& moment) const;
    Route::Place roamerAt(std::uint32_t roamer, const Moment& moment) const;
    /// Zones round the character at a moment; those of its state, or worked out.
    void zonesAt(const Moment& moment, ZonesAt& zones) const;
    /// The shape of everything that an emitter can reach by moving: a Roamer's stops, a place; endless for riders.
    Sphere rangeOf(std::uint32_t emitter) const;

    /// What the character did up to the end of a stretch of time, and what was done from outside in it.
    struct Input {
        double to_s = 0.0;
        Pose feet;           ///< at the end
        bool jumped = false; ///< put there, not walked
        std::span<const Happening> happenings{};
        std::optional<Pose> camera{}; ///< of a game that is followed, instead of the rig's
    };
    /// Goes on from state.time_s to input.to_s. A new state begins at 0. Costs as much as happens and as is near.
    void advance(WorldState& state, const Input& input) const;

    /// What has happened in another world, as far as it holds in this one: after an edit.
    WorldState carriedOver(const World& before, const WorldState& state) const;

    /// The moment that a state and a listener make.
    Moment momentOf(const WorldState& state, const Ears& ears, const TimeSpan& when) const;
    /// The same for somebody of whom only the stance is known; `state` may be null.
    Moment momentOf(const Stance& stance, const Ears& ears, const TimeSpan& when, const WorldState* state) const;

    /// The name of a surface's material; empty for none.
    std::string surfaceName(const std::optional<std::uint32_t>& material) const;

private:
    World(const std::shared_ptr<const Planted>& planted, std::shared_ptr<const Ground> ground, LengthOf length, Ways ways);

    enum class Role : std::uint8_t { start, stop, rearm };
    struct Hook {
        std::uint32_t emitter;
        Role role;
        double within_m; ///< interact
    };

    void hook(std::uint32_t emitter, const std::vector<Trigger>& triggers, Role role);
    void cause(WorldState& state, const std::string& key, double time_s) const;
    void begin(WorldState& state, std::uint32_t emitter, double time_s, double after_s) const;
    bool isWithin(const WorldState& state, std::uint32_t emitter, double within_m, double time_s) const;
    void comeNear(WorldState& state, double time_s) const;
    void byHand(WorldState& state, const Happening::Hand& hand, double time_s) const;
    void startOrSecond(WorldState& state, std::uint32_t emitter, double time_s) const;
    static void end(WorldState& state, std::uint32_t emitter, double time_s, double fade_s);
    bool conditionsHold(const WorldState& state, const Starting& starting, double time_s) const;
    void move(WorldState& state, const Input& input, double from_s) const;
    void step(WorldState& state, const Input& input, double from_s) const;
    void tread(WorldState& state, std::uint32_t emitter, const std::string& surface, const Vec3& at, double time_s) const;
    void tell(WorldState& state, const Happening& happening, double from_s, double to_s) const;
    void sprinkle(WorldState& state, std::uint32_t emitter, double from_s, double to_s) const;
    /// When it ends; nothing when it did not start.
    std::optional<double> sprinkleStart(WorldState& state, std::uint32_t emitter, SprinkleState& sprinkle) const;
    void beat(WorldState& state, std::uint32_t emitter, double from_s, double to_s) const;
    std::optional<PulseState::Hazard> hazardOf(const WorldState& state, std::uint32_t emitter, const PulseState& pulse) const;
    void answer(WorldState& state, std::uint32_t emitter, SprinkleState& sprinkle, const Start& call) const;
    std::optional<Vec3> sprinkleAt(const WorldState& state, std::uint32_t emitter, const SprinkleChance& chance,
                                   std::uint64_t number, std::size_t sector, unsigned firstAttempt) const;
    void use(WorldState& state, double time_s) const;
    void send(WorldState& state, const SignalId& signal, double time_s) const;
    void beginBurst(WorldState& state, const Burst& burst, double time_s) const;
    void goOnBursting(WorldState& state, double to_s) const;
    void fire(WorldState& state, const Bursting& burst, double time_s) const;
    void setValue(WorldState& state, std::size_t value, double to, double time_s) const;
    void moveValues(WorldState& state, const SignalId& signal, double time_s) const;
    void moveDoors(WorldState& state, const SignalId& signal, double time_s) const;
    void beLively(WorldState& state, double from_s, double to_s) const;
    void arrive(WorldState& state, std::uint32_t emitter, double from_s, double to_s) const;
    Start startOf(std::uint32_t emitter, Start::Part part, std::uint32_t playable, std::uint64_t number, double time_s,
                  std::optional<std::size_t> file) const;
    double floorBelow_m(const Vec3& feet, std::optional<std::uint32_t>& surface) const;
    std::optional<std::uint32_t> playable(const SoundId& id, Rounds rounds) const;
    std::optional<std::uint32_t> second(std::uint32_t emitter) const;

    std::shared_ptr<const Planted> planted_;
    std::shared_ptr<const Project> project_;
    const Level* level_;
    std::shared_ptr<const Ground> ground_;
    LengthOf length_;
    std::vector<Playable> playables_;
    std::vector<std::optional<std::uint32_t>> own_;
    std::vector<bool> ofItself_; ///< starts with the level, without any rule
    std::vector<bool> simple_;   ///< and is no source of one-shots
    std::vector<Start> simpleStarts_;
    std::unordered_map<std::uint32_t, Solid> solids_;        ///< of areas
    std::unordered_map<std::uint32_t, Solid> scatterSolids_; ///< of sprinkles
    std::unordered_map<std::uint32_t, Route> routes_;
    ZoneMap zones_;
    RoomMap rooms_;
    NestingDepths nesting_;
    Ways ways_;
    std::unordered_map<std::string, std::vector<Hook>> hooks_; ///< by cause
    /// Emitters that start things by themselves: sprinkles and Roamers that sound on arriving. Those of a zone are looked at
    /// while one is in it, those that are somewhere while one is in their reach, the others always.
    std::vector<std::vector<std::uint32_t>> livelyInZone_;
    std::vector<std::uint32_t> livelySomewhere_;
    SphereIndex livelyIndex_; ///< of those
    std::vector<std::uint32_t> livelyEverywhere_;
    std::vector<std::uint32_t> steps_;
    std::vector<std::uint32_t> pulses_;
    std::shared_ptr<const FloorEdges> edges_;                ///< null while no pulse needs them, and until they have been found
    std::vector<std::pair<std::uint32_t, double>> nearness_; ///< see WorldState::near
    std::vector<std::uint32_t> doors_;                       ///< openings that wait for a signal
    bool watchesGround_ = false;
};

/// The document's events on a walk's time line as happenings at (from_s, to_s]; the first stretch includes its beginning.
std::vector<Happening> happeningsOf(const Walk& walk, double from_s, double to_s);

/// From one beat of a pulse to the next where what it tells of is so far away in the plan, seconds: the falloff's lane, or what
/// the pulse itself says.
constexpr double leastInterval_s = 0.02;
double beatInterval_s(const Project& project, const Emitter& emitter, double distance_m);

} // namespace stone
