// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/commands.h"
#include "cli/interrupt.h"
#include "dsp/decibel.h"
#include "engine/loudest.h"
#include "engine/offline.h"
#include "engine/step_plan.h"
#include "media/sound_writer.h"
#include "spatial/sofa.h"
#include "world/walk_pose.h"

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <deque>
#include <iostream>
#include <mutex>
#include <unistd.h>

namespace stone::cli
{

namespace
{

/// Where a render is loudest, and what of all that is heard there has the largest share.
class LoudestMoment
{
public:
    /// `oneOf`: frames of the engine for each that is put out.
    LoudestMoment(std::size_t channels, std::size_t oneOf, const Scene& scene)
        : channels_(channels), oneOf_(oneOf), peaks_(recordedPeaks(scene))
    {
    }

    /// What is heard in the next step; on any thread, before its frames are added.
    void hear(std::span<const Heard> heard)
    {
        const auto loudest = loudestOf(heard, peaks_);
        const std::lock_guard lock(mutex_);
        loudest_.push_back(loudest);
    }

    /// The engine's first `passed` frames of all steps were not put out.
    void add(std::span<const float> interleaved, std::size_t passed)
    {
        const std::lock_guard lock(mutex_);
        const auto step = [&] { return (passed + sample_ / channels_ * oneOf_) / stepFrames; };
        for (const float sample : interleaved) {
            const float size = std::abs(sample);
            over_ += size > 1.0F ? 1 : 0;
            if (size > peak_) {
                peak_ = size;
                at_ = sample_;
                cause_ = loudest_[step() - gone_];
            }
            ++sample_;
        }
        while (gone_ < step() && !loudest_.empty()) {
            loudest_.pop_front();
            ++gone_;
        }
    }

    float peak() const { return peak_; }
    std::size_t frame() const { return at_ / channels_; }
    /// Samples beyond full scale.
    std::size_t over() const { return over_; }
    /// The emitter that is loudest then; none: nothing is heard but what was.
    std::optional<std::uint32_t> cause() const { return cause_; }

private:
    std::size_t channels_;
    std::size_t oneOf_;
    std::size_t sample_ = 0;
    std::size_t at_ = 0;
    std::size_t over_ = 0;
    float peak_ = 0.0F;
    std::vector<double> peaks_;                        ///< of what is recorded, by playable
    std::mutex mutex_;                                 ///< the next two
    std::deque<std::optional<std::uint32_t>> loudest_; ///< of each step that was heard and not added yet
    std::size_t gone_ = 0;                             ///< steps that were
    std::optional<std::uint32_t> cause_;
};

std::set<EmitterId> idsOf(const Level& level, const std::vector<std::uint32_t>& indices)
{
    std::set<EmitterId> ids;
    for (const std::uint32_t index : indices) {
        ids.insert(level.emitters[index]->id);
    }
    return ids;
}

} // namespace

const Walk& walkNamed(const Level& level, const std::string& name)
{
    std::string all;
    for (const auto& walk : level.walks) {
        if (walk->name == name || walk->id.text == name) {
            return *walk;
        }
        all += (all.empty() ? "\"" : ", \"") + walk->name + '"';
    }
    throw UsageError("no walk is called \"" + name + "\" in the level \"" + level.name + "\"; " +
                     (all.empty() ? "it has none" : "there are " + all));
}

int render(const Render& options)
{
    const Layout layout = renderedLayout(options.layout);
    Opened opened = open(options.project);
    reseed(opened, options.seed);
    if (!options.rig.empty()) {
        Project through = *opened.project;
        through.rig = rigNamed(through, options.rig);
        opened.project = std::make_shared<const Project>(std::move(through));
    }
    const Level& level = opened.level(options.level);

    SharedHead head;
    if (!options.ears_sofa.empty()) {
        if (layout != Layout::binaural) {
            throw UsageError("--ears is for --layout binaural");
        }
        head = readSofa(options.ears_sofa, workingRate(options.rate));
    }
    OfflineJob job;
    job.layout = layout;
    job.rate = options.rate;
    job.block = options.block;
    job.threads = options.threads;
    double end_s = options.seconds;
    if (!options.walk.empty()) {
        end_s = walkNamed(level, options.walk).seconds();
    } else {
        job.ears = [ears = *options.ears](double) { return ears; };
    }
    job.from_s = options.from_s.value_or(0.0);
    job.to_s = options.to_s.value_or(end_s);
    if (job.to_s <= job.from_s) {
        throw UsageError("there is nothing to render from " + std::to_string(job.from_s) + " s to " + std::to_string(job.to_s) +
                         " s; give a later --to, or --seconds above 0");
    }

    SoundBank bank(workingRate(options.rate), measuring(Measure::peak));
    const auto ground = opened.ground(level);
    const auto planted = plant(opened.project, level.id, ground, Ways::find);
    const Level& sounding = planted->level();
    const std::vector<std::uint32_t> wanted = named(sounding, options.only);
    ForEars forEars;
    if (!options.only.empty()) {
        forEars.solo = idsOf(sounding, wanted);
    }
    if (!options.without.empty()) {
        forEars.muted = idsOf(sounding, named(sounding, options.without));
    }
    const auto scene =
        makeScene(opened.project, level.id, bank, filesInside(opened.folder), Loading::now, ground, head, forEars);
    noteSilentRooms(level, scene->responses);
    for (const std::uint32_t index : wanted) {
        if (!scene->materialOf(index)) {
            std::cerr << "note: \"" << sounding.emitters[index]->name
                      << "\" has no sound that can be read and is left out; see "
                      << "stone-echo-cli check\n";
        }
    }
    job.scene = scene;
    if (!options.walk.empty()) {
        followWalk(job, walkNamed(level, options.walk));
    }

    const InterruptGuard guard;
    const bool terminal = isatty(STDERR_FILENO) != 0;
    const auto expected = static_cast<std::uint64_t>(std::max(job.to_s - job.from_s, 0.0) * options.rate);
    SoundWriter writer(options.out, static_cast<int>(channelsOf(layout)), options.rate, expected);
    const auto oneOf = static_cast<std::size_t>(workingRate(options.rate) / options.rate);
    LoudestMoment loudest(channelsOf(layout), oneOf, *scene);
    std::optional<std::uint64_t> firstStep;
    job.heard = [&](std::uint64_t step, std::span<const Heard> heard) {
        if (!firstStep) {
            firstStep = step; // read where frames come, after the first of them did
        }
        loudest.hear(heard);
    };
    const auto firstFrame = static_cast<std::uint64_t>(std::llround(job.from_s * job.rate)) * oneOf;
    const auto start = std::chrono::steady_clock::now();
    const bool done = renderOffline(
        job,
        [&](std::span<const float> frames) {
            writer.write(frames);
            loudest.add(frames, firstFrame - *firstStep * stepFrames);
        },
        [&](double part) {
            if (terminal) {
                std::fprintf(stderr, "\rrendering %3.0f %%", part * 100.0);
            }
            return !wasInterrupted();
        });
    if (terminal) {
        std::fputs("\r               \r", stderr);
    }
    if (!done) {
        std::cerr << "render: interrupted; nothing was written\n";
        return 130;
    }
    writer.finish();
    if (loudest.peak() > 1.0F) {
        const std::string cause =
            loudest.cause() ? ", where \"" + sounding.emitters[*loudest.cause()]->name + "\" is loudest," : std::string();
        std::fprintf(
            stderr,
            "note: it peaks %.1f dB over full scale, %.2f s in%s and lies over it in %zu samples. The file keeps all of it; "
            "turn it down before it goes to a card or to whole numbers\n",
            levelOf(static_cast<double>(loudest.peak())), job.from_s + static_cast<double>(loudest.frame()) / options.rate,
            cause.c_str(), loudest.over());
    }
    const double took_s = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
    const double length_s = job.to_s - job.from_s;
    std::printf("%s: %.2f s of %s in %.2f s, %.0f times faster than real time\n", options.out.c_str(), length_s, nameOf(layout),
                took_s, length_s / std::max(took_s, 1e-9));
    return 0;
}

} // namespace stone::cli
