// SPDX-License-Identifier: GPL-3.0-or-later
#include "acoustics/lane.h"
#include "cli/commands.h"
#include "posts/solve.h"
#include "project/read.h"
#include "project/write.h"

#include <cmath>
#include <cstdio>
#include <iostream>

namespace stone::cli
{

namespace
{

/// "X,Y,Z=VALUE", or "X,Y,Z" where no value belongs to it.
Wish wishIn(const std::string& text, Wish::Of of, const EmitterId& emitter)
{
    Wish wish{.emitter = emitter, .of = of};
    char more = 0;
    const bool understood =
        of == Wish::Of::silent
            ? std::sscanf(text.c_str(), "%lf,%lf,%lf%c", &wish.at.x, &wish.at.y, &wish.at.z, &more) == 3
            : std::sscanf(text.c_str(), "%lf,%lf,%lf=%lf%c", &wish.at.x, &wish.at.y, &wish.at.z, &wish.value, &more) == 4;
    if (!understood) {
        throw UsageError("\"" + text + "\" is no wish: write " +
                         (of == Wish::Of::silent  ? "X,Y,Z"
                          : of == Wish::Of::level ? "X,Y,Z=DB, such as 12,3,0=-20"
                                                  : "X,Y,Z=HZ, such as 12,3,0=1500"));
    }
    return wish;
}

std::string toldLane(const Lane& lane)
{
    char text[200];
    const bool hz = lane.property == LaneProperty::lowPass;
    if (lane.shape == LaneShape::formula) {
        const DistanceFormula& f = lane.formula;
        const char* models[] = {"inverse", "linear", "exponential"};
        std::snprintf(text, sizeof text, "%s, full up to %.3f m, %s %.3f, silent at %.2f m",
                      models[static_cast<std::size_t>(f.model)], f.reference_m,
                      f.model == DistanceModel::linear ? "ends at" : "factor",
                      f.model == DistanceModel::linear ? f.maximum_m : f.factor, f.silentAt_m);
        return text;
    }
    std::string told = hz ? "low-pass curve" : "curve";
    for (const CurvePoint& point : lane.curve) {
        std::snprintf(text, sizeof text, "  %.2f m: %.1f %s", point.x, point.y, hz ? "Hz" : "dB");
        told += text;
    }
    return told;
}

std::string number(double value)
{
    char text[32];
    std::snprintf(text, sizeof text, "%.2f", value);
    return std::isfinite(value) ? text : "silent";
}

int evenFamily(const HearingModel& model, const SolveOptions& options, Project& next)
{
    const Family* family = nullptr;
    for (const auto& one : model.project().families) {
        family = one->name == options.evenOut || one->id.text == options.evenOut ? one.get() : family;
    }
    if (family == nullptr) {
        throw UsageError("no family is called \"" + options.evenOut + "\"");
    }
    const EvenOut even = evenOut(model, family->id);
    if (even.members.empty()) {
        throw UsageError("nobody in " + family->name + " has a post of its own: a spot where its level is expected");
    }
    std::printf("each as loud at its own post: %.2f dB\n", even.target_db);
    for (const EvenOut::Of& of : even.members) {
        std::printf("  %-32s was %s dB there, gets level %.2f dB\n", model.level().emitters.find(of.emitter)->name.c_str(),
                    number(of.before_db).c_str(), of.level_db);
    }
    next = even.project;
    return 0;
}

int meetWishes(const HearingModel& model, const SolveOptions& options, Project& next)
{
    const EmitterId emitter = model.level().emitters[named(model.level(), {options.emitter}).front()]->id;
    Solving solving;
    solving.asCurve = options.curve;
    solving.level = options.level;
    for (const std::string& text : options.want) {
        solving.wishes.push_back(wishIn(text, Wish::Of::level, emitter));
    }
    for (const std::string& text : options.silent) {
        solving.wishes.push_back(wishIn(text, Wish::Of::silent, emitter));
    }
    for (const std::string& text : options.lowPass) {
        solving.wishes.push_back(wishIn(text, Wish::Of::lowPass, emitter));
    }
    const Solution solution = solve(model, solving);
    if (!solution.possible) {
        throw UsageError(solution.words.front());
    }
    bool all = true;
    for (std::size_t i = 0; i < solving.wishes.size(); ++i) {
        const Wish& wish = solving.wishes[i];
        const WishOutcome& outcome = solution.outcomes[i];
        all = all && outcome.met;
        std::printf("%s  at %.1f, %.1f, %.1f (%.2f m off): wished %s, was %s, would be %s\n", outcome.met ? "met   " : "MISSED",
                    wish.at.x, wish.at.y, wish.at.z, outcome.ruler_m,
                    wish.of == Wish::Of::silent ? "silence" : number(wish.value).c_str(), number(outcome.before).c_str(),
                    number(outcome.after).c_str());
    }
    for (const Lane& lane : solution.lanes) {
        const bool ours =
            lane.property == LaneProperty::level || (lane.property == LaneProperty::lowPass && !options.lowPass.empty());
        if (ours) {
            std::printf("by: %s\n", toldLane(lane).c_str());
        }
    }
    if (solution.level_db != 0.0) {
        std::printf("and its level by %+.2f dB\n", solution.level_db);
    }
    for (const std::string& words : solution.words) {
        std::printf("note: %s\n", words.c_str());
    }
    for (const auto& [now, then] : solution.posts) {
        std::printf("post %s: %s\n", model.level().posts.find(now.post)->name.c_str(),
                    then.met ? "would hold again" : ("would be broken: " + then.words).c_str());
    }
    next = solution.project;
    return all ? 0 : 1;
}

} // namespace

int solve(const SolveOptions& options)
{
    const Opened opened = open(options.project);
    const Level& level = opened.level(options.levelName);
    const HearingModel model = modelWithoutSounds(opened, level, opened.ground(level));
    Project next;
    const int code = options.evenOut.empty() ? meetWishes(model, options, next) : evenFamily(model, options, next);
    if (options.write) {
        writeProjectFile(next, documentPath(options.project));
        std::cout << "written\n";
    }
    return code;
}

} // namespace stone::cli
