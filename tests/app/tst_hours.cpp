// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/window_fixture.h"
#include "support/one_of_many.h"

#include <malloc.h>
#include <unistd.h>

#include <chrono>
#include <cmath>
#include <cstdio>
#include <fstream>
#include <limits>
#include <vector>

namespace tst_hours
{

using namespace stone;

/// Hours of the demo in the real window, walked round and round on a clock that is moved by hand. Ten minutes of it by default;
/// STONE_HOURS says how many hours (tools/hours.sh).
class TestHours : public QObject
{
    Q_OBJECT

    /// What a minute of level time took.
    struct Minute {
        /// In use, the least of the minute: what is kept for good raises it, what comes and goes with the picture does not.
        double heap_mb = std::numeric_limits<double>::infinity();
        double resident_mb = 0.0;
        double step_ms = 0.0;
        double worst_ms = 0.0;
    };

    static double heapInUse_mb()
    {
        const auto info = mallinfo2();
        return static_cast<double>(info.uordblks + info.hblkhd) / 1e6;
    }

    static double resident_mb()
    {
        std::ifstream status("/proc/self/statm");
        std::size_t pages = 0;
        status >> pages >> pages;
        return static_cast<double>(pages) * static_cast<double>(sysconf(_SC_PAGESIZE)) / 1e6;
    }

    static double meanOf(const std::vector<Minute>& minutes, std::size_t from, std::size_t to, double Minute::*what)
    {
        double sum = 0.0;
        for (std::size_t i = from; i < to; ++i) {
            sum += minutes[i].*what;
        }
        return sum / static_cast<double>(to - from);
    }

private slots:
    void memoryStaysFlat()
    {
        const double hours =
            qEnvironmentVariableIsSet("STONE_HOURS") ? qEnvironmentVariable("STONE_HOURS").toDouble() : 1.0 / 6.0;
        WindowFixture f;
        f.window->openProject(DEMO);
        f.waitForLoading();
        f.playback->setListening(true);
        std::vector<Minute> minutes;
        const auto wanted = static_cast<std::size_t>(std::ceil(hours * 60.0));
        constexpr double picture_s = 1.0 / 10.0;
        while (minutes.size() < wanted) {
            Minute minute;
            int steps = 0;
            for (double t = 0.0; t < 60.0; t += picture_s, ++steps) {
                if (!f.playback->walking()) {
                    f.playback->setWalking(true);
                }
                const auto begin = std::chrono::steady_clock::now();
                f.clock->advance(f.playback->live(), picture_s);
                const double took_ms =
                    std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - begin).count();
                minute.step_ms += took_ms;
                minute.worst_ms = std::max(minute.worst_ms, took_ms);
                f.playback->tick(picture_s);
                QCoreApplication::processEvents();
                minute.heap_mb = std::min(minute.heap_mb, heapInUse_mb());
            }
            minute.step_ms /= steps;
            minute.resident_mb = resident_mb();
            minutes.push_back(minute);
            std::printf("minute %4zu: %.2f MB in use, %.2f ms for 50 ms of sound, at most %.2f\n", minutes.size(),
                        minute.heap_mb, minute.step_ms, minute.worst_ms);
            std::fflush(stdout);
        }
        QCOMPARE(f.playback->snapshot()->contained, std::uint64_t{0});
        // What is filled once is filled in the first minutes; after that nothing may grow by the minute.
        const std::size_t third = minutes.size() / 3;
        const double early_mb = meanOf(minutes, third, 2 * third, &Minute::heap_mb);
        const double late_mb = meanOf(minutes, 2 * third, minutes.size(), &Minute::heap_mb);
        const double grows_kb = 1000.0 * (late_mb - early_mb) / static_cast<double>(third);
        std::printf("grows by %.1f kB a minute; %.2f ms for 100 ms of sound early, %.2f late\n", grows_kb,
                    meanOf(minutes, third, 2 * third, &Minute::step_ms),
                    meanOf(minutes, 2 * third, minutes.size(), &Minute::step_ms));
        QVERIFY2(grows_kb < 20.0, qPrintable(QString("the heap grows by %1 kB a minute").arg(grows_kb)));
    }
};

} // namespace tst_hours

STONE_TEST(tst_hours, TestHours)
#include "tst_hours.moc"
