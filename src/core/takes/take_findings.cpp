// SPDX-License-Identifier: MPL-2.0
#include "takes/take_findings.h"

#include "analysis/repetition.h"
#include "analysis/words.h"

#include <algorithm>
#include <cmath>
#include <optional>

namespace stone
{

namespace
{

/// What is softer disturbs nobody.
constexpr double noticed_db = -50.0;
/// What is alike is said once in so long.
constexpr double again_s = 5.0;
constexpr double flipWithin_s = 0.15;
constexpr double flipSide = 0.5; ///< of the direction's part to the right
constexpr double dropoutLeast_s = 0.09;
constexpr double dropoutMost_s = 2.0;
constexpr double swapsOver_s = 3.0;
constexpr std::size_t swapsMost = 3;
constexpr int heap = 10;
/// For shorter nobody minds.
constexpr double maskedFor_s = 1.0;
/// Repeats are listened for in stretches of so long; shorter ones say nothing.
constexpr double repeatsOver_s = 90.0;
constexpr double repeatsLeast_s = 15.0;
/// What comes again so soon is a clock, steps, a machine: that is as it should be.
constexpr double rhythm_s = 2.5;

class TakeExaminer
{
public:
    explicit TakeExaminer(const Take& take) : take_(take) {}

    void add(const TakenMoment& moment)
    {
        now_ = &moment;
        jumps_.add(moment);
        for (const auto& [copy, by_db] : jumps_.jumped()) {
            say("level-jumps", copy, "jumps by " + number("%.0f dB", std::abs(by_db)) + (by_db > 0.0 ? " up" : " down"));
        }
        std::map<std::string, int> copiesOf;
        for (const TakenCopy& copy : moment.copies) {
            if (copy.audible) {
                ++copiesOf[take_.copies()[copy.copy].soundName];
            }
        }
        for (const TakenCopy& copy : moment.copies) {
            lookAt(copy);
        }
        for (const auto& [sound, copies] : copiesOf) {
            if (copies > heap) {
                sayOf("piles-up", sound, {}, quoted(sound) + " sounds " + std::to_string(copies) + " times at once");
            }
        }
        if (moment.peak_db > 0.0) {
            sayOf("over-full-scale", {}, {}, "it peaks " + number("%.1f dB", moment.peak_db) + " over full scale");
        }
        const auto out = std::count_if(moment.copies.begin(), moment.copies.end(), [](const TakenCopy& copy) {
            return copy.gaveWay && copy.gaveWay->crowd == Crowd::level;
        });
        if (out > 0) {
            sayOf("over-budget", {}, {},
                  std::to_string(out) + (out == 1 ? " copy has" : " copies have") +
                      " given way: the level's voices are not enough");
        }
    }

    /// Who mattered and could not be made out.
    void addMasked()
    {
        for (const TakenMasking& masking : take_.masked()) {
            const double for_s = masking.to_s - masking.from_s;
            if (for_s < maskedFor_s) {
                continue;
            }
            const auto nameOf = [&](std::uint32_t copy) { return quoted(emitterOf(copy).name); };
            found_.push_back({"masked",
                              nameOf(masking.copy) + " matters, and " + nameOf(masking.by) + " masks it for " +
                                  number("%.1f s", for_s) + ", by " + number("%.0f dB", masking.under_db),
                              masking.from_s, earsAt(masking.from_s), emitterOf(masking.copy).id});
        }
    }

    /// What comes again as it was: listened for in the sound, where there is one.
    void addRepeats(const std::function<bool(double)>& goOn)
    {
        const auto channels = static_cast<std::size_t>(take_.info().channels);
        const double rate = take_.info().rate;
        const double all_s = take_.hasSound() ? static_cast<double>(take_.soundFrames()) / rate : 0.0;
        for (double from_s = 0.0; from_s + repeatsLeast_s < all_s; from_s += repeatsOver_s) {
            const std::vector<float> frames =
                take_.sound(static_cast<std::uint64_t>(from_s * rate), static_cast<std::uint64_t>(repeatsOver_s * rate));
            std::vector<float> mono(frames.size() / channels);
            for (std::size_t i = 0; i < mono.size(); ++i) {
                for (std::size_t channel = 0; channel < channels; ++channel) {
                    mono[i] += frames[i * channels + channel] / static_cast<float>(channels);
                }
            }
            const Repetition repetition = listenForRepeats(mono, rate);
            if (repetition.audible() && *repetition.after_s > rhythm_s) {
                found_.push_back({"repeats",
                                  "what is heard comes again after " + number("%.1f s", *repetition.after_s) + ", alike to " +
                                      number("%.0f %%", 100.0 * repetition.likenessThere),
                                  from_s,
                                  earsAt(from_s),
                                  {}});
            }
            if (goOn && !goOn(std::min(1.0, from_s / all_s))) {
                return;
            }
        }
    }

    std::vector<TakeFinding> found()
    {
        std::stable_sort(found_.begin(), found_.end(),
                         [](const TakeFinding& a, const TakeFinding& b) { return a.t_s < b.t_s; });
        return std::move(found_);
    }

private:
    struct Past {
        double seen_s = -1.0; ///< when it was last audible
        double level_db = -200.0;
        std::optional<double> right_s; ///< when it was last clearly on either side
        std::optional<double> left_s;
        std::vector<double> swaps_s; ///< when it gave way or came back
        bool gaveWay = false;
    };

    void lookAt(const TakenCopy& copy)
    {
        const double t_s = now_->t_s;
        Past& past = past_[copy.copy];
        if (copy.gaveWay.has_value() != past.gaveWay) {
            past.gaveWay = copy.gaveWay.has_value();
            past.swaps_s.push_back(t_s);
            std::erase_if(past.swaps_s, [t_s](double at_s) { return at_s < t_s - swapsOver_s; });
            if (past.swaps_s.size() > swapsMost) {
                say("flutters", copy.copy,
                    "gives way and comes back " + std::to_string(past.swaps_s.size()) + " times in " +
                        number("%.0f s", swapsOver_s));
            }
        }
        if (!copy.audible) {
            return;
        }
        const double gap_s = t_s - past.seen_s;
        if (past.seen_s >= 0.0 && gap_s > dropoutLeast_s && gap_s < dropoutMost_s && past.level_db > noticed_db &&
            copy.level_db > noticed_db) {
            say("drops-out", copy.copy, "drops out for " + number("%.2f s", gap_s));
        }
        past.seen_s = t_s;
        past.level_db = copy.level_db;
        if (copy.level_db > noticed_db) {
            lookAtSide(copy, past);
        }
    }

    void lookAtSide(const TakenCopy& copy, Past& past)
    {
        const double t_s = now_->t_s;
        const double side = copy.direction.x;
        if (side > flipSide) {
            if (past.left_s && t_s - *past.left_s < flipWithin_s) {
                say("flips-side", copy.copy, "jumps from the left to the right");
            }
            past.right_s = t_s;
        } else if (side < -flipSide) {
            if (past.right_s && t_s - *past.right_s < flipWithin_s) {
                say("flips-side", copy.copy, "jumps from the right to the left");
            }
            past.left_s = t_s;
        }
    }

    Vec3 earsAt(double t_s) const
    {
        const auto there = take_.momentAt(t_s + takeStep_s / 2.0);
        return there ? there->ears.at : Vec3{0.0};
    }
    const TakeEmitter& emitterOf(std::uint32_t copy) const { return take_.emitters()[take_.copies()[copy].emitter]; }

    void say(const char* code, std::uint32_t copy, const std::string& what)
    {
        const TakeEmitter& emitter = emitterOf(copy);
        sayOf(code, emitter.id.text, emitter.id, quoted(emitter.name) + ' ' + what);
    }

    void sayOf(const char* code, const std::string& key, const EmitterId& emitter, const std::string& what)
    {
        double& said_s = said_.try_emplace(std::string(code) + ' ' + key, -again_s).first->second;
        if (now_->t_s - said_s >= again_s) {
            found_.push_back({code, what, now_->t_s, now_->ears.at, emitter});
        }
        said_s = now_->t_s;
    }

    const Take& take_;
    JumpCounter jumps_;
    const TakenMoment* now_ = nullptr;
    std::map<std::uint32_t, Past> past_;
    std::map<std::string, double> said_;
    std::vector<TakeFinding> found_;
};

} // namespace

void JumpCounter::add(const TakenMoment& moment)
{
    jumped_.clear();
    for (const TakenCopy& copy : moment.copies) {
        Past& past = past_[copy.copy];
        if (!copy.audible) {
            past.levels.clear();
            continue;
        }
        // Older ones do not count, nor those from before a silence.
        std::erase_if(past.levels, [&](const auto& level) { return level.first < moment.t_s - within_s - 1e-6; });
        for (const auto& [t_s, level_db] : past.levels) {
            const double by_db = copy.level_db - level_db;
            if (std::abs(by_db) > mostJump_db_ && std::max(copy.level_db, level_db) > noticed_db &&
                moment.t_s > past.quietUntil_s) {
                past.quietUntil_s = moment.t_s + within_s;
                jumped_.emplace_back(copy.copy, by_db);
                ++count_;
                break;
            }
        }
        past.levels.emplace_back(moment.t_s, copy.level_db);
    }
}

std::vector<TakeFinding> findInTake(const Take& take, const std::function<bool(double)>& progress)
{
    constexpr double moments = 0.7; // of the time that it takes
    bool goesOn = true;
    const auto within = [&](double from, double share) {
        return [&, from, share](double part) { return goesOn = !progress || progress(from + share * part); };
    };
    TakeExaminer examiner(take);
    const auto onMoment = within(0.0, moments);
    take.eachMoment([&](const TakenMoment& moment) {
        examiner.add(moment);
        return onMoment(moment.t_s / std::max(take.seconds(), 1e-9));
    });
    examiner.addMasked();
    if (goesOn) {
        examiner.addRepeats(within(moments, 1.0 - moments));
    }
    return examiner.found();
}

} // namespace stone
