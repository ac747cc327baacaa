// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/read.h"
#include "project/write.h"
#include "support/boxes.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"
#include "support/random_project.h"
#include "world/planting.h"

#include <QTest>

#include <algorithm>
#include <cmath>
#include <numeric>
#include <set>

namespace tst_plant
{

using namespace stone;

namespace
{

/// A platform of 20 by 10 m whose top is at 0 and that ends in drops all round, over ground at -2 m.
std::shared_ptr<const Ground> platform()
{
    Mesh mesh;
    mesh.materials = {"stone", "gravel"};
    fixture::addBox(mesh, {0, 0, -2}, {20, 10, 0}, 0);
    fixture::addBox(mesh, {-40, -40, -2.2}, {60, 50, -2}, 1);
    mesh.nodes = {{"lamp_a", {3, 3, 2}, 0, 0, 90.0}, {"bench", {5, 5, 0}, 0, 0}, {"lamp_b", {9, 3, 2}, 0, 0, -90.0}};
    return fixture::groundOf(std::move(mesh));
}

/// A project with a pattern of a Point and no emitters.
Project gardenWith(std::vector<Plant> plants)
{
    Project project = fixture::projectWith({}, true);
    Pattern pattern;
    pattern.id = {"lamp"};
    pattern.name = "Lamp";
    static_cast<EmitterSettings&>(pattern.settings) = fixture::pointAt("x", {0, 0, 0});
    pattern.settings.level_db = -6.0;
    project.patterns.put(pattern);
    return withLevel(std::move(project), project.levels[0]->id, [&](Level& level) {
        level.character.start = {10, 5, 0};
        for (Plant& plant : plants) {
            plant.id = level.plants.freshId(plant.name);
            plant.pattern = {"lamp"};
            level.plants.append(plant);
        }
    });
}

Plant rule(Plant::Where where)
{
    Plant plant;
    plant.name = "Row";
    plant.where = where;
    plant.apart_m = 0.0;
    return plant;
}

Plant alongLine(std::vector<Vec3> points, double every_m)
{
    Plant plant = rule(Plant::Where::line);
    plant.shape = Ribbon{std::move(points), 0.0, false};
    plant.every_m = every_m;
    return plant;
}

std::shared_ptr<const Planted> planted(const Project& project, const std::shared_ptr<const Ground>& ground = {},
                                       const Planted* before = nullptr)
{
    return plant(std::make_shared<const Project>(project), project.levels[0]->id, ground, Ways::find, before);
}

std::vector<Vec3> placesOf(const Planted& planted)
{
    std::vector<Vec3> places;
    for (const PlantedRule& rule : planted.rules) {
        for (const auto& copy : rule.copies) {
            places.push_back(copy->at);
        }
    }
    return places;
}

std::set<std::string> idsOf(const Planted& planted)
{
    std::set<std::string> ids;
    for (const PlantedRule& rule : planted.rules) {
        for (const auto& copy : rule.copies) {
            ids.insert(copy->id.text);
        }
    }
    return ids;
}

Project changed(const Project& project, const std::function<void(Plant&)>& change)
{
    return withLevel(project, project.levels[0]->id, [&](Level& level) {
        Plant plant = *level.plants[0];
        change(plant);
        level.plants.put(plant);
    });
}

bool near(const Vec3& a, const Vec3& b, double within = 1e-6)
{
    return glm::distance(a, b) < within;
}

} // namespace

class TestPlant : public QObject
{
    Q_OBJECT

private slots:
    void everySoFarAlongALine()
    {
        // 25 m round a corner: one at each end of what divides, the rest in equal parts beyond.
        const Project project = gardenWith({alongLine({{0, 0, 1}, {10, 0, 1}, {10, 15, 1}}, 6.0)});
        const auto there = planted(project);
        const auto places = placesOf(*there);
        const std::vector<Vec3> expected{{0.5, 0, 1}, {6.5, 0, 1}, {10, 2.5, 1}, {10, 8.5, 1}, {10, 14.5, 1}};
        QCOMPARE(places.size(), expected.size());
        for (std::size_t i = 0; i < places.size(); ++i) {
            QVERIFY2(near(places[i], expected[i]), std::to_string(i).c_str());
        }
        const auto& copies = there->rules[0].copies;
        QCOMPARE(copies[0]->heading_deg, 90.0);
        QCOMPARE(copies[4]->heading_deg, 0.0);
        QCOMPARE(copies[4]->name, std::string("Row 5"));
        QCOMPARE(copies[4]->level_db, -6.0);
    }

    void oneThatIsShortGetsOneInTheMiddleAndAClosedOneComesOutEven()
    {
        const auto one = placesOf(*planted(gardenWith({alongLine({{0, 0, 0}, {4, 0, 0}}, 6.0)})));
        QCOMPARE(one.size(), std::size_t{1});
        QVERIFY(near(one[0], {2, 0, 0}));
        Plant ring = alongLine({{0, 0, 0}, {10, 0, 0}, {10, 10, 0}, {0, 10, 0}}, 7.0);
        std::get<Ribbon>(ring.shape).closed = true;
        const auto round = placesOf(*planted(gardenWith({ring})));
        QCOMPARE(round.size(), std::size_t{6}); // 40 / 7 is nearest to 6
        QVERIFY(near(round[1], {40.0 / 6.0, 0, 0}));
        QVERIFY(near(round[3], {10, 10, 0}));
    }

    void standsAsideAheadAndAboveAndTurns()
    {
        Plant plant = alongLine({{0, 0, 0}, {0, 10, 0}}, 10.0);
        plant.at = {100, 0, 0};
        plant.heading_deg = 90.0; // the line goes east now
        plant.offset = {1, 2, 3};
        plant.turn_deg = 90.0;
        plant.tilt_deg = -30.0;
        const auto there = planted(gardenWith({plant}));
        const Emitter& first = *there->rules[0].copies[0];
        QVERIFY(near(first.at, {102, -1, 3}));
        QCOMPARE(first.heading_deg, -180.0);
        QCOMPARE(first.tilt_deg, -30.0);
        plant.turns = false;
        QCOMPARE(planted(gardenWith({plant}))->rules[0].copies[0]->heading_deg, 90.0);
    }

    void alongTheEdgesOfTheFloor()
    {
        Plant plant = rule(Plant::Where::edges);
        plant.every_m = 1.0;
        plant.surface = "stone";
        plant.offset = {0.5, 0, 0};
        const auto there = planted(gardenWith({plant}), platform());
        const PlantedRule& row = there->rules[0];
        QCOMPARE(row.copies.size(), std::size_t{60}); // all round the platform
        for (std::size_t i = 0; i < row.copies.size(); ++i) {
            const Vec3& on = row.places[i].at;
            QVERIFY(std::abs(std::min({on.x, 20 - on.x, on.y, 10 - on.y})) < 0.01);
            const Vec3& at = row.copies[i]->at; // half a metre beyond the edge
            QVERIFY2(at.x < -0.4 || at.x > 20.4 || at.y < -0.4 || at.y > 10.4, row.places[i].key.c_str());
        }
        plant.edges = {false, true};
        QCOMPARE(planted(gardenWith({plant}), platform())->rules[0].copies.size(), std::size_t{0});
        // There are walls for who stands below.
        plant.surface.clear();
        QVERIFY(planted(gardenWith({plant}), nullptr)->rules[0].trouble == PlantTrouble::noGeometry);
    }

    void atCorners()
    {
        Plant plant = rule(Plant::Where::corners);
        plant.surface = "stone";
        const auto there = planted(gardenWith({plant}), platform());
        auto places = placesOf(*there);
        QCOMPARE(places.size(), std::size_t{4});
        for (const Vec3& corner : {Vec3{0, 0, 0}, Vec3{20, 0, 0}, Vec3{20, 10, 0}, Vec3{0, 10, 0}}) {
            QVERIFY(std::any_of(places.begin(), places.end(), [&](const Vec3& p) { return near(p, corner, 0.02); }));
        }
        for (const auto& copy : there->rules[0].copies) {
            QVERIFY(std::abs(std::abs(std::fmod(std::abs(copy->heading_deg), 90.0)) - 45.0) < 0.5);
        }
        plant.bend_deg = 91.0;
        QVERIFY(placesOf(*planted(gardenWith({plant}), platform())).empty());
    }

    void atNamedNodesThatKeepTheirCopiesWhereverTheyGo()
    {
        Plant plant = rule(Plant::Where::nodes);
        plant.names = "lamp_?";
        const Project project = gardenWith({plant});
        const auto there = planted(project, platform());
        QCOMPARE(idsOf(*there), (std::set<std::string>{"row@lamp_a", "row@lamp_b"}));
        QCOMPARE(there->rules[0].copies[0]->heading_deg, 90.0);
        Mesh moved = platform()->mesh();
        moved.nodes[0].at = {15, 8, 1};
        const auto after = planted(project, fixture::groundOf(std::move(moved)));
        QCOMPARE(idsOf(*after), idsOf(*there));
        QVERIFY(near(after->rules[0].copies[0]->at, {15, 8, 1}));
    }

    void twoNodesOfOneNameAreTwo()
    {
        Mesh mesh = platform()->mesh();
        mesh.nodes[2].name = "lamp_a";
        Plant plant = rule(Plant::Where::nodes);
        plant.names = "lamp*";
        QCOMPARE(idsOf(*planted(gardenWith({plant}), fixture::groundOf(std::move(mesh)))),
                 (std::set<std::string>{"row@lamp_a", "row@lamp_a#2"}));
    }

    void inOpeningsAndAlongARoute()
    {
        Project project = gardenWith({rule(Plant::Where::openings), rule(Plant::Where::route)});
        project = withLevel(std::move(project), project.levels[0]->id, [](Level& level) {
            Opening door;
            door.id = {"door"};
            door.name = "Door";
            door.from = {2, 0};
            door.to = {4, 0};
            door.sill_m = 1.0;
            level.openings.append(door);
            Emitter cart = fixture::pointAt("cart", {0, 0, 0});
            cart.kind = EmitterKind::roamer;
            cart.roaming.stops.resize(2);
            cart.roaming.stops[1].at = {0, 20, 0};
            level.emitters.append(cart);
        });
        QVERIFY(planted(project)->rules[1].trouble == PlantTrouble::noRoamer);
        project = withLevel(std::move(project), project.levels[0]->id, [](Level& level) {
            Plant route = *level.plants[1];
            route.roamer = {"cart"};
            level.plants.put(route);
        });
        const auto there = planted(project);
        QCOMPARE(there->rules[0].copies.size(), std::size_t{1});
        QVERIFY(near(there->rules[0].copies[0]->at, {3, 0, 1}));
        QCOMPARE(there->rules[0].copies[0]->heading_deg, 90.0);
        QVERIFY(there->rules[1].copies.size() >= 5);
        for (const auto& copy : there->rules[1].copies) {
            QVERIFY(std::abs(copy->at.x) < 1e-6);
        }
        QCOMPARE(there->copyAt(1)->rule, std::size_t{0});
        QCOMPARE(there->copyAt(2)->rule, std::size_t{1});
        QVERIFY(!there->copyAt(0));
    }

    void strewsWithALeastDistanceAndWithoutHoles()
    {
        Plant plant = rule(Plant::Where::shape);
        plant.shape = Prism{{{0, 0}, {40, 0}, {40, 30}, {0, 30}}, 3.0};
        plant.apart_m = 2.0;
        const auto places = placesOf(*planted(gardenWith({plant})));
        for (std::size_t i = 0; i < places.size(); ++i) {
            for (std::size_t k = i + 1; k < places.size(); ++k) {
                QVERIFY(glm::distance(places[i], places[k]) >= 2.0);
            }
        }
        // Discs of that width that come at random until none fits cover 0.547 of a plane (M. Tanemura, Ann. Inst. Statist.
        // Math. 31, 1979).
        const double jammed = 0.547 * 40.0 * 30.0 / (std::numbers::pi * 1.0);
        QVERIFY2(static_cast<double>(places.size()) > 0.85 * jammed && static_cast<double>(places.size()) < 1.15 * jammed,
                 std::to_string(places.size()).c_str());
    }

    void aBorderThatMovesChangesWhatIsNearItAlone()
    {
        Plant plant = rule(Plant::Where::shape);
        plant.shape = Prism{{{0, 0}, {60, 0}, {60, 30}, {0, 30}}, 3.0};
        plant.apart_m = 2.0;
        const Project project = gardenWith({plant});
        const auto before = idsOf(*planted(project));
        const auto after = idsOf(*planted(changed(project, [](Plant& p) {
            std::get<Prism>(p.shape).corners = {{0, 0}, {50, 0}, {60, 30}, {0, 30}};
        })));
        std::size_t kept = 0;
        for (const std::string& id : before) {
            const double x = std::stod(id.substr(id.find('@') + 1));
            if (x < 40.0) {
                QVERIFY2(after.contains(id), id.c_str());
                ++kept;
            }
        }
        QVERIFY(kept > 150);
        QVERIFY(after.size() < before.size());
    }

    void standsOnTheFloorsOfASurface()
    {
        Plant plant = rule(Plant::Where::surface);
        plant.surface = "stone";
        plant.apart_m = 3.0;
        const auto on = placesOf(*planted(gardenWith({plant}), platform()));
        QVERIFY(on.size() > 8);
        for (const Vec3& at : on) {
            QVERIFY(near(at, {std::clamp(at.x, 0.0, 20.0), std::clamp(at.y, 0.0, 10.0), 0.0}));
        }
        plant.surface = "gravel"; // not under the platform
        for (const Vec3& at : placesOf(*planted(gardenWith({plant}), platform()))) {
            QVERIFY(std::abs(at.z + 2.0) < 1e-5);
            QVERIFY(at.x < 0.0 || at.x > 20.0 || at.y < 0.0 || at.y > 10.0);
        }
        Plant dropped = alongLine({{-10, 5, 3}, {10, 5, 3}}, 5.0);
        dropped.onFloor = true;
        const auto line = placesOf(*planted(gardenWith({dropped}), platform()));
        QCOMPARE(line.size(), std::size_t{5});
        QVERIFY(near(line[0], {-10, 5, -2}, 1e-4));
        QVERIFY(near(line[4], {10, 5, 0}, 1e-4));
    }

    void onlyWithinAZoneHeightsAndByChance()
    {
        Plant plant = alongLine({{0, 0, 0}, {1000, 0, 100}}, 1.0);
        const Project project = withLevel(gardenWith({plant}), LevelId{"level"}, [](Level& level) {
            Zone zone;
            zone.id = {"yard"};
            zone.shape = Box{{100, 100, 100}};
            zone.at = {500, 0, 0};
            level.zones.append(zone);
        });
        const std::size_t all = placesOf(*planted(project)).size();
        QCOMPARE(all, std::size_t{1005});
        for (const Vec3& at : placesOf(*planted(changed(project, [](Plant& p) { p.zone = {"yard"}; })))) {
            QVERIFY(at.x >= 450.0 && at.x <= 550.0);
        }
        QVERIFY(!placesOf(*planted(changed(project, [](Plant& p) { p.zone = {"yard"}; }))).empty());
        for (const Vec3& at : placesOf(*planted(changed(project, [](Plant& p) {
                 p.lowest_m = 20;
                 p.highest_m = 30;
             })))) {
            QVERIFY(at.z >= 20.0 && at.z <= 30.0);
        }
        const auto some = idsOf(*planted(changed(project, [](Plant& p) { p.chance = 0.3; })));
        // Five standard deviations of a binomial.
        QVERIFY(std::abs(static_cast<double>(some.size()) - 301.5) < 5.0 * std::sqrt(1005 * 0.3 * 0.7));
        const auto every = idsOf(*planted(project));
        QVERIFY(std::includes(every.begin(), every.end(), some.begin(), some.end()));
        // More chance leaves everybody who was there.
        const auto more = idsOf(*planted(changed(project, [](Plant& p) { p.chance = 0.5; })));
        QVERIFY(std::includes(more.begin(), more.end(), some.begin(), some.end()));
        Project otherSeed = changed(project, [](Plant& p) { p.chance = 0.3; });
        otherSeed.seed = 77;
        QVERIFY(idsOf(*planted(otherSeed)) != some);
    }

    void exceptionsStayWithTheirCopyAlsoWhereItMovesALittle()
    {
        Project project = gardenWith({alongLine({{0, 0, 0}, {20, 0, 0}}, 5.0)});
        const LevelId level = project.levels[0]->id;
        const auto before = planted(project);
        project = withCopyLeftOut(std::move(project), level, {"row"}, before->rules[0].places[1], true);
        project = withCopyLevel(std::move(project), level, {"row"}, before->rules[0].places[3], -20.0);
        const auto check = [&](const Planted& there, double north) {
            const PlantedRule& row = there.rules[0];
            QCOMPARE(row.copies.size(), std::size_t{4});
            QCOMPARE(row.leftOut, std::size_t{1});
            QVERIFY(row.unmatched.empty());
            QCOMPARE(row.copies[2]->id.text, std::string("row@15.00,0.00,0.00"));
            QVERIFY(near(row.copies[2]->at, {15, north, 0}));
            QCOMPARE(row.copies[2]->level_db, -20.0);
            QVERIFY(row.copies[2]->own.test(static_cast<std::size_t>(Setting::level)));
            QCOMPARE(row.copies[1]->level_db, -6.0);
        };
        check(*planted(project), 0.0);
        check(*planted(changed(project, [](Plant& p) { p.at.y = 0.4; })), 0.4);
        const auto far = planted(changed(project, [](Plant& p) { p.at.y = 4.0; }));
        QCOMPARE(far->rules[0].copies.size(), std::size_t{5});
        QCOMPARE(far->rules[0].unmatched.size(), std::size_t{2});
        // As the pattern has it again: nothing is left of it in the document.
        project = withCopyLevel(std::move(project), level, {"row"}, before->rules[0].places[3], {});
        project = withCopyLeftOut(std::move(project), level, {"row"}, before->rules[0].places[1], false);
        QVERIFY(project.levels[0]->plants[0]->exceptions.empty());
    }

    void whatIsLetLooseKeepsItsIdAndSoundsAsBefore()
    {
        const Project project = gardenWith({alongLine({{0, 0, 0}, {20, 0, 0}}, 5.0)});
        const auto before = planted(project);
        const Project loose = withCopiesLoose(project, *before, 0, {4});
        QCOMPARE(loose.levels[0]->emitters.size(), std::size_t{1});
        QCOMPARE(loose.levels[0]->emitters[0]->id, before->rules[0].copies[4]->id);
        const auto after = planted(loose);
        QCOMPARE(after->level().emitters.size(), before->level().emitters.size());
        auto all = idsOf(*after);
        all.insert(loose.levels[0]->emitters[0]->id.text);
        QCOMPARE(all, idsOf(*before));
        // Put back while it stands there, it is there once.
        Project both = changed(loose, [](Plant& p) { p.exceptions.clear(); });
        QCOMPARE(planted(both)->level().emitters.size(), before->level().emitters.size());
        // It can be written and read like any other.
        std::string text = projectText(loose);
        QCOMPARE(projectText(readProjectText(text, "x").project), text);
        OfflineJob job{.scene = {}, .layout = Layout::stereo};
        job.ears = [](double) { return Pose{{18, -2, 0}, 0, 0, 0}; };
        job.to_s = 0.5;
        job.scene = fixture::sceneOf(project, {fixture::toneBuffer()});
        const auto as = fixture::rendered(job);
        job.scene = fixture::sceneOf(loose, {fixture::toneBuffer()});
        const auto then = fixture::rendered(job);
        QCOMPARE(then.size(), as.size());
        double most = 0.0;
        for (std::size_t i = 0; i < as.size(); ++i) {
            most = std::max(most, std::abs(static_cast<double>(as[i]) - then[i]));
        }
        QVERIFY2(most < 1e-6, std::to_string(most).c_str()); // added in another order
    }

    void soundsAsIfEachHadBeenPlacedByHand()
    {
        const Project project = gardenWith({alongLine({{-8, 4, 0}, {8, 4, 0}}, 2.0)});
        const auto there = planted(project);
        Project byHand = withLevel(project, project.levels[0]->id, [&](Level& level) {
            level.plants = {};
            for (const auto& copy : there->rules[0].copies) {
                level.emitters.append(*copy);
            }
        });
        for (const Layout layout : {Layout::stereo, Layout::binaural}) {
            for (const int rate : {48'000, 44'100}) {
                OfflineJob job{.scene = {}, .layout = layout};
                job.rate = rate;
                job.ears = [](double t) { return Pose{{-6 + 12 * t, 0, 0}, 0, 0, 0}; };
                job.to_s = 0.5;
                job.scene = fixture::sceneOf(project, {fixture::toneBuffer(480.0, 1.0)});
                const auto planted = fixture::rendered(job);
                job.scene = fixture::sceneOf(byHand, {fixture::toneBuffer(480.0, 1.0)});
                QVERIFY(fixture::rendered(job) == planted);
                QVERIFY(fixture::energy_db(planted, 0.1, 0.4) > -40.0);
            }
        }
    }

    void whatStaysTheSameIsTheSameToThePointer()
    {
        const Project project = gardenWith({alongLine({{0, 0, 0}, {20, 0, 0}}, 5.0), alongLine({{0, 9, 0}, {20, 9, 0}}, 5.0)});
        const auto before = planted(project);
        const Project edited = changed(project, [](Plant& p) { p.offset.z = 2.0; });
        const auto after = planted(edited, nullptr, before.get());
        QVERIFY(after->rules[0].spots == before->rules[0].spots); // where they stand was not looked for again
        QVERIFY(after->rules[0].copies != before->rules[0].copies);
        QVERIFY(after->rules[1].copies == before->rules[1].copies);
        // Something else altogether.
        const Project other = withLevel(project, project.levels[0]->id, [](Level& level) {
            level.emitters.append(fixture::pointAt("new", {1, 1, 1}));
        });
        const auto beside = planted(other, nullptr, before.get());
        QVERIFY(beside->rules[0].copies == before->rules[0].copies);
        QVERIFY(beside->rules[1].copies == before->rules[1].copies);
        // Its pattern.
        Pattern louder = *project.patterns[0];
        louder.settings.level_db = 0.0;
        const auto loud = planted(withPattern(project, louder), nullptr, before.get());
        QCOMPARE(loud->rules[0].copies[0]->level_db, 0.0);
        QVERIFY(loud->rules[0].spots == before->rules[0].spots);
    }

    void plantingAgainIsTheSameForAnyProject()
    {
        for (unsigned seed = 0; seed < 40; ++seed) {
            const auto project = std::make_shared<const Project>(fixture::randomProject(seed));
            const auto ground = seed % 2 == 0 ? platform() : nullptr;
            for (const auto& level : project->levels) {
                const auto once = plant(project, level->id, ground, Ways::find);
                const auto twice = plant(project, level->id, ground, Ways::find);
                QCOMPARE(*twice->project == *once->project, true);
                // Through the document's text, and beside what was there before.
                const auto read = std::make_shared<const Project>(readProjectText(projectText(*project), "x").project);
                QCOMPARE(idsOf(*plant(read, level->id, ground, Ways::find, once.get())), idsOf(*once));
                // Whoever comes later changes nobody.
                const auto more = std::make_shared<const Project>(withLevel(*project, level->id, [](Level& grown) {
                    grown.emitters.append(fixture::pointAt("somebody-new", {1, 2, 3}));
                    Plant row = alongLine({{0, 0, 0}, {9, 0, 0}}, 3.0);
                    row.id = {"somebody-else"};
                    grown.plants.append(row);
                }));
                const auto beside = plant(more, level->id, ground, Ways::find, once.get());
                for (std::size_t i = 0; i < once->rules.size(); ++i) {
                    QVERIFY(beside->rules[i].copies == once->rules[i].copies);
                }
                // All ids are unlike.
                std::set<std::string> ids;
                for (const auto& emitter : once->level().emitters) {
                    QVERIFY2(ids.insert(emitter->id.text).second, emitter->id.text.c_str());
                }
            }
        }
    }

    void saysWhyItPlantsNothing()
    {
        Plant plant = alongLine({{0, 0, 0}, {20, 0, 0}}, 5.0);
        Project project = gardenWith({plant});
        const auto trouble = [](const Project& p) { return planted(p)->rules[0].trouble; };
        QVERIFY(trouble(project) == PlantTrouble::none);
        QVERIFY(trouble(changed(project, [](Plant& p) { p.on = false; })) == PlantTrouble::off);
        QVERIFY(trouble(changed(project, [](Plant& p) { p.pattern = {"gone"}; })) == PlantTrouble::noPattern);
        const Project many = changed(project, [](Plant& p) {
            p.every_m = 0.05;
            p.shape = Ribbon{{{0, 0, 0}, {2000, 0, 0}}, 0.0, false};
        });
        QVERIFY(trouble(many) == PlantTrouble::tooMany);
        QCOMPARE(planted(many)->rules[0].copies.size(), mostPlanted);
        QVERIFY(trouble(changed(project, [](Plant& p) {
                    p.where = Plant::Where::shape;
                    p.shape = Box{{9000, 9000, 3}};
                    p.apart_m = 0.1;
                })) == PlantTrouble::tooMany);
        Pattern bed = *project.patterns[0];
        bed.settings.kind = EmitterKind::bed;
        QVERIFY(trouble(withPattern(project, bed)) == PlantTrouble::notPlantable);
        // Edges that nobody has looked for yet are not waited for.
        const auto ground = platform();
        const auto shared = std::make_shared<const Project>(changed(project, [](Plant& p) { p.where = Plant::Where::edges; }));
        QVERIFY(stone::plant(shared, LevelId{"level"}, ground, Ways::foundOnly)->rules[0].trouble == PlantTrouble::waits);
        ground->edges(shared->levels[0]->edges, shared->levels[0]->character.start);
        QVERIFY(!stone::plant(shared, LevelId{"level"}, ground, Ways::foundOnly)->rules[0].copies.empty());
    }

    void badRulesAreRefusedWithWordsOfWhatToDo_data()
    {
        QTest::addColumn<QString>("json");
        QTest::addColumn<QString>("says");
        QTest::newRow("edge") << R"("where": "edges", "edges": ["cliff"])"
                              << "expected drop, wall, kerb, step or water, found \"cliff\"";
        QTest::newRow("apart") << R"("where": "shape", "apart_m": 0)"
                               << "needs a least distance";
        QTest::newRow("line") << R"("where": "line", "shape": {"is": "sphere", "radius_m": 2})"
                              << "has a \"line\"";
        QTest::newRow("heights") << R"("lowest_m": 3, "highest_m": 2)"
                                 << "most is below the least";
        QTest::newRow("where") << R"("where": "everywhere")"
                               << "where";
        QTest::newRow("exception") << R"("exceptions": [{"at": [1, 2, 3]}])"
                                   << "which copy";
    }

    void badRulesAreRefusedWithWordsOfWhatToDo()
    {
        QFETCH(QString, json);
        QFETCH(QString, says);
        const std::string text = R"({"levels": [{"id": "l", "plants": [{"id": "p", )" + json.toStdString() + "}]}]}";
        try {
            readProjectText(text, "yard.json");
            QFAIL("it was taken");
        } catch (const std::exception& error) {
            QVERIFY2(QString(error.what()).contains(says), error.what());
            QVERIFY2(QString(error.what()).contains("plants/0"), error.what());
        }
    }
};

} // namespace tst_plant

STONE_TEST(tst_plant, TestPlant)
#include "tst_plant.moc"
