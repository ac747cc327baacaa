// SPDX-License-Identifier: GPL-3.0-or-later
#include "geometry/spread.h"
#include "spatial/head_model.h"
#include "spatial/sofa.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"
#include "support/spectra.h"

#include <QTest>

#include <algorithm>
#include <bit>
#include <cmath>
#include <numbers>

namespace tst_headphones
{

using namespace stone;

namespace
{

constexpr int rate = 48'000;

SharedBuffer bufferOf(const std::vector<std::vector<float>>& channels, int at = rate)
{
    auto buffer = std::make_shared<SampleBuffer>();
    buffer->channels = channels;
    buffer->rate = at;
    return buffer;
}

/// Level over distance plays no part.
Emitter flatPoint(const Vec3& at)
{
    Emitter emitter = fixture::pointAt("a", at);
    Falloff none;
    none.lanes.front().on = false;
    emitter.falloff = none;
    emitter.placement.nearRange_m = 0.0;
    return emitter;
}

struct Heads {
    Layout layout;
    SharedHead head;
    int at = rate;
};

std::vector<float> heard(const Project& project, const SharedBuffer& buffer, const Heads& through, const Vec3& ears,
                         double seconds)
{
    const auto scene = fixture::sceneOf(project, buffer);
    scene->head = through.head;
    Pose pose;
    pose.at = ears;
    return fixture::rendered(
        {.scene = scene, .layout = through.layout, .rate = through.at, .to_s = seconds, .ears = [pose](double) {
             return pose;
         }});
}

/// The mean power of both ears over a cap, as the filters themselves have it, for noise as loud at every frequency.
fixture::Octaves meanOf(const HeadFilters& head, const Vec3& towards, double width_deg)
{
    std::vector<HeadFilters::Complex> left(head.bins());
    std::vector<HeadFilters::Complex> right(head.bins());
    fixture::Octaves power{};
    const Vec3 aside = glm::normalize(glm::cross(towards, Vec3{0.1, 0.2, 1.0}));
    const Vec3 up = glm::cross(towards, aside);
    constexpr int places = 200;
    for (int i = 0; i < places; ++i) {
        // Evenly over the cap: by the golden angle.
        const double z = 1.0 - (1.0 - std::cos(radians(width_deg / 2.0))) * (i + 0.5) / places;
        const double turn = i * 2.399963229728653;
        const double r = std::sqrt(1.0 - z * z);
        head.compose(head.choose(towards * z + aside * (r * std::cos(turn)) + up * (r * std::sin(turn))), left, right);
        for (std::size_t bin = 1; bin < head.bins(); ++bin) {
            // A bin is wider than the lowest bands: shared out between those it covers.
            const double width_hz = head.rate() / static_cast<double>(head.fftSize());
            for (std::size_t band = 0; band < power.size(); ++band) {
                const double from =
                    std::max(bandCentre_hz(band) / std::numbers::sqrt2, (static_cast<double>(bin) - 0.5) * width_hz);
                const double to = std::min(bandBorder_hz(band), (static_cast<double>(bin) + 0.5) * width_hz);
                power[band] += std::max(to - from, 0.0) * (std::norm(left[bin]) + std::norm(right[bin]));
            }
        }
    }
    for (std::size_t band = 0; band < power.size(); ++band) {
        power[band] = 10.0 * std::log10(power[band] / places);
    }
    return power;
}

QString shown(const fixture::Octaves& values)
{
    QString text;
    for (const double value : values) {
        text += QString::number(value, 'f', 1) + ' ';
    }
    return text;
}

} // namespace

/// Headphones: what is wide, all round or reflected is as loud as on loudspeakers, and a point stays one.
class TestHeadphones : public QObject
{
    Q_OBJECT

private slots:
    void widthChangesNoLoudness_data()
    {
        QTest::addColumn<bool>("measured");
        QTest::addColumn<double>("azimuth");
        QTest::addColumn<double>("elevation");
        for (const bool measured : {false, true}) {
            for (const auto& [azimuth, elevation] : {std::pair{0.0, 0.0}, {-75.0, 0.0}, {140.0, 35.0}}) {
                QTest::addRow("%s ears, %g and %g degrees", measured ? "measured" : "built-in", azimuth, elevation)
                    << measured << azimuth << elevation;
            }
        }
    }

    /// In octave bands of noise, against the mean of the directions that are covered.
    void widthChangesNoLoudness()
    {
        QFETCH(bool, measured);
        QFETCH(double, azimuth);
        QFETCH(double, elevation);
        const SharedHead head = measured ? readSofa(installedSofa(), rate) : builtInHeadFilters(rate);
        const SharedBuffer noise = bufferOf({fixture::whiteNoise(3.0)});
        const Vec3 towards = unitOf(azimuth, elevation);
        Emitter emitter = flatPoint(towards * 4.0);
        const auto of = [&](double width) {
            emitter.placement.spread_deg = width;
            return fixture::octaves_db(heard(fixture::projectWith({emitter}), noise, {Layout::binaural, head}, {}, 2.8), 2,
                                       rate, 0.3);
        };
        const fixture::Octaves point = of(0.0);
        const fixture::Octaves pointsMean = meanOf(*head, towards, 0.0);
        const fixture::Octaves ahead = [&] {
            const Project project = fixture::projectWith({flatPoint({0.0, 4.0, 0.0})});
            return fixture::octaves_db(heard(project, noise, {Layout::binaural, head}, {}, 2.8), 2, rate, 0.3);
        }();
        for (const double width : {20.0, 45.0, 75.0, 120.0, 200.0, 300.0, 360.0}) {
            const fixture::Octaves mean = meanOf(*head, towards, width);
            const fixture::Octaves wide = of(width);
            fixture::Octaves off{};
            fixture::Octaves fromAhead{};
            bool good = true;
            for (std::size_t band = 0; band < off.size(); ++band) {
                off[band] = (wide[band] - point[band]) - (mean[band] - pointsMean[band]);
                // Measured ears differ from each other above, and low down by what their measurement could not reach: there
                // a point ahead is as good a measure.
                const bool low = bandCentre_hz(band) <= 500.0;
                const bool counts = !measured || low;
                fromAhead[band] = wide[band] - ahead[band];
                good = good && (!counts || std::abs(off[band]) < 1.5 || (low && std::abs(fromAhead[band]) < 1.5));
            }
            QVERIFY2(good,
                     qPrintable(QString("%1 degrees wide: %2; from ahead: %3").arg(width).arg(shown(off), shown(fromAhead))));
        }
    }

    /// A low tone while the ears come into the near range: what was 10 dB.
    void comingNearChangesNoLevel()
    {
        Emitter emitter = flatPoint({0.0, 0.0, 0.0});
        emitter.placement.nearRange_m = 2.0;
        const auto scene = fixture::sceneOf(fixture::projectWith({emitter}), fixture::toneBuffer(200.0));
        const auto walk = [](double t) {
            Pose pose;
            pose.at = {0.0, -3.0 + 5.0 * t, 0.0};
            return pose;
        };
        const auto out = fixture::rendered({.scene = scene, .layout = Layout::binaural, .to_s = 0.59, .ears = walk});
        double before = fixture::energy_db(out, 0.05, 0.07);
        const double first = before;
        for (double t = 0.06; t < 0.57; t += 0.01) {
            const double now = fixture::energy_db(out, t, t + 0.02);
            QVERIFY2(std::abs(now - before) < 1.0, qPrintable(QString("%1 dB at once, %2 s").arg(now - before).arg(t)));
            QVERIFY2(std::abs(now - first) < 1.5, qPrintable(QString("%1 dB off, %2 s").arg(now - first).arg(t)));
            before = now;
        }
    }

    void pointsAndTransientsDoNotSmear()
    {
        std::vector<float> click(rate);
        click[4800] = 1.0F;
        Emitter emitter = flatPoint(unitOf(40.0, 10.0) * 3.0);
        const auto energyBeyond = [&](double width, double after_s) {
            emitter.placement.spread_deg = width;
            const auto out = heard(fixture::projectWith({emitter}, false), bufferOf({click}), {Layout::binaural, {}}, {}, 0.6);
            double all = 0.0;
            double late = 0.0;
            for (std::size_t i = 0; i < out.size(); ++i) {
                const double square = static_cast<double>(out[i]) * out[i];
                all += square;
                late += static_cast<double>(i / 2) / rate > 0.1 + after_s ? square : 0.0;
            }
            return 10.0 * std::log10(late / all + 1e-30);
        };
        // A point is its two filters and nothing else: the base delay, the longest way round the head, three milliseconds.
        QVERIFY2(energyBeyond(0.0, 0.0055) < -100.0, qPrintable(QString::number(energyBeyond(0.0, 0.0055))));
        // All round: half of it at once, and gone sooner than the ear tells one sound from two.
        QVERIFY2(energyBeyond(360.0, 0.03) < -10.0, qPrintable(QString::number(energyBeyond(360.0, 0.03))));
        QVERIFY2(energyBeyond(360.0, 0.06) < -25.0, qPrintable(QString::number(energyBeyond(360.0, 0.06))));
    }

    void areasAndBedsAreAsLoudAsOnLoudspeakers_data()
    {
        QTest::addColumn<int>("kind");
        QTest::addColumn<double>("x");
        QTest::newRow("in the middle of an area") << static_cast<int>(EmitterKind::area) << 0.0;
        QTest::newRow("near an area's border") << static_cast<int>(EmitterKind::area) << 9.5;
        QTest::newRow("a bed in its zone") << static_cast<int>(EmitterKind::bed) << 3.0;
        QTest::newRow("a bed on the border") << static_cast<int>(EmitterKind::bed) << 10.5;
        QTest::newRow("a bed a little outside") << static_cast<int>(EmitterKind::bed) << 13.0;
        QTest::newRow("a bed farther outside") << static_cast<int>(EmitterKind::bed) << 17.0;
    }

    void areasAndBedsAreAsLoudAsOnLoudspeakers()
    {
        QFETCH(int, kind);
        QFETCH(double, x);
        Emitter emitter = flatPoint({0.0, 0.0, 0.0});
        emitter.kind = static_cast<EmitterKind>(kind);
        const Shape box = Box{{20.0, 20.0, 6.0}};
        emitter.area.shape = box;
        Project project = fixture::projectWith({emitter});
        std::vector<std::vector<float>> channels{fixture::whiteNoise(3.0)};
        if (emitter.kind == EmitterKind::bed) {
            channels.push_back(fixture::whiteNoise(3.0, rate, 4));
            project = withLevel(project, {"level"}, [&](Level& level) {
                Zone zone;
                zone.id = {"z"};
                zone.shape = box;
                zone.margin_m = 10.0;
                level.zones.put(zone);
                Emitter bed = *level.emitters.find({"a"});
                bed.zone = {"z"};
                level.emitters.put(bed);
            });
        }
        const Vec3 ears{x, 0.0, 1.6};
        const auto of = [&](Layout layout) {
            const auto out = heard(project, bufferOf(channels), {layout, {}}, ears, 2.8);
            return fixture::octaves_db(out, channelsOf(layout), rate, 0.3);
        };
        const fixture::Octaves phones = of(Layout::binaural);
        const fixture::Octaves speakers = of(Layout::surround714);
        fixture::Octaves off{};
        std::transform(phones.begin(), phones.end(), speakers.begin(), off.begin(), std::minus<>());
        QVERIFY2(std::all_of(off.begin(), off.end(), [](double db) { return std::abs(db) < 1.5; }), qPrintable(shown(off)));
    }

    /// What has a delay between the ears has it at every rate.
    void earsAreAsFarApartAtEveryRate()
    {
        const auto delay_s = [](int at) {
            const int inside = workingRate(at);
            const SharedHead head = builtInHeadFilters(inside);
            std::vector<float> click(static_cast<std::size_t>(inside));
            click[static_cast<std::size_t>(inside) / 8 + 100] = 1.0F;
            const auto out = heard(fixture::projectWith({flatPoint({5.0, 0.0, 0.0})}, false), bufferOf({click}, inside),
                                   {Layout::binaural, head, at}, {}, 0.4);
            // Below 1 kHz, by the slope of the phase between the ears.
            const std::size_t size = std::bit_floor(static_cast<std::size_t>(at / 8));
            RealFft fft(size);
            std::array<std::vector<std::complex<float>>, 2> spectra;
            for (std::size_t ear = 0; ear < 2; ++ear) {
                for (std::size_t i = 0; i < size; ++i) {
                    fft.samples()[i] = out[2 * (i + static_cast<std::size_t>(at / 8)) + ear];
                }
                fft.forward();
                spectra[ear].assign(fft.bins().begin(), fft.bins().end());
            }
            double weighted = 0.0;
            double weights = 0.0;
            const double step_hz = at / static_cast<double>(size);
            for (std::size_t bin = 1; static_cast<double>(bin) * step_hz < 700.0; ++bin) {
                const std::complex<double> cross(std::conj(spectra[0][bin]) * spectra[1][bin]);
                const double omega = 2.0 * std::numbers::pi * static_cast<double>(bin) * step_hz;
                // Least squares of phase = omega * delay, weighted by how loud it is.
                weighted += std::abs(cross) * omega * std::arg(cross);
                weights += std::abs(cross) * omega * omega;
            }
            return weighted / weights;
        };
        const double usual = delay_s(48'000);
        QVERIFY2(std::abs(usual - 0.000656) < 20e-6, qPrintable(QString::number(usual * 1e6)));
        for (const int at : {8'000, 11'025, 16'000, 22'050, 32'000, 44'100, 88'200, 96'000, 176'400, 192'000}) {
            const double found = delay_s(at);
            QVERIFY2(std::abs(found - usual) < 10e-6,
                     qPrintable(QString("%1 Hz: %2 us, not %3").arg(at).arg(found * 1e6).arg(usual * 1e6)));
        }
    }

    /// A sound that is half in the world, half in the ears, adds up: both come at the same time.
    void partlyInTheEarsIsAsLoud()
    {
        Emitter emitter = flatPoint({-4.0, 0.0, 0.0});
        const SharedBuffer noise = bufferOf({fixture::whiteNoise(3.0)});
        const auto of = [&](double inWorld) {
            emitter.placement.inWorld = inWorld;
            emitter.placement.earsAzimuth_deg = -90.0;
            return fixture::octaves_db(heard(fixture::projectWith({emitter}), noise, {Layout::binaural, {}}, {}, 2.8), 2, rate,
                                       0.3);
        };
        const fixture::Octaves world = of(1.0);
        for (const double share : {0.0, 0.25, 0.5, 0.75}) {
            const fixture::Octaves mixed = of(share);
            fixture::Octaves off{};
            std::transform(mixed.begin(), mixed.end(), world.begin(), off.begin(), std::minus<>());
            QVERIFY2(std::all_of(off.begin(), off.begin() + 4, [](double db) { return std::abs(db) < 1.5; }),
                     qPrintable(QString("%1: %2").arg(share).arg(shown(off))));
        }
    }
};

} // namespace tst_headphones

STONE_TEST(tst_headphones, TestHeadphones)
#include "tst_headphones.moc"
