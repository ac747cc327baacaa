// SPDX-License-Identifier: MPL-2.0
#include "dsp/late_network.h"

#include "dsp/gentle_shelves.h"
#include "dsp/octave_bands.h"
#include "dsp/wide.h"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <numbers>
#include <numeric>

namespace stone
{

namespace
{

/// Lines of 24 to 110 ms: together a second, so that the modes of the network lie closer than they are wide (M. R. Schroeder's
/// condition) at a decay of a second or two. Small rooms that decay soon have shorter ones, others longer.
constexpr double shortest_s = 0.024;
constexpr double longest_s = 0.110;
constexpr double usualVolume_m3 = 500.0;
constexpr double usualRt60_s = 1.5;
constexpr std::size_t middleBand = 4;         ///< 1 kHz
constexpr std::size_t lineFrames = 1U << 15U; ///< longest at 192 kHz; a multiple of a block
constexpr double longestPreDelay_s = 0.5;
/// Lengths of the diffusers in seconds, not multiples of each other; and how much they give back.
constexpr std::array<double, 4> diffusers_s{0.00297, 0.00223, 0.00787, 0.00577};
constexpr float diffusion = 0.62F;
/// Lengths are found for this rate and the same, as nearly as whole frames allow, at every other: with lengths of its own each
/// rate would have another pattern of modes, and a tone another level.
constexpr double usualRate = 48'000.0;
/// How much of the way to other losses is gone in a sub-block.
constexpr std::size_t subBlock = 32;
constexpr float glideShare = 0.008F;
constexpr double sixtyDecibels = 13.815510557964274; ///< ln(10^6)
constexpr double sabine = 0.161;                     ///< s/m
/// No room rings for longer, whatever is asked for.
constexpr double longestRt60_s = 40.0;

bool isPrime(std::uint32_t n)
{
    for (std::uint32_t i = 2; i * i <= n; ++i) {
        if (n % i == 0) {
            return false;
        }
    }
    return n > 1;
}

std::uint32_t framesAt(std::uint32_t usual, double rate)
{
    return static_cast<std::uint32_t>(std::lround(usual * rate / usualRate));
}

/// Eight numbers of which a processor works out several at a time.
using Eight = float __attribute__((vector_size(sizeof(float) * 8)));
constexpr std::size_t halves = LateNetwork::lines / 8;
/// A number for each line.
using Lines = std::array<Eight, halves>;

/// Sends frames, each with a sample of every line, through all shelves, in place. Each shelf works a frame later than the one
/// before it, so that all of them work at once: none waits for another, and each for itself only.
STONE_WIDE void runShelves(const LateNetwork::Shelf* shelves, LateNetwork::Memory* memory, LateNetwork::PerLine* frames,
                           std::size_t n)
{
    constexpr std::size_t count = LateNetwork::shelves;
    struct Section {
        Lines first;
        Lines second;
    };
    using Coefficients = TrapezoidMix<Lines>;
    std::array<Coefficients, count> with;
    std::array<Section, count> sections;
    std::memcpy(with.data(), shelves, sizeof with);
    std::memcpy(sections.data(), memory, sizeof sections);
    const auto step = [&](std::size_t s, LateNetwork::PerLine & frame) __attribute__((always_inline))
    {
        const Coefficients& c = with[s];
        for (std::size_t half = 0; half < halves; ++half) {
            const TrapezoidMix<Eight> mix{c.keep[half],    c.push[half],      c.pull[half],
                                          c.through[half], c.fromFirst[half], c.fromSecond[half]};
            Eight x;
            Eight y;
            std::memcpy(&x, frame.data() + 8 * half, sizeof x);
            mix.step(x, sections[s].first[half], sections[s].second[half], y);
            std::memcpy(frame.data() + 8 * half, &y, sizeof y);
        }
    };
    constexpr std::size_t behind = count - 1;
    for (std::size_t t = 0; t < n + behind; ++t) {
        if (t >= behind && t < n) {
            for (std::size_t s = 0; s < count; ++s) {
                step(s, frames[t - s]);
            }
        } else {
            for (std::size_t s = t < n ? 0 : t - n + 1; s < std::min(count, t + 1); ++s) {
                step(s, frames[t - s]);
            }
        }
    }
    std::memcpy(memory, sections.data(), sizeof sections);
}

/// What came out of a line goes into it again, with a share of what is fed in. Returns the sum of squares of what came out.
STONE_WIDE float feedBack(const LateNetwork::Block& out, const LateNetwork::Block& fed, float share, float* memory)
{
    Eight sum{};
    for (std::size_t i = 0; i < out.size(); i += 8) {
        Eight x;
        Eight in;
        std::memcpy(&x, out.data() + i, sizeof x);
        std::memcpy(&in, fed.data() + i, sizeof in);
        sum += x * x;
        const Eight y = x + share * in;
        std::memcpy(memory + i, &y, sizeof y);
    }
    float squares = 0.0F;
    for (std::size_t i = 0; i < 8; ++i) {
        squares += sum[i];
    }
    return squares;
}

/// Turns eight rows of eight numbers, `stride` apart, into eight columns.
__attribute__((always_inline)) inline void transpose(const float* const* rows, float* columns, std::size_t stride)
{
    std::array<Eight, 8> r;
    for (std::size_t i = 0; i < 8; ++i) {
        std::memcpy(&r[i], rows[i], sizeof r[i]);
    }
    // Pairs, pairs of pairs, halves: shuffles that stay within half a register as long as they can.
    std::array<Eight, 8> s;
    for (std::size_t i = 0; i < 8; i += 2) {
        s[i] = __builtin_shufflevector(r[i], r[i + 1], 0, 8, 1, 9, 4, 12, 5, 13);
        s[i + 1] = __builtin_shufflevector(r[i], r[i + 1], 2, 10, 3, 11, 6, 14, 7, 15);
    }
    for (std::size_t i = 0; i < 8; i += 4) {
        r[i] = __builtin_shufflevector(s[i], s[i + 2], 0, 1, 8, 9, 4, 5, 12, 13);
        r[i + 1] = __builtin_shufflevector(s[i], s[i + 2], 2, 3, 10, 11, 6, 7, 14, 15);
        r[i + 2] = __builtin_shufflevector(s[i + 1], s[i + 3], 0, 1, 8, 9, 4, 5, 12, 13);
        r[i + 3] = __builtin_shufflevector(s[i + 1], s[i + 3], 2, 3, 10, 11, 6, 7, 14, 15);
    }
    for (std::size_t i = 0; i < 4; ++i) {
        s[i] = __builtin_shufflevector(r[i], r[i + 4], 0, 1, 2, 3, 8, 9, 10, 11);
        s[i + 4] = __builtin_shufflevector(r[i], r[i + 4], 4, 5, 6, 7, 12, 13, 14, 15);
    }
    for (std::size_t i = 0; i < 8; ++i) {
        std::memcpy(columns + i * stride, &s[i], sizeof s[i]);
    }
}

/// From lines one after the other to frames, each with a sample of every line.
STONE_WIDE void toFrames(const std::array<const float*, LateNetwork::lines>& lines, LateNetwork::PerLine* frames)
{
    std::array<const float*, 8> rows;
    for (std::size_t i = 0; i < LateNetwork::blockFrames; i += 8) {
        for (std::size_t line = 0; line < LateNetwork::lines; line += 8) {
            for (std::size_t k = 0; k < 8; ++k) {
                rows[k] = lines[line + k] + i;
            }
            transpose(rows.data(), frames[i].data() + line, LateNetwork::lines);
        }
    }
}

/// And back.
STONE_WIDE void toLines(const LateNetwork::PerLine* frames, std::array<LateNetwork::Block, LateNetwork::lines>& lines)
{
    std::array<const float*, 8> rows;
    for (std::size_t i = 0; i < LateNetwork::blockFrames; i += 8) {
        for (std::size_t line = 0; line < LateNetwork::lines; line += 8) {
            for (std::size_t k = 0; k < 8; ++k) {
                rows[k] = frames[i + k].data() + line;
            }
            transpose(rows.data(), lines[line].data() + i, LateNetwork::blockFrames);
        }
    }
}

/// What has gone through the lines is mixed with an orthogonal matrix.
STONE_WIDE void hadamard(std::array<LateNetwork::Block, LateNetwork::lines>& x)
{
    constexpr std::size_t part = 32; // stays near at hand from the first butterfly to the last
    for (std::size_t at = 0; at < LateNetwork::blockFrames; at += part) {
        for (std::size_t half = 1; half < LateNetwork::lines; half *= 2) {
            for (std::size_t i = 0; i < LateNetwork::lines; i += 2 * half) {
                for (std::size_t k = i; k < i + half; ++k) {
                    float* one = x[k].data() + at;
                    float* other = x[k + half].data() + at;
                    for (std::size_t n = 0; n < part; ++n) {
                        const float a = one[n];
                        const float b = other[n];
                        one[n] = a + b;
                        other[n] = a - b;
                    }
                }
            }
        }
        for (LateNetwork::Block& line : x) {
            for (std::size_t n = 0; n < part; ++n) {
                line[at + n] *= 0.25F;
            }
        }
    }
}

/// Whether it is as good as there.
bool glideTo(LateNetwork::PerLine& value, const LateNetwork::PerLine& target)
{
    constexpr float near = 1e-4F;
    bool there = true;
    for (std::size_t line = 0; line < LateNetwork::lines; ++line) {
        value[line] += (target[line] - value[line]) * glideShare;
        there = there && std::abs(target[line] - value[line]) < near;
    }
    return there;
}

constexpr int bandPoints = 9;

/// The frequencies at which a filter is looked at, as they are at a rate.
struct Looks {
    explicit Looks(double rate)
    {
        for (double hz = 10.0; hz < 0.49 * rate; hz *= 1.12) {
            everywhere.emplace_back(hz, rate);
        }
        for (std::size_t band = 0; band < gentle::bands; ++band) {
            for (int i = 0; i < bandPoints; ++i) {
                const double hz = std::min(bandCentre_hz(band) * std::exp2(octaveOf(i)), 0.49 * rate);
                within[band][static_cast<std::size_t>(i)] = gentle::Place(hz, rate);
            }
        }
    }
    /// How far from the middle of its band a point lies.
    static double octaveOf(int point)
    {
        constexpr double reach = 0.45; ///< octaves to both sides
        return reach * (2.0 * point / (bandPoints - 1) - 1.0);
    }

    std::vector<gentle::Place> everywhere;
    std::array<std::array<gentle::Place, bandPoints>, gentle::bands> within;
};

/// The highest level that a filter gives at any frequency.
double loudest_db(const gentle::Settings& settings, const Looks& looks)
{
    double loudest = -1e9;
    for (const gentle::Place& place : looks.everywhere) {
        loudest = std::max(loudest, place.response_db(settings));
    }
    return loudest;
}

/// What one would measure as RT60 in an octave band (T30, ISO 3382-1) of a field that loses at each frequency what a filter of
/// these settings takes in each pass of `delay_s`. Where the loss changes within the band, what stays longest counts most.
double measured_s(const gentle::Settings& settings, double delay_s, std::size_t band, const Looks& looks)
{
    std::array<double, bandPoints> decay{};  ///< 1/s, of energy
    std::array<double, bandPoints> energy{}; ///< of what dies away so fast
    for (int i = 0; i < bandPoints; ++i) {
        const auto at = static_cast<std::size_t>(i);
        const double loss_db = std::max(-looks.within[band][at].response_db(settings), 1e-3);
        decay[at] = loss_db / delay_s * std::numbers::ln10 / 10.0;
        // What is left at a time, integrated backwards: the sum of exponentials, each over its rate.
        energy[at] = std::exp2(Looks::octaveOf(i)) / decay[at];
    }
    const double all = std::accumulate(energy.begin(), energy.end(), 0.0);
    // The logarithm of what is left is convex and falls: Newton's steps come to the place from below.
    const auto when = [&](double from_s, double db) {
        constexpr int most = 30;
        const double wanted = std::log(all) + db * std::numbers::ln10 / 10.0;
        double t = from_s;
        for (int round = 0; round < most; ++round) {
            double left = 0.0;
            double falls = 0.0;
            for (std::size_t i = 0; i < bandPoints; ++i) {
                const double now = energy[i] * std::exp(-decay[i] * t);
                left += now;
                falls += now * decay[i];
            }
            const double step = (std::log(left) - wanted) * left / falls;
            t += step;
            if (step < 1e-9 * t) {
                break;
            }
        }
        return t;
    };
    const double early_s = when(0.0, -5.0);
    return 2.0 * (when(early_s, -35.0) - early_s);
}

/// The RT60 to ask for at the middle of each band, so that what is measured over the whole of it is what is wanted.
std::array<double, LateNetwork::bands> askedFor(const std::array<double, LateNetwork::bands>& rt60_s,
                                                const gentle::Designer& designer, const Looks& looks)
{
    constexpr double usualDelay_s = 0.05;
    constexpr int rounds = 4;
    std::array<double, LateNetwork::bands> asked = rt60_s;
    for (int round = 0; round < rounds; ++round) {
        gentle::Levels_db loss{};
        for (std::size_t band = 0; band < asked.size(); ++band) {
            loss[band] = -60.0 * usualDelay_s / asked[band];
        }
        const gentle::Settings settings = designer(loss);
        for (std::size_t band = 0; band < asked.size(); ++band) {
            const double off = rt60_s[band] / measured_s(settings, usualDelay_s, band, looks);
            asked[band] = std::clamp(asked[band] * off, 0.5 * rt60_s[band], 1.5 * rt60_s[band]);
        }
    }
    return asked;
}

/// In steps of half an octave, so that a room that is being set up seldom gets other lines.
double lineScale(double rt60_s, double volume_m3)
{
    const double wanted = std::clamp(std::max(std::cbrt(volume_m3 / usualVolume_m3), rt60_s / usualRt60_s), 0.4, 1.4);
    return std::exp2(std::round(2.0 * std::log2(wanted)) / 2.0);
}

} // namespace

LateNetwork::Design LateNetwork::design(const std::array<double, bands>& rt60_s, double volume_m3, double preDelay_s,
                                        double rate)
{
    Design made;
    const gentle::Designer designer(rate);
    const Looks looks(rate);
    const std::array<double, bands> asked_s = askedFor(rt60_s, designer, looks);
    const double scale = lineScale(rt60_s[middleBand], volume_m3);
    std::array<std::uint32_t, lines> primes{};
    double leftOnce = 0.0; ///< of the energy, on the average, after one pass
    for (std::size_t line = 0; line < lines; ++line) {
        // Spread evenly on a logarithmic scale, and not in the order of the matrix.
        const std::size_t place = (line * 7) % lines;
        const double share = static_cast<double>(place) / static_cast<double>(lines - 1);
        auto usual = static_cast<std::uint32_t>(scale * shortest_s * std::pow(longest_s / shortest_s, share) * usualRate);
        usual = std::max<std::uint32_t>(usual, blockFrames + 1);
        while (!isPrime(usual) || std::find(primes.begin(), primes.end(), usual) != primes.end()) {
            ++usual;
        }
        primes[line] = usual;
        std::uint32_t frames = std::max<std::uint32_t>(framesAt(usual, rate), blockFrames + 1);
        while (std::find(made.delays.begin(), made.delays.end(), frames) != made.delays.end()) {
            ++frames;
        }
        made.delays[line] = frames;
        const double delay_s = static_cast<double>(frames) / rate;
        leftOnce += std::exp(-sixtyDecibels * delay_s / rt60_s[middleBand]) / static_cast<double>(lines);
        gentle::Levels_db loss{};
        for (std::size_t band = 0; band < bands; ++band) {
            loss[band] = -60.0 * delay_s / asked_s[band];
        }
        const gentle::Settings settings = designer(loss);
        // Between the bands the shelves may give a little more than at any of them: no frequency may come back louder.
        const double most_db = loudest_db(settings, looks);
        const double held_db = std::min(-60.0 * delay_s / longestRt60_s - most_db, 0.0);
        made.losses.gain[line] =
            static_cast<float>(std::log(static_cast<double>(settings.gain)) + held_db * std::numbers::ln10 / 20.0);
        for (std::size_t i = 0; i < shelves; ++i) {
            made.losses.shelf[i][line] = std::log(settings.shelf[i]);
        }
    }
    const double first_s = static_cast<double>(*std::min_element(made.delays.begin(), made.delays.end())) / rate;
    made.preDelay = static_cast<std::uint32_t>(std::clamp(preDelay_s - first_s, 0.0, longestPreDelay_s) * rate);
    // What goes in passes the matrix again and again; over time the squares of all outputs add up to a geometric series. Eight
    // of the sixteen are to have 16 pi / A.
    const double wanted = 16.0 * std::numbers::pi * rt60_s[middleBand] / (sabine * volume_m3);
    made.gain = static_cast<float>(std::sqrt(2.0 * wanted * (1.0 - leftOnce) / leftOnce));
    return made;
}

LateNetwork::LateNetwork(double rate) : before_(static_cast<std::size_t>(longestPreDelay_s * rate) + blockFrames + 1)
{
    for (const double length_s : diffusers_s) {
        diffusers_.emplace_back((static_cast<std::uint32_t>(length_s * usualRate) | 1U) * rate / usualRate, diffusion);
    }
    for (auto& line : line_) {
        line.resize(lineFrames);
    }
    for (std::size_t i = 0; i < shelves; ++i) {
        borders_[i] = static_cast<float>(gentle::borderGain(i, rate));
    }
}

void LateNetwork::reset()
{
    for (AllPass& diffuser : diffusers_) {
        diffuser.reset();
    }
    std::fill(before_.begin(), before_.end(), 0.0F);
    for (auto& line : line_) {
        std::fill(line.begin(), line.end(), 0.0F);
    }
    memory_ = {};
    energy_ = 0.0F;
    fresh_ = true;
}

void LateNetwork::setShelves() noexcept
{
    for (std::size_t line = 0; line < lines; ++line) {
        lineGain_[line] = std::exp(losses_.gain[line]);
    }
    constexpr auto width = std::numbers::sqrt2_v<float>;
    for (std::size_t i = 0; i < shelves; ++i) {
        Shelf& shelf = shelf_[i];
        for (std::size_t line = 0; line < lines; ++line) {
            const float k = std::exp(losses_.shelf[i][line]);
            const float root = std::sqrt(k);
            const float g = borders_[i] * std::sqrt(root);
            TrapezoidMix<float> mix;
            mix.set(g, width, k, width * (1.0F - root) * root, 1.0F - k);
            shelf.takeEach(mix, [&](PerLine& all, float one) { all[line] = one; });
        }
    }
}

void LateNetwork::glide(const Losses& target) noexcept
{
    if (losses_ == target) {
        return;
    }
    bool there = glideTo(losses_.gain, target.gain);
    for (std::size_t i = 0; i < shelves; ++i) {
        there = glideTo(losses_.shelf[i], target.shelf[i]) && there;
    }
    if (there) {
        losses_ = target;
    }
    setShelves();
}

void LateNetwork::process(const Block& in, const Design& design, std::array<Block, outputs>& out) noexcept
{
    if (fresh_) {
        losses_ = design.losses;
        setShelves();
        gain_ = design.gain;
        fresh_ = false;
    }
    Block fed;
    const float slope = (design.gain - gain_) / static_cast<float>(blockFrames);
    for (std::size_t i = 0; i < blockFrames; ++i) {
        before_[beforeAt_] = in[i] * (gain_ + slope * static_cast<float>(static_cast<int>(i)));
        const std::size_t read = beforeAt_ + before_.size() - design.preDelay;
        fed[i] = before_[read >= before_.size() ? read - before_.size() : read];
        beforeAt_ = beforeAt_ + 1 == before_.size() ? 0 : beforeAt_ + 1;
    }
    gain_ = design.gain;
    for (AllPass& diffuser : diffusers_) {
        diffuser.process(fed);
    }

    std::array<const float*, lines> begins;
    for (std::size_t line = 0; line < lines; ++line) {
        const float* memory = line_[line].data();
        const std::size_t start = (at_ + lineFrames - design.delays[line]) & (lineFrames - 1);
        begins[line] = memory + start;
        if (start + blockFrames > lineFrames) {
            // It goes round the end of the memory: in one piece where its output will be.
            float* whole = std::copy(memory + start, memory + lineFrames, out[line].data());
            std::copy(memory, memory + (start + blockFrames - lineFrames), whole);
            begins[line] = out[line].data();
        }
    }
    toFrames(begins, frames_.data());
    for (std::size_t done = 0; done < blockFrames;) {
        const bool gliding = !(losses_ == design.losses);
        const std::size_t n = gliding ? subBlock : blockFrames - done;
        glide(design.losses);
        for (std::size_t i = done; i < done + n; ++i) {
            for (std::size_t line = 0; line < lines; ++line) {
                frames_[i][line] *= lineGain_[line];
            }
        }
        runShelves(shelf_.data(), memory_.data(), &frames_[done], n);
        done += n;
    }
    toLines(frames_.data(), out);
    hadamard(out);
    float squares = 0.0F;
    for (std::size_t line = 0; line < lines; ++line) {
        squares += feedBack(out[line], fed, line % 2 == 0 ? 0.25F : -0.25F, line_[line].data() + at_);
    }
    energy_ = squares / static_cast<float>(blockFrames);
    at_ = (at_ + blockFrames) & (lineFrames - 1);
}

} // namespace stone
