// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/ambience/pad.h"
#include "app/bench/bench_panel.h"
#include "app/crowd/crowd_dialog.h"
#include "app/lists/row_list.h"
#include "app/session/take_desk.h"
#include "app/window_fixture.h"
#include "hearing/reasons.h"
#include "support/one_of_many.h"
#include "takes/take_compare.h"

#include <QAction>
#include <QLabel>
#include <QTabBar>

#include <algorithm>
#include <cmath>

namespace tst_crowd
{

using namespace stone;

namespace
{

/// Three moths with one sound, once through, at three lamps; and a hum that all have their own of.
const std::string moths = R"({
  "name": "Moth yard",
  "sounds": [{"id": "moth", "name": "Moth", "file": "tone.wav", "loop": false},
             {"id": "hum", "name": "Hum", "file": "tone.wav", "loop": true}],
  "falloffs": [{"id": "yard", "name": "Yard", "lanes": [{"reference_m": 2, "silent_at_m": 60}]}],
  "families": [{"id": "lamps", "name": "Lamps"}],
  "signals": [{"id": "gust", "name": "Gust"}],
  "levels": [{"id": "yard", "character": {"at": [0, 0, 0]}, "emitters": [
    {"id": "m1", "name": "Moth 1", "at": [0, 5, 1.6], "sound": "moth", "falloff": "yard",
     "starting": {"starts": [{"on": "signal", "signal": "gust"}], "second": "another"}},
    {"id": "m2", "name": "Moth 2", "at": [3, 5, 1.6], "sound": "moth", "falloff": "yard",
     "starting": {"starts": [{"on": "interact", "within_m": 30}], "second": "another"}},
    {"id": "h1", "name": "Hum 1", "at": [0, 4, 1.6], "sound": "hum", "falloff": "yard", "family": "lamps"},
    {"id": "h2", "name": "Hum 2", "at": [0, 9, 1.6], "sound": "hum", "falloff": "yard", "family": "lamps"},
    {"id": "h3", "name": "Hum 3", "at": [0, 14, 1.6], "sound": "hum", "falloff": "yard", "family": "lamps"}],
   "walks": [{"id": "w", "name": "Round", "points": [{"t_s": 0, "at": [0, 0, 0]}, {"t_s": 20, "at": [0, 20, 0]}]}]}]
})";

struct Yard : WindowFixture {
    Yard() : WindowFixture(moths) { playback->setMonitor_db(-20.0); }

    void showSound(const char* id)
    {
        window->findChild<BenchPanel*>()->showSound({id});
        auto* tabs = find<QTabBar>("soundTabs");
        for (int tab = 0; tab < tabs->count(); ++tab) {
            if (tabs->tabText(tab) == "At once") {
                tabs->setCurrentIndex(tab);
                return;
            }
        }
        qFatal("no tab about copies at once");
    }

    const Sound& sound(const char* id) { return *session->project().sounds.find({id}); }
    const Row* row(const QString& key)
    {
        RowModel& rows = find<RowList>("inEarshot")->rows();
        const int at = rows.indexOfKey(key);
        return at < 0 ? nullptr : &rows.row(at);
    }
    std::size_t sounding(const char* soundId)
    {
        const auto& all = playback->heardInReach();
        return static_cast<std::size_t>(std::count_if(all.begin(), all.end(), [&](const Heard& heard) {
            return heard.audible && playback->hearing().world().playables()[heard.start.playable].sound->id.text == soundId;
        }));
    }
};

} // namespace

/// Bursts, limits, and the picture of what they do, by mouse and keyboard.
class TestCrowd : public QObject
{
    Q_OBJECT

private slots:
    /// From a burst that is too much to a limit that holds, typed, pulled and by the keys.
    void aBurstMeetsALimit()
    {
        Yard f;
        f.showSound("moth");
        f.type("burstCount", "30");
        f.type("burstEvery", "0.05");
        f.choose("burstWhat", "all 2 emitters in turn");
        QVERIFY(!f.playback->listening());
        QTest::mouseClick(f.find<QPushButton>("burstFire"), Qt::LeftButton);
        QVERIFY(f.playback->listening());
        f.pass(0.8);
        QVERIFY2(f.sounding("moth") > 10, qPrintable(QString::number(f.sounding("moth"))));
        QVERIFY(f.find<QLabel>("limitNow")->text().startsWith("now 1"));
        // All of them fired, at both emitters.
        f.pass(4.0);
        auto* view = f.find<VoicesView>("limitVoices");
        const auto drawn = view->shown();
        QCOMPARE(drawn.size(), std::size_t(30));
        QCOMPARE(std::count_if(drawn.begin(), drawn.end(), [](const auto* span) { return span->emitter.text == "m1"; }), 15);
        // Typed: no more than three at once, and the others are said.
        f.type("limitAtOnce", "3");
        QCOMPARE(f.sound("moth").limit.atOnce, 3);
        QTest::mouseClick(f.find<QPushButton>("burstFire"), Qt::LeftButton);
        std::size_t most = 0;
        for (int i = 0; i < 30; ++i) {
            f.pass(0.05);
            most = std::max(most, f.sounding("moth"));
        }
        QCOMPARE(most, std::size_t(3));
        f.pass(0.5);
        const QString gaveWay = f.find<QLabel>("limitGaveWay")->text();
        QVERIFY2(gaveWay.contains("3 at once of its sound \"Moth\": the quietest gives way"), qPrintable(gaveWay));
        QVERIFY(f.find<QLabel>("limitNow")->text().contains("refused or dropped"));
        // Pulled down by one, as one step of the history.
        f.drag(view, {view->width() / 2.0, view->yOf(3)}, {view->width() / 2.0, view->yOf(2)});
        QCOMPARE(f.sound("moth").limit.atOnce, 2);
        f.session->undo();
        QCOMPARE(f.sound("moth").limit.atOnce, 3);
        view->setFocus();
        QTest::keyClick(view, Qt::Key_Up);
        QCOMPARE(f.sound("moth").limit.atOnce, 4);
        // By another rule, with a hold-off, each for itself.
        f.choose("limitGivesWay", "the new one");
        f.type("limitHoldOff", "0.5");
        QTest::mouseClick(f.find<QCheckBox>("limitEachEmitter"), Qt::LeftButton);
        const Limit& limit = f.sound("moth").limit;
        QVERIFY(limit.givesWay == GivesWay::newest && limit.holdOff_s == 0.5 && limit.eachEmitter);
    }

    /// All of the way: a take of a burst that is too much, a limit, a second take of the same, what that did, proved.
    void fromMudToProof()
    {
        Yard f;
        f.window->findChild<QAction*>("showStrata")->setChecked(true);
        QTest::qWait(1); // until it is laid out
        TakeDesk& desk = f.playback->takes();
        const auto record = [&] {
            QTest::mouseClick(f.find<QPushButton>("recordTake"), Qt::LeftButton);
            QVERIFY(desk.recording());
            f.showSound("moth");
            f.type("burstCount", "40");
            f.type("burstEvery", "0.05");
            f.choose("burstWhat", "all 2 emitters in turn");
            QTest::mouseClick(f.find<QPushButton>("burstFire"), Qt::LeftButton);
            for (int i = 0; i < 150; ++i) {
                f.pass(0.02);
            }
            QTest::mouseClick(f.find<QPushButton>("recordTake"), Qt::LeftButton);
            QVERIFY(!desk.recording() && desk.take());
        };
        record();
        const auto first = desk.take()->path();
        const TakeTotals before = totalsOf(*desk.take());
        QVERIFY(before.voicesMost > 12.0);
        const auto found = findInTake(*desk.take());
        QVERIFY(std::any_of(found.begin(), found.end(), [](const TakeFinding& one) { return one.code == "piles-up"; }));
        QVERIFY(std::any_of(desk.take()->events().begin(), desk.take()->events().end(), [](const TakeEvent& event) {
            return event.kind == TakeEvent::Kind::burst && event.number == 40.0;
        }));
        f.showSound("moth");
        f.type("limitAtOnce", "3");
        record();
        const TakeTotals after = totalsOf(*desk.take());
        QVERIFY(after.voicesMost <= 6.0 && after.gaveWay >= 20);
        QVERIFY(desk.compareWith(first).isEmpty());
        const TakeComparison comparison = compareTakes(*desk.other(), *desk.take());
        QCOMPARE(comparison.changed.size(), std::size_t(1));
        QCOMPARE(inWords(comparison.changed[0]), std::string("Sound \"Moth\": limit, at once 3, was as usual"));
        QVERIFY(comparison.second.integrated_lufs < comparison.first.integrated_lufs);
    }

    /// A limit on what goes on for ever: who sleeps is in a list of its own, with a mark on the Plan, and comes back.
    void whoGaveWayIsListed()
    {
        Yard f;
        f.session->editSound({"hum"}, "two", {}, [](Sound& s) { s.limit.atOnce = 1; });
        f.playback->setListening(true);
        f.pass(0.5);
        QTest::qWait(300);
        f.pass(0.1);
        QCOMPARE(f.sounding("hum"), std::size_t(1));
        QVERIFY(f.row("h1") != nullptr && f.row("h2") == nullptr);
        const Row* asleep = f.row("gaveWay:h2");
        QVERIFY(asleep != nullptr);
        QVERIFY2(asleep->detail.contains("to \"Hum 1\", 1 at once of its sound \"Hum\""), qPrintable(asleep->detail));
        QVERIFY(asleep->faint && asleep->value.startsWith(QStringLiteral("−1")));
        // Chosen there it is selected, and its Ledger says the same.
        emit f.find<RowList>("inEarshot")->chosen("gaveWay:h2");
        QVERIFY(f.session->selection().contains({"h2"}));
        const Heard& heard = f.playback->heard()[3];
        QVERIFY(heard.gaveWay && (heard.terms.end() - 1)->kind == TermKind::gaveWay);
        // Where it is the louder one by more than the margin, it takes over.
        f.playback->placeFeet({{0, 10, 0}, 0, 0, 0});
        f.pass(0.5);
        QVERIFY(f.playback->heard()[3].audible && f.playback->heard()[2].gaveWay);
    }

    void theLimitOfAFamilyAndOfTheLevel()
    {
        Yard f;
        f.playback->setListening(true);
        f.find<QTabBar>("listTabs")->setCurrentIndex(3);
        QTest::mouseClick(f.find<QPushButton>("familyLimitOpen"), Qt::LeftButton);
        f.type("familyLimitAtOnce", "2");
        QCOMPARE(f.session->project().families.find({"lamps"})->limit.atOnce, 2);
        f.pass(0.5);
        QCOMPARE(f.sounding("hum"), std::size_t(2));
        QVERIFY(QString::fromStdString(silencedBy(f.playback->hearing(), f.playback->heard()[4])).contains("of its family"));
        f.find<QDialog>("crowdDialog")->close();
        CrowdDialog dialog(*f.session, *f.playback, f.window.get());
        dialog.show();
        auto* voices = dialog.findChild<NumberField*>("voicesAtOnce");
        voices->setFocus();
        voices->selectAll();
        QTest::keyClicks(voices, "1");
        QTest::keyClick(voices, Qt::Key_Return);
        QCOMPARE(f.session->project().voices, 1);
        f.pass(0.5);
        QCOMPARE(f.sounding("hum"), std::size_t(1));
        QCOMPARE(f.playback->snapshot()->voices, std::size_t(1));
        QCOMPARE(f.playback->snapshot()->gaveWay, std::size_t(2));
    }

    /// A burst on the walk sounds wherever the walk is heard.
    void aBurstIsPutOnTheWalk()
    {
        Yard f;
        Pad pad(*f.session, *f.playback, f.window.get());
        pad.show();
        f.playback->chooseWalk({"w"});
        f.playback->seekWalk(2.0);
        f.choose("burstWhat", "signal Gust");
        QVERIFY(!pad.findChild<QComboBox*>("burstWhere")->isEnabled());
        QTest::mouseClick(pad.findChild<QPushButton*>("burstOnWalk"), Qt::LeftButton);
        f.choose("burstWhat", "Moth 2");
        QTest::mouseClick(pad.findChild<QCheckBox*>("burstIrregular"), Qt::LeftButton);
        QTest::mouseClick(pad.findChild<QPushButton*>("burstOnWalk"), Qt::LeftButton);
        const auto& events = f.level().walks[0]->events;
        QCOMPARE(events.size(), std::size_t(2));
        QVERIFY(events[0].kind == WalkEvent::Kind::burst && events[0].burst.of == Burst::Of::signal);
        QVERIFY(events[1].burst.emitter == EmitterId{"m2"} && events[1].burst.irregular && events[1].t_s == 2.0);
        // What is there is tuned there, each as one step.
        f.type("eventCount1", "7");
        f.type("eventEvery1", "0.4");
        const Burst& tuned = f.level().walks[0]->events[1].burst;
        QVERIFY(tuned.count == 7 && tuned.every_s == 0.4 && tuned.irregular && tuned.emitter == EmitterId{"m2"});
        f.session->undo();
        QVERIFY(f.level().walks[0]->events[1].burst.every_s != 0.4 && f.level().walks[0]->events[1].burst.count == 7);
        f.session->undo();
        QCOMPARE(f.level().walks[0]->events[1].burst.count, Burst().count);
        f.playback->setListening(true);
        f.playback->setWalking(true);
        f.pass(1.5);
        QTRY_VERIFY((f.pass(0.2), f.sounding("moth") > 4));
        // Recorded from the hand too.
        f.playback->setWalking(false);
        f.playback->setRecording(true);
        f.pass(0.2);
        QTest::mouseClick(pad.findChild<QPushButton*>("burstFire"), Qt::LeftButton);
        f.pass(0.5);
        f.playback->setRecording(false);
        const auto& recorded = f.level().walks[1]->events;
        QVERIFY(recorded.size() == 1 && recorded[0].kind == WalkEvent::Kind::burst);
    }
};

} // namespace tst_crowd

STONE_TEST(tst_crowd, TestCrowd)
#include "tst_crowd.moc"
