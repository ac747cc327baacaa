// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/plant_findings.h"
#include "analysis/run_findings.h"
#include "project/edit.h"
#include "support/boxes.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"
#include "world/planting.h"

#include <QTest>

namespace tst_plant_findings
{

using namespace stone;

namespace
{

Project rowOf(const std::function<void(Plant&)>& change = {})
{
    Project project = fixture::projectWith({}, true);
    Pattern pattern;
    pattern.id = {"lamp"};
    pattern.name = "Lamp";
    pattern.settings = fixture::pointAt("x", {0, 0, 0});
    project.patterns.put(pattern);
    return withLevel(std::move(project), project.levels[0]->id, [&](Level& level) {
        Plant plant;
        plant.id = {"row"};
        plant.name = "Row";
        plant.pattern = {"lamp"};
        plant.shape = Ribbon{{{0, 0, 0}, {20, 0, 0}}, 0.0, false};
        if (change) {
            change(plant);
        }
        level.plants.append(plant);
    });
}

std::vector<Finding> foundIn(const Project& project)
{
    std::vector<Finding> found;
    findInPlants(*plant(std::make_shared<const Project>(project), project.levels[0]->id, nullptr, Ways::find), found);
    return found;
}

std::string codes(const std::vector<Finding>& found)
{
    std::string all;
    for (const Finding& finding : found) {
        all += finding.code + ' ';
    }
    return all;
}

/// A ledge of two metres' width that ends in drops on both sides and, in the east, at a wall.
std::shared_ptr<const Ground> ledge()
{
    Mesh mesh;
    mesh.materials = {"stone"};
    fixture::addBox(mesh, {-1, -1, -3}, {20, 1, 0});
    fixture::addBox(mesh, {20, -1, -3}, {21, 1, 3});
    fixture::addBox(mesh, {-30, -30, -3.2}, {50, 30, -3});
    return fixture::groundOf(std::move(mesh));
}

/// Along one side of the ledge, half a metre from its edge.
Project runAlong(double aside_m)
{
    return withLevel(fixture::projectWith({}, true), LevelId{"level"}, [&](Level& level) {
        Zone zone;
        zone.id = {"goal"};
        zone.at = {18, 0, 0};
        level.zones.append(zone);
        Walk walk;
        walk.id = {"w"};
        walk.name = "Ledge";
        walk.points.resize(2);
        walk.points[0].at = {0, aside_m, 0};
        walk.points[1].at = {16, aside_m, 0};
        walk.points[1].t_s = 10.0;
        walk.run.goal = {"goal"};
        level.walks.append(walk);
        level.character.start = {0, 0, 0};
    });
}

std::vector<Finding> foundOnRun(const Project& project)
{
    const Level& level = *project.levels[0];
    const auto edges = ledge()->edges(level.edges, level.character.start);
    std::vector<Finding> found;
    findInRuns(level, edges.get(), found);
    return found;
}

} // namespace

/// Slips of plant rules, and of runs for those who do not see.
class TestPlantFindings : public QObject
{
    Q_OBJECT

private slots:
    void rulesThatPlantNothingOrTooMuch()
    {
        QCOMPARE(codes(foundIn(rowOf())), std::string());
        QCOMPARE(codes(foundIn(rowOf([](Plant& p) { p.on = false; }))), std::string());
        QCOMPARE(codes(foundIn(rowOf([](Plant& p) { p.pattern = {"gone"}; }))), std::string("plant-nothing "));
        QCOMPARE(codes(foundIn(rowOf([](Plant& p) { p.where = Plant::Where::edges; }))), std::string("plant-nothing "));
        QCOMPARE(codes(foundIn(rowOf([](Plant& p) { p.lowest_m = 5.0; }))), std::string("plant-nothing "));
        const auto many = foundIn(rowOf([](Plant& p) {
            p.every_m = 0.05;
            p.shape = Ribbon{{{0, 0, 0}, {3000, 0, 0}}, 0.0, false};
            p.apart_m = 0.0;
        }));
        QCOMPARE(codes(many), std::string("plant-too-many "));
        QVERIFY(many[0].what.find("20000") != std::string::npos);
    }

    void exceptionsOfNobodyAreForgottenByARemedy()
    {
        const Project project = rowOf([](Plant& p) {
            p.exceptions.push_back({"5.00,0.00,0.00", {5, 0, 0}, true, {}, {}});
            p.exceptions.push_back({"99.00,0.00,0.00", {99, 0, 0}, false, -3.0, {}});
        });
        const auto found = foundIn(project);
        QCOMPARE(codes(found), std::string("plant-exceptions "));
        const Project forgotten = found[0].remedies[0].apply(project);
        QCOMPARE(forgotten.levels[0]->plants[0]->exceptions.size(), std::size_t{1});
        QCOMPARE(codes(foundIn(forgotten)), std::string());
    }

    void anEdgeWithinAStrideIsToldOfByAPulseOrBySoundsAlongIt()
    {
        const Project silent = runAlong(0.5);
        const auto found = foundOnRun(silent);
        QCOMPARE(codes(found), std::string("run-edge-silent "));
        QVERIFY(found[0].what.find("16") != std::string::npos);    // all of the way
        QCOMPARE(codes(foundOnRun(runAlong(0.0))), std::string()); // in the middle both edges are a metre off
        const auto with = [&](const std::function<void(Emitter&)>& change) {
            return withLevel(silent, LevelId{"level"}, [&](Level& level) {
                Emitter emitter = fixture::pointAt("e", {0, 0, 0});
                emitter.kind = EmitterKind::pulse;
                change(emitter);
                level.emitters.append(emitter);
            });
        };
        QCOMPARE(codes(foundOnRun(with([](Emitter&) {}))), std::string());
        QCOMPARE(codes(foundOnRun(with([](Emitter& e) { e.pulsing.drops = false; }))), std::string("run-edge-silent "));
        QCOMPARE(codes(foundOnRun(with([](Emitter& e) { e.muted = true; }))), std::string("run-edge-silent "));
        // Planted along the edge, as far apart as a stride or two.
        Project planted = withLevel(silent, LevelId{"level"}, [](Level& level) {
            for (int i = 0; i < 9; ++i) {
                level.emitters.append(fixture::pointAt("drip" + std::to_string(i), {2.0 * i, 1.2, -0.3}));
            }
        });
        QCOMPARE(codes(foundOnRun(planted)), std::string());
    }

    void zonesThatAreGone()
    {
        Project project = withLevel(runAlong(0.0), LevelId{"level"}, [](Level& level) {
            Walk walk = *level.walks[0];
            walk.run.pits = {{"hole"}};
            level.walks.put(walk);
        });
        const auto found = foundOnRun(project);
        QCOMPARE(codes(found), std::string("run-zone-gone "));
        QVERIFY(found[0].what.find("hole") != std::string::npos);
    }
};

} // namespace tst_plant_findings

STONE_TEST(tst_plant_findings, TestPlantFindings)
#include "tst_plant_findings.moc"
