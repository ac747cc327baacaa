// SPDX-License-Identifier: MPL-2.0
#include "device/pulse_card.h"

#include "device/last_asked.h"

#include <pulse/pulseaudio.h>

#include <algorithm>
#include <array>
#include <atomic>
#include <chrono>
#include <cstdint>
#include <functional>
#include <stdexcept>
#include <thread>
#include <utility>

#include <pthread.h>

namespace stone
{

namespace
{

constexpr auto answersWithin = std::chrono::seconds(3);
/// A server that has not asked for so long hangs; one that dies says so. An output that nobody used may sleep for two seconds
/// before it asks for the first time.
constexpr auto asksWithin = std::chrono::milliseconds(4000);

/// A line to the server, with the thread on which it speaks.
class Connection
{
public:
    Connection()
    {
        loop_ = pa_threaded_mainloop_new();
        context_ = loop_ != nullptr ? pa_context_new(pa_threaded_mainloop_get_api(loop_), "Stone Echo") : nullptr;
        const bool begun = context_ != nullptr && pa_context_connect(context_, nullptr, PA_CONTEXT_NOFLAGS, nullptr) >= 0 &&
                           pa_threaded_mainloop_start(loop_) >= 0;
        if (!begun || !wait([this] { return pa_context_get_state(context_) == PA_CONTEXT_READY; })) {
            close();
            throw std::runtime_error("the sound server does not answer");
        }
    }
    ~Connection() { close(); }
    Connection(const Connection&) = delete;
    Connection& operator=(const Connection&) = delete;

    pa_context* context() const { return context_; }

    /// Held while the server's things are touched: its thread waits meanwhile.
    class Lock
    {
    public:
        explicit Lock(const Connection& connection) : loop_(connection.loop_) { pa_threaded_mainloop_lock(loop_); }
        ~Lock() { pa_threaded_mainloop_unlock(loop_); }
        Lock(const Lock&) = delete;
        Lock& operator=(const Lock&) = delete;

    private:
        pa_threaded_mainloop* loop_;
    };

    /// Waits until something holds, which is asked with the lock held. False when the line broke, or after a while: a server
    /// that hangs says nothing.
    bool wait(const std::function<bool()>& holds) const
    {
        const auto end = std::chrono::steady_clock::now() + answersWithin;
        while (std::chrono::steady_clock::now() < end) {
            {
                const Lock lock(*this);
                if (holds()) {
                    return true;
                }
                if (!PA_CONTEXT_IS_GOOD(pa_context_get_state(context_))) {
                    return false;
                }
            }
            std::this_thread::sleep_for(std::chrono::milliseconds(1));
        }
        return false;
    }
    /// Waits for an operation and lets it go. False when it did not end well.
    bool finish(pa_operation* operation) const
    {
        if (operation == nullptr) {
            return false;
        }
        const bool done = wait([&] { return pa_operation_get_state(operation) == PA_OPERATION_DONE; });
        const Lock lock(*this);
        if (!done) {
            pa_operation_cancel(operation);
        }
        pa_operation_unref(operation);
        return done;
    }

private:
    void close()
    {
        if (loop_ != nullptr) {
            pa_threaded_mainloop_stop(loop_);
        }
        if (context_ != nullptr) {
            pa_context_disconnect(context_);
            pa_context_unref(context_);
        }
        if (loop_ != nullptr) {
            pa_threaded_mainloop_free(loop_);
        }
    }

    pa_threaded_mainloop* loop_ = nullptr;
    pa_context* context_ = nullptr;
};

/// Which loudspeaker each channel is for, in the order of the layouts. What has no loudspeakers, as AmbiX, has numbers alone.
pa_channel_map mapFor(unsigned channels)
{
    constexpr std::array<pa_channel_position_t, 12> surround{
        PA_CHANNEL_POSITION_FRONT_LEFT,     PA_CHANNEL_POSITION_FRONT_RIGHT,
        PA_CHANNEL_POSITION_FRONT_CENTER,   PA_CHANNEL_POSITION_LFE,
        PA_CHANNEL_POSITION_REAR_LEFT,      PA_CHANNEL_POSITION_REAR_RIGHT,
        PA_CHANNEL_POSITION_SIDE_LEFT,      PA_CHANNEL_POSITION_SIDE_RIGHT,
        PA_CHANNEL_POSITION_TOP_FRONT_LEFT, PA_CHANNEL_POSITION_TOP_FRONT_RIGHT,
        PA_CHANNEL_POSITION_TOP_REAR_LEFT,  PA_CHANNEL_POSITION_TOP_REAR_RIGHT};
    constexpr std::array<pa_channel_position_t, 4> quad{PA_CHANNEL_POSITION_FRONT_LEFT, PA_CHANNEL_POSITION_FRONT_RIGHT,
                                                        PA_CHANNEL_POSITION_REAR_LEFT, PA_CHANNEL_POSITION_REAR_RIGHT};
    pa_channel_map map;
    pa_channel_map_init(&map);
    map.channels = static_cast<std::uint8_t>(channels);
    switch (channels) {
    case 1: pa_channel_map_init_mono(&map); break;
    case 4: std::copy(quad.begin(), quad.end(), map.map); break;
    case 2:
    case 6:
    case 8:
    case 12: std::copy_n(surround.begin(), channels, map.map); break;
    default:
        for (unsigned channel = 0; channel < channels; ++channel) {
            map.map[channel] = static_cast<pa_channel_position_t>(PA_CHANNEL_POSITION_AUX0 + static_cast<int>(channel));
        }
    }
    return map;
}

/// An output of the server.
struct Sink {
    std::string key;
    std::string name;
    pa_channel_map map;
};

std::vector<Sink> sinksOf(const Connection& server)
{
    std::vector<Sink> sinks;
    const auto take = [](pa_context*, const pa_sink_info* sink, int end, void* to) {
        if (end == 0 && sink != nullptr) {
            static_cast<std::vector<Sink>*>(to)->push_back({sink->name, sink->description, sink->channel_map});
        }
    };
    pa_operation* asking = nullptr;
    {
        const Connection::Lock lock(server);
        asking = pa_context_get_sink_info_list(server.context(), take, &sinks);
    }
    return server.finish(asking) ? sinks : std::vector<Sink>{};
}

/// The output that the system takes where nobody chooses.
std::string usualSinkOf(const Connection& server)
{
    std::string usual;
    const auto take = [](pa_context*, const pa_server_info* info, void* to) {
        if (info != nullptr && info->default_sink_name != nullptr) {
            *static_cast<std::string*>(to) = info->default_sink_name;
        }
    };
    pa_operation* asking = nullptr;
    {
        const Connection::Lock lock(server);
        asking = pa_context_get_server_info(server.context(), take, &usual);
    }
    return server.finish(asking) ? usual : std::string();
}

/// The card waits for this thread, so it goes before others where the system lets it.
void hurry()
{
    sched_param first{};
    first.sched_priority = sched_get_priority_min(SCHED_RR);
    pthread_setschedparam(pthread_self(), SCHED_RR, &first);
}

class PulseCard : public AudioDevice
{
public:
    PulseCard(const SoundCard& card, int rate, std::size_t blockFrames, unsigned channels)
        : card_(card), block_(blockFrames), frameBytes_(channels * sizeof(float))
    {
        const std::vector<Sink> sinks = sinksOf(server_);
        const auto sink = std::find_if(sinks.begin(), sinks.end(), [&](const Sink& one) { return one.key == card.key; });
        if (sink == sinks.end()) {
            throw std::runtime_error("the sound server has it no more");
        }
        const pa_sample_spec spec{PA_SAMPLE_FLOAT32LE, static_cast<std::uint32_t>(rate), static_cast<std::uint8_t>(channels)};
        const pa_channel_map map = mapFor(channels);
        // Loudspeaker for loudspeaker where the card has all of them, else number for number; nothing is spread over others but
        // what is for no loudspeaker at all.
        const pa_stream_flags_t remap = channels == 1                                    ? PA_STREAM_NOFLAGS
                                        : pa_channel_map_superset(&sink->map, &map) != 0 ? PA_STREAM_NO_REMIX_CHANNELS
                                                                                         : PA_STREAM_NO_REMAP_CHANNELS;
        const auto blockBytes = static_cast<std::uint32_t>(block_ * frameBytes_);
        const pa_buffer_attr buffer{.maxlength = 2 * blockBytes,
                                    .tlength = 2 * blockBytes,
                                    .prebuf = blockBytes,
                                    .minreq = blockBytes / 2,
                                    .fragsize = static_cast<std::uint32_t>(-1)};
        {
            const Connection::Lock lock(server_);
            stream_ = pa_stream_new(server_.context(), "Stone Echo", &spec, &map);
            if (stream_ != nullptr) {
                pa_stream_set_write_callback(stream_, &PulseCard::asked, this);
                pa_stream_set_state_callback(stream_, &PulseCard::changed, this);
                pa_stream_connect_playback(stream_, card_.key.c_str(), &buffer,
                                           static_cast<pa_stream_flags_t>(PA_STREAM_START_CORKED | remap), nullptr, nullptr);
            }
        }
        if (stream_ == nullptr || !server_.wait([this] { return pa_stream_get_state(stream_) == PA_STREAM_READY; })) {
            drop();
            throw std::runtime_error("the sound server does not take the sound");
        }
    }

    ~PulseCard() override { drop(); }
    PulseCard(const PulseCard&) = delete;
    PulseCard& operator=(const PulseCard&) = delete;

    void start(RenderSource& source) override
    {
        const Connection::Lock lock(server_);
        source_ = &source;
        asked_.now();
        started_ = true;
        forget(pa_stream_cork(stream_, 0, nullptr, nullptr));
    }

    void stop() override
    {
        const Connection::Lock lock(server_);
        source_ = nullptr;
        started_ = false;
        forget(pa_stream_cork(stream_, 1, nullptr, nullptr));
        forget(pa_stream_flush(stream_, nullptr, nullptr));
    }

    std::string name() const override { return card_.name + " (" + card_.api + ")"; }
    std::size_t blockFrames() const override { return block_; }
    unsigned cardChannels() const override { return card_.channels; }
    bool audible() const override { return true; }
    bool lost() const override
    {
        return started_ && (failed_.load(std::memory_order_relaxed) || asked_.longerAgoThan(asksWithin));
    }

private:
    /// On the server's thread, with the lock held, as all that it calls.
    static void asked(pa_stream*, std::size_t bytes, void* self) { static_cast<PulseCard*>(self)->give(bytes); }
    static void changed(pa_stream* stream, void* self)
    {
        if (!PA_STREAM_IS_GOOD(pa_stream_get_state(stream))) {
            static_cast<PulseCard*>(self)->failed_.store(true, std::memory_order_relaxed);
        }
    }

    /// Whole blocks alone: what is missing to the next is asked for again. Before the start and after the end it is silence.
    void give(std::size_t bytes)
    {
        if (!std::exchange(hurried_, true)) {
            hurry();
        }
        asked_.now();
        const std::size_t blockBytes = block_ * frameBytes_;
        while (bytes >= blockBytes) {
            void* memory = nullptr;
            std::size_t room = blockBytes;
            if (pa_stream_begin_write(stream_, &memory, &room) < 0 || memory == nullptr) {
                return;
            }
            const std::size_t frames = std::min(room, blockBytes) / frameBytes_;
            auto* samples = static_cast<float*>(memory);
            if (source_ != nullptr) {
                source_->render(samples, frames);
            } else {
                std::fill_n(samples, frames * frameBytes_ / sizeof(float), 0.0F);
            }
            if (frames == 0 || pa_stream_write(stream_, memory, frames * frameBytes_, nullptr, 0, PA_SEEK_RELATIVE) < 0) {
                return;
            }
            bytes -= frames * frameBytes_;
        }
    }

    void drop()
    {
        if (stream_ == nullptr) {
            return;
        }
        const Connection::Lock lock(server_);
        pa_stream_set_write_callback(stream_, nullptr, nullptr);
        pa_stream_set_state_callback(stream_, nullptr, nullptr);
        pa_stream_disconnect(stream_);
        pa_stream_unref(std::exchange(stream_, nullptr));
    }

    static void forget(pa_operation* operation)
    {
        if (operation != nullptr) {
            pa_operation_unref(operation);
        }
    }

    SoundCard card_;
    std::size_t block_;
    std::size_t frameBytes_;
    Connection server_;
    pa_stream* stream_ = nullptr;
    RenderSource* source_ = nullptr; ///< under the lock
    bool hurried_ = false;           ///< the server's thread's
    bool started_ = false;           ///< the window thread's
    LastAsked asked_;
    std::atomic<bool> failed_{false};
};

} // namespace

std::vector<SoundCard> pulseCards()
{
    std::vector<SoundCard> cards;
    try {
        const Connection server;
        const std::string usual = usualSinkOf(server);
        for (const Sink& sink : sinksOf(server)) {
            if (sink.map.channels < 2) {
                continue;
            }
            // Two cards of one make have one name: the second is told apart by what the server calls it.
            const bool taken = std::any_of(cards.begin(), cards.end(), [&](const SoundCard& c) { return c.name == sink.name; });
            cards.push_back({.api = pulseApi,
                             .name = taken ? sink.name + ", " + sink.key : sink.name,
                             .usual = sink.key == usual,
                             .channels = sink.map.channels,
                             .key = sink.key});
        }
    } catch (const std::runtime_error&) {
        return {}; // no server is running
    }
    return cards;
}

std::unique_ptr<AudioDevice> openPulseCard(const SoundCard& card, int rate, std::size_t blockFrames, unsigned channels)
{
    return std::make_unique<PulseCard>(card, rate, blockFrames, channels);
}

} // namespace stone
