// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "world/plant_spots.h"

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace stone
{

/// What a rule has put where. Immutable.
struct PlantedRule {
    std::shared_ptr<const Plant> plant;
    std::shared_ptr<const Pattern> pattern; ///< null where there is none
    PlantSurroundings around;
    std::shared_ptr<const PlantSpots> spots; ///< before exceptions
    PlantTrouble trouble = PlantTrouble::none;
    /// Its copies, and the places that they are at, one for one. The keys are those of the exceptions where there are any.
    std::vector<std::shared_ptr<const Emitter>> copies;
    std::vector<PlantSpot> places;
    bool loose = false;                 ///< some that it had stand among the level's own emitters
    std::uint32_t first = 0;            ///< number of the first copy among the level's emitters
    std::size_t leftOut = 0;            ///< places that exceptions leave empty
    std::vector<std::string> unmatched; ///< copies that exceptions are of and that are nowhere any more
};

/// A document in which the rules of one level have planted what they say.
struct Planted {
    std::shared_ptr<const Project> document; ///< as it was written
    std::shared_ptr<const Project> project;  ///< with all copies after the level's emitters; the same where there are none
    LevelId levelId;
    std::vector<PlantedRule> rules; ///< by the level's plants

    const Level& level() const { return *project->levels.find(levelId); }

    /// The rule and the copy that an emitter is; nothing for an emitter of the document.
    struct Copy {
        std::size_t rule; ///< into rules
        std::size_t copy; ///< into its copies
    };
    std::optional<Copy> copyAt(std::uint32_t emitter) const;
    std::optional<Copy> copyOf(const EmitterId& id) const;
};

/// Plants what the rules of a level say. The project must have the level.
///
/// A copy is an emitter like any other, a copy of its pattern in everything, with an id made of the rule's and the place's:
/// where the place is the same, the id is the same, whatever else was changed. Exceptions find their copy by its key, else,
/// where a place has moved a little, by the nearest one; the copy keeps the key then.
///
/// `ways`: whether edges and ways are looked for, or only taken as they are. `before`: what was planted before an edit; what a
/// rule and its surroundings still are is taken over with the same pointers. Takes as long as spotsOf() of the rules that are
/// not.
std::shared_ptr<const Planted> plant(std::shared_ptr<const Project> document, const LevelId& level,
                                     const std::shared_ptr<const Ground>& ground, Ways ways, const Planted* before = nullptr);

/// The id of a copy.
EmitterId copyId(const PlantId& plant, const std::string& key);

/// What a rule puts in the way of a copy, in words for people, with what to do; empty when all is well.
std::string wordsOf(PlantTrouble trouble);

/// Leaves a copy out, or lets it be there again.
Project withCopyLeftOut(Project project, const LevelId& level, const PlantId& plant, const PlantSpot& place, bool leftOut);

/// Gives a copy a level of its own, or the pattern's again.
Project withCopyLevel(Project project, const LevelId& level, const PlantId& plant, const PlantSpot& place,
                      const std::optional<double>& level_db);

/// Lets copies of a rule loose: they become emitters of the level, under the ids that they have, and the rule leaves their
/// places out. `which`: into planted.rules; `copies`: into its copies.
Project withCopiesLoose(Project project, const Planted& planted, std::size_t which, const std::vector<std::size_t>& copies);

} // namespace stone
