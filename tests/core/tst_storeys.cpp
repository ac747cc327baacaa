// SPDX-License-Identifier: GPL-3.0-or-later
#include "level/find_storeys.h"

#include "level/mesh_import.h"
#include "support/one_of_many.h"

#include <QTest>

#include <algorithm>
#include <cmath>

namespace tst_storeys
{

using namespace stone;

namespace
{

/// A level slab with a top and a bottom.
void addSlab(Mesh& mesh, const Vec2& low, const Vec2& high, double top_m, double thick_m)
{
    const auto first = static_cast<std::uint32_t>(mesh.points.size());
    for (const double z : {top_m, top_m - thick_m}) {
        mesh.points.insert(mesh.points.end(), {{low.x, low.y, z}, {high.x, low.y, z}, {high.x, high.y, z}, {low.x, high.y, z}});
    }
    mesh.triangles.push_back({{first, first + 1, first + 2}});
    mesh.triangles.push_back({{first, first + 2, first + 3}});
    mesh.triangles.push_back({{first + 4, first + 6, first + 5}});
    mesh.triangles.push_back({{first + 4, first + 7, first + 6}});
}

} // namespace

/// Storeys are heights at which much of a level can be stood on.
class TestStoreys : public QObject
{
    Q_OBJECT

private slots:
    void floorsAreFoundToTheCentimetre()
    {
        Mesh mesh;
        addSlab(mesh, {-20, -20}, {20, 20}, 0.0, 0.3);
        addSlab(mesh, {-10, -10}, {10, 10}, 3.2, 0.3);
        addSlab(mesh, {-20, -5}, {20, 5}, -4.0, 0.3);  // under the ground, and no way to it
        addSlab(mesh, {0, 0}, {2, 2}, 0.8, 0.1);       // a table
        addSlab(mesh, {-10, -10}, {10, 10}, 6.4, 0.3); // a roof
        addSlab(mesh, {-20, 5}, {20, 9}, 0.15, 1);     // a kerb
        const std::vector<Storey> storeys = findStoreys(mesh);
        QCOMPARE(storeys.size(), 3U);
        const double floors[] = {3.2, 0.0, -4.0};
        const char* names[] = {"Storey 1", "Ground", "Below 1"};
        for (std::size_t i = 0; i < 3; ++i) {
            QVERIFY2(std::abs(storeys[i].floor_m - floors[i]) < 0.011, qPrintable(QString::number(storeys[i].floor_m)));
            QCOMPARE(storeys[i].name, std::string(names[i]));
            QVERIFY(std::abs(storeys[i].cut_m - storeys[i].floor_m - 1.5) < 1e-9);
        }
    }

    void wallsAndCeilingsAreNone()
    {
        Mesh mesh;
        mesh.points = {{0, 0, 0}, {0, 50, 0}, {0, 50, 50}, {0, 0, 50}};
        mesh.triangles = {{{0, 1, 2}}, {{0, 2, 3}}};
        QVERIFY(findStoreys(mesh).empty());
        QVERIFY(findStoreys({}).empty());
        mesh.points = {{0, 0, 3}, {0, 9, 3}, {9, 9, 3}};
        mesh.triangles = {{{0, 1, 2}}}; // faces down
        QVERIFY(findStoreys(mesh).empty());
    }

    /// A gallery without a roof counts where stairs lead to it; what stands alone in the open does not.
    void whatCanBeWalkedToCounts()
    {
        for (const bool stairs : {true, false}) {
            Mesh mesh;
            addSlab(mesh, {-20, -20}, {20, 20}, 0.0, 0.3);
            addSlab(mesh, {10, -20}, {20, 20}, 3.0, 0.3);
            for (int step = 1; stairs && step < 15; ++step) {
                addSlab(mesh, {3.0 + 0.5 * step, 0}, {3.5 + 0.5 * step, 3}, 0.2 * step, 0.2);
            }
            QCOMPARE(findStoreys(mesh).size(), stairs ? 2U : 1U);
        }
    }

    void theUnitCounts()
    {
        Mesh mesh;
        addSlab(mesh, {-2000, -2000}, {2000, 2000}, 0.0, 30);
        addSlab(mesh, {-1000, -1000}, {1000, 1000}, 320.0, 30);
        addSlab(mesh, {-1000, -1000}, {1000, 1000}, 640.0, 30);
        const std::vector<Storey> storeys = findStoreys(mesh, 0.01);
        QCOMPARE(storeys.size(), 2U);
        QVERIFY(std::abs(storeys[0].floor_m - 3.2) < 0.03);
    }

    void thereIsAPlaceToStand()
    {
        Mesh mesh;
        addSlab(mesh, {-20, -20}, {20, 20}, 0.0, 0.3);
        // A wall through the middle.
        const auto first = static_cast<std::uint32_t>(mesh.points.size());
        mesh.points.insert(mesh.points.end(), {{0, -20, 0}, {0, 20, 0}, {0, 20, 3}, {0, -20, 3}});
        mesh.triangles.push_back({{first, first + 1, first + 2}});
        mesh.triangles.push_back({{first, first + 2, first + 3}});
        const auto place = standingPlace(mesh);
        QVERIFY(place.has_value());
        QCOMPARE(place->z, 0.0);
        QVERIFY2(std::abs(place->x) > 0.5 && std::abs(place->x) < 2.1, qPrintable(QString::number(place->x)));
        QVERIFY(std::abs(place->y) < 1.1);
        QVERIFY(!standingPlace({}));
    }

    void theDemosStoreysAreFound()
    {
        const Mesh mesh = importMesh(std::string(DEMO) + "/level/vellmoor-halt.glb", {});
        const std::vector<Storey> storeys = findStoreys(mesh);
        QVERIFY(storeys.size() >= 3);
        for (const double floor : {6.0, 0.0, -4.0}) {
            const bool found = std::any_of(storeys.begin(), storeys.end(),
                                           [&](const Storey& s) { return std::abs(s.floor_m - floor) < 0.25; });
            QVERIFY2(found, qPrintable(QString::number(floor)));
        }
    }
};

} // namespace tst_storeys

STONE_TEST(tst_storeys, TestStoreys)
#include "tst_storeys.moc"
