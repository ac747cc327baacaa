// SPDX-License-Identifier: GPL-3.0-or-later
#include "library/stone_echo.h"
#include "support/fixtures.h"

#include <QDir>
#include <QFile>
#include <QProcess>
#include <QTemporaryDir>
#include <QTest>

#include <atomic>
#include <cmath>
#include <cstring>
#include <thread>

using fixture::writeText;
using fixture::writeTone;

namespace
{

/// The samples of a WAV file, as bytes.
QByteArray samplesOf(const QString& path)
{
    QFile file(path);
    if (!file.open(QIODevice::ReadOnly)) {
        return {};
    }
    const QByteArray all = file.readAll();
    const qsizetype at = all.indexOf("data", 12);
    return at < 0 ? QByteArray() : all.mid(at + 8);
}

int run(const QString& program, const QStringList& arguments)
{
    QProcess process;
    process.setProcessChannelMode(QProcess::ForwardedErrorChannel);
    process.start(program, arguments);
    return process.waitForFinished(300'000) ? process.exitCode() : -1;
}

std::size_t threads()
{
    return static_cast<std::size_t>(QDir("/proc/self/task").entryList(QDir::Dirs | QDir::NoDotAndDotDot).size());
}

struct Yard {
    QTemporaryDir folder;
    stone_project* project = nullptr;
    stone_player* player = nullptr;

    explicit Yard(const char* layout = "stereo", int rate = 48'000)
    {
        const std::filesystem::path at = folder.path().toStdString();
        writeTone(at / "tone.wav", 2400.0, 1.0);
        writeText(at / "project.json", R"({"name": "Yard", "signals": [{"id": "bell", "name": "Bell rings"}],
          "game_values": [{"id": "wind", "name": "Wind", "smoothing_s": 0.0}],
          "sounds": [{"id": "s", "name": "Tone", "file": "tone.wav", "loop": true}],
          "falloffs": [{"id": "f", "name": "Near", "lanes": [{"model": "inverse", "reference_m": 1}]}],
          "patterns": [{"id": "tram", "name": "Tram", "sound": "s", "falloff": "f"}],
          "levels": [{"id": "l", "name": "Yard",
            "emitters": [{"id": "a", "name": "Lamp", "at": [0, 6, 1.6], "sound": "s", "falloff": "f"},
                         {"id": "b", "name": "Horn", "at": [3, 0, 1.6], "sound": "s",
                          "starting": {"starts": [{"on": "signal", "signal": "bell"}]}}],
            "openings": [{"id": "d", "name": "Door", "from": [0, 3], "to": [1, 3], "open": 0}],
            "walks": [{"id": "w", "name": "Past it", "points": [{"t_s": 0, "at": [-5, 0, 0]}, {"t_s": 4, "at": [5, 0, 0]}],
                       "events": [{"t_s": 1, "is": "signal", "signal": "bell"}]}]}]})");
        stone_options options{sizeof options, nullptr, layout, rate};
        char why[200];
        if (stone_open(folder.path().toUtf8(), &project, why, sizeof why) != STONE_OK ||
            stone_play(project, &options, &player, why, sizeof why) != STONE_OK) {
            qFatal("%s", why);
        }
    }
    ~Yard()
    {
        stone_stop(player);
        stone_close(project);
    }

    std::vector<float> play(double seconds, std::size_t block = 256)
    {
        std::vector<float> out;
        std::vector<float> some(block * stone_channels(player));
        for (std::size_t done = 0; done < static_cast<std::size_t>(seconds * 48'000); done += block) {
            while (stone_ahead(player) < 4 && stone_decide(player) == STONE_OK) {
            }
            stone_render(player, some.data(), block);
            out.insert(out.end(), some.begin(), some.end());
        }
        return out;
    }

    double level(const char* name) const
    {
        double loudest = -INFINITY;
        for (std::size_t i = 0; i < stone_heard_count(player); ++i) {
            stone_heard heard{sizeof heard, nullptr, 0, 0, 0, 0, 0};
            if (stone_heard_at(player, i, &heard) == STONE_OK && std::strcmp(heard.name, name) == 0) {
                loudest = std::max(loudest, heard.level_db);
            }
        }
        return loudest;
    }
};

double side_db(const std::vector<float>& stereo)
{
    double sums[2] = {1e-30, 1e-30};
    for (std::size_t i = stereo.size() / 2; i < stereo.size(); ++i) {
        sums[i % 2] += static_cast<double>(stereo[i]) * static_cast<double>(stereo[i]);
    }
    return 10.0 * std::log10(sums[1] / sums[0]);
}

} // namespace

/// The library as a game meets it: through its border alone.
class TestLibrary : public QObject
{
    Q_OBJECT

private slots:
    /// A C program plays the demo's walk: the bytes that the command line renders.
    void aHostsBytesAreThoseOfRender_data()
    {
        QTest::addColumn<QString>("layout");
        QTest::addColumn<int>("rate");
        QTest::addRow("stereo") << "stereo" << 48'000;
#ifndef __SANITIZE_ADDRESS__
        // With every access watched one of them takes a minute, and no other memory is used.
        QTest::addRow("headphones") << "binaural" << 44'100;
        QTest::addRow("5.1") << "5.1" << 48'000;
#endif
    }
    void aHostsBytesAreThoseOfRender()
    {
        QFETCH(QString, layout);
        QFETCH(int, rate);
        const QTemporaryDir folder;
        const QString walk = "Tea room and back";
        QCOMPARE(run(HOST, {DEMO, walk, layout, QString::number(rate), folder.filePath("host.wav")}), 0);
        QCOMPARE(run(CLI, {"render", DEMO, "--walk", walk, "--layout", layout, "--rate", QString::number(rate), "--out",
                           folder.filePath("render.wav")}),
                 0);
        const QByteArray host = samplesOf(folder.filePath("host.wav"));
        QVERIFY(host.size() > 1'000'000);
        QVERIFY(host == samplesOf(folder.filePath("render.wav")));
    }

    /// With what was found while packing, too, and not only faster.
    void aPackPlaysAsItsFolder()
    {
        const QTemporaryDir folder;
        const QString pack = folder.filePath("halt.stone-pack");
        QCOMPARE(run(CLI, {"pack", DEMO, "--out", pack}), 0);
        for (const auto& [from, to] : {std::pair<QString, QString>(DEMO, "folder.wav"), {pack, "pack.wav"}}) {
            QCOMPARE(run(HOST, {from, "Tea room and back", "stereo", "48000", folder.filePath(to)}), 0);
        }
        const QByteArray bytes = samplesOf(folder.filePath("pack.wav"));
        QVERIFY(bytes.size() > 1'000'000);
        QVERIFY(bytes == samplesOf(folder.filePath("folder.wav")));
    }

    void aBlockMayBeOfAnySize()
    {
        Yard a;
        Yard b;
        const auto one = a.play(0.5, 256);
        const auto other = b.play(0.5, 100);
        QVERIFY(std::equal(one.begin(), one.begin() + 40'000, other.begin()));
    }

    /// In reading, playing and rendering: none but the host's own.
    void noThreadIsMade()
    {
        const std::size_t before = threads();
        Yard yard;
        QCOMPARE(threads(), before);
        yard.play(0.3);
        stone_stream(yard.player);
        QCOMPARE(threads(), before);
    }

    void whatIsToldIsHeard_data()
    {
        QTest::addColumn<QString>("layout");
        QTest::addColumn<int>("rate");
        QTest::addRow("stereo") << "stereo" << 48'000;
        QTest::addRow("headphones") << "binaural" << 44'100;
    }
    void whatIsToldIsHeard()
    {
        QFETCH(QString, layout);
        QFETCH(int, rate);
        Yard yard(layout.toUtf8(), rate);
        const auto at = [&](double x, double y) {
            const stone_pose pose{x, y, 1.6, 0, 0, 0};
            QCOMPARE(stone_thing(yard.player, "Lamp", &pose), STONE_OK);
        };
        at(5.0, 0.1);
        QVERIFY2(side_db(yard.play(0.6)) > 6.0, "at the right");
        at(-5.0, 0.1);
        QVERIFY(side_db(yard.play(0.6)) < -6.0);
        QVERIFY(std::abs(yard.level("Lamp") - -20.0 * std::log10(std::hypot(5.0, 0.1))) < 0.01);
        const stone_pose tram{2.0, 0.0, 1.6, 0, 0, 0};
        QCOMPARE(stone_appear(yard.player, "Tram 4", "Tram", &tram), STONE_OK);
        yard.play(0.2);
        QVERIFY(std::abs(yard.level("Tram 4") - -20.0 * std::log10(2.0)) < 0.01);
        QCOMPARE(stone_gone(yard.player, "Tram 4"), STONE_OK);
        yard.play(0.2);
        QVERIFY(std::isinf(yard.level("Tram 4")));
        QVERIFY(std::isinf(yard.level("Horn")));
        QCOMPARE(stone_signal(yard.player, "Bell rings"), STONE_OK);
        yard.play(0.1);
        QVERIFY(yard.level("Horn") > -20.0);
        const stone_pose ears{3.0, 1.0, 1.6, 180.0, 0, 0};
        QCOMPARE(stone_ears(yard.player, &ears), STONE_OK);
        yard.play(0.1);
        QVERIFY(std::abs(yard.level("Horn")) < 0.01); // a metre away
        QCOMPARE(stone_ears(yard.player, nullptr), STONE_OK);
        QCOMPARE(stone_value(yard.player, "Wind", 0.5), STONE_OK);
        QCOMPARE(stone_opening(yard.player, "Door", 0.5), STONE_OK);
        QCOMPARE(stone_step(yard.player, nullptr), STONE_OK);
        QCOMPARE(stone_act(yard.player, "jump"), STONE_OK);
        QCOMPARE(stone_restart(yard.player), STONE_OK);
        yard.play(0.1);
        QVERIFY(std::isinf(yard.level("Horn"))); // it begins anew
    }

    void termsAddUpToTheLevel()
    {
        Yard yard;
        yard.play(0.1);
        for (std::size_t i = 0; i < stone_heard_count(yard.player); ++i) {
            stone_heard heard{sizeof heard, nullptr, 0, 0, 0, 0, 0};
            QCOMPARE(stone_heard_at(yard.player, i, &heard), STONE_OK);
            double sum = 0.0;
            for (std::size_t k = 0; k < stone_term_count(yard.player, i); ++k) {
                stone_term term{sizeof term, nullptr, 0};
                QCOMPARE(stone_term_at(yard.player, i, k, &term), STONE_OK);
                QVERIFY(std::strlen(term.name) > 0);
                sum += term.db;
            }
            QVERIFY(std::abs(sum - heard.level_db) < 1e-9);
        }
        stone_counts counts{sizeof counts, 0, 0, 0, 0, 0, 0, 0, 0, 0};
        QCOMPARE(stone_count(yard.player, &counts), STONE_OK);
        QCOMPARE(counts.emitters, 2U);
        QCOMPARE(counts.sounding, 1U);
        QCOMPARE(counts.lateSteps, 0U);
        QVERIFY(counts.time_s > 0.09);
    }

    /// As the command line says it, of each emitter of the demo at a place.
    void aProbeIsThatOfTheCommandLine()
    {
        stone_project* project = nullptr;
        stone_player* player = nullptr;
        char why[200];
        QCOMPARE(stone_open(DEMO, &project, why, sizeof why), STONE_OK);
        QCOMPARE(stone_play(project, nullptr, &player, why, sizeof why), STONE_OK);
        QProcess cli;
        cli.start(CLI, {"probe", DEMO, "--at", "6,4,1.6", "--heading", "30"});
        QVERIFY(cli.waitForFinished(60'000));
        int compared = 0;
        for (const QByteArray& line : cli.readAllStandardOutput().split('\n')) {
            // "   -12.3 dB  Name"; terms are indented further.
            const qsizetype unit = line.indexOf(" dB  ");
            if (unit < 0 || line.startsWith("    ")) {
                continue;
            }
            const double level_db = QString(line.left(unit)).replace(QChar(0x2212), '-').trimmed().toDouble();
            const stone_pose ears{6, 4, 1.6, 30, 0, 0};
            stone_heard heard{sizeof heard, nullptr, 0, 0, 0, 0, 0};
            stone_term terms[32];
            for (stone_term& term : terms) {
                term = {sizeof term, nullptr, 0};
            }
            std::size_t count = 0;
            QCOMPARE(stone_probe(player, line.mid(unit + 5).trimmed(), &ears, &heard, terms, 32, &count), STONE_OK);
            QVERIFY2(std::abs(heard.level_db - level_db) < 0.06, line);
            QVERIFY(count > 0);
            ++compared;
        }
        QVERIFY2(compared > 5, qPrintable(QString::number(compared)));
        stone_stop(player);
        stone_close(project);
    }

    void whatIsWrongIsACodeAndALine()
    {
        stone_project* project = nullptr;
        char why[200];
        QCOMPARE(stone_open("/nowhere", &project, why, sizeof why), STONE_UNREADABLE);
        QVERIFY(project == nullptr);
        QVERIFY(std::strstr(why, "/nowhere") != nullptr);
        char small[8];
        QCOMPARE(stone_open("/nowhere", &project, small, sizeof small), STONE_UNREADABLE);
        QCOMPARE(std::strlen(small), 7U);
        QCOMPARE(stone_open(nullptr, &project, nullptr, 0), STONE_BAD_ARGUMENT);
        Yard yard;
        stone_player* player = nullptr;
        stone_options options{sizeof options, "Nowhere", nullptr, 0};
        QCOMPARE(stone_play(yard.project, &options, &player, why, sizeof why), STONE_NOT_THERE);
        QVERIFY(std::strstr(why, "Nowhere") != nullptr);
        options = {sizeof options, nullptr, "9.9", 0};
        QCOMPARE(stone_play(yard.project, &options, &player, why, sizeof why), STONE_NOT_THERE);
        QVERIFY(std::strstr(why, "binaural") != nullptr);
        options = {sizeof options, nullptr, nullptr, 8000};
        QCOMPARE(stone_play(yard.project, &options, &player, why, sizeof why), STONE_BAD_ARGUMENT);
        options = {3, nullptr, nullptr, 0};
        QCOMPARE(stone_play(yard.project, &options, &player, why, sizeof why), STONE_BAD_ARGUMENT);
        const stone_pose pose{0, 0, 0, 0, 0, 0};
        const stone_pose bad{NAN, 0, 0, 0, 0, 0};
        QCOMPARE(stone_character(yard.player, &bad), STONE_BAD_ARGUMENT);
        QCOMPARE(stone_character(yard.player, nullptr), STONE_BAD_ARGUMENT);
        QCOMPARE(stone_thing(yard.player, "Nobody", &pose), STONE_NOT_THERE);
        QCOMPARE(stone_appear(yard.player, "x", "Nothing", &pose), STONE_NOT_THERE);
        QCOMPARE(stone_gone(yard.player, "x"), STONE_NOT_THERE);
        QCOMPARE(stone_signal(yard.player, "Nobody's"), STONE_NOT_THERE);
        QCOMPARE(stone_act(yard.player, "dance"), STONE_NOT_THERE);
        QCOMPARE(stone_along_walk(yard.player, "Nowhere", 0.0), STONE_NOT_THERE);
        QCOMPARE(stone_value(yard.player, "Wind", INFINITY), STONE_BAD_ARGUMENT);
        QCOMPARE(stone_render(yard.player, nullptr, 4), STONE_BAD_ARGUMENT);
        stone_heard heard{1, nullptr, 0, 0, 0, 0, 0};
        yard.play(0.05);
        QCOMPARE(stone_heard_at(yard.player, 0, &heard), STONE_BAD_ARGUMENT);
        QCOMPARE(stone_heard_at(yard.player, 99, &heard), STONE_NOT_THERE);
        while (stone_decide(yard.player) == STONE_OK) {
        }
        QCOMPARE(stone_decide(yard.player), STONE_FULL);
        for (int code = -1; code < 9; ++code) {
            QVERIFY(std::strlen(stone_code_text(static_cast<stone_code>(code))) > 0);
        }
        QCOMPARE(QString(stone_version()), QString(STONE_VERSION));
        QCOMPARE(stone_abi(), STONE_ABI);
        stone_stop(nullptr);
        stone_close(nullptr);
        QCOMPARE(stone_channels(nullptr), 0U);
        QVERIFY(stone_level_name(yard.project, 7) == nullptr);
        QVERIFY(stone_walk_seconds(yard.project, 0, 7) < 0.0);
        QCOMPARE(QString(stone_walk_name(yard.project, 0, 0)), QString("Past it"));
    }

    /// The host's two threads: one decides, changes and streams, the other renders.
    void decidingAndRenderingAtTheSameTime()
    {
        Yard yard;
        std::atomic<bool> end = false;
        std::thread audio([&] {
            std::vector<float> block(2 * 128);
            while (!end) {
                stone_render(yard.player, block.data(), 128);
                for (const float sample : block) {
                    if (!std::isfinite(sample)) {
                        qFatal("no number");
                    }
                }
                std::this_thread::sleep_for(std::chrono::microseconds(300));
            }
        });
        const stone_pose pose{1, 1, 1.6, 0, 0, 0};
        for (int i = 0; i < 60; ++i) {
            const QByteArray name = "thing " + QByteArray::number(i % 5);
            stone_appear(yard.player, name, "Tram", &pose);
            if (i % 3 == 0) {
                stone_gone(yard.player, name);
            }
            for (int k = 0; k < 8; ++k) {
                stone_decide(yard.player);
            }
            stone_stream(yard.player);
            std::this_thread::sleep_for(std::chrono::milliseconds(3));
        }
        end = true;
        audio.join();
    }
};

QTEST_GUILESS_MAIN(TestLibrary)
#include "tst_library.moc"
