// SPDX-License-Identifier: MPL-2.0
#include "media/fold.h"

#include "media/sound_decoder.h"
#include "media/sound_writer.h"
#include "project/file_error.h"

#include <vector>

namespace stone
{

void foldToMono(const std::filesystem::path& from, const std::filesystem::path& to)
{
    SoundDecoder decoder(from);
    const std::size_t channels = decoder.channels();
    SoundWriter writer(to, 1, decoder.rate(), decoder.claimedFrames());
    constexpr std::size_t stretch = 1U << 14U;
    std::vector<float> frames(stretch * channels);
    std::vector<float> mono(stretch);
    while (const std::size_t count = decoder.read(frames)) {
        for (std::size_t i = 0; i < count; ++i) {
            float sum = 0.0F;
            for (std::size_t channel = 0; channel < channels; ++channel) {
                sum += frames[i * channels + channel];
            }
            mono[i] = sum / static_cast<float>(channels);
        }
        writer.write({mono.data(), count});
    }
    writer.finish();
}

double claimedSeconds(const std::filesystem::path& file)
{
    try {
        const SoundDecoder decoder(file);
        return static_cast<double>(decoder.claimedFrames()) / decoder.rate();
    } catch (const FileError&) {
        return 0.0;
    }
}

} // namespace stone
