// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/contours/contours_panel.h"
#include "app/window_fixture.h"
#include "project/edit.h"
#include "support/one_of_many.h"

#include <QAction>
#include <QLabel>
#include <QToolButton>

#include <cmath>

namespace tst_contours_window
{

using namespace stone;

namespace
{

/// Two lamps of a family on two storeys, and two beds that are as loud as each other.
const std::string yard = R"({
  "name": "Contour yard",
  "sounds": [{"id": "tone", "name": "Tone", "file": "tone.wav"}],
  "falloffs": [{"id": "yard", "name": "Yard", "lanes": [{"reference_m": 1, "silent_at_m": 25}]}],
  "families": [{"id": "lamps", "name": "Lamps"}],
  "levels": [{"id": "yard", "storeys": [{"name": "Ground"}, {"name": "Upper", "floor_m": 4, "cut_m": 5.5}], "emitters": [
    {"id": "a", "name": "First lamp", "at": [-10, 0, 1.6], "sound": "tone", "falloff": "yard", "family": "lamps"},
    {"id": "b", "name": "Second lamp", "at": [12, 3, 5.6], "sound": "tone", "falloff": "yard", "family": "lamps"},
    {"id": "wind", "kind": "bed", "name": "Wind", "sound": "tone", "level_db": -30},
    {"id": "rain", "kind": "bed", "name": "Rain", "sound": "tone", "level_db": -33}]}]
})";

} // namespace

/// Contours over the Plan, by mouse and keys in the whole window.
class TestContoursWindow : public QObject
{
    Q_OBJECT

    static constexpr int whole_ms = 60'000;

    static ContoursPanel& panelOf(WindowFixture& f) { return *f.window->findChild<ContoursPanel*>(); }

    static bool waitForWhole(ContoursPanel& panel)
    {
        return QTest::qWaitFor(
            [&] { return panel.maker().shown() != nullptr && panel.maker().shown()->whole() && !panel.maker().making(); },
            whole_ms);
    }

private slots:
    /// On by a key, coarse first, whole in the end; each cell is what the model says there; off by the cross.
    void contoursOfOneEmitter()
    {
        WindowFixture f(yard);
        ContoursPanel& panel = panelOf(f);
        QVERIFY(panel.isHidden());
        f.session->selectOnly(EmitterId{"a"});
        QSignalSpy changed(&panel.maker(), &MapMaker::changed);
        f.menu("Contours: the whole storey at once");
        QVERIFY(panel.isVisible());
        f.choose("contoursOf", "Of what is selected: First lamp");
        QVERIFY(waitForWhole(panel));
        QVERIFY(changed.count() > 3); // from coarse to fine
        const MapShown& map = *panel.maker().shown();
        QCOMPARE(map.question.which.size(), std::size_t(1));
        QVERIFY(!panel.layer().lines().empty());
        const HearingModel& model = f.playback->hearing();
        double worst_db = 0.0;
        int heard = 0;
        for (std::uint32_t i = 0; i < map.grid.cells(); i += 97) {
            const Moment there(Ears(Pose{map.grid.at(i % map.grid.columns, i / map.grid.columns), 0.0, 0.0, 0.0}), TimeSpan{});
            HearScratch scratch;
            scratch.withoutGaze = true;
            std::vector<Heard> all;
            model.hear(there, all, scratch);
            for (const Heard& one : all) {
                if (one.index == map.question.which.front() && one.level_db > audible_db) {
                    worst_db = std::max(worst_db, std::abs(one.level_db - map.cells[i].level_db));
                    ++heard;
                }
            }
        }
        QVERIFY2(heard > 20, qPrintable(QString::number(heard)));
        QVERIFY2(worst_db < 0.05, qPrintable(QString("%1 dB").arg(worst_db)));
        QTest::mouseClick(f.find<QToolButton>("contoursClose"), Qt::LeftButton);
        QVERIFY(panel.isHidden() && !f.find<QAction>("contoursOn")->isChecked());
        QVERIFY(panel.maker().shown() == nullptr);
    }

    /// An edit is followed; what has changed is counted from before it, or from what was kept; undoing brings back the map.
    void editsAreFollowed()
    {
        WindowFixture f(yard);
        ContoursPanel& panel = panelOf(f);
        const EmitterId board{"a"};
        f.session->selectOnly(board);
        panel.setOn(true);
        f.choose("contoursOf", "Of what is selected: First lamp");
        QVERIFY(waitForWhole(panel));
        const SharedMap first = panel.maker().shown();
        f.session->editSelected("louder", {}, [](Emitter& emitter) { emitter.level_db += 6.0; });
        QVERIFY(QTest::qWaitFor([&] { return panel.maker().shown() != first; }));
        QVERIFY(waitForWhole(panel));
        QVERIFY(panel.maker().before() == first);
        f.choose("contoursShow", "What has changed");
        QVERIFY(QTest::qWaitFor([&] { return panel.maker().shown()->choice.shows == MapShows::difference; }, whole_ms));
        QVERIFY(waitForWhole(panel));
        int higher = 0;
        for (std::size_t i = 0; i < first->cells.size(); ++i) {
            if (first->cells[i].level_db > audible_db) {
                higher += std::abs(panel.layer().numbers()[i] - 6.0) < 0.05 ? 1 : 0;
            }
        }
        QVERIFY2(higher > 500, qPrintable(QString::number(higher)));
        f.session->undo();
        QVERIFY(QTest::qWaitFor([&] { return panel.maker().making(); }));
        QVERIFY(waitForWhole(panel));
        QVERIFY(panel.maker().shown()->cells == first->cells);
    }

    /// The value under the pointer, the section along a measured line, another storey, the next thing by key, A beside.
    void readByPointerAndKeys()
    {
        WindowFixture f(yard);
        ContoursPanel& panel = panelOf(f);
        panel.setOn(true);
        f.choose("contoursShow", "Where ambiences collide");
        QVERIFY(QTest::qWaitFor(
            [&] { return panel.maker().shown() && panel.maker().shown()->choice.shows == MapShows::ambiences; }, whole_ms));
        QVERIFY(waitForWhole(panel));
        QVERIFY(!panel.layer().regions().empty());
        QVERIFY(panel.layer().numbers().empty());
        f.menu("Contours show the next thing");
        QCOMPARE(panel.maker().choice().shows, MapShows::masked);
        f.choose("contoursShow", "How loud it is");
        f.choose("contoursOf", "Family Lamps");
        QCOMPARE(panel.maker().choice().of, MapChoice::Of::family);
        QVERIFY(QTest::qWaitFor(
            [&] { return panel.maker().shown() && panel.maker().shown()->choice == panel.maker().choice(); }, whole_ms));
        QVERIFY(waitForWhole(panel));
        PlanView& plan = f.plan();
        const MapShown& map = *panel.maker().shown();
        const QPoint middle = plan.camera().toScreen(Vec2{-8.0, 0.0}).toPoint();
        QTest::mouseMove(&plan, middle);
        auto* here = f.find<QLabel>("contoursHere");
        QVERIFY(QTest::qWaitFor([&] { return here->text().contains(" dB"); }));
        QVERIFY(f.find<QWidget>("mapSection")->isHidden());
        QTest::mousePress(&plan, Qt::LeftButton, Qt::ControlModifier, middle + QPoint(0, 60));
        QTest::mouseMove(&plan, middle + QPoint(60, 60));
        QTest::mouseMove(&plan, middle + QPoint(120, 60));
        QTest::mouseRelease(&plan, Qt::LeftButton, Qt::ControlModifier, middle + QPoint(120, 60));
        QVERIFY(f.find<QWidget>("mapSection")->isVisible());
        QVERIFY(f.find<QWidget>("mapSection")->accessibleName().contains(QString::fromUtf8("−")));
        QTest::mouseClick(f.find<QToolButton>("contoursKeep"), Qt::LeftButton);
        QVERIFY(panel.maker().keeps());
        QTest::mouseClick(f.find<QToolButton>("contoursBeside"), Qt::LeftButton);
        const std::size_t storey = map.storey;
        f.menu("Storey down the list");
        QVERIFY(QTest::qWaitFor([&] { return panel.maker().shown()->storey != storey; }, whole_ms));
        QVERIFY(waitForWhole(panel));
        // Off in the middle of it: it stops, and nothing comes later.
        panel.setOn(false);
        panel.setOn(true);
        panel.setOn(false);
        QTest::qWait(200);
        QVERIFY(panel.maker().shown() == nullptr && !panel.maker().making());
    }

    /// A door that a signal opens while one listens: the map follows it.
    void doorsAsTheyStand()
    {
        WindowFixture f;
        QVERIFY(f.window->openProject(DEMO));
        f.waitForLoading();
        ContoursPanel& panel = panelOf(f);
        const Level& level = f.session->level();
        const Opening* door = nullptr;
        for (const auto& opening : level.openings) {
            door = !opening->opensOn.empty() ? opening.get() : door;
        }
        QVERIFY(door != nullptr);
        // The urn behind it.
        const auto& emitters = level.emitters;
        const auto urn = std::find_if(emitters.begin(), emitters.end(), [](const auto& e) { return e->name == "Tea urn"; });
        QVERIFY(urn != emitters.end());
        f.session->selectOnly((*urn)->id);
        panel.setOn(true);
        f.choose("contoursOf", "Of what is selected: Tea urn");
        QVERIFY(waitForWhole(panel));
        f.playback->setListening(true);
        QVERIFY(f.playback->listening());
        f.pass(0.3);
        QVERIFY(waitForWhole(panel));
        const SharedMap before = panel.maker().shown();
        f.playback->send(door->opensOn);
        f.pass(6.0);
        QVERIFY(QTest::qWaitFor([&] { return panel.maker().shown() != before; }, whole_ms));
        QVERIFY(waitForWhole(panel));
        QVERIFY(panel.maker().shown()->cells != before->cells);
    }
};

} // namespace tst_contours_window

STONE_TEST(tst_contours_window, TestContoursWindow)
#include "tst_contours_window.moc"
