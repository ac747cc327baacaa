// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/findings.h"
#include "analysis/repetition.h"
#include "analysis/walls_findings.h"
#include "support/boxes.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"
#include "world/walk_making.h"

#include <QTemporaryDir>
#include <QTest>

#include <algorithm>
#include <cmath>
#include <random>
#include <set>

namespace tst_findings
{

using namespace stone;

/// What is found in ambiences: a document with one slip each, and that it is gone when it is put right.
class TestFindings : public QObject
{
    Q_OBJECT

private:
    static std::vector<Finding> found(const Project& project)
    {
        SoundBank bank(48'000);
        return findAll({project, {}, {}, bank, filesInside("/nowhere"), Loading::now});
    }
    static bool has(const Project& project, const std::string& code)
    {
        const auto all = found(project);
        return std::any_of(all.begin(), all.end(), [&](const Finding& f) { return f.code == code; });
    }
    static Project read(const QString& level)
    {
        const QString text = QString(R"({"sounds": [{"id": "loop", "file": "a.wav", "loop": true},
                                                    {"id": "once", "files": [{"file": "a.wav"}, {"file": "b.wav"}], "loop": false}],
                                         "falloffs": [{"id": "f", "lanes": [{"reference_m": 1, "silent_at_m": 5}]}],
                                         "signals": [{"id": "ring"}], "game_values": [{"id": "wind"}],
                                         "levels": [{"id": "level", %1}]})")
                                 .arg(level);
        return readProjectText(text.toStdString(), "test").project;
    }

    static std::vector<Finding> heardThrough(const Project& project, const OutputInUse& output)
    {
        SoundBank bank(48'000);
        return findAll({project, {}, {}, bank, filesInside("/nowhere"), Loading::now, output});
    }

private slots:
    /// What an output cannot tell apart is said while it is listened to, and gone with one that can.
    void whatTheOutputCannotTellApartIsSaid()
    {
        const Project flat = read(R"("emitters": [{"sound": "loop", "at": [0, 5, 1.6], "falloff": "f"}])");
        const Project high = read(R"("emitters": [{"sound": "loop", "at": [0, 5, 9], "falloff": "f"}])");
        const Project bed = read(R"("emitters": [{"sound": "loop", "kind": "bed", "falloff": "f"}])");
        const auto says = [](const Project& project, Layout layout, const char* code) {
            const auto all = heardThrough(project, {.layout = layout});
            return std::any_of(all.begin(), all.end(), [&](const Finding& f) { return f.code == code; });
        };
        QVERIFY(says(flat, Layout::stereo, "output-front-back"));
        QVERIFY(!says(bed, Layout::stereo, "output-front-back"));
        QVERIFY(!says(flat, Layout::binaural, "output-front-back") && !says(flat, Layout::quad, "output-front-back"));
        QVERIFY(says(high, Layout::quad, "output-height") && says(high, Layout::surround71, "output-height"));
        QVERIFY(!says(flat, Layout::quad, "output-height"));
        QVERIFY(!says(high, Layout::surround714, "output-height") && !says(high, Layout::binaural, "output-height"));
        QVERIFY(!has(high, "output-front-back")); // nobody listens
    }

    void peaksBeyondFullScaleAreToldWithMomentAndCause()
    {
        const Project project = read(R"("emitters": [{"sound": "loop", "falloff": "f"}])");
        const auto all = heardThrough(
            project, {.layout = Layout::binaural, .over_db = 5.2, .over_s = 62.4, .loudest = "the reverb of Hall"});
        const auto over = std::find_if(all.begin(), all.end(), [](const Finding& f) { return f.code == "output-over"; });
        QVERIFY(over != all.end());
        QCOMPARE(over->what, std::string("peaks reach 5.2 dB over full scale, at 1:02.4, when the reverb of Hall is loudest: "
                                         "your ears get them limited, a render keeps them"));
        const auto none = heardThrough(project, {.layout = Layout::binaural});
        QVERIFY(std::none_of(none.begin(), none.end(), [](const Finding& f) { return f.code == "output-over"; }));
    }

    /// Walls are in the way of a walk; tables, lintels, and walls that it goes round are not.
    void walksThroughWallsAreFound()
    {
        const auto foundOn = [](const std::vector<Vec3>& places, double low, double high) {
            Mesh mesh;
            mesh.materials = {"brick"};
            fixture::addBox(mesh, {-20, -20, -0.2}, {20, 20, 0});
            fixture::addBox(mesh, {4, -2, low}, {4.2, 2, high});
            Project project = read(R"("emitters": [{"sound": "loop", "falloff": "f"}])");
            project = withLevel(std::move(project), {"level"}, [&](Level& level) {
                Walk walk = walkThrough(places, 1.0);
                walk.id = {"w"};
                walk.name = "across";
                level.walks.put(walk);
            });
            SoundBank bank(48'000);
            const auto all =
                findAll({project, {}, {{{"level"}, fixture::groundOf(mesh), {}}}, bank, filesInside("/nowhere"), Loading::now});
            const auto finding =
                std::find_if(all.begin(), all.end(), [](const Finding& f) { return f.code == "walk-through-wall"; });
            return finding != all.end() ? finding->what : std::string();
        };
        const std::vector<Vec3> across{{-8, 0, 0}, {0, 0, 0}, {8, 0, 0}};
        QCOMPARE(foundOn(across, 0.0, 3.0), std::string("\"across\" goes through a wall between its points 2 and 3"));
        QCOMPARE(foundOn(across, 0.0, 0.8), std::string());
        QCOMPARE(foundOn(across, 1.2, 3.0), std::string());
        QCOMPARE(foundOn({{0, 0, 0}, {0, 4, 0}, {8, 4, 0}, {8, 0, 0}}, 0.0, 3.0), std::string());
    }

    void levelsThatAddUpTooFarAreFound()
    {
        const auto project = [](double level_db) {
            return readProjectText(
                       QString(R"({"sounds": [{"id": "s", "level_db": %1, "files": [{"file": "a.wav", "level_db": %1}]}],
                                              "families": [{"id": "f", "level_db": %1}],
                                              "emitters": [{"sound": "s", "family": "f", "level_db": %1}]})")
                           .arg(level_db)
                           .toStdString(),
                       "test")
                .project;
        };
        QVERIFY(has(project(60.0), "gain-high"));
        QVERIFY(has(project(6.5), "gain-high"));
        QVERIFY(!has(project(6.0), "gain-high"));
    }

    void slipsOfGazes_data()
    {
        QTest::addColumn<QString>("code");
        QTest::addColumn<QString>("wrong");
        QTest::addColumn<QString>("right");
        const auto lane = [](double inner, double outer, double behind) {
            return QString(
                       R"("lanes": [{"property": "level", "over": "gaze", "shape": "two_angles", "inner_deg": %1, "outer_deg": %2, "behind": %3}])")
                .arg(inner)
                .arg(outer)
                .arg(behind);
        };
        QTest::newRow("at a stroke") << "gaze-narrow"
                                     << R"("rise_s": 0, )" + lane(40, 44, -12) << R"("rise_s": 0.2, )" + lane(40, 44, -12);
        QTest::newRow("wide is no stroke") << "gaze-narrow"
                                           << R"("fall_s": 0, )" + lane(40, 40, -12) << R"("fall_s": 0, )" + lane(40, 140, -12);
        QTest::newRow("vital") << "gaze-vital" << lane(40, 120, -12) << R"("exempt": ["e"], )" + lane(40, 120, -12);
        QTest::newRow("signal gone") << "gaze-gone"
                                     << R"("when": "signal", "from": "no", )" + lane(40, 120, -2)
                                     << R"("when": "signal", "from": "ring", )" + lane(40, 120, -2);
        QTest::newRow("zone gone") << "gaze-gone"
                                   << R"("when": "zone", "zone": "no", )" + lane(40, 120, -2)
                                   << R"("when": "zone", "zone": "z", )" + lane(40, 120, -2);
        QTest::newRow("idle") << "gaze-idle"
                              << R"("rise_s": 1)" << lane(40, 120, -2);
    }
    void slipsOfGazes()
    {
        QFETCH(QString, code);
        QFETCH(QString, wrong);
        QFETCH(QString, right);
        const auto project = [](const QString& gaze) {
            const QString text =
                QString(
                    R"({"sounds": [{"id": "loop", "file": "a.wav"}], "signals": [{"id": "ring"}], "gazes": [{"id": "g", %1}],
                "levels": [{"id": "level", "zones": [{"id": "z"}], "emitters": [{"id": "e", "sound": "loop", "priority": "vital"}]}]})")
                    .arg(gaze);
            return readProjectText(text.toStdString(), "test").project;
        };
        QVERIFY(has(project(wrong), code.toStdString()));
        QVERIFY(!has(project(right), code.toStdString()));
        // A remedy, where there is one, puts it right.
        for (const Finding& finding : found(project(wrong))) {
            if (finding.code == code.toStdString() && !finding.remedies.empty()) {
                QVERIFY(!has(finding.remedies[0].apply(project(wrong)), code.toStdString()));
            }
        }
    }

    /// What is shut in by a wall, by its own housing, or heard beyond the walls' reach.
    void slipsOfWalls()
    {
        Mesh mesh;
        mesh.materials = {"brick"};
        fixture::addBox(mesh, {-5, 4, 0}, {5, 6, 4});
        mesh.nodes.push_back({"wall", {}, 0, 12});
        fixture::addBox(mesh, {-1, 9, 0}, {1, 11, 2});
        mesh.nodes.push_back({"cupboard", {}, 12, 12});
        const auto ground = fixture::groundOf(mesh);
        const auto foundAt = [&](const Vec3& at, const std::function<void(Project&, Emitter&)>& change = {}) {
            Emitter emitter = fixture::pointAt("a", at);
            Project project = fixture::projectWith({emitter});
            if (change) {
                change(project, emitter);
            }
            project = withLevel(std::move(project), {"level"}, [&](Level& l) { l.emitters.put(emitter); });
            std::vector<Finding> all;
            findInWalls(project, *project.levels[0], ground, true, all);
            return std::pair(all, project);
        };
        const auto codes = [](const std::vector<Finding>& all) {
            std::string text;
            for (const Finding& finding : all) {
                text += finding.code + ' ';
            }
            return text;
        };
        QCOMPARE(codes(foundAt({0, 0, 1.6}, [](Project& p, Emitter&) { p.occlusion.reach_m = 1e4; }).first), std::string());
        QVERIFY(codes(foundAt({0, 0, 1.6}, [](Project& p, Emitter&) { p.occlusion.reach_m = 5.0; }).first)
                    .starts_with("walls-end-early"));
        const auto inWall = foundAt({0, 5, 2}, [](Project& p, Emitter&) { p.occlusion.reach_m = 1e4; });
        QCOMPARE(codes(inWall.first), std::string("emitter-in-wall "));
        const Project out = inWall.first[0].remedies[0].apply(inWall.second);
        const Vec3 moved = out.levels[0]->emitters[0]->at;
        QVERIFY2(moved.y < 4.0 || moved.y > 6.0 || moved.z > 4.0, "it is still in the wall");
        QVERIFY(glm::length(moved - Vec3(0, 5, 2)) < 1.6);
        const auto inCupboard = foundAt({0, 10, 1}, [](Project& p, Emitter&) { p.occlusion.reach_m = 1e4; });
        QCOMPARE(codes(inCupboard.first), std::string("own-housing "));
        const Project housed = inCupboard.first[0].remedies[0].apply(inCupboard.second);
        QCOMPARE(housed.levels[0]->emitters[0]->screening.housing, std::string("cupboard"));
        std::vector<Finding> after;
        findInWalls(housed, *housed.levels[0], ground, true, after);
        QVERIFY(after.empty());
        QVERIFY(codes(foundAt({0, 10, 1}, [](Project&, Emitter& e) { e.screening.clear_m = 2.0; }).first).find("housing") ==
                std::string::npos);
    }

    /// Heaps, limits that silence, hold-offs that swallow, and too much that is vital; gone with each remedy.
    void slipsInWhoGivesWay()
    {
        const auto moths = [](const QString& more) {
            return read(
                QString(R"("emitters": [{"id": "m", "kind": "sprinkle", "sound": "once", "falloff": "f", %1}])").arg(more));
        };
        const auto limited = [](Project project, const char* sound, const Limit& limit) {
            Sound next = *project.sounds.find({sound});
            next.limit = limit;
            project.sounds.put(std::move(next));
            return project;
        };
        const auto beds = [](int count) {
            QStringList list;
            for (int i = 0; i < count; ++i) {
                list << QString(R"({"id": "b%1", "kind": "bed", "sound": "loop", "falloff": "f", "family": "all"})").arg(i);
            }
            Project project = read(QString(R"("emitters": [%1])").arg(list.join(',')));
            Family all;
            all.id = {"all"};
            project.families.put(all);
            return project;
        };
        const auto inFamily = [](Project project, int atOnce, bool vital) {
            Family all = *project.families.find({"all"});
            all.limit.atOnce = atOnce;
            all.priority = vital ? std::optional(Priority::vital) : std::nullopt;
            project.families.put(std::move(all));
            return project;
        };
        const auto withVoices = [](Project project, int voices) {
            project.voices = voices;
            return project;
        };
        const Project bell = read(R"("emitters": [{"id": "b", "sound": "once", "falloff": "f", "starting":
            {"starts": [{"on": "signal", "signal": "ring"}], "second": "another"}}])");
        const Project one = read(R"("emitters": [{"id": "b", "sound": "once", "falloff": "f", "starting":
            {"starts": [{"on": "signal", "signal": "ring"}], "second": "restart"}}])");
        const struct {
            const char* code;
            Project wrong;
            Project right;
        } cases[] = {
            {"piles-up", bell, one},
            {"piles-up", bell, limited(bell, "once", {.atOnce = 3})},
            {"piles-up", moths(R"("sprinkle": {"at_once": 20})"), moths(R"("sprinkle": {"at_once": 3})")},
            {"always-silenced", limited(beds(3), "loop", {.atOnce = 2}), limited(beds(3), "loop", {.atOnce = 3})},
            {"always-silenced", inFamily(beds(3), 1, false), inFamily(beds(3), 3, false)},
            {"always-silenced", withVoices(beds(3), 2), withVoices(beds(3), 3)},
            {"hold-off-swallows", limited(moths(R"("sprinkle": {"least_s": 1, "most_s": 2})"), "once", {.holdOff_s = 3}),
             limited(moths(R"("sprinkle": {"least_s": 1, "most_s": 5})"), "once", {.holdOff_s = 3})},
            {"all-vital", inFamily(beds(6), 0, true), inFamily(beds(6), 0, false)},
        };
        for (const auto& [code, wrong, right] : cases) {
            QVERIFY2(has(wrong, code), code);
            QVERIFY2(!has(right, code), code);
            for (const Finding& finding : found(wrong)) {
                for (const Remedy& remedy : finding.remedies) {
                    QVERIFY2(finding.code != code || !has(remedy.apply(wrong), code), code);
                }
            }
        }
    }

    /// What game values and families wait for or follow, and is gone: said, and gone with its remedy.
    void steeringThatLeadsNowhere()
    {
        const Project fine = read(R"("emitters": [])");
        Lane lane;
        lane.property = LaneProperty::level;
        lane.over = LaneInput::gameValue;
        lane.value = {"wind"};
        lane.shape = LaneShape::curve;
        lane.curve = {{0.0, 0.0}};
        const auto withValue = [&](SignalId GameValue::*member, const char* signal) {
            Project project = fine;
            GameValue value = *project.gameValues[0];
            value.*member = {signal};
            project.gameValues.put(std::move(value));
            return project;
        };
        const auto withFamily = [&](const char* value, const char* falloff, const char* when) {
            Project project = fine;
            Family family;
            family.id = {"voices"};
            lane.value = {value};
            family.lanes = {lane};
            family.otherFalloff = {falloff};
            family.otherWhen.value = {when};
            project.families.put(std::move(family));
            return project;
        };
        const struct {
            const char* code;
            Project wrong;
            Project right;
        } cases[] = {
            {"value-signal-gone", withValue(&GameValue::mostOn, "sing"), withValue(&GameValue::mostOn, "ring")},
            {"value-signal-gone", withValue(&GameValue::restOn, "sing"), withValue(&GameValue::restOn, "ring")},
            {"family-value-gone", withFamily("rain", "", ""), withFamily("wind", "", "")},
            {"family-falloff-gone", withFamily("wind", "g", "wind"), withFamily("wind", "f", "wind")},
            {"family-falloff-gone", withFamily("wind", "f", "rain"), withFamily("wind", "f", "wind")},
        };
        for (const auto& [code, wrong, right] : cases) {
            QVERIFY2(has(wrong, code), code);
            QVERIFY2(!has(right, code), code);
            for (const Finding& finding : found(wrong)) {
                for (const Remedy& remedy : finding.remedies) {
                    QVERIFY2(!has(remedy.apply(wrong), code), code);
                }
            }
        }
    }

    void slipsOfAmbiences_data()
    {
        QTest::addColumn<QString>("code");
        QTest::addColumn<QString>("wrong");
        QTest::addColumn<QString>("right");
        const auto emitter = [](const QString& more, const char* kind = "point", const char* sound = "loop") {
            return QString(R"("emitters": [{"id": "e", "kind": "%1", "sound": "%2", "falloff": "f"%3}])")
                .arg(kind, sound, more.isEmpty() ? QString() : ", " + more);
        };
        const auto zones = [](const QString& list, const QString& emitters = {}) {
            return QString(R"("zones": [%1], "emitters": [%2])").arg(list, emitters);
        };
        const QString bedA = R"({"id": "ba", "kind": "bed", "sound": "loop", "falloff": "f", "zone": "a"})";
        const QString bedB = R"({"id": "bb", "kind": "bed", "sound": "loop", "falloff": "f", "zone": "b"})";
        const auto box = [](const char* id, double x, double size, const QString& more = {}) {
            return QString(R"({"id": "%1", "at": [%2, 0, 0], "shape": {"is": "box", "size_m": [%3, %3, 4]}%4})")
                .arg(id)
                .arg(x)
                .arg(size)
                .arg(more);
        };
        QTest::newRow("overlap") << "zones-overlap" << zones(box("a", 0, 20) + ',' + box("b", 12, 20), bedA + ',' + bedB)
                                 << zones(box("a", 0, 20) + ',' + box("b", 21, 20), bedA + ',' + bedB);
        const QString shortFall = R"("own_falloff": {"lanes": [{"silent_at_m": 2}]})";
        const QString near = R"("falloff": "f")";
        QTest::newRow("gap") << "zones-gap"
                             << zones(box("a", 0, 10) + ',' + box("b", 15.5, 10),
                                      QString(bedA).replace(near, shortFall) + ',' + QString(bedB).replace(near, shortFall))
                             << zones(box("a", 0, 10) + ',' + box("b", 15.5, 10), bedA + ',' + bedB);
        QTest::newRow("child too large") << "zone-outgrows"
                                         << zones(box("a", 0, 10) + ',' + box("b", 0, 30, R"(, "parent": "a")"))
                                         << zones(box("a", 0, 30) + ',' + box("b", 0, 10, R"(, "parent": "a")"));
        QTest::newRow("ring of parents") << "zone-parent"
                                         << zones(box("a", 0, 10, R"(, "parent": "b")") + ',' +
                                                  box("b", 0, 10, R"(, "parent": "a")"))
                                         << zones(box("a", 0, 20) + ',' + box("b", 0, 10, R"(, "parent": "a")"));
        QTest::newRow("no margin") << "hard-cut" << zones(box("a", 0, 10, R"(, "margin_m": 0)"), bedA)
                                   << zones(box("a", 0, 10), bedA);
        QTest::newRow("cut fade")
            << "hard-cut"
            << zones(
                   box("a", 0, 30) + ',' +
                   box("b", 0, 10,
                       R"(, "parent": "a", "fades": [{"over": "depth", "points": [{"x": 0, "y": 0}, {"x": 0.2, "y": -96}]}])"))
            << zones(box("a", 0, 30) + ',' + box("b", 0, 10, R"(, "parent": "a")"));
        QTest::newRow("crossed")
            << "outline-crosses"
            << zones(R"({"id": "a", "shape": {"is": "prism", "points": [[0, 0], [9, 9], [9, 0], [0, 9]]}})")
            << zones(R"({"id": "a", "shape": {"is": "prism", "points": [[0, 0], [9, 0], [9, 9], [0, 9]]}})");
        QTest::newRow("area's border") << "hard-cut" << emitter(R"("placement": {"near_range_m": 0})", "area")
                                       << emitter({}, "area");
        QTest::newRow("rhythm") << "regular-rhythm" << emitter(R"("sprinkle": {"least_s": 5, "most_s": 5})", "sprinkle", "once")
                                << emitter(R"("sprinkle": {"least_s": 2, "most_s": 8})", "sprinkle", "once");
        QTest::newRow("one file") << "same-each-time" << emitter({}, "sprinkle", "loop") << emitter({}, "sprinkle", "once");
        QTest::newRow("out of earshot") << "out-of-earshot"
                                        << emitter(R"("sprinkle": {"nearest_m": 9, "farthest_m": 12})", "sprinkle", "once")
                                        << emitter(R"("sprinkle": {"nearest_m": 1, "farthest_m": 4})", "sprinkle", "once");
        QTest::newRow("jumps") << "jumps-back"
                               << emitter(
                                      R"("roamer": {"stops": [{"at": [0, 0]}, {"at": [5, 0]}], "round_end": "starts_over"})",
                                      "roamer")
                               << emitter(R"("roamer": {"stops": [{"at": [0, 0]}, {"at": [5, 0]}]})", "roamer");
        QTest::newRow("no stops") << "no-way" << emitter({}, "roamer")
                                  << emitter(R"("roamer": {"stops": [{"at": [0, 0]}, {"at": [5, 0]}]})", "roamer");
        QTest::newRow("never starts") << "never-starts" << emitter(R"("starting": {"starts": []})")
                                      << emitter(R"("starting": {"starts": [{"on": "signal", "signal": "ring"}]})");
        QTest::newRow("signal gone") << "never-starts"
                                     << emitter(R"("starting": {"starts": [{"on": "signal", "signal": "sing"}]})")
                                     << emitter(R"("starting": {"starts": [{"on": "signal", "signal": "ring"}]})");
        QTest::newRow("one-shot") << "one-shot-at-start" << emitter({}, "point", "once")
                                  << emitter(R"("start_after_s": 3)", "point", "once");
        QTest::newRow("bed runs out") << "bed-runs-out" << emitter({}, "bed", "once")
                                      << emitter(R"("starting": {"rounds": "endless"})", "bed", "once");
        QTest::newRow("value gone")
            << "value-gone" << emitter(R"("lanes": [{"over": "game_value", "value": "rain", "points": [{"x": 0, "y": 0}]}])")
            << emitter(R"("lanes": [{"over": "game_value", "value": "wind", "points": [{"x": 0, "y": 0}]}])");
        QTest::newRow("carrier gone") << "carrier-gone" << emitter(R"("riding": {"on": "roamer", "roamer": "nobody"})")
                                      << emitter(R"("riding": {"on": "character"})");
        QTest::newRow("pulse of nothing") << "pulse-of-nothing"
                                          << emitter(R"("pulse": {"drops": false, "walls": false, "water": false})", "pulse",
                                                     "once")
                                          << emitter(R"("pulse": {"drops": false, "walls": false})", "pulse", "once");
        QTest::newRow("pulse without a sound") << "pulse-silent" << emitter({}, "pulse", "") << emitter({}, "pulse", "once");
        QTest::newRow("pulse without a floor") << "pulse-without-floor" << emitter({}, "pulse", "once")
                                               << R"("geometry": {"file": "yard.obj"}, )" + emitter({}, "pulse", "once");
        QTest::newRow("loop falls") << "loop-falls" << emitter({}, "sprinkle", "loop") << emitter({}, "sprinkle", "once");
        QTest::newRow("zone gone") << "zone-gone" << emitter(R"("zone": "nowhere")") << emitter({});
    }
    void slipsOfAmbiences()
    {
        QFETCH(QString, code);
        QFETCH(QString, wrong);
        QFETCH(QString, right);
        const Project project = read(wrong);
        QVERIFY(has(project, code.toStdString()));
        QVERIFY(!has(read(right), code.toStdString()));
        // Each way to put it right does, and touches nothing else that was found.
        for (const Finding& finding : found(project)) {
            if (finding.code != code.toStdString()) {
                continue;
            }
            for (const Remedy& remedy : finding.remedies) {
                const Project mended = remedy.apply(project);
                const auto left = found(mended);
                QVERIFY2(std::none_of(left.begin(), left.end(),
                                      [&](const Finding& f) { return f.code == finding.code && f.where == finding.where; }),
                         remedy.label.c_str());
            }
        }
    }

    /// By the files' loudness and all that is set, at the ears, along the walks.
    void stepsAreComparedWithTheRest()
    {
        QTemporaryDir folder;
        fixture::writeTone(folder.filePath("a.wav").toStdString(), 500.0, 1.0, 48'000, 1, 0.5);
        fixture::writeTone(folder.filePath("b.wav").toStdString(), 500.0, 1.0, 48'000, 1, 0.05);
        SoundBank bank(48'000);
        const auto loudest = [&](double lamp_db, const QString& stepsSound) {
            const Project project =
                read(QString(R"("walks": [{"points": [{"t_s": 0, "at": [0, 0, 0]}, {"t_s": 9, "at": [0, 4, 0]}]}],
                "emitters": [{"id": "lamp", "sound": "quiet", "falloff": "f", "at": [0, 2, 1.6], "level_db": %1},
                             {"id": "feet", "kind": "steps", "sound": "%2", "falloff": "f"}])")
                         .arg(lamp_db)
                         .arg(stepsSound));
            Project next = project;
            for (const auto& [id, file] : {std::pair("quiet", "b.wav"), std::pair("loop", "a.wav")}) {
                Sound sound;
                sound.id = {id};
                sound.name = id;
                sound.files = {{.file = file}};
                next.sounds.put(sound);
            }
            const auto all = findAll({next, {}, {}, bank, filesInside(folder.path().toStdString()), Loading::now});
            return std::any_of(all.begin(), all.end(), [](const Finding& f) { return f.code == "steps-loudest"; });
        };
        // Steps lie 1.6 m from the ears, 4 dB down; the lamp 2 m from both ends of the walk, 6 dB down.
        QVERIFY(loudest(0.0, "loop")); // 20 dB louder as a file
        QVERIFY(loudest(15.0, "loop"));
        QVERIFY(!loudest(25.0, "loop"));
        QVERIFY(!loudest(4.0, "quiet"));
        QVERIFY(!loudest(0.0, "gone"));
    }

    /// What comes round again is found at its time; what does not is not; what is even is not heard.
    void repeatsAreHeard()
    {
        constexpr double rate = 24'000.0;
        std::mt19937 random(5);
        std::normal_distribution<float> noise(0.0F, 0.05F);
        std::uniform_real_distribution<double> chance(0.0, 1.0);
        const auto claps = [&](double seconds, double perSecond) {
            std::vector<float> x(static_cast<std::size_t>(seconds * rate));
            for (double at = 0.0; at < seconds - 0.4; at += -std::log(1.0 - chance(random)) / perSecond) {
                const auto from = static_cast<std::size_t>(at * rate);
                for (std::size_t i = 0; i < static_cast<std::size_t>(0.3 * rate); ++i) {
                    x[from + i] +=
                        10.0F * noise(random) * static_cast<float>(std::exp(-static_cast<double>(i) / (0.06 * rate)));
                }
            }
            for (float& sample : x) {
                sample += 0.2F * noise(random);
            }
            return x;
        };
        const auto looped = [&](const std::vector<float>& loop, double seconds) {
            std::vector<float> x(static_cast<std::size_t>(seconds * rate));
            for (std::size_t i = 0; i < x.size(); ++i) {
                x[i] = loop[i % loop.size()];
            }
            return x;
        };
        const std::vector<float> seven = looped(claps(7.0, 0.8), 90.0);
        const Repetition once = listenForRepeats(seven, rate);
        QVERIFY(once.audible() && std::abs(*once.after_s - 7.0) < 0.11 && once.likenessThere > 0.95);
        // A second layer of its own length blurs it; the first peak is one of the two lengths.
        std::vector<float> both = looped(claps(11.0, 0.8), 90.0);
        for (std::size_t i = 0; i < both.size(); ++i) {
            both[i] += seven[i];
        }
        const Repetition layered = listenForRepeats(both, rate);
        QVERIFY(layered.likeness[70] < 0.9 && layered.likeness[70] < once.likeness[70]);
        const Repetition never = listenForRepeats(claps(90.0, 0.8), rate);
        QVERIFY(!never.after_s && never.swing_db > 3.0);
        std::vector<float> rain(static_cast<std::size_t>(5.0 * rate));
        std::generate(rain.begin(), rain.end(), [&] { return noise(random); });
        const Repetition even = listenForRepeats(looped(rain, 60.0), rate);
        QVERIFY(even.after_s && std::abs(*even.after_s - 5.0) < 0.11 && !even.audible());
        QVERIFY(even.density > 0.99 && std::abs(even.level_db[10] - 20.0 * std::log10(0.05)) < 0.5);
        QVERIFY(listenForRepeats({}, rate).likeness.empty() && !listenForRepeats(std::vector<float>(240'000), rate).after_s);
    }
};

} // namespace tst_findings

STONE_TEST(tst_findings, TestFindings)
#include "tst_findings.moc"
