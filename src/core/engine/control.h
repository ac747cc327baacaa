#pragma once

#include "engine/scene.h"
#include "engine/step_plan.h"
#include "engine/stream_line.h"

#include <cstdint>
#include <memory>
#include <optional>
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

    /// Puts every emitter where it is when the level is so old at this step: at 0, all begin.
    void restart(std::uint64_t step, double levelTime_s);

    /// Fills in what sounds in one step; `ears` as they are at its end. Steps may be skipped, never repeated. `plan.voices` is
    /// not grown beyond its capacity.
    void decide(std::uint64_t step, const Ears& ears, StepPlan& plan);

    /// Buffers that no voice of a plan from this step on uses. They must outlive the voices' fading.
    struct Retired {
        std::shared_ptr<const Scene> scene;
        std::uint64_t lastStep;
    };
    /// Moves out the scenes that are not needed any more, each with the last step that may refer to it.
    std::vector<Retired> takeRetired() { return std::exchange(retired_, {}); }

    /// What the last decide() heard, and how many of them are mixed and how many gave way.
    const std::vector<Heard>& heard() const { return heard_; }
    std::size_t sounding() const { return sounding_; }
    std::size_t gaveWay() const { return gaveWay_; }
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

    /// An emitter and its sound.
    struct Playing {
        SharedMaterial material;      ///< null: nothing to play
        std::optional<Course> course; ///< nothing until it is needed
        double rate = 1.0;
        double anchorFrame = 0.0; ///< engine frame at which the sound's clock is at anchorTime
        double anchorTime = 0.0;  ///< frames
        bool anchored = false;
        double delay_s = 0.0;        ///< by which it is late for the way it travels, for Doppler
        BandFilter::Settings losses; ///< of the air
        float lossesFor_m = -1.0F;   ///< the distance for which they were worked out
        std::vector<Part> parts;     ///< empty while it does not sound
    };

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

    void anchor(Playing& playing, const Emitter& emitter, std::uint64_t step);
    static StreamLine::Source sourceOf(const Piece& piece, const SampleBuffer& audio, const Playing& playing,
                                       const std::optional<std::size_t>& channel);
    void feed(const StreamLine::Source& source, double place, bool fresh, VoiceOrder& order);
    EchoLine* echoOf(std::uint32_t slot, const EffectSettings& effects);
    void release(Playing& playing, std::uint64_t step);
    void release(Part& part, std::uint64_t step);
    bool takeSlots(Part& part, std::size_t count, std::uint64_t step);
    void chooseVoices();
    double clockAt(const Playing& playing, std::uint64_t step) const;
    void order(const Heard& heard, const Ears& ears, std::uint64_t step, StepPlan& plan);
    bool orderPiece(const Piece& piece, const Heard& heard, const ClockSpan& clock, std::uint64_t step, StepPlan& plan);
    double glideDelay(std::uint32_t emitter, const Heard& heard, const Ears& ears, std::uint64_t step);
    void setLosses(Playing& playing, const Heard& heard);

    Layout layout_;
    double rate_;
    BandFilter::Designer designer_;
    SharedHead builtInHead_; ///< binaural only
    std::shared_ptr<const Scene> scene_;
    std::vector<Playing> playing_; ///< by emitter of the scene
    std::vector<FreeSlot> free_;
    std::vector<Heard> heard_;
    std::vector<std::uint32_t> scratch_;
    std::vector<std::uint32_t> chosen_;  ///< into heard_
    std::vector<std::uint32_t> sounded_; ///< emitters with parts
    std::vector<Piece> pieces_;
    std::vector<std::unique_ptr<EchoLine>> echoes_;  ///< by slot
    std::vector<std::unique_ptr<StreamLine>> lines_; ///< by slot
    std::vector<Retired> retired_;
    double startFrame_ = 0.0; ///< of the level; before the first step when it was joined later
    std::uint64_t serial_ = 0;
    std::uint32_t nextGeneration_ = 1;
    std::size_t sounding_ = 0;
    std::size_t gaveWay_ = 0;
    std::uint64_t starved_ = 0;
};

} // namespace stone
