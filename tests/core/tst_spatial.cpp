// SPDX-License-Identifier: GPL-3.0-or-later
#include "acoustics/air.h"
#include "acoustics/curve.h"
#include "acoustics/facing.h"
#include "acoustics/lane.h"
#include "dsp/decibel.h"
#include "dsp/state_variable_filter.h"
#include "geometry/spread.h"
#include "spatial/ambisonics.h"
#include "spatial/head_model.h"
#include "spatial/panning.h"
#include "spatial/sofa.h"
#include "spatial/sofa_apart.h"
#include "spatial/vbap.h"
#include "support/csv.h"
#include "support/one_of_many.h"

#include <QElapsedTimer>
#include <QTemporaryDir>
#include <QTest>

#include <algorithm>
#include <cmath>
#include <cstring>
#include <fstream>
#include <numbers>
#include <random>

namespace tst_spatial
{

using namespace stone;

namespace
{

Vec3 vectorOf(const CsvRow& row, const char* prefix)
{
    const auto at = [&](const char* axis) { return row.number(QString(prefix) + axis); };
    return {at("_x"), at("_y"), at("_z")};
}

/// Heading and tilt that face along a vector given with x, y as east and north.
Pose facing(const Vec3& v)
{
    return {{}, degrees(std::atan2(v.x, v.y)), degrees(std::atan2(v.z, std::hypot(v.x, v.y))), 0.0};
}

/// The reference counts azimuth counter-clockwise.
Vec3 fromReference(double azimuth_deg, double elevation_deg)
{
    return unitOf(-azimuth_deg, elevation_deg);
}

double powerOf(const ChannelGains& gains)
{
    double sum = 0.0;
    for (const float gain : gains) {
        sum += gain * gain;
    }
    return sum;
}

/// How loud a filter lets a sine through at 48 kHz, dB.
template <class Filter> double measured_db(Filter&& filter, double hz)
{
    std::vector<float> block(256);
    double in = 0.0;
    double out = 0.0;
    for (int step = 0; step < 120; ++step) {
        for (std::size_t i = 0; i < block.size(); ++i) {
            block[i] =
                static_cast<float>(std::sin(2.0 * std::numbers::pi * hz * (step * 256.0 + static_cast<double>(i)) / 48'000));
        }
        const std::vector<float> before = block;
        filter(std::span<float>(block));
        for (std::size_t i = 0; step >= 60 && i < block.size(); ++i) {
            in += before[i] * before[i];
            out += block[i] * block[i];
        }
    }
    return 10.0 * std::log10(out / in);
}

} // namespace

class TestSpatial : public QObject
{
    Q_OBJECT

private slots:
    void conesMatchTheReference()
    {
        for (const CsvRow& row : readCsv("02_cone.csv")) {
            const Pose front = facing(vectorOf(row, "ori"));
            const double off = offFront_deg(front.heading_deg, front.pitch_deg, vectorOf(row, "src"), vectorOf(row, "lis"));
            const TwoAngles angles{row.number("inner_deg"), row.number("outer_deg"), 0.0, levelOf(row.number("outer_gain"))};
            const double gain = gainOf(coneLevel_db(angles, off));
            const QString note = row.text("note");
            if (note.isEmpty()) {
                QVERIFY2(std::abs(off - row.number("angle_deg")) < 1e-3, qPrintable(QString::number(off)));
                QVERIFY2(std::abs(gain - row.number("gain")) < 1e-5, qPrintable(QString("%1 at %2").arg(gain).arg(off)));
            }
        }
    }

    void twoAnglesMatchTheReference()
    {
        int rows = 0;
        for (const CsvRow& row : readCsv("13_two_angle.csv")) {
            const Pose front = facing(vectorOf(row, "facing"));
            const double off = offFront_deg(front.heading_deg, front.pitch_deg, vectorOf(row, "lis"), vectorOf(row, "emit"));
            const TwoAngles angles{2 * row.number("half_a_deg"), 2 * row.number("half_b_deg"), row.number("inner"),
                                   row.number("outer")};
            if (row.text("note").isEmpty()) {
                QVERIFY(std::abs(twoAngleValue(angles, off, CurveScale::even) - row.number("value")) < 1e-4);
                ++rows;
            }
        }
        QVERIFY(rows > 15);
    }

    void airMatchesTheReference()
    {
        for (const CsvRow& row : readCsv("03_air_absorption.csv")) {
            const Air air{row.number("temp_c"), row.number("rel_humidity_pct"), row.number("pressure_kpa"), {}};
            const double wanted = row.number("alpha_db_per_m");
            QVERIFY(std::abs(airLoss_db_m(air, row.number("freq_hz")) - wanted) <= 1e-3 * wanted);
        }
    }

    void curvesNeverOvershoot()
    {
        std::mt19937 random(11);
        std::uniform_real_distribution<double> value(-60.0, 0.0);
        for (int round = 0; round < 200; ++round) {
            Curve curve;
            for (int i = 0; i < 6; ++i) {
                curve.push_back({i * 3.0 + value(random) / 60.0, value(random), static_cast<Segment>(random() % 5)});
            }
            for (std::size_t i = 0; i + 1 < curve.size(); ++i) {
                double before = curve[i].y;
                const bool rises = curve[i + 1].y >= curve[i].y;
                for (int k = 1; k <= 50; ++k) {
                    const double x = curve[i].x + (curve[i + 1].x - curve[i].x) * k / 50.0 * 0.999999;
                    const double y = curveAt(curve, x, CurveScale::even, 0.0);
                    QVERIFY(rises ? y >= before - 1e-9 : y <= before + 1e-9);
                    QVERIFY(y >= std::min(curve[i].y, curve[i + 1].y) - 1e-9 &&
                            y <= std::max(curve[i].y, curve[i + 1].y) + 1e-9);
                    before = y;
                }
            }
        }
        // A cut-off goes evenly in octaves.
        QCOMPARE(curveAt({{0, 1000}, {2, 4000}}, 1.0, CurveScale::octaves, 0.0), 2000.0);
        QCOMPARE(curveAt({{1, -3}, {2, -9, Segment::hold}, {3, 0}}, 2.9, CurveScale::even, 0.0), -9.0);
    }

    void lanesKnowTheirEnds()
    {
        Lane lane;
        lane.shape = LaneShape::curve;
        lane.curve = {{2.0, 0.0}, {10.0, -20.0}, {12.0, -96.0}, {20.0, -100.0}};
        QCOMPARE(silentFrom_m(lane), 12.0);
        QVERIFY(std::isinf(laneAt(lane, 12.0)) && laneAt(lane, 11.9) > -96.0);
        QVERIFY(std::abs(lastAbove_m(lane, -10.0) - 6.0) < 1e-3);
        QVERIFY(std::abs(fullUpTo_m(lane) - 2.2) < 1e-3);
        lane.on = false;
        QCOMPARE(laneAt(lane, 15.0), 0.0);
        QVERIFY(std::isinf(silentFrom_m(lane)));
        LaneValues values;
        values.add(LaneProperty::lowPass, 5000.0);
        values.add(LaneProperty::lowPass, 8000.0);
        values.add(LaneProperty::spread, 40.0);
        values.add(LaneProperty::spread, 20.0);
        values.add(LaneProperty::placement, 0.5);
        values.add(LaneProperty::placement, 0.5);
        QVERIFY(values.lowPass_hz == 5000.0 && values.spread_deg == 40.0 && values.placement == 0.25);
    }

    void vbapMatchesTheReference_data()
    {
        QTest::addColumn<QString>("file");
        QTest::addColumn<int>("layout");
        QTest::newRow("quad") << "04c_vbap_quad.csv" << static_cast<int>(Layout::quad);
        QTest::newRow("5.1") << "04d_vbap_51.csv" << static_cast<int>(Layout::surround51);
        QTest::newRow("7.1") << "04e_vbap_71.csv" << static_cast<int>(Layout::surround71);
        QTest::newRow("7.1.4") << "04f_vbap_714.csv" << static_cast<int>(Layout::surround714);
    }

    void vbapMatchesTheReference()
    {
        QFETCH(QString, file);
        QFETCH(int, layout);
        const auto speakers = speakersOf(static_cast<Layout>(layout));
        const Vbap vbap(speakers);
        int rows = 0;
        for (const CsvRow& row : readCsv(file)) {
            const double elevation = row.text("el_deg").isEmpty() ? 0.0 : row.number("el_deg");
            const QString variant = row.text("variant");
            if (!(variant.isEmpty() || variant == "unique" || variant == "shared") || row.text("note").contains("either")) {
                continue;
            }
            const ChannelGains gains = vbap.gains(fromReference(row.number("az_deg"), elevation), 0.0);
            for (std::size_t channel = 0; channel < speakers.size(); ++channel) {
                const double wanted = speakers[channel].lowOnly ? 0.0 : row.number(QString("g_") + speakers[channel].name);
                QVERIFY2(std::abs(gains[channel] - wanted) < 1e-5, qPrintable(QString("az %1 el %2 %3: %4, not %5")
                                                                                  .arg(row.number("az_deg"))
                                                                                  .arg(elevation)
                                                                                  .arg(speakers[channel].name)
                                                                                  .arg(gains[channel])
                                                                                  .arg(wanted)));
            }
            ++rows;
        }
        QVERIFY(rows >= 24);
    }

    void ambisonicsMatchTheReference()
    {
        for (const CsvRow& row : readCsv("05_ambisonics_acn_sn3d.csv")) {
            const ChannelGains gains = ambisonicGains(3, fromReference(row.number("az_deg"), row.number("el_deg")), 0.0);
            for (std::size_t channel = 0; channel < 16; ++channel) {
                QVERIFY(std::abs(gains[channel] - row.number(QString("acn%1").arg(channel))) < 1e-6);
            }
        }
        const ChannelGains round = ambisonicGains(3, {0, 1, 0}, 360.0);
        QVERIFY(round[0] == 1.0F && powerOf(round) < 1.0 + 1e-6);
    }

    void gainsKeepTheirPowerAndMoveSmoothly()
    {
        for (const Layout layout :
             {Layout::stereo, Layout::quad, Layout::surround51, Layout::surround71, Layout::surround714}) {
            for (const double width : {0.0, 20.0, 120.0, 360.0}) {
                // Round the horizon, and over the head in a slanted circle that passes below the ears as well.
                for (const double slant : {0.0, 60.0, 90.0}) {
                    ChannelGains before{};
                    for (int i = 0; i <= 3600; ++i) {
                        const double a = radians(i * 0.1);
                        const Vec3 unit{std::sin(a) * std::cos(radians(slant)), std::cos(a),
                                        std::sin(a) * std::sin(radians(slant))};
                        const ChannelGains gains = directionGains(layout, unit * std::max(widthToLength(width), 1e-9));
                        QVERIFY(std::abs(10.0 * std::log10(powerOf(gains))) < 0.01);
                        for (std::size_t channel = 0; i > 0 && channel < mostChannels; ++channel) {
                            QVERIFY2(std::abs(gains[channel] - before[channel]) < 0.03,
                                     qPrintable(QString("%1 width %2 slant %3 at %4: %5 to %6")
                                                    .arg(nameOf(layout))
                                                    .arg(width)
                                                    .arg(slant)
                                                    .arg(i * 0.1)
                                                    .arg(before[channel])
                                                    .arg(gains[channel])));
                        }
                        before = gains;
                    }
                }
            }
        }
    }

    void theHeadMatchesTheReference()
    {
        for (const CsvRow& row : readCsv("06a_itd.csv")) {
            const double lateral = row.number("lateral_deg"); // positive: left ear first
            const double itd = earDelay_s(90.0 + lateral) - earDelay_s(90.0 - lateral);
            QVERIFY(std::abs(itd * 1e6 - row.number("woodworth_us")) < 0.01);
        }
        for (const CsvRow& row : readCsv("06b_head_shadow.csv")) {
            if (row.number("radius_m") == headRadius_m) {
                const double db = levelOf(headShadow(row.number("theta_deg"), row.number("freq_hz")));
                QVERIFY(std::abs(db - row.number("mag_db_analog")) < 0.01);
                QVERIFY(std::abs(earDelay_s(row.number("theta_deg")) * 1e6 - row.number("delay_us")) < 0.01);
            }
        }
    }

    void filtersMatchTheReference()
    {
        int rows = 0;
        for (const CsvRow& row : readCsv("12a_filter_magnitude.csv")) {
            const double wanted = row.number("mag_db");
            if (wanted < -70.0) {
                continue;
            }
            const auto kind =
                row.text("kind") == "lowpass" ? StateVariableFilter::Kind::lowPass : StateVariableFilter::Kind::highPass;
            StateVariableFilter filter;
            const double cutoff = row.number("fc_hz");
            const double db = measured_db([&](std::span<float> x) { filter.process(kind, x, cutoff, cutoff, 48'000); },
                                          row.number("freq_hz"));
            QVERIFY2(std::abs(db - wanted) < 0.05,
                     qPrintable(QString("%1 Hz: %2, not %3").arg(row.number("freq_hz")).arg(db).arg(wanted)));
            ++rows;
        }
        QVERIFY(rows > 10);
    }

    void headsKeepTheLoudnessFromAllSides()
    {
        QVERIFY2(!installedSofa().empty(), "the package libmysofa brings a set of measured ears");
        for (const SharedHead& head : {builtInHeadFilters(48'000), readSofa(installedSofa(), 48'000)}) {
            std::vector<HeadFilters::Complex> left(head->bins());
            std::vector<HeadFilters::Complex> right(head->bins());
            for (int i = 0; i < 400; ++i) {
                const double elevation = -40.0 + 13.0 * (i % 11);
                head->compose(head->choose(unitOf(i * 7.3, std::min(elevation, 90.0))), left, right);
                double sum = 0.0;
                double weights = 0.0;
                // Equal power in each octave from 100 Hz to 12 kHz.
                for (std::size_t bin = 1; bin < 128; ++bin) {
                    sum += (std::norm(left[bin]) + std::norm(right[bin])) / static_cast<double>(bin);
                    weights += 1.0 / static_cast<double>(bin);
                }
                const double db = 10.0 * std::log10(sum / weights);
                QVERIFY2(std::abs(db) < 2.0,
                         qPrintable(QString("%1 at %2: %3 dB").arg(head->name().c_str()).arg(i * 7.3).arg(db)));
            }
        }
    }

    void badEarsAreRefused()
    {
        QTemporaryDir folder;
        const auto path = std::filesystem::path(folder.path().toStdString());
        std::ifstream file(installedSofa(), std::ios::binary);
        const std::string good((std::istreambuf_iterator<char>(file)), {});
        std::mt19937 random(5);
        std::vector<std::string> bad{"", "not a SOFA file at all", good.substr(0, good.size() / 2), good.substr(0, 600)};
        for (int i = 0; i < 12; ++i) {
            std::string broken = good;
            for (int k = 0; k < 40; ++k) {
                broken[random() % std::min<std::size_t>(broken.size(), 20'000)] = static_cast<char>(random());
            }
            bad.push_back(broken);
        }
        for (const std::string& bytes : bad) {
            std::ofstream(path / "x.sofa", std::ios::binary) << bytes;
            try {
                const SharedHead head = readSofa(path / "x.sofa", 48'000);
                QVERIFY(head != nullptr); // the damage fell on something that does not matter
            } catch (const SofaError& error) {
                QVERIFY(QString(error.what()).contains("x.sofa") && QString(error.what()).contains("choose another"));
            }
        }
        QVERIFY_THROWS_EXCEPTION(SofaError, readSofa(path / "none.sofa", 48'000));
    }

    /// The library goes round for ever in this one: it is given up, by itself or when nobody waits for it any more.
    void earsThatTakeForEverAreGivenUp()
    {
        const std::filesystem::path endless = TEST_DATA "/round-for-ever.sofa";
        const SofaValues tooLong = readSofaApart(endless, 48'000.0, {}, 1);
        QVERIFY2(QString::fromStdString(tooLong.trouble).contains("more time"), tooLong.trouble.c_str());
        QElapsedTimer timer;
        timer.start();
        try {
            readSofa(endless, 48'000.0, [&] { return timer.elapsed() > 300; });
            QFAIL("it was read");
        } catch (const SofaError& error) {
            QVERIFY2(QString(error.what()).contains("stopped"), error.what());
        }
        QVERIFY(timer.elapsed() < 20'000);
        // What can be read comes over whole.
        const SofaValues good = readSofaApart(TEST_DATA "/../fuzz/corpus/sofa/four-directions.sofa", 48'000.0);
        QCOMPARE(good.trouble, std::string());
        QCOMPARE(good.directions, std::size_t{4});
        QCOMPARE(good.responses.size(), 4 * 2 * good.frames);
        QCOMPARE(good.responses[3], 1.0F);
    }

    /// Mutated sets are read or refused with one message, never for long, and never with values that ears cannot have.
    void mutatedEarsAreReadOrRefused()
    {
        QTemporaryDir folder;
        const auto path = std::filesystem::path(folder.path().toStdString()) / "mutated.sofa";
        std::ifstream file(TEST_DATA "/../fuzz/corpus/sofa/four-directions.sofa", std::ios::binary);
        const std::string good((std::istreambuf_iterator<char>(file)), {});
        std::mt19937 random(11);
        int read = 0;
        for (int round = 0; round < 120; ++round) {
            std::string bytes = good;
            for (unsigned i = 0; i < 1 + random() % 3; ++i) {
                bytes[random() % bytes.size()] = static_cast<char>(random());
            }
            if (round % 10 == 9) {
                bytes.resize(random() % bytes.size());
            }
            std::ofstream(path, std::ios::binary) << bytes;
            QElapsedTimer timer;
            timer.start();
            const SofaValues values = readSofaApart(path, 48'000.0, {}, 1);
            QVERIFY2(timer.elapsed() < 30'000, qPrintable(QString::number(round)));
            if (values.trouble.empty()) {
                ++read;
                QCOMPARE(values.positions.size(), values.directions * 3);
                QCOMPARE(values.responses.size(), values.directions * 2 * values.frames);
            } else {
                QVERIFY(values.trouble.find('\n') == std::string::npos);
            }
        }
        QVERIFY2(read > 20, qPrintable(QString::number(read))); // most bytes are padding
    }

    /// What a small set of ears claims about its rate cannot make it take for ever, or fill the memory.
    void earsOfOutlandishRatesAreRefused()
    {
        QTemporaryDir folder;
        const auto path = std::filesystem::path(folder.path().toStdString()) / "rate.sofa";
        std::ifstream file(TEST_DATA "/../fuzz/corpus/sofa/four-directions.sofa", std::ios::binary);
        const std::string good((std::istreambuf_iterator<char>(file)), {});
        const auto withRate = [&](double rate) {
            std::string bytes = good;
            const double before = 48'000.0;
            const std::size_t at = good.find(std::string(reinterpret_cast<const char*>(&before), sizeof before));
            if (at == std::string::npos) {
                return std::string("no rate in the file");
            }
            std::memcpy(bytes.data() + at, &rate, sizeof rate);
            std::ofstream(path, std::ios::binary) << bytes;
            try {
                readSofa(path, 48'000);
            } catch (const SofaError& error) {
                return std::string(error.what());
            }
            return std::string();
        };
        for (const double rate : {48'000.0, 44'100.0, 192'000.0}) {
            QCOMPARE(withRate(rate), std::string());
        }
        for (const double rate : {0.0, 1.0, -48'000.0, 1e9, static_cast<double>(NAN), static_cast<double>(INFINITY)}) {
            const QString message = QString::fromStdString(withRate(rate));
            QVERIFY2(message.contains("kHz") || message.contains("rates"), qPrintable(message));
        }
    }
};

} // namespace tst_spatial

STONE_TEST(tst_spatial, TestSpatial)
#include "tst_spatial.moc"
