// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/fixtures.h"

#include "media/sound_writer.h"

#include <algorithm>
#include <cmath>
#include <fstream>
#include <numbers>

namespace fixture
{

void writeTone(const std::filesystem::path& file, double hz, double seconds, int rate, int channels, double gain)
{
    SoundWriter writer(file, channels, rate);
    std::vector<float> frames;
    const auto count = static_cast<std::size_t>(std::lround(seconds * rate));
    for (std::size_t i = 0; i < count; ++i) {
        for (int channel = 0; channel < channels; ++channel) {
            frames.push_back(static_cast<float>(gain * std::sin(2.0 * std::numbers::pi * hz * static_cast<double>(i) / rate)));
        }
    }
    writer.write(frames);
    writer.finish();
}

void writeText(const std::filesystem::path& file, const std::string& text)
{
    std::ofstream(file, std::ios::binary) << text;
}

SharedBuffer toneBuffer(double hz, double seconds, float gain)
{
    auto buffer = std::make_shared<SampleBuffer>();
    std::vector<float> samples(static_cast<std::size_t>(seconds * 48'000));
    for (std::size_t i = 0; i < samples.size(); ++i) {
        samples[i] = gain * static_cast<float>(std::sin(2.0 * std::numbers::pi * hz * static_cast<double>(i) / 48'000));
    }
    buffer->channels.push_back(std::move(samples));
    return buffer;
}

Emitter pointAt(const std::string& id, const Vec3& at)
{
    Emitter emitter;
    emitter.id = {id};
    emitter.name = id;
    emitter.at = at;
    emitter.sound = {"tone"};
    return emitter;
}

Project projectWith(const std::vector<Emitter>& emitters, bool loop)
{
    Project project = blankProject();
    Sound sound;
    sound.id = {"tone"};
    sound.name = "tone";
    sound.files = {{.file = "tone.wav"}};
    sound.loop = loop;
    project.sounds.put(sound);
    return withLevel(std::move(project), {"level"}, [&](Level& level) {
        for (const Emitter& emitter : emitters) {
            level.emitters.put(emitter);
        }
    });
}

std::shared_ptr<Scene> sceneOf(const Project& project, const std::vector<SharedBuffer>& files,
                               std::shared_ptr<const Ground> ground)
{
    auto document = std::make_shared<const Project>(project);
    std::vector<SharedMaterial> materials;
    for (const Playable& playable : playablesOf(*document, *document->levels[0])) {
        const EffectSettings effects = designEffects(playable.sound->effects, files.front()->rate);
        materials.push_back(std::make_shared<const SoundMaterial>(SoundMaterial{playable.sound, files, effects}));
    }
    auto world = std::make_shared<const World>(document, document->levels[0]->id, ground, lengthsOf(materials, document->seed));
    HearingModel model(std::move(world));
    auto networks = networksOf(model, files.front()->rate, {});
    return std::make_shared<Scene>(
        Scene{.model = std::move(model), .materials = std::move(materials), .waits = true, .networks = std::move(networks)});
}

std::shared_ptr<Scene> sceneOf(const Project& project, const SharedBuffer& buffer)
{
    return sceneOf(project, std::vector<SharedBuffer>{buffer});
}

std::vector<float> rendered(OfflineJob job)
{
    std::vector<float> out;
    renderOffline(job, [&](std::span<const float> frames) { out.insert(out.end(), frames.begin(), frames.end()); }, {});
    return out;
}

double rms_db(const std::vector<float>& interleaved, std::size_t channel, double from_s, double to_s, std::size_t channels)
{
    double sum = 0.0;
    std::size_t count = 0;
    const auto first = static_cast<std::size_t>(from_s * 48'000);
    const auto last = std::min(static_cast<std::size_t>(to_s * 48'000), interleaved.size() / channels);
    for (std::size_t i = first; i < last; ++i, ++count) {
        const double x = interleaved[i * channels + channel];
        sum += x * x;
    }
    return 10.0 * std::log10(sum / static_cast<double>(std::max<std::size_t>(count, 1)) + 1e-30);
}

double energy_db(const std::vector<float>& interleaved, double from_s, double to_s)
{
    const double left = rms_db(interleaved, 0, from_s, to_s);
    const double right = rms_db(interleaved, 1, from_s, to_s);
    return 10.0 * std::log10(std::pow(10.0, left / 10.0) + std::pow(10.0, right / 10.0));
}

double largestBreak(const std::vector<float>& x, std::size_t channel, std::size_t channels)
{
    double largest = 0.0;
    for (std::size_t i = 3; i * channels + channel < x.size(); ++i) {
        const auto at = [&](std::size_t k) { return static_cast<double>(x[(i - k) * channels + channel]); };
        largest = std::max(largest, std::abs(at(0) - 3.0 * at(1) + 3.0 * at(2) - at(3)));
    }
    return largest;
}

} // namespace fixture
