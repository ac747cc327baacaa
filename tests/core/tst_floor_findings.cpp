// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/floor_findings.h"
#include "analysis/masking.h"
#include "analysis/post_findings.h"
#include "level/ground.h"
#include "level/mesh.h"
#include "project/post_sense.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"

#include <QTest>

#include <cmath>

namespace tst_floor_findings
{

using namespace stone;
using fixture::pointAt;

/// What the whole floor shows, and what posts show of themselves: each on a made-up place that has just that slip.
class TestFloorFindings : public QObject
{
    Q_OBJECT

    static std::vector<std::string> codesOf(const std::vector<Finding>& found)
    {
        std::vector<std::string> codes;
        for (const Finding& finding : found) {
            codes.push_back(finding.code);
        }
        return codes;
    }

    static bool has(const std::vector<Finding>& found, const char* code, const char* says = "")
    {
        return std::any_of(found.begin(), found.end(), [&](const Finding& finding) {
            return finding.code == code &&
                   QString::fromStdString(finding.where + ": " + finding.what).contains(QString::fromUtf8(says));
        });
    }

    static Project reaching(std::vector<Emitter> emitters, double silentAt_m)
    {
        Project project = fixture::projectWith(emitters);
        for (const Emitter& emitter : emitters) {
            Falloff falloff = falloffOf(project, *project.levels[0]->emitters.find(emitter.id));
            falloff.lanes.front().formula.silentAt_m = silentAt_m;
            project = withFalloff(std::move(project), {"level"}, emitter.id, falloff);
        }
        return project;
    }

    static std::vector<Finding> over(const Project& project, const std::vector<Bands>& masking = {},
                                     std::shared_ptr<const Ground> ground = {})
    {
        const auto shared = std::make_shared<const Project>(project);
        const HearingModel model(std::make_shared<const World>(shared, LevelId{"level"}, std::move(ground), LengthOf{}));
        return findOverFloor(model, masking, 2);
    }

    static Zone zoneAt(const std::string& id, double x, double wide)
    {
        Zone zone;
        zone.id = {id};
        zone.name = id;
        zone.shape = Box{{wide, 40.0, 4.0}};
        zone.at = {x, 0.0, 0.0};
        return zone;
    }

private slots:
    /// Between two short reaches nothing is heard, and the spot is told with its size; with a bed there is nothing to tell.
    void silence()
    {
        Project project = reaching({pointAt("west", {-30, 0, 1.6}), pointAt("east", {30, 0, 1.6})}, 8.0);
        const auto found = over(project);
        QVERIFY(has(found, "floor-silent", "where one can stand"));
        Emitter bed = pointAt("air", {0, 0, 0});
        bed.kind = EmitterKind::bed;
        project = withLevel(std::move(project), {"level"}, [&](Level& level) { level.emitters.put(bed); });
        QVERIFY(codesOf(over(project)).empty());
    }

    /// Far above the floor with a short reach it is heard nowhere; it is muted on purpose where it is muted.
    void heardNowhere()
    {
        Emitter high = pointAt("kite", {0, 0, 40.0});
        Emitter bed = pointAt("air", {0, 0, 0});
        bed.kind = EmitterKind::bed;
        Project project = reaching({high}, 8.0);
        project = withLevel(std::move(project), {"level"}, [&](Level& level) { level.emitters.put(bed); });
        QVERIFY(has(over(project), "heard-nowhere", "kite"));
        project = withEmitter(std::move(project), {"level"}, {"kite"}, [](Emitter& emitter) { emitter.muted = true; });
        QVERIFY(!has(over(project), "heard-nowhere"));
        project = withEmitter(std::move(project), {"level"}, {"kite"}, [](Emitter& emitter) {
            emitter.muted = false;
            emitter.at.z = 4.0;
        });
        QVERIFY(!has(over(project), "heard-nowhere"));
    }

    /// Two zones that nearly meet leave a gap; where they meet, or lie far apart, there is none.
    void gapsBetweenZones()
    {
        Emitter bed = pointAt("air", {0, 0, 0});
        bed.kind = EmitterKind::bed;
        const auto with = [&](double gap_m) {
            Emitter far = pointAt("far", {-25, 0, 1.6});
            Emitter other = pointAt("other", {25, 0, 1.6});
            Project project = fixture::projectWith({bed, far, other});
            return withLevel(std::move(project), {"level"}, [&](Level& level) {
                level.zones.put(zoneAt("west", -10.0 - gap_m / 2.0, 20.0));
                level.zones.put(zoneAt("east", 10.0 + gap_m / 2.0, 20.0));
            });
        };
        QVERIFY(has(over(with(2.0)), "zones-gap", "neither"));
        QVERIFY(!has(over(with(0.0)), "zones-gap"));
        QVERIFY(!has(over(with(14.0)), "zones-gap"));
    }

    /// What matters under something loud of its own pitch.
    void masked()
    {
        Emitter bell = pointAt("bell", {0, 0, 1.6});
        bell.priority = Priority::vital;
        Emitter hum = pointAt("hum", {30, 0, 1.6});
        hum.level_db = 12.0;
        const Project project = fixture::projectWith({bell, hum});
        Bands tone{};
        tone.fill(-60.0);
        tone[4] = -20.0;
        const HearingModel model(std::make_shared<const Project>(project), {"level"});
        const std::vector<Bands> levels(model.world().playables().size(), tone);
        QVERIFY(has(over(project, levels), "floor-masked", "bell"));
        QVERIFY(!has(over(project), "floor-masked")); // nobody asked
    }

    /// A reach that ends in the middle of its room is noted; one that fills it, or ends well before, is not.
    void reachesInRooms()
    {
        const auto with = [](double silentAt_m) {
            Project project = reaching({pointAt("lamp", {0, 0, 1.6})}, silentAt_m);
            return withLevel(std::move(project), {"level"}, [](Level& level) {
                Room room;
                room.id = {"hall"};
                room.name = "Hall";
                room.shape = Box{{19.0, 19.0, 4.0}};
                level.rooms.put(room);
            });
        };
        QVERIFY(has(over(with(7.5)), "reach-ends-in-room", "Hall"));
        QVERIFY(!has(over(with(30.0)), "reach-ends-in-room"));
        QVERIFY(!has(over(with(2.0)), "reach-ends-in-room"));
    }

    /// Stopped it finds nothing.
    void stopped()
    {
        const HearingModel model(std::make_shared<const Project>(reaching({pointAt("a", {0, 0, 40})}, 5.0)), {"level"});
        QVERIFY(findOverFloor(model, {}, 1, [](double) { return false; }).empty());
    }

    /// Posts that can never hold, that contradict each other, and that stand in a wall.
    void posts()
    {
        Mesh mesh;
        // A block of 4 m about the origin.
        const double h = 2.0;
        for (int corner = 0; corner < 8; ++corner) {
            mesh.points.push_back({corner & 1 ? h : -h, corner & 2 ? h : -h, corner & 4 ? 4.0 : 0.0});
        }
        const std::array<std::array<std::uint32_t, 3>, 12> faces{{{0, 2, 1},
                                                                  {1, 2, 3},
                                                                  {4, 5, 6},
                                                                  {5, 7, 6},
                                                                  {0, 1, 4},
                                                                  {1, 5, 4},
                                                                  {2, 6, 3},
                                                                  {3, 6, 7},
                                                                  {0, 4, 2},
                                                                  {2, 4, 6},
                                                                  {1, 3, 5},
                                                                  {3, 7, 5}}};
        mesh.materials = {"stone"};
        for (const auto& face : faces) {
            mesh.triangles.push_back({face, 0});
        }
        const auto ground = std::make_shared<const Ground>(std::make_shared<const Mesh>(mesh));
        Project project = fixture::projectWith({pointAt("lamp", {9, 0, 1.6})});
        Post inside;
        inside.id = {"inside"};
        inside.name = "Inside";
        inside.emitter = {"lamp"};
        Post outside = inside;
        outside.id = {"outside"};
        outside.name = "Outside";
        outside.at = {5.0, 0.0, 0.0};
        outside.least_db = -10.0;
        Post against = outside;
        against.id = {"against"};
        against.expects = Post::Expects::unheard;
        Post gone = outside;
        gone.id = {"gone"};
        gone.at = {8.0, 0.0, 0.0};
        gone.emitter = {"nobody"};
        const auto with = [&](std::vector<Post> list) {
            Level level = *project.levels[0];
            for (const Post& post : list) {
                level.posts.put(post);
            }
            std::vector<Finding> found;
            findInPosts(level, ground.get(), found);
            return found;
        };
        QCOMPARE(codesOf(with({inside})), std::vector<std::string>{"post-in-wall"});
        QVERIFY(with({outside}).empty());
        const auto clash = with({outside, against});
        QCOMPARE(codesOf(clash), std::vector<std::string>{"posts-contradict"});
        QVERIFY(QString::fromStdString(clash[0].what).contains("50.0 dB apart"));
        QCOMPARE(codesOf(with({gone})), std::vector<std::string>{"post-never"});
        gone.on = false;
        against.on = false;
        QVERIFY(with({outside, against, gone}).empty());
    }
};

} // namespace tst_floor_findings

STONE_TEST(tst_floor_findings, TestFloorFindings)
#include "tst_floor_findings.moc"
