// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/findings.h"
#include "app/blind/blind_cover.h"
#include "app/blind/run_clock.h"
#include "app/session/take_desk.h"
#include "app/session/walker.h"
#include "app/shell/sheets.h"
#include "app/window_fixture.h"
#include "project/edit.h"
#include "project/read.h"
#include "support/one_of_many.h"
#include "world/run_watch.h"
#include "world/world.h"

#include <QAbstractButton>
#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QSettings>
#include <QSplitter>

#include <cmath>

namespace tst_runs_window
{

using namespace stone;

namespace
{

/// A walk of eight metres to the east with a zone at its end, and one half way.
const std::string yard = R"({
  "name": "Run yard",
  "sounds": [{"id": "tone", "name": "Tone", "file": "tone.wav", "loop": false}],
  "signals": [{"id": "fallen", "name": "Fallen"}, {"id": "there", "name": "There"}],
  "levels": [{"id": "yard", "character": {"at": [0, -3, 0], "speed_m_s": 2},
   "emitters": [{"id": "thud", "name": "Thud", "sound": "tone", "at": [0, 0, 1], "starting": {"starts": [{"on": "signal", "signal": "fallen"}]}}],
   "zones": [{"id": "goal", "name": "Goal", "at": [8, 0, 0], "shape": {"is": "box", "size_m": [2, 4, 3]}, "fades": []},
             {"id": "half", "name": "Half way", "at": [4, 0, 0], "shape": {"is": "box", "size_m": [1, 4, 3]}, "fades": []},
             {"id": "pit", "name": "Pit", "at": [5.5, 3, 0], "shape": {"is": "box", "size_m": [1, 2, 3]}, "fades": []}],
   "walks": [{"id": "w", "name": "Across", "points": [{"t_s": 0, "at": [0, 0, 0], "heading_deg": 90}, {"t_s": 4, "at": [8, 0, 0]}]}]}]
})";

struct Yard : WindowFixture {
    Yard() : WindowFixture(yard)
    {
        QSettings().clear();
        start();
        session->selectThing<Walk>({"w"});
    }

    RunClock& run() { return window->findChild<Sheets*>()->runClock(); }
    BlindWalk& blind() { return window->findChild<Sheets*>()->blindWalk(); }
    const GoalRun& set() const { return level().walks[0]->run; }

    /// Ticks a zone in a button's list, or takes the tick away.
    void tick(const char* button, const QString& zone)
    {
        QMenu* menu = find<QPushButton>(button)->menu();
        emit menu->aboutToShow();
        for (QAction* action : menu->actions()) {
            if (action->text() == zone) {
                action->trigger();
                return;
            }
        }
        qFatal("no such zone");
    }

    void setUp()
    {
        choose("runGoal", "Goal");
        tick("runCheckpoints", "Half way");
        tick("runPits", "Pit");
        choose("runOnFall", "Fallen");
        choose("runOnGoal", "There");
    }
    /// Holds a key for so long.
    void hold(Qt::Key key, double seconds)
    {
        QTest::keyPress(&plan(), key);
        pass(seconds);
        QTest::keyRelease(&plan(), key);
        pass(0.1);
    }
};

/// Finds its way by the beat alone, and a compass: goes where it faces until the beat says that something is near ahead, turns
/// to the next way then, and keeps away from what beats close at its side.
class GoesByEar
{
public:
    GoesByEar(const Project& project, const std::filesystem::path& folder, const WalkId& walk, const SignalId& beatsOn)
        : project_(std::make_shared<const Project>(project)), level_(*project_->levels[0]), walk_(*level_.walks.find(walk)),
          ground_(readGeometry(*project_, folder).front().ground), cutter_(std::make_shared<const PlanCutter>(ground_->mesh())),
          world_(project_, level_.id, ground_, [](auto&&...) { return 0.1; }),
          watch_(walk_.run, world_.zones(), walkPose(walk_, 0.0)), feet_(walkPose(walk_, 0.0)), beatsOn_(beatsOn)
    {
        walker_.setLevel(cutter_, ground_);
        walker_.setQuarterTurns(true);
        for (std::uint32_t i = 0; i < level_.emitters.size(); ++i) {
            if (level_.emitters[i]->kind == EmitterKind::pulse) {
                pulse_ = i;
            }
        }
    }

    /// Whether it came to the goal. `turns`: -1 to the left, 1 to the right, one for each time that something is ahead.
    bool runs(std::vector<int> turns, double most_s)
    {
        for (double t = tick_s; t < most_s && !watch_.over(); t += tick_s) {
            World::Input input{.to_s = t, .feet = feet_};
            Happening begins;
            begins.signal = beatsOn_;
            if (t < 1.5 * tick_s && !beatsOn_.empty()) {
                input.happenings = {&begins, 1};
            }
            world_.advance(state_, input);
            listen(turns);
            away_s_ = std::max(away_s_ - tick_s, 0.0);
            walker_.setInput({.ahead = 1, .right = away_s_ > 0.0 ? away_ : 0, .turn = turn_}, feet_.heading_deg,
                             Character::Moves::freely);
            turn_ = 0;
            walker_.step(feet_, level_, tick_s);
            ZonesAt zones;
            world_.zones().at(
                feet_.at + Vec3{0, 0, RunWatch::body_m}, [](const Riding&) { return Carriage{}; }, zones);
            if (const auto news = watch_.follow(feet_, zones, tick_s); news.putBack) {
                feet_ = *news.putBack;
                walker_.stand();
            }
        }
        return watch_.over();
    }

    const RunWatch& watch() const { return watch_; }
    int beats() const { return beats_; }
    const Pose& feet() const { return feet_; }

private:
    void listen(std::vector<int>& turns)
    {
        for (const Start& start : state_.starts) {
            if (start.emitter != pulse_ || start.number < heard_ || !start.at) {
                continue;
            }
            heard_ = start.number + 1;
            ++beats_;
            const Vec2 way = Vec2(*start.at) - Vec2(feet_.at);
            const double aside_deg = wrapDegrees(headingAlong(Vec3(way, 0.0)) - feet_.heading_deg);
            if (std::abs(aside_deg) < 35.0 && glm::length(way) < near_m && !turns.empty() && away_s_ <= 0.0) {
                turn_ = turns.front();
                turns.erase(turns.begin());
            } else if (std::abs(aside_deg) < 145.0 && std::abs(aside_deg) >= 35.0 && glm::length(way) < close_m) {
                away_ = aside_deg < 0.0 ? 1 : -1;
                away_s_ = 0.2;
            }
        }
    }

    static constexpr double tick_s = 1.0 / 60.0;
    static constexpr double near_m = 1.4;
    static constexpr double close_m = 0.8;

    std::shared_ptr<const Project> project_;
    const Level& level_;
    const Walk& walk_;
    std::shared_ptr<const Ground> ground_;
    std::shared_ptr<const PlanCutter> cutter_;
    World world_;
    WorldState state_;
    RunWatch watch_;
    Pose feet_;
    SignalId beatsOn_;
    Walker walker_;
    std::uint32_t pulse_ = 0;
    std::uint64_t heard_ = 0;
    int beats_ = 0;
    int turn_ = 0;
    int away_ = 0;
    double away_s_ = 0.0;
};

} // namespace

/// Runs to a goal: set up on the walk's page, run by keys, timed, put back; and one that is run by ear.
class TestRunsWindow : public QObject
{
    Q_OBJECT

private slots:
    void isSetUpOnTheWalksPage()
    {
        Yard f;
        QVERIFY(!f.find<QPushButton>("runSeeing")->isEnabled());
        f.setUp();
        QCOMPARE(f.set().goal.text, std::string("goal"));
        QCOMPARE(f.set().checkpoints, std::vector<ZoneId>{{"half"}});
        QCOMPARE(f.set().pits, std::vector<ZoneId>{{"pit"}});
        QCOMPARE(f.set().onFall.text, std::string("fallen"));
        f.type("runFall", "2.5");
        QCOMPARE(f.set().fall_m, 2.5);
        f.tick("runPits", "Pit");
        QVERIFY(f.set().pits.empty());
        f.session->undo();
        QCOMPARE(f.set().pits.size(), std::size_t{1});
        QVERIFY(f.find<QPushButton>("runSeeing")->isEnabled());
    }

    void withoutAGoalItSaysWhatToDo()
    {
        Yard f;
        f.menu("Run to the goal of the walk");
        QVERIFY(!f.run().shown());
        QVERIFY(f.find<QLabel>("bannerText")->text().contains("no goal"));
    }

    void theClockRunsAndTheBestTimeIsKept()
    {
        Yard f;
        f.setUp();
        f.find<QPushButton>("runSeeing")->click();
        QVERIFY(f.run().on());
        QCOMPARE(f.playback->feet().at, (Vec3{0, 0, 0}));
        f.pass(0.5);
        QCOMPARE(f.run().seconds(), 0.0); // not before the first step
        f.hold(Qt::Key_W, 2.2);
        QVERIFY(f.run().on());
        QVERIFY(f.find<QLabel>("runTime")->text().contains("1 of 1 checkpoints"));
        f.hold(Qt::Key_W, 2.0);
        QVERIFY(!f.run().on());
        QVERIFY(f.run().shown());
        const auto best = f.run().best_s({"w"});
        QVERIFY(best.has_value());
        QVERIFY2(std::abs(*best - 3.6) < 0.3, std::to_string(*best).c_str()); // seven metres at two a second
        QVERIFY(f.find<QLabel>("runTime")->text().startsWith("Goal in 0:03"));
        // A slower one does not count.
        f.find<QPushButton>("runSeeing")->click();
        f.hold(Qt::Key_W, 0.5);
        f.pass(2.0);
        f.hold(Qt::Key_W, 4.0);
        QVERIFY(!f.run().on() && f.run().seconds() > 5.0);
        QCOMPARE(*f.run().best_s({"w"}), *best);
        f.window->findChild<QAbstractButton*>("runEnd")->click();
        QVERIFY(!f.run().shown());
    }

    void aPitPutsBackToTheCheckpointWithItsSound()
    {
        Yard f;
        f.setUp();
        f.find<QPushButton>("runSeeing")->click();
        f.hold(Qt::Key_W, 2.8);
        QVERIFY(f.find<QLabel>("runTime")->text().contains("1 of 1"));
        f.hold(Qt::Key_Left, 0.8); // north
        f.hold(Qt::Key_W, 1.1);
        QVERIFY(f.find<QLabel>("runTime")->text().contains("1 falls") || f.find<QLabel>("runTime")->text().contains("1 fall"));
        QVERIFY(f.playback->feet().at.x < 4.5);
        const auto& starts = f.playback->world()->starts;
        QVERIFY(std::any_of(starts.begin(), starts.end(), [](const Start& start) { return start.emitter == 0; }));
        QVERIFY(f.run().on());
    }

    void blindThereIsACompassAndTheClockWhichCanBeHidden()
    {
        Yard f;
        f.setUp();
        f.find<QPushButton>("runBlind")->click();
        QVERIFY(f.blind().on() && f.run().on());
        auto* cover = f.find<BlindCover>("blindCover");
        QVERIFY(WindowFixture::isShown(cover));
        QVERIFY(!WindowFixture::isShown(f.window->findChild<PlanView*>()));
        auto* columns = f.window->findChild<QSplitter*>("columns");
        QVERIFY(columns->sizes()[0] == 0 && columns->sizes()[2] == 0); // nothing that says where things are
        QVERIFY(!WindowFixture::isShown(f.window->findChild<QLabel*>("runTime")));
        const QImage both = cover->grab().toImage();
        f.find<QCheckBox>("blindCompass")->click();
        const QImage clockAlone = cover->grab().toImage();
        QVERIFY(both != clockAlone);
        f.find<QCheckBox>("blindClock")->click();
        QVERIFY(cover->grab().toImage() != clockAlone);
        f.find<QCheckBox>("blindSpeaks")->click();
        f.find<QCheckBox>("blindCompass")->click();
        f.pass(0.1);
        QTest::qWait(500);
        f.pass(0.1);
        QCOMPARE(cover->announcer().last(), QString("east"));
        QTest::keyPress(cover, Qt::Key_W);
        f.pass(5.0);
        QTest::keyRelease(cover, Qt::Key_W);
        QVERIFY(!f.run().on());
        QVERIFY(cover->announcer().last().startsWith("goal, in 0:03"));
        QVERIFY(!f.blind().on()); // and the way is shown
        QVERIFY(columns->sizes()[0] > 0 && columns->sizes()[2] > 0);
        QVERIFY(WindowFixture::isShown(f.window->findChild<QLabel*>("runTime")));
        QVERIFY(f.blind().metres() > 6.0);
    }

    void runsAreKeptAsTakes()
    {
        Yard f;
        f.setUp();
        QVERIFY(f.session->path() != std::filesystem::path());
        f.menu("Keep runs as takes");
        for (const char* how : {"runSeeing", "runBlind"}) {
            f.find<QPushButton>(how)->click();
            QVERIFY(f.playback->takes().recording());
            QWidget* sheet = f.blind().on() ? f.find<QWidget>("blindCover") : static_cast<QWidget*>(&f.plan());
            QTest::keyPress(sheet, Qt::Key_W);
            // A step at a time: at the goal the take is opened, and nothing else plays.
            for (int i = 0; i < 300 && f.run().on(); ++i) {
                f.pass(0.02);
            }
            QTest::keyRelease(sheet, Qt::Key_W);
            QVERIFY(!f.run().on());
            QVERIFY(!f.playback->takes().recording());
            QTRY_VERIFY(f.playback->takes().take() != nullptr);
            f.playback->takes().close();
            f.session->selectThing<Walk>({"w"});
        }
    }

    void theFootbridgeIsCrossedByEar()
    {
        const std::filesystem::path demo(DEMO);
        const Project project = readProjectFile(demo / "project.json").project;
        GoesByEar blind(project, demo, {"footbridge-run"}, {"feel-the-edge"});
        const bool there = blind.runs({-1, -1}, 90.0);
        const Vec3& end = blind.feet().at;
        QVERIFY2(there, qPrintable(QString("at %1, %2, %3 after %4 beats, %5 falls")
                                       .arg(end.x)
                                       .arg(end.y)
                                       .arg(end.z)
                                       .arg(blind.beats())
                                       .arg(blind.watch().falls())));
        QCOMPARE(blind.watch().falls(), 0);
        QVERIFY(blind.watch().seconds() > 15.0 && blind.watch().seconds() < 60.0);
        // Without the beat nobody finds it.
        GoesByEar deaf(project, demo, {"footbridge-run"}, {});
        QVERIFY(!deaf.runs({-1, -1}, 90.0));
        QCOMPARE(deaf.beats(), 0);
    }
};

} // namespace tst_runs_window

STONE_TEST(tst_runs_window, TestRunsWindow)
#include "tst_runs_window.moc"
