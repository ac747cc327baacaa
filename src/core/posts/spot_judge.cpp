// SPDX-License-Identifier: MPL-2.0
#include "posts/spot_judge.h"

#include "analysis/map_asker.h"
#include "analysis/side_by_side.h"
#include "geometry/solid.h"
#include "world/carriage.h"

#include <algorithm>
#include <atomic>
#include <cmath>

namespace stone
{

namespace
{

constexpr double zoneStep_m = 1.5;
constexpr std::size_t mostZonePlaces = 256;

/// Asks for one number at a place.
class StandingQuestion
{
public:
    StandingQuestion(const HearingModel& model, const Post& post)
    {
        const auto indexOf = [&](const EmitterId& id) { return model.world().indexOf(id); };
        const auto askerFor = [&](std::vector<std::uint32_t> which) {
            return MapAsker(
                model,
                {.which = std::move(which), .voices = post.expects == Post::Expects::voices, .gaze = true, .mean = true});
        };
        const auto own = indexOf(post.emitter);
        askers_.push_back(askerFor(own ? std::vector{*own} : std::vector<std::uint32_t>()));
        if (post.expects == Post::Expects::above) {
            std::vector<std::uint32_t> others;
            if (const auto other = indexOf(post.other)) {
                others.push_back(*other);
            } else {
                for (std::uint32_t i = 0; i < model.level().emitters.size(); ++i) {
                    if (i != own) {
                        others.push_back(i);
                    }
                }
            }
            askers_.push_back(askerFor(std::move(others)));
            alone_ = askers_.size() == 2 && model.level().emitters.size() == 1;
        }
        voices_ = post.expects == Post::Expects::voices;
    }

    double at(const Pose& ears)
    {
        MapAsker::Scratch scratch;
        const MapCell cell = askers_.front().ask(ears, scratch);
        if (voices_) {
            return cell.voices;
        }
        if (askers_.size() == 1) {
            return cell.level_db;
        }
        MapAsker::Scratch others;
        const double other_db = alone_ ? MapCell::silent_db : askers_.back().ask(ears, others).level_db;
        // What is not heard is above nothing; above silence there is as much as it is itself above what is heard.
        return std::isfinite(cell.level_db) ? cell.level_db - std::max(other_db, noLeast_db) : MapCell::silent_db;
    }

private:
    std::vector<MapAsker> askers_;
    bool voices_ = false;
    bool alone_ = false;
};

PostResult judgeOne(const HearingModel& model, const Post& post)
{
    const Level& level = model.level();
    if (const auto never = whyNever(level, post)) {
        return {.post = post.id, .words = *never};
    }
    StandingQuestion question(model, post);
    const double ears_m = level.character.earsHeight_m;
    const auto judgeAt = [&](const Vec3& feet) {
        PostResult result = judged(level, post, question.at({feet + Vec3{0.0, 0.0, ears_m}, post.heading_deg, 0.0, 0.0}));
        result.at = feet;
        return result;
    };
    if (post.where == Post::Where::spot) {
        return judgeAt(post.at);
    }
    const std::vector<Vec3> places = placesIn(model.world(), post.zone);
    if (places.empty()) {
        return {.post = post.id, .words = "the zone has no room to stand in"};
    }
    PostResult worst = judgeAt(places.front());
    for (std::size_t i = 1; i < places.size(); ++i) {
        worst = worse(worst, judgeAt(places[i]));
    }
    return worst;
}

} // namespace

bool standsStill(const Post& post)
{
    const bool placed = post.where == Post::Where::spot || post.where == Post::Where::zone;
    return placed && post.expects != Post::Expects::by && post.expects != Post::Expects::every;
}

std::vector<Vec3> placesIn(const World& world, const ZoneId& zone)
{
    std::vector<Vec3> places;
    const auto index = world.zones().indexOf(zone);
    if (!index) {
        return places;
    }
    const Solid& solid = world.zones().solid(*index);
    const Carriage carriage = world.carriageOf(world.zones().zone(*index).riding, Moment());
    const double ears_m = world.level().character.earsHeight_m;
    const auto [low, high] = solid.box();
    const Vec3 size = high - low;
    // Coarser where there were too many.
    const double cells = size.x * size.y / (zoneStep_m * zoneStep_m);
    const double step_m = zoneStep_m * std::sqrt(std::max(cells / static_cast<double>(mostZonePlaces), 1.0));
    // The ears count for being inside: as high as they are, or where the zone is lower, in its middle.
    const double at_m = std::min(low.z + ears_m, (low.z + high.z) / 2.0);
    const auto steps = [&](double length_m) { return std::max(static_cast<int>(std::ceil(length_m / step_m)), 1); };
    const int columns = steps(size.x);
    const int rows = steps(size.y);
    for (int row = 0; row < rows; ++row) {
        for (int column = 0; column < columns; ++column) {
            const Vec3 own{low.x + (column + 0.5) * size.x / columns, low.y + (row + 0.5) * size.y / rows, at_m};
            if (solid.contains(own)) {
                const Vec3 ears = carriage.placed(own);
                places.push_back({ears.x, ears.y, ears.z - ears_m});
            }
        }
    }
    return places;
}

std::vector<PostResult> judgeStanding(const HearingModel& model, const std::vector<Post>& posts, unsigned threads,
                                      const std::function<bool()>& goOn)
{
    std::vector<PostResult> results(posts.size());
    std::atomic<std::size_t> next{0};
    const auto work = [&] {
        for (std::size_t i = next++; i < posts.size(); i = next++) {
            results[i].post = posts[i].id;
            if (goOn && !goOn()) {
                results[i].words = "not judged";
            } else {
                results[i] = judgeOne(model, posts[i]);
            }
        }
    };
    sideBySide(std::min<unsigned>(threads, static_cast<unsigned>(posts.size())), work);
    return results;
}

} // namespace stone
