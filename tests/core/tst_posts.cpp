// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/offline.h"
#include "posts/post_run.h"
#include "posts/spot_judge.h"
#include "posts/take_judge.h"
#include "project/fragment.h"
#include "project/read.h"
#include "project/references.h"
#include "project/violations.h"
#include "project/write.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"
#include "takes/walk_taking.h"

#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QProcess>
#include <QTemporaryDir>
#include <QTest>
#include <QXmlStreamReader>

#include <cmath>

namespace tst_posts
{

using namespace stone;
using fixture::pointAt;

/// Expectations of what is heard: against closed forms, against what is rendered, in the document and on the command line.
class TestPosts : public QObject
{
    Q_OBJECT

    /// A lamp at the origin and one 40 m east; a walk along them at 2 m/s, 4 m to the north.
    static Project street()
    {
        Project project = fixture::projectWith({pointAt("west", {0, 0, 1.6}), pointAt("east", {40, 0, 1.6})});
        return withLevel(std::move(project), {"level"}, [](Level& level) {
            Walk walk;
            walk.id = {"along"};
            walk.name = "Along";
            for (const double t : {0.0, 20.0}) {
                WalkPoint point;
                point.t_s = t;
                point.at = {2.0 * t, 4.0, 0.0};
                walk.points.push_back(point);
            }
            level.walks.put(walk);
            Zone zone;
            zone.id = {"yard"};
            zone.name = "Yard";
            zone.shape = Box{{20.0, 20.0, 4.0}};
            zone.at = {0.0, 0.0, 0.0};
            level.zones.put(zone);
        });
    }

    static Post post(Post::Expects expects, const std::string& emitter = {})
    {
        Post post;
        post.id = {"p"};
        post.name = "Post";
        post.expects = expects;
        post.emitter = {emitter};
        return post;
    }

    static PostResult standing(const Project& project, const Post& post)
    {
        const HearingModel model(std::make_shared<const Project>(project), {"level"});
        return judgeStanding(model, {post}, 1).front();
    }

    /// Judged with all that it needs: a looped tone in every emitter.
    static PostResult run(const Project& project, const Post& post)
    {
        const QTemporaryDir folder;
        const auto scene = fixture::sceneOf(project, fixture::toneBuffer(1'000.0));
        return judgePosts({.scene = scene, .posts = {post}, .folder = folder.path().toStdString(), .threads = 1}).front();
    }

private slots:
    /// At a spot: the inverse law; bounds, tolerances, above another and above all others, heard and not heard, voices.
    void atSpots()
    {
        const Project project = street();
        Post level = post(Post::Expects::level, "west");
        level.at = {10.0, 0.0, 0.0}; // 10 m from it, 30 from the other
        level.least_db = -22.0;
        level.most_db = -21.0;
        const PostResult low = standing(project, level);
        QVERIFY(low.judged && !low.met);
        QVERIFY2(std::abs(low.found + 20.0) < 0.01, qPrintable(QString::number(low.found)));
        QVERIFY(std::abs(low.margin + 1.0) < 0.01);
        QVERIFY(QString::fromStdString(low.words).contains(QString::fromUtf8("−20.0 dB")));
        level.tolerance_db = 1.5;
        QVERIFY(standing(project, level).met && std::abs(standing(project, level).margin - 0.5) < 0.01);

        Post above = post(Post::Expects::above, "west");
        above.at = {10.0, 0.0, 0.0};
        above.other = {"east"};
        above.least_db = 9.0;
        QVERIFY(std::abs(standing(project, above).found - 20.0 * std::log10(3.0)) < 0.01);
        QVERIFY(standing(project, above).met);
        above.other = {};
        QVERIFY(std::abs(standing(project, above).found - 20.0 * std::log10(3.0)) < 0.01); // the only other
        above.least_db = 10.0;
        QVERIFY(!standing(project, above).met);

        Post voices = post(Post::Expects::voices);
        voices.count = 2;
        QVERIFY(standing(project, voices).met && standing(project, voices).margin == 0.0);
        voices.count = 1;
        QCOMPARE(standing(project, voices).margin, -1.0);

        Post heard = post(Post::Expects::heard, "west");
        QVERIFY(standing(project, heard).met);
        heard.at = {2'000.0, 0.0, 0.0}; // -66 dB
        QVERIFY(!standing(project, heard).met);
        heard.expects = Post::Expects::unheard;
        QVERIFY(standing(project, heard).met && std::abs(standing(project, heard).margin - 6.02) < 0.01);
    }

    /// In a zone the worst place counts: of a box of 20 m about the lamp its corners, as near as places are.
    void inZones()
    {
        const Project project = street();
        const HearingModel model(std::make_shared<const Project>(project), {"level"});
        const std::vector<Vec3> places = placesIn(model.world(), {"yard"});
        QVERIFY2(places.size() > 100 && places.size() <= 256, qPrintable(QString::number(places.size())));
        Post level = post(Post::Expects::level, "west");
        level.where = Post::Where::zone;
        level.zone = {"yard"};
        level.least_db = -20.0;
        const PostResult result = standing(project, level);
        double furthest_m = 0.0;
        for (const Vec3& place : places) {
            furthest_m = std::max(furthest_m, std::hypot(place.x, place.y));
        }
        QVERIFY2(!result.met && std::abs(result.found + 20.0 * std::log10(furthest_m)) < 0.01,
                 qPrintable(QString("%1 %2 %3").arg(result.found).arg(furthest_m).arg(result.at.z)));
        QVERIFY(std::abs(std::hypot(result.at.x, result.at.y) - furthest_m) < 1e-9);
        level.zone = {"nowhere"};
        QVERIFY(!standing(project, level).judged);
        QVERIFY(QString::fromStdString(standing(project, level).words).contains("nowhere"));
    }

    /// Along a walk, in what is rendered: least and most levels by the inverse law, where and when; stretches; voices; jumps.
    void alongWalks()
    {
        const Project project = street();
        Post level = post(Post::Expects::level, "west");
        level.where = Post::Where::walk;
        level.walk = {"along"};
        level.least_db = -30.0;
        const PostResult end = run(project, level);
        QVERIFY2(!end.met && std::abs(end.found + 20.0 * std::log10(std::hypot(40.0, 4.0))) < 0.15, end.words.c_str());
        QVERIFY(end.t_s > 19.8 && std::abs(end.at.x - 40.0) < 0.5);
        level.to_s = 10.0; // 20 m on
        const PostResult half = run(project, level);
        QVERIFY2(half.met && std::abs(half.found + 20.0 * std::log10(std::hypot(20.0, 4.0))) < 0.15, half.words.c_str());
        level.to_s = 0.0;
        level.least_db = noLeast_db;
        level.most_db = -13.0;
        const PostResult near = run(project, level);
        QVERIFY2(!near.met && std::abs(near.found + 20.0 * std::log10(4.0)) < 0.1 && near.t_s < 0.2, near.words.c_str());

        Post voices = post(Post::Expects::voices);
        voices.where = Post::Where::level;
        voices.count = 2;
        QVERIFY(run(project, voices).met);
        Post jumps = post(Post::Expects::jumps);
        jumps.where = Post::Where::level;
        jumps.most_db = 6.0;
        QVERIFY(run(project, jumps).met);
        // A step of the character by 15 m in no time.
        const Project jumping = withLevel(project, {"level"}, [](Level& l) {
            Walk walk = *l.walks[0];
            WalkPoint leap = walk.points[1];
            walk.points[1].t_s = 10.0;
            walk.points[1].at = {0.0, 4.0, 0.0};
            leap.t_s = 10.05;
            leap.at = {15.0, 4.0, 0.0};
            walk.points.push_back(leap);
            leap.t_s = 12.0;
            walk.points.push_back(leap);
            l.walks.put(walk);
        });
        const PostResult leapt = run(jumping, jumps);
        QVERIFY2(!leapt.met && std::abs(leapt.t_s - 10.0) < 0.3 && leapt.found > 9.0, leapt.words.c_str());
    }

    /// Loudness of a stretch by the meter's own gates: a tone that stands still is as loud as the meter says.
    void loudness()
    {
        Project project = street();
        project = withLevel(std::move(project), {"level"}, [](Level& l) {
            Walk walk = *l.walks[0];
            for (WalkPoint& point : walk.points) {
                point.at = {4.0, 0.0, 0.0};
            }
            l.walks.put(walk);
        });
        Post post = TestPosts::post(Post::Expects::loudness);
        post.where = Post::Where::walk;
        post.walk = {"along"};
        const PostResult all = run(project, post);
        QVERIFY(all.judged && all.met && std::isfinite(all.found));
        const QTemporaryDir folder;
        const std::string file = folder.filePath("a.take").toStdString();
        const auto scene = fixture::sceneOf(project, fixture::toneBuffer(1'000.0));
        QVERIFY(takeWalk({.scene = scene, .walk = &*scene->model.level().walks[0]}, file, {}));
        const Take take(file);
        QVERIFY2(std::abs(all.found - take.info().integrated_lufs) < 0.1,
                 qPrintable(QString("%1 and %2").arg(all.found).arg(take.info().integrated_lufs)));
        post.least_db = all.found + 2.0;
        QVERIFY(std::abs(run(project, post).margin + 2.0) < 0.1);
        post.from_s = 5.0;
        post.to_s = 9.0;
        QVERIFY(std::abs(run(project, post).found - all.found) < 0.1);
    }

    /// Over time: a bell that starts after six seconds is heard by then, at a spot and along a walk; a lamp that one walks away
    /// from is not heard every so often.
    void overTime()
    {
        Emitter bell = pointAt("bell", {0, 0, 1.6});
        bell.startAfter_s = 6.0;
        Project project = street();
        project = withLevel(std::move(project), {"level"}, [&](Level& l) { l.emitters.put(bell); });
        Post by = post(Post::Expects::by, "bell");
        by.within_s = 8.0;
        const PostResult there = run(project, by);
        QVERIFY2(there.met && std::abs(there.found - 6.0) < 0.15, there.words.c_str());
        by.within_s = 5.0;
        const PostResult late = run(project, by);
        QVERIFY2(!late.met && late.margin <= -5.0, late.words.c_str()); // never in the time that one waits
        by.where = Post::Where::walk;
        by.walk = {"along"};
        const PostResult walked = run(project, by);
        QVERIFY2(!walked.met && std::abs(walked.margin + 1.0) < 0.15, walked.words.c_str());

        Falloff falloff = falloffOf(project, *project.levels[0]->emitters[0]);
        falloff.lanes.front().formula.silentAt_m = 15.0;
        project = withFalloff(std::move(project), {"level"}, {"west"}, falloff);
        Post every = post(Post::Expects::every, "west");
        every.where = Post::Where::walk;
        every.walk = {"along"};
        every.within_s = 10.0;
        const PostResult gone = run(project, every);
        // It is silent from about 14.5 m along the walk, 7 s, to its end at 20 s.
        QVERIFY2(!gone.met && gone.found > 12.0 && gone.found < 14.5, gone.words.c_str());
        every.to_s = 12.0;
        QVERIFY(run(project, every).met);
        every.where = Post::Where::spot;
        every.within_s = 2.0;
        QVERIFY(run(project, every).met); // it sounds on and on
    }

    /// A take from elsewhere: emitters are known by name where their ids are not in it; what it knows nothing of is said.
    void takesFromElsewhere()
    {
        const QTemporaryDir folder;
        const std::string file = folder.filePath("a.take").toStdString();
        const auto scene = fixture::sceneOf(street(), fixture::toneBuffer(1'000.0));
        QVERIFY(takeWalk({.scene = scene, .walk = &*scene->model.level().walks[0]}, file, {}));
        Project other = street();
        other = withLevel(std::move(other), {"level"}, [](Level& level) {
            Emitter renamed = *level.emitters[0];
            level.emitters.remove(renamed.id);
            renamed.id = {"the-same-lamp"};
            level.emitters.put(renamed);
            level.emitters.put(pointAt("new", {0, 0, 0}));
        });
        Post along = post(Post::Expects::heard, "the-same-lamp");
        along.where = Post::Where::level;
        Post unknown = post(Post::Expects::heard, "new");
        unknown.where = Post::Where::walk;
        unknown.walk = {"along"};
        Post still = post(Post::Expects::heard, "new");
        const Take take(file);
        const auto results = judgeTake(take, *other.levels[0], {along, unknown, still});
        QCOMPARE(results.size(), std::size_t(2)); // nobody stands still in it
        QVERIFY(results[0].judged && results[0].met);
        QVERIFY(!results[1].judged && QString::fromStdString(results[1].words).contains("new"));
        const auto stopped = judgeTake(take, *other.levels[0], {along}, [](double) { return false; });
        QVERIFY(!stopped[0].judged);
    }

    /// What can never be met says why.
    void never_data()
    {
        QTest::addColumn<QString>("what");
        QTest::addColumn<QString>("says");
        QTest::newRow("gone") << "gone"
                              << "does not exist";
        QTest::newRow("walk") << "walk"
                              << "no walk is chosen";
        QTest::newRow("stretch") << "stretch"
                                 << "after the walk has ended";
        QTest::newRow("backwards") << "backwards"
                                   << "ends before it begins";
        QTest::newRow("itself") << "itself"
                                << "above itself";
        QTest::newRow("nobody") << "nobody"
                                << "who is above";
    }
    void never()
    {
        QFETCH(QString, what);
        QFETCH(QString, says);
        Post post = TestPosts::post(Post::Expects::level, "west");
        if (what == "gone") {
            post.emitter = {"away"};
        } else if (what == "walk") {
            post.where = Post::Where::walk;
        } else if (what == "stretch" || what == "backwards") {
            post.where = Post::Where::walk;
            post.walk = {"along"};
            post.from_s = what == "stretch" ? 30.0 : 5.0;
            post.to_s = what == "stretch" ? 0.0 : 2.0;
        } else {
            post.expects = Post::Expects::above;
            post.other = post.emitter;
            post.emitter = what == "nobody" ? EmitterId() : post.emitter;
        }
        const PostResult result = run(street(), post);
        QVERIFY(!result.judged && !result.met);
        QVERIFY2(QString::fromStdString(result.words).contains(says), result.words.c_str());
    }

    /// In the document: read as written, by name too; what makes no sense is refused with its place; ids are followed by
    /// whoUses, and come along when things are pasted.
    void inTheDocument()
    {
        Project project = street();
        project = withLevel(std::move(project), {"level"}, [](Level& level) {
            Post full;
            full.id = {"full"};
            full.name = "The lamp is heard";
            full.where = Post::Where::walk;
            full.at = {1, 2, 3};
            full.heading_deg = 90.0;
            full.walk = {"along"};
            full.from_s = 1.0;
            full.to_s = 9.0;
            full.zone = {"yard"};
            full.expects = Post::Expects::above;
            full.emitter = {"west"};
            full.other = {"east"};
            full.least_db = -3.0;
            full.most_db = 12.0;
            full.tolerance_db = 1.0;
            full.count = 7;
            full.within_s = 3.0;
            full.reason = "One finds the way by it.";
            full.on = false;
            level.posts.put(full);
        });
        const Project again = readProjectText(projectText(project), "again").project;
        QVERIFY(*again.levels[0]->posts.find({"full"}) == *project.levels[0]->posts.find({"full"}));
        QVERIFY(postsOf(*again.levels[0]).empty()); // it is switched off
        QCOMPARE(whoUses(project, EmitterId{"east"}), std::vector<std::string>{"post The lamp is heard"});
        QCOMPARE(whoUses(project, WalkId{"along"}), std::vector<std::string>{"post The lamp is heard"});
        const Project pasted =
            withFragment(project, {"level"},
                         fragmentOf(project, {"level"}, {.emitters = {{"west"}}, .walks = {{"along"}}, .posts = {{"full"}}}))
                .project;
        QCOMPARE(pasted.levels[0]->posts.size(), std::size_t(2));
        const Post& copy = *pasted.levels[0]->posts[1];
        QVERIFY(copy.emitter != EmitterId{"west"} && pasted.levels[0]->emitters.find(copy.emitter) != nullptr);
        QVERIFY(copy.walk != WalkId{"along"} && pasted.levels[0]->walks.find(copy.walk) != nullptr);

        const auto refused = [](const char* post) {
            try {
                readProjectText(std::string(R"({"levels": [{"id": "l", "posts": [)") + post + "]}]}", "refused");
            } catch (const std::exception& error) {
                return QString(error.what());
            }
            return QString();
        };
        QVERIFY(refused(R"({"least_db": -10, "most_db": -20})").contains("/levels/0/posts/0/most_db"));
        QVERIFY(refused(R"({"expects": "jumps"})").contains("along a walk"));
        QVERIFY(refused(R"({"where": "zone", "expects": "every"})").contains("at a spot"));
        QVERIFY(refused(R"({"expects": "wonders"})").contains("expects"));
        QVERIFY(refused(R"({"within_s": 0})").contains("within_s"));
        const Project named =
            readProjectText(R"({"levels": [{"id": "l", "emitters": [{"name": "Big bell"}], "walks": [{"name": "Round"}],
            "posts": [{"name": "x", "emitter": "Big bell", "where": "walk", "walk": "Round"}]}]})",
                            "named")
                .project;
        QCOMPARE(named.levels[0]->posts[0]->emitter, named.levels[0]->emitters[0]->id);
        QCOMPARE(named.levels[0]->posts[0]->walk, named.levels[0]->walks[0]->id);
    }

    /// Vellmoor Halt has twenty posts, and all of them hold.
    void theDemosPostsHold()
    {
        QProcess process;
        process.start(CLI, {"posts", DEMO, "--json"});
        QVERIFY(process.waitForFinished(240'000));
        const auto json = QJsonDocument::fromJson(process.readAllStandardOutput()).object();
        QCOMPARE(json.value("posts").toArray().size(), 20);
        for (const auto& post : json.value("posts").toArray()) {
            QVERIFY2(post.toObject().value("met").toBool(), qPrintable(post.toObject().value("words").toString()));
        }
        QCOMPARE(process.exitCode(), 0);
    }

    /// On the command line, as a build server runs it: exit codes, JUnit XML that a parser reads, a name that needs escaping.
    void onTheCommandLine()
    {
        const QTemporaryDir folder;
        const QString file = folder.filePath("project.json");
        fixture::writeTone(folder.filePath("tone.wav").toStdString(), 440.0, 1.0);
        const auto write = [&](double least_db) {
            QFile out(file);
            QVERIFY(out.open(QIODevice::WriteOnly));
            out.write(QString(R"({"sounds": [{"id": "tone", "file": "tone.wav"}], "levels": [{"id": "l", "name": "Yard & Co",
              "emitters": [{"id": "a", "name": "Lamp", "at": [0, 0, 1.6], "sound": "tone"}],
              "walks": [{"id": "w", "name": "Along", "points": [{"t_s": 0, "at": [0, 2, 0]}, {"t_s": 3, "at": [6, 2, 0]}]}],
              "posts": [{"name": "Lamp <near>", "at": [4, 0, 0], "emitter": "Lamp", "least_db": %1, "reason": "it shows the way"},
                        {"name": "Along", "where": "walk", "walk": "w", "expects": "heard", "emitter": "a"}]}]})")
                          .arg(least_db)
                          .toUtf8());
        };
        const auto call = [&](const QStringList& more) {
            QProcess process;
            process.start(CLI, QStringList{"posts", file} + more);
            process.waitForFinished(60'000);
            return std::pair(process.exitCode(), process.readAllStandardOutput());
        };
        write(-20.0);
        const QString junit = folder.filePath("posts.xml");
        QCOMPARE(call({"--junit", junit}).first, 0);
        write(-6.0);
        const auto [code, text] = call({"--junit", junit});
        QCOMPARE(code, 1);
        QVERIFY(text.contains("BROKEN") && text.contains("shows"));
        QFile xml(junit);
        QVERIFY(xml.open(QIODevice::ReadOnly));
        QXmlStreamReader reader(&xml);
        QStringList names;
        QString failures;
        QString message;
        while (!reader.atEnd()) {
            reader.readNext();
            if (reader.isStartElement() && reader.name() == QLatin1String("testsuite")) {
                failures = reader.attributes().value("failures").toString();
                QCOMPARE(reader.attributes().value("name").toString(), "Yard & Co");
            } else if (reader.isStartElement() && reader.name() == QLatin1String("testcase")) {
                names << reader.attributes().value("name").toString();
            } else if (reader.isStartElement() && reader.name() == QLatin1String("failure")) {
                message = reader.attributes().value("message").toString();
            }
        }
        QVERIFY2(!reader.hasError(), qPrintable(reader.errorString()));
        QCOMPARE(names, (QStringList{"Lamp <near>", "Along"}));
        QCOMPARE(failures, "1");
        QVERIFY(message.contains(QString::fromUtf8("−12.0 dB")));
        const auto json = QJsonDocument::fromJson(call({"--json"}).second).object();
        QCOMPARE(json.value("broken").toInt(), 1);
        const QString take = folder.filePath("a.take");
        QCOMPARE(QProcess::execute(CLI, {"take", file, "--walk", "Along", "--out", take, "--no-sound"}), 0);
        const auto ofTake = call({"--take", take});
        QCOMPARE(ofTake.first, 0);
        QVERIFY(ofTake.second.contains("1 posts"));
        QCOMPARE(call({"--take", folder.filePath("none.take")}).first, 2);
    }
};

} // namespace tst_posts

STONE_TEST(tst_posts, TestPosts)
#include "tst_posts.moc"
