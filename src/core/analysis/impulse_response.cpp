// SPDX-License-Identifier: MPL-2.0
#include "analysis/impulse_response.h"

#include "engine/offline.h"
#include "project/edit.h"

#include <algorithm>

namespace stone
{

namespace
{

/// By then all networks run and everything is at its level.
constexpr double settled_s = 0.25;
constexpr double shortest_s = 0.5;
/// Beyond the longest decay, so that the last of it can be seen.
constexpr double longer = 1.3;
constexpr std::size_t impulseFrames = 64;

std::shared_ptr<const Project> aloneWithImpulse(const ImpulseQuestion& question)
{
    Project alone = *question.project;
    alone.sounds = {};
    alone.gazes = {};
    Sound impulse;
    impulse.id.text = "impulse";
    impulse.name = "Impulse";
    impulse.files.emplace_back();
    impulse.loop = false;
    alone.sounds.append(impulse);
    Emitter emitter;
    emitter.id.text = "impulse";
    emitter.name = "Impulse";
    emitter.sound = impulse.id;
    emitter.falloff = Falloff{};
    emitter.at = question.source;
    emitter.startAfter_s = settled_s;
    emitter.placement.nearRange_m = 0.0;
    alone = withLevel(std::move(alone), question.level, [&](Level& level) {
        level.emitters = {};
        level.plants = {};
        level.emitters.append(emitter);
    });
    return std::make_shared<const Project>(std::move(alone));
}

/// As high as it must be to be 1 at the rate of the output.
SharedMaterial impulseOf(const Project& project, int outputRate)
{
    const int rate = workingRate(outputRate);
    auto buffer = std::make_shared<SampleBuffer>();
    buffer->rate = rate;
    buffer->channels.emplace_back(impulseFrames);
    buffer->channels.front().front() = static_cast<float>(rate / outputRate);
    const auto& sound = project.sounds[0];
    return std::make_shared<const SoundMaterial>(SoundMaterial{sound, {buffer}, designEffects(sound->effects, rate)});
}

double longest_s(const ImpulseQuestion& question)
{
    double longest = shortest_s;
    for (const auto& room : question.project->levels.find(question.level)->rooms) {
        const Reverb& reverb = room->reverb;
        if (reverb.on && reverb.tail == Tail::network) {
            longest = std::max(longest, *std::max_element(reverb.rt60_s.begin(), reverb.rt60_s.end()));
        }
    }
    for (const SharedResponse& response : question.responses) {
        longest = std::max(longest, response ? response->seconds() : 0.0);
    }
    return longer * longest + shortest_s;
}

} // namespace

std::optional<ImpulseResponse> impulseResponse(const ImpulseQuestion& question, const std::function<bool(double)>& progress)
{
    const auto project = aloneWithImpulse(question);
    const SharedMaterial material = impulseOf(*project, question.rate);
    auto world = std::make_shared<const World>(project, question.level, question.ground, lengthsOf({material}, project->seed));
    std::vector<SharedMaterial> materials(world->playables().size(), material);
    OfflineJob job;
    HearingModel model(std::move(world));
    auto networks = networksOf(model, workingRate(question.rate), {});
    job.scene = std::make_shared<const Scene>(
        Scene{std::move(model), std::move(materials), true, {}, std::move(networks), question.responses});
    job.layout = question.layout;
    job.rate = question.rate;
    job.from_s = settled_s;
    job.to_s = settled_s + longest_s(question);
    job.ears = [&](double) { return question.ears; };
    ImpulseResponse made{question.layout, question.rate, {}};
    const bool whole = renderOffline(
        job,
        [&](std::span<const float> frames) { made.interleaved.insert(made.interleaved.end(), frames.begin(), frames.end()); },
        progress);
    return whole ? std::optional(std::move(made)) : std::nullopt;
}

} // namespace stone
