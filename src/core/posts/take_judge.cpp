// SPDX-License-Identifier: MPL-2.0
#include "posts/take_judge.h"

#include "takes/take_findings.h"
#include "takes/take_series.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <memory>

namespace stone
{

namespace
{

constexpr double silent_db = TakenCopy::silentTake_db;

double powered(double level_db)
{
    return std::pow(10.0, level_db / 10.0);
}

double asLevel_db(double power)
{
    return power > 0.0 ? 10.0 * std::log10(power) : silent_db;
}

/// The loudness of a stretch by the gates of ITU-R BS.1770-4: of all blocks of 0.4 s those above -70 LUFS, and of these the
/// ones that lie no more than 10 LU under their mean.
double gated_lufs(const std::vector<double>& blocks)
{
    constexpr double absolute_lufs = -70.0;
    constexpr double relative_lu = 10.0;
    const auto mean = [&](double from_lufs) {
        double sum = 0.0;
        std::size_t count = 0;
        for (const double block : blocks) {
            if (block >= from_lufs) {
                sum += powered(block);
                ++count;
            }
        }
        return count > 0 ? asLevel_db(sum / static_cast<double>(count)) : silent_db;
    };
    const double first = mean(absolute_lufs);
    return std::isfinite(first) ? mean(std::max(first - relative_lu, absolute_lufs)) : silent_db;
}

/// One post while it is followed along a take.
class Follower
{
public:
    Follower(const Take& take, const Level& level, const Post& post) : take_(take), level_(level), post_(post)
    {
        own_ = numberOf(post.emitter);
        other_ = numberOf(post.other);
        if (post.expects == Post::Expects::jumps) {
            jumps_ = std::make_unique<JumpCounter>(post.most_db + post.tolerance_db);
        }
        heardAt_s_ = post.from_s;
    }

    bool missing() const { return (!post_.emitter.empty() && !own_) || (!post_.other.empty() && !other_); }

    void add(const TakenMoment& moment)
    {
        const double t_s = moment.walk_s >= 0.0 ? moment.walk_s : moment.t_s;
        const double to_s = post_.to_s > 0.0 ? post_.to_s : std::numeric_limits<double>::infinity();
        if (jumps_) {
            jumps_->add(moment); // what was before the stretch counts for what is in it
        }
        if (t_s < post_.from_s || t_s > to_s) {
            return;
        }
        last_ = {moment.feet.at, t_s};
        any_ = true;
        switch (post_.expects) {
        case Post::Expects::voices: note(moment.voices, moment, t_s); break;
        case Post::Expects::jumps:
            for (const auto& [copy, jump_db] : jumps_->jumped()) {
                note(std::abs(jump_db), moment, t_s, take_.emitters()[take_.copies()[copy].emitter].name + ": ");
            }
            break;
        case Post::Expects::loudness: addBlock(moment, t_s); break;
        case Post::Expects::by:
        case Post::Expects::every: listen(levelOf(moment, own_), moment, t_s); break;
        case Post::Expects::above: {
            const double own_db = levelOf(moment, own_);
            const double other_db = other_ ? levelOf(moment, other_) : levelOfOthers(moment);
            note(std::isfinite(own_db) ? own_db - std::max(other_db, noLeast_db) : silent_db, moment, t_s);
            break;
        }
        case Post::Expects::masked: break;
        default: note(levelOf(moment, own_), moment, t_s); break;
        }
    }

    PostResult result()
    {
        if (missing()) {
            return unjudged("the take knows nothing of " + (own_ || post_.emitter.empty() ? post_.other : post_.emitter).text);
        }
        if (!any_) {
            return unjudged("the take has nothing of its stretch");
        }
        switch (post_.expects) {
        case Post::Expects::loudness: worst_ = at(judged(level_, post_, gated_lufs(blocks_)), last_); break;
        case Post::Expects::by:
            if (!heard_) {
                worst_ = at(judged(level_, post_, std::numeric_limits<double>::infinity()), last_);
            }
            break;
        case Post::Expects::every: gap(last_); break;
        case Post::Expects::masked: addMasked(); break;
        case Post::Expects::jumps:
            // None so large: what was found is none.
            if (!worst_) {
                worst_ = at(judged(level_, post_, 0.0), last_);
            }
            break;
        default: break;
        }
        return *worst_;
    }

private:
    struct Place {
        Vec3 feet{0.0};
        double t_s = 0.0;
    };

    std::optional<std::uint32_t> numberOf(const EmitterId& id) const
    {
        if (id.empty()) {
            return {};
        }
        if (const auto known = emitterIn(take_, id.text)) {
            return known;
        }
        const Emitter* emitter = level_.emitters.find(id);
        return emitter != nullptr ? emitterIn(take_, emitter->name) : std::nullopt;
    }

    PostResult unjudged(const std::string& why) const { return {.post = post_.id, .words = why}; }

    static PostResult at(PostResult result, const Place& place)
    {
        result.at = place.feet;
        result.t_s = place.t_s;
        return result;
    }

    void note(double found, const TakenMoment& moment, double t_s, const std::string& who = {})
    {
        PostResult now = at(judged(level_, post_, found), {moment.feet.at, t_s});
        now.words = who + now.words;
        keepWorse(now);
    }

    void keepWorse(const PostResult& now) { worst_ = worst_ ? worse(*worst_, now) : now; }

    /// What all copies of whoever counts give together.
    template <class Counts> double together(const TakenMoment& moment, Counts&& counts) const
    {
        double sum_db = silent_db;
        for (const TakenCopy& copy : moment.copies) {
            sum_db = counts(take_.copies()[copy.copy].emitter) ? together_db(sum_db, copy.level_db) : sum_db;
        }
        return sum_db;
    }

    /// Of an emitter, or of all.
    double levelOf(const TakenMoment& moment, const std::optional<std::uint32_t>& emitter) const
    {
        return together(moment, [&](std::uint32_t of) { return !emitter || of == *emitter; });
    }

    double levelOfOthers(const TakenMoment& moment) const
    {
        return together(moment, [&](std::uint32_t of) { return of != own_; });
    }

    void addBlock(const TakenMoment& moment, double t_s)
    {
        constexpr double every_s = 0.1;
        if (t_s >= nextBlock_s_) {
            blocks_.push_back(moment.momentary_lufs);
            nextBlock_s_ = t_s + every_s - takeStep_s / 2.0;
        }
    }

    void listen(double level_db, const TakenMoment& moment, double t_s)
    {
        if (level_db < heardFrom_db) {
            return;
        }
        const Place here{moment.feet.at, t_s};
        if (post_.expects == Post::Expects::every) {
            gap(here);
        } else if (!heard_) {
            worst_ = at(judged(level_, post_, t_s - post_.from_s), here);
        }
        heard_ = true;
        heardAt_s_ = t_s;
    }

    /// How long it has not been heard by then.
    void gap(const Place& here) { keepWorse(at(judged(level_, post_, here.t_s - heardAt_s_), here)); }

    void addMasked()
    {
        worst_ = at(judged(level_, post_, 0.0), last_);
        const double end_s = post_.to_s > 0.0 ? post_.to_s : std::numeric_limits<double>::infinity();
        for (const TakenMasking& masking : take_.masked()) {
            const std::uint32_t emitter = take_.copies()[masking.copy].emitter;
            const double from_s = std::max(masking.from_s, post_.from_s);
            const double to_s = std::min(masking.to_s, end_s);
            if (to_s <= from_s || (own_ && emitter != *own_)) {
                continue;
            }
            const auto moment = take_.momentAt(from_s);
            PostResult now = at(judged(level_, post_, to_s - from_s), {moment ? moment->feet.at : Vec3{0.0}, from_s});
            now.words = take_.emitters()[emitter].name + " under " + take_.emitters()[take_.copies()[masking.by].emitter].name +
                        " for " + now.words;
            keepWorse(now);
        }
    }

    const Take& take_;
    const Level& level_;
    const Post& post_;
    std::optional<std::uint32_t> own_;
    std::optional<std::uint32_t> other_;
    std::optional<PostResult> worst_;
    std::unique_ptr<JumpCounter> jumps_;
    std::vector<double> blocks_;
    double nextBlock_s_ = 0.0;
    double heardAt_s_ = 0.0;
    bool heard_ = false;
    bool any_ = false;
    Place last_;
};

} // namespace

PostResult judgeAlong(const Take& take, const Level& level, const Post& post)
{
    Follower follower(take, level, post);
    take.eachMoment([&](const TakenMoment& moment) {
        follower.add(moment);
        return true;
    });
    return follower.result();
}

std::vector<PostResult> judgeTake(const Take& take, const Level& level, const std::vector<Post>& posts,
                                  const std::function<bool(double)>& progress)
{
    std::vector<Follower> followers;
    std::vector<PostResult> results;
    for (const Post& post : posts) {
        const bool along =
            post.where == Post::Where::level ||
            (post.where == Post::Where::walk && (take.info().walkId.empty() || post.walk.text == take.info().walkId));
        if (!along) {
            continue;
        }
        if (const auto never = whyNever(level, post)) {
            results.push_back({.post = post.id, .words = *never});
        } else {
            followers.emplace_back(take, level, post);
        }
    }
    bool stopped = false;
    take.eachMoment([&](const TakenMoment& moment) {
        for (Follower& follower : followers) {
            follower.add(moment);
        }
        stopped = progress && !progress(moment.t_s / std::max(take.seconds(), takeStep_s));
        return !stopped;
    });
    for (Follower& follower : followers) {
        PostResult result = follower.result();
        if (stopped) {
            result = {.post = result.post, .words = "not judged"};
        }
        result.walk = {take.info().walkId};
        results.push_back(std::move(result));
    }
    return results;
}

} // namespace stone
