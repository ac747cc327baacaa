// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "engine/control.h"
#include "engine/game_things.h"
#include "engine/leaving_scenes.h"
#include "engine/mixer.h"
#include "media/pack.h"

#include <filesystem>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace stone
{

/// A project as a host opened it.
struct OpenedProject {
    std::shared_ptr<const Project> project;
    std::filesystem::path folder;
    ResolveFile resolve;                             ///< where its sounds are
    std::shared_ptr<const PassingFolder> unpacked{}; ///< of a pack: goes with the last who plays from it
};

/// A level that a host plays: the same deciding and mixing as everywhere, at the host's pace and on the host's threads. What is
/// told holds from the next step on. See stone_echo.h for who may call what.
class Player
{
public:
    /// Throws FileError where files cannot be read. The project must have the level; `rate`: 44.1 kHz or more.
    Player(OpenedProject opened, const LevelId& level, Layout layout, int rate);

    Layout layout() const { return mixer_.layout(); }
    const Project& project() const { return *opened_.project; }
    /// As it was written.
    const Level& level() const { return *opened_.project->levels.find(level_); }
    const HearingModel& model() const { return scene_->model; }

    void restart() { restarts_ = true; }
    void setFeet(const Pose& feet);
    void setEars(const std::optional<Pose>& ears) { ears_ = ears; }
    void setCamera(const std::optional<Pose>& camera) { camera_ = camera; }
    void add(Happening happening) { happenings_.push_back(std::move(happening)); }
    /// Goes where a walk goes, with what happens on it in the step that ends then.
    void followWalk(const Walk& walk, double time_s);
    /// Where a thing is; false: nobody and nothing is called so.
    bool place(const std::string& name, const Pose& pose);
    void appear(const std::string& name, const PatternId& pattern, const Pose& pose);
    /// False: it was not there.
    bool remove(const std::string& name);

    /// False: enough are decided.
    bool decide();
    std::size_t ahead() const { return mixer_.plans().waiting(); }
    /// Host's audio thread.
    void render(float* interleaved, std::size_t frames) noexcept { mixer_.process(interleaved, frames); }
    void stream();

    const Control& control() const { return control_; }
    const Mixer& mixer() const { return mixer_; }

private:
    void renew();

    OpenedProject opened_;
    LevelId level_;
    SoundBank bank_;
    std::shared_ptr<const Ground> ground_;
    Mixer mixer_;
    Control control_;
    std::shared_ptr<const Scene> scene_;
    LeavingScenes leaving_;
    GameThings things_;
    std::uint64_t next_ = 0; ///< step that is decided next
    bool restarts_ = false;
    bool jumped_ = false;
    Pose feet_;
    std::optional<Pose> ears_;
    std::optional<Pose> earsBefore_;
    std::optional<Pose> camera_;
    std::vector<Happening> happenings_;
    double walkBefore_s_ = 0.0; ///< up to which a walk was followed
};

/// Opens a folder, a document or a pack. Throws FileError.
OpenedProject openProject(const std::filesystem::path& path);

} // namespace stone
