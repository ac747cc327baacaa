// SPDX-License-Identifier: GPL-3.0-or-later
#include "geometry/pose.h"
#include "level/edge_finder.h"
#include "support/boxes.h"
#include "support/one_of_many.h"

#include <QTest>

#include <algorithm>
#include <cmath>

namespace tst_edges
{

using namespace stone;
using fixture::addBox;
using fixture::addSheet;

namespace
{

constexpr double centimetre = 0.01;

Mesh meshOf(std::vector<std::string> materials = {"stone", "water"})
{
    Mesh mesh;
    mesh.materials = std::move(materials);
    return mesh;
}

/// A floor of 20 by 20 m about the middle, its top at height 0.
Mesh yard()
{
    Mesh mesh = meshOf();
    addBox(mesh, {-10, -10, -0.3}, {10, 10, 0});
    return mesh;
}

std::vector<FloorEdge> edgesOf(Mesh mesh, const EdgeRules& rules = {}, const std::optional<Vec3>& stands = {})
{
    return findFloorEdges(*fixture::groundOf(std::move(mesh)), rules, stands);
}

double metresOf(const std::vector<FloorEdge>& edges, EdgeKind kind)
{
    double length_m = 0.0;
    for (const FloorEdge& edge : edges) {
        length_m += edge.kind == kind ? edge.length_m() : 0.0;
    }
    return length_m;
}

/// How many metres from one place towards another an edge of a kind runs in that direction, within a centimetre.
double along(const std::vector<FloorEdge>& edges, EdgeKind kind, const Vec3& from, const Vec3& to)
{
    const Vec3 way = glm::normalize(to - from);
    double length_m = 0.0;
    for (const FloorEdge& edge : edges) {
        const std::size_t n = edge.points.size();
        for (std::size_t i = 0; edge.kind == kind && i + (edge.closed ? 0 : 1) < n; ++i) {
            const Vec3& a = edge.points[i];
            const Vec3& b = edge.points[(i + 1) % n];
            const bool onIt =
                glm::length(glm::cross(a - from, way)) < centimetre && glm::length(glm::cross(b - from, way)) < centimetre;
            if (onIt && glm::dot(b - a, way) > 0.0) {
                length_m += std::max(0.0, std::min(glm::dot(b - from, way), glm::length(to - from)) -
                                              std::max(glm::dot(a - from, way), 0.0));
            }
        }
    }
    return length_m;
}

#define NEAR(value, wanted, within)                                                                                            \
    QVERIFY2(std::abs((value) - (wanted)) <= (within), qPrintable(QString("%1, not %2").arg(value).arg(wanted)))

} // namespace

/// Edges of floors against levels whose edges are known.
class TestEdges : public QObject
{
    Q_OBJECT

private slots:
    void aPlatformHasDropsAboveAndWallsBelow()
    {
        Mesh mesh = yard();
        addBox(mesh, {-4, -2, 0}, {4, 2, 1.1});
        const auto edges = edgesOf(mesh, {}, Vec3{0, 0, 1.1});
        // On the platform the floor is on the left of the way, on the ground it is on the other side.
        NEAR(along(edges, EdgeKind::drop, {-4, -2, 1.1}, {4, -2, 1.1}), 8.0, centimetre);
        NEAR(along(edges, EdgeKind::drop, {4, -2, 1.1}, {4, 2, 1.1}), 4.0, centimetre);
        NEAR(along(edges, EdgeKind::wall, {4, -2, 0}, {-4, -2, 0}), 8.0, centimetre);
        NEAR(along(edges, EdgeKind::wall, {4, 2, 0}, {4, -2, 0}), 4.0, centimetre);
        NEAR(along(edges, EdgeKind::drop, {-10, -10, 0}, {10, -10, 0}), 20.0, centimetre);
        NEAR(metresOf(edges, EdgeKind::drop), 24.0 + 80.0, 4.0 * centimetre);
        NEAR(metresOf(edges, EdgeKind::wall), 24.0, 4.0 * centimetre);
        QCOMPARE(metresOf(edges, EdgeKind::kerb) + metresOf(edges, EdgeKind::step) + metresOf(edges, EdgeKind::water), 0.0);
        for (const FloorEdge& edge : edges) {
            QVERIFY(edge.closed);
            QCOMPARE(edge.points.size(), 4U);
            if (edge.kind == EdgeKind::wall || edge.points.front().z > 1.0) {
                NEAR(edge.by_m, 1.1, centimetre);
            } else {
                QVERIFY(std::isinf(edge.by_m));
            }
        }
    }

    void aLoneDifferenceIsAKerbAndSeveralAreSteps()
    {
        Mesh mesh = yard();
        addBox(mesh, {-10, 6, 0}, {10, 10, 0.12});
        for (int i = 0; i < 5; ++i) {
            addBox(mesh, {4.0 + 0.3 * i, -2, 0}, {10, 2, 0.16 * (i + 1)});
        }
        const auto edges = edgesOf(std::move(mesh));
        NEAR(along(edges, EdgeKind::kerb, {-10, 6, 0.12}, {10, 6, 0.12}), 20.0, centimetre);
        NEAR(metresOf(edges, EdgeKind::kerb), 20.0 + 6 * 0.3, 4.0 * centimetre); // and beside the lowest three steps
        for (int i = 0; i < 5; ++i) {
            const double x = 4.0 + 0.3 * i;
            NEAR(along(edges, EdgeKind::step, {x, 2, 0.16 * (i + 1)}, {x, -2, 0.16 * (i + 1)}), 4.0, centimetre);
        }
        // Beside the stairs one falls from the fourth step on, and there is a wall from below.
        NEAR(along(edges, EdgeKind::drop, {4.9, -2, 0.64}, {5.2, -2, 0.64}), 0.3, centimetre);
        NEAR(along(edges, EdgeKind::drop, {5.2, -2, 0.8}, {10, -2, 0.8}), 4.8, centimetre);
        NEAR(along(edges, EdgeKind::wall, {10, -2, 0}, {4.9, -2, 0}), 5.1, centimetre);
        // What is a step, and what a drop, is typed.
        EdgeRules careful;
        careful.step_m = 0.1;
        Mesh again = yard();
        addBox(again, {-10, 6, 0}, {10, 10, 0.12});
        const auto drops = edgesOf(std::move(again), careful, Vec3{0, 8, 0.12});
        NEAR(along(drops, EdgeKind::drop, {-10, 6, 0.12}, {10, 6, 0.12}), 20.0, centimetre);
    }

    void slopesAreWalkedWhereTheyAreGentle()
    {
        // A ramp up to a terrace, and a bank of 60 degrees beside it.
        Mesh mesh = meshOf();
        addSheet(mesh, {{{-10, -10, 0}, {10, -10, 0}, {10, 0, 0}, {-10, 0, 0}}});
        addSheet(mesh, {{{-10, 0, 0}, {0, 0, 0}, {0, 8, 2}, {-10, 8, 2}}});
        addSheet(mesh, {{{-10, 8, 2}, {10, 8, 2}, {10, 10, 2}, {-10, 10, 2}}});
        const double foot = 8.0 - 2.0 / std::sqrt(3.0);
        addSheet(mesh, {{{0, 0, 0}, {10, 0, 0}, {10, foot, 0}, {0, foot, 0}}});
        addSheet(mesh, {{{0, foot, 0}, {10, foot, 0}, {10, 8, 2}, {0, 8, 2}}});
        const auto edges = edgesOf(std::move(mesh));
        QCOMPARE(along(edges, EdgeKind::drop, {-10, 0, 0}, {0, 0, 0}) + along(edges, EdgeKind::wall, {-10, 0, 0}, {0, 0, 0}),
                 0.0);
        NEAR(along(edges, EdgeKind::wall, {10, foot, 0}, {0, foot, 0}), 10.0, centimetre);
        // Two metres down, over more than a stride of slope: it is still a drop.
        NEAR(along(edges, EdgeKind::drop, {0, 8, 2}, {10, 8, 2}), 10.0, centimetre);
        // Beside the ramp one steps down as long as it is low, and falls further up.
        NEAR(along(edges, EdgeKind::kerb, {0, 0, 0}, {0, 2, 0.5}), 1.8 * std::sqrt(1.0 + 1.0 / 16.0), 2.0 * centimetre);
        NEAR(along(edges, EdgeKind::drop, {0, 2, 0.5}, {0, 8, 2}), 5.662 * std::sqrt(1.0 + 1.0 / 16.0), 2.0 * centimetre);
    }

    void waterHasAnEdgeWhateverItsShape()
    {
        // A pool let into the floor, with the water 0.3 m down.
        Mesh mesh = meshOf();
        const auto slab = [&](const Vec2& low, const Vec2& high) { addBox(mesh, {low, -2}, {high, 0}); };
        slab({-10, -10}, {10, -3});
        slab({-10, 3}, {10, 10});
        slab({-10, -3}, {-4, 3});
        slab({4, -3}, {10, 3});
        addSheet(mesh, {{{-4, -3, -0.3}, {4, -3, -0.3}, {4, 3, -0.3}, {-4, 3, -0.3}}}, 1);
        const auto edges = edgesOf(mesh);
        NEAR(metresOf(edges, EdgeKind::water), 28.0, 4.0 * centimetre);
        NEAR(along(edges, EdgeKind::water, {4, -3, 0}, {-4, -3, 0}), 8.0, centimetre);
        EdgeRules dry;
        dry.water.clear();
        QCOMPARE(metresOf(edgesOf(mesh, dry), EdgeKind::water), 0.0);

        // A beach that goes under: 1 in 10, the water at 0.
        Mesh beach = meshOf();
        addSheet(beach, {{{-10, -10, -1}, {10, -10, -1}, {10, 20, 2}, {-10, 20, 2}}});
        addSheet(beach, {{{-10, -10, 0}, {10, -10, 0}, {10, 5, 0}, {-10, 5, 0}}}, 1);
        const auto shore = edgesOf(std::move(beach));
        NEAR(along(shore, EdgeKind::water, {-10, 0, 0}, {10, 0, 0}), 20.0, centimetre);
    }

    void waterLaidOnAFloorHasAnEdge()
    {
        Mesh mesh = yard();
        addBox(mesh, {-10, 4, -0.5}, {0, 10, 0.12});
        addBox(mesh, {0, 4, -0.5}, {10, 10, 0.001}, 1);
        const auto edges = edgesOf(std::move(mesh));
        NEAR(along(edges, EdgeKind::water, {10, 4, 0}, {0, 4, 0}), 10.0, centimetre);
        NEAR(along(edges, EdgeKind::water, {0, 4, 0.12}, {0, 10, 0.12}) +
                 along(edges, EdgeKind::water, {0, 10, 0.12}, {0, 4, 0.12}),
             6.0, centimetre);
        NEAR(metresOf(edges, EdgeKind::water), 16.0, 2.0 * centimetre);
    }

    void aWallOfSheetsAndAParapetStopOne()
    {
        Mesh mesh = yard();
        // A room whose walls are one sheet, seen from within.
        addSheet(mesh, {{{-6, -6, 0}, {-6, -6, 3}, {6, -6, 3}, {6, -6, 0}}});
        // A parapet along the east border of the yard.
        addBox(mesh, {9.8, -10, 0}, {10, 10, 1.0});
        // A beam over the head and a bar below the knee are none.
        addBox(mesh, {-8, 4, 2.2}, {8, 4.3, 2.6});
        addBox(mesh, {-8, 7, 0}, {8, 7.2, 0.3});
        const auto edges = edgesOf(std::move(mesh));
        NEAR(along(edges, EdgeKind::wall, {9.8, -10, 0}, {9.8, 10, 0}), 20.0, centimetre);
        QCOMPARE(along(edges, EdgeKind::drop, {10, -10, 0}, {10, 10, 0}), 0.0);
        NEAR(along(edges, EdgeKind::wall, {6, -6, 0}, {-6, -6, 0}) + along(edges, EdgeKind::wall, {-6, -6, 0}, {6, -6, 0}),
             12.0, centimetre);
        QCOMPARE(along(edges, EdgeKind::wall, {8, 4, 0}, {-8, 4, 0}), 0.0);
        QCOMPARE(along(edges, EdgeKind::wall, {8, 7, 0}, {-8, 7, 0}), 0.0);
    }

    void seamsAndNarrowGapsAreWalkedOver()
    {
        Mesh mesh = meshOf();
        addBox(mesh, {-10, -10, -1}, {0, 10, 0});
        addBox(mesh, {0, -10, -1}, {10, -2, 0.01}); // of other corners, a centimetre higher
        addBox(mesh, {0, -2, -1}, {10, 10, 0});
        addBox(mesh, {10.1, -10, -1}, {20, 10, 0}); // a slot of 10 cm
        addBox(mesh, {20.3, -10, -1}, {30, 10, 0}); // and one that swallows a foot
        const auto edges = edgesOf(std::move(mesh));
        QCOMPARE(along(edges, EdgeKind::drop, {0, -10, 0}, {0, 10, 0}), 0.0);
        QCOMPARE(along(edges, EdgeKind::drop, {10, -10, 0}, {10, 10, 0}), 0.0);
        NEAR(along(edges, EdgeKind::drop, {20, -10, 0}, {20, 10, 0}), 20.0, centimetre);
    }

    void whatCannotBeComeToHasNone()
    {
        Mesh mesh = yard();
        addBox(mesh, {-2, -2, 0}, {2, 2, 4}); // its top is out of reach
        addBox(mesh, {-30, -30, 8}, {-20, -20, 9});
        const auto edges = edgesOf(std::move(mesh));
        QVERIFY(std::none_of(edges.begin(), edges.end(), [](const FloorEdge& edge) { return edge.points.front().z > 1.0; }));
        NEAR(metresOf(edges, EdgeKind::wall), 16.0, 4.0 * centimetre);
        // An island that one can fall onto counts.
        Mesh below = yard();
        addBox(below, {10, -5, -2.5}, {15, 5, -2});
        const auto fallen = edgesOf(std::move(below));
        NEAR(along(fallen, EdgeKind::drop, {15, -5, -2}, {15, 5, -2}), 10.0, centimetre);
    }

    void turningALevelRoundTurnsItsEdges()
    {
        const auto level = [](double angle) {
            Mesh mesh = yard();
            addBox(mesh, {-4, -2, 0}, {4, 2, 1.1});
            addBox(mesh, {-10, 6, 0}, {10, 10, 0.12});
            for (Vec3& point : mesh.points) {
                point = {std::cos(angle) * point.x - std::sin(angle) * point.y + 300.0,
                         std::sin(angle) * point.x + std::cos(angle) * point.y - 200.0, point.z + 7.0};
            }
            return mesh;
        };
        const auto straight = edgesOf(level(0.0));
        for (const double angle : {0.3, 1.1, 2.7, 4.0}) {
            const auto turned = edgesOf(level(angle));
            for (const EdgeKind kind : {EdgeKind::drop, EdgeKind::wall, EdgeKind::kerb}) {
                NEAR(metresOf(turned, kind), metresOf(straight, kind), 8.0 * centimetre);
            }
        }
    }

    void whatLiesAheadIsTheNearestOfItsKind()
    {
        Mesh mesh = yard();
        addBox(mesh, {-10, 4, 0}, {10, 4.2, 3}); // a wall to the north
        addBox(mesh, {-10, 4.2, 0}, {10, 10, 0.3});
        const FloorEdges edges(edgesOf(std::move(mesh)));
        const auto ahead = [&](const Vec3& feet, double heading_deg, const char* kinds, double aside_deg = 15) {
            EdgeKindSet wanted;
            wanted[static_cast<std::size_t>(EdgeKind::drop)] = std::string(kinds).find('d') != std::string::npos;
            wanted[static_cast<std::size_t>(EdgeKind::wall)] = std::string(kinds).find('w') != std::string::npos;
            return edges.ahead(feet, heading_deg, aside_deg, wanted, 15.0);
        };
        const auto wall = ahead({2, 1, 0}, 0, "dw");
        QVERIFY(wall && wall->kind == EdgeKind::wall);
        NEAR(wall->distance_m, 3.0, centimetre);
        NEAR(wall->at.x, 2.0, centimetre);
        // Turned by 40 degrees the nearest place of the wall is at the border of what is ahead.
        const auto slanting = ahead({2, 1, 0}, 40, "dw");
        NEAR(slanting->distance_m, 3.0 / std::cos(radians(25.0)), centimetre);
        const auto drop = ahead({2, 1, 0}, 180, "dw");
        QVERIFY(drop && drop->kind == EdgeKind::drop);
        NEAR(drop->distance_m, 11.0, centimetre);
        QVERIFY(std::isinf(drop->by_m));
        // The drop beyond the wall does not count, nor what is too far, nor what is behind.
        QVERIFY(!ahead({2, 1, 0}, 0, "d"));
        QVERIFY(!ahead({-9, 0, 0}, 90, "dw"));
        QVERIFY(ahead({-4, 0, 0}, 90, "dw"));
    }

    void onAnUpperFloorWhatIsBelowDoesNotCount()
    {
        Mesh mesh = yard();
        addBox(mesh, {-10, -10, 0}, {10, -9, 3}); // walls on the ground
        addBox(mesh, {-10, 9, 0}, {10, 10, 3});
        addBox(mesh, {-5, -5, 3.8}, {5, 5, 4});
        const FloorEdges edges(edgesOf(std::move(mesh), {}, Vec3{0, 0, 4}));
        EdgeKindSet walls;
        walls.set(static_cast<std::size_t>(EdgeKind::wall));
        EdgeKindSet all;
        all.set();
        QVERIFY(!edges.ahead({0, -3, 4}, 180, 15, walls, 20));
        const auto drop = edges.ahead({0, -3, 4}, 180, 15, all, 20);
        QVERIFY(drop && drop->kind == EdgeKind::drop);
        NEAR(drop->distance_m, 2.0, centimetre);
        NEAR(edges.ahead({0, -3, 0}, 180, 15, all, 20)->distance_m, 6.0, centimetre);
    }

    void aheadIsWhatAPlainSearchFinds()
    {
        Mesh mesh = yard();
        addBox(mesh, {-3, -2, 0}, {1, 2, 1.1});
        addBox(mesh, {4, 3, 0}, {6, 4, 2});
        const auto found = edgesOf(std::move(mesh), {}, Vec3{0, 0, 1.1});
        const FloorEdges edges(found);
        int compared = 0;
        for (int i = 0; i < 500; ++i) {
            const Vec3 feet{-9.0 + 18.0 * ((i * 37) % 101) / 100.0, -9.0 + 18.0 * ((i * 53) % 97) / 96.0, 0.0};
            const bool within = (feet.x > -3.1 && feet.x < 1.1 && std::abs(feet.y) < 2.1) ||
                                (feet.x > 3.9 && feet.x < 6.1 && feet.y > 2.9 && feet.y < 4.1);
            if (within) {
                continue;
            }
            const double heading_deg = i * 71.0;
            EdgeKindSet walls;
            walls.set(static_cast<std::size_t>(EdgeKind::wall));
            const auto ahead = edges.ahead(feet, heading_deg, 15.0, walls, 30.0);
            // Not looking as far finds the same, or nothing.
            constexpr double near_m = 3.0;
            const auto close = edges.ahead(feet, heading_deg, 15.0, walls, near_m);
            QCOMPARE(close.has_value(), ahead && ahead->distance_m <= near_m);
            QVERIFY(!close || close->distance_m == ahead->distance_m);
            // Every centimetre of every wall of the floor; what only just comes into view, or does not, is left out.
            const auto nearest = [&](double aside_deg) {
                double nearest_m = 1e9;
                for (const FloorEdge& edge : found) {
                    for (std::size_t p = 0; edge.kind == EdgeKind::wall && p < edge.points.size(); ++p) {
                        const Vec3& a = edge.points[p];
                        const Vec3& b = edge.points[(p + 1) % edge.points.size()];
                        const Vec2 way = Vec2(b - a);
                        if (way.x * (feet.y - a.y) - way.y * (feet.x - a.x) < 0.0) {
                            continue;
                        }
                        for (double share = 0.0; share <= 1.0; share += centimetre / glm::length(way)) {
                            const Vec2 off = Vec2(a) + share * way - Vec2(feet);
                            const double turned = std::remainder(degrees(std::atan2(off.x, off.y)) - heading_deg, 360.0);
                            nearest_m = std::abs(turned) <= aside_deg ? std::min(nearest_m, glm::length(off)) : nearest_m;
                        }
                    }
                }
                return nearest_m;
            };
            const double least_m = nearest(15.2);
            const double most_m = nearest(14.8);
            if (most_m - least_m > 0.3) {
                continue;
            }
            ++compared;
            QCOMPARE(ahead.has_value(), most_m < 1e8);
            QVERIFY(!ahead ||
                    (ahead->distance_m > least_m - 2.0 * centimetre && ahead->distance_m < most_m + 2.0 * centimetre));
        }
        QVERIFY(compared > 300);
    }

    void stoppedItFindsNothing()
    {
        const std::atomic<bool> stop = true;
        QVERIFY(findFloorEdges(*fixture::groundOf(yard()), {}, {}, &stop).empty());
        QVERIFY(edgesOf(meshOf()).empty());
    }
};

} // namespace tst_edges

STONE_TEST(tst_edges, TestEdges)
#include "tst_edges.moc"
