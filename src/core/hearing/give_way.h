// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/limit.h"
#include "world/world_state.h"

#include <array>
#include <cstddef>
#include <cstdint>
#include <optional>
#include <span>
#include <unordered_map>
#include <utility>
#include <vector>

/// Who sounds when there is no room for all.
namespace stone
{

/// Copies that share a limit.
enum class Crowd : std::uint8_t { sound, family, level };
constexpr std::size_t crowds = 3;

/// Why a copy does not sound.
struct GaveWay {
    Crowd crowd = Crowd::level; ///< whose limit it was
    GivesWay rule = GivesWay::quietest;
    int atOnce = 0;             ///< of the limit; 0: it came too soon after another, see Limit::holdOff_s
    std::uint32_t to = 0;       ///< the emitter of the copy to which it gave way
    double since_s = 0.0;       ///< the level's time
    bool forGood = false;       ///< it does not come back
    bool sounded = false;       ///< it did before; else it was refused
    double wouldBe_db = -200.0; ///< its level at the ears if it had not

    bool operator==(const GaveWay&) const = default;
};

/// One copy of a sound that would be heard.
struct Copy {
    std::uint64_t key = 0; ///< names it from one moment to the next
    std::uint32_t emitter = 0;
    double began_s = 0.0;
    double ends_s = 0.0; ///< infinite: it goes on without an end
    bool vital = false;  ///< never gives way
    double grade = 0.0;  ///< lower ones give way first
    double level_db = 0.0;
    double distance_m = 0.0;
    static constexpr std::uint32_t unlimited = UINT32_MAX;
    std::array<std::uint32_t, crowds> limits{unlimited, unlimited, unlimited}; ///< numbers of those that it is under
};

/// Lets copies through and turns others away, moment by moment, by the limits of sounds, of families and of the level, in
/// this order: who has given way in one does not count in the next. What a limit does depends on the copies that are under it
/// and on nothing else. Allocates only for copies that it has not met before. Not thread-safe.
class GiveWay
{
public:
    /// By how much one that is out must be better than one that sounds, so that two alike do not take turns.
    struct Margins {
        double level_db = 3.0;    ///< of the quietest; of the farthest as a factor, by the inverse law
        double grade = 0.1;       ///< what gazes add to priority wanders
        double stays_s = 0.2;     ///< what came back is not sent out again for so long by what is of no higher grade
        double smoothing_s = 0.1; ///< time constant over which levels are taken

        static constexpr Margins none() { return {0.0, 0.0, 0.0, 0.0}; }
    };

    struct Verdict {
        bool sounds = true;
        GaveWay why; ///< when it does not
    };

    GiveWay() : GiveWay(Margins{}) {}
    explicit GiveWay(const Margins& margins) : margins_(margins) {}

    /// Decides who sounds from now on. `verdicts`: one for each copy. `now_s`: never less than before, except after forget().
    void decide(double now_s, std::span<const Copy> copies, std::span<const Limit> limits, std::vector<Verdict>& verdicts);

    /// Who sounded is forgotten, who is gone for good stays so: as after a jump of the ears.
    void settle() { known_.clear(); }
    /// Everything is forgotten, as when the level starts anew.
    void forget();
    /// After an edit the emitters have other numbers: `now` gives one's, or nothing. Keys are those of starts.
    template <class Now> void renumber(Now&& now)
    {
        lastStarts_.clear();
        renumber(known_, now);
        renumber(gone_, now);
    }

private:
    struct Known {
        double level_db = 0.0; ///< smoothed
        double since_s = 0.0;  ///< when it was let in
        bool in = false;
        bool wasOut = false;
        bool cameBack = false;  ///< it had been out before it was let in
        std::uint64_t seen = 0; ///< moment in which it was there last
        GaveWay why;            ///< when it is out
    };
    struct Gone {
        double ends_s = 0.0;
        GaveWay why;
    };
    struct LastStart {
        std::uint64_t key = 0;
        double began_s = 0.0;
        std::uint32_t emitter = 0;
    };
    struct Candidate {
        std::uint32_t copy = 0;
        Known* known = nullptr;
        bool fresh = false;
        bool held = false; ///< it is not sent out yet
        double grade = 0.0;
        double value = 0.0;      ///< by the limit's rule: the greater stays
        std::uint64_t group = 0; ///< of the limit that is being looked at
    };

    template <class Of, class Now> static void renumber(std::unordered_map<std::uint64_t, Of>& map, Now&& now)
    {
        for (auto& [key, of] : std::exchange(map, {})) {
            if (const std::optional<std::uint32_t> emitter = now(emitterOf(key))) {
                of.why.to = now(of.why.to).value_or(*emitter);
                map.emplace(renumbered(key, *emitter), std::move(of));
            }
        }
    }

    void meet(double now_s, std::span<const Copy> copies, std::vector<Verdict>& verdicts);
    void holdOff(double now_s, Crowd crowd, std::span<const Copy> copies, std::span<const Limit> limits,
                 std::vector<Verdict>& verdicts);
    void thin(double now_s, Crowd crowd, std::span<const Copy> copies, std::span<const Limit> limits,
              std::vector<Verdict>& verdicts);
    void remember(double now_s, std::span<const Copy> copies, const std::vector<Verdict>& verdicts);

    Margins margins_;
    std::uint64_t moment_ = 0;
    double last_s_ = 0.0;
    std::unordered_map<std::uint64_t, Known> known_;
    std::unordered_map<std::uint64_t, Gone> gone_;
    std::unordered_map<std::uint64_t, LastStart> lastStarts_; ///< of one-shots that were heard, by crowd and group
    std::vector<Candidate> candidates_;
    std::vector<Candidate*> under_; ///< a limit
};

} // namespace stone
