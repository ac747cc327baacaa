// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/commands.h"
#include "cli/interrupt.h"
#include "device/audio_device.h"
#include "follow/game_link.h"
#include "follow/told_changes.h"
#include "media/sound_writer.h"
#include "project/file_error.h"
#include "takes/take_recorder.h"

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <filesystem>
#include <iostream>
#include <mutex>
#include <thread>
#include <unistd.h>

namespace stone::cli
{

namespace
{

constexpr std::size_t blockFrames = 256;
constexpr auto look = std::chrono::milliseconds(20);
constexpr double readAgainEvery_s = 0.5;
constexpr double sayEvery_s = 1.0;

/// Takes down what an engine plays: into a sound file, into a take, or both.
class Taking : public StepListener
{
public:
    Taking(std::unique_ptr<SoundWriter> writer, std::unique_ptr<TakeRecorder> recorder)
        : writer_(std::move(writer)), recorder_(std::move(recorder))
    {
    }

    void decided(std::uint64_t step, const Control::Situation& situation, const Control& control) override
    {
        if (recorder_) {
            recorder_->decided(step, situation, control);
        }
    }
    void sound(double time_s, std::span<const float> interleaved) override
    {
        if (writer_) {
            const std::lock_guard lock(mutex_);
            waiting_.insert(waiting_.end(), interleaved.begin(), interleaved.end());
        }
        if (recorder_) {
            recorder_->sound(time_s, interleaved);
        }
    }

    /// Writes what came: not on the engine's thread, which waits for no disk.
    void write()
    {
        {
            const std::lock_guard lock(mutex_);
            writing_.swap(waiting_);
            waiting_.clear();
        }
        if (writer_ && !writing_.empty()) {
            writer_->write(writing_);
        }
    }

    void finish()
    {
        write();
        if (writer_) {
            writer_->finish();
        }
        if (recorder_) {
            recorder_->finish();
        }
    }

private:
    std::unique_ptr<SoundWriter> writer_;
    std::unique_ptr<TakeRecorder> recorder_;
    std::mutex mutex_; ///< the next
    std::vector<float> waiting_;
    std::vector<float> writing_;
};

std::unique_ptr<AudioDevice> openDevice(const Follow& options, unsigned channels)
{
    if (options.output == "none") {
        return openClock(options.rate, blockFrames);
    }
    const std::vector<SoundCard> cards = soundCards();
    const auto card = std::find_if(cards.begin(), cards.end(), [&](const SoundCard& one) {
        return options.output.empty() ? one.usual : one.name == options.output;
    });
    if (card != cards.end()) {
        return openSoundCard(*card, options.rate, blockFrames, channels);
    }
    if (!options.output.empty()) {
        std::string all;
        for (const SoundCard& one : cards) {
            all += (all.empty() ? "\"" : ", \"") + one.name + '"';
        }
        throw UsageError("no output is called \"" + options.output + "\"; there " +
                         (all.empty() ? "is no sound card; use --output none" : "are " + all));
    }
    std::cerr << "note: there is no sound card: nothing is heard, but time passes\n";
    return openClock(options.rate, blockFrames);
}

/// What is played while a game is followed, and what it takes to keep up with it.
class Following
{
public:
    Following(const Follow& options, Layout layout)
        : options_(options), opened_(open(options.project)), level_(opened_.level(options.level).id),
          bank_(options.rate, measuring(Measure::peak)), live_(layout, options.rate), follower_(std::make_shared<Follower>()),
          link_(follower_, options.port, options.anywhere), document_(documentPath(options.project))
    {
        std::error_code error;
        written_ = std::filesystem::last_write_time(document_, error);
        ground_ = opened_.ground(*opened_.project->levels.find(level_));
        renew();
        const Character& character = opened_.project->levels.find(level_)->character;
        live_.setFeet({character.start, character.heading_deg}, true);
        live_.follow(follower_);
    }

    Live& live() { return live_; }
    const GameLink& link() const { return link_; }
    const Opened& opened() const { return opened_; }
    const Level& level() const { return *opened_.project->levels.find(level_); }
    Follower::Report report() const { return follower_->report(); }

    /// Another level, other things, a document that was saved anew.
    void keepUp()
    {
        if (const LevelId wanted = follower_->level(); !wanted.empty() && wanted != level_) {
            level_ = wanted;
            ground_ = opened_.ground(level());
            renew();
            live_.restart();
        } else if (follower_->thingsSerial() != serial_) {
            renew();
        }
    }

    /// Takes the document as somebody has saved it meanwhile, and tells the game what is otherwise.
    void readAgain()
    {
        std::error_code error;
        const auto written = std::filesystem::last_write_time(document_, error);
        if (error || written == written_) {
            return;
        }
        written_ = written;
        try {
            Opened now = open(options_.project);
            if (now.project->levels.find(level_) == nullptr) {
                throw FileError(document_.string() + ": the level that is played is gone; what was is kept");
            }
            const auto before = std::exchange(opened_, std::move(now));
            ground_ = opened_.ground(level());
            std::vector<OscMessage> told = changesTold(*before.project, *opened_.project, level_);
            told.push_back({"/stone/changed", {static_cast<double>(++changes_)}});
            link_.tell(told);
            renew();
        } catch (const FileError& problem) {
            std::cerr << "note: " << problem.what() << '\n';
        }
    }

    /// Tells the game what is heard.
    void tellHeard()
    {
        const auto hearing = live_.snapshot().hearing;
        if (!hearing) {
            return;
        }
        link_.tell(heardTold(hearing->scene->model.level(), hearing->heard));
    }

private:
    void renew()
    {
        const auto [serial, things] = follower_->things();
        serial_ = serial;
        follower_->setDocument(opened_.project, level_);
        scene_ =
            makeScene(withThings(opened_.project, level_, things), level_, bank_, filesInside(opened_.folder), Loading::now,
                      ground_, {}, {}, scene_ && scene_->model.level().id == level_ ? scene_.get() : nullptr);
        live_.setScene(scene_);
    }

    Follow options_;
    Opened opened_;
    LevelId level_;
    SoundBank bank_;
    Live live_;
    std::shared_ptr<Follower> follower_;
    GameLink link_;
    std::filesystem::path document_;
    std::filesystem::file_time_type written_;
    std::shared_ptr<const Ground> ground_;
    std::shared_ptr<const Scene> scene_;
    std::uint64_t serial_ = 0;
    std::uint64_t changes_ = 0;
};

void say(const Follower::Report& report, std::size_t games)
{
    if (std::isinf(report.silentFor_s)) {
        std::fputs("\rwaiting for a game                              ", stderr);
        return;
    }
    std::fprintf(stderr, "\r%zu %s, %.0f messages/s, longest gap %.0f ms, late %.0f ms, %llu not understood  ", games,
                 games == 1 ? "game" : "games", report.perSecond, report.longestGap_s * 1000.0, report.late_s * 1000.0,
                 static_cast<unsigned long long>(report.misunderstood));
}

} // namespace

int follow(const Follow& options)
{
    const Layout layout = renderedLayout(options.layout);
    if (options.rate < 44'100) {
        throw UsageError("what is played live has at least 44100 frames per second");
    }
    Following following(options, layout);
    const auto channels = static_cast<int>(channelsOf(layout));
    std::shared_ptr<Taking> taking;
    if (!options.out.empty() || !options.take.empty()) {
        auto writer = options.out.empty() ? nullptr : std::make_unique<SoundWriter>(options.out, channels, options.rate);
        std::unique_ptr<TakeRecorder> recorder;
        if (!options.take.empty()) {
            TakeInfo info;
            info.project = following.opened().project->name;
            info.level = following.level().name;
            info.levelId = following.level().id.text;
            info.layout = nameOf(layout);
            info.seed = following.opened().project->seed;
            info.rate = options.rate;
            info.channels = channels;
            info.note = "of a game";
            info.recorded = takeTime();
            info.machine = thisMachine();
            recorder = std::make_unique<TakeRecorder>(options.take, info, true);
            recorder->changed(following.opened().project, {});
        }
        taking = std::make_shared<Taking>(std::move(writer), std::move(recorder));
    }
    const auto device = openDevice(options, static_cast<unsigned>(channels));
    const InterruptGuard guard;
    std::printf("listening along on port %d%s, playing on %s\n", following.link().port(),
                options.anywhere ? ", to any machine" : ", to this machine alone", device->name().c_str());
    std::fflush(stdout);
    following.live().setListener(taking);
    following.live().start();
    device->start(following.live());

    const bool terminal = isatty(STDERR_FILENO) != 0;
    const auto start = std::chrono::steady_clock::now();
    const auto passed_s = [&] { return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count(); };
    double told_s = 0.0;
    double read_s = 0.0;
    double said_s = 0.0;
    const auto due = [&](double& last_s, double every_s) {
        const bool now = passed_s() - last_s >= every_s;
        last_s = now ? passed_s() : last_s;
        return now;
    };
    while (!wasInterrupted() && !device->lost() && (!options.seconds || passed_s() < *options.seconds)) {
        following.keepUp();
        if (due(told_s, tellHeardEvery_s)) {
            following.tellHeard();
        }
        if (due(read_s, readAgainEvery_s)) {
            following.readAgain();
        }
        if (terminal && due(said_s, sayEvery_s)) {
            say(following.report(), following.link().games().size());
        }
        if (taking) {
            taking->write();
        }
        std::this_thread::sleep_for(look);
    }
    device->stop();
    following.live().stop();
    following.live().setListener(nullptr);
    if (taking) {
        taking->finish();
    }
    const Follower::Report report = following.report();
    std::printf("%s%llu packets, %llu messages, %llu not understood, %llu late steps\n", terminal ? "\n" : "",
                static_cast<unsigned long long>(report.packets), static_cast<unsigned long long>(report.messages),
                static_cast<unsigned long long>(report.misunderstood),
                static_cast<unsigned long long>(following.live().snapshot().lateSteps));
    if (report.misunderstood > 0) {
        std::cerr << "note: the last one: " << report.lastMisunderstood << '\n';
    }
    for (const auto& [what, count] : report.unknown) {
        std::cerr << "note: no " << what.first << " is called \"" << what.second << "\", of which it told " << count
                  << (count == 1 ? " time\n" : " times\n");
    }
    return 0;
}

} // namespace stone::cli
