// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/atomic_file.h"
#include "project/history.h"
#include "project/json_place.h"
#include "project/read.h"
#include "project/write.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"
#include "support/random_project.h"

#include <QTemporaryDir>
#include <QTest>

#include <atomic>
#include <csignal>
#include <fstream>
#include <random>
#include <sys/resource.h>
#include <sys/wait.h>
#include <thread>
#include <unistd.h>

namespace tst_document
{

using namespace stone;

namespace
{

std::string messageOf(const std::string& text)
{
    try {
        readProjectText(text, "doc.json");
    } catch (const FileError& error) {
        return error.what();
    }
    return {};
}

std::string textIn(const std::filesystem::path& file)
{
    std::ifstream in(file, std::ios::binary);
    return {std::istreambuf_iterator<char>(in), {}};
}

} // namespace

class TestDocument : public QObject
{
    Q_OBJECT

private slots:
    void writtenDocumentsReadBackEqual()
    {
        for (unsigned seed = 0; seed < 300; ++seed) {
            const Project project = fixture::randomProject(seed);
            const std::string text = projectText(project);
            const ReadProject read = readProjectText(text, "random");
            QCOMPARE(projectText(read.project), text);
            QVERIFY2(read.project == project, qPrintable(QString("seed %1").arg(seed)));
        }
    }

    void oneChangeIsOneLine()
    {
        const Project before = fixture::projectWith({fixture::pointAt("a", {1, 2, 3}), fixture::pointAt("b", {4, 5, 6})});
        const Project after = withEmitter(before, {"level"}, {"b"}, [](Emitter& e) { e.at.x = 4.25; });
        const QStringList a = QString::fromStdString(projectText(before)).split('\n');
        const QStringList b = QString::fromStdString(projectText(after)).split('\n');
        QCOMPARE(a.size(), b.size());
        int different = 0;
        for (qsizetype i = 0; i < a.size(); ++i) {
            different += a[i] != b[i] ? 1 : 0;
        }
        QCOMPARE(different, 1);
    }

    void theShortestDocumentsLoad()
    {
        QCOMPARE(readProjectText("{}", "x").project.levels.size(), std::size_t{1});
        const Project project =
            readProjectText(R"({"emitters": [{"sound": "bell.wav", "at": [0, 5]}, {"name": "Second", "sound": "bell.wav"}]})",
                            "x")
                .project;
        const Level& level = *project.levels[0];
        QCOMPARE(level.emitters.size(), std::size_t{2});
        QCOMPARE(level.emitters[0]->at, (Vec3{0, 5, 0}));
        QCOMPARE(project.sounds.size(), std::size_t{1});
        QCOMPARE(level.emitters[1]->sound.text, project.sounds[0]->id.text);
        QVERIFY(!level.emitters[0]->id.empty());
        // A single file may stand by itself, as it had to before version 3.
        const Project old =
            readProjectText(R"({"stone_echo": 2, "sounds": [{"file": "hum.wav", "author": "A", "random_start": true}]})", "x")
                .project;
        QCOMPARE(old.sounds[0]->files.size(), std::size_t{1});
        QVERIFY(old.sounds[0]->files[0].credit.author == "A" && old.sounds[0]->copiesApart);
    }

    void thingsMayBeNamedInsteadOfIdentified()
    {
        const Project project = readProjectText(R"({"sounds": [{"id": "s1", "name": "Big bell", "file": "b.wav"}],
            "falloffs": [{"name": "Far away"}],
            "emitters": [{"name": "x", "sound": "Big bell", "falloff": "Far away"}, {"name": "x"}]})",
                                                "x")
                                    .project;
        const auto& emitters = project.levels[0]->emitters;
        QCOMPARE(emitters[0]->sound.text, std::string("s1"));
        QCOMPARE(std::get<FalloffId>(emitters[0]->falloff).text, std::string("far-away"));
        QVERIFY(emitters[0]->id != emitters[1]->id);
    }

    void unknownKeysAreKeptAndReported()
    {
        const std::string text = "{\n  \"name\": \"P\",\n  \"future\": {\"a\": [1, 2]},\n  \"emitters\": [\n    {\"name\": "
                                 "\"e\", \"glow\": 3}\n  ]\n}";
        const ReadProject read = readProjectText(text, "x");
        QCOMPARE(read.notices.size(), std::size_t{2});
        QCOMPARE(read.notices[0].pointer, std::string("/emitters/0/glow"));
        QCOMPARE(read.notices[0].line, 5);
        QCOMPARE(read.notices[1].pointer, std::string("/future"));
        const std::string again = projectText(read.project);
        QVERIFY(again.find("\"future\"") != std::string::npos && again.find("\"glow\": 3") != std::string::npos);
    }

    void whatIsWrongIsNamed_data()
    {
        QTest::addColumn<QString>("text");
        QTest::addColumn<QString>("expected");
        QTest::newRow("wrong type") << "{\"emitters\": [\n{},\n{\"at\": \"here\"}]}"
                                    << "doc.json:3: at /emitters/1/at: expected a list of 2 or 3 numbers";
        QTest::newRow("number as text") << "{\"levels\": [{\"emitters\": [\n\n{\"level_db\": \"-3\"}]}]}"
                                        << "doc.json:3: at /levels/0/emitters/0/level_db: expected a number, found \"-3\"";
        QTest::newRow("number before a line break")
            << "{\"voices\": 0\n}"
            << "doc.json:1: at /voices: expected a whole number from 1 to 4096, found 0";
        QTest::newRow("out of range") << "{\"emitters\": [{\"pitch_st\": 1000}]}"
                                      << "at /emitters/0/pitch_st: expected a number from -48";
        QTest::newRow("unknown word") << "{\"emitters\": [{\"kind\": \"cloud\"}]}"
                                      << "expected one of \"point\", \"bed\", \"area\"";
        QTest::newRow("id used twice") << "{\"sounds\": [{\"id\": \"a\"},\n{\"id\": \"a\"}]}"
                                       << "doc.json:2: at /sounds/1/id: the id \"a\" is used twice";
        QTest::newRow("a gap from long to short") << R"({"sounds": [{"make": "run", "gap_least_s": 3, "gap_most_s": 1}]})"
                                                  << "at /sounds/0/gap_most_s: the most is below the least";
        QTest::newRow("a loop that ends first") << R"({"sounds": [{"files": [{}, {"loop_from_s": 2, "loop_to_s": 1}]}]})"
                                                << "at /sounds/0/files/1/loop_to_s: a loop must end after it begins";
        QTest::newRow("a sound's lane over distance") << R"({"sounds": [{"lanes": [{"property": "level"}]}]})"
                                                      << "at /sounds/0/lanes/0/over: a sound's lanes draw level";
        QTest::newRow("an emitter's lane over time")
            << R"({"emitters": [{"lanes": [{"over": "time", "points": [{"x": 0, "y": 0}]}]}]})"
            << "at /emitters/0/lanes/0/over: lanes over time belong to a sound";
        QTest::newRow("a drift with more in it") << R"({"sounds": [{"files": [{"level_drift": {"depths": 3}}]}]})"
                                                 << "a level's drift has depth, period_s, irregular and drawn only";
        QTest::newRow("a pitch's drift that is drawn") << R"({"sounds": [{"files": [{"pitch_drift": {"drawn": []}}]}]})"
                                                       << "a drift has depth, period_s and irregular only";
        QTest::newRow("an emitter's nearness")
            << R"({"emitters": [{"lanes": [{"property": "nearness", "over": "game_value", "points": [{"x": 0, "y": 1}]}]}]})"
            << "at /emitters/0/lanes/0/property: nearness belongs to a gaze or a family";
        QTest::newRow("a family's lane over distance")
            << R"({"families": [{"id": "f", "lanes": [{"over": "direction", "points": [{"x": 0, "y": 1}]}]}]})"
            << "at /families/0/lanes/0/property: a family's lanes draw level";
        QTest::newRow("an unknown loudspeaker") << R"({"emitters": [{"placement": {"ears_speaker": "Top"}}]})"
                                                << "expected one of \"L\", \"R\", \"C\"";
        QTest::newRow("a shape's stranger") << R"({"zones": [{"shape": {"is": "sphere", "size_m": [1, 2, 3]}}]})"
                                            << "at /zones/0/shape: a shape has keys here that a sphere does not know";
        QTest::newRow("a polygon of two")
            << R"({"emitters": [{"area": {"shape": {"is": "prism", "points": [[0, 0], [1, 1]]}}}]})"
            << "at /emitters/0/area/shape/points: this shape needs 3 to 10000 points";
        QTest::newRow("a triangle of nothing")
            << R"({"zones": [{"shape": {"is": "mesh", "points": [[0, 0, 0]], "triangles": [[0, 0, 1]]}}]})"
            << "at /zones/0/shape/triangles: a triangle names a point that is not in";
        QTest::newRow("a sprinkle the wrong way round") << R"({"emitters": [{"sprinkle": {"least_s": 5, "most_s": 2}}]})"
                                                        << "at /emitters/0/sprinkle/most_s: the most is below the least";
        QTest::newRow("a trigger's stranger") << R"({"emitters": [{"starting": {"starts": [{"on": "jump", "zone": "a"}]}}]})"
                                              << "at /emitters/0/starting/starts/0: there are keys here that say nothing";
        QTest::newRow("a rest outside") << R"({"game_values": [{"least": 0, "most": 1, "rest": 2}]})"
                                        << "at /game_values/0/rest: the rest value lies outside";
        QTest::newRow("a fade over distance") << R"({"zones": [{"fades": [{"over": "distance"}]}]})"
                                              << "at /zones/0/fades/0/over: what a zone's parent does follows";
        QTest::newRow("newer version") << "{\"stone_echo\": 99}"
                                       << "the document has version 99, this program reads up to 8";
        QTest::newRow("not an object") << "[]"
                                       << "at the top: expected an object in braces";
        QTest::newRow("NaN") << "{\n\"emitters\": [{\"at\": [NaN, 0, 0]}]}"
                             << "doc.json:2: this is not JSON here";
        QTest::newRow("infinity by overflow") << "{\"emitters\": [{\"level_db\": 1e999}]}"
                                              << "doc.json:1: a number here is too large";
        QTest::newRow("infinity further down") << "{\n\"emitters\": [\n{\"level_db\":\n-1e999}]}"
                                               << "doc.json:4: a number here is too large";
        QTest::newRow("a curve point without value")
            << "{\"falloffs\": [{\"lanes\": [{\"property\": \"low_pass\", \"points\": [{\"x\": 1}]}]}]}"
            << "at /falloffs/0/lanes/0/points/0/y: expected a number from 1.0 to 200000.0; left out, it would be 0.0: give one";
        QTest::newRow("a cut that follows a floor too high") << "{\"levels\": [{\n\"storeys\": [\n{\"floor_m\": 999999}]}]}"
                                                             << "doc.json:3: at /levels/0/storeys/0/cut_m: expected";
        QTest::newRow("missing comma") << "{\"name\": \"a\"\n\"seed\": 1}"
                                       << "doc.json:2: this is not JSON here";
        QTest::newRow("empty file") << ""
                                    << "doc.json:1: this is not JSON here";
        QTest::newRow("walk backwards in time") << "{\"walks\": [{\"points\": [{\"t_s\": 5}, {\"t_s\": 2}]}]}"
                                                << "at /walks/0/points/1/t_s: expected a number from 5";
        QTest::newRow("nested for ever") << QString(100'000, '[') << "nested more than 64 deep";
    }
    void whatIsWrongIsNamed()
    {
        QFETCH(QString, text);
        QFETCH(QString, expected);
        const QString message = QString::fromStdString(messageOf(text.toStdString()));
        QVERIFY2(message.contains(expected), qPrintable(message));
        QVERIFY(!message.contains('\n'));
    }

    void placesInJsonAreFound()
    {
        const std::string text = "{\n \"a/b\": [1,\n  {\"x~\": true}],\n \"n\":\n  7\n}";
        QCOMPARE(lineNearPointer(text, "/a~1b/0"), 2);
        QCOMPARE(lineNearPointer(text, "/a~1b/1/x~0"), 3);
        QCOMPARE(lineNearPointer(text, "/n"), 5);
        QCOMPARE(lineNearPointer(text, "/nowhere"), 1);
        QCOMPARE(lineNearPointer(text, "/a~1b/1/missing/deeper"), lineNearPointer(text, "/a~1b/1"));
    }

    void anErrorStaysInOneLineWhateverItQuotes()
    {
        const std::string text = projectText(blankProject());
        const auto refusal = [&](const std::string& broken) -> QString {
            try {
                readProjectText(broken, "broken.json");
            } catch (const FileError& error) {
                return error.what();
            }
            return {};
        };
        const QString said = refusal(R"({"falloffs": [{"id": "a", "lanes": [{"property": "lo\nud\u0007\u007f"}]}]})");
        QVERIFY2(said.contains(R"(found "lo ud  ")") && !said.contains('\n'), qPrintable(said));
        QVERIFY(refusal(text).isEmpty());
    }

    /// A disk that fills up in the middle of writing, in a process of its own.
    void aFailedWriteLeavesTheFileAsItWas()
    {
        QTemporaryDir folder;
        const std::filesystem::path file = folder.filePath("project.json").toStdString();
        writeAtomically(file, "the previous file");
        const pid_t child = ::fork();
        if (child == 0) {
            const rlimit limit{1000, 1000};
            ::setrlimit(RLIMIT_FSIZE, &limit);
            ::signal(SIGXFSZ, SIG_IGN);
            int code = 1;
            try {
                writeAtomically(file, std::string(100'000, 'x'));
            } catch (const FileError&) {
                code = 0;
            }
            ::_exit(code);
        }
        int status = 0;
        ::waitpid(child, &status, 0);
        QVERIFY(WIFEXITED(status) && WEXITSTATUS(status) == 0);
        QCOMPARE(textIn(file), std::string("the previous file"));
        QCOMPARE(QDir(folder.path()).entryList(QDir::Files | QDir::Hidden).size(), 1);
    }

    void aWriterThatIsKilledLeavesAWholeFile()
    {
        QTemporaryDir folder;
        const std::filesystem::path file = folder.filePath("project.json").toStdString();
        const std::string a(2'000'000, 'a');
        const std::string b(2'000'000, 'b');
        writeAtomically(file, a);
        for (int round = 0; round < 10; ++round) {
            const pid_t child = ::fork();
            if (child == 0) {
                for (;;) {
                    writeAtomically(file, a);
                    writeAtomically(file, b);
                }
            }
            ::usleep(static_cast<useconds_t>(3'000 + 1'700 * round));
            ::kill(child, SIGKILL);
            ::waitpid(child, nullptr, 0);
            const std::string content = textIn(file);
            QVERIFY(content == a || content == b);
        }
    }

    void pathsStayInsideTheFolder()
    {
        QTemporaryDir folder;
        const std::filesystem::path home = folder.path().toStdString();
        std::filesystem::create_directories(home / "p/sounds");
        fixture::writeText(home / "secret.wav", "x");
        std::filesystem::create_symlink(home / "secret.wav", home / "p/sounds/link.wav");
        QVERIFY(!resolveInside(home / "p", "sounds/a.wav").empty());
        QVERIFY(!resolveInside(home / "p", "sounds/../b.wav").empty());
        for (const char* bad : {"../secret.wav", "sounds/../../secret.wav", "/etc/passwd", "sounds/link.wav", ""}) {
            QVERIFY2(resolveInside(home / "p", bad).empty(), bad);
        }
    }

    void historyGoesBackToTheStartAndForthToTheEnd()
    {
        std::mt19937 random(9);
        const Project start = fixture::randomProject(77);
        History history(std::make_shared<const Project>(start));
        QVERIFY(!history.changed());
        for (int step = 0; step < 200; ++step) {
            Project next = *history.current();
            const LevelId level = next.levels[0]->id;
            next = withLevel(next, level, [&](Level& l) {
                if (random() % 3 == 0 && !l.emitters.empty()) {
                    l.emitters.remove(l.emitters[random() % l.emitters.size()]->id);
                } else {
                    Emitter emitter = fixture::pointAt("n" + std::to_string(step), {static_cast<double>(step), 0, 0});
                    l.emitters.put(emitter);
                }
            });
            history.commit(next, "step " + std::to_string(step));
            if (random() % 5 == 0) {
                history.undo();
            }
        }
        const Project end = *history.current();
        int steps = 0;
        while (history.canUndo()) {
            history.undo();
            ++steps;
        }
        QVERIFY(*history.current() == start);
        QVERIFY(!history.changed());
        for (; steps > 0; --steps) {
            history.redo();
        }
        QVERIFY(*history.current() == end);
        QVERIFY(history.changed());
    }

    void aGestureIsOneStep()
    {
        const Project start = fixture::projectWith({fixture::pointAt("a", {0, 0, 0})});
        History history(std::make_shared<const Project>(start));
        for (int i = 1; i <= 5; ++i) {
            history.commit(withEmitter(start, {"level"}, {"a"}, [&](Emitter& e) { e.at.x = i; }),
                           "Move a to " + std::to_string(i), "drag 1");
        }
        QCOMPARE(history.undoName(), std::string("Move a to 5"));
        history.endGesture();
        history.commit(withEmitter(*history.current(), {"level"}, {"a"}, [](Emitter& e) { e.at.x = 9; }), "Move a to 9",
                       "drag 1");
        history.undo();
        QCOMPARE(history.current()->levels[0]->emitters[0]->at.x, 5.0);
        history.undo();
        QVERIFY(*history.current() == start);
        QVERIFY(!history.canUndo());
        QCOMPARE(history.redoName(), std::string("Move a to 5"));
    }

    void editsShareWhatTheyDoNotTouch()
    {
        const Project before = fixture::projectWith({fixture::pointAt("a", {0, 0, 0}), fixture::pointAt("b", {0, 0, 0})});
        const Project after = withEmitter(before, {"level"}, {"a"}, [](Emitter& e) { e.muted = true; });
        QVERIFY(before.levels[0]->emitters[1] == after.levels[0]->emitters[1]);
        QVERIFY(before.sounds[0] == after.sounds[0]);
        QVERIFY(withEmitter(before, {"level"}, {"gone"}, [](Emitter& e) { e.muted = true; }) == before);
    }

    void aSharedFalloffChangesForAllItsUsers()
    {
        Emitter a = fixture::pointAt("a", {0, 0, 0});
        Emitter b = fixture::pointAt("b", {0, 0, 0});
        a.falloff = b.falloff = FalloffId{"medium"};
        Project project = fixture::projectWith({a, b});
        Falloff changed = falloffOf(project, a);
        changed.lanes.front().formula.reference_m = 7.0;
        project = withFalloff(project, {"level"}, {"a"}, changed);
        QCOMPARE(falloffOf(project, *project.levels[0]->emitters[1]).lanes.front().formula.reference_m, 7.0);
        QCOMPARE(usersOf(project, {"medium"}), 2);
        // A bed that sounds everywhere is nowhere far off; one in a zone is.
        const auto asBed = withEmitter(project, {"level"}, {"b"}, [](Emitter& e) { e.kind = EmitterKind::bed; });
        QCOMPARE(usersOf(asBed, {"medium"}), 1);
        const auto inZone = withLevel(asBed, {"level"}, [](Level& level) {
            Zone zone;
            zone.id = {"yard"};
            level.zones.put(zone);
            Emitter bed = *level.emitters.find({"b"});
            bed.zone = zone.id;
            level.emitters.put(bed);
        });
        QCOMPARE(usersOf(inZone, {"medium"}), 2);
        project = withOwnFalloff(project, {"level"}, {"a"});
        QCOMPARE(usersOf(project, {"medium"}), 1);
        QCOMPARE(falloffOf(project, *project.levels[0]->emitters[0]).lanes.front().formula.reference_m, 7.0);
    }

    void theDemoIsWrittenTheWayWeWrite()
    {
        const std::filesystem::path demo = std::filesystem::path(DEMO) / "project.json";
        const ReadProject read = readProjectFile(demo);
        QVERIFY(read.notices.empty());
        QCOMPARE(projectText(read.project), textIn(demo));
    }

    /// However a long list came to be, each thing is found where it is, in copies too, and from several threads at once.
    void longListsFindTheirThings()
    {
        std::mt19937 chance(5);
        List<Signal> list;
        std::vector<std::string> ids;
        const auto put = [&](const std::string& id, const std::string& name) {
            Signal signal;
            signal.id = {id};
            signal.name = name;
            list.put(std::move(signal));
        };
        const auto holds = [&](const List<Signal>& of, const std::vector<std::string>& expected) {
            QCOMPARE(of.size(), expected.size());
            for (std::size_t i = 0; i < expected.size(); ++i) {
                QVERIFY(of.indexOf({expected[i]}) == i);
                QVERIFY(of.find({expected[i]}) == of[i].get());
            }
            QVERIFY(of.find({"nobody"}) == nullptr);
        };
        for (int step = 0; step < 2'000; ++step) {
            const List<Signal> before = list;
            const std::vector<std::string> idsBefore = ids;
            const std::size_t at = ids.empty() ? 0 : chance() % ids.size();
            switch (chance() % 5) {
            case 0:
            case 1:
                ids.push_back("s" + std::to_string(step));
                put(ids.back(), "New");
                break;
            case 2:
                if (!ids.empty()) {
                    put(ids[at], "Replaced");
                    QVERIFY(list.find({ids[at]})->name == "Replaced");
                }
                break;
            case 3:
                if (!ids.empty() && ids.size() > 30) {
                    list.remove({ids[at]});
                    ids.erase(ids.begin() + static_cast<std::ptrdiff_t>(at));
                }
                break;
            default:
                if (step % 97 == 0) {
                    const std::string last = ids.empty() ? "" : ids.back();
                    list.removeIf([&](const Signal& signal) { return signal.id.text == last; });
                    std::erase(ids, last);
                }
            }
            QVERIFY(list.shares(list));
            if (step % 10 == 0) {
                holds(list, ids);
                holds(before, idsBefore);
            }
        }
        QVERIFY(ids.size() > 100);
        for (int round = 0; round < 50; ++round) {
            put("round" + std::to_string(round), "");
            const List<Signal> asked = list;
            std::vector<std::jthread> threads;
            std::atomic<int> wrong{0};
            for (int k = 0; k < 4; ++k) {
                threads.emplace_back([&] {
                    for (std::size_t i = 0; i < asked.size(); ++i) {
                        wrong += asked.indexOf(asked[i]->id) == i ? 0 : 1;
                    }
                });
            }
            threads.clear();
            QCOMPARE(wrong.load(), 0);
        }
    }
};

} // namespace tst_document

STONE_TEST(tst_document, TestDocument)
#include "tst_document.moc"
