// SPDX-License-Identifier: MPL-2.0
#include "posts/solve.h"

#include "acoustics/distance.h"
#include "acoustics/lane.h"
#include "dsp/decibel.h"
#include "posts/post_run.h"
#include "posts/spot_judge.h"
#include "project/edit.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>
#include <numeric>

namespace stone
{

namespace
{

constexpr double met_db = 0.1;
/// Wishes nearer to each other than this, for the falloff, are at one distance.
constexpr double together_m = 0.05;
/// A ruler laid over the level: the linear model is told back into metres.
constexpr double rulerLength_m = 10'000.0;

struct Wanted {
    std::size_t wish;
    double d_m;
    double value; ///< of the falloff, dB; or Hz
    double rest_db;
};

std::string said(const char* format, double a, double b = 0.0, double c = 0.0)
{
    char text[200];
    std::snprintf(text, sizeof text, format, a, b, c);
    return text;
}

Lane* levelLane(std::vector<Lane>& lanes)
{
    const auto found = std::find_if(lanes.begin(), lanes.end(), [](const Lane& lane) {
        return lane.property == LaneProperty::level && lane.over == LaneInput::distance;
    });
    return found != lanes.end() ? &*found : nullptr;
}

HearingModel modelOf(const HearingModel& like, Project project)
{
    auto shared = std::make_shared<const Project>(std::move(project));
    const World& world = like.world();
    return HearingModel(
        std::make_shared<const World>(shared, world.level().id, world.sharedGround(), LengthOf{}, world.ways()));
}

/// One emitter at a place as maps have it: as if it sounded, without gazes.
Heard heardAt(const HearingModel& model, const Wish& wish)
{
    const double ears_m = model.level().character.earsHeight_m;
    Moment moment(Ears(Pose{wish.at + Vec3{0.0, 0.0, ears_m}, 0.0, 0.0, 0.0}), TimeSpan{});
    HearScratch scratch;
    scratch.withoutGaze = true;
    scratch.withoutRooms = true;
    model.ready(moment, scratch);
    const std::uint32_t index = *model.world().indexOf(wish.emitter);
    return model.hearStart(moment, index, model.world().simpleStart(index), scratch);
}

double found(const Wish& wish, const Heard& heard)
{
    return wish.of == Wish::Of::lowPass ? heard.values.lowPass_hz : heard.level_db;
}

using Two = std::array<double, 2>;

double squares(const std::vector<double>& residuals)
{
    return std::accumulate(residuals.begin(), residuals.end(), 0.0, [](double sum, double r) { return sum + r * r; });
}

/// Least squares over two numbers from one beginning, by K. Levenberg (1944) and D. Marquardt (1963), with slopes by
/// differences.
template <class Residuals> std::pair<Two, double> fittedFrom(Two at, Residuals&& residuals)
{
    constexpr int mostSteps = 80;
    constexpr double apart = 1e-5;
    constexpr double still = 1e-10;
    double damping = 1e-3;
    std::vector<double> now = residuals(at);
    double error = squares(now);
    for (int step = 0; step < mostSteps; ++step) {
        std::array<std::vector<double>, 2> slopes;
        for (std::size_t i = 0; i < 2; ++i) {
            Two more = at;
            Two less = at;
            more[i] += apart;
            less[i] -= apart;
            slopes[i] = residuals(more);
            const std::vector<double> there = residuals(less);
            for (std::size_t k = 0; k < there.size(); ++k) {
                slopes[i][k] = (slopes[i][k] - there[k]) / (2.0 * apart);
            }
        }
        const auto dot = [](const std::vector<double>& a, const std::vector<double>& b) {
            return std::inner_product(a.begin(), a.end(), b.begin(), 0.0);
        };
        const double xx = dot(slopes[0], slopes[0]) * (1.0 + damping) + 1e-12;
        const double yy = dot(slopes[1], slopes[1]) * (1.0 + damping) + 1e-12;
        const double xy = dot(slopes[0], slopes[1]);
        const double x = dot(slopes[0], now);
        const double y = dot(slopes[1], now);
        const double determinant = xx * yy - xy * xy;
        const Two by{(x * yy - y * xy) / determinant, (y * xx - x * xy) / determinant};
        // No more than a factor of three at once: further off the formula is another one.
        constexpr double furthest = 1.1;
        const Two next{at[0] - std::clamp(by[0], -furthest, furthest), at[1] - std::clamp(by[1], -furthest, furthest)};
        std::vector<double> there = residuals(next);
        if (const double nextError = squares(there); nextError < error) {
            const bool settled = error - nextError < still * (1.0 + error);
            at = next;
            now = std::move(there);
            error = nextError;
            damping = std::max(damping / 3.0, 1e-9);
            if (settled) {
                break;
            }
        } else {
            damping *= 4.0;
            if (damping > 1e12) {
                break;
            }
        }
    }
    return {at, error};
}

/// The best from several beginnings.
template <class Residuals> Two fitted(const std::vector<Two>& starts, Residuals&& residuals)
{
    std::pair<Two, double> best = fittedFrom(starts.front(), residuals);
    for (std::size_t i = 1; i < starts.size(); ++i) {
        std::pair<Two, double> other = fittedFrom(starts[i], residuals);
        best = other.second < best.second ? other : best;
    }
    return best.first;
}

double formulaAt_db(const DistanceFormula& formula, double d_m)
{
    return levelOf(distanceGain(formula, d_m) * reachGain(formula, d_m));
}

double worstOf(const DistanceFormula& formula, const std::vector<Wanted>& levels)
{
    double worst_db = 0.0;
    for (const Wanted& wanted : levels) {
        const double off_db = std::abs(formulaAt_db(formula, wanted.d_m) - wanted.value);
        worst_db = std::max(worst_db, std::isfinite(off_db) ? off_db : 200.0);
    }
    return worst_db;
}

/// The model's reference and factor that come nearest. As logarithms: neither may be 0 or less.
DistanceFormula fittedModel(DistanceFormula formula, DistanceModel model, const std::vector<Wanted>& levels)
{
    formula.model = model;
    const double furthest_m = levels.back().d_m;
    if (model == DistanceModel::linear) {
        formula.maximum_m = std::max(formula.maximum_m >= rulerLength_m ? 2.0 * furthest_m : formula.maximum_m, furthest_m);
    }
    const auto with = [&](const Two& at) {
        DistanceFormula now = formula;
        now.reference_m = std::clamp(std::exp(at[0]), 0.01, rulerLength_m);
        now.factor = std::clamp(std::exp(at[1]), 1e-4, model == DistanceModel::linear ? 1.0 : 1'000.0);
        if (model == DistanceModel::linear) {
            // What a linear model has besides: where it ends. Its factor stays.
            now.factor = 1.0;
            now.maximum_m = std::clamp(std::exp(at[1]), now.reference_m + 0.01, rulerLength_m);
        }
        return now;
    };
    const Two present{
        std::log(std::max(formula.reference_m, 0.01)),
        std::log(model == DistanceModel::linear ? std::max(formula.maximum_m, 0.02) : std::max(formula.factor, 1e-4))};
    const auto residuals = [&](const Two& at) {
        const DistanceFormula now = with(at);
        std::vector<double> off;
        for (const Wanted& wanted : levels) {
            const double off_db = formulaAt_db(now, wanted.d_m) - wanted.value;
            off.push_back(std::isfinite(off_db) ? off_db : -200.0);
        }
        // Of many that do it equally well the one that is nearest to what is there.
        constexpr double pull = 1e-3;
        off.push_back(pull * (at[0] - present[0]));
        off.push_back(pull * (at[1] - present[1]));
        return off;
    };
    std::vector<Two> starts{present};
    for (const double reference_m : {0.3, 1.0, 3.0, 10.0}) {
        for (const double other : {0.3, 1.0, 3.0}) {
            starts.push_back(
                {std::log(reference_m), std::log(model == DistanceModel::linear ? furthest_m * (0.7 + other) : other)});
        }
    }
    return with(fitted(starts, residuals));
}

class Solver
{
public:
    Solver(const HearingModel& model, const Solving& solving) : model_(model), solving_(solving) {}

    Solution solution()
    {
        if (!gather()) {
            return std::move(solution_);
        }
        if (solving_.level) {
            shiftLevel();
        }
        contradictions();
        lanes_ = falloffOf(*model_.world().document(), emitter()).lanes;
        if (levelLane(lanes_) == nullptr) {
            Lane lane;
            lane.property = LaneProperty::level;
            lanes_.insert(lanes_.begin(), lane);
        }
        if (!levels_.empty() || !silent_.empty()) {
            solving_.asCurve ? fitCurve() : fitFormula();
        }
        if (!lowPasses_.empty()) {
            fitLowPass();
        }
        finish();
        return std::move(solution_);
    }

private:
    const Emitter& emitter() const { return *model_.level().emitters.find(solving_.wishes.front().emitter); }

    bool fail(const std::string& why)
    {
        solution_.words = {why};
        return false;
    }

    /// Where each wish lies for the falloff, and what is wanted of it there.
    bool gather()
    {
        if (solving_.wishes.empty()) {
            return fail("nothing is wished for");
        }
        const Project& project = *model_.world().document();
        const Falloff* falloff = nullptr;
        Project ruled = project;
        for (const Wish& wish : solving_.wishes) {
            const Emitter* whose = model_.level().emitters.find(wish.emitter);
            if (whose == nullptr) {
                return fail("the emitter \"" + wish.emitter.text + "\" does not exist");
            }
            if (model_.world().planted().copyOf(wish.emitter)) {
                return fail(whose->name + " is planted: its falloff is its pattern's. Let it loose, or change the pattern");
            }
            if (whose->kind == EmitterKind::bed || isOfCharacter(whose->kind) || whose->kind == EmitterKind::sprinkle) {
                return fail(whose->name + " has no place of its own to be near or far from");
            }
            const Falloff& own = falloffOf(project, *whose);
            if (falloff != nullptr && falloff != &own) {
                return fail(whose->name + " has another falloff than " + emitter().name +
                            ": wishes are for one falloff at a time");
            }
            falloff = &own;
            Falloff ruler = own;
            ruler.lanes.clear();
            for (const Lane& lane : own.lanes) {
                if (lane.property != LaneProperty::level) {
                    ruler.lanes.push_back(lane);
                }
            }
            Lane lane;
            lane.property = LaneProperty::level;
            lane.formula = {.model = DistanceModel::linear, .reference_m = 0.0, .maximum_m = rulerLength_m};
            ruler.lanes.push_back(lane);
            ruled = withFalloff(std::move(ruled), model_.level().id, wish.emitter, ruler);
        }
        const HearingModel ruler = modelOf(model_, std::move(ruled));
        for (std::size_t i = 0; i < solving_.wishes.size(); ++i) {
            const Wish& wish = solving_.wishes[i];
            const Heard heard = heardAt(ruler, wish);
            double distance_db = 0.0;
            double rest_db = 0.0;
            for (const Term& term : heard.terms) {
                if (term.kind == TermKind::placement) {
                    return fail(model_.level().emitters.find(wish.emitter)->name +
                                " is partly in the ears, wherever one stands: its level there cannot be wished for");
                }
                if (term.kind == TermKind::distance) {
                    distance_db += term.db;
                } else if (term.kind != TermKind::noSound) {
                    rest_db += term.db;
                }
            }
            WishOutcome outcome;
            outcome.ruler_m = rulerLength_m * (1.0 - std::pow(10.0, distance_db / 20.0));
            outcome.before = found(wish, heardAt(model_, wish));
            solution_.outcomes.push_back(outcome);
            Wanted wanted{i, outcome.ruler_m, wish.value, rest_db};
            if (wish.of == Wish::Of::level) {
                wanted.value -= rest_db;
                levels_.push_back(wanted);
            } else {
                (wish.of == Wish::Of::silent ? silent_ : lowPasses_).push_back(wanted);
            }
        }
        for (auto* all : {&levels_, &silent_, &lowPasses_}) {
            std::stable_sort(all->begin(), all->end(), [](const Wanted& a, const Wanted& b) { return a.d_m < b.d_m; });
        }
        return true;
    }

    /// So that the loudest of what is wanted is what a falloff gives at its fullest.
    void shiftLevel()
    {
        double highest_db = -200.0;
        for (const Wanted& wanted : levels_) {
            highest_db = std::max(highest_db, wanted.value);
        }
        if (!levels_.empty() && highest_db > 0.0) {
            solution_.level_db = highest_db;
            for (Wanted& wanted : levels_) {
                wanted.value -= highest_db;
            }
        }
    }

    std::string wishNamed(const Wanted& wanted) const
    {
        const Wish& wish = solving_.wishes[wanted.wish];
        return said("the wish at %.1f, %.1f", wish.at.x, wish.at.y);
    }

    void contradictions()
    {
        for (std::size_t i = 0; i + 1 < levels_.size(); ++i) {
            for (std::size_t k = i + 1; k < levels_.size(); ++k) {
                const double apart_m = levels_[k].d_m - levels_[i].d_m;
                const double up_db = levels_[k].value - levels_[i].value;
                if (apart_m < together_m && std::abs(up_db) > met_db) {
                    solution_.words.push_back(
                        wishNamed(levels_[i]) + " and " + wishNamed(levels_[k]) +
                        said(" are at one distance (%.1f m) and want levels %.1f dB apart", levels_[i].d_m, std::abs(up_db)));
                } else if (up_db > met_db) {
                    solution_.words.push_back(wishNamed(levels_[k]) + said(" lies %.1f m further off than ", apart_m) +
                                              wishNamed(levels_[i]) +
                                              said(" and is to be %.1f dB louder by the falloff", up_db));
                }
            }
        }
        for (const Wanted& gone : silent_) {
            for (const Wanted& there : levels_) {
                if (gone.d_m <= there.d_m) {
                    solution_.words.push_back(wishNamed(gone) + said(" is to be silent at %.1f m, and ", gone.d_m) +
                                              wishNamed(there) + said(" heard at %.1f m", there.d_m));
                }
            }
        }
        for (const Wanted& wanted : levels_) {
            if (wanted.value > met_db && !solving_.asCurve) {
                solution_.words.push_back(wishNamed(wanted) +
                                          said(" needs %.1f dB more than a formula gives at its fullest: let the level change "
                                               "too",
                                               wanted.value));
            }
        }
    }

    /// Where the reach ends: at the nearest that is to be silent.
    std::optional<double> silentAt() const { return silent_.empty() ? std::nullopt : std::optional(silent_.front().d_m); }

    void fitFormula()
    {
        Lane& lane = *levelLane(lanes_);
        DistanceFormula formula = lane.shape == LaneShape::formula ? lane.formula : DistanceFormula{};
        if (const auto end_m = silentAt()) {
            formula.silentAt_m = std::max(*end_m, 0.01);
        } else if (!levels_.empty() && formula.silentAt_m > 0.0 && formula.silentAt_m * 0.8 < levels_.back().d_m) {
            // What is wished for beyond the reach pushes it out.
            formula.silentAt_m = levels_.back().d_m / 0.8;
        }
        if (!levels_.empty()) {
            formula.staysFrom_m = 0.0;
            DistanceFormula best = fittedModel(formula, formula.model, levels_);
            for (const DistanceModel model : {DistanceModel::inverse, DistanceModel::exponential, DistanceModel::linear}) {
                if (worstOf(best, levels_) <= met_db) {
                    break;
                }
                const DistanceFormula other = fittedModel(formula, model, levels_);
                best = worstOf(other, levels_) < worstOf(best, levels_) ? other : best;
            }
            formula = best;
        }
        lane.on = true;
        lane.shape = LaneShape::formula;
        lane.formula = formula;
    }

    void fitCurve()
    {
        Lane& lane = *levelLane(lanes_);
        Lane present = lane;
        Curve curve;
        for (const Wanted& wanted : levels_) {
            // Of several at one distance the mean: no more can be done for them.
            if (!curve.empty() && wanted.d_m - curve.back().x < together_m) {
                curve.back().y = (curve.back().y + wanted.value) / 2.0;
            } else {
                curve.push_back({wanted.d_m, std::max(wanted.value, laneSilent_db), Segment::smooth});
            }
        }
        const double end_m = silentAt() ? *silentAt() : std::isfinite(silentFrom_m(present)) ? silentFrom_m(present) : 0.0;
        if (curve.empty()) {
            curve.push_back({0.0, 0.0, Segment::smooth});
        } else if (curve.front().x > together_m) {
            // Nearer it is as it was, but not softer than at the first wish.
            const double near_db = laneAt(present, 0.0);
            curve.insert(curve.begin(),
                         {0.0, std::max(std::isfinite(near_db) ? near_db : 0.0, curve.front().y), Segment::smooth});
        }
        if (end_m > curve.back().x) {
            curve.push_back({end_m, laneSilent_db, Segment::straight});
        } else if (!silent_.empty()) {
            std::erase_if(curve, [&](const CurvePoint& point) { return point.x >= end_m; });
            curve.push_back({end_m, laneSilent_db, Segment::straight});
        }
        lane.on = true;
        lane.shape = LaneShape::curve;
        lane.curve = curve;
    }

    void fitLowPass()
    {
        const auto known = std::find_if(lanes_.begin(), lanes_.end(), [](const Lane& lane) {
            return lane.property == LaneProperty::lowPass && lane.over == LaneInput::distance;
        });
        Lane lane = known != lanes_.end() ? *known : Lane{};
        lane.property = LaneProperty::lowPass;
        lane.on = true;
        lane.shape = LaneShape::curve;
        lane.curve.clear();
        if (lowPasses_.front().d_m > together_m) {
            lane.curve.push_back({0.0, openLowPass_hz, Segment::smooth});
        }
        for (const Wanted& wanted : lowPasses_) {
            if (!lane.curve.empty() && wanted.d_m - lane.curve.back().x < together_m) {
                if (std::abs(wanted.value - lane.curve.back().y) > 0.01 * wanted.value) {
                    solution_.words.push_back(
                        wishNamed(wanted) +
                        said(" is at the distance of another (%.1f m) and wants another cut-off", wanted.d_m));
                }
                continue;
            }
            lane.curve.push_back({wanted.d_m, std::clamp(wanted.value, openHighPass_hz, openLowPass_hz), Segment::smooth});
        }
        known != lanes_.end() ? void(*known = lane) : lanes_.push_back(lane);
    }

    void finish()
    {
        solution_.possible = true;
        solution_.lanes = lanes_;
        const Emitter& one = emitter();
        std::vector<EmitterId> ours;
        for (const Wish& wish : solving_.wishes) {
            if (std::find(ours.begin(), ours.end(), wish.emitter) == ours.end()) {
                ours.push_back(wish.emitter);
            }
        }
        solution_.project = withSolution(*model_.world().document(), model_.level().id, ours, solution_);
        if (const auto* shared = std::get_if<FalloffId>(&one.falloff)) {
            const int others = usersOf(*model_.world().document(), *shared) - static_cast<int>(ours.size());
            if (others > 0) {
                solution_.words.push_back(std::to_string(others) +
                                          (others == 1 ? " other emitter uses" : " other emitters use") + " the falloff \"" +
                                          falloffOf(*model_.world().document(), one).name + "\" and will change too");
            }
        }
        const HearingModel after = modelOf(model_, solution_.project);
        for (std::size_t i = 0; i < solving_.wishes.size(); ++i) {
            const Wish& wish = solving_.wishes[i];
            WishOutcome& outcome = solution_.outcomes[i];
            outcome.after = found(wish, heardAt(after, wish));
            switch (wish.of) {
            case Wish::Of::level: {
                const double off_db = std::isfinite(outcome.after) ? std::abs(outcome.after - wish.value) : 200.0;
                outcome.met = off_db <= met_db;
                solution_.worst_db = std::max(solution_.worst_db, off_db);
                break;
            }
            case Wish::Of::silent: outcome.met = outcome.after <= laneSilent_db; break;
            case Wish::Of::lowPass: outcome.met = outcome.after <= wish.value * 1.01; break;
            }
        }
        comparePosts(after);
    }

    void comparePosts(const HearingModel& after)
    {
        std::vector<Post> standing = postsOf(model_.level());
        std::erase_if(standing, [](const Post& post) { return !standsStill(post); });
        const auto then = judgeStanding(after, standing, 1);
        const auto now = judgeStanding(model_, standing, 1);
        for (std::size_t i = 0; i < standing.size(); ++i) {
            if (now[i].met != then[i].met) {
                solution_.posts.emplace_back(now[i], then[i]);
            }
        }
    }

    const HearingModel& model_;
    const Solving& solving_;
    Solution solution_;
    std::vector<Wanted> levels_;
    std::vector<Wanted> silent_;
    std::vector<Wanted> lowPasses_;
    std::vector<Lane> lanes_;
};

} // namespace

Solution solve(const HearingModel& model, const Solving& solving)
{
    return Solver(model, solving).solution();
}

Project withSolution(Project project, const LevelId& level, const std::vector<EmitterId>& of, const Solution& solution)
{
    const Level* found = project.levels.find(level);
    const Emitter* first = found != nullptr && !of.empty() ? found->emitters.find(of.front()) : nullptr;
    if (first == nullptr) {
        return project;
    }
    Falloff falloff = falloffOf(project, *first);
    falloff.lanes = solution.lanes;
    project = withFalloff(std::move(project), level, of.front(), std::move(falloff));
    for (const EmitterId& id : of) {
        if (solution.level_db != 0.0) {
            project = withEmitter(std::move(project), level, id, [&](Emitter& e) { e.level_db += solution.level_db; });
        }
    }
    return project;
}

Project withEvened(Project project, const LevelId& level, const EvenOut& even)
{
    for (const EvenOut::Of& of : even.members) {
        project = withEmitter(std::move(project), level, of.emitter, [&](Emitter& emitter) { emitter.level_db = of.level_db; });
    }
    return project;
}

EvenOut evenOut(const HearingModel& model, const FamilyId& family)
{
    EvenOut even;
    const Project& document = *model.world().document();
    even.project = document;
    const Level& written = *document.levels.find(model.level().id);
    double sum = 0.0;
    for (const auto& post : written.posts) {
        const Emitter* emitter = written.emitters.find(post->emitter);
        const bool known = std::any_of(even.members.begin(), even.members.end(),
                                       [&](const EvenOut::Of& of) { return of.emitter == post->emitter; });
        if (!post->on || emitter == nullptr || emitter->family != family || known || post->where != Post::Where::spot ||
            post->expects != Post::Expects::level) {
            continue;
        }
        const PostResult result = judgeStanding(model, {*post}, 1).front();
        if (result.judged && std::isfinite(result.found)) {
            even.members.push_back({post->emitter, post->id, result.found, emitter->level_db});
            sum += result.found;
        }
    }
    if (even.members.empty()) {
        return even;
    }
    even.target_db = sum / static_cast<double>(even.members.size());
    for (EvenOut::Of& of : even.members) {
        of.level_db += even.target_db - of.before_db;
    }
    even.project = withEvened(document, written.id, even);
    return even;
}

} // namespace stone
