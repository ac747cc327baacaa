// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "engine/game_things.h"
#include "engine/live.h"
#include "follow/game_words.h"
#include "follow/told_track.h"

#include <cstdint>
#include <functional>
#include <map>
#include <mutex>
#include <set>
#include <string>
#include <vector>

namespace stone
{

/// Follows what a game tells: plays it some hundredths of a second later, smoothly, whatever the packets' order and delay.
/// What it is told is kept within bounds: who tells too much is heard in part.
///
/// step() is the engine's, receive() whoever's who listens to the port; everything may be asked from any thread.
class Follower : public Leader
{
public:
    /// So far behind what it is told it plays: the longest that a packet may wait and nothing is guessed.
    static constexpr double behind_s = 0.08;
    static constexpr std::size_t mostThings = 1024;
    static constexpr std::size_t mostWaiting = 4096; ///< happenings that were told and not played yet
    static constexpr std::size_t mostUnknown = 100;  ///< names that are listed

    /// `now_s`: a clock that never goes back; `wall_s`: seconds since 1970, for time tags.
    Follower(std::function<double()> now_s, std::function<double()> wall_s);
    /// By the system's clocks.
    Follower();

    /// Which names mean something: after every edit. The project must have the level.
    void setDocument(const std::shared_ptr<const Project>& project, const LevelId& level);

    /// Takes in what came in one datagram. Returns what concerns the connection: hello and bye.
    std::vector<GameWord> receive(std::span<const std::byte> bytes);

    Step step(double seconds) override;

    /// What there is beside the document, and a number that is another one each time that changes.
    std::pair<std::uint64_t, GameThings> things() const;
    std::uint64_t thingsSerial() const;
    /// The level that the game said it plays in, by id; empty: it did not say.
    LevelId level() const;

    /// How it goes.
    struct Report {
        std::uint64_t packets = 0;
        std::uint64_t messages = 0;
        std::uint64_t misunderstood = 0; ///< packets, messages and bundles that could not be read
        std::string lastMisunderstood;   ///< in one line; empty: none
        double perSecond = 0.0;          ///< messages over the last second
        double longestGap_s = 0.0;       ///< between two poses, over the last second
        double late_s = 0.0;             ///< the most by which a time tag was over as it came, over the last second
        std::uint64_t lost = 0;          ///< that did not fit
        double silentFor_s = 0.0;        ///< since the last packet; infinite: none came
        /// What kind of thing, its name, and how often it was told of.
        std::map<std::pair<std::string, std::string>, std::uint64_t> unknown;
        std::optional<Pose> character; ///< as it is played
        std::size_t things = 0;        ///< that are told of
    };
    Report report() const;

private:
    struct Waiting {
        double time_s;
        Happening happening;
    };
    struct Second {
        double began_s = 0.0;
        std::uint64_t messages = 0;
        double longestGap_s = 0.0;
        double late_s = 0.0;
    };

    void take(const GameWord& word, double time_s);
    void happen(Happening happening, double time_s);
    template <class Id>
    std::optional<Id> known(const std::map<std::string, Id>& names, const char* kind, const std::string& name);
    void unknown(const char* kind, const std::string& name);
    void pose(ToldTrack& track, const Pose& pose, double time_s);
    double timeOf(const OscMessage& message, double now_s);
    void countSecond(double now_s);

    std::function<double()> now_s_;
    std::function<double()> wall_s_;

    mutable std::mutex mutex_; ///< everything below
    std::map<std::string, SignalId> signals_;
    std::map<std::string, GameValueId> values_;
    std::map<std::string, OpeningId> openings_;
    std::map<std::string, PatternId> patterns_;
    std::map<std::string, LevelId> levels_;
    std::set<std::string> placeable_; ///< see namesToPlace()
    ToldTrack character_;
    ToldTrack ears_;
    ToldTrack camera_;
    struct Thing {
        ToldTrack track;
        std::optional<Pose> said; ///< to the engine, last
    };
    std::map<std::string, Thing> tracks_;
    std::vector<Waiting> waiting_; ///< in order of time
    GameThings things_;
    std::uint64_t thingsSerial_ = 0;
    LevelId level_;
    std::optional<double> played_s_; ///< up to which it was played
    std::optional<double> lastPose_s_;
    std::optional<double> lastPacket_s_;
    Report report_;
    Second second_;
    Second before_; ///< the last whole one
};

} // namespace stone
