// SPDX-License-Identifier: MPL-2.0
#include "project/band_json.h"

#include <sstream>

namespace stone
{

BandValues readBands(ObjectReader& reader, const char* key, Range range)
{
    const std::vector<double> given = reader.lengths(key);
    BandValues values{};
    if (given.size() != values.size()) {
        reader.fail(key, "give eight numbers, one for each octave band from 63 Hz to 8 kHz");
    }
    for (std::size_t band = 0; band < values.size(); ++band) {
        if (given[band] < range.least || given[band] > range.most) {
            std::ostringstream bounds;
            bounds << "expected numbers from " << range.least << " to " << range.most << ", found " << given[band];
            reader.fail(key, bounds.str());
        }
        values[band] = given[band];
    }
    return values;
}

} // namespace stone
