// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "engine/clap.h"
#include "engine/cost.h"
#include "engine/echo_slots.h"
#include "engine/room_slots.h"
#include "engine/scene.h"
#include "engine/step_plan.h"
#include "engine/stream_line.h"

#include <cstdint>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <unordered_map>
#include <utility>
#include <vector>

namespace stone
{

/// Decides, step by step, what sounds: asks the hearing model, keeps the time of every emitter and gives out voices.
/// The same object serves the live engine and renders. Belongs to one thread, the control thread.
///
/// Sounds that nobody hears keep their place in time without costing anything: it is worked out when they come back.
class Control
{
public:
    Control(Layout layout, int rate);

    /// Takes over a new scene. Emitters that have the same id and the same sound go on playing where they are.
    void setScene(std::shared_ptr<const Scene> scene, std::uint64_t step);

    /// Puts every emitter where it is when the level is so old at this step: at 0, all begin. `state`: what has happened by
    /// then; none: nothing.
    void restart(std::uint64_t step, double levelTime_s, const WorldState* state = nullptr);

    /// Who listens and what is done to the level in one step, as it is at its end.
    struct Situation {
        std::optional<Ears> ears; ///< of somebody who listens from elsewhere; none: where the project's rig has them
        Pose feet;                ///< of the character
        bool jumped = false;      ///< the character did not walk there
        std::span<const Happening> happenings{};
        std::optional<Pose> camera{}; ///< of a game that is followed; none: the rig's
    };

    /// Fills in what sounds in one step. Steps may be skipped, never repeated. `plan.voices` is not grown beyond its capacity.
    void decide(std::uint64_t step, const Situation& situation, StepPlan& plan);
    /// The same for somebody whose ears are on the character.
    void decide(std::uint64_t step, const Ears& ears, StepPlan& plan);
    /// Lets a step go by in the level without a sound.
    void pass(std::uint64_t step, const Situation& situation);

    /// Holds the level's time from a step on, and lets it go on from another: what sounded is silent in between and goes on
    /// where it was.
    void hold(std::uint64_t step);
    void goOn(std::uint64_t step);
    bool held() const { return heldAt_.has_value(); }

    /// What has happened in the level so far.
    const WorldState& state() const { return state_; }

    /// Buffers that no voice of a plan from this step on uses. They must outlive the voices' fading.
    struct Retired {
        std::shared_ptr<const Scene> scene;
        std::uint64_t lastStep;
    };
    /// Moves out the scenes that are not needed any more, each with the last step that may refer to it.
    std::vector<Retired> takeRetired() { return std::exchange(retired_, {}); }

    /// A clap in front of the ears, from this step on. It takes no voice from anything else.
    void clap(Clap what, std::uint64_t step) { clapping_ = Clapping{what, step, nextGeneration_++}; }

    /// What the last decide() heard, and how many of them are mixed and how many gave way.
    const std::vector<Heard>& heard() const { return heard_; }
    /// And what of the rooms.
    const std::vector<RoomHeard>& roomsHeard() const { return scratch_.roomsHeard; }
    /// The ears that heard it and the time for which it was decided; nothing before the first decision about a scene.
    const std::optional<std::pair<Ears, TimeSpan>>& heardAt() const { return heardAt_; }
    std::size_t sounding() const { return sounding_; }
    std::size_t gaveWay() const { return gaveWay_; }
    /// The name of the emitter that sounds in a slot of voices; "a room" for a slot that no voice has.
    std::string nameIn(std::uint32_t slot) const;
    /// After each decision: measures now and then what has been spent, here and in the stages of a mixer.
    void measureCosts(const StageTimes& mixer);
    /// Of the last half second that was measured; null before there was one.
    const std::shared_ptr<const Costs>& costs() const { return costs_; }
    double rate() const { return rate_; }
    const std::shared_ptr<const Scene>& scene() const { return scene_; }
    /// How often, since the beginning, a voice was silent for a moment because its sound did not come from the disk in time.
    std::uint64_t starved() const { return starved_; }

private:
    /// A piece of a sound while it has voices.
    struct Part {
        std::uint64_t serial = 0;            ///< of the piece
        const SampleBuffer* audio = nullptr; ///< kept alive by the scene
        double begins = 0.0;                 ///< as the piece does; another begin is another piece
        std::uint32_t generation = 0;
        std::vector<std::uint32_t> voiceSlots; ///< one for each voice
        std::uint64_t lastSounded = 0;         ///< serial of the decision in which it last had voices
    };

    /// One start of an emitter and its sound. It is made when it is heard for the first time.
    struct Playing {
        SharedMaterial material;      ///< null: nothing to play
        std::optional<Course> course; ///< nothing until it is needed
        double began_s = 0.0;         ///< of the start
        double pitch_st = 0.0;        ///< of the start
        double rate = 1.0;
        double anchorFrame = 0.0; ///< engine frame at which the sound's clock is at anchorTime
        double anchorTime = 0.0;  ///< frames
        bool anchored = false;
        double delay_s = 0.0;           ///< by which it is late for the way it travels, for Doppler
        double wantedDelay_s = 0.0;     ///< and would be without a limit to its pitch
        BandFilter::Settings losses;    ///< of air and walls
        Bands lossesFor_db{};           ///< for which they were worked out
        std::optional<Vec3> soundsFrom; ///< of areas and beds: the place that glides after the nearest one
        std::vector<Part> parts;        ///< empty while it does not sound
    };
    /// Names a start for as long as the scene is the same.
    using Key = std::uint64_t;
    /// The filters for the ears, binaural only: the scene's, where they are made for this rate, else the built-in ones.
    const HeadFilters* headFilters() const;

    /// The sound's clock over one step: at its first frame and after its last.
    struct ClockSpan {
        double from;
        double to;
        double pace() const { return (to - from) / static_cast<double>(stepFrames); }
    };

    struct FreeSlot {
        std::uint32_t slot;
        std::uint64_t from; ///< step from which it may be used: its last voice has faded by then
    };

    Playing& playingOf(const Heard& heard, std::uint64_t step);
    void anchor(Playing& playing, const Emitter& emitter, std::uint64_t step);
    /// Where the ears are after it.
    Ears advance(std::uint64_t step, const Situation& situation);
    TimeSpan timeOf(std::uint64_t step) const;
    void glide(Playing& playing, const Emitter& emitter, const Ears& ears, Heard& heard) const;
    static StreamLine::Source sourceOf(const Piece& piece, const SampleBuffer& audio, const Playing& playing,
                                       const std::optional<std::size_t>& channel);
    void feed(const StreamLine::Source& source, double place, bool fresh, VoiceOrder& order);
    EchoLine* echoOf(std::uint32_t slot, const EffectSettings& effects);
    void release(Playing& playing, std::uint64_t step);
    void release(Part& part, std::uint64_t step);
    bool takeSlots(Part& part, std::size_t count, std::uint64_t step);
    void chooseVoices();
    double clockAt(const Playing& playing, std::uint64_t step) const;
    void order(Heard& heard, const Ears& ears, std::uint64_t step, StepPlan& plan);
    bool orderPiece(Playing& playing, const Piece& piece, const Heard& heard, const ClockSpan& clock, std::uint64_t step,
                    StepPlan& plan);
    void orderClap(std::uint64_t step, StepPlan& plan);
    double glideDelay(Playing& playing, const Heard& heard, const Ears& ears, std::uint64_t step);
    void setLosses(Playing& playing, const Heard& heard) const;

    Layout layout_;
    double rate_;
    BandFilter::Designer designer_;
    SharedHead builtInHead_; ///< binaural only
    std::shared_ptr<const Scene> scene_;
    WorldState state_;
    std::unordered_map<Key, Playing> playing_;
    std::vector<FreeSlot> free_;
    std::vector<Heard> heard_;
    HearScratch scratch_;
    RoomSlots rooms_;
    EchoSlots reflections_;
    std::vector<EchoSlots::Candidate> candidates_;
    std::vector<std::uint32_t> chosen_; ///< into heard_
    std::vector<Key> sounded_;          ///< those with parts
    std::vector<Piece> pieces_;
    std::vector<std::unique_ptr<EchoLine>> echoes_;  ///< by slot
    std::vector<std::unique_ptr<StreamLine>> lines_; ///< by slot
    struct Clapping {
        Clap what;
        std::uint64_t from;
        std::uint32_t generation;
    };
    std::array<std::vector<float>, clapCount> claps_; ///< as long as the mixer may play them
    std::optional<Clapping> clapping_;
    Heard clapHeard_; ///< by the space round it
    std::vector<Retired> retired_;
    double startFrame_ = 0.0; ///< of the level; before the first step when it was joined later
    std::optional<std::uint64_t> heldAt_;
    std::optional<std::pair<Ears, TimeSpan>> heardAt_;
    std::uint64_t serial_ = 0;
    std::uint32_t nextGeneration_ = 1;
    std::size_t sounding_ = 0;
    std::size_t gaveWay_ = 0;
    std::uint64_t starved_ = 0;
    StageTimes times_;
    WorkTally work_;
    std::shared_ptr<const Costs> costs_;
    std::vector<SoundId> sounds_; ///< by playable of the scene
};

} // namespace stone
