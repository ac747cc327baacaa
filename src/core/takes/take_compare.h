// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/difference.h"
#include "takes/take_reader.h"

#include <functional>
#include <limits>
#include <string>
#include <vector>

namespace stone
{

/// What a whole take comes to.
struct TakeTotals {
    double seconds = 0.0;
    double way_m = 0.0; ///< that the character walked
    double integrated_lufs = -std::numeric_limits<double>::infinity();
    double truePeak_db = -std::numeric_limits<double>::infinity();
    double voicesMost = 0.0;
    double voicesMean = 0.0;
    int gaveWay = 0;      ///< times that a copy gave way
    double cpu_pct = 0.0; ///< of a core, in the mean
    double cpuMost_pct = 0.0;
    int jumps = 0; ///< changes of an emitter's level by over 6 dB in 0.1 s, see findInTake()
    int bumps = 0;
    int falls = 0;
};

TakeTotals totalsOf(const Take& take);

/// What one take was against another, of one emitter or family: the second less the first.
struct TakeDifference {
    std::string name;
    EmitterId emitter;         ///< empty: of a family
    double mean_db = 0.0;      ///< over the time in which either heard it; what is softer than -60 dB counts as that
    double largest_db = 0.0;   ///< with its sign
    double at_s = 0.0;         ///< in the first take
    double inSecond_s = 0.0;   ///< the same moment in the second
    double heardFirst_s = 0.0; ///< for so long it was heard
    double heardSecond_s = 0.0;
    bool cameNew = false;  ///< only heard in the second
    bool wentAway = false; ///< only heard in the first
};

/// A part of the way: from where the first take had gone a share of it to where it had gone the next, and what each made of it.
struct TakeStretch {
    Vec3 to{0.0}; ///< where it ends
    struct Of {
        double from_s = 0.0;
        double to_s = 0.0;
        double way_m = 0.0;
        int bumps = 0;
        int falls = 0;
    };
    Of first;
    Of second;
};

/// The way of two takes, in so many parts. The second comes to the end of a part where it first is within 2 m of it or, where
/// it never is, where it comes closest, after the end of the part before. Empty where the first went nowhere.
std::vector<TakeStretch> stretchesOf(const Take& first, const Take& second, std::size_t parts = 6);

struct TakeComparison {
    std::vector<Difference> changed;      ///< between the documents with which they ended
    std::vector<TakeDifference> emitters; ///< largest first
    std::vector<TakeDifference> families;
    TakeTotals first;
    TakeTotals second;
    std::vector<TakeStretch> stretches; ///< of ways that were walked freely
    bool byTime = true;                 ///< they went along together; else compared by the place along the way
};

/// Compares two takes: by their time where both go along one walk, else by how far along the way they are. `progress`: as
/// elsewhere; false stops, and the result is empty. Throws FileError where a document cannot be read.
TakeComparison compareTakes(const Take& first, const Take& second, const std::function<bool(double)>& progress = {});

/// How a time of one take is found in another: the same moment of the walk, or the same share of the way.
class TakeAlignment
{
public:
    TakeAlignment(const Take& first, const Take& second);
    bool byTime() const { return byTime_; }
    double inSecond_s(double first_s) const;
    double inFirst_s(double second_s) const;

private:
    using Way = std::vector<std::pair<double, double>>; ///< seconds, metres
    static Way wayOf(const Take& take);
    static double along(const Way& from, const Way& to, double t_s);

    bool byTime_ = true;
    double offset_s_ = 0.0; ///< of the second against the first
    Way first_;
    Way second_;
};

} // namespace stone
