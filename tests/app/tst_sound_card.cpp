// SPDX-License-Identifier: GPL-3.0-or-later
#include "device/audio_device.h"
#include "support/fixtures.h"

#include <QProcess>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QTest>

#include <algorithm>
#include <cmath>
#include <cstring>

using namespace stone;

/// The way to a real sound server: a PulseAudio daemon of our own with a sink that goes nowhere, and its monitor
/// recorded.
class TestSoundCard : public QObject
{
    Q_OBJECT

    QTemporaryDir folder_;
    QProcess daemon_;

private slots:
    void initTestCase()
    {
        if (QStandardPaths::findExecutable("pulseaudio").isEmpty()) {
            QSKIP("pulseaudio is not installed: tools/install-deps.sh brings it");
        }
        qputenv("HOME", folder_.path().toUtf8());
        qputenv("XDG_RUNTIME_DIR", folder_.path().toUtf8());
        qputenv("PULSE_RUNTIME_PATH", folder_.path().toUtf8());
        qputenv("PULSE_SERVER", ("unix:" + folder_.filePath("native")).toUtf8());
        daemon_.start("pulseaudio", {"-n", "--daemonize=no", "--exit-idle-time=-1", "--use-pid-file=no", "--disable-shm=yes",
                                     "-L", "module-native-protocol-unix auth-anonymous=1 socket=" + folder_.filePath("native"),
                                     "-L", "module-null-sink sink_name=nowhere rate=48000 channels=2"});
        QVERIFY(daemon_.waitForStarted());
        QTRY_VERIFY_WITH_TIMEOUT(QFile::exists(folder_.filePath("native")), 10'000);
    }

    void cleanupTestCase()
    {
        daemon_.terminate();
        daemon_.waitForFinished(5'000);
    }

    void aToneReachesTheCard()
    {
        const std::vector<SoundCard> cards = soundCards();
        const auto card = std::find_if(cards.begin(), cards.end(), [](const SoundCard& c) { return c.api == "Pulse"; });
        if (card == cards.end()) {
            QSKIP("this RtAudio does not reach PulseAudio");
        }
        // To the right of the ears, so that the sides can be told apart.
        Live live(Layout::stereo, 48'000);
        live.setScene(fixture::sceneOf(fixture::projectWith({fixture::pointAt("a", {1, 0, Character{}.earsHeight_m})}),
                                       fixture::toneBuffer()));
        live.pump();
        const auto device = openSoundCard(*card, 48'000, 256);
        QVERIFY(device->audible());
        live.start();
        device->start(live);
        QProcess recorder;
        recorder.start("parec", {"--device=nowhere.monitor", "--format=float32le", "--rate=48000", "--channels=2", "--raw"});
        QVERIFY(recorder.waitForStarted());
        QTRY_VERIFY_WITH_TIMEOUT(recorder.bytesAvailable() > 48'000 * 8 * 5, 20'000);
        QVERIFY(!device->lost());
        device->stop();
        live.stop();
        recorder.terminate();
        recorder.waitForFinished(5'000);
        const QByteArray bytes = recorder.readAllStandardOutput();
        std::vector<float> heard(static_cast<std::size_t>(bytes.size()) / 4);
        std::memcpy(heard.data(), bytes.constData(), heard.size() * 4);
        // A busy machine may starve the server for a moment: what counts is a stretch without a hole, as loud as it should
        // be, and nothing louder.
        double right = -300.0;
        double left = -300.0;
        for (double t = 0.0; t < 4.9; t += 0.1) {
            right = std::max(right, fixture::rms_db(heard, 1, t, t + 0.1));
            left = std::max(left, fixture::rms_db(heard, 0, t, t + 0.1));
        }
        QVERIFY2(std::abs(right + 9.03) < 0.5, qPrintable(QString::number(right)));
        QVERIFY(left < right - 40.0);
    }

    void aServerThatDiesIsNoticed()
    {
        const std::vector<SoundCard> cards = soundCards();
        const auto card = std::find_if(cards.begin(), cards.end(), [](const SoundCard& c) { return c.api == "Pulse"; });
        if (card == cards.end()) {
            QSKIP("this RtAudio does not reach PulseAudio");
        }
        Live live(Layout::stereo, 48'000);
        live.pump();
        const auto device = openSoundCard(*card, 48'000, 256);
        live.start();
        device->start(live);
        QTest::qWait(200);
        QVERIFY(!device->lost());
        daemon_.kill();
        daemon_.waitForFinished(5'000);
        QTRY_VERIFY_WITH_TIMEOUT(device->lost(), 6'000);
        device->stop();
        live.stop();
    }

    void theClockKeepsTime()
    {
        Live live(Layout::stereo, 48'000);
        live.pump();
        const auto clock = openClock(48'000, 256);
        live.start();
        clock->start(live);
        const double before = live.snapshot().time_s;
        QTest::qWait(1000);
        const double passed = live.snapshot().time_s - before;
        clock->stop();
        live.stop();
        QVERIFY2(passed > 0.7 && passed < 1.5, qPrintable(QString::number(passed)));
    }
};

QTEST_GUILESS_MAIN(TestSoundCard)
#include "tst_sound_card.moc"
