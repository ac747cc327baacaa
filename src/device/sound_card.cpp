// SPDX-License-Identifier: MPL-2.0
#include "device/audio_device.h"
#include "device/last_asked.h"
#include "device/pulse_card.h"

#include <rtaudio/RtAudio.h>

#include <algorithm>
#include <array>
#include <atomic>
#include <chrono>
#include <stdexcept>

namespace stone
{

namespace
{

/// Those that RtAudio knows well; a PulseAudio server is asked by pulse_card.h.
constexpr std::array<std::pair<RtAudio::Api, const char*>, 2> apis{{
    {RtAudio::UNIX_JACK, "Jack"},
    {RtAudio::LINUX_ALSA, "ALSA"},
}};

class RtAudioCard : public AudioDevice
{
public:
    RtAudioCard(const SoundCard& card, RtAudio::Api api, int rate, std::size_t blockFrames, unsigned channels)
        : card_(card), audio_(api), channels_(channels)
    {
        audio_.showWarnings(false);
        RtAudio::StreamParameters out;
        out.deviceId = card.id;
        out.nChannels = channels_;
        RtAudio::StreamOptions options;
        options.streamName = "Stone Echo";
        options.flags = RTAUDIO_SCHEDULE_REALTIME;
        options.numberOfBuffers = 2;
        auto frames = static_cast<unsigned>(blockFrames);
        audio_.openStream(&out, nullptr, RTAUDIO_FLOAT32, static_cast<unsigned>(rate), &frames, &RtAudioCard::callback, this,
                          &options, &RtAudioCard::failed);
        block_ = frames;
    }

    ~RtAudioCard() override
    {
        halt();
        if (audio_.isStreamOpen()) {
            audio_.closeStream();
        }
    }

    void start(RenderSource& source) override
    {
        source_.store(&source, std::memory_order_release);
        asked_.now();
        audio_.startStream();
        failed_ = false;
        started_ = true;
    }
    void stop() override { halt(); }
    std::string name() const override { return card_.name + " (" + card_.api + ")"; }
    std::size_t blockFrames() const override { return block_; }
    unsigned cardChannels() const override { return card_.channels; }
    bool audible() const override { return true; }

    /// Drivers have no common way to say that a card is gone: some report errors, some just stop asking.
    bool lost() const override
    {
        return started_ && (failed_.load(std::memory_order_relaxed) || asked_.longerAgoThan(std::chrono::milliseconds(1500)));
    }

private:
    /// Errors come without saying whose they are, but on the thread of the card that has them.
    static void failed(RtAudioError::Type, const std::string&)
    {
        if (playing != nullptr) {
            playing->failed_.store(true, std::memory_order_relaxed);
        }
    }

    static int callback(void* out, void*, unsigned frames, double, RtAudioStreamStatus, void* self)
    {
        auto& card = *static_cast<RtAudioCard*>(self);
        playing = &card;
        card.asked_.now();
        RenderSource* source = card.source_.load(std::memory_order_acquire);
        auto* samples = static_cast<float*>(out);
        if (source != nullptr) {
            source->render(samples, frames);
        } else {
            std::fill_n(samples, std::size_t{frames} * card.channels_, 0.0F);
        }
        return 0;
    }

    void halt()
    {
        if (!started_) {
            return;
        }
        started_ = false;
        try {
            if (audio_.isStreamRunning()) {
                audio_.abortStream();
            }
        } catch (const RtAudioError&) {
            // A card that is gone cannot be stopped any more than it is.
        }
        source_.store(nullptr, std::memory_order_release);
    }

    SoundCard card_;
    RtAudio audio_;
    unsigned channels_;
    std::size_t block_ = 0;
    std::atomic<RenderSource*> source_{nullptr};
    LastAsked asked_;
    std::atomic<bool> failed_{false};
    bool started_ = false;

    static thread_local RtAudioCard* playing; ///< the card whose callback runs on this thread
};

thread_local RtAudioCard* RtAudioCard::playing = nullptr;

} // namespace

std::vector<SoundCard> soundCards()
{
    std::vector<SoundCard> cards;
    std::vector<RtAudio::Api> compiled;
    RtAudio::getCompiledApi(compiled);
    for (const auto& [api, label] : apis) {
        // Before the cards themselves: a server that holds them does not let others have them.
        if (api == RtAudio::LINUX_ALSA) {
            const std::vector<SoundCard> ofServer = pulseCards();
            cards.insert(cards.end(), ofServer.begin(), ofServer.end());
        }
        if (std::find(compiled.begin(), compiled.end(), api) == compiled.end()) {
            continue;
        }
        try {
            RtAudio audio(api);
            audio.showWarnings(false);
            for (unsigned id = 0; id < audio.getDeviceCount(); ++id) {
                const RtAudio::DeviceInfo info = audio.getDeviceInfo(id);
                if (info.probed && info.outputChannels >= 2) {
                    cards.push_back({.id = id,
                                     .api = label,
                                     .name = info.name,
                                     .usual = info.isDefaultOutput,
                                     .channels = info.outputChannels});
                }
            }
        } catch (const RtAudioError&) {
            continue; // this way to the cards is not running
        }
    }
    return cards;
}

std::unique_ptr<AudioDevice> openSoundCard(const SoundCard& card, int rate, std::size_t blockFrames, unsigned channels)
{
    if (card.channels < channels) {
        throw std::runtime_error(card.name + " has " + std::to_string(card.channels) + " channels, " +
                                 std::to_string(channels) + " are needed; choose another output or a smaller layout");
    }
    const auto cannot = [&](const std::string& why) {
        return std::runtime_error(card.name + " cannot be opened (" + why + "); choose another output");
    };
    if (card.api == pulseApi) {
        try {
            return openPulseCard(card, rate, blockFrames, channels);
        } catch (const std::runtime_error& error) {
            throw cannot(error.what());
        }
    }
    for (const auto& [api, label] : apis) {
        if (card.api == label) {
            try {
                return std::make_unique<RtAudioCard>(card, api, rate, blockFrames, channels);
            } catch (const RtAudioError& error) {
                throw cannot(error.getMessage());
            }
        }
    }
    throw std::runtime_error(card.name + " is reached by " + card.api + ", which is not known here; choose another output");
}

} // namespace stone
