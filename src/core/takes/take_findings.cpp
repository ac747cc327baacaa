#include "takes/take_findings.h"

#include "analysis/words.h"
#include "project/edit.h"
#include "project/file_error.h"
#include "project/read.h"
#include "takes/take_series.h"

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
/// So far below all else together, for so long, nobody makes it out.
constexpr double masked_db = 15.0;
constexpr double maskedFor_s = 1.0;

class TakeExaminer
{
public:
    explicit TakeExaminer(const Take& take) : take_(take), jumps_(take) { readPriorities(); }

    void add(const TakenMoment& moment)
    {
        now_ = &moment;
        jumps_.add(moment);
        for (const auto& [copy, by_db] : jumps_.jumped()) {
            say("level-jumps", copy, "jumps by " + number("%.0f dB", std::abs(by_db)) + (by_db > 0.0 ? " up" : " down"));
        }
        double all_db = -200.0;
        std::map<std::string, int> copiesOf;
        for (const TakenCopy& copy : moment.copies) {
            if (copy.audible) {
                all_db = together_db(all_db, copy.level_db);
                ++copiesOf[take_.copies()[copy.copy].soundName];
            }
        }
        for (const TakenCopy& copy : moment.copies) {
            lookAt(copy, all_db);
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

    std::vector<TakeFinding> found() { return std::move(found_); }

private:
    struct Past {
        double seen_s = -1.0; ///< when it was last audible
        double level_db = -200.0;
        std::optional<double> right_s; ///< when it was last clearly on either side
        std::optional<double> left_s;
        std::vector<double> swaps_s; ///< when it gave way or came back
        bool gaveWay = false;
        double maskedSince_s = -1.0;
    };

    void lookAt(const TakenCopy& copy, double all_db)
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
        const TakeEmitter& emitter = take_.emitters()[take_.copies()[copy.copy].emitter];
        if (matters_.contains(emitter.id) && copy.level_db > noticed_db - 10.0) {
            const double others = std::pow(10.0, all_db / 10.0) - std::pow(10.0, copy.level_db / 10.0);
            const bool masked = others > 0.0 && 10.0 * std::log10(others) - copy.level_db > masked_db;
            past.maskedSince_s = !masked ? -1.0 : past.maskedSince_s < 0.0 ? t_s : past.maskedSince_s;
            if (masked && t_s - past.maskedSince_s >= maskedFor_s) {
                say("masked", copy.copy,
                    "matters, and lies " + number("%.0f dB", 10.0 * std::log10(others) - copy.level_db) +
                        " below all else together");
            }
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

    void say(const char* code, std::uint32_t copy, const std::string& what)
    {
        const TakeEmitter& emitter = take_.emitters()[take_.copies()[copy].emitter];
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

    /// Who must be heard, by the first document.
    void readPriorities()
    {
        if (take_.documents().empty()) {
            return;
        }
        try {
            const Project project = readProjectText(take_.documentText(0), take_.path().string()).project;
            for (const auto& level : project.levels) {
                for (const auto& emitter : level->emitters) {
                    if (priorityOf(project, *emitter) >= Priority::notable) {
                        matters_.insert(emitter->id);
                    }
                }
            }
        } catch (const FileError&) {
            // Without its document nothing is known of what matters.
        }
    }

    const Take& take_;
    JumpCounter jumps_;
    const TakenMoment* now_ = nullptr;
    std::map<std::uint32_t, Past> past_;
    std::map<std::string, double> said_;
    std::set<EmitterId> matters_;
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
            if (std::abs(by_db) > most_db && std::max(copy.level_db, level_db) > noticed_db && moment.t_s > past.quietUntil_s) {
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
    TakeExaminer examiner(take);
    take.eachMoment([&](const TakenMoment& moment) {
        examiner.add(moment);
        return !progress || progress(moment.t_s / std::max(take.seconds(), 1e-9));
    });
    return examiner.found();
}

} // namespace stone
