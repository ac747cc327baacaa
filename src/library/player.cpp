// SPDX-License-Identifier: MPL-2.0
#include "library/player.h"

#include "geometry/leap.h"
#include "level/finds.h"
#include "level/read_geometry.h"
#include "project/atomic_file.h"
#include "project/file_error.h"
#include "project/read.h"
#include "world/walk_pose.h"

#include <algorithm>

namespace stone
{

namespace
{

std::shared_ptr<const Ground> groundOf(const OpenedProject& opened, const LevelId& level)
{
    const LevelGeometry geometry = readGeometry(*opened.project->levels.find(level), opened.folder);
    if (!geometry.error.empty()) {
        throw FileError(geometry.error);
    }
    if (opened.unpacked && geometry.ground) {
        const auto number = opened.project->levels.indexOf(level).value_or(0);
        giveFinds(*geometry.ground, fileText(opened.folder / findsName(number)));
    }
    return geometry.ground;
}

} // namespace

OpenedProject openProject(const std::filesystem::path& path)
{
    std::shared_ptr<const PassingFolder> unpacked;
    if (isPack(path)) {
        unpacked = std::make_shared<const PassingFolder>();
        unpack(path, unpacked->path(), true);
    }
    const std::filesystem::path document = documentPath(unpacked ? unpacked->path() : path);
    const std::filesystem::path folder = std::filesystem::absolute(document).parent_path();
    return {std::make_shared<const Project>(readProjectFile(document).project), folder, filesInside(folder), unpacked};
}

Player::Player(OpenedProject opened, const LevelId& level, Layout layout, int rate)
    : opened_(std::move(opened)), level_(level), bank_(rate, {Measure::peak, {}}, Helpers::none),
      ground_(groundOf(opened_, level)), mixer_(layout, rate), control_(layout, rate)
{
    const Character& character = this->level().character;
    feet_ = {character.start, character.heading_deg};
    renew();
}

/// The scene of what is there now.
void Player::renew()
{
    scene_ = makeScene(withThings(opened_.project, level_, things_), level_, bank_, opened_.resolve, Loading::now, ground_, {},
                       {}, scene_.get());
    control_.setScene(scene_, next_);
}

void Player::setFeet(const Pose& feet)
{
    jumped_ = jumped_ || glm::length(feet.at - feet_.at) > leap_m;
    feet_ = feet;
}

void Player::followWalk(const Walk& walk, double time_s)
{
    const double step_s = static_cast<double>(stepFrames) / control_.rate();
    feet_ = walkPose(walk, time_s);
    // Where it was before, to the bit: what happens on the border between two steps happens once.
    const bool goesOn = walkBefore_s_ < time_s && time_s - walkBefore_s_ < 1.5 * step_s;
    for (Happening& happening : happeningsOf(walk, goesOn ? walkBefore_s_ : time_s - step_s, time_s)) {
        happenings_.push_back(std::move(happening));
    }
    walkBefore_s_ = time_s;
}

bool Player::place(const std::string& name, const Pose& pose)
{
    if (!things_.appeared.contains(name) && !things_.placed.contains(name)) {
        if (!namesToPlace(level()).contains(name)) {
            return false;
        }
        things_.placed.insert(name);
        renew();
    }
    add({.thing = std::pair(name, pose)});
    return true;
}

void Player::appear(const std::string& name, const PatternId& pattern, const Pose& pose)
{
    things_.appeared.insert_or_assign(name, pattern);
    renew();
    add({.thing = std::pair(name, pose)});
}

bool Player::remove(const std::string& name)
{
    if (things_.appeared.erase(name) + things_.placed.erase(name) == 0) {
        return false;
    }
    renew();
    return true;
}

bool Player::decide()
{
    next_ = std::max(next_, mixer_.step());
    StepPlan* plan = mixer_.plans().free();
    if (plan == nullptr) {
        return false;
    }
    if (restarts_) {
        restarts_ = false;
        control_.restart(next_, 0.0);
        jumped_ = true;
    }
    Control::Situation situation{.ears = {}, .feet = feet_, .jumped = jumped_, .happenings = happenings_, .camera = camera_};
    if (ears_) {
        const double step_s = static_cast<double>(stepFrames) / control_.rate();
        const bool moves = earsBefore_ && !jumped_ && glm::length(ears_->at - earsBefore_->at) <= leap_m;
        situation.ears = Ears(*ears_, moves ? (ears_->at - earsBefore_->at) / step_s : Vec3{0.0});
    }
    control_.decide(next_, situation, *plan);
    control_.measureCosts(mixer_.times());
    mixer_.plans().publish();
    ++next_;
    earsBefore_ = ears_;
    happenings_.clear();
    jumped_ = false;
    leaving_.collect(control_, mixer_);
    return true;
}

void Player::stream()
{
    bank_.stream();
    leaving_.collect(control_, mixer_);
}

} // namespace stone
