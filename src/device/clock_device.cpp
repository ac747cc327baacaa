// SPDX-License-Identifier: MPL-2.0
#include "device/audio_device.h"

#include "spatial/layout.h"

#include <atomic>
#include <chrono>
#include <cmath>
#include <thread>

namespace stone
{

namespace
{

class ClockDevice : public AudioDevice
{
public:
    ClockDevice(int rate, std::size_t blockFrames) : rate_(rate), block_(blockFrames) {}
    ~ClockDevice() override { halt(); }

    void start(RenderSource& source) override
    {
        running_ = true;
        thread_ = std::thread([this, &source] { run(source); });
    }
    void stop() override { halt(); }
    std::string name() const override { return "no sound card: clock only"; }
    std::size_t blockFrames() const override { return block_; }
    bool audible() const override { return false; }
    bool lost() const override { return false; }

private:
    void halt()
    {
        if (running_.exchange(false)) {
            thread_.join();
        }
    }

    void run(RenderSource& source)
    {
        std::vector<float> nobodyHears(block_ * mostChannels);
        const auto period = std::chrono::duration_cast<std::chrono::steady_clock::duration>(
            std::chrono::duration<double>(static_cast<double>(block_) / rate_));
        auto next = std::chrono::steady_clock::now();
        while (running_) {
            source.render(nobodyHears.data(), block_);
            next += period;
            std::this_thread::sleep_until(next);
        }
    }

    int rate_;
    std::size_t block_;
    std::atomic<bool> running_{false};
    std::thread thread_;
};

} // namespace

std::unique_ptr<AudioDevice> openClock(int rate, std::size_t blockFrames)
{
    return std::make_unique<ClockDevice>(rate, blockFrames);
}

std::vector<float> HandClock::advance(Played& source, double seconds)
{
    std::vector<float> played;
    if (source_ == nullptr) {
        return played;
    }
    const std::size_t channels = source.channels();
    const auto blocks = static_cast<std::size_t>(std::ceil(seconds * rate_ / static_cast<double>(block_)));
    played.resize(blocks * block_ * channels);
    for (std::size_t i = 0; i < blocks; ++i) {
        source.pump();
        source_->render(played.data() + i * block_ * channels, block_);
    }
    source.pump();
    return played;
}

} // namespace stone
