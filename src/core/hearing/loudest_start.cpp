// SPDX-License-Identifier: MPL-2.0
#include "hearing/loudest_start.h"

namespace stone
{

bool louder(const Heard& a, const Heard& b)
{
    if (a.level_db != b.level_db) {
        return a.level_db > b.level_db;
    }
    const auto wouldBe_db = [](const Heard& heard) { return heard.gaveWay ? heard.gaveWay->wouldBe_db : heard.level_db; };
    return wouldBe_db(a) > wouldBe_db(b);
}

const Heard* loudestIn(std::span<const Heard> all, std::uint32_t index)
{
    const Heard* loudest = nullptr;
    for (const Heard& heard : all) {
        if (heard.index == index && (loudest == nullptr || louder(heard, *loudest))) {
            loudest = &heard;
        }
    }
    return loudest;
}

} // namespace stone
