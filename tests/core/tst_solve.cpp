// SPDX-License-Identifier: GPL-3.0-or-later
#include "acoustics/distance.h"
#include "acoustics/lane.h"
#include "posts/solve.h"
#include "posts/spot_judge.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"

#include <QProcess>
#include <QTemporaryDir>
#include <QTest>

#include <cmath>

namespace tst_solve
{

using namespace stone;
using fixture::pointAt;

/// Wishes and the falloffs that meet them: against closed forms, and against the model asked again.
class TestSolve : public QObject
{
    Q_OBJECT

    static Wish level(double x, double value, const std::string& emitter = "lamp")
    {
        return {.at = {x, 0.0, 0.0}, .emitter = {emitter}, .value = value};
    }

    static Wish silent(double x) { return {.at = {x, 0.0, 0.0}, .emitter = {"lamp"}, .of = Wish::Of::silent}; }

    static HearingModel modelOf(const Project& project)
    {
        return HearingModel(std::make_shared<const Project>(project), {"level"});
    }

    static Project oneLamp() { return fixture::projectWith({pointAt("lamp", {0, 0, 1.6})}); }

    static const DistanceFormula& formulaOf(const Solution& solution)
    {
        for (const Lane& lane : solution.lanes) {
            if (lane.property == LaneProperty::level) {
                return lane.formula;
            }
        }
        qFatal("no level");
    }

private slots:
    /// Two levels of the inverse law: its reference and factor in closed form, a = (y2 - y1)/(d2 - d1) with y = 10^(-v/20).
    void twoLevelsByFormula()
    {
        const HearingModel model = modelOf(oneLamp());
        const Solution solution = solve(model, {.wishes = {level(5.0, -8.0), level(20.0, -22.0)}});
        QVERIFY(solution.possible && solution.words.empty());
        QVERIFY2(solution.worst_db < 0.05, qPrintable(QString::number(solution.worst_db)));
        const DistanceFormula& formula = formulaOf(solution);
        QCOMPARE(formula.model, DistanceModel::inverse);
        const double y1 = std::pow(10.0, 8.0 / 20.0);
        const double y2 = std::pow(10.0, 22.0 / 20.0);
        const double a = (y2 - y1) / 15.0;
        const double reference_m = 5.0 - (y1 - 1.0) / a;
        QVERIFY2(std::abs(formula.reference_m - reference_m) < 0.02 * reference_m,
                 qPrintable(QString("%1, not %2").arg(formula.reference_m).arg(reference_m)));
        QVERIFY(std::abs(formula.factor - a * reference_m) < 0.02 * a * reference_m);
        for (const WishOutcome& outcome : solution.outcomes) {
            QVERIFY(outcome.met);
        }
        QVERIFY(std::abs(solution.outcomes[0].ruler_m - 5.0) < 1e-6);
        QVERIFY(std::abs(solution.outcomes[0].before + 20.0 * std::log10(5.0)) < 0.01);
        // The document that comes with it is heard so.
        const HearingModel after = modelOf(solution.project);
        const Moment there(Ears(Pose{{20.0, 0.0, 1.6}, 0.0, 0.0, 0.0}), TimeSpan{});
        QVERIFY(std::abs(after.hearOne(there, 0).level_db + 22.0) < 0.05);
    }

    /// One level moves as little as need be; a silent wish ends the reach there and keeps the rest.
    void oneLevelAndSilence()
    {
        const HearingModel model = modelOf(oneLamp());
        const Solution solution = solve(model, {.wishes = {level(10.0, -26.0), silent(30.0)}});
        QVERIFY2(solution.worst_db < 0.05, qPrintable(QString::number(solution.worst_db)));
        QCOMPARE(formulaOf(solution).silentAt_m, 30.0);
        QVERIFY(solution.outcomes[1].met && std::isinf(solution.outcomes[1].after));
        // Beyond a reach that is there a wish pushes it out.
        Project ends = oneLamp();
        Falloff falloff = falloffOf(ends, *ends.levels[0]->emitters[0]);
        falloff.lanes.front().formula.silentAt_m = 12.0;
        ends = withFalloff(std::move(ends), {"level"}, {"lamp"}, falloff);
        const Solution further = solve(modelOf(ends), {.wishes = {level(25.0, -30.0)}});
        QVERIFY(std::isinf(further.outcomes[0].before) && further.outcomes[0].met);
        QVERIFY(std::abs(formulaOf(further).silentAt_m - 25.0 / 0.8) < 1e-6);
    }

    /// What one model cannot do another can: levels of a straight line in gain, and of the exponential law.
    void otherModels()
    {
        const HearingModel model = modelOf(oneLamp());
        DistanceFormula linear{.model = DistanceModel::linear, .reference_m = 2.0, .maximum_m = 40.0};
        std::vector<Wish> wishes;
        for (const double d : {5.0, 12.0, 22.0, 35.0}) {
            wishes.push_back(level(d, 20.0 * std::log10(distanceGain(linear, d))));
        }
        const Solution line = solve(model, {.wishes = wishes});
        QVERIFY2(line.worst_db < 0.1 && formulaOf(line).model == DistanceModel::linear,
                 qPrintable(QString::number(line.worst_db)));
        DistanceFormula power{.model = DistanceModel::exponential, .reference_m = 1.5, .factor = 2.2};
        wishes.clear();
        for (const double d : {3.0, 8.0, 25.0}) {
            wishes.push_back(level(d, 20.0 * std::log10(distanceGain(power, d))));
        }
        const Solution law = solve(model, {.wishes = wishes});
        QVERIFY2(law.worst_db < 0.1, qPrintable(QString::number(law.worst_db)));
        QVERIFY(formulaOf(law).model == DistanceModel::exponential);
    }

    /// A curve goes through whatever is monotone, exactly; between its points it never turns.
    void byCurve()
    {
        const HearingModel model = modelOf(oneLamp());
        const Solution solution =
            solve(model, {.wishes = {level(4.0, -3.0), level(9.0, -4.0), level(15.0, -30.0), silent(18.0)}, .asCurve = true});
        QVERIFY2(solution.worst_db < 0.02, qPrintable(QString::number(solution.worst_db)));
        QVERIFY(solution.outcomes[3].met);
        const HearingModel after = modelOf(solution.project);
        double before_db = 100.0;
        for (double d = 0.5; d < 18.0; d += 0.25) {
            const double level_db = after.hearOne(Moment(Ears(Pose{{d, 0.0, 1.6}, 0.0, 0.0, 0.0}), TimeSpan{}), 0).level_db;
            QVERIFY2(level_db <= before_db + 1e-9, qPrintable(QString::number(d)));
            before_db = level_db;
        }
    }

    /// What contradicts itself is named, with by how much, and what can be done is done.
    void contradictions()
    {
        const HearingModel model = modelOf(oneLamp());
        const Solution two = solve(model, {.wishes = {level(8.0, -10.0), level(-8.0, -16.0)}});
        QVERIFY(two.possible && two.words.size() == 1);
        QVERIFY2(QString::fromStdString(two.words[0]).contains("6.0 dB apart"), two.words[0].c_str());
        QVERIFY(std::abs(two.worst_db - 3.0) < 0.05); // the mean of both
        const Solution backwards = solve(model, {.wishes = {level(5.0, -20.0), level(10.0, -12.0)}});
        QVERIFY(QString::fromStdString(backwards.words[0]).contains("8.0 dB louder"));
        const Solution gone = solve(model, {.wishes = {level(10.0, -12.0), silent(6.0)}});
        QVERIFY(QString::fromStdString(gone.words[0]).contains("silent at 6.0 m"));
        const Solution loud = solve(model, {.wishes = {level(10.0, 5.0)}});
        QVERIFY(QString::fromStdString(loud.words[0]).contains("5.0 dB more"));
        QVERIFY(std::abs(loud.worst_db - 5.0) < 0.01);
        const Solution raised = solve(model, {.wishes = {level(10.0, 5.0)}, .level = true});
        QVERIFY(raised.words.empty() && raised.worst_db < 0.05 && std::abs(raised.level_db - 5.0) < 1e-6);
        QVERIFY(!solve(model, {}).possible);
        QVERIFY(!solve(model, {.wishes = {level(1.0, -3.0, "nobody")}}).possible);
    }

    /// What the falloff does not change counts: the emitter's own level, its front, several emitters that share.
    void theRestCounts()
    {
        Emitter lamp = pointAt("lamp", {0, 0, 1.6});
        lamp.level_db = -6.0;
        Emitter other = pointAt("other", {100, 0, 1.6});
        other.level_db = 3.0;
        Project project = fixture::projectWith({lamp, other});
        Falloff shared;
        shared.id = {"street"};
        shared.name = "Street";
        Lane lane;
        lane.property = LaneProperty::level;
        shared.lanes = {lane};
        project.falloffs.put(shared);
        for (const char* id : {"lamp", "other"}) {
            project = withEmitter(std::move(project), {"level"}, {id}, [](Emitter& e) { e.falloff = FalloffId{"street"}; });
        }
        Wish third = level(90.0, -20.0, "other"); // 10 m from it
        const Solution solution = solve(modelOf(project), {.wishes = {level(5.0, -20.0), third}});
        QVERIFY2(solution.worst_db < 0.05, qPrintable(QString::number(solution.worst_db)));
        QVERIFY(solution.words.empty());
        // With one of the two the other is named.
        const Solution alone = solve(modelOf(project), {.wishes = {level(5.0, -20.0)}});
        QVERIFY2(alone.words.size() == 1 && QString::fromStdString(alone.words[0]).contains("1 other emitter"),
                 alone.words.empty() ? "" : alone.words[0].c_str());
        // A falloff of its own is another falloff.
        project = withOwnFalloff(std::move(project), {"level"}, {"other"});
        QVERIFY(!solve(modelOf(project), {.wishes = {level(5.0, -20.0), third}}).possible);
        project = withEmitter(std::move(project), {"level"}, {"lamp"}, [](Emitter& e) { e.placement.inWorld = 0.5; });
        const Solution inEars = solve(modelOf(project), {.wishes = {level(5.0, -20.0)}});
        QVERIFY(!inEars.possible && QString::fromStdString(inEars.words[0]).contains("in the ears"));
    }

    /// A cut-off at a place, by a lane through it.
    void lowPass()
    {
        const HearingModel model = modelOf(oneLamp());
        Wish dull{.at = {12.0, 0.0, 0.0}, .emitter = {"lamp"}, .of = Wish::Of::lowPass, .value = 1'500.0};
        const Solution solution = solve(model, {.wishes = {dull, level(6.0, -12.0)}});
        QVERIFY(solution.outcomes[0].met && std::abs(solution.outcomes[0].after - 1'500.0) < 1.0);
        QVERIFY(solution.outcomes[1].met && solution.outcomes[0].before > 19'000.0);
    }

    /// Posts that would break are shown before.
    void whatBreaks()
    {
        Project project = withLevel(oneLamp(), {"level"}, [](Level& l) {
            Post post;
            post.id = {"far"};
            post.name = "Far off";
            post.at = {20.0, 0.0, 0.0};
            post.emitter = {"lamp"};
            post.least_db = -30.0;
            l.posts.put(post);
        });
        const Solution solution = solve(modelOf(project), {.wishes = {silent(15.0)}});
        QCOMPARE(solution.posts.size(), std::size_t(1));
        QVERIFY(solution.posts[0].first.met && !solution.posts[0].second.met);
    }

    /// Levels of a family such that each is as loud at its own post: exactly.
    void evenedOut()
    {
        Project project =
            fixture::projectWith({pointAt("a", {0, 0, 1.6}), pointAt("b", {50, 0, 1.6}), pointAt("c", {90, 0, 1.6})});
        Family lamps;
        lamps.id = {"lamps"};
        project.families.put(lamps);
        double x = 4.0;
        for (const char* id : {"a", "b"}) {
            project = withEmitter(std::move(project), {"level"}, {id}, [](Emitter& e) { e.family = {"lamps"}; });
            project = withLevel(std::move(project), {"level"}, [&](Level& l) {
                Post post;
                post.id = {std::string("at-") + id};
                post.at = {x, 0.0, 0.0};
                post.emitter = {id};
                l.posts.put(post);
            });
            x = 60.0; // 10 m from b
        }
        const EvenOut even = evenOut(modelOf(project), {"lamps"});
        QCOMPARE(even.members.size(), std::size_t(2));
        const double expected_db = -(20.0 * std::log10(4.0) + 20.0) / 2.0;
        QVERIFY(std::abs(even.target_db - expected_db) < 0.01);
        const HearingModel after = modelOf(even.project);
        for (const auto& post : after.level().posts) {
            QVERIFY(std::abs(judgeStanding(after, {*post}, 1).front().found - even.target_db) < 0.01);
        }
        QVERIFY(after.level().emitters.find({"c"})->level_db == 0.0);
        QVERIFY(evenOut(modelOf(oneLamp()), {"lamps"}).members.empty());
    }

    /// On the command line: told, and written when asked to.
    void onTheCommandLine()
    {
        const QTemporaryDir folder;
        const QString file = folder.filePath("project.json");
        fixture::writeTone(folder.filePath("tone.wav").toStdString(), 440.0, 1.0);
        fixture::writeText(file.toStdString(), R"({"sounds": [{"id": "tone", "file": "tone.wav"}], "levels": [{"id": "l",
            "emitters": [{"id": "a", "name": "Lamp", "at": [0, 0, 1.6], "sound": "tone"}]}]})");
        const auto call = [&](const QStringList& arguments) {
            QProcess process;
            process.start(CLI, arguments);
            process.waitForFinished(60'000);
            return std::pair(process.exitCode(), process.readAllStandardOutput());
        };
        const auto [code, text] =
            call({"solve", file, "--emitter", "Lamp", "--want", "5,0,0=-8", "--want", "20,0,0=-22", "--silent", "60,0,0"});
        QCOMPARE(code, 0);
        QVERIFY2(text.contains("inverse"), text.constData());
        QCOMPARE(call({"solve", file, "--emitter", "Lamp", "--want", "5,0,0=-8", "--want", "0,5,0=-20"}).first, 1);
        QCOMPARE(call({"solve", file, "--emitter", "Nobody", "--want", "5,0,0=-8"}).first, 2);
        QCOMPARE(call({"solve", file, "--emitter", "Lamp", "--want", "5;0;0"}).first, 2);
        QCOMPARE(call({"solve", file, "--emitter", "Lamp", "--want", "10,0,0=-14", "--write"}).first, 0);
        const auto probe = call({"probe", file, "--at", "10,0,1.6", "--json"});
        QVERIFY2(probe.second.contains("-14.0") || probe.second.contains("-13.99"), probe.second.constData());
    }
};

} // namespace tst_solve

STONE_TEST(tst_solve, TestSolve)
#include "tst_solve.moc"
