// SPDX-License-Identifier: GPL-3.0-or-later
#include "level/finds.h"
#include "level/floor_edges.h"
#include "support/boxes.h"
#include "support/one_of_many.h"

#include <QElapsedTimer>
#include <QTest>

#include <cmath>
#include <random>

namespace tst_finds
{

using namespace stone;

namespace
{

/// A floor with a block on it, and a hole beside it.
Mesh yard()
{
    Mesh mesh;
    mesh.materials = {"stone"};
    fixture::addBox(mesh, {-10.0, -10.0, -1.0}, {10.0, 10.0, 0.0});
    fixture::addBox(mesh, {2.0, 2.0, 0.0}, {4.0, 6.0, 2.0});
    fixture::addBox(mesh, {-6.0, -6.0, 0.0}, {-4.0, -4.0, 0.2});
    return mesh;
}

const EdgeRules rules{.step_m = 0.5, .kerb_m = 0.05, .stride_m = 0.8, .water = {"water", "mud"}};
const Vec3 stands{0.0, 0.0, 0.0};

} // namespace

/// What was found on a level's geometry is kept, and given to the same geometry again.
class TestFinds : public QObject
{
    Q_OBJECT

private slots:
    void whatWasFoundIsThereAgain()
    {
        const auto first = fixture::groundOf(yard());
        const auto edges = first->edges(rules, stands);
        QVERIFY(edges->all().size() > 2);
        const auto way = first->way({0.0, 4.0, 0.0}, {6.0, 4.0, 0.0});
        QVERIFY(way.size() > 2); // round the block
        const auto second = fixture::groundOf(yard());
        QVERIFY(second->foundEdges(rules, stands) == nullptr);
        QVERIFY(giveFinds(*second, findsOf(*first)));
        const auto again = second->foundEdges(rules, stands);
        QVERIFY(again != nullptr && again->all() == edges->all());
        QVERIFY(second->foundWay({0.0, 4.0, 0.0}, {6.0, 4.0, 0.0}) == way);
        QVERIFY(findsOf(*second) == findsOf(*first));
        // By other rules, or for somebody who stands elsewhere, they are others.
        QVERIFY(second->foundEdges({.step_m = 0.1, .kerb_m = 0.05, .stride_m = 0.8, .water = {}}, stands) == nullptr);
        QVERIFY(second->foundEdges(rules, {1.0, 0.0, 0.0}) == nullptr);
        // Of nothing that was found nothing is given.
        QVERIFY(giveFinds(*second, findsOf(*fixture::groundOf(yard()))));
        QVERIFY(second->foundEdges(rules, stands) != nullptr);
    }

    void otherGeometryTakesNothing()
    {
        const auto first = fixture::groundOf(yard());
        first->edges(rules, stands);
        Mesh more = yard();
        fixture::addBox(more, {7.0, 7.0, 0.0}, {8.0, 8.0, 1.0});
        const auto other = fixture::groundOf(std::move(more));
        QVERIFY(!giveFinds(*other, findsOf(*first)));
        QVERIFY(other->foundEdges(rules, stands) == nullptr);
        QVERIFY(!giveFinds(*other, {}));
        QVERIFY(!giveFinds(*other, "Stone Echo finds 1\n"));
    }

    /// Whatever the bytes are: all of it or nothing, and no number that is none.
    void damagedTheyAreLeft()
    {
        const auto first = fixture::groundOf(yard());
        first->edges(rules, stands);
        first->way({0.0, 4.0, 0.0}, {6.0, 4.0, 0.0});
        const std::string good = findsOf(*first);
        for (std::size_t size = 0; size < good.size(); size += 7) {
            const auto ground = fixture::groundOf(yard());
            QVERIFY(!giveFinds(*ground, good.substr(0, size)));
            QVERIFY(ground->foundEdges(rules, stands) == nullptr && ground->foundWays().empty());
        }
        QVERIFY(!giveFinds(*fixture::groundOf(yard()), good + 'x'));
        std::mt19937 chance(11);
        const auto ground = fixture::groundOf(yard());
        int taken = 0;
        for (int i = 0; i < 5000; ++i) {
            std::string bad = good;
            const std::size_t at = chance() % bad.size();
            bad[at] = static_cast<char>(chance());
            if (i % 3 == 0) {
                bad.replace(chance() % bad.size(), 4, "\xff\xff\xff\xff", 4); // counts beyond all bounds
            }
            taken += giveFinds(*ground, bad) ? 1 : 0;
            if (const FoundEdges found = ground->foundEdges(); found.edges) {
                for (const FloorEdge& edge : found.edges->all()) {
                    QVERIFY(static_cast<std::size_t>(edge.kind) < edgeKindCount && edge.points.size() >= 2);
                    QVERIFY(edge.material <= ground->mesh().materials.size());
                    for (const Vec3& point : edge.points) {
                        QVERIFY(std::isfinite(point.x) && std::isfinite(point.y) && std::isfinite(point.z));
                    }
                }
            }
        }
        QVERIFY(taken < 5000); // another coordinate is not seen to be damage; the pack's hash is for that
    }
};

} // namespace tst_finds

STONE_TEST(tst_finds, TestFinds)
#include "tst_finds.moc"
