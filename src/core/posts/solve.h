// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "hearing/model.h"
#include "posts/post_result.h"

#include <optional>
#include <string>
#include <vector>

namespace stone
{

/// Something that is wished to be heard so at a place.
struct Wish {
    enum class Of {
        level,  ///< so loud, dB at the ears
        silent, ///< not heard: its reach ends before
        lowPass ///< no brighter than so many Hz, by its falloff
    };

    Vec3 at{0.0};        ///< the character's feet
    EmitterId emitter{}; ///< of those that share the falloff
    Of of = Of::level;
    double value = -20.0; ///< dB or Hz
};

/// How a wish comes out.
struct WishOutcome {
    double ruler_m = 0.0; ///< how far off it lies for the falloff
    double before = 0.0;  ///< what is heard there now, dB or Hz; minus infinity: nothing
    double after = 0.0;   ///< and by the solution
    bool met = false;     ///< to a tenth of a dB, a silent one wholly, a low-pass to one part in a hundred
};

/// What is to be fitted.
struct Solving {
    std::vector<Wish> wishes{};
    bool asCurve = false; ///< a curve through the wishes; else a formula
    bool level = false;   ///< the emitters' own level may be raised or lowered too, by the same for all of the wishes' emitters
};

struct Solution {
    bool possible = false;            ///< otherwise `words` says why not
    std::vector<std::string> words{}; ///< what contradicts what and by how much, who else is changed; a line each
    std::vector<Lane> lanes{};        ///< of the falloff
    double level_db = 0.0;            ///< that is added to the emitters' level
    std::vector<WishOutcome> outcomes{};
    double worst_db = 0.0; ///< by which a level misses its wish at most
    Project project{};     ///< with all that
    /// Posts that stand still whose state the solution changes: before, after.
    std::vector<std::pair<PostResult, PostResult>> posts{};
};

/// Fits a falloff to wishes: a formula of the W3C models by least squares in dB, within the document's ranges and no further
/// from what is there than need be; or a curve, monotone between the wishes. What the falloff does not change (walls, facing,
/// zones) counts as it is. Wishes in silence end the reach. The emitters must share one falloff, and be wholly in the world.
/// The model's level. Any thread; takes milliseconds.
Solution solve(const HearingModel& model, const Solving& solving);
/// A document with a solution in it: of any that has the emitters, not only of that which was solved in. `of`: the wishes'
/// emitters.
Project withSolution(Project project, const LevelId& level, const std::vector<EmitterId>& of, const Solution& solution);

/// Levels of a family such that each of its members is as loud at its own post (a spot post on its level) as the others: the
/// mean of what they are now. Members without one are left alone; posts of members that are silent there too.
struct EvenOut {
    struct Of {
        EmitterId emitter;
        PostId post;
        double before_db = 0.0; ///< at the post
        double level_db = 0.0;  ///< that the emitter gets
    };
    std::vector<Of> members{};
    double target_db = 0.0;
    Project project{};
};
EvenOut evenOut(const HearingModel& model, const FamilyId& family);
/// A document with those levels.
Project withEvened(Project project, const LevelId& level, const EvenOut& even);

} // namespace stone
