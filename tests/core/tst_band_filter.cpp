// SPDX-License-Identifier: GPL-3.0-or-later
#include "acoustics/air.h"
#include "dsp/band_filter.h"
#include "support/one_of_many.h"

#include <QTest>

#include <algorithm>
#include <array>
#include <cmath>
#include <complex>
#include <numbers>
#include <random>
#include <span>
#include <vector>

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

/// What half a second of it says to a single full sample, given in blocks.
std::vector<float> answerOf(const BandFilter::Settings& settings, double rate, std::size_t block)
{
    BandFilter filter;
    std::vector<float> x(static_cast<std::size_t>(rate) / 2);
    x[0] = 1.0F;
    for (std::size_t at = 0; at < x.size(); at += block) {
        filter.process(std::span(x).subspan(at, std::min(block, x.size() - at)), settings, settings, rate);
    }
    return x;
}

double levelAt_db(const std::vector<float>& x, double hz, double rate)
{
    std::complex<double> sum;
    for (std::size_t i = 0; i < x.size(); ++i) {
        sum += static_cast<double>(x[i]) * std::polar(1.0, -2.0 * std::numbers::pi * hz * static_cast<double>(i) / rate);
    }
    return 20.0 * std::log10(std::abs(sum));
}

} // namespace

class BandFilterTest : public QObject
{
    Q_OBJECT

private slots:
    void bandFiltersReachTheirBands()
    {
        const Air air;
        for (const double metres : {10.0, 50.0, 120.0}) {
            BandFilter::Levels_db levels{};
            for (std::size_t band = 0; band < 8; ++band) {
                levels[band] = std::max(-metres * airLoss_db_m(air)[band], -40.0);
            }
            const auto settings = BandFilter::Designer(48'000)(levels);
            const std::vector<float> x = answerOf(settings, 48'000, 256);
            for (std::size_t band = 0; band < 8; ++band) {
                const double db = levelAt_db(x, 62.5 * std::exp2(static_cast<double>(band)), 48'000);
                QVERIFY2(std::abs(db - levels[band]) < 0.5,
                         qPrintable(QString("%1 m, band %2: %3, not %4").arg(metres).arg(band).arg(db).arg(levels[band])));
            }
        }
    }

    /// Every triple of neighbouring bands, from nothing to 60 dB: what is asked for, eased to 30 dB from band to band, is what
    /// a tone at each band's centre loses.
    void steepLossesAreWhatTheyAreAskedToBe()
    {
        const BandFilter::Designer designer(48'000);
        int cases = 0;
        for (std::size_t first = 0; first + 3 <= BandFilter::bands; ++first) {
            for (const double a : {0.0, -10.0, -20.0, -30.0, -40.0, -60.0}) {
                for (const double b : {0.0, -10.0, -20.0, -30.0, -40.0, -60.0}) {
                    for (const double c : {0.0, -10.0, -20.0, -30.0, -40.0, -60.0}) {
                        BandFilter::Levels_db levels{};
                        for (std::size_t band = 0; band < levels.size(); ++band) {
                            levels[band] = band <= first ? a : band == first + 1 ? b : c;
                        }
                        const auto wanted = BandFilter::eased(levels);
                        const auto settings = designer(levels);
                        for (std::size_t band = 0; band < levels.size(); ++band) {
                            const double db = BandFilter::response_db(settings, bandCentre_hz(band), 48'000);
                            QVERIFY2(std::abs(db - wanted[band]) < 0.1,
                                     qPrintable(QString("%1 %2 %3 from band %4: %5 at %6, not %7")
                                                    .arg(a)
                                                    .arg(b)
                                                    .arg(c)
                                                    .arg(first)
                                                    .arg(db)
                                                    .arg(band)
                                                    .arg(wanted[band])));
                        }
                        ++cases;
                    }
                }
            }
        }
        QCOMPARE(cases, 6 * 6 * 6 * 6);
    }

    /// The filter does what is asked for, at any length of block.
    void theFilterIsItsResponse()
    {
        const BandFilter::Levels_db steep{0.0, -5.0, -12.0, -30.0, -55.0, -50.0, -60.0, -60.0};
        for (const int rate : {8'000, 22'050, 48'000, 192'000}) {
            const auto settings = BandFilter::Designer(rate)(steep);
            for (const std::size_t block : {1U, 5U, 7U, 8U, 64U, 256U}) {
                const std::vector<float> x = answerOf(settings, rate, block);
                for (std::size_t band = 0; band < steep.size() && bandCentre_hz(band) < 0.4 * rate; ++band) {
                    const double db = levelAt_db(x, bandCentre_hz(band), rate);
                    QVERIFY2(std::abs(db - steep[band]) < 0.5,
                             qPrintable(QString("%1 Hz, blocks of %2, band %3: %4").arg(rate).arg(block).arg(band).arg(db)));
                }
            }
        }
    }

    void aFallGoesOnAboveTheLastBand()
    {
        const BandFilter::Levels_db air{0.0, 0.0, 0.0, 0.0, -1.0, -4.0, -12.0, -30.0};
        const auto settings = BandFilter::Designer(48'000)(air);
        double before = BandFilter::response_db(settings, 8'000.0, 48'000);
        for (double hz = 9'000.0; hz <= 16'000.0; hz += 1'000.0) {
            const double now = BandFilter::response_db(settings, hz, 48'000);
            QVERIFY(now < before);
            before = now;
        }
        QVERIFY(std::abs(before + 48.0) < 1.0);
        // What rises is not raised any further.
        const auto rising = BandFilter::Designer(48'000)({-20, -20, -20, -20, -20, -20, -10, 0});
        QVERIFY(std::abs(BandFilter::response_db(rising, 16'000.0, 48'000)) < 0.5);
    }

    void easingRaisesOnlyWhatFallsTooSteeply()
    {
        const BandFilter::Levels_db gentle{0, -30, -60, -30, 0, -10, -20, -50};
        QVERIFY(BandFilter::eased(gentle) == gentle);
        const auto cliff = BandFilter::eased({0, -200, -200, -200, -200, -200, -200, 0});
        QVERIFY((cliff == BandFilter::Levels_db{0, -30, -60, -90, -90, -60, -30, 0}));
    }

    /// Between the bands as well as at them, at each rate, far down too: the sections are worked out in single
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
            const std::vector<float> x = answerOf(settings, rate, 256);
            for (double hz = 35.0; hz < 0.4 * rate; hz *= 1.9) {
                const double wanted = BandFilter::response_db(settings, hz, rate);
                const double is = levelAt_db(x, hz, rate);
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
