// SPDX-License-Identifier: GPL-3.0-or-later
#include "geometry/pose.h"
#include "geometry/sphere_index.h"
#include "support/one_of_many.h"

#include <QTest>

#include <cmath>
#include <random>

namespace tst_geometry
{

using namespace stone;

class TestGeometry : public QObject
{
    Q_OBJECT

private slots:
    void bearings_data()
    {
        QTest::addColumn<double>("heading");
        QTest::addColumn<double>("pitch");
        QTest::addColumn<double>("roll");
        QTest::addColumn<double>("azimuth");
        QTest::addColumn<double>("elevation");
        // A thing due east, seen from the origin.
        QTest::newRow("facing north") << 0.0 << 0.0 << 0.0 << 90.0 << 0.0;
        QTest::newRow("facing east") << 90.0 << 0.0 << 0.0 << 0.0 << 0.0;
        QTest::newRow("facing south") << 180.0 << 0.0 << 0.0 << -90.0 << 0.0;
        QTest::newRow("facing east, looking up 30") << 90.0 << 30.0 << 0.0 << 0.0 << -30.0;
        QTest::newRow("facing north, right ear down 20") << 0.0 << 0.0 << 20.0 << 90.0 << 20.0;
        QTest::newRow("facing north, head over the right shoulder") << 0.0 << 0.0 << 90.0 << 0.0 << 90.0;
        QTest::newRow("facing west, looking straight up") << 270.0 << 90.0 << 0.0 << 0.0 << 90.0;
    }
    void bearings()
    {
        QFETCH(double, heading);
        QFETCH(double, pitch);
        QFETCH(double, roll);
        QFETCH(double, azimuth);
        QFETCH(double, elevation);
        const Bearing bearing = bearingOf(frameOf({Vec3{0.0}, heading, pitch, roll}), Vec3{0.0}, Vec3{7.0, 0.0, 0.0});
        QVERIFY(std::abs(bearing.distance_m - 7.0) < 1e-12);
        QVERIFY2(std::abs(bearing.elevation_deg - elevation) < 1e-5, qPrintable(QString::number(bearing.elevation_deg)));
        if (std::abs(elevation) < 89.0) {
            QVERIFY2(std::abs(wrapDegrees(bearing.azimuth_deg - azimuth)) < 1e-6,
                     qPrintable(QString::number(bearing.azimuth_deg)));
        }
    }

    void framesAreOrthonormal()
    {
        std::mt19937 random(1);
        std::uniform_real_distribution<double> angle(-720.0, 720.0);
        for (int i = 0; i < 1000; ++i) {
            const Frame f = frameOf({Vec3{0.0}, angle(random), angle(random), angle(random)});
            const Vec3 cross = glm::cross(f.right, f.ahead) - f.up;
            QVERIFY(glm::length(cross) < 1e-12);
            QVERIFY(std::abs(glm::length(f.right) - 1.0) < 1e-12);
        }
    }

    void turningTakesTheShortWay()
    {
        const Pose half = interpolate({Vec3{0.0}, 350.0, 0, 0}, {Vec3{2.0, 0, 0}, 20.0, 0, 0}, 0.5);
        QVERIFY(std::abs(wrapDegrees(half.heading_deg - 5.0)) < 1e-9);
        QCOMPARE(half.at.x, 1.0);
    }

    void sphereIndexFindsWhatASearchFinds()
    {
        std::mt19937 random(2);
        std::uniform_real_distribution<double> place(-100.0, 100.0);
        std::uniform_real_distribution<double> size(0.0, 20.0);
        for (const int count : {0, 1, 5, 1000}) {
            std::vector<Sphere> spheres;
            for (int i = 0; i < count; ++i) {
                spheres.push_back(
                    {{place(random), place(random), place(random) / 10.0}, i % 97 == 3 ? INFINITY : size(random)});
            }
            const SphereIndex index(spheres);
            for (int query = 0; query < 200; ++query) {
                const Vec3 p{place(random), place(random), place(random) / 10.0};
                std::vector<std::uint32_t> expected;
                for (std::uint32_t i = 0; i < spheres.size(); ++i) {
                    if (glm::length(p - spheres[i].centre) <= spheres[i].radius_m) {
                        expected.push_back(i);
                    }
                }
                std::vector<std::uint32_t> found;
                index.containing(p, found);
                QCOMPARE(found, expected);
            }
        }
    }
};

} // namespace tst_geometry

STONE_TEST(tst_geometry, TestGeometry)
#include "tst_geometry.moc"
