// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "analysis/mean_places.h"
#include "hearing/model.h"

#include <cstdint>
#include <limits>
#include <memory>
#include <vector>

namespace stone
{

/// What is asked for in each cell of a map.
struct MapQuestion {
    std::vector<std::uint32_t> which{}; ///< emitters that count, by index; empty: all
    bool voices = false;                ///< also how many sound, and what rooms make of them; costs several times as much
    bool gaze = false;                  ///< gazes count, looking north
    /// What each playable of the level has in each octave band (see masking.h). Not empty: who is covered up is looked for, of
    /// those that matter; costs as much as `voices`.
    std::vector<Bands> masking_db{};
    /// What is irregular (isIrregular()) counts by its mean energy over its time and its places. Otherwise it counts as it is
    /// at the moment, or, while all time is asked for, as hear() has it.
    bool mean = false;
    TimeSpan when{}; ///< all of it: as if everything sounded
    /// Doors, game values and, unless the mean is asked for, what sounds just then; null: nothing has happened.
    std::shared_ptr<const WorldState> state{};
};

struct MapCell {
    static constexpr std::uint32_t nobody = std::numeric_limits<std::uint32_t>::max();
    static constexpr double silent_db = -std::numeric_limits<double>::infinity();

    double level_db = silent_db;    ///< of all that is asked for together: their powers add
    double reverb_db = silent_db;   ///< the same of what rooms give of it, where voices are asked for
    double loudest_db = silent_db;  ///< the loudest alone
    double second_db = silent_db;   ///< the next one
    std::uint32_t loudest = nobody; ///< into the level's emitters
    std::uint32_t second = nobody;
    std::uint32_t voices = 0;      ///< audible ones among those that are asked for, where that is asked for
    std::uint32_t masked = nobody; ///< who cannot be made out though it matters, the one that lies deepest
    std::uint32_t maskedBy = nobody;

    bool operator==(const MapCell&) const = default;
};

/// Asks the model what is heard in very many places, with nothing that cannot change the answer: walls only take away, so
/// levels without them say whose walls have to be looked at. Who is left out would add less than 0.05 dB to what is heard,
/// or -100 dB.
///
/// The model must outlive it. Any number of threads may ask, each with a Scratch of its own.
class MapAsker
{
public:
    MapAsker(const HearingModel& model, MapQuestion question);

    class Scratch
    {
        friend class MapAsker;
        struct Candidate {
            std::uint32_t index;
            const Start* start;
            double share; ///< of the time
            bool listed;  ///< hear() brings it
            double bound; ///< its power without walls
            Heard heard;  ///< without walls, then with them
        };
        HearScratch hear;
        std::vector<Heard> all;
        std::vector<std::uint32_t> near;
        std::vector<Candidate> candidates;
        std::vector<Candidate*> counting; ///< those that are not left out
        std::vector<Start> placed;        ///< of what is spread over places
        WorldState state;
        bool begun = false;
    };

    /// The cell with the ears there, looking north.
    MapCell ask(const Vec3& ears, Scratch& scratch) const { return ask(Pose{ears, 0.0, 0.0, 0.0}, scratch); }
    /// The same with a look of their own.
    MapCell ask(const Pose& ears, Scratch& scratch) const;

private:
    struct Irregular {
        std::uint32_t index;
        std::optional<std::uint32_t> zone; ///< in which one has to be
        std::vector<MeanPlace> places;
    };

    static bool isSpread(const Scratch::Candidate& one);
    Moment momentAt(const Pose& ears, Scratch& scratch) const;
    void gather(const Moment& moment, Scratch& scratch) const;
    void gatherIrregular(const Moment& moment, Scratch& scratch) const;
    void hearAllOf(const Moment& moment, Scratch& scratch) const;
    void hearLoudOnes(const Moment& moment, Scratch& scratch) const;
    MapCell addUp(const Scratch& scratch) const;
    void lookForMasked(const Scratch& scratch, MapCell& cell) const;

    const HearingModel* model_;
    MapQuestion question_;
    std::vector<bool> counts_; ///< by emitter
    std::vector<Irregular> irregular_;
    std::size_t mostPlaces_ = 0;
    bool canCrowd_ = false; ///< some limit may be passed somewhere
};

} // namespace stone
