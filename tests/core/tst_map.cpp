// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/audibility_map.h"
#include "analysis/contours.h"
#include "analysis/findings.h"
#include "analysis/map_reading.h"
#include "engine/scene.h"
#include "level/ground.h"
#include "level/mesh.h"
#include "project/read.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"
#include "world/carriage.h"

#include <QTest>

#include <atomic>
#include <cmath>
#include <map>
#include <numbers>
#include <random>

namespace tst_map
{

using namespace stone;
using fixture::pointAt;

/// Maps of what is heard where: each cell against the model asked there by itself, closed forms, and parts against the whole.
class TestMap : public QObject
{
    Q_OBJECT

    static HearingModel modelOf(const Project& project)
    {
        return HearingModel(std::make_shared<const Project>(project), {"level"});
    }

    /// Vellmoor Halt with its geometry.
    struct Demo {
        std::shared_ptr<const Project> project = std::make_shared<const Project>(readProjectFile(DEMO "/project.json").project);
        std::shared_ptr<const Ground> ground = readGeometry(*project, DEMO).back().ground;
        std::shared_ptr<const HearingModel> model = std::make_shared<const HearingModel>(
            std::make_shared<const World>(project, project->levels[0]->id, ground, LengthOf{}, Ways::find));
    };

    /// Voices too, and gazes, as the model has them.
    const MapQuestion asHeard{.voices = true, .gaze = true};

private slots:
    /// The grid covers what is placed, in squares, with the ears at their height over the storey's floor.
    void gridsCoverTheStorey()
    {
        Project project = fixture::projectWith({pointAt("west", {-30, 0, 1.6}), pointAt("east", {50, 20, 1.6})});
        project = withLevel(std::move(project), {"level"}, [](Level& level) {
            level.storeys = {{.name = "Ground"}, {.name = "Upper", .floor_m = 4.0}};
        });
        const Level& level = *project.levels[0];
        const MapGrid grid = gridOf(level, 1, nullptr, 50);
        QCOMPARE(grid.columns, 50U);
        QVERIFY(std::abs(grid.cell_m - 2.0) < 1e-9); // 80 m and 10 on each side
        QCOMPARE(grid.rows, 20U);                    // 20 m and 10 on each side, in squares
        QVERIFY(std::abs(grid.at(0, 0).x + 39.0) < 1e-9 && std::abs(grid.at(49, 0).x - 59.0) < 1e-9);
        QVERIFY(std::abs(grid.ears_m - 4.0 - level.character.earsHeight_m) < 1e-9);
        QCOMPARE(gridOf(level, 0, nullptr, 1).cells(), std::size_t(1));
        std::uint32_t all = 0;
        for (std::uint32_t part = 0; part < 7; ++part) {
            const auto [first, last] = grid.rowsOf(part, 7);
            QCOMPARE(first, all);
            all = last;
        }
        QCOMPARE(all, grid.rows);
    }

    /// Two lamps in the open: what the inverse law gives, added by their powers; who is louder; how many are heard.
    void closedForm()
    {
        const Project project = fixture::projectWith({pointAt("a", {0, 0, 1.6}), pointAt("b", {20, 0, 1.6})});
        const HearingModel model = modelOf(project);
        MapGrid grid{{-10.5, 3.0}, 1.0, 40, 3, 1.6};
        const auto cells = mapLevel(model, grid, asHeard, {0, grid.rows}, 1);
        QCOMPARE(cells.size(), grid.cells());
        for (std::uint32_t row = 0; row < grid.rows; ++row) {
            for (std::uint32_t column = 0; column < grid.columns; ++column) {
                const Vec3 at = grid.at(column, row);
                const double a_m = glm::length(at - Vec3{0, 0, 1.6});
                const double b_m = glm::length(at - Vec3{20, 0, 1.6});
                const double expected_db = 10.0 * std::log10(1.0 / (a_m * a_m) + 1.0 / (b_m * b_m));
                const MapCell& cell = cells[std::size_t{row} * grid.columns + column];
                QVERIFY2(std::abs(cell.level_db - expected_db) < 0.01,
                         qPrintable(QString("%1 %2: %3, not %4").arg(at.x).arg(at.y).arg(cell.level_db).arg(expected_db)));
                QCOMPARE(cell.loudest, a_m < b_m ? 0U : 1U);
                QCOMPARE(cell.voices, 2U);
            }
        }
        const std::vector<std::uint32_t> onlyB{1};
        const auto one = mapLevel(model, grid, {.which = onlyB, .voices = true}, {1, 2}, 1);
        QCOMPARE(one.size(), std::size_t{grid.columns});
        QVERIFY(std::abs(one[30].level_db - 20.0 * std::log10(1.0 / glm::length(grid.at(30, 1) - Vec3{20, 0, 1.6}))) < 0.01);
        QVERIFY(one[0].loudest == 1U && one[0].voices == 1U);
    }

    /// In the demo, with walls, bending, zones, rooms and gaze: at 200 cells by chance what the model says there, emitter by
    /// emitter; parts joined are the whole; more threads make no difference; stopped it stops.
    void everyCellIsWhatIsHeardThere()
    {
        const Demo demo;
        const Level& level = *demo.project->levels[0];
        const HearingModel& model = *demo.model;
        const MapGrid grid = gridOf(level, 0, &demo.ground->mesh(), 32);
        const auto cells = mapLevel(model, grid, asHeard, {0, grid.rows}, 2);
        std::mt19937 random(20);
        int heardAtAll = 0;
        double worst_db = 0.0;
        for (int i = 0; i < 200; ++i) {
            const auto column = static_cast<std::uint32_t>(random() % grid.columns);
            const auto row = static_cast<std::uint32_t>(random() % grid.rows);
            const Moment there(Ears(Pose{grid.at(column, row), 0.0, 0.0, 0.0}), TimeSpan{});
            double power = 0.0;
            for (std::uint32_t index = 0; index < level.emitters.size(); ++index) {
                const Heard one = model.hearOne(there, index);
                power += std::isfinite(one.level_db) ? std::pow(10.0, one.level_db / 10.0) : 0.0;
            }
            const MapCell& cell = cells[std::size_t{row} * grid.columns + column];
            if (power <= 1e-9) { // far below what is audible
                QVERIFY2(cell.level_db < -89.0, qPrintable(QString::number(cell.level_db)));
                continue;
            }
            ++heardAtAll;
            worst_db = std::max(worst_db, std::abs(cell.level_db - 10.0 * std::log10(power)));
        }
        QVERIFY(heardAtAll > 150);
        QVERIFY2(worst_db < 0.05, qPrintable(QString("%1 dB").arg(worst_db)));
        std::vector<MapCell> joined;
        for (std::uint32_t part = 0; part < 3; ++part) {
            const auto some = mapLevel(model, grid, asHeard, grid.rowsOf(part, 3), 1);
            joined.insert(joined.end(), some.begin(), some.end());
        }
        QVERIFY(joined == cells);
        std::atomic<int> asked{0};
        mapLevel(model, grid, asHeard, {0, grid.rows}, 1, [&](double) { return ++asked < 3; });
        QCOMPARE(asked.load(), 3);
    }

    /// What is rendered at 200 cells by chance is as loud as the map says: three tones with a reach, a front and a level of
    /// their own, their powers added.
    void whatIsRenderedThere()
    {
        std::vector<Emitter> lamps{pointAt("a", {-6, 0, 1.6}), pointAt("b", {9, 4, 2.5}), pointAt("c", {2, -9, 1.0})};
        lamps[0].level_db = -4.0;
        Lane front;
        front.over = LaneInput::offFront;
        front.shape = LaneShape::twoAngles;
        lamps[1].lanes = {front};
        Project project = fixture::projectWith(lamps);
        Falloff falloff = falloffOf(project, *project.levels[0]->emitters[2]);
        falloff.lanes.front().formula.silentAt_m = 14.0;
        project = withFalloff(std::move(project), {"level"}, {"c"}, falloff);
        const Sound tone = *project.sounds[0];
        for (const char* id : {"a", "b", "c"}) {
            Sound own = tone;
            own.id = {id};
            project.sounds.put(own);
            project = withEmitter(std::move(project), {"level"}, {id}, [&](Emitter& emitter) { emitter.sound = own.id; });
        }
        const MapGrid grid{{-19.0, -19.0}, 1.0, 39, 39, 1.6};
        // Of other frequencies, so that they add by their powers.
        auto scene = fixture::sceneOf(project, fixture::toneBuffer());
        std::map<SoundId, double> pitches{{{"a"}, 480.0}, {{"b"}, 720.0}, {{"c"}, 1'000.0}};
        for (SharedMaterial& material : scene->materials) {
            if (material && pitches.contains(material->sound->id)) {
                SoundMaterial other = *material;
                other.files = {fixture::toneBuffer(pitches.at(material->sound->id))};
                material = std::make_shared<const SoundMaterial>(std::move(other));
            }
        }
        const auto cells = mapLevel(scene->model, grid, {}, {0, grid.rows}, 2);
        const double full_db = 20.0 * std::log10(0.5 / std::numbers::sqrt2);
        std::mt19937 random(11);
        double worst_db = 0.0;
        for (int i = 0; i < 200; ++i) {
            const auto cell = static_cast<std::uint32_t>(random() % grid.cells());
            const Pose ears{grid.at(cell % grid.columns, cell / grid.columns), 0.0, 0.0, 0.0};
            const bool inside = std::any_of(lamps.begin(), lamps.end(),
                                            [&](const Emitter& lamp) { return glm::length(lamp.at - ears.at) < 1.5; });
            if (inside) {
                continue; // full scale is passed there
            }
            OfflineJob job;
            job.scene = scene;
            job.layout = Layout::mono;
            job.to_s = 0.3;
            job.threads = 1;
            job.ears = [ears](double) { return ears; };
            const double rendered_db = fixture::rms_db(fixture::rendered(job), 0, 0.05, 0.3, 1) - full_db;
            worst_db = std::max(worst_db, std::abs(rendered_db - cells[cell].level_db));
        }
        QVERIFY2(worst_db < 0.1, qPrintable(QString("%1 dB").arg(worst_db)));
    }

    /// What is left out for speed changes nothing that counts: levels alone against levels with everything, in the demo with
    /// its walls; who is loudest is the same but where two are as loud.
    void whatIsLeftOutDoesNotCount()
    {
        const Demo demo;
        const MapGrid grid = gridOf(*demo.project->levels[0], 0, &demo.ground->mesh(), 40);
        for (const bool mean : {false, true}) {
            const auto all = mapLevel(*demo.model, grid, {.voices = true, .mean = mean}, {0, grid.rows}, 2);
            const auto quick = mapLevel(*demo.model, grid, {.mean = mean}, {0, grid.rows}, 2);
            double worst_db = 0.0;
            for (std::size_t i = 0; i < all.size(); ++i) {
                if (all[i].level_db < audible_db) {
                    QVERIFY(quick[i].level_db < audible_db + 0.05);
                    continue;
                }
                worst_db = std::max(worst_db, std::abs(all[i].level_db - quick[i].level_db));
                QVERIFY(quick[i].loudest == all[i].loudest || all[i].loudest_db - all[i].second_db < 0.2);
                QVERIFY(quick[i].voices == 0 && std::isinf(quick[i].reverb_db));
            }
            QVERIFY2(worst_db < 0.05, qPrintable(QString("%1 dB").arg(worst_db)));
        }
    }

    /// First without walls and directions and then with what walls take: the same lines, level and part in the world as at
    /// once, also of what is half in the ears.
    void wallsCanBeAddedLater()
    {
        Demo demo;
        auto project = withLevel(*demo.project, demo.project->levels[0]->id, [](Level& level) {
            for (std::size_t i = 0; i < level.emitters.size(); i += 2) {
                Emitter half = *level.emitters[i];
                half.placement.inWorld = 0.5;
                level.emitters.put(half);
            }
        });
        const HearingModel model(std::make_shared<World>(std::make_shared<const Project>(std::move(project)),
                                                         demo.project->levels[0]->id, demo.ground, LengthOf{}, Ways::find));
        const MapGrid grid = gridOf(model.level(), 0, &demo.ground->mesh(), 24);
        HearScratch atOnce;
        atOnce.withoutRooms = true;
        HearScratch inSteps = atOnce;
        inSteps.withoutWalls = true;
        inSteps.withoutDirections = true;
        std::map<TermKind, int> told;
        for (std::uint32_t cell = 0; cell < grid.cells(); ++cell) {
            const Moment moment(Ears(Pose{grid.at(cell % grid.columns, cell / grid.columns), 0.0, 0.0, 0.0}), {});
            model.ready(moment, atOnce);
            model.ready(moment, inSteps);
            std::vector<std::uint32_t> near;
            model.near(moment.ears.at, near);
            for (const std::uint32_t index : near) {
                const Start& start = model.world().simpleStart(index);
                const Heard one = model.hearStart(moment, index, start, atOnce);
                Heard two = model.hearStart(moment, index, start, inSteps);
                QVERIFY(two.level_db >= one.level_db - 1e-9); // walls only take away
                model.addWalls(moment, two, inSteps);
                QCOMPARE(two.terms.size(), one.terms.size());
                for (std::size_t i = 0; i < one.terms.size(); ++i) {
                    const Term& a = one.terms.begin()[i];
                    const Term& b = two.terms.begin()[i];
                    QVERIFY(a.kind == b.kind && (a.db == b.db || std::abs(a.db - b.db) < 1e-9));
                    ++told[a.kind];
                }
                QVERIFY(one.level_db == two.level_db || std::abs(one.level_db - two.level_db) < 1e-9);
                const bool bed = model.level().emitters[index]->kind == EmitterKind::bed;
                QVERIFY(bed || std::abs(one.worldShare - two.worldShare) < 1e-9);
                QCOMPARE(two.audible, one.audible);
                QCOMPARE(two.screened.rays, one.screened.rays);
            }
        }
        QVERIFY(told[TermKind::walls] > 500 && told[TermKind::placement] > 500);
    }

    /// Where more lamps stand together than may sound, the map leaves out those that give way, as the model does; one lamp's
    /// own map too, though nobody asked for the others.
    void whoGivesWayIsNotOnTheMap()
    {
        std::vector<Emitter> lamps;
        for (int i = 0; i < 5; ++i) {
            lamps.push_back(pointAt("lamp-" + std::to_string(i), {8.0 * i, 0, 1.6}));
        }
        Project project = fixture::projectWith(lamps);
        Sound limited = *project.sounds[0];
        limited.limit.atOnce = 2;
        project.sounds.put(limited);
        const HearingModel model = modelOf(project);
        QVERIFY(model.mayCrowdForEver());
        const MapGrid grid{{-6.0, 1.0}, 2.0, 24, 3, 1.6};
        const TimeSpan then = TimeSpan::at(1.0);
        const auto all = mapLevel(model, grid, {.when = then}, {0, grid.rows}, 2);
        const auto first = mapLevel(model, grid, {.which = {0}, .when = then}, {0, grid.rows}, 2);
        int silenced = 0;
        for (std::uint32_t cell = 0; cell < grid.cells(); ++cell) {
            const Vec3 at = grid.at(cell % grid.columns, cell / grid.columns);
            const Moment there(Ears(Pose{at, 0.0, 0.0, 0.0}), then);
            double power = 0.0;
            for (std::uint32_t i = 0; i < 5; ++i) {
                const double level_db = model.hearOne(there, i).level_db;
                power += std::isfinite(level_db) ? std::pow(10.0, level_db / 10.0) : 0.0;
            }
            QVERIFY(std::abs(all[cell].level_db - 10.0 * std::log10(power)) < 0.01);
            const double own_db = model.hearOne(there, 0).level_db;
            QVERIFY(std::isfinite(own_db) ? std::abs(first[cell].level_db - own_db) < 0.01 : std::isinf(first[cell].level_db));
            silenced += std::isfinite(own_db) ? 0 : 1;
        }
        QVERIFY2(silenced > 20, qPrintable(QString::number(silenced)));
    }

    /// From coarse to fine: strides together are every cell once, and what is known after each is the whole map's.
    void fromCoarseToFine()
    {
        const HearingModel model = modelOf(fixture::projectWith({pointAt("a", {0, 0, 1.6}), pointAt("b", {20, 0, 1.6})}));
        const MapGrid grid{{-10.5, -7.0}, 1.0, 37, 22, 1.6};
        const auto whole = mapLevel(model, grid, {}, {0, grid.rows}, 1);
        std::vector<MapCell> known(grid.cells());
        std::vector<int> asked(grid.cells(), 0);
        for (std::uint32_t stride = 8; stride > 0; stride /= 2) {
            const auto cells = cellsOfStride(grid, stride, stride == 8);
            for (const std::uint32_t cell : cells) {
                ++asked[cell];
            }
            QVERIFY(mapCells(model, grid, {}, cells, known, 2));
            const auto [coarse, some] = coarseMap(grid, known, stride);
            QCOMPARE(some.size(), coarse.cells());
            for (std::uint32_t row = 0; row < coarse.rows; ++row) {
                for (std::uint32_t column = 0; column < coarse.columns; ++column) {
                    QVERIFY(glm::length(coarse.at(column, row) - grid.at(column * stride, row * stride)) < 1e-9);
                    QVERIFY(some[std::size_t{row} * coarse.columns + column] ==
                            whole[std::size_t{row} * stride * grid.columns + std::size_t{column} * stride]);
                }
            }
        }
        QVERIFY(std::all_of(asked.begin(), asked.end(), [](int times) { return times == 1; }));
        QVERIFY(known == whole);
        QVERIFY(!mapCells(model, grid, {}, cellsOfStride(grid, 1, true), known, 1, [](double) { return false; }));
    }

    /// After an edit the map differs only within what is said of it; what reaches everywhere is said to be everywhere.
    void editsChangeTheirSurroundings()
    {
        Project project = fixture::projectWith({pointAt("a", {0, 0, 1.6}), pointAt("b", {40, 0, 1.6})});
        Falloff falloff = falloffOf(project, *project.levels[0]->emitters[0]);
        falloff.lanes.front().formula.silentAt_m = 10.0;
        project = withFalloff(std::move(project), {"level"}, {"a"}, falloff);
        project = withFalloff(std::move(project), {"level"}, {"b"}, falloff);
        const Project moved = withEmitter(project, {"level"}, {"a"}, [](Emitter& emitter) { emitter.at.x = 6.0; });
        const HearingModel before = modelOf(project);
        const HearingModel after = modelOf(moved);
        const auto spheres = changedWithin(before, after);
        QVERIFY(spheres && spheres->size() == 2);
        const MapGrid grid{{-19.0, -15.0}, 2.0, 40, 16, 1.6};
        const auto was = mapLevel(before, grid, {}, {0, grid.rows}, 1);
        const auto is = mapLevel(after, grid, {}, {0, grid.rows}, 1);
        int differing = 0;
        for (std::uint32_t cell = 0; cell < grid.cells(); ++cell) {
            const Vec3 at = grid.at(cell % grid.columns, cell / grid.columns);
            const bool inside = std::any_of(spheres->begin(), spheres->end(), [&](const Sphere& sphere) {
                return glm::length(at - sphere.centre) <= sphere.radius_m;
            });
            differing += was[cell] == is[cell] ? 0 : 1;
            QVERIFY(inside || was[cell] == is[cell]);
        }
        QVERIFY(differing > 20);
        QVERIFY(changedWithin(before, modelOf(project))->empty());
        Falloff longer = falloff;
        longer.lanes.front().formula.silentAt_m = 20.0;
        const auto further = changedWithin(before, modelOf(withFalloff(project, {"level"}, {"a"}, longer)));
        QVERIFY(further && further->size() == 2 && further->back().radius_m >= 20.0);
        Project thinner = project;
        thinner.air.temperature_c = -10.0;
        QVERIFY(!changedWithin(before, modelOf(thinner)));
    }

    /// A sprinkle by its mean: so much of its energy as of the time, from all over its shape; a Roamer from all along its way.
    void meansOfWhatIsIrregular()
    {
        Emitter drops = pointAt("drops", {0, 0, 1.6});
        drops.kind = EmitterKind::sprinkle;
        drops.sprinkling.where = Sprinkling::Where::shape;
        drops.sprinkling.shape = Ball{0.05};
        drops.sprinkling.least_s = drops.sprinkling.most_s = 8.0;
        const auto project = std::make_shared<const Project>(fixture::projectWith({drops}));
        const auto twoSeconds = [](std::uint32_t, const std::string&, const std::optional<std::size_t>&) { return 2.0; };
        const HearingModel model(project, {"level"}, twoSeconds);
        const MapGrid grid{{10.0, 0.0}, 1.0, 1, 1, 1.6};
        const double at10m_db = -20.0;
        const double quarter_db = 10.0 * std::log10(0.25);
        const auto mean = mapLevel(model, grid, {.mean = true}, {0, 1}, 1);
        QVERIFY2(std::abs(mean[0].level_db - at10m_db - quarter_db) < 0.1, qPrintable(QString::number(mean[0].level_db)));
        QVERIFY(std::isinf(mapLevel(model, grid, {}, {0, 1}, 1)[0].level_db)); // none has fallen

        Emitter cart = pointAt("cart", {0, 0, 1.6});
        cart.kind = EmitterKind::roamer;
        for (const double north : {10.0, 40.0}) {
            Stop stop;
            stop.at = {0, north, 1.6};
            cart.roaming.stops.push_back(stop);
        }
        cart.roaming.wait_s = 0.0;
        cart.roaming.ease = 0.0;
        const HearingModel roams = modelOf(fixture::projectWith({cart}));
        const auto along = mapLevel(roams, {{0.0, 0.0}, 1.0, 1, 1, 1.6}, {.mean = true}, {0, 1}, 1);
        // The mean of 1/r^2 from 10 to 40 m is 1/(10 * 40).
        QVERIFY2(std::abs(along[0].level_db - 10.0 * std::log10(1.0 / 400.0)) < 0.3,
                 qPrintable(QString::number(along[0].level_db)));
    }

    /// What a map is read for: areas by who is loudest, silence, beds that collide, differences, a line's section.
    void readings()
    {
        const MapGrid grid{{0.5, 0.5}, 1.0, 12, 6, 1.6};
        std::vector<MapCell> cells(grid.cells());
        for (std::uint32_t i = 0; i < cells.size(); ++i) {
            MapCell& cell = cells[i];
            const std::uint32_t column = i % grid.columns;
            cell.level_db = column < 9 ? -10.0 - 2.0 * column : MapCell::silent_db;
            cell.loudest_db = cell.level_db;
            cell.loudest = column < 5 ? 0 : column < 9 ? 1 : MapCell::nobody;
            cell.second = column < 9 ? 1 - cell.loudest : MapCell::nobody;
            cell.second_db = column < 9 ? cell.level_db - (column == 4 || column == 5 ? 3.0 : 9.0) : MapCell::silent_db;
            cell.voices = column;
        }
        const auto loudest = mapRegions(grid, mapAnswers(MapShows::loudest, cells, 64));
        QCOMPARE(loudest.size(), std::size_t(2));
        QVERIFY(loudest[0].first == 0 && loudest[0].cells == 30 && loudest[1].first == 1 && loudest[1].cells == 24);
        QVERIFY(glm::length(loudest[0].middle - Vec2{2.5, 3.0}) < 1.0); // as deep inside as can be
        const auto silence = mapRegions(grid, mapAnswers(MapShows::silence, cells, 64));
        QVERIFY(silence.size() == 1 && silence[0].cells == 18 && silence[0].first == MapCell::nobody);
        const auto collide = mapRegions(grid, mapAnswers(MapShows::ambiences, cells, 64));
        QVERIFY(collide.size() == 1 && collide[0].cells == 12 && collide[0].first == 0 && collide[0].second == 1);
        QCOMPARE(mapRegions(grid, mapAnswers(MapShows::voices, cells, 9))[0].cells, std::size_t(12));
        QVERIFY(mapRegions(grid, mapAnswers(MapShows::voices, cells, 12)).empty());
        QVERIFY(mapRegions(grid, mapAnswers(MapShows::masked, cells, 64)).empty());

        std::vector<MapCell> louder = cells;
        for (MapCell& cell : louder) {
            cell.level_db += 3.0;
        }
        const auto difference = mapNumbers(MapShows::difference, louder, cells);
        QVERIFY(difference[0] == 3.0 && std::isinf(difference[11]));
        const auto none = mapNumbers(MapShows::difference, cells, {});
        QVERIFY(std::all_of(none.begin(), none.end(), [](double number) { return std::isinf(number); }));
        // A cell at -80.5 that was at -70: from the threshold on nothing is heard.
        std::vector<MapCell> gone{cells[0]};
        gone[0].level_db = -70.0;
        std::vector<MapCell> faint{cells[0]};
        faint[0].level_db = -95.0;
        QCOMPARE(mapNumbers(MapShows::difference, faint, gone)[0], -10.0);

        const auto numbers = mapNumbers(MapShows::level, cells, {});
        const auto line = alongLine(grid, numbers, {0.5, 2.0}, {8.5, 2.0}, 9);
        for (std::size_t i = 0; i < line.size(); ++i) {
            QVERIFY(std::abs(line[i] - (-10.0 - 2.0 * static_cast<double>(i))) < 1e-9);
        }
        QVERIFY(std::abs(alongLine(grid, numbers, {1.0, 2.3}, {1.0, 2.3}, 1)[0] + 11.0) < 1e-9); // half-way between two cells
        QVERIFY(std::isinf(alongLine(grid, numbers, {-3.0, 2.0}, {2.0, 2.0}, 3)[0]));
    }

    /// A bell that matters under a loud hum of its own pitch is masked, by the hum; beside the bell it is not.
    void maskedWhereItIsDrowned()
    {
        Emitter bell = pointAt("bell", {0, 0, 1.6});
        bell.priority = Priority::vital;
        bell.sound = {"bell"};
        Emitter hum = pointAt("hum", {40, 0, 1.6});
        hum.sound = {"hum"};
        hum.level_db = 12.0;
        Project project = fixture::projectWith({bell, hum});
        Sound second = *project.sounds[0];
        second.id = {"bell"};
        project.sounds.append(second);
        second.id = {"hum"};
        project.sounds.append(second);
        const HearingModel model = modelOf(project);
        Bands tone{};
        tone.fill(-60.0);
        tone[4] = -20.0;
        const std::vector<Bands> levels(model.world().playables().size(), tone);
        const MapGrid grid{{2.0, 0.0}, 36.0, 2, 1, 1.6};
        const auto cells = mapLevel(model, grid, {.masking_db = levels}, {0, 1}, 1);
        QVERIFY(cells[0].masked == MapCell::nobody);
        QVERIFY(cells[1].masked == 0U && cells[1].maskedBy == 1U);
    }

    /// Round one lamp lines of equal level are circles of the radius that the inverse law gives; louder lies on the left.
    void contoursOfOneLampAreCircles()
    {
        const HearingModel model = modelOf(fixture::projectWith({pointAt("lamp", {0.3, -0.2, 1.6})}));
        const MapGrid grid{{-39.5, -39.5}, 1.0, 80, 80, 1.6};
        const auto cells = mapLevel(model, grid, asHeard, {0, grid.rows}, 2);
        const std::vector<double> levels{-30.0, -24.0, -18.0};
        const auto contours = contoursOf(grid, levelsOf(cells), levels);
        QCOMPARE(contours.size(), std::size_t(3));
        for (std::size_t i = 0; i < contours.size(); ++i) {
            const Contour& contour = contours[i];
            QCOMPARE(contour.level_db, levels[i]);
            QVERIFY(contour.closed);
            const double radius_m = std::pow(10.0, -contour.level_db / 20.0);
            double area = 0.0;
            for (std::size_t k = 0; k < contour.line.size(); ++k) {
                const Vec2 a = contour.line[k] - Vec2{0.3, -0.2};
                const Vec2 b = contour.line[(k + 1) % contour.line.size()] - Vec2{0.3, -0.2};
                QVERIFY2(std::abs(glm::length(a) - radius_m) < 0.03,
                         qPrintable(QString("%1 m, not %2").arg(glm::length(a)).arg(radius_m)));
                QVERIFY(glm::length(b - a) < 1.5);
                area += (a.x * b.y - a.y * b.x) / 2.0;
            }
            QVERIFY(area > 0.0); // round to the left, about what is loud
            QVERIFY(std::abs(area - std::numbers::pi * radius_m * radius_m) < 0.01 * area);
        }
        QVERIFY(contoursOf(grid, levelsOf(cells), std::vector<double>{80.0}).empty());
        QVERIFY(contoursOf(grid, levelsOf(cells), {}).empty());
    }

    /// What leaves the map ends at its border; a saddle is read by its mean; each level of noise has every crossing once.
    void contoursEndAtTheBorderOrNowhere()
    {
        const MapGrid grid{{0.0, 0.0}, 1.0, 30, 20, 1.6};
        std::mt19937 random(4);
        std::uniform_real_distribution<double> level(-40.0, 0.0);
        std::vector<MapCell> cells(grid.cells());
        for (MapCell& cell : cells) {
            cell.level_db = random() % 9 == 0 ? cell.level_db : level(random);
        }
        for (const double level_db : {-35.0, -20.0, -3.0}) {
            const auto contours = contoursOf(grid, levelsOf(cells), std::vector<double>{level_db});
            std::size_t points = 0;
            for (const Contour& contour : contours) {
                points += contour.line.size();
                const auto atBorder = [&](const Vec2& p) {
                    return p.x < 1e-9 || p.y < 1e-9 || p.x > 29.0 - 1e-9 || p.y > 19.0 - 1e-9;
                };
                QVERIFY(contour.closed || (atBorder(contour.line.front()) && atBorder(contour.line.back())));
            }
            std::size_t crossings = 0;
            const auto loud = [&](std::uint32_t column, std::uint32_t row) {
                return cells[std::size_t{row} * grid.columns + column].level_db >= level_db;
            };
            for (std::uint32_t row = 0; row < grid.rows; ++row) {
                for (std::uint32_t column = 0; column < grid.columns; ++column) {
                    crossings += column + 1 < grid.columns && loud(column, row) != loud(column + 1, row) ? 1 : 0;
                    crossings += row + 1 < grid.rows && loud(column, row) != loud(column, row + 1) ? 1 : 0;
                }
            }
            QCOMPARE(points, crossings);
        }
        // Loud in two corners across: joined where the mean is loud, apart where it is not.
        const MapGrid square{{0.0, 0.0}, 1.0, 2, 2, 1.6};
        const auto saddle = [&](double others_db) {
            std::vector<MapCell> four(4);
            four[0].level_db = four[3].level_db = 0.0;
            four[1].level_db = four[2].level_db = others_db;
            return contoursOf(square, levelsOf(four), std::vector<double>{-10.0});
        };
        const auto nearSouthWest = [](const Contour& contour) {
            return glm::length((contour.line[0] + contour.line[1]) / 2.0) < 0.7;
        };
        QCOMPARE(saddle(-15.0).size(), std::size_t(2)); // mean -7.5
        QCOMPARE(saddle(-22.0).size(), std::size_t(2)); // mean -11
        const auto apart = saddle(-22.0);
        QCOMPARE(std::count_if(apart.begin(), apart.end(), nearSouthWest), 1);
        const std::vector<double> levels = contourLevels_db(levelsOf(cells), 6.0);
        QVERIFY(!levels.empty() && levels.front() >= -40.0 && levels.back() < 0.0);
        QVERIFY(std::all_of(levels.begin(), levels.end(), [](double l) { return std::abs(std::remainder(l, 6.0)) < 1e-9; }));
        QVERIFY(contourLevels_db(levelsOf(std::vector<MapCell>(5)), 6.0).empty());
    }

    /// Beyond every reach nothing is heard, and nobody is loudest.
    void silenceIsSilence()
    {
        Emitter lamp = pointAt("lamp", {0, 0, 1.6});
        Project project = fixture::projectWith({lamp});
        Falloff falloff = falloffOf(project, *project.levels[0]->emitters[0]);
        falloff.lanes.front().formula.silentAt_m = 10.0;
        project = withFalloff(std::move(project), {"level"}, {"lamp"}, falloff);
        const HearingModel model = modelOf(project);
        const MapGrid grid{{-30.0, 0.0}, 2.0, 31, 1, 1.6};
        const auto cells = mapLevel(model, grid, asHeard, {0, 1}, 1);
        QVERIFY(std::isinf(cells[0].level_db) && cells[0].loudest == MapCell::nobody && cells[0].voices == 0);
        QVERIFY(std::isfinite(cells[15].level_db) && cells[15].voices == 1);
    }
};

} // namespace tst_map

STONE_TEST(tst_map, TestMap)
#include "tst_map.moc"
