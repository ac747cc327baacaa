// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/session/work_pool.h"
#include "app/window_fixture.h"
#include "support/one_of_many.h"

#include <QPainter>
#include <QSemaphore>
#include <QTest>
#include <QThreadPool>

#include <algorithm>
#include <atomic>

namespace tst_work_pool
{

using namespace stone;

/// Long work leaves the interface free, however much of it there is.
class TestWorkPool : public QObject
{
    Q_OBJECT

private:
    /// Keeps so many of the pool's threads busy until it goes, or ten seconds at most.
    class Busy
    {
    public:
        explicit Busy(int jobs) : jobs_(jobs)
        {
            for (int i = 0; i < jobs; ++i) {
                workPool().start([this] {
                    begun_.release();
                    if (!end_.tryAcquire(1, 10'000)) {
                        waitedInVain_ = true;
                    }
                });
            }
            // Those beyond the pool's threads wait for their turn.
            begun_.acquire(std::min(jobs, workPool().maxThreadCount()));
        }
        ~Busy()
        {
            end_.release(jobs_);
            workPool().waitForDone();
        }
        Busy(const Busy&) = delete;
        Busy& operator=(const Busy&) = delete;

        bool waitedInVain() const { return waitedInVain_; }

    private:
        int jobs_;
        QSemaphore begun_;
        QSemaphore end_;
        std::atomic<bool> waitedInVain_{false};
    };

private slots:
    /// Large fills go to other threads, and the picture waits for them: those must be others than the busy ones.
    void picturesArePaintedWhileAllThreadsWork()
    {
        WindowFixture f;
        f.window->openProject(DEMO);
        f.waitForLoading();
        QImage before = f.plan().grab().toImage();
        const Busy busy(2 * workPool().maxThreadCount());
        QImage large(800, 800, QImage::Format_ARGB32_Premultiplied);
        large.fill(Qt::white);
        {
            QPainter painter(&large);
            painter.setRenderHint(QPainter::Antialiasing);
            QRadialGradient gradient(QPointF(400.0, 400.0), 390.0);
            gradient.setColorAt(0.0, Qt::black);
            gradient.setColorAt(1.0, Qt::transparent);
            painter.setBrush(gradient);
            painter.drawEllipse(QPointF(400.0, 400.0), 390.0, 390.0);
        }
        QVERIFY(large.pixelColor(400, 400).lightness() < 10);
        QCOMPARE(f.plan().grab().toImage().size(), before.size());
        QVERIFY2(!busy.waitedInVain(), "the picture waited until the work was done");
    }

    /// What takes a moment does not wait for two jobs that take minutes.
    void shortWorkOvertakesLongWork()
    {
        const Busy busy(2);
        QSemaphore done;
        workPool().start([&] { done.release(); });
        QVERIFY(done.tryAcquire(1, 5'000));
        QVERIFY(!busy.waitedInVain());
    }
};

} // namespace tst_work_pool

STONE_TEST(tst_work_pool, TestWorkPool)
#include "tst_work_pool.moc"
