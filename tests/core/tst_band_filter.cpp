// SPDX-License-Identifier: GPL-3.0-or-later
#include "dsp/band_filter.h"
#include "support/one_of_many.h"

#include <QTest>

#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>
#include <random>

namespace tst_band_filter
{

using namespace stone;

namespace
{

constexpr BandFilter::Levels_db gentle{0, -0.5, -1, -2, -3, -5, -8, -13};
constexpr BandFilter::Levels_db wall{-4, -9, -15, -22, -31, -40, -52, -60};
/// Loudest in the middle: shelves rise and fall.
constexpr BandFilter::Levels_db hill{-30, -12, -3, 0, -2, -9, -24, -48};

std::vector<float> noise(std::size_t frames)
{
    std::mt19937 chance(5);
    std::uniform_real_distribution<float> sample(-1.0F, 1.0F);
    std::vector<float> samples(frames);
    std::generate(samples.begin(), samples.end(), [&] { return sample(chance); });
    return samples;
}

/// What is left of a tone, in decibels, once the filter has settled; given in blocks as a card would.
double leftOf_db(const BandFilter::Settings& settings, double hz, double rate)
{
    constexpr std::size_t block = 256;
    BandFilter filter;
    const double settles_s = 0.4;
    const double periods = std::max(std::ceil(0.2 * hz), 8.0);
    const auto from = static_cast<std::size_t>(settles_s * rate);
    const auto to = from + static_cast<std::size_t>(periods / hz * rate);
    std::complex<double> out = 0.0;
    std::complex<double> in = 0.0;
    std::array<float, block> samples{};
    for (std::size_t at = 0; at < to; at += block) {
        for (std::size_t i = 0; i < block; ++i) {
            samples[i] = static_cast<float>(std::sin(2.0 * std::numbers::pi * hz * static_cast<double>(at + i) / rate));
        }
        const auto before = samples;
        filter.process(samples, settings, settings, rate);
        for (std::size_t i = 0; i < block; ++i) {
            if (at + i >= from && at + i < to) {
                // A window, as there need not be whole periods.
                const double share = static_cast<double>(at + i - from) / static_cast<double>(to - from);
                const double weight = 0.5 - 0.5 * std::cos(2.0 * std::numbers::pi * share);
                const auto turn = std::polar(weight, -2.0 * std::numbers::pi * hz * static_cast<double>(at + i) / rate);
                out += turn * static_cast<double>(samples[i]);
                in += turn * static_cast<double>(before[i]);
            }
        }
    }
    return 20.0 * std::log10(std::abs(out) / std::abs(in));
}

} // namespace

class BandFilterTest : public QObject
{
    Q_OBJECT

private slots:
    /// Tones between the bands as well as at them, at each rate, far down too: the sections are worked out in single
    /// precision, and at 192 kHz the lowest border lies at a two-thousandth of the rate.
    void whatIsLeftIsTheClosedForm_data()
    {
        QTest::addColumn<double>("rate");
        for (const double rate : {44'100.0, 48'000.0, 96'000.0, 192'000.0}) {
            QTest::addRow("%g Hz", rate) << rate;
        }
    }
    void whatIsLeftIsTheClosedForm()
    {
        QFETCH(const double, rate);
        const BandFilter::Designer designer(rate);
        for (const auto& levels : {gentle, wall, hill}) {
            const auto settings = designer(levels);
            for (double hz = 35.0; hz < 0.4 * rate; hz *= 1.9) {
                const double wanted = BandFilter::response_db(settings, hz, rate);
                const double is = leftOf_db(settings, hz, rate);
                QVERIFY2(std::abs(is - wanted) < 0.02, qPrintable(QString("%1 Hz: %2, not %3").arg(hz).arg(is).arg(wanted)));
            }
        }
    }

    /// Each block is begun and ended with some of the sections only. Whatever its length, shorter than the row of them too,
    /// what comes out is the same to the bit.
    void blocksOfAnyLengthGiveTheSame()
    {
        constexpr double rate = 48'000.0;
        const auto settings = BandFilter::Designer(rate)(wall);
        const std::vector<float> sound = noise(2048);
        std::vector<float> whole = sound;
        BandFilter once;
        once.process(whole, settings, settings, rate);
        for (const std::size_t length : {1, 2, 7, 8, 9, 30, 31, 32, 33, 63, 64, 65, 255, 256, 257, 1000}) {
            std::vector<float> parts = sound;
            BandFilter filter;
            for (std::size_t at = 0; at < parts.size(); at += length) {
                const std::size_t n = std::min(length, parts.size() - at);
                filter.process(std::span(parts).subspan(at, n), settings, settings, rate);
            }
            QVERIFY2(parts == whole, qPrintable(QString::number(length)));
        }
    }

    /// Settings glide without a step: from frame to frame a slow tone moves by no more than some times what it and the glide
    /// do.
    void glidesWithoutAStep()
    {
        constexpr double rate = 48'000.0;
        constexpr double hz = 100.0;
        constexpr std::size_t block = 256;
        const BandFilter::Designer designer(rate);
        const std::array<BandFilter::Settings, 2> ends{designer(gentle), designer(wall)};
        for (const std::size_t length : {block, std::size_t{20}, std::size_t{45}}) {
            BandFilter filter;
            std::vector<float> out;
            for (std::size_t i = 0; i < 60; ++i) {
                std::vector<float> samples(length);
                for (std::size_t k = 0; k < length; ++k) {
                    const double t = static_cast<double>(i * length + k) / rate;
                    samples[k] = static_cast<float>(std::sin(2.0 * std::numbers::pi * hz * t));
                }
                // Every other block moves.
                filter.process(samples, ends[i / 2 % 2], ends[(i + 1) / 2 % 2], rate);
                out.insert(out.end(), samples.begin(), samples.end());
            }
            float step = 0.0F;
            for (std::size_t i = 1; i < out.size(); ++i) {
                step = std::max(step, std::abs(out[i] - out[i - 1]));
            }
            const double tone = 2.0 * std::numbers::pi * hz / rate;
            const double glide = 1.0 / static_cast<double>(length); // at most all of it within a block
            QVERIFY2(step < 3.0 * (tone + glide), qPrintable(QString("%1: %2").arg(length).arg(step)));
        }
    }

    /// Losses that go wherever they like, as fast as what walls take does (a third in 40 ms): it stays about as loud as what
    /// goes in.
    void staysStableWhileItMoves()
    {
        constexpr double rate = 44'100.0;
        constexpr double share = 0.125; // of the way, in a block
        const BandFilter::Designer designer(rate);
        std::mt19937 chance(9);
        std::uniform_real_distribution<double> level(-60.0, 0.0);
        BandFilter filter;
        BandFilter::Levels_db levels{};
        BandFilter::Levels_db wanted{};
        BandFilter::Settings now = designer(levels);
        const std::vector<float> sound = noise(256);
        float loudest = 0.0F;
        for (int block = 0; block < 3000; ++block) {
            if (block % 15 == 0) {
                std::generate(wanted.begin(), wanted.end(), [&] { return level(chance); });
            }
            for (std::size_t band = 0; band < levels.size(); ++band) {
                levels[band] += (wanted[band] - levels[band]) * share;
            }
            const auto next = designer(levels);
            std::vector<float> samples = sound;
            filter.process(samples, now, next, rate);
            now = next;
            for (const float sample : samples) {
                QVERIFY(std::isfinite(sample));
                loudest = std::max(loudest, std::abs(sample));
            }
        }
        QVERIFY2(loudest < 2.0F, qPrintable(QString::number(loudest)));
    }

    /// Without losses it lets everything through untouched, and has forgotten what was before.
    void withoutLossesNothingIsChanged()
    {
        constexpr double rate = 48'000.0;
        const auto settings = BandFilter::Designer(rate)(wall);
        const BandFilter::Settings none;
        BandFilter filter;
        std::vector<float> samples = noise(512);
        filter.process(samples, settings, settings, rate);
        const std::vector<float> sound = noise(300);
        std::vector<float> same = sound;
        filter.process(same, none, none, rate);
        QVERIFY(same == sound);
        std::vector<float> again = sound;
        std::vector<float> fresh = sound;
        BandFilter other;
        filter.process(again, settings, settings, rate);
        other.process(fresh, settings, settings, rate);
        QVERIFY(again == fresh);
    }
};

} // namespace tst_band_filter

STONE_TEST(tst_band_filter, BandFilterTest)
#include "tst_band_filter.moc"
