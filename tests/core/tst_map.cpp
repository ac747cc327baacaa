#include "analysis/audibility_map.h"
#include "analysis/contours.h"
#include "analysis/findings.h"
#include "engine/scene.h"
#include "level/ground.h"
#include "level/mesh.h"
#include "project/read.h"
#include "support/fixtures.h"
#include "world/carriage.h"

#include <QTest>

#include <atomic>
#include <cmath>
#include <numbers>
#include <random>

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
        const auto project = std::make_shared<const Project>(readProjectFile(DEMO "/project.json").project);
        const Level& level = *project->levels[0];
        std::shared_ptr<const Ground> ground;
        for (const LevelGeometry& geometry : readGeometry(*project, DEMO)) {
            ground = geometry.ground;
        }
        QVERIFY(ground != nullptr);
        const HearingModel model(
            std::make_shared<const World>(project, level.id, ground, LengthOf{}, Ways::find, playablesOf(*project, level)));
        const MapGrid grid = gridOf(level, 0, &ground->mesh(), 32);
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

QTEST_APPLESS_MAIN(TestMap)
#include "tst_map.moc"
