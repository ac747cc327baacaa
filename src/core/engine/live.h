// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "dsp/loudness_meter.h"
#include "engine/control.h"
#include "engine/ear_limiter.h"
#include "engine/leaving_scenes.h"
#include "engine/mixer.h"
#include "engine/render_source.h"
#include "engine/step_listener.h"
#include "engine/wakeup.h"

#include <atomic>
#include <limits>
#include <memory>
#include <mutex>
#include <optional>
#include <thread>

namespace stone
{

/// What the engine heard when it decided a step, walls and gaze as far on their way as they sounded. Who shows what sounds
/// reads it here instead of reckoning it once more.
struct HeardStep {
    std::shared_ptr<const Scene> scene;
    Ears ears;
    TimeSpan when;
    std::vector<Heard> heard; ///< of everything in whose reach the ears are, a Heard for each start
    std::vector<RoomHeard> rooms;
};

/// Somebody outside who moves the character and does things to the level instead of whoever sits at the desk: a game that is
/// followed.
class Leader
{
public:
    virtual ~Leader() = default;

    /// What is so at the end of a step of the engine that takes so long, and what happens in it.
    struct Step {
        std::optional<Pose> feet;   ///< none: nobody has said yet
        std::optional<Pose> ears;   ///< none: where the rig has them
        std::optional<Pose> camera; ///< none: the rig's
        bool jumped = false;        ///< the character did not walk there
        std::vector<Happening> happenings;
    };
    /// On the thread that decides: what takes long delays the sound.
    virtual Step step(double seconds) = 0;
};

/// Decides and mixes live. The control thread keeps a few steps ahead of the device; between the two only rings and
/// atomics travel.
class Live : public Played
{
public:
    /// How many steps are decided ahead: 4 x 256 frames are 21 ms at 48 kHz, the time within which the control thread
    /// must get its turn, and about what an edit waits before it can be heard.
    static constexpr std::size_t stepsAhead = 4;

    /// What the window shows of a running engine.
    struct Snapshot {
        double time_s = 0.0; ///< since the level started
        Pose feet;           ///< of the character
        bool led = false;    ///< somebody who is followed has put it there
        std::optional<double> walk_s;
        ChannelGains peak{};   ///< largest sample of the last 100 ms
        ChannelGains rms_db{}; ///< over the last 100 ms
        double momentary_lufs = 0.0;
        double integrated_lufs = 0.0;
        std::size_t voices = 0;
        std::size_t gaveWay = 0;
        std::uint64_t lateSteps = 0;
        std::uint64_t starved = 0;   ///< see Control::starved()
        std::uint64_t contained = 0; ///< see Mixer::contained()
        float limited_db = 0.0F;     ///< see EarLimiter::taken_db()
        std::string broken;          ///< the emitter whose sound was last; "a room" where it was no emitter's; empty: none
        bool paused = false;
        /// What has happened in the level, a few hundredths of a second old at most; null before the first step.
        std::shared_ptr<const WorldState> world;
        std::shared_ptr<const World> worldOf; ///< whose state it is
        /// What the last half second has cost; null before there was one.
        std::shared_ptr<const Costs> costs;
        /// What was heard at the same moment; null while the level's time stands still, and right after a change.
        std::shared_ptr<const HeardStep> hearing;
    };

    Live(Layout layout, int rate);
    ~Live() override;

    int rate() const override { return rate_; }
    std::size_t channels() const override { return channelsOf(layout()); }
    Layout layout() const { return mixer_.layout(); }

    // Window thread. What is set here is heard stepsAhead later.
    void setScene(std::shared_ptr<const Scene> scene);
    /// Where the character is and faces. The ears glide there, within about 30 ms, unless `jump`.
    void setFeet(const Pose& feet, bool jump);
    /// Listens with other ears than the rig's, on a walk too, until given nothing. They glide there and back.
    void listenFrom(const std::optional<Pose>& ears);
    /// Follows a walk of the scene's level from a time on; the feet are then its business until stopWalk(). The level is
    /// then as old as the walk, as it is when the walk is rendered.
    /// `before`: what has happened on it by then; null: nothing.
    void playWalk(const WalkId& walk, double from_s, std::shared_ptr<const WorldState> before = {});
    void stopWalk();
    /// The level for the monitor alone; changes nothing in what is rendered.
    void setMonitor_db(double level_db);
    /// Starts the level again: all sounds from their beginning.
    void restart();
    Snapshot snapshot() const;
    /// Tells somebody of each step from the next one on; null: nobody any more. When it returns, nobody else is told. What is
    /// told may take some time, but not wait.
    void setListener(std::shared_ptr<StepListener> listener);
    /// Follows somebody, from the next step on; null: nobody any more. When it returns, nobody else is asked. Walks go first.
    void follow(std::shared_ptr<Leader> leader);
    /// Does something to the level.
    void send(const Happening& happening);
    /// Claps in front of the ears, to hear what the place answers.
    void clap(Clap what);
    /// Stops the level's time, and lets it go on: for good, or for so long.
    void pause();
    void goOn(double for_s = std::numeric_limits<double>::infinity());

    void start() override;
    void stop() override;

    /// Decides steps until enough are ahead, fetches meters, frees what is not needed any more.
    void pump() override;

    /// Audio thread.
    void render(float* interleaved, std::size_t frames) noexcept override
    {
        const std::uint64_t before = mixer_.step();
        mixer_.process(interleaved, frames);
        limiter_.process(interleaved, frames);
        if (mixer_.step() != before) {
            taken_.wake(); // there is room for another plan
        }
    }

private:
    /// What the window asks for, guarded by mutex_: neither side of it is the audio thread.
    struct Wishes {
        std::shared_ptr<const Scene> scene;
        bool newScene = false;
        Pose feet;
        bool jump = true;
        std::optional<Pose> elsewhere;
        WalkId walk;
        double walkFrom_s = 0.0;
        bool newWalk = false;
        double monitor_db = 0.0;
        bool restart = true;
        std::shared_ptr<const WorldState> before; ///< what has happened on the new walk
        std::vector<Happening> happenings;
        std::optional<Clap> clap;
        bool paused = false;
        double goOnFor_s = std::numeric_limits<double>::infinity();
        bool newPause = false;
    };

    void run();
    void takeWishes(std::uint64_t step);
    void nextFeet(std::uint64_t step);
    bool nextLed();
    std::optional<Ears> earsElsewhere();
    void measure();
    void show();

    const int rate_;
    Mixer mixer_;
    EarLimiter limiter_;

    std::mutex leading_; ///< held while the leader is asked
    std::shared_ptr<Leader> leader_;

    mutable std::mutex telling_; ///< held while somebody is told
    std::shared_ptr<StepListener> listener_;
    std::uint64_t tappedFrames_ = 0;

    mutable std::mutex mutex_;
    Wishes wishes_;
    Snapshot snapshot_;

    // Control thread only.
    Control control_;
    std::shared_ptr<const Scene> scene_;
    std::uint64_t nextStep_ = 0;
    double start_s_ = 0.0; ///< engine time at which the level started
    Pose feet_;
    Pose feetTarget_;
    std::optional<Pose> elsewhere_;
    bool led_ = false;                  ///< the feet are where a leader has them
    std::optional<Pose> ledEars_;       ///< where a leader's ears are
    std::optional<Pose> ledCamera_;     ///< and its camera
    std::optional<Pose> listening_;     ///< the ears that are elsewhere, or on their way back
    bool jumped_ = true;                ///< the ears did not get where they are by moving
    std::vector<Happening> happenings_; ///< of the step that is being decided
    std::optional<std::uint64_t> heldAt_;
    std::optional<std::uint64_t> holdAgainAt_;
    std::uint64_t contained_ = 0; ///< see Mixer::contained()
    std::string broken_;          ///< whose sound was last
    std::shared_ptr<const WorldState> shown_;
    std::shared_ptr<const World> shownOf_;
    std::shared_ptr<const HeardStep> hearing_;
    WalkId walk_;
    std::uint64_t walkStep_ = 0; ///< step at which the walk is at walkFrom_s_
    double walkFrom_s_ = 0.0;
    float master_ = 1.0F;
    LeavingScenes leaving_;
    std::vector<float> tapped_;
    LoudnessMeter loudness_;
    ChannelGains peak_{};
    ChannelGains squares_{};
    std::size_t meterSteps_ = 0;

    std::atomic<bool> running_{false};
    Wakeup taken_; ///< plans were taken up
    std::thread thread_;
};

} // namespace stone
