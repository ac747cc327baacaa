// SPDX-License-Identifier: GPL-3.0-or-later
#include "game/walk_along.h"

#include "world/walk_pose.h"

#include <chrono>
#include <thread>

namespace stone::game
{

bool walkAlong(Teller& teller, const Walk& walk, double picturesPerSecond, const std::function<bool()>& stop)
{
    const auto start = std::chrono::steady_clock::now();
    double before_s = 0.0;
    // At its end one stands for a moment: whoever follows takes a way that ends in the middle for one that goes on.
    constexpr double stands_s = 0.15;
    for (std::uint64_t picture = 0; before_s < walk.seconds() + stands_s || picture == 0; ++picture) {
        if (stop()) {
            return false;
        }
        const double at_s = static_cast<double>(picture) / picturesPerSecond;
        std::this_thread::sleep_until(
            start + std::chrono::duration_cast<std::chrono::steady_clock::duration>(std::chrono::duration<double>(at_s)));
        teller.say(GameWord{.kind = GameWord::Kind::character, .pose = walkPose(walk, at_s)});
        for (const Happening& happening : happeningsOf(walk, before_s, at_s)) {
            teller.say(happening);
        }
        teller.flush();
        teller.listen();
        before_s = at_s;
    }
    return true;
}

} // namespace stone::game
