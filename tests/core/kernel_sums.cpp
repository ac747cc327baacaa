// SPDX-License-Identifier: GPL-3.0-or-later
#include "dsp/band_filter.h"
#include "dsp/delay_read.h"
#include "dsp/late_network.h"
#include "dsp/ramp.h"
#include "dsp/sinc_read.h"
#include "dsp/spectrum.h"
#include "dsp/uniform_convolver.h"

#include <array>
#include <bit>
#include <complex>
#include <cstdint>
#include <cstdio>
#include <random>
#include <span>
#include <vector>

/// Sends noise through everything that is compiled for several instruction sets and writes a sum of the bytes of what comes
/// out, a line for each. tst_kernels compares what it writes when it is linked with one library and with the other.
namespace
{

using namespace stone;

std::mt19937 chance(7); // NOLINT: the same noise each time is what is wanted

void fill(std::span<float> samples)
{
    std::uniform_real_distribution<float> even(-0.5F, 0.5F);
    for (float& sample : samples) {
        sample = even(chance);
    }
}

/// FNV-1a over the bits.
class Sum
{
public:
    void add(std::span<const float> samples)
    {
        for (const float sample : samples) {
            value_ = (value_ ^ std::bit_cast<std::uint32_t>(sample)) * 1'099'511'628'211U;
        }
    }
    void say(const char* what) const { std::printf("%s %016llx\n", what, static_cast<unsigned long long>(value_)); }

private:
    std::uint64_t value_ = 14'695'981'039'346'656'037U;
};

BandFilter::Levels_db fall()
{
    std::uniform_real_distribution<double> even(0.0, 8.0);
    BandFilter::Levels_db levels{};
    double level = 0.0;
    for (double& each : levels) {
        each = level;
        level -= even(chance);
    }
    return levels;
}

void bands()
{
    BandFilter filter;
    const BandFilter::Designer designer(48'000.0);
    BandFilter::Settings now;
    Sum sum;
    for (int block = 0; block < 200; ++block) {
        // Odd lengths, standing still and moving.
        std::vector<float> samples(block % 5 == 0 ? 7 + static_cast<std::size_t>(block) : 256);
        fill(samples);
        const BandFilter::Settings next = block % 3 == 0 ? now : designer(fall());
        filter.process(samples, now, next, 48'000.0);
        now = next;
        sum.add(samples);
    }
    sum.say("bands");
}

void network()
{
    LateNetwork room(48'000.0);
    std::array<LateNetwork::Block, LateNetwork::outputs> out{};
    Sum sum;
    for (int block = 0; block < 300; ++block) {
        LateNetwork::Block in{};
        fill(in);
        const double rt60_s = block < 100 ? 1.5 : 2.5;
        const auto design = LateNetwork::design({rt60_s, rt60_s, 1.2, 1.1, 1.0, 0.9, 0.7, 0.5}, 800.0, 0.02, 48'000.0);
        room.process(in, design, out);
        for (const auto& output : out) {
            sum.add(output);
        }
    }
    sum.say("network");
}

void convolver()
{
    std::vector<float> response(5'000);
    fill(response);
    const UniformConvolver::Response spectra(response);
    UniformConvolver convolver(spectra.partitions());
    Sum sum;
    for (int block = 0; block < 50; ++block) {
        UniformConvolver::Block in{};
        UniformConvolver::Block out{};
        fill(in);
        convolver.in(in);
        convolver.out(spectra, out);
        sum.add(out);
    }
    sum.say("convolver");
}

void spectra()
{
    Sum sum;
    for (std::size_t bins = 1; bins < 60; ++bins) {
        std::array<std::vector<std::complex<float>>, 5> each;
        for (auto& spectrum : each) {
            spectrum.resize(bins);
            fill({reinterpret_cast<float*>(spectrum.data()), 2 * bins});
        }
        blend(each[0], {each[1], each[2], each[3], each[4]}, {0.1F, 0.2F, 0.3F, 0.4F});
        turn(each[0], -0.7);
        addFiltered(each[0], each[1], each[2], 0.6F);
        sum.add({reinterpret_cast<const float*>(each[0].data()), 2 * bins});
    }
    sum.say("spectra");
}

void reads()
{
    std::vector<float> line(4'096);
    fill(line);
    std::array<float, 256> out{};
    std::array<float, 256> summed{};
    Sum sum;
    for (std::size_t at = 0; at < 20'000; at += 256) {
        readMoving(line, at, 130.25F + 0.013F * static_cast<float>(at), 0.37F, out);
        sum.add(out);
        readStanding(line.data() + 1 + at % 3'000, 0.3F, out);
        addRamped(summed, out, 0.2F, 0.9F);
        sum.add(summed);
    }
    sum.say("reads");
}

void sinc()
{
    std::vector<float> samples(2'000);
    fill(samples);
    std::array<float, 256> out{};
    Sum sum;
    std::uniform_int_distribution<std::int64_t> step(0, 0x6FFFFFFFF);
    for (int block = 0; block < 200; ++block) {
        readSinc(samples.data(), step(chance) & 0xFFFFFFFF, step(chance), std::span(out).first(block % 4 == 0 ? 1 : 256));
        sum.add(out);
    }
    sum.say("sinc");
}

} // namespace

int main()
{
    bands();
    network();
    convolver();
    spectra();
    reads();
    sinc();
}
