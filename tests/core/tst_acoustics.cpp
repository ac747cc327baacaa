// SPDX-License-Identifier: GPL-3.0-or-later
#include "acoustics/distance.h"
#include "dsp/decibel.h"
#include "geometry/pose.h"
#include "spatial/panning.h"
#include "support/csv.h"
#include "support/one_of_many.h"

#include <QTest>

#include <cmath>

namespace tst_acoustics
{

using namespace stone;

class TestAcoustics : public QObject
{
    Q_OBJECT

private slots:
    void distanceModelsMatchTheReference()
    {
        int rows = 0;
        for (const CsvRow& row : readCsv("01_distance.csv")) {
            DistanceFormula formula;
            const QString model = row.text("model");
            formula.model = model == "linear"    ? DistanceModel::linear
                            : model == "inverse" ? DistanceModel::inverse
                                                 : DistanceModel::exponential;
            formula.reference_m = row.number("ref_m");
            formula.maximum_m = row.number("max_m");
            formula.factor = row.number("rolloff");
            const double gain = distanceGain(formula, row.number("distance_m"));
            QVERIFY2(std::abs(gain - row.number("gain")) < 1e-6, qPrintable(QString("row %1: %2").arg(rows).arg(gain)));
            ++rows;
        }
        QVERIFY(rows > 50);
    }

    /// From there on it is as loud as there, for the models that have no end; the linear one has its own.
    void aFalloffCanStayAsItIs()
    {
        for (const DistanceModel model : {DistanceModel::inverse, DistanceModel::exponential}) {
            const DistanceFormula goesOn{.model = model, .reference_m = 2.0, .factor = 1.0};
            DistanceFormula stays = goesOn;
            stays.staysFrom_m = 20.0;
            QCOMPARE(distanceGain(stays, 15.0), distanceGain(goesOn, 15.0));
            QCOMPARE(distanceGain(stays, 20.0), distanceGain(goesOn, 20.0));
            QCOMPARE(distanceGain(stays, 500.0), distanceGain(goesOn, 20.0));
            QVERIFY(std::isinf(distanceOfLevel_m(stays, -40.0)) && std::isfinite(distanceOfLevel_m(goesOn, -40.0)));
            QVERIFY(std::abs(distanceOfLevel_m(stays, -12.0) - distanceOfLevel_m(goesOn, -12.0)) < 1e-6);
        }
        const DistanceFormula linear{.model = DistanceModel::linear, .reference_m = 2.0, .maximum_m = 30.0, .staysFrom_m = 5.0};
        QCOMPARE(distanceGain(linear, 30.0), 0.0);
    }

    void reachEndsSmoothly()
    {
        const DistanceFormula f{.reference_m = 2.0, .silentAt_m = 20.0};
        QCOMPARE(reachGain(f, 16.0), 1.0);
        QCOMPARE(reachGain(f, 20.0), 0.0);
        QVERIFY(std::abs(reachGain(f, 18.0) - 0.5) < 1e-12);
        QCOMPARE(silentFrom_m(f), 20.0);
        // No step anywhere: 1 cm never changes the gain by more than 1 %.
        for (double d = 0.0; d < 25.0; d += 0.01) {
            const auto gain = [&](double x) { return distanceGain(f, x) * reachGain(f, x); };
            QVERIFY(std::abs(gain(d + 0.01) - gain(d)) < 0.01);
        }
    }

    void distanceOfALevelInvertsTheFormula()
    {
        for (const DistanceModel model : {DistanceModel::inverse, DistanceModel::linear, DistanceModel::exponential}) {
            const DistanceFormula f{.model = model, .reference_m = 2.0, .maximum_m = 30.0, .factor = 1.0};
            const double d = distanceOfLevel_m(f, -12.0);
            QVERIFY(std::abs(levelOf(distanceGain(f, d)) + 12.0) < 0.01);
        }
        QVERIFY(std::isinf(distanceOfLevel_m({.factor = 0.0}, -12.0)));
    }

    void stereoPanMatchesTheReference()
    {
        for (const CsvRow& row : readCsv("04a_stereo_pan.csv")) {
            const ChannelGains gains = stereoPan(row.number("pan"));
            QVERIFY(std::abs(gains[0] - row.number("g_left")) < 1e-6);
            QVERIFY(std::abs(gains[1] - row.number("g_right")) < 1e-6);
        }
        int rows = 0;
        for (const CsvRow& row : readCsv("04b_equalpower_azimuth.csv")) {
            const double azimuth = radians(row.number("az_right_deg"));
            const ChannelGains gains = directionGains(Layout::stereo, {std::sin(azimuth), std::cos(azimuth), 0.0});
            QVERIFY(std::abs(gains[0] - row.number("g_left")) < 1e-6);
            QVERIFY(std::abs(gains[1] - row.number("g_right")) < 1e-6);
            ++rows;
        }
        QVERIFY(rows > 10);
    }

    void panningKeepsItsPowerWhereverASoundIs()
    {
        for (double azimuth = -180; azimuth < 180; azimuth += 7) {
            for (double length = 0.0; length <= 1.0; length += 0.1) {
                const double a = radians(azimuth);
                const ChannelGains g = directionGains(Layout::stereo, Vec3{std::sin(a), std::cos(a), 0.3} * length);
                QVERIFY(std::abs(g[0] * g[0] + g[1] * g[1] - 1.0F) < 1e-6F);
            }
        }
    }
};

} // namespace tst_acoustics

STONE_TEST(tst_acoustics, TestAcoustics)
#include "tst_acoustics.moc"
