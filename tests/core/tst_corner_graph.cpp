// SPDX-License-Identifier: GPL-3.0-or-later
#include "level/corner_graph.h"
#include "level/hurdle.h"
#include "level/obstacles.h"
#include "support/boxes.h"
#include "support/one_of_many.h"

#include <QTest>

#include <bit>
#include <cmath>
#include <memory>
#include <random>
#include <thread>
#include <vector>

namespace tst_corner_graph
{

using namespace stone;

namespace
{

constexpr double height_m = 1.5;
constexpr double detour_m = 25.0;

struct Yard {
    std::shared_ptr<const Ground> ground;
    std::shared_ptr<const Obstacles> obstacles;
    std::unique_ptr<const CornerGraph> graph;

    explicit Yard(Mesh mesh)
    {
        mesh.materials = {"brick"};
        ground = fixture::groundOf(std::move(mesh));
        obstacles = ground->obstacles(0.1);
        graph = std::make_unique<const CornerGraph>(*obstacles, height_m);
    }

    CornerGraph::Spread spread(const Vec2& from) const
    {
        CornerGraph::Spread spread;
        graph->spreadFrom(from, 0.3, *obstacles, spread);
        return spread;
    }
};

Mesh oneBlock()
{
    Mesh mesh;
    fixture::addBox(mesh, {-1.0, -2.0, 0.0}, {1.0, 4.0, 3.0});
    return mesh;
}

Mesh manyBlocks()
{
    Mesh mesh;
    std::mt19937 chance(5);
    std::uniform_real_distribution<double> place(-15.0, 15.0);
    std::uniform_real_distribution<double> size(0.5, 4.0);
    for (int i = 0; i < 25; ++i) {
        const Vec3 low{place(chance), place(chance), 0.0};
        fixture::addBox(mesh, low, low + Vec3{size(chance), size(chance), 3.0});
    }
    return mesh;
}

} // namespace

/// Ways round the corners of a level's walls.
class TestCornerGraph : public QObject
{
    Q_OBJECT

private slots:
    void roundOneBlockTheyAreTautStrings()
    {
        const Yard yard(oneBlock());
        QCOMPARE(yard.graph->size(), 4U);
        const auto spread = yard.spread({-5.0, 0.0});
        const auto ways = yard.graph->waysTo({{5.0, 0.0}}, spread, *yard.obstacles, detour_m);
        QVERIFY(ways.left && ways.right);
        // Corners lie two centimetres off the wall.
        QVERIFY(std::abs(ways.left->length_m - (2.0 * std::hypot(4.0, 4.0) + 2.0)) < 0.1);
        QVERIFY(std::abs(ways.right->length_m - (2.0 * std::hypot(4.0, 2.0) + 2.0)) < 0.1);
        QCOMPARE(yard.graph->bendsOf(*ways.left, spread).size(), 2U);
        // What is longer by more than is asked for is not looked for.
        const auto near = yard.graph->waysTo({{5.0, 0.0}}, spread, *yard.obstacles, 2.0);
        QVERIFY(!near.left && near.right);
    }

    /// From what a place sees the same ways are found, to the bit, wherever one stands.
    void whatAPlaceSeesGivesTheSameWays()
    {
        const Yard yard(manyBlocks());
        QVERIFY(yard.graph->size() > 40);
        std::mt19937 chance(7);
        std::uniform_real_distribution<double> place(-18.0, 18.0);
        int both = 0;
        for (int source = 0; source < 30; ++source) {
            const CornerGraph::End end{{place(chance), place(chance)}, source % 3 == 0 ? 1.5 : 0.2};
            CornerGraph::Seen seen;
            yard.graph->look(end, *yard.obstacles, seen);
            QVERIFY(seen.end == end);
            for (int ears = 0; ears < 40; ++ears) {
                const auto spread = yard.spread({place(chance), place(chance)});
                const double detour = ears % 2 == 0 ? detour_m : 3.0;
                const auto sought = yard.graph->waysTo(end, spread, *yard.obstacles, detour);
                const auto kept = yard.graph->waysTo(seen, spread, detour);
                for (const auto& [a, b] : {std::pair(sought.left, kept.left), std::pair(sought.right, kept.right)}) {
                    QCOMPARE(a.has_value(), b.has_value());
                    QVERIFY(!a || (a->length_m == b->length_m && a->last == b->last));
                }
                both += sought.left && sought.right ? 1 : 0;
            }
        }
        QVERIFY2(both > 300, qPrintable(QString::number(both)));
    }

    /// What corners reach is found when they are seen first and kept: whoever comes first, the shortest way is the same in both
    /// directions, and all threads get the same.
    void waysAreTheSameInBothDirectionsAndForAll()
    {
        const Yard alone(manyBlocks());
        const Yard shared(manyBlocks());
        std::mt19937 chance(11);
        std::uniform_real_distribution<double> place(-18.0, 18.0);
        std::vector<std::pair<Vec2, Vec2>> pairs;
        for (int i = 0; i < 200; ++i) {
            pairs.push_back({{place(chance), place(chance)}, {place(chance), place(chance)}});
        }
        constexpr double nothing = -1.0;
        const auto shortest = [&](const Yard& yard, const Vec2& from, const Vec2& to) {
            const auto ways = yard.graph->waysTo({to, 0.3}, yard.spread(from), *yard.obstacles, detour_m);
            const double left = ways.left ? ways.left->length_m : 1e9;
            const double right = ways.right ? ways.right->length_m : 1e9;
            return ways.left || ways.right ? std::min(left, right) : nothing;
        };
        std::vector<std::vector<double>> found(4, std::vector<double>(pairs.size()));
        std::vector<std::thread> threads;
        for (std::size_t t = 0; t < found.size(); ++t) {
            threads.emplace_back([&, t] {
                for (std::size_t k = 0; k < pairs.size(); ++k) {
                    const std::size_t i = (k + t * pairs.size() / 4) % pairs.size();
                    found[t][i] = shortest(shared, pairs[i].first, pairs[i].second);
                }
            });
        }
        for (std::thread& thread : threads) {
            thread.join();
        }
        int ways = 0;
        for (std::size_t i = 0; i < pairs.size(); ++i) {
            const double there = shortest(alone, pairs[i].first, pairs[i].second);
            for (const auto& of : found) {
                QCOMPARE(of[i], there);
            }
            const double back = shortest(alone, pairs[i].second, pairs[i].first);
            if (there > nothing && back > nothing) {
                QVERIFY2(std::abs(there - back) < 1e-4, qPrintable(QString("%1 and %2").arg(there).arg(back)));
                ++ways;
            }
        }
        QVERIFY2(ways > 120, qPrintable(QString::number(ways)));
    }

    /// Eight rays at once are stopped by what stops each alone.
    void eightRaysAreAsOne()
    {
        const Yard yard(manyBlocks());
        std::mt19937 chance(13);
        std::uniform_real_distribution<double> place(-18.0, 18.0);
        std::uniform_real_distribution<double> up(0.2, 4.0);
        int free = 0;
        for (int round = 0; round < 500; ++round) {
            std::vector<RayScene::Stretch> stretches;
            const Vec3 from{place(chance), place(chance), up(chance)};
            for (int i = 0; i < round % 9; ++i) {
                stretches.push_back({from, {place(chance), place(chance), up(chance)}});
            }
            const unsigned clear = yard.obstacles->clear(stretches);
            QVERIFY(clear >> stretches.size() == 0);
            for (std::size_t i = 0; i < stretches.size(); ++i) {
                QCOMPARE((clear >> i & 1U) != 0, yard.obstacles->clear(stretches[i].from, stretches[i].to));
            }
            free += std::popcount(clear);
        }
        QVERIFY2(free > 200 && free < 1'500, qPrintable(QString::number(free)));
    }

    /// Over walls of unlike heights one after the other: the string over their tops; none where one has no top.
    void overSeveralWallsItIsTheStringOverTheirTops()
    {
        Mesh mesh;
        fixture::addBox(mesh, {-3.0, -20.0, 0.0}, {-2.8, 20.0, 3.0});
        fixture::addBox(mesh, {2.8, -20.0, 0.0}, {3.0, 20.0, 4.0});
        const Yard yard(std::move(mesh));
        const Obstacles::Ray ray{.from = {-8.0, 0.0, 1.5}, .to = {8.0, 0.0, 1.5}};
        std::vector<Obstacles::Crossing> walls;
        yard.obstacles->through(ray, walls);
        QCOMPARE(walls.size(), 2U);
        const Vec3 up{0.0, 0.0, 1.0};
        const auto past = wayPast(*yard.obstacles, ray, walls, up, 12.0);
        QVERIFY(past);
        const double string = std::hypot(8.0 - 3.0, 1.5) + std::hypot(3.0 + 2.8, 1.0) + 0.2 + std::hypot(8.0 - 3.0, 2.5);
        QVERIFY2(std::abs(past->length_m - string) < 0.12, qPrintable(QString("%1 %2").arg(past->length_m).arg(string)));
        QVERIFY(!wayPast(*yard.obstacles, ray, walls, up, 2.0)); // the second one is higher than that
        Mesh more;
        fixture::addBox(more, {-3.0, -20.0, 0.0}, {-2.8, 20.0, 3.0});
        fixture::addBox(more, {2.8, -20.0, 0.0}, {3.0, 20.0, 40.0});
        const Yard tall(std::move(more));
        QVERIFY(!wayPast(*tall.obstacles, ray, walls, up, 12.0));
    }
};

} // namespace tst_corner_graph

STONE_TEST(tst_corner_graph, TestCornerGraph)
#include "tst_corner_graph.moc"
