// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <cstddef>
#include <filesystem>
#include <functional>
#include <string>
#include <vector>

namespace stone
{

/// What a SOFA file holds, as far as it matters here, at the rate that was asked for.
struct SofaValues {
    std::size_t directions = 0;
    std::size_t frames = 0;       ///< of each response
    std::vector<float> positions; ///< of each direction x, y, z: ahead, to the left, above
    std::vector<float> responses; ///< by direction, then ear (left, right), then frame
    std::vector<float> delays;    ///< frames; by ear, or by direction and ear
    std::string trouble;          ///< not empty: why there is nothing
};

/// Reads a SOFA file in a process of its own, which may neither take more than its time and memory nor hurt anybody by how it
/// ends: the file comes from strangers, and the library that understands it may go round for ever in one that is damaged.
/// Any thread. `stop`: asked now and then; when it says so the process is ended and `trouble` says so. `most_s`: of computing
/// time; the largest sets in use take some seconds.
SofaValues readSofaApart(const std::filesystem::path& file, double rate, const std::function<bool()>& stop = {},
                         unsigned most_s = 30);

} // namespace stone
