// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "engine/step_listener.h"
#include "takes/take.h"

#include <chrono>
#include <filesystem>
#include <functional>
#include <memory>
#include <string>
#include <vector>

namespace stone
{

/// Records a take of whatever an engine plays. What it is told it only takes down; what it takes to put that into the file is
/// done on a thread of its own, and what waits for it is a few seconds at most: a longer take needs no more memory.
class TakeRecorder : public StepListener
{
public:
    /// `info`: what is known beforehand; rate and channels of what sound() will bring. `keepsSound`: else it is only measured.
    /// `waits`: rather than growing, whoever tells too much too quickly waits; for renders. Throws FileError.
    TakeRecorder(const std::filesystem::path& file, TakeInfo info, bool keepsSound, bool waits = false);
    ~TakeRecorder() override;
    TakeRecorder(const TakeRecorder&) = delete;
    TakeRecorder& operator=(const TakeRecorder&) = delete;

    void decided(std::uint64_t step, const Control::Situation& situation, const Control& control) override;
    void sound(double time_s, std::span<const float> interleaved) override;

    /// The engine time that is the take's beginning; without it that of the first step it is told of.
    void beginAt(double time_s);
    /// The time of the walk at a moment of the level; without it none is followed.
    void followWalk(std::function<double(double level_s)> walk_s);
    /// The document from now on, and what was done to it. Any thread.
    void changed(std::shared_ptr<const Project> document, std::string words);
    /// Something that is not told by the engine: a bump, a fall. Now. Any thread.
    void note(TakeEvent::Kind kind, std::string name = {});
    /// What all sounds take in memory now. Any thread.
    void setMemory(double bytes);

    /// For how long it has been recording, seconds. Any thread.
    double seconds() const;

    /// Ends it and waits until all of it is in the file. Throws FileError where something could not be written.
    void finish();
    /// What went wrong while it recorded, in one line; empty: nothing. Any thread.
    std::string failure() const;

private:
    struct State;

    TakenMoment momentOf(const Control& control, double t_s);
    void tellBands(const Control& control, double t_s);
    std::uint32_t emitterOf(std::uint32_t index);
    std::uint32_t copyOf(const Start& start);
    void meet(const HearingModel& model);

    std::unique_ptr<State> state_;
};

/// The time now, UTC, as takes say it.
std::string takeTime();
/// What a processor calls itself; empty where that cannot be found out.
std::string thisMachine();

} // namespace stone
