// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "analysis/masking.h"
#include "takes/take.h"

#include <cstdint>
#include <functional>
#include <map>
#include <utility>
#include <vector>

namespace stone
{

/// So often it is looked at who masks whom.
constexpr double maskingEvery_s = 0.25;

/// What is heard at a moment, by octave band at the ears.
struct BandsHeard {
    double t_s = 0.0;
    struct Of {
        std::uint32_t copy = 0; ///< into the take's
        bool matters = false;   ///< it is notable or vital
        Bands gain_db{};        ///< from the sound to the ears
    };
    std::vector<Of> copies;
};

/// Follows who cannot be made out among all else, and for how long. Rooms' reverb is not reckoned with: it masks too, so this
/// says rather too little than too much.
class MaskingWatch
{
public:
    /// What a sound has in each band; asked for each copy.
    using LevelsOf = std::function<const Bands&(std::uint32_t copy)>;

    /// Those of whom it is over by then.
    std::vector<TakenMasking> add(const BandsHeard& heard, const LevelsOf& levelsOf);
    /// And those that were left when it ended.
    std::vector<TakenMasking> finish(double t_s);

private:
    struct Since {
        double from_s = 0.0;
        double last_s = 0.0;
        double sum_db = 0.0; ///< that it lay below
        int times = 0;
        std::map<std::uint32_t, int> by;
    };

    static TakenMasking told(std::uint32_t copy, const Since& since);

    std::map<std::uint32_t, Since> since_; ///< by copy
};

} // namespace stone
