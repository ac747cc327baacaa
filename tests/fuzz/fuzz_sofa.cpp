// SPDX-License-Identifier: GPL-3.0-or-later
#include "fuzz/input_file.h"
#include "spatial/sofa.h"
#include "spatial/sofa_apart.h"

/// Measured ears from a stranger are filters, or refused with one message.
extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size)
{
    constexpr unsigned most_s = 2; // no longer than the search waits
    static InputFile file("ears.sofa");
    const std::filesystem::path path = file.of(data, size);
    if (!stone::readSofaApart(path, 48'000.0, {}, most_s).trouble.empty()) {
        return 0;
    }
    try {
        stone::readSofa(path, 48'000.0);
    } catch (const stone::SofaError&) {
    }
    return 0;
}
