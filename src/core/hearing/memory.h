// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "hearing/give_way.h"
#include "hearing/occluder.h"
#include "world/world_state.h"

#include <cstdint>
#include <unordered_map>
#include <vector>

namespace stone
{

/// What a gaze makes of an emitter.
struct Gazed {
    double level_db = 0.0;
    double nearness = 1.0;
    double priority = 0.0;
};

/// What somebody who listens on and on remembers of each start from one moment to the next: with it walls and gaze come and
/// go at their own pace instead of at once, and not every ray is cast every time. Belongs to who asks; not thread-safe.
class HearMemory
{
public:
    /// `paced`: walls and gaze come and go at their own pace; else only the rays are spared, for who looks rather than
    /// listens.
    explicit HearMemory(bool paced = true) : paced_(paced) {}
    bool paced() const { return paced_; }

    struct Kept {
        bool fresh = true;   ///< nothing has come to its value yet
        Screened wanted;     ///< as it was reckoned last
        Vec3 from{0.0};      ///< where the ears were then
        Bands loss_db{};     ///< on its way there
        double turned = 0.0; ///< and so is what comes through openings
        Vec3 towards{0.0};
        double detour_m = 0.0;
        std::vector<Gazed> gazes; ///< by gaze of the emitter
        std::uint64_t seen = 0;

        void reckoned(const Screened& now, const Vec3& ears)
        {
            wanted = now;
            from = ears;
        }
    };

    /// Rays are cast anew for each start once in so many moments, or when the ears are so far from where they were.
    static constexpr std::uint64_t turns = 8;
    static constexpr double stale_m = 0.25;

    /// A moment later. Forgets what has not been heard for a while.
    void begin()
    {
        ++moment_;
        if (moment_ % forgetEvery == 0) {
            const auto old = [this](const auto& entry) { return entry.second.seen + forgetEvery < moment_; };
            std::erase_if(kept_, old);
            std::erase_if(openings_, old);
        }
    }
    Kept& of(const Start& start)
    {
        Kept& kept = kept_[keyOf(start)];
        kept.seen = moment_;
        return kept;
    }
    /// The same of an opening through which a room is heard, by its number in the level.
    Kept& ofOpening(std::uint32_t opening)
    {
        Kept& kept = openings_[opening];
        kept.seen = moment_;
        return kept;
    }
    /// Whether it is the turn of the emitter or opening with this number to be reckoned anew.
    bool due(std::uint32_t number, const Kept& kept, const Vec3& ears) const
    {
        return kept.fresh || (moment_ + number) % turns == 0 || glm::length(ears - kept.from) > stale_m;
    }

    /// Who sounds and who has given way.
    GiveWay giveWay;

    /// Everything is in its place at once, as after a jump.
    void forget()
    {
        kept_.clear();
        openings_.clear();
        giveWay.settle();
    }
    /// The level starts anew.
    void restart()
    {
        kept_.clear();
        openings_.clear();
        giveWay.forget();
    }
    /// Numbers the emitters anew; `now` gives an emitter's number or none. What is kept of openings is forgotten.
    template <class Now> void renumber(Now&& now)
    {
        std::unordered_map<std::uint64_t, Kept> before = std::exchange(kept_, {});
        for (auto& [key, kept] : before) {
            if (const std::optional<std::uint32_t> emitter = now(emitterOf(key))) {
                kept.gazes.clear();
                kept_.emplace(renumbered(key, *emitter), std::move(kept));
            }
        }
        openings_.clear();
        giveWay.renumber(now);
    }

private:
    static constexpr std::uint64_t forgetEvery = 512;

    bool paced_;
    std::unordered_map<std::uint64_t, Kept> kept_;
    std::unordered_map<std::uint32_t, Kept> openings_;
    std::uint64_t moment_ = 0;
};

} // namespace stone
