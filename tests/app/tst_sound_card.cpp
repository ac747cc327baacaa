// SPDX-License-Identifier: GPL-3.0-or-later
#include "device/audio_device.h"
#include "support/fixtures.h"

#include <QProcess>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QTest>

#include <algorithm>
#include <atomic>
#include <cmath>
#include <cstring>
#include <optional>
#include <stdexcept>
#include <vector>

using namespace stone;

/// The way to a real sound server: a PulseAudio daemon of our own with a sink that goes nowhere, and its monitor
/// recorded.
class TestSoundCard : public QObject
{
    Q_OBJECT

    QTemporaryDir folder_;
    QProcess daemon_;

    /// Each channel 6 dB below the one before it.
    class Steps : public RenderSource
    {
    public:
        explicit Steps(std::size_t channels) : channels_(channels) {}
        static double gainOf(std::size_t channel) { return std::pow(0.5, static_cast<double>(channel + 1)); }

        void render(float* interleaved, std::size_t frames) noexcept override
        {
            for (std::size_t i = 0; i < frames * channels_; ++i) {
                interleaved[i] = static_cast<float>(gainOf(i % channels_));
            }
            ++blocks_;
            odd_ += frames != 512 ? 1 : 0;
        }
        int blocks() const { return blocks_; }
        int oddBlocks() const { return odd_; }

    private:
        std::size_t channels_;
        std::atomic<int> blocks_{0};
        std::atomic<int> odd_{0};
    };

    static std::optional<SoundCard> cardNamed(const std::string& name)
    {
        const std::vector<SoundCard> cards = soundCards();
        const auto card =
            std::find_if(cards.begin(), cards.end(), [&](const SoundCard& c) { return c.api == "Pulse" && c.name == name; });
        return card != cards.end() ? std::optional(*card) : std::nullopt;
    }

    /// What the server answers.
    static QByteArray ask(const QStringList& arguments)
    {
        QProcess process;
        process.start("pactl", arguments);
        return process.waitForFinished(10'000) ? process.readAllStandardOutput() : QByteArray();
    }

    /// So many seconds of what a monitor hears, from the first frame on that is not silence.
    static std::vector<float> recorded(const QString& monitor, QStringList options, std::size_t channels, double seconds = 0.2)
    {
        QProcess recorder;
        recorder.start("parec", options << "--device=" + monitor << "--format=float32le"
                                        << "--rate=48000"
                                        << "--raw"
                                        << "--latency-msec=50");
        std::vector<float> heard;
        QByteArray bytes;
        const auto wanted = static_cast<std::size_t>(seconds * 48'000.0) * channels;
        (void)QTest::qWaitFor(
            [&] {
                recorder.waitForReadyRead(100);
                bytes += recorder.readAllStandardOutput();
                heard.resize(static_cast<std::size_t>(bytes.size()) / sizeof(float) / channels * channels);
                std::memcpy(heard.data(), bytes.constData(), heard.size() * sizeof(float));
                const auto begun = std::find_if(heard.begin(), heard.end(), [](float sample) { return sample != 0.0F; });
                heard.erase(heard.begin(), heard.begin() + (begun - heard.begin()) / static_cast<std::ptrdiff_t>(channels) *
                                                               static_cast<std::ptrdiff_t>(channels));
                return heard.size() >= wanted;
            },
            20'000);
        recorder.terminate();
        recorder.waitForFinished(5'000);
        return heard;
    }

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
        const auto card = cardNamed("Null Output");
        QVERIFY(card);
        // To the right of the ears, so that the sides can be told apart.
        Live live(Layout::stereo, 48'000);
        live.setScene(fixture::sceneOf(fixture::projectWith({fixture::pointAt("a", {1, 0, Character{}.earsHeight_m})}),
                                       fixture::toneBuffer()));
        live.pump();
        const auto device = openSoundCard(*card, 48'000, 256);
        QVERIFY(device->audible());
        live.start();
        device->start(live);
        const std::vector<float> heard = recorded("nowhere.monitor", {"--channels=2"}, 2, 5.0);
        QVERIFY(heard.size() >= 48'000 * 2 * 5);
        QVERIFY(!device->lost());
        device->stop();
        live.stop();
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

    /// Cards have their loudspeakers in orders of their own: each channel comes out where it belongs, and nowhere else.
    void eachLoudspeakerGetsItsChannel()
    {
        struct Case {
            unsigned channels;     ///< of what is played: so many decibels down by 6 each
            const char* speakers;  ///< of the card
            std::vector<int> from; ///< which channel each of them plays; none: -1
        };
        const std::vector<Case> cases{
            {6, "front-left,front-right,rear-left,rear-right,front-center,lfe", {0, 1, 4, 5, 2, 3}},
            {6, "front-left,front-right,front-center,lfe,rear-left,rear-right", {0, 1, 2, 3, 4, 5}},
            {8, "front-left,front-right,rear-left,rear-right,front-center,lfe,side-left,side-right", {0, 1, 4, 5, 2, 3, 6, 7}},
            // Stereo is not spread over the others.
            {2, "front-left,front-right,rear-left,rear-right,front-center,lfe", {0, 1, -1, -1, -1, -1}},
            // One channel is in the middle of both.
            {1, "front-left,front-right", {0, 0}},
            // A card whose channels have numbers alone.
            {4, "aux0,aux1,aux2,aux3", {0, 1, 2, 3}},
            {9, "aux0,aux1,aux2,aux3,aux4,aux5,aux6,aux7,aux8", {0, 1, 2, 3, 4, 5, 6, 7, 8}},
        };
        for (const Case& one : cases) {
            const std::size_t count = one.from.size();
            const QByteArray module =
                ask({"load-module", "module-null-sink", "sink_name=many", "rate=48000", QString("channels=%1").arg(count),
                     QString("channel_map=") + one.speakers, "sink_properties=device.description=Many"});
            const auto card = cardNamed("Many");
            QVERIFY2(card, one.speakers);
            QCOMPARE(card->channels, static_cast<unsigned>(count));
            Steps steps(one.channels);
            const auto device = openSoundCard(*card, 48'000, 512, one.channels);
            device->start(steps);
            const std::vector<float> heard = recorded(
                "many.monitor", {QString("--channels=%1").arg(count), QString("--channel-map=") + one.speakers}, count);
            device->stop();
            QVERIFY(steps.blocks() > 0);
            for (std::size_t speaker = 0; speaker < count; ++speaker) {
                float loudest = 0.0F;
                for (std::size_t at = speaker; at < heard.size(); at += count) {
                    loudest = std::max(loudest, std::abs(heard[at]));
                }
                const int from = one.from[speaker];
                const double wanted = from < 0 ? 0.0 : Steps::gainOf(static_cast<std::size_t>(from));
                QVERIFY2(std::abs(static_cast<double>(loudest) - wanted) < 1e-4,
                         qPrintable(QString("%1, loudspeaker %2: %3").arg(one.speakers).arg(speaker).arg(loudest)));
            }
            ask({"unload-module", QString::fromUtf8(module).trimmed()});
        }
    }

    /// Two cards of one make can be told apart, one with a single channel is none, and what is not there any more says so.
    void cardsAreToldApart()
    {
        const QByteArray one =
            ask({"load-module", "module-null-sink", "sink_name=twin1", "sink_properties=device.description=Twin"});
        const QByteArray two =
            ask({"load-module", "module-null-sink", "sink_name=twin2", "sink_properties=device.description=Twin"});
        const QByteArray mono = ask({"load-module", "module-null-sink", "sink_name=mono", "channels=1", "channel_map=mono",
                                     "sink_properties=device.description=Mono"});
        const auto first = cardNamed("Twin");
        const auto second = cardNamed("Twin, twin2");
        QVERIFY(first && second);
        QVERIFY(!cardNamed("Mono"));
        const auto device = openSoundCard(*second, 44'100, 512);
        QCOMPARE(device->name(), std::string("Twin, twin2 (Pulse)"));
        QCOMPARE(device->cardChannels(), 2U);
        ask({"unload-module", QString::fromUtf8(one).trimmed()});
        QVERIFY_THROWS_EXCEPTION(std::runtime_error, openSoundCard(*first, 48'000, 512));
        try {
            openSoundCard(*first, 48'000, 512);
        } catch (const std::runtime_error& error) {
            const std::string words = error.what();
            QVERIFY2(words.find("Twin") == 0 && words.find("choose another output") != std::string::npos, words.c_str());
        }
        QVERIFY_THROWS_EXCEPTION(std::runtime_error, openSoundCard(*second, 48'000, 512, 6)); // it has two channels
        ask({"unload-module", QString::fromUtf8(two).trimmed()});
        ask({"unload-module", QString::fromUtf8(mono).trimmed()});
    }

    /// The source is asked for whole blocks, no sooner than it starts and not after it was stopped.
    void theSourceIsAskedBetweenStartAndStop()
    {
        const auto card = cardNamed("Null Output");
        QVERIFY(card);
        Steps steps(2);
        const auto device = openSoundCard(*card, 48'000, 512);
        QTest::qWait(100);
        QCOMPARE(steps.blocks(), 0);
        for (int round = 0; round < 3; ++round) {
            device->start(steps);
            const int before = steps.blocks();
            QTRY_VERIFY_WITH_TIMEOUT(steps.blocks() > before + 10, 10'000);
            QVERIFY(!device->lost());
            device->stop();
            const int stopped = steps.blocks();
            QTest::qWait(100);
            QCOMPARE(steps.blocks(), stopped);
            QVERIFY(!device->lost());
        }
        QCOMPARE(steps.oddBlocks(), 0);
    }

    void aServerThatDiesIsNoticed()
    {
        const auto card = cardNamed("Null Output");
        QVERIFY(card);
        Live live(Layout::stereo, 48'000);
        live.pump();
        const auto device = openSoundCard(*card, 48'000, 256);
        live.start();
        device->start(live);
        QTest::qWait(200);
        QVERIFY(!device->lost());
        daemon_.kill();
        daemon_.waitForFinished(5'000);
        QTRY_VERIFY_WITH_TIMEOUT(device->lost(), 2'000);
        device->stop();
        live.stop();
        QVERIFY(!cardNamed("Null Output"));
        QVERIFY_THROWS_EXCEPTION(std::runtime_error, openSoundCard(*card, 48'000, 512));
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
