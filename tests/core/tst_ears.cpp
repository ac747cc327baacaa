// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/findings.h"
#include "analysis/rig_comparison.h"
#include "project/read.h"
#include "project/write.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"
#include "world/replay.h"
#include "world/stance.h"

#include <QTest>

#include <algorithm>
#include <cmath>
#include <set>

namespace tst_ears
{

using namespace stone;

namespace
{

Rig rigOfKind(Rig::Kind kind)
{
    Rig rig;
    rig.id = {"rig"};
    rig.name = "Rig";
    rig.kind = kind;
    return rig;
}

bool near(const Vec3& a, const Vec3& b, double within = 1e-9)
{
    return glm::length(a - b) < within;
}

/// A wall from x = -50 to 50 at a northing, its faces outwards.
std::shared_ptr<const Ground> wallAt(double y)
{
    Mesh mesh;
    const double low = y - 0.1;
    const double high = y + 0.1;
    mesh.points = {{-50, low, -1},  {50, low, -1},  {50, low, 9},  {-50, low, 9},
                   {-50, high, -1}, {50, high, -1}, {50, high, 9}, {-50, high, 9}};
    for (const auto& t : {std::array{0U, 1U, 2U}, {0U, 2U, 3U}, {5U, 4U, 7U}, {5U, 7U, 6U}}) {
        mesh.triangles.push_back({t, 0});
    }
    return std::make_shared<const Ground>(std::make_shared<const Mesh>(std::move(mesh)));
}

} // namespace

/// From where a level is looked at and listened to.
class TestEars : public QObject
{
    Q_OBJECT

private slots:
    /// Each kind's camera against its construction by hand.
    void camerasStandWhereTheyShould()
    {
        const Pose head{{10, 20, 1.6}, 90.0, -5.0, 0.0}; // looks east
        QVERIFY(cameraOf(rigOfKind(Rig::Kind::firstPerson), head) == head);
        Rig shoulder = rigOfKind(Rig::Kind::overShoulder);
        shoulder.distance_m = 4.0;
        shoulder.height_m = 0.5;
        shoulder.angle_deg = 30.0;
        // Behind is west; 30 degrees to the right of straight behind a person who looks east is towards the south.
        const Pose behind = cameraOf(shoulder, head);
        QVERIFY(near(behind.at, {10 - 4 * std::cos(radians(30.0)), 20 - 4 * std::sin(radians(30.0)), 2.1}));
        QVERIFY(behind.heading_deg == 90.0 && behind.pitch_deg == -5.0);
        Rig above = rigOfKind(Rig::Kind::fromAbove);
        above.distance_m = 10.0;
        above.tilt_deg = 60.0;
        const Pose over = cameraOf(above, head);
        QVERIFY(near(over.at, {10 - 5.0, 20, 1.6 + 10 * std::sin(radians(60.0))}));
        QVERIFY(over.pitch_deg == -60.0);
        above.turns = false;
        above.heading_deg = 0.0;
        QVERIFY(near(cameraOf(above, head).at, {10, 15.0, 1.6 + 10 * std::sin(radians(60.0))}));
        Rig side = rigOfKind(Rig::Kind::sideOn);
        side.distance_m = 8.0;
        side.height_m = 1.0;
        side.heading_deg = 0.0;
        QVERIFY(near(cameraOf(side, head).at, {10, 12, 2.6}));
        QVERIFY(cameraOf(side, head).heading_deg == 0.0);
    }

    void earsAreBetweenHeadAndCamera()
    {
        Character character;
        const Pose feet{{1, 2, 0}, 45.0, 0.0, 0.0};
        Rig rig = rigOfKind(Rig::Kind::fromAbove);
        for (const double share : {0.0, 0.25, 1.0}) {
            rig.ears = share;
            rig.raised_m = 0.3;
            const Stance stance = stanceOf(rig, character, feet, 1.0);
            const Vec3 between = stance.head.at + (stance.camera.at - stance.head.at) * share + Vec3{0, 0, 0.3};
            QVERIFY(near(stance.ears.at, between));
        }
        rig.facing = Rig::Facing::camera;
        QVERIFY(stanceOf(rig, character, feet, 1.0).ears.pitch_deg == 0.0); // level, though the camera looks down
        QVERIFY(stanceOf(rig, character, feet, 1.0).camera.pitch_deg == -60.0);
        rig.facing = Rig::Facing::character;
        QVERIFY(stanceOf(rig, character, feet, 1.0).ears.pitch_deg == 0.0);
        rig.facing = Rig::Facing::fixed;
        rig.fixed_deg = 200.0;
        QVERIFY(stanceOf(rig, character, feet, 1.0).ears.heading_deg == 200.0);
    }

    /// Backing up to a wall the camera stays before it, and moves no faster than it may; nothing jumps on the way back.
    void theCameraIsKeptOutOfWalls()
    {
        Project project = blankProject();
        Rig rig = rigOfKind(Rig::Kind::overShoulder);
        rig.distance_m = 4.0;
        rig.height_m = 0.0;
        rig.angle_deg = 0.0;
        rig.ears = 1.0;
        project.rigs.put(rig);
        project.rig = rig.id;
        const Character character;
        const auto ground = wallAt(0.0);
        Listener listener;
        constexpr double step_s = 256.0 / 48'000.0;
        Vec3 before{0.0};
        double nearest = 100.0;
        for (int i = 0; i < 4000; ++i) {
            const double t = i * step_s;
            // Looks north; walks back from y = 10 to y = 0.5 at 2 m/s, then ahead again.
            const double y = t < 4.75 ? 10.0 - 2.0 * t : std::min(0.5 + 2.0 * (t - 4.75), 10.0);
            const Stance stance = listener.step(project, character, {{3, y, 0}, 0, 0, 0}, ground.get(), step_s, i == 0);
            QVERIFY(stance.camera.at.y > 0.1); // on this side of the wall
            nearest = std::min(nearest, stance.camera.at.y);
            if (i > 0) {
                const double moved = glm::length(stance.ears.at - before);
                QVERIFY2(moved <= (Listener::pull_m_s + 2.0) * step_s + 1e-9, qPrintable(QString::number(moved / step_s)));
            }
            before = stance.ears.at;
        }
        QVERIFY(nearest < 0.35);
        QVERIFY(std::abs(before.y - 6.0) < 1e-3); // and has let go again: four metres behind ten
    }

    /// Another rig is gone over to in its time, without a step; the same one edited is there at once.
    void rigsAreSwitchedSmoothly()
    {
        Project project = blankProject();
        Rig rig = rigOfKind(Rig::Kind::fromAbove);
        rig.distance_m = 12.0;
        rig.ears = 1.0;
        project.rigs.put(rig);
        const Character character;
        const Pose feet{{0, 0, 0}, 30, 0, 0};
        Listener listener;
        constexpr double step_s = 256.0 / 48'000.0;
        Stance stance = listener.step(project, character, feet, nullptr, step_s, true);
        QVERIFY(near(stance.ears.at, {0, 0, 1.6}));
        project.rig = rig.id;
        Vec3 before = stance.ears.at;
        double fastest = 0.0;
        double took_s = 0.0;
        for (int i = 0; i < 400; ++i) {
            stance = listener.step(project, character, feet, nullptr, step_s, false);
            fastest = std::max(fastest, glm::length(stance.ears.at - before) / step_s);
            took_s += glm::length(stance.ears.at - before) > 1e-9 ? step_s : 0.0;
            before = stance.ears.at;
        }
        // A smooth step's steepest is one and a half times its mean.
        QVERIFY2(std::abs(fastest - 1.5 * 12.0 / Listener::turnOver_s) < 1.0, qPrintable(QString::number(fastest)));
        QVERIFY(std::abs(took_s - Listener::turnOver_s) < 0.03);
        QVERIFY(near(stance.ears.at, stanceOf(rig, character, feet, 1.0).ears.at));
    }

    /// What is heard along a walk is heard from the rig's ears, in the world's state as in a render.
    void everythingListensThroughTheRig()
    {
        Project project = fixture::projectWith({fixture::pointAt("bell", {0, 10, 1.6})});
        Rig rig = rigOfKind(Rig::Kind::overShoulder);
        rig.distance_m = 5.0;
        rig.height_m = 0.0;
        rig.angle_deg = 0.0;
        rig.ears = 1.0;
        project.rigs.put(rig);
        project = withLevel(std::move(project), {"level"}, [](Level& l) {
            l.walks.put({{"w"},
                         "Walk",
                         {{.t_s = 0, .at = {0, 0, 0}, .heading_deg = 0.0}, {.t_s = 4, .at = {0, 4, 0}, .heading_deg = 0.0}},
                         {},
                         {}});
        });
        const auto energy = [&](const RigId& id) {
            Project with = project;
            with.rig = id;
            OfflineJob job;
            job.scene = fixture::sceneOf(with, {fixture::toneBuffer()});
            job.to_s = 4.0;
            followWalk(job, *job.scene->model.level().walks[0]);
            double last = 0.0;
            std::size_t frame = 0;
            renderOffline(job,
                          [&](std::span<const float> frames) {
                              for (std::size_t i = 0; i < frames.size(); i += 2, ++frame) {
                                  last += frame >= 3 * 48'000 ? static_cast<double>(frames[i]) * static_cast<double>(frames[i])
                                                              : 0.0;
                              }
                          },
                          {});
            return last;
        };
        // The inverse law: from 7 to 6 m through one, from 12 to 11 m through the other.
        const double ratio_db = 10.0 * std::log10(energy({}) / energy(rig.id));
        const auto mean = [](double a, double b) { return 1.0 / (a * b); }; // of 1 / r^2 over a straight way
        QVERIFY2(std::abs(ratio_db - 10.0 * std::log10(mean(6, 7) / mean(11, 12))) < 0.05,
                 qPrintable(QString::number(ratio_db)));
        const RigComparison compared = compareRigs(project, {"level"}, nullptr, *project.levels[0]->walks[0], {}, rig.id, {});
        QCOMPARE(compared.rows.size(), std::size_t(1));
        QVERIFY(std::abs(compared.rows[0].level_db.front() - 20.0 * std::log10(10.0 / 15.0)) < 0.1F);
        QVERIFY(std::abs(compared.rows[0].level_db.back() - 20.0 * std::log10(6.0 / 11.0)) < 0.1F);
        QVERIFY(std::abs(compared.rows[0].mostLevel_db - 20.0 * std::log10(6.0 / 11.0)) < 0.1);
        QVERIFY(compareRigs(project, {"level"}, nullptr, *project.levels[0]->walks[0], {}, rig.id, [](double) {
                    return false;
                }).rows.empty());
    }

    void whoCounts()
    {
        Project project = blankProject();
        Rig rig = rigOfKind(Rig::Kind::fromAbove);
        rig.distance_m = 20.0;
        rig.tilt_deg = 0.0; // level behind, for plain numbers
        rig.ears = 0.5;
        project.rigs.put(rig);
        project.rig = rig.id;
        Zone zone;
        zone.id = {"z"};
        zone.shape = Box{{6.0, 6.0, 4.0}};
        project = withLevel(std::move(project), {"level"}, [&](Level& l) { l.zones.put(zone); });
        const auto depth = [&](Who who, double y) {
            Project counting = project;
            counting.counting.entering = who;
            const auto world =
                std::make_shared<const World>(std::make_shared<const Project>(counting), LevelId{"level"}, nullptr, LengthOf{});
            WorldState state = Replay(world, Pose{{0, y, 0}, 0, 0, 0}, 0.01).at(0.1);
            return state.zones.depth(0);
        };
        // The ears are 10 m behind the character, the camera 20 m.
        QVERIFY(depth(Who::character, 0.0) > 2.9 && depth(Who::ears, 0.0) == 0.0 && depth(Who::camera, 0.0) == 0.0);
        QVERIFY(depth(Who::ears, 10.0) > 2.9 && depth(Who::character, 10.0) == 0.0);
        QVERIFY(depth(Who::camera, 20.0) > 2.9);

        Emitter area = fixture::pointAt("weir", {0, 0, 0});
        area.kind = EmitterKind::area;
        area.area.shape = Box{{6.0, 6.0, 4.0}};
        area.placement.nearRange_m = 1.0;
        Falloff falloff;
        falloff.lanes.front().formula.silentAt_m = 24.0;
        area.falloff = falloff;
        project = withLevel(std::move(project), {"level"}, [&](Level& l) { l.emitters.put(area); });
        Sound sound;
        sound.id = {"tone"};
        sound.files = {{.file = "tone.wav"}};
        project.sounds.put(sound);
        const auto heard = [&](Who who) {
            Project counting = project;
            counting.counting.nearest = who;
            const HearingModel model(std::make_shared<const World>(std::make_shared<const Project>(counting), LevelId{"level"},
                                                                   nullptr, LengthOf{}));
            const WorldState state = Replay(model.sharedWorld(), Pose{{0, -20, 0}, 0, 0, 0}, 0.01).at(0.1);
            std::vector<Heard> all;
            HearScratch scratch;
            model.hear(model.world().momentOf(state, Ears(state.stance.ears), TimeSpan::at(0.1)), all, scratch);
            return all.empty() ? Heard{} : all[0];
        };
        // The area begins 17 m ahead of the character, 27 m ahead of the ears; it reaches 24 m.
        const Heard fromCharacter = heard(Who::character);
        QVERIFY(fromCharacter.audible && std::abs(fromCharacter.level_db + 20.0 * std::log10(17.0)) < 2.0);
        QVERIFY(fromCharacter.direction.y > 0.9);
        QVERIFY(!heard(Who::ears).audible);
    }

    void rigsAreKeptInTheDocument()
    {
        Project project = blankProject();
        Rig rig = rigOfKind(Rig::Kind::sideOn);
        rig.distance_m = 7.5;
        rig.angle_deg = -20.0;
        rig.turns = false;
        rig.heading_deg = 270.0;
        rig.keptOutOfWalls = false;
        rig.ears = 0.3;
        rig.raised_m = -0.2;
        rig.facing = Rig::Facing::fixed;
        rig.fixed_deg = 12.0;
        rig.extras["later"] = "true";
        project.rigs.put(rig);
        project.rig = rig.id;
        project.counting = {Who::camera, Who::character, Who::ears, {}};
        const ReadProject read = readProjectText(projectText(project), "x");
        QVERIFY(read.project == project);
        QCOMPARE(read.notices.size(), std::size_t(1));
        QVERIFY_EXCEPTION_THROWN(readProjectText(R"({"rigs": [{"kind": "from_below"}]})", "x"), std::exception);
        QVERIFY_EXCEPTION_THROWN(readProjectText(R"({"rigs": [{"ears": 1.5}]})", "x"), std::exception);
    }

    /// The classic faults, and that each remedy mends its own.
    void faultsOfRigsAreFound()
    {
        const auto codes = [](const Project& project) {
            SoundBank bank(48'000);
            std::set<std::string> found;
            for (const Finding& finding : findAll({project, {}, {}, bank, filesInside("/nowhere"), Loading::now})) {
                found.insert(finding.code);
                for (const Remedy& remedy : finding.where.starts_with("rig") ? finding.remedies : std::vector<Remedy>{}) {
                    for (const Finding& left :
                         findAll({remedy.apply(project), {}, {}, bank, filesInside("/nowhere"), Loading::now})) {
                        if (left.code == finding.code) {
                            found.insert("not mended: " + left.code);
                        }
                    }
                }
            }
            return found;
        };
        const auto with = [](const std::function<void(Rig&)>& change) {
            Project project = blankProject();
            Rig rig = rigOfKind(Rig::Kind::fromAbove);
            rig.distance_m = 12.0;
            change(rig);
            project.rigs.put(rig);
            project.rig = rig.id;
            return project;
        };
        const auto plain = codes(with([](Rig&) {}));
        QVERIFY(!plain.contains("ears-off-character") && !plain.contains("ears-high") &&
                !plain.contains("picture-and-sound-turn-apart"));
        QVERIFY(codes(with([](Rig& r) {
                    r.ears = 1.0;
                    r.tilt_deg = 30.0;
                })).contains("ears-off-character"));
        QVERIFY(codes(with([](Rig& r) {
                    r.ears = 1.0;
                    r.tilt_deg = 85.0;
                })).contains("ears-high"));
        QVERIFY(codes(with([](Rig& r) { r.ears = 0.5; })).contains("ears-enter-apart"));
        const auto apart = codes(with([](Rig& r) {
            r.turns = false;
            r.facing = Rig::Facing::character;
        }));
        QVERIFY(apart.contains("picture-and-sound-turn-apart"));
        Project gone = blankProject();
        gone.rig = {"gone"};
        QVERIFY(codes(gone).contains("rig-missing"));
        for (const auto& project : {with([](Rig& r) {
                                        r.ears = 1.0;
                                        r.tilt_deg = 30.0;
                                    }),
                                    with([](Rig& r) {
                                        r.turns = false;
                                        r.facing = Rig::Facing::fixed;
                                    })}) {
            for (const std::string& code : codes(project)) {
                QVERIFY2(!code.starts_with("not mended"), code.c_str());
            }
        }
    }
};

} // namespace tst_ears

STONE_TEST(tst_ears, TestEars)
#include "tst_ears.moc"
