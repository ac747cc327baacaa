#include "level/floor_edges.h"
#include "support/boxes.h"

#include <QTest>

#include <algorithm>
#include <cmath>

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
            const bool onIt = glm::length(glm::cross(a - from, way)) < centimetre && glm::length(glm::cross(b - from, way)) < centimetre;
            if (onIt && glm::dot(b - a, way) > 0.0) {
                length_m += std::max(0.0, std::min(glm::dot(b - from, way), glm::length(to - from)) -
                                              std::max(glm::dot(a - from, way), 0.0));
            }
        }
    }
    return length_m;
}

#define NEAR(value, wanted, within)                                                                                                \
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
        const auto drops = edgesOf(std::move(again), careful);
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
        QCOMPARE(along(edges, EdgeKind::drop, {-10, 0, 0}, {0, 0, 0}) + along(edges, EdgeKind::wall, {-10, 0, 0}, {0, 0, 0}), 0.0);
        NEAR(along(edges, EdgeKind::wall, {10, foot, 0}, {0, foot, 0}), 10.0, centimetre);
        // Two metres down, over more than a stride of slope: it is still a drop.
        NEAR(along(edges, EdgeKind::drop, {0, 8, 2}, {10, 8, 2}), 10.0, centimetre);
        // Beside the ramp one steps down as long as it is low, and falls further up.
        NEAR(along(edges, EdgeKind::kerb, {0, 0, 0}, {0, 2, 0.5}), 1.8, 2.0 * centimetre);
        NEAR(along(edges, EdgeKind::drop, {0, 2, 0.5}, {0, 8, 2}), 5.66, 10.0 * centimetre);
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
        NEAR(along(edges, EdgeKind::wall, {6, -6, 0}, {-6, -6, 0}) + along(edges, EdgeKind::wall, {-6, -6, 0}, {6, -6, 0}), 12.0,
             centimetre);
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

    void stoppedItFindsNothing()
    {
        const std::atomic<bool> stop = true;
        QVERIFY(findFloorEdges(*fixture::groundOf(yard()), {}, {}, &stop).empty());
        QVERIFY(edgesOf(meshOf()).empty());
    }
};

QTEST_APPLESS_MAIN(TestEdges)
#include "tst_edges.moc"
