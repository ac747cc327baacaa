// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/range.h"
#include "project/read.h"
#include "project/violations.h"
#include "project/write.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"
#include "support/random_project.h"

#include <QTemporaryDir>
#include <QTest>

#include <algorithm>
#include <cmath>
#include <functional>

namespace tst_invariants
{

using namespace stone;

namespace
{

using Change = std::function<void(Project&)>;

Project start()
{
    Project project = fixture::projectWith({fixture::pointAt("a", {1, 2, 3}), fixture::pointAt("b", {4, 5, 6})});
    Sound sound;
    sound.id = {"rain"};
    sound.name = "Rain";
    sound.files.push_back({.file = "rain.wav"});
    project.sounds.put(sound);
    Falloff falloff;
    falloff.id = {"far"};
    falloff.name = "Far";
    Lane lowPass;
    lowPass.property = LaneProperty::lowPass;
    lowPass.shape = LaneShape::curve;
    lowPass.curve = {{1.0, 20'000.0}, {30.0, 500.0}};
    falloff.lanes.push_back(lowPass);
    project.falloffs.put(falloff);
    return withLevel(project, {"level"}, [](Level& level) {
        Opening door;
        door.id = {"door"};
        door.name = "Back door";
        level.openings.put(door);
        Walk walk;
        walk.id = {"round"};
        walk.name = "Round";
        walk.points.resize(2);
        walk.points[1].t_s = 5.0;
        level.walks.put(walk);
    });
}

template <class Thing, class Part> Change level(List<Thing> Level::*list, const char* id, Part&& change)
{
    return [=](Project& project) {
        project = withLevel(project, {"level"}, [&](Level& l) {
            Thing thing = *(l.*list).find({id});
            change(thing);
            (l.*list).put(thing);
        });
    };
}

template <class Thing, class Part> Change top(List<Thing> Project::*list, const char* id, Part&& change)
{
    return [=](Project& project) {
        Thing thing = *(project.*list).find({id});
        change(thing);
        (project.*list).put(thing);
    };
}

} // namespace

/// What no edit may leave behind: whatever would be refused when the file is opened again.
class TestInvariants : public QObject
{
    Q_OBJECT

private slots:
    void whatCouldNotBeReadBackIsNamed_data()
    {
        QTest::addColumn<Change>("change");
        QTest::addColumn<QString>("expected");
        QTest::newRow("head below sill") << level(&Level::openings, "door", [](Opening& o) { o.head_m = o.sill_m - 1.0; })
                                         << "Opening \"Back door\", head_m: an opening's upper edge must lie above";
        QTest::newRow("no width") << level(&Level::openings, "door", [](Opening& o) { o.to = o.from; })
                                  << "Opening \"Back door\", to: an opening must have a width";
        QTest::newRow("loop ends early") << top(&Project::sounds, "rain", [](Sound& s) {
            s.files[0].loopFrom_s = 3.0;
            s.files[0].loopTo_s = 2.0;
        }) << "Sound \"Rain\", files/0/loop_to_s: a loop must end after it begins";
        QTest::newRow("cut-off below nothing")
            << top(&Project::falloffs, "far", [](Falloff& f) { f.lanes[1].curve[1].y = -2.0; })
            << "Falloff \"Far\", lanes/1/points/1/y: expected a number from 1";
        QTest::newRow("points out of order") << top(&Project::falloffs, "far", [](Falloff& f) { f.lanes[1].curve[1].x = 0.5; })
                                             << "lanes/1/points/1/x: the points of a curve go in order of x";
        QTest::newRow("not a number") << level(&Level::emitters, "a", [](Emitter& e) { e.level_db = std::nan(""); })
                                      << "Emitter \"a\", level_db: expected a number from -200";
        QTest::newRow("a place without end")
            << level(&Level::emitters, "b", [](Emitter& e) { e.at.y = INFINITY; }) << "Emitter \"b\", at:";
        QTest::newRow("time runs back") << level(&Level::walks, "round", [](Walk& w) { w.points[1].t_s = -1.0; })
                                        << "Walk \"Round\", points/1/t_s";
        QTest::newRow("most below least") << level(&Level::emitters, "a", [](Emitter& e) { e.sprinkling.most_s = 0.5; })
                                          << "Emitter \"a\", sprinkle/most_s: the most is below the least";
        QTest::newRow("a storey in the sky") << Change([](Project& p) {
            p = withLevel(p, {"level"}, [](Level& l) { l.storeys = {Storey{.name = "Roof", .cut_m = 2e6, .extras = {}}}; });
        }) << "Storey \"Roof\", cut_m";
        QTest::newRow("nobody may sound") << Change([](Project& p) { p.voices = 0; }) << "The project, voices";
        QTest::newRow("no level") << Change([](Project& p) { p.levels = {}; }) << "at least one level";
        QTest::newRow("an id twice") << Change([](Project& p) { p.sounds.append(*p.sounds.find({"rain"})); })
                                     << "Sound \"rain\", id: this id is used twice";
        QTest::newRow("no id") << Change([](Project& p) { p.sounds.append(Sound{}); }) << "an id must not be empty";
    }

    void whatCouldNotBeReadBackIsNamed()
    {
        QFETCH(Change, change);
        QFETCH(QString, expected);
        const Project before = start();
        QVERIFY(!violationIn(before, {}));
        Project after = before;
        change(after);
        const auto wrong = violationIn(after, before);
        QVERIFY2(wrong, "nothing was found");
        QVERIFY2(QString::fromStdString(wrong->text()).contains(expected), wrong->text().c_str());
        QVERIFY2(violationIn(after, {}), "seen from nothing it was not found");

        // And it never replaces a file that can be opened.
        QTemporaryDir folder;
        const std::filesystem::path document = folder.filePath("project.json").toStdString();
        writeProjectFile(before, document);
        QVERIFY_THROWS_EXCEPTION(FileError, writeProjectFile(after, document));
        QVERIFY(readProjectFile(document).project == before);
        QCOMPARE(std::distance(std::filesystem::directory_iterator(folder.path().toStdString()), {}), 1);
    }

    /// Where the document of a random project says the same when read back, no rule can be broken by what the program makes.
    void whatIsInOrderIsLeftAlone()
    {
        for (unsigned seed = 0; seed < 200; ++seed) {
            const auto wrong = violationIn(fixture::randomProject(seed), {});
            QVERIFY2(!wrong, wrong ? wrong->text().c_str() : "");
        }
    }

    void onlyWhatChangedIsLookedAt()
    {
        const Project before = start();
        Project broken = before;
        level(&Level::openings, "door", [](Opening& o) { o.head_m = -5.0; })(broken);
        Project after = broken;
        level(&Level::emitters, "a", [](Emitter& e) { e.level_db = -3.0; })(after);
        QVERIFY(!violationIn(after, broken));
        QVERIFY(violationIn(after, before));
    }

    /// The ranges that forms offer are those that the reader takes.
    void rangesAreTheReadersOwn()
    {
        const auto holds = [](const Change& change) {
            Project after = start();
            change(after);
            return !violationIn(after, {});
        };
        const auto check = [&](stone::Range range, const std::function<Change(double)>& with) {
            QVERIFY(range.least < range.most);
            QVERIFY(holds(with(range.least)));
            QVERIFY(holds(with(range.most)));
            const double beyond = 1e-9 * std::max(std::abs(range.least), std::abs(range.most));
            QVERIFY(!holds(with(range.least - beyond)));
            QVERIFY(!holds(with(range.most + beyond)));
        };
        const auto emitter = [](auto&& member) {
            return [=](double value) { return level(&Level::emitters, "a", [=](Emitter& e) { member(e) = value; }); };
        };
        const auto sound = [](auto&& member) {
            return [=](double value) { return top(&Project::sounds, "rain", [=](Sound& s) { member(s) = value; }); };
        };
        const auto opening = [](auto&& member) {
            return [=](double value) { return level(&Level::openings, "door", [=](Opening& o) { member(o) = value; }); };
        };
        check(rangeOf(&EmitterSettings::level_db), emitter([](Emitter& e) -> double& { return e.level_db; }));
        check(rangeOf(&EmitterSettings::pitch_st), emitter([](Emitter& e) -> double& { return e.pitch_st; }));
        check(rangeOf(&Emitter::tilt_deg), emitter([](Emitter& e) -> double& { return e.tilt_deg; }));
        check(rangeOf(&Placement::doppler), emitter([](Emitter& e) -> double& { return e.placement.doppler; }));
        check(rangeOf(&Placement::spread_deg), emitter([](Emitter& e) -> double& { return e.placement.spread_deg; }));
        check(rangeOf(&Sprinkling::skipChance), emitter([](Emitter& e) -> double& { return e.sprinkling.skipChance; }));
        check(rangeOf(&Roaming::speed_m_s), emitter([](Emitter& e) -> double& { return e.roaming.speed_m_s; }));
        check(rangeOf(&Starting::fadeOut_s), emitter([](Emitter& e) -> double& { return e.starting.fadeOut_s; }));
        check(rangeOf(&Screening::size_m), emitter([](Emitter& e) -> double& { return e.screening.size_m; }));
        check(rangeOf(&Sound::lowPass_hz), sound([](Sound& s) -> double& { return s.lowPass_hz; }));
        check(rangeOf(&Sequence::crossFade_s), sound([](Sound& s) -> double& { return s.sequence.crossFade_s; }));
        check(rangeOf(&Echo::delay_s), sound([](Sound& s) -> double& { return s.effects.echo.delay_s; }));
        check(rangeOf(&Equaliser::middleQ), sound([](Sound& s) -> double& { return s.effects.equaliser.middleQ; }));
        check(rangeOf(&Opening::open), opening([](Opening& o) -> double& { return o.open; }));
        check(rangeOf(&Opening::swing_s), opening([](Opening& o) -> double& { return o.swing_s; }));
        check(rangeOf(LaneProperty::lowPass),
              [](double value) { return top(&Project::falloffs, "far", [=](Falloff& f) { f.lanes[1].curve[1].y = value; }); });
        QVERIFY_THROWS_EXCEPTION(std::logic_error, rangeOf(&TwoAngles::inside));
    }

    /// Ids that are left out, references by name: were each looked for among all, this would run into the
    /// time limit of tests.
    void manyThingsWithoutNamesAreReadAtOnce()
    {
        std::string text = "{\"sounds\": [{}";
        for (int i = 1; i < 20'000; ++i) {
            text += ",{}";
        }
        text += "], \"emitters\": [{\"sound\": \"x\"}";
        for (int i = 1; i < 20'000; ++i) {
            text += ",{\"sound\": \"sound-" + std::to_string(i) + "\", \"odd key\": 1}";
        }
        text += "]}";
        const ReadProject read = readProjectText(text, "many");
        QCOMPARE(read.project.sounds.size(), 20'000U);
        QCOMPARE(read.project.sounds[19'999]->id.text, std::string("sound-20000"));
        QCOMPARE(read.notices.size(), 19'999U);
    }
};

} // namespace tst_invariants

STONE_TEST(tst_invariants, TestInvariants)
#include "tst_invariants.moc"
