// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/window_fixture.h"
#include "support/one_of_many.h"

#include <QElapsedTimer>
#include <QScreen>
#include <QSettings>
#include <QTest>

#include <algorithm>
#include <set>

namespace tst_plan_names
{

using namespace stone;

/// The Plan of the demo stays readable: where names are written while one walks through it.
class TestPlanNames : public QObject
{
    Q_OBJECT

private slots:
    /// At two hundred moments of the demo's walk and three zooms no name lies on another, and something is named.
    void noTwoNamesMeet()
    {
        WindowFixture f;
        f.window->openProject(DEMO);
        f.waitForLoading();
        f.session->selectOnly(f.level().emitters[0]->id);
        constexpr int moments = 200;
        std::set<std::size_t> counts;
        for (const double zoom : {1.0, 2.2, 2.2}) {
            f.plan().zoomBy(zoom);
            for (int i = 0; i < moments; ++i) {
                f.playback->seekWalk(f.playback->walkLength_s() * i / (moments - 1));
                f.session->selectOnly(f.level().emitters[static_cast<std::size_t>(i) % f.level().emitters.size()]->id);
                f.plan().repaint();
                const auto& boxes = f.plan().labelBoxes();
                counts.insert(boxes.size());
                for (std::size_t a = 0; a < boxes.size(); ++a) {
                    QVERIFY(f.plan().rect().contains(boxes[a].toAlignedRect()));
                    for (std::size_t b = 0; b < a; ++b) {
                        QVERIFY2(!boxes[a].intersects(boxes[b]), qPrintable(QString("moment %1, zoom %2").arg(i).arg(zoom)));
                    }
                }
            }
        }
        QVERIFY2(*counts.begin() >= 3, qPrintable(QString::number(*counts.begin())));
        QVERIFY2(*counts.rbegin() >= 20, qPrintable(QString::number(*counts.rbegin())));
    }

    /// Who walks past things that stand still has them painted once, and once more after a zoom or an edit.
    void whatDoesNotMoveIsPaintedOnce()
    {
        WindowFixture f(oneTone);
        f.plan().repaint();
        const std::uint64_t before = f.plan().stillPaints();
        const auto walk = [&] {
            for (int i = 0; i < 50; ++i) {
                f.playback->seekWalk(0.08 * i);
                f.plan().repaint();
            }
        };
        walk();
        QCOMPARE(f.plan().stillPaints(), before);
        f.plan().zoomBy(1.5);
        walk();
        QCOMPARE(f.plan().stillPaints(), before + 1);
        f.session->selectThing<Walk>({"w"});
        walk();
        QCOMPARE(f.plan().stillPaints(), before + 2);
    }

    /// On the demo's walk, with zones and rooms that light up where one is, it is painted for a fraction of the pictures.
    void onAWalkLittleIsPaintedAnew()
    {
        WindowFixture f;
        f.window->openProject(DEMO);
        f.waitForLoading();
        f.plan().repaint();
        const std::uint64_t before = f.plan().stillPaints();
        constexpr int pictures = 300;
        for (int i = 0; i < pictures; ++i) {
            f.playback->seekWalk(f.playback->walkLength_s() * i / (pictures - 1));
            f.plan().repaint();
        }
        const auto painted = static_cast<int>(f.plan().stillPaints() - before);
        QVERIFY2(painted < pictures / 5, qPrintable(QString::number(painted)));
    }

    /// Who walks is moved on the picture that is there; all of it is painted ten times a second, or twenty. It looks as if all
    /// had been.
    void theEarsMoveOnThePicture()
    {
        WindowFixture f(oneTone);
        const auto seen = [&] {
            QWidget* window = f.plan().window();
            const QPoint corner = f.plan().mapTo(window, QPoint(0, 0));
            return window->screen()
                ->grabWindow(window->winId(), corner.x(), corner.y(), f.plan().width(), f.plan().height())
                .toImage();
        };
        f.playback->setWalking(true);
        f.pass(0.2);
        f.plan().repaint();
        QTRY_VERIFY(!seen().isNull());
        const QImage begun = seen();
        const std::uint64_t before = f.plan().wholePaints();
        QElapsedTimer time;
        time.start();
        constexpr int steps = 40;
        for (int i = 0; i < steps; ++i) {
            f.pass(0.04);
            QCoreApplication::processEvents();
        }
        const auto painted = static_cast<qint64>(f.plan().wholePaints() - before);
        QVERIFY2(painted <= 2 + time.elapsed() / 50, qPrintable(QString("%1 in %2 ms").arg(painted).arg(time.elapsed())));
        QVERIFY(painted < steps / 2);
        const QImage moved = seen();
        QVERIFY(moved != begun);
        f.plan().repaint();
        QCOMPARE(f.plan().wholePaints(), before + static_cast<std::uint64_t>(painted) + 1);
        QCOMPARE(seen(), moved);
    }
};

} // namespace tst_plan_names

STONE_TEST(tst_plan_names, TestPlanNames)
#include "tst_plan_names.moc"
