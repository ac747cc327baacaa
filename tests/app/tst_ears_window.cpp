// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/window_fixture.h"

#include "app/ears/rig_compare.h"
#include "support/one_of_many.h"

#include <QComboBox>
#include <QMenu>
#include <QTableWidget>
#include <qcustomplot.h>

#include <cmath>
#include <numbers>

namespace tst_ears_window
{

using namespace stone;

/// Rigs made, set up, switched and compared by mouse and keyboard.
class TestEarsWindow : public QObject
{
    Q_OBJECT

private:
    static void pick(WindowFixture& f, const QString& text)
    {
        auto* menu = f.find<QToolButton>("rigButton")->menu();
        emit menu->aboutToShow();
        QList<QAction*> actions = menu->actions();
        for (int i = 0; i < actions.size(); ++i) {
            if (actions[i]->menu() != nullptr) {
                actions.append(actions[i]->menu()->actions());
            }
            if (actions[i]->text() == text && actions[i]->menu() == nullptr) {
                actions[i]->trigger();
                return;
            }
        }
        qFatal("no %s in the rig menu", qPrintable(text));
    }
    static void pass(WindowFixture& f, double seconds)
    {
        for (double t = 0.0; t < seconds; t += 0.02) {
            f.playback->tick(0.02);
        }
    }
    static const Rig& rig(WindowFixture& f) { return rigOf(f.session->project(), f.session->project().rig); }

private slots:
    void aRigIsMadeAndSetUp()
    {
        WindowFixture f(oneTone);
        QVERIFY(f.find<QToolButton>("rigButton")->text().contains("First person"));
        // The submenu's entry, not the first person's own.
        auto* menu = f.find<QToolButton>("rigButton")->menu();
        emit menu->aboutToShow();
        pick(f, "From above");
        QVERIFY(f.window->findChild<QWidget*>("rigPage")->isVisible());
        QVERIFY(rig(f).kind == Rig::Kind::fromAbove && f.session->project().rigs.size() == 1);
        f.type("rigDistance", "10");
        f.type("rigTilt", "30");
        f.type("rigEars", "50");
        QVERIFY(rig(f).distance_m == 10.0 && rig(f).tilt_deg == 30.0 && rig(f).ears == 0.5);
        pass(f, 1.0);
        const Stance& stance = f.playback->stance();
        QVERIFY(glm::length(stance.ears.at - Vec3(0, -5 * std::cos(radians(30.0)), 1.6 + 2.5)) < 0.01);
        QVERIFY(glm::length(f.playback->ears().at - stance.ears.at) < 1e-9);
        // What has no effect says why.
        QVERIFY(!f.find<QWidget>("rigAngle")->isEnabled() && f.find<QWidget>("rigAngle")->toolTip().contains("shoulder"));
        f.choose("rigFacing", "a fixed way");
        f.type("rigFixed", "90");
        pass(f, 0.1);
        QVERIFY(std::abs(f.playback->ears().heading_deg - 90.0) < 0.01);
        f.choose("countsEntering", "camera");
        QCOMPARE(f.session->project().counting.entering, Who::camera);
        // Back at what is selected; removed, it is the first person's again.
        QTest::mouseClick(f.find<QPushButton>("removeRig"), Qt::LeftButton);
        QVERIFY(f.session->project().rigs.empty() && f.find<QToolButton>("rigButton")->text().contains("First person"));
        f.session->undo();
        QCOMPARE(f.session->project().rigs.size(), std::size_t(1));
        f.click(f.plan().placeOf({"a"}));
        QVERIFY(!f.window->findChild<QWidget*>("rigPage")->isVisible());
    }

    /// O goes over to the next rig without a jump, while it plays.
    void rigsAreSwitchedByKey()
    {
        WindowFixture f(oneTone);
        pick(f, "Over the shoulder");
        f.type("rigEars", "100");
        f.type("rigDistance", "6");
        pass(f, 1.0);
        const Vec3 behind = f.playback->ears().at;
        QVERIFY(behind.y < -5.0);
        f.playback->setListening(true);
        f.plan().setFocus();
        QTest::keyClick(f.window.get(), Qt::Key_O);
        QVERIFY(f.session->project().rig.empty());
        Vec3 before = f.playback->ears().at;
        std::vector<float> out;
        for (int i = 0; i < 60; ++i) {
            const std::vector<float> more = f.clock->advance(f.playback->live(), 0.02);
            out.insert(out.end(), more.begin(), more.end());
            f.playback->tick(0.02);
            QVERIFY(glm::length(f.playback->ears().at - before) < 1.5 * 6.5 / Listener::turnOver_s * 0.02 + 0.01);
            before = f.playback->ears().at;
        }
        QVERIFY(glm::length(before - Vec3(0, 0, 1.6)) < 1e-6);
        // Nothing breaks in what is played: no more than the tone itself bends.
        QVERIFY2(fixture::largestBreak(out, 0) < 3.0 * 0.5 * std::pow(2.0 * std::numbers::pi * 480.0 / 48'000.0, 3.0),
                 qPrintable(QString::number(fixture::largestBreak(out, 0))));
        // The engine's ears are there too.
        QVERIFY(f.playback->world() != nullptr && glm::length(f.playback->world()->stance.ears.at - before) < 0.01);
        QTest::keyClick(f.window.get(), Qt::Key_O);
        QVERIFY(!f.session->project().rig.empty());
    }

    /// A press of the key is one quarter, on the grid, and no step for the ear.
    void quarterTurns()
    {
        WindowFixture f(oneTone);
        f.window->findChild<QAction*>("quarterTurns")->setChecked(true);
        f.playback->placeFeet({{0, 0, 0}, 12, 0, 0});
        f.plan().setFocus();
        QTest::keyPress(&f.plan(), Qt::Key_E);
        double before = 12.0;
        for (int i = 0; i < 20; ++i) {
            f.playback->tick(0.01);
            QVERIFY(std::abs(wrapDegrees(f.playback->feet().heading_deg - before)) <= 7.21);
            before = f.playback->feet().heading_deg;
        }
        QCOMPARE(before, 90.0); // held on, it does not turn further
        QTest::keyRelease(&f.plan(), Qt::Key_E);
        for (int i = 0; i < 2; ++i) {
            QTest::keyClick(&f.plan(), Qt::Key_Q);
        }
        pass(f, 0.5);
        QVERIFY(std::abs(wrapDegrees(f.playback->feet().heading_deg + 90.0)) < 1e-9);
        f.window->findChild<QAction*>("quarterTurns")->setChecked(false);
    }

    void twoRigsAreCompared()
    {
        WindowFixture f(oneTone);
        pick(f, "Over the shoulder");
        f.type("rigDistance", "5");
        f.type("rigEars", "100");
        QTest::mouseClick(f.find<QPushButton>("compareRigs"), Qt::LeftButton);
        auto* dialog = f.window->findChild<RigCompare*>("rigCompare");
        QVERIFY(dialog != nullptr && dialog->isVisible());
        auto* table = dialog->findChild<QTableWidget*>("rigDifferences");
        QTRY_COMPARE(table->rowCount(), 1);
        QCOMPARE(table->item(0, 0)->text(), QString("Lamp"));
        // Walking east across a lamp to the north: the ears are behind, to the west; most where the lamp is passed.
        QVERIFY(table->item(0, 1)->text().contains("dB") && table->item(0, 3)->text().contains(QChar(0x00B0)));
        // The same rig twice: nothing differs.
        dialog->findChild<QComboBox*>("secondRig")->setCurrentIndex(0);
        QTRY_COMPARE(dialog->findChild<QPushButton*>("compareNow")->text(), QString("Compare"));
        QTest::mouseClick(dialog->findChild<QPushButton*>("compareNow"), Qt::LeftButton);
        QTRY_VERIFY(table->item(0, 1)->text().contains("0.0 dB"));
        auto* plot = dialog->findChild<QCustomPlot*>("rigPlot");
        QVERIFY(plot->graph(0)->dataCount() == 17 && plot->graph(1)->dataCount() == 17); // 4 s, every quarter
    }
};

} // namespace tst_ears_window

STONE_TEST(tst_ears_window, TestEarsWindow)
#include "tst_ears_window.moc"
