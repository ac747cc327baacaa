// SPDX-License-Identifier: GPL-3.0-or-later
#include "geometry/polygon.h"
#include "geometry/solid.h"
#include "geometry/spread.h"
#include "support/csv.h"
#include "support/one_of_many.h"

#include <QTest>

#include <algorithm>
#include <cmath>
#include <functional>
#include <numbers>
#include <random>

namespace tst_shape
{

using namespace stone;

namespace
{

constexpr double pi = std::numbers::pi;

Vec3 vec(const CsvRow& row, const QString& prefix)
{
    return {row.number(prefix + "_x"), row.number(prefix + "_y"), row.number(prefix + "_z")};
}

/// "x y; x y; ..." or with z.
std::vector<Vec3> points(const QString& text)
{
    std::vector<Vec3> result;
    for (const QString& one : text.split(';')) {
        const QStringList numbers = one.trimmed().split(' ', Qt::SkipEmptyParts);
        result.push_back({numbers[0].toDouble(), numbers[1].toDouble(), numbers.size() > 2 ? numbers[2].toDouble() : 0.0});
    }
    return result;
}

double apart(const Vec3& a, const Vec3& b)
{
    return glm::length(a - b);
}

/// A U in the plan, open to the north.
Solid letterU()
{
    return {Prism{{{-6, -6}, {6, -6}, {6, 6}, {4, 6}, {4, -4}, {-4, -4}, {-4, 6}, {-6, 6}}, 3.0}, {}};
}

} // namespace

class TestShape : public QObject
{
    Q_OBJECT

private slots:
    void nearestPointsAgreeWithTheReference_data()
    {
        QTest::addColumn<QString>("file");
        for (const char* file : {"10a_closest_sphere.csv", "10b_closest_box.csv", "10c_closest_capsule.csv",
                                 "10d_closest_prism.csv", "10e_closest_polyline.csv"}) {
            QTest::newRow(file) << file;
        }
    }
    void nearestPointsAgreeWithTheReference()
    {
        QFETCH(QString, file);
        for (const CsvRow& row : readCsv(file)) {
            Solid solid;
            if (file.contains("sphere")) {
                solid = Solid(Ball{row.number("radius_m")}, {.at = vec(row, "c")});
            } else if (file.contains("box")) {
                const Vec3 half{row.number("half_x"), row.number("half_y"), row.number("half_z")};
                const Vec3 up = vec(row, "axis3");
                // Boxes stand on their origin.
                solid = Solid(Box{half * 2.0}, {vec(row, "c") - up * half.z, vec(row, "axis1"), vec(row, "axis2"), up});
            } else if (file.contains("capsule")) {
                solid = Solid(Capsule{vec(row, "a"), vec(row, "b"), row.number("radius_m")}, {});
            } else if (file.contains("prism")) {
                Prism prism{{}, row.number("z1_m") - row.number("z0_m")};
                for (const Vec3& p : points(row.text("polygon_xy"))) {
                    prism.corners.push_back({p.x, p.y});
                }
                solid = Solid(prism, {.at = {0, 0, row.number("z0_m")}});
            } else {
                solid = Solid(Ribbon{points(row.text("points_xyz")), 0.0, row.number("closed") == 1.0}, {});
            }
            const Vec3 p = vec(row, "p");
            const double distance = row.number("distance_m");
            QVERIFY(apart(solid.nearest(p), vec(row, "cp")) < 1e-9);
            QVERIFY(std::abs(solid.meet(p).distance_m - distance) < 1e-9);
            if (std::isfinite(row.number("signed_m"))) {
                QVERIFY(std::abs(solid.signedDistance(p) - row.number("signed_m")) < 1e-9);
            }
            if (std::isfinite(row.number("inside"))) {
                QVERIFY(solid.contains(p) == (row.number("inside") == 1.0) || std::abs(row.number("signed_m")) < 1e-9);
            }
            if (std::isfinite(row.number("sf_x"))) {
                QVERIFY(apart(solid.nearestOnSurface(p), vec(row, "sf")) < 1e-9);
            }
        }
    }

    /// What a shape covers, against closed forms and against rays in all directions.
    void coversTheRightAngle()
    {
        for (const double d : {2.5, 4.0, 20.0}) {
            const double half = std::asin(2.0 / d);
            const Met ball = Solid(Ball{2.0}, {}).meet({0, -d, 0});
            QVERIFY(std::abs(ball.solidAngle_sr - 2 * pi * (1 - std::cos(half))) < 1e-9);
            // The mean over a cap, as spread.h has it.
            QVERIFY(std::abs(glm::length(ball.mean) - widthToLength(2 * degrees(half))) < 1e-6);
            QVERIFY(ball.mean.y > 0.0);
            // A face of 2a by 2b at a distance, straight ahead: 4 asin(ab / sqrt((a2+d2)(b2+d2))).
            const Met box = Solid(Box{{4, 6, 2}}, {}).meet({0, -3 - d, 1});
            QVERIFY(std::abs(box.solidAngle_sr - 4 * std::asin(2 / std::sqrt((4 + d * d) * (1 + d * d)))) < 1e-9);
        }
        QCOMPARE(Solid(Box{}, {}).meet({0, 0, 1}).solidAngle_sr, 4 * pi);

        // From the middle of the U's arms: counted by rays.
        const Solid u = letterU();
        const Vec3 from{3.0, 2.0, 1.2};
        std::mt19937 random(5);
        std::normal_distribution<double> normal;
        const int rays = 20000;
        int met = 0;
        Vec3 sum{0.0};
        for (int i = 0; i < rays; ++i) {
            const Vec3 way = glm::normalize(Vec3{normal(random), normal(random), normal(random)});
            for (double t = 0.0; t < 40.0; t += 0.05) {
                if (u.contains(from + way * t)) {
                    ++met;
                    sum += way;
                    break;
                }
            }
        }
        const Met seen = u.meet(from);
        const double counted = 4 * pi * met / rays;
        // Every face is seen from there but for the ends of the arms: rays and sum differ by what is hidden.
        QVERIFY2(std::abs(seen.solidAngle_sr - counted) < 0.03 * counted,
                 qPrintable(QString("%1 %2").arg(seen.solidAngle_sr).arg(counted)));
        QVERIFY(apart(seen.mean, sum / double(met)) < 0.03);
    }

    /// Between two arms both are heard, and on the way from one to the other nothing jumps, where the nearest point
    /// would.
    void directionsNeverJump()
    {
        const Solid u = letterU();
        QVERIFY(glm::length(u.meet({0, 4.0, 1.5}).mean * Vec3{1, 0, 1}) < 1e-6);
        QVERIFY(u.meet({-2, 4.0, 1.5}).mean.x < -0.2);
        const std::vector<Solid> solids{
            u, Solid(Ribbon{{{-8, 0, 0}, {0, 0, 0}, {0, 8, 0}, {-8, 8, 0}}, 0.0, false}, {}),
            Solid(Ribbon{{{-8, 0, 0}, {0, 0, 0}, {0, 8, 0}}, 1.0, false}, {}),
            Solid(Box{{4, 20, 3}}, {.at = {3, 0, 0}, .aside = {0.6, 0.8, 0}, .ahead = {-0.8, 0.6, 0}}),
            Solid(Capsule{{0, -4, 1}, {0, 4, 2}, 1.0}, {})};
        for (std::size_t i = 0; i < solids.size(); ++i) {
            const Solid& solid = solids[i];
            double most = 0.0;
            std::mt19937 random(3);
            std::uniform_real_distribution<double> where(-12.0, 12.0);
            for (int walk = 0; walk < 200; ++walk) {
                const Vec3 a{where(random), where(random), 1.5};
                const Vec3 b{where(random), where(random), 1.5};
                const double step = 0.01;
                Met last = solid.meet(a);
                for (double t = step; t < glm::length(b - a); t += step) {
                    const Met met = solid.meet(a + glm::normalize(b - a) * t);
                    // 1 m off, where the near blend has not begun, 1 cm turns nothing by more than a few degrees.
                    if (met.distance_m > 1.0 && last.distance_m > 1.0) {
                        most = std::max(most, apart(met.mean, last.mean));
                    }
                    QVERIFY(std::abs(met.distance_m - last.distance_m) < step + 1e-9);
                    QVERIFY(glm::length(met.mean) <= 1.0 + 1e-9);
                    last = met;
                }
            }
            QVERIFY2(most < 0.03, qPrintable(QString("%1: %2").arg(i).arg(most)));
        }
    }

    void far_thinAndFlatShapesStillHaveADirection()
    {
        for (const Shape& shape : {Shape{Box{{4, 4, 0}}}, Shape{Ball{0.0}}, Shape{Ribbon{{{0, 0, 0}, {0, 2, 0}}, 0.0, false}},
                                   Shape{Prism{{{0, 0}, {1, 0}}, 2.0}}, Shape{Ribbon{{}, 1.0, false}}, Shape{Hull{}}}) {
            const Solid solid(shape, {});
            for (const Vec3& p : {Vec3{0, -900, 0}, Vec3{500, 500, 900}, Vec3{0, 0, -5}}) {
                const Met met = solid.meet(p);
                QVERIFY(std::isfinite(met.distance_m) && std::isfinite(met.mean.x));
                QVERIFY2(met.distance_m < 1e-9 || glm::length(met.mean) > 0.9 - 0.5 * (glm::length(p) < 10),
                         qPrintable(QString("%1 %2").arg(shape.index()).arg(glm::length(met.mean))));
                QVERIFY(glm::dot(met.mean, met.nearest - p) >= 0.0);
            }
        }
    }

    void aHullIsWhatItsTrianglesEnclose()
    {
        // An octahedron of height 2 on its origin's level.
        Hull hull;
        hull.points = {{1, 0, 0}, {0, 1, 0}, {-1, 0, 0}, {0, -1, 0}, {0, 0, 1}, {0, 0, -1}};
        for (int i = 0; i < 4; ++i) {
            hull.triangles.push_back({i, (i + 1) % 4, 4});
            hull.triangles.push_back({(i + 1) % 4, i, 5});
        }
        const Solid solid(hull, {.at = {10, 0, 0}});
        QVERIFY(solid.contains({10.2, 0.2, 0.2}) && !solid.contains({10.5, 0.5, 0.5}) && !solid.contains({0, 0, 0}));
        QVERIFY(std::abs(solid.signedDistance({10, 0, 0}) + 1 / std::sqrt(3.0)) < 1e-12);
        QVERIFY(std::abs(solid.depth({10, 0, 0}) - 1 / std::sqrt(3.0)) < 1e-12);
    }

    void depthIsMeasuredFromTheWalls()
    {
        const Solid hall(Box{{10, 20, 3}}, {});
        QVERIFY(std::abs(hall.depth({3, 0, 1.5}) - 2.0) < 1e-12);
        // A low ceiling does not keep one near the border, and yet coming down through it is no step.
        QVERIFY(std::abs(hall.depth({0, 0, 1.5}) - 5.0) < 1e-12);
        QVERIFY(std::abs(hall.depth({0, 0, 2.9}) - 1.0) < 1e-9);
        QVERIFY(std::abs(hall.depth({0, 0, 4.0}) + 1.0) < 1e-12);
        QCOMPARE(hall.sideCount(), std::size_t(6));
        QVERIFY(std::abs(hall.distanceToSide({0, 14, 1}, 0) - 4.0) < 1e-12);
        QVERIFY(std::abs(hall.distanceToSide({8, 0, 1}, 1) - 3.0) < 1e-12);
    }

    void polygonsOfAnySort()
    {
        const std::vector<Vec2> l{{0, 0}, {4, 0}, {4, 1}, {1, 1}, {1, 4}, {0, 4}};
        std::vector<Vec2> back(l.rbegin(), l.rend());
        for (const auto& corners : {l, back}) {
            double area = 0.0;
            for (const auto& [a, b, c] : triangulate(corners)) {
                const std::vector<Vec2> triangle{corners[a], corners[b], corners[c]};
                QVERIFY(signedArea(triangle) > 0.0);
                area += signedArea(triangle);
            }
            QVERIFY(std::abs(area - 7.0) < 1e-12);
            QVERIFY(!crossesItself(corners));
        }
        QVERIFY(crossesItself(std::vector<Vec2>{{0, 0}, {4, 4}, {4, 0}, {0, 4}}));
        QCOMPARE(hullOf(l).size(), std::size_t(5));
    }
};

} // namespace tst_shape

STONE_TEST(tst_shape, TestShape)
#include "tst_shape.moc"
