#include "fuzz/input_file.h"
#include "spatial/sofa.h"

/// Measured ears from a stranger are filters, or refused with one message.
extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size)
{
    static InputFile file("ears.sofa");
    try {
        stone::readSofa(file.of(data, size), 48'000.0);
    } catch (const stone::SofaError&) {
    }
    return 0;
}
