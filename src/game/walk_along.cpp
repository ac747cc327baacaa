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
    for (std::uint64_t picture = 0; before_s < walk.seconds() || picture == 0; ++picture) {
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
