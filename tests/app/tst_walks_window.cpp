// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/section/section_view.h"
#include "app/window_fixture.h"
#include "project/read.h"
#include "support/one_of_many.h"
#include "world/walk_making.h"
#include "world/walk_pose.h"

#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTableWidget>
#include <QTest>

#include <cmath>

namespace tst_walks_window
{

using namespace stone;

namespace
{

const std::string noWalk = R"({
  "name": "Test yard",
  "sounds": [{"id": "tone", "name": "Tone", "file": "tone.wav"}],
  "falloffs": [{"id": "yard", "name": "Yard", "lanes": [{"reference_m": 2, "silent_at_m": 20}]}],
  "levels": [{"id": "yard", "emitters": [{"id": "a", "name": "Lamp", "at": [0, 9, 1.6], "sound": "tone", "falloff": "yard"}]}]
})";

} // namespace

/// Walks in the real window: drawn, recorded, changed by hand and by numbers, followed, saved.
class TestWalksWindow : public QObject
{
    Q_OBJECT

    static const Walk& onlyWalk(const WindowFixture& f) { return *f.level().walks[0]; }

    static QPointF screen(WindowFixture& f, double east, double north)
    {
        return f.plan().camera().toScreen(Vec3{east, north, 0.0});
    }

    /// East 8 m, north 6 m.
    static void drawCorner(WindowFixture& f)
    {
        QTest::keyClick(&f.plan(), Qt::Key_L, Qt::ShiftModifier);
        QCOMPARE(f.plan().tool(), PlanView::Tool::walk);
        f.click(screen(f, -4, -3));
        f.click(screen(f, 4, -3));
        f.click(screen(f, 4, 3));
        QTest::keyClick(&f.plan(), Qt::Key_Return);
    }

    static void typeCell(WindowFixture& f, int row, int column, const QString& text)
    {
        auto* points = f.find<QTableWidget>("walkPoints");
        points->setFocus();
        points->setCurrentCell(row, column);
        points->editItem(points->item(row, column));
        auto* editor = qobject_cast<QLineEdit*>(QApplication::focusWidget());
        QVERIFY(editor != nullptr);
        editor->selectAll();
        text.isEmpty() ? QTest::keyClick(editor, Qt::Key_Delete) : QTest::keyClicks(editor, text);
        QTest::keyClick(editor, Qt::Key_Return);
        QCoreApplication::processEvents(); // what was typed is taken a moment later
    }

private slots:
    void theEyesStayOnAThing()
    {
        WindowFixture f(noWalk);
        drawCorner(f);
        f.choose("walkEyes", "choose a thing…");
        QTest::keyClick(f.find<QComboBox>("walkEyes"), Qt::Key_Down);
        const Walk walk = onlyWalk(f);
        for (double t = 0.0; t < walk.seconds(); t += 0.1) {
            const Pose pose = walkPose(walk, t);
            const Vec3 way = f.emitter("a").at - pose.at;
            QVERIFY(std::abs(wrapDegrees(pose.heading_deg - degrees(std::atan2(way.x, way.y)))) < 3.0);
        }
        QVERIFY2(f.session->undoName().contains("eyes on Lamp"), qPrintable(f.session->undoName()));
    }

    void allOfAWalkGoesAtATypedSpeed()
    {
        WindowFixture f(noWalk);
        drawCorner(f);
        f.type("walkSpeed", "2.5");
        const Walk walk = onlyWalk(f);
        for (std::size_t leg = 0; leg + 1 < walk.points.size(); ++leg) {
            QVERIFY(std::abs(legSpeed_m_s(walk, leg) - 2.5) < 0.01);
        }
    }

    void aFirstWalkIsDrawn()
    {
        WindowFixture f(noWalk);
        QVERIFY(f.level().walks.empty());
        drawCorner(f);
        QCOMPARE(f.level().walks.size(), std::size_t{1});
        const Walk& walk = onlyWalk(f);
        QCOMPARE(walk.points.size(), std::size_t{3});
        const double speed = f.level().character.speed_m_s;
        QVERIFY(std::abs(legSpeed_m_s(walk, 0) - speed) < 0.01 && std::abs(legSpeed_m_s(walk, 1) - speed) < 0.01);
        QVERIFY2(std::abs(walk.points[1].at.x - 4.0) < 0.1, qPrintable(QString::number(walk.points[1].at.x)));
        // It is the one that is followed, and its page is there.
        QCOMPARE(f.playback->walk(), walk.id);
        QVERIFY(WindowFixture::isShown(f.find<QTableWidget>("walkPoints")));
        f.find<QPushButton>("walkFollow")->click();
        f.clock->advance(f.playback->live(), 2.0);
        f.playback->tick(0.02);
        QVERIFY(f.playback->walking());
        QVERIFY2(std::abs(f.playback->feet().at.x - (walk.points[0].at.x + 2.0 * speed)) < 0.2,
                 qPrintable(QString::number(f.playback->feet().at.x)));
        // Gone by one undo, back by one redo, and in the document.
        QTest::keyClick(&f.plan(), Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(f.level().walks.empty());
        QTest::keyClick(&f.plan(), Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
        QTest::keyClick(&f.plan(), Qt::Key_S, Qt::ControlModifier);
        QCOMPARE(*readProjectFile(f.path()).project.levels[0]->walks[0], onlyWalk(f));
    }

    /// While nothing is selected the bench says what comes next, and does it.
    void theNextStepIsOffered()
    {
        WindowFixture f(noWalk);
        const auto next = [&] { return f.find<QLabel>("nextStep")->text(); };
        QCOMPARE(next(), QString("Next: a walk"));
        f.find<QPushButton>("nextFirst")->click();
        QCOMPARE(f.plan().tool(), PlanView::Tool::walk);
        f.click(screen(f, -4, -3));
        f.click(screen(f, 4, -3));
        QTest::keyClick(&f.plan(), Qt::Key_Return);
        QCOMPARE(f.level().walks.size(), std::size_t{1});
        f.session->selectNone();
        QCOMPARE(next(), QString("Next: listen"));
        f.find<QPushButton>("nextFirst")->click();
        QVERIFY(f.playback->listening());
        QCOMPARE(next(), QString("Nothing selected"));
        QVERIFY(!f.find<QPushButton>("nextFirst")->isVisible());
        f.session->startNew();
        QCOMPARE(next(), QString("Next: sounds"));
    }

    void givenUpNothingIsDrawn()
    {
        WindowFixture f(noWalk);
        QTest::keyClick(&f.plan(), Qt::Key_L, Qt::ShiftModifier);
        f.click(screen(f, -4, -3));
        QTest::keyClick(&f.plan(), Qt::Key_Escape);
        QCOMPARE(f.plan().tool(), PlanView::Tool::select);
        QTest::keyClick(&f.plan(), Qt::Key_L, Qt::ShiftModifier);
        f.click(screen(f, -4, -3));
        QTest::keyClick(&f.plan(), Qt::Key_Return);
        QVERIFY(f.level().walks.empty());
    }

    void pointsArePulledAddedAndTakenAway()
    {
        WindowFixture f(noWalk);
        drawCorner(f);
        f.drag(&f.plan(), f.plan().placeOfWalkPoint(1), screen(f, 2, -3));
        QVERIFY(std::abs(onlyWalk(f).points[1].at.x - 2.0) < 0.2);
        QVERIFY(std::abs(legSpeed_m_s(onlyWalk(f), 0) - f.level().character.speed_m_s) < 0.01);
        QTest::mouseDClick(&f.plan(), Qt::LeftButton, {}, screen(f, -1, -3).toPoint());
        QCOMPARE(onlyWalk(f).points.size(), std::size_t{4});
        QTest::mouseDClick(&f.plan(), Qt::LeftButton, {}, f.plan().placeOfWalkPoint(1).toPoint());
        QCOMPARE(onlyWalk(f).points.size(), std::size_t{3});
        // A click beside it lets go of it, one on its way takes hold again.
        f.click(screen(f, -3, 4));
        QVERIFY(f.session->selected<Walk>() == nullptr);
        f.click(screen(f, -1, -3));
        QVERIFY(f.session->selected<Walk>() != nullptr);
        // Each was one step.
        for (int i = 0; i < 3; ++i) {
            QTest::keyClick(&f.plan(), Qt::Key_Z, Qt::ControlModifier);
        }
        QVERIFY(std::abs(onlyWalk(f).points[1].at.x - 4.0) < 0.1);
    }

    /// On the Section a point is pulled up and along; a room selected there has its name over it.
    void pointsArePulledOnTheSection()
    {
        WindowFixture f(noWalk);
        drawCorner(f);
        QTest::keyClick(&f.plan(), Qt::Key_H);
        auto* section = f.window->findChild<SectionView*>();
        QTRY_VERIFY(section->isVisible() && section->height() > 40);
        const Vec3 before = onlyWalk(f).points[0].at;
        const QPointF from = section->placeOfWalkPoint(0);
        WindowFixture::drag(section, from, section->toScreen(before + Vec3{1.0, 0.0, 2.0}));
        const Vec3 after = onlyWalk(f).points[0].at;
        QVERIFY2(glm::length(after - before - Vec3{1.0, 0.0, 2.0}) < 0.2,
                 qPrintable(QString("%1 %2").arg(after.x).arg(after.z)));
        QVERIFY(std::abs(legSpeed_m_s(onlyWalk(f), 0) - f.level().character.speed_m_s) < 0.01);
        QTest::keyClick(&f.plan(), Qt::Key_Z, Qt::ControlModifier);
        QCOMPARE(onlyWalk(f).points[0].at, before);
        f.menu("Room");
        section->repaint();
        QVERIFY(f.session->selected<Room>() != nullptr);
    }

    void numbersAreTyped()
    {
        WindowFixture f(noWalk);
        drawCorner(f);
        typeCell(f, 0, 1, "0.5");
        QVERIFY2(std::abs(legSpeed_m_s(onlyWalk(f), 0) - 0.5) < 0.001,
                 qPrintable(QString::number(legSpeed_m_s(onlyWalk(f), 0))));
        typeCell(f, 2, 0, "30");
        QVERIFY(std::abs(onlyWalk(f).seconds() - 30.0) < 1e-9);
        typeCell(f, 1, 2, "2,5");
        QCOMPARE(stay_s(onlyWalk(f), 1), 2.5);
        QCOMPARE(onlyWalk(f).points.size(), std::size_t{4});
        typeCell(f, 3, 4, "7");
        QCOMPARE(onlyWalk(f).points[3].at.y, 7.0);
        typeCell(f, 0, 6, "-90");
        QCOMPARE(*onlyWalk(f).points[0].heading_deg, -90.0);
        typeCell(f, 0, 6, "");
        QVERIFY(!onlyWalk(f).points[0].heading_deg);
        // What is no number changes nothing and is shown as it was.
        const Walk before = onlyWalk(f);
        const QString shown = f.find<QTableWidget>("walkPoints")->item(1, 3)->text();
        typeCell(f, 1, 3, "far");
        typeCell(f, 0, 1, "-3");
        QCOMPARE(onlyWalk(f), before);
        QCOMPARE(f.find<QTableWidget>("walkPoints")->item(1, 3)->text(), shown);
    }

    void walksAreDoubledTurnedAndDeleted()
    {
        WindowFixture f(noWalk);
        drawCorner(f);
        const Walk first = onlyWalk(f);
        f.find<QPushButton>("walkTurnRound")->click();
        QCOMPARE(onlyWalk(f).points.front().at, first.points.back().at);
        f.find<QPushButton>("walkDouble")->click();
        QCOMPARE(f.level().walks.size(), std::size_t{2});
        QVERIFY(f.level().walks[1]->name != f.level().walks[0]->name);
        QCOMPARE(f.playback->walk(), f.level().walks[1]->id);
        f.find<QPushButton>("walkDelete")->click();
        QCOMPARE(f.level().walks.size(), std::size_t{1});
        QTest::keyClick(&f.plan(), Qt::Key_Z, Qt::ControlModifier);
        QCOMPARE(f.level().walks.size(), std::size_t{2});
    }

    /// Walked by the keys with turns, then followed: the same path to a centimetre.
    void aRecordedWalkReplays()
    {
        WindowFixture f(noWalk);
        QTest::keyClick(&f.plan(), Qt::Key_P, Qt::ShiftModifier);
        QVERIFY(f.playback->recording());
        std::vector<std::pair<double, Pose>> was;
        double now_s = 0.0;
        const auto walkFor = [&](WalkInput input, int ticks) {
            f.playback->setWalkInput(input);
            for (int i = 0; i < ticks; ++i) {
                f.playback->tick(0.016);
                now_s += 0.016;
                was.emplace_back(now_s, f.playback->feet());
            }
        };
        walkFor({.ahead = 1}, 90);
        walkFor({.ahead = 1, .turn = 1}, 60);
        walkFor({}, 40);
        walkFor({.ahead = 1, .right = 1, .fast = true}, 70);
        f.playback->setWalkInput({});
        QTest::keyClick(&f.plan(), Qt::Key_P, Qt::ShiftModifier);
        QVERIFY(!f.playback->recording());
        QCOMPARE(f.level().walks.size(), std::size_t{1});
        const Walk& walk = onlyWalk(f);
        QVERIFY2(walk.points.size() < was.size() / 2, qPrintable(QString::number(walk.points.size())));
        QVERIFY(glm::length(was.back().second.at) > 2.0);
        for (const auto& [t_s, feet] : was) {
            const Pose again = walkPose(walk, t_s);
            QVERIFY2(glm::length(again.at - feet.at) < 0.01, qPrintable(QString::number(glm::length(again.at - feet.at))));
        }
    }

    void nothingWalkedIsNoWalk()
    {
        WindowFixture f(noWalk);
        QTest::keyClick(&f.plan(), Qt::Key_P, Qt::ShiftModifier);
        QTest::keyClick(&f.plan(), Qt::Key_P, Qt::ShiftModifier);
        QVERIFY(f.level().walks.empty());
    }
};

} // namespace tst_walks_window

STONE_TEST(tst_walks_window, TestWalksWindow)
#include "tst_walks_window.moc"
