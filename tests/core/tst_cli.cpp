// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/sound_file.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"

#include <QDir>
#include <QElapsedTimer>
#include <QFile>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QProcess>
#include <QTemporaryDir>
#include <QTest>

#include <algorithm>
#include <cmath>
#include <csignal>
#include <sys/stat.h>

namespace tst_cli
{

using namespace stone;

/// The command line as scripts use it: what it prints, what it returns, what it leaves behind.
class TestCli : public QObject
{
    Q_OBJECT

    struct Result {
        int code;
        QByteArray out;
        QByteArray error;
        QJsonObject json() const { return QJsonDocument::fromJson(out).object(); }
    };

    static Result run(const QStringList& arguments)
    {
        QProcess process;
        process.start(CLI, arguments);
        process.waitForFinished(300'000); // sanitizers take their time
        return {process.exitCode(), process.readAllStandardOutput(), process.readAllStandardError()};
    }

    QTemporaryDir folder_;

private slots:
    /// What is there and no sound is left as it is; what is no number is no time.
    void outputNeverReplacesWhatItShouldNot()
    {
        const QString project = folder_.path();
        const QString document = folder_.filePath("project.json");
        QFile file(document);
        QVERIFY(file.open(QIODevice::ReadOnly));
        const QByteArray before = file.readAll();
        QVERIFY(::mkfifo(folder_.filePath("pipe").toStdString().c_str(), 0600) == 0);
        for (const QString& out : {document, folder_.path(), QString("/dev/null"), folder_.filePath("pipe")}) {
            const Result result = run({"render", project, "--at", "0,0,0", "--heading", "0", "--seconds", "0.1", "--out", out});
            QCOMPARE(result.code, 2);
            QVERIFY2(result.error.contains("choose another name"), result.error);
            QCOMPARE(result.error.count('\n'), 1);
        }
        file.seek(0);
        QCOMPARE(file.readAll(), before);
        QVERIFY(!QFileInfo("/dev/null").isFile());
        QFile::remove(folder_.filePath("pipe"));
        for (const char* seconds : {"nan", "inf", "1e300", "-1"}) {
            QCOMPARE(run({"render", project, "--at", "0,0,0", "--seconds", seconds, "--out", folder_.filePath("x.wav")}).code,
                     2);
            QCOMPARE(run({"probe", project, "--at", "0,0,0", "--time", seconds}).code, 2);
        }
        // A sound of the same kind is replaced.
        for (int i = 0; i < 2; ++i) {
            QCOMPARE(run({"render", project, "--at", "0,0,0", "--seconds", "0.1", "--out", folder_.filePath("x.wav")}).code, 0);
        }
    }

    /// A map's cells are what probe says there; its parts, one after the other, are the whole to the byte.
    void mapsAreWhatProbeSays()
    {
        const QString yard = folder_.filePath("map.json");
        fixture::writeTone(folder_.filePath("tone.wav").toStdString(), 480.0, 0.5);
        fixture::writeText(yard.toStdString(), R"({"levels": [{"name": "Yard",
            "storeys": [{"name": "Ground"}, {"name": "Upper", "floor_m": 5}],
            "emitters": [{"name": "Lamp, the old one", "at": [3, 4, 1.6], "sound": "tone.wav"},
                         {"name": "Fan", "at": [-9, 2, 1.6], "sound": "tone.wav", "level_db": -6}]}]})");
        const QString csv = folder_.filePath("map.csv");
        QCOMPARE(run({"map", yard, "--cells", "16", "--csv", csv}).code, 0);
        QFile file(csv);
        QVERIFY(file.open(QIODevice::ReadOnly));
        const QByteArray whole = file.readAll();
        const QList<QByteArray> lines = whole.trimmed().split('\n');
        QCOMPARE(lines[0], QByteArray("x_m,y_m,z_m,level_db,loudest,voices"));
        QByteArray joined;
        for (const char* tile : {"1/3", "2/3", "3/3"}) {
            joined += run({"map", yard, "--cells", "16", "--tile", tile}).out;
        }
        QCOMPARE(joined, whole);
        const QList<QByteArray> cell = lines[40].split(',');
        const QJsonObject there =
            run({"probe", yard, "--at", QString(cell[0] + ',' + cell[1] + ',' + cell[2]), "--json"}).json();
        double power = 0.0;
        for (const QJsonValue& one : there["emitters"].toArray()) {
            power += std::pow(10.0, one.toObject()["level_db"].toDouble() / 10.0);
        }
        QVERIFY2(std::abs(10.0 * std::log10(power) - cell[3].toDouble()) < 0.05, lines[40]);
        QVERIFY(whole.contains("\"Lamp, the old one\",2"));
        const QJsonObject json = run({"map", yard, "--cells", "8", "--storey", "Upper", "--only", "Fan", "--json"}).json();
        QCOMPARE(json["cells"].toArray()[0].toInt() * json["cells"].toArray()[1].toInt(), json["map"].toArray().size());
        QVERIFY(json["from"].toArray()[2].toDouble() > 6.0);
        const QString picture = folder_.filePath("map.png");
        QCOMPARE(run({"map", yard, "--cells", "32", "--step", "3", "--png", picture}).code, 0);
        QFile drawn(picture);
        QVERIFY(drawn.open(QIODevice::ReadOnly));
        QVERIFY(drawn.readAll().startsWith("\x89PNG\r\n"));
        const Result partOfIt = run({"map", yard, "--tile", "1/2", "--png", picture});
        QVERIFY2(partOfIt.code == 2 && partOfIt.error.contains("whole map"), partOfIt.error);
        const Result noStorey = run({"map", yard, "--storey", "Cellar"});
        QVERIFY2(noStorey.code == 2 && noStorey.error.contains("Ground, Upper"), noStorey.error);
        const Result noTile = run({"map", yard, "--tile", "4/3"});
        QVERIFY2(noTile.code == 2 && noTile.error.contains("no tile"), noTile.error);
    }

    /// What a check measured is kept, said and forgotten; the second check says the same.
    void measuresAreKeptAndForgotten()
    {
        QTemporaryDir cache;
        const QByteArray before = qgetenv("XDG_CACHE_HOME");
        qputenv("XDG_CACHE_HOME", cache.path().toUtf8());
        QVERIFY(run({"measures"}).out.startsWith("0 files, 0.0 MB"));
        const Result first = run({"check", DEMO});
        const Result kept = run({"measures"});
        QVERIFY2(kept.out.startsWith("59 files") && kept.out.contains(cache.path().toUtf8()), kept.out);
        const Result second = run({"check", DEMO});
        QCOMPARE(second.out, first.out);
        QCOMPARE(second.code, first.code);
        QVERIFY(run({"measures", "--clear"}).out.startsWith("forgotten: 59 files"));
        QVERIFY(run({"measures"}).out.startsWith("0 files"));
        qputenv("XDG_CACHE_HOME", before);
    }

    void aRenderOverFullScaleSaysSo()
    {
        QTemporaryDir loud;
        fixture::writeTone(loud.filePath("tone.wav").toStdString(), 480.0, 1.0);
        fixture::writeText(loud.filePath("project.json").toStdString(),
                           R"({"emitters": [{"name": "Ahead", "at": [0, 1, 1.6], "sound": "tone.wav", "level_db": 20}]})");
        const Result result = run({"render", loud.path(), "--at", "0,0,1.6", "--seconds", "0.5", "--layout", "mono", "--out",
                                   loud.filePath("x.wav")});
        QCOMPARE(result.code, 0);
        QVERIFY2(result.error.contains("dB over full scale, 0."), result.error);
        QVERIFY2(result.error.contains("where \"Ahead\" is loudest"), result.error);
        QVERIFY(readSoundFile(loud.filePath("x.wav").toStdString(), 48'000, false)->channels[0][12'000] != 0.0F);
    }

    void documentsAreComparedAndMerged()
    {
        QTemporaryDir folder;
        const auto write = [&](const char* name, const QString& first, const QString& second) {
            fixture::writeText(folder.filePath(name).toStdString(),
                               QString(R"({"levels": [{"id": "l", "emitters": [{"id": "a", "name": "Lamp", "level_db": %1},
                                           {"id": "b", "name": "Door", "level_db": %2}]}]})")
                                   .arg(first, second)
                                   .toStdString());
            return folder.filePath(name);
        };
        const QString base = write("base.json", "0", "0");
        const QString ours = write("ours.json", "-6", "0");
        const QString theirs = write("theirs.json", "0", "-9");
        QCOMPARE(run({"diff", base, ours}).out, QByteArray("Emitter \"Lamp\": level from 0.0 to -6.0 dB\n"));
        QCOMPARE(run({"diff", base, base}).out, QByteArray());
        QCOMPARE(run({"diff", base, theirs, "--json"}).json()["changed"].toArray().size(), 1);
        const Result both = run({"merge", base, ours, theirs, "--out", ours});
        QVERIFY2(both.code == 0 && both.out.isEmpty(), both.error);
        QCOMPARE(run({"diff", base, ours}).out.count('\n'), 2);
        const QString clashing = write("clashing.json", "-20", "0");
        const Result clash = run({"merge", base, ours, clashing, "--out", folder.filePath("out.json")});
        QCOMPARE(clash.code, 1);
        QVERIFY2(clash.out.startsWith("clash: Emitter \"Lamp\""), clash.out);
        // Nothing but a document is written over.
        fixture::writeText(folder.filePath("notes.txt").toStdString(), "notes");
        QCOMPARE(run({"merge", base, ours, theirs, "--out", folder.filePath("notes.txt")}).code, 2);
    }

    void initTestCase()
    {
        fixture::writeTone(folder_.filePath("tone.wav").toStdString(), 480.0, 1.0);
        fixture::writeText(folder_.filePath("project.json").toStdString(),
                           R"({"name": "Two", "emitters": [{"name": "Ahead", "at": [0, 4, 1.6], "sound": "tone.wav"},
                               {"name": "Right", "at": [8, 0, 1.6], "sound": "tone.wav", "start_after_s": 5}],
                               "walks": [{"name": "Past", "points": [{"t_s": 0, "at": [-5, 0, 0]}, {"t_s": 4, "at": [5, 0, 0]}]}]})");
    }

    void infoListsTheDemo()
    {
        const Result result = run({"info", DEMO, "--json"});
        QCOMPARE(result.code, 0);
        const QJsonObject json = result.json();
        QCOMPARE(json["name"].toString(), QString("Vellmoor Halt"));
        QCOMPARE(json["metres_per_unit"].toDouble(), 1.0);
        QVERIFY(json["emitters"].toArray().size() > 20);
        QVERIFY(json["sounds"].toArray().size() >= 16);
        const double seconds = json.value("walks").toArray().at(0).toObject().value("seconds").toDouble();
        QVERIFY(seconds >= 60.0 && seconds <= 120.0);
        QVERIFY(json["zones"].isArray() && json["rooms"].isArray());
    }

    /// What cannot be read is silent, whether a moment is asked for or not; what needs no more than its name is not.
    void probeKnowsWhatCannotBeRead()
    {
        QTemporaryDir folder;
        fixture::writeTone(folder.filePath("tone.wav").toStdString(), 480.0, 0.5);
        fixture::writeText(folder.filePath("text.wav").toStdString(), "no sound at all");
        fixture::writeText(folder.filePath("project.json").toStdString(),
                           R"({"emitters": [{"name": "Sounds", "at": [0, 4, 1.6], "sound": "tone.wav"},
                                            {"name": "Gone", "at": [0, 4, 1.6], "sound": "gone.wav"},
                                            {"name": "Text", "at": [0, 4, 1.6], "sound": "text.wav"},
                                            {"name": "None", "at": [0, 4, 1.6]}]})");
        for (const QStringList& more : {QStringList{}, QStringList{"--time", "1"}}) {
            const Result result = run(QStringList{"probe", folder.path(), "--at", "0,0,1.6", "--json"} + more);
            QCOMPARE(result.code, 0);
            const QJsonArray emitters = result.json().value("emitters").toArray();
            QCOMPARE(emitters.size(), 4);
            QVERIFY(std::abs(emitters[0].toObject()["level_db"].toDouble() + 12.0412) < 1e-3);
            for (int i = 1; i < 4; ++i) {
                QVERIFY2(emitters[i].toObject()["level_db"].isNull(), qPrintable(emitters[i].toObject()["name"].toString()));
            }
        }
    }

    void probeExplainsEachLevel()
    {
        const Result result =
            run({"probe", folder_.path(), "--at", "0,0,1.6", "--heading", "0", "--pitch", "0", "--roll", "0", "--json"});
        QCOMPARE(result.code, 0);
        const QJsonArray emitters = result.json().value("emitters").toArray();
        QCOMPARE(emitters.size(), 2);
        const QJsonObject ahead = emitters[0].toObject();
        QVERIFY(std::abs(ahead["level_db"].toDouble() + 12.0412) < 1e-3);
        QCOMPARE(ahead["distance_m"].toDouble(), 4.0);
        QVERIFY(std::abs(emitters[1].toObject()["azimuth_deg"].toDouble() - 90.0) < 1e-9);
        QCOMPARE(ahead["bands_db"].toArray().size(), 8);
        for (const auto& item : emitters) {
            double sum = 0.0;
            for (const auto& term : item.toObject()["terms"].toArray()) {
                sum += term.toObject()["db"].toDouble();
                QVERIFY(!term.toObject()["why"].toString().isEmpty());
            }
            QCOMPARE(sum, item.toObject()["level_db"].toDouble());
        }
    }

    void probeKnowsTheTime()
    {
        const auto right = [&](const QStringList& more) {
            const Result result =
                run(QStringList{"probe", folder_.path(), "--at", "0,0,1.6", "--only", "Right", "--json"} + more);
            return result.json().value("emitters").toArray().at(0).toObject();
        };
        QVERIFY(right({})["audible"].toBool());
        QVERIFY(!right({"--time", "4"})["audible"].toBool());
        QVERIFY(right({"--time", "4"})["level_db"].isNull());
        QVERIFY(right({"--time", "6"})["audible"].toBool());
    }

    /// A name that two bear takes both, and says so; their ids tell them apart.
    void aNameThatTwoBearIsSaid()
    {
        QTemporaryDir folder;
        fixture::writeTone(folder.filePath("a.wav").toStdString(), 480.0, 1.0);
        fixture::writeText(folder.filePath("project.json").toStdString(),
                           R"({"sounds": [{"id": "a", "file": "a.wav"}], "levels": [{"id": "l", "emitters": [
                               {"id": "one", "name": "Lamp", "sound": "a"}, {"id": "two", "name": "Lamp", "sound": "a"}]}]})");
        const Result both = run({"probe", folder.path(), "--at", "0,0,0", "--only", "Lamp", "--json"});
        QCOMPARE(both.code, 0);
        QCOMPARE(both.json().value("emitters").toArray().size(), 2);
        QVERIFY(both.error.contains("2 emitters are called \"Lamp\"") && both.error.contains("one, two"));
        const Result one = run({"probe", folder.path(), "--at", "0,0,0", "--only", "two", "--json"});
        QCOMPARE(one.json().value("emitters").toArray().size(), 1);
        QVERIFY(one.error.isEmpty());
    }

    void rendersAreTheSameToTheByte()
    {
        QStringList sums;
        for (const QStringList& how : {QStringList{"--block", "64"},
                                       {"--block", "256"},
                                       {"--block", "1000", "--threads", "1"},
                                       {"--threads", "2"},
                                       {"--threads", "2"}}) {
            const QString out = folder_.filePath("out.wav");
            QCOMPARE(run(QStringList{"render", folder_.path(), "--walk", "Past", "--out", out, "--seed", "5"} + how).code, 0);
            QFile file(out);
            QVERIFY(file.open(QIODevice::ReadOnly));
            sums << QString::fromLatin1(file.readAll().toHex());
        }
        QCOMPARE(QSet<QString>(sums.begin(), sums.end()).size(), 1);
    }

    void rendersFollowTheirOptions()
    {
        const QString out = folder_.filePath("opt.wav");
        QCOMPARE(run({"render", folder_.path(), "--at", "0,0,1.6", "--heading", "90", "--seconds", "2", "--only", "Ahead",
                      "--out", out})
                     .code,
                 0);
        SharedBuffer buffer = readSoundFile(out.toStdString(), 48'000, false);
        QCOMPARE(buffer->frames(), std::size_t{96'000});
        QCOMPARE(buffer->channels.size(), std::size_t{2});
        double left = 0.0;
        double right = 0.0;
        for (std::size_t i = 0; i < buffer->frames(); ++i) {
            left += std::abs(buffer->channels[0][i]);
            right += std::abs(buffer->channels[1][i]);
        }
        QVERIFY(left > 100.0 && right < 1e-3 * left); // facing east, north is at the left
        QCOMPARE(run({"render", folder_.path(), "--walk", "Past", "--from", "1", "--to", "1.5", "--layout", "mono", "--rate",
                      "24000", "--out", out})
                     .code,
                 0);
        buffer = readSoundFile(out.toStdString(), 24'000, false);
        QCOMPARE(buffer->frames(), std::size_t{12'000});
        QCOMPARE(buffer->channels.size(), std::size_t{1});
    }

    void theDemoRendersLoudEnoughAndNotTooLoud()
    {
        const QString out = folder_.filePath("demo.wav");
        const Result result = run({"render", DEMO, "--walk", "last-train", "--out", out});
        QCOMPARE(result.code, 0);
        qInfo("%s", result.out.trimmed().constData());
        const SharedBuffer buffer = readSoundFile(out.toStdString(), 48'000, false);
        float peak = 0.0F;
        for (const auto& channel : buffer->channels) {
            for (const float x : channel) {
                peak = std::max(peak, std::abs(x));
            }
        }
        QVERIFY(peak > 0.1F && peak < 1.0F);
    }

    void impulsesAreToldAndWritten()
    {
        const QString out = folder_.filePath("underpass.wav");
        const auto told = run({"impulse", DEMO, "--at", "-10,34,-2.4", "--out", out, "--json"});
        QCOMPARE(told.code, 0);
        const QJsonObject middle = told.json().value("bands").toArray().at(4).toObject();
        QCOMPARE(middle.value("hz").toDouble(), 1000.0);
        QVERIFY2(std::abs(middle.value("t30_s").toDouble() / 2.4 - 1.0) < 0.1,
                 qPrintable(QString::number(middle.value("t30_s").toDouble())));
        QVERIFY(readSoundFile(out.toStdString(), 48'000, false)->seconds() > 2.4);
        QTemporaryDir folder;
        fixture::writeText(folder.filePath("project.json").toStdString(),
                           R"({"rooms": [{"name": "Vault", "reverb": {"tail": "response", "response": "gone.wav"}}]})");
        const auto dry = run({"impulse", folder.path(), "--at", "0,0,1"});
        QCOMPARE(dry.code, 0);
        QVERIFY(dry.error.contains("\"Vault\" has no impulse response"));
    }

    void creditsNameWhoMadeWhat()
    {
        QTemporaryDir folder;
        fixture::writeText(folder.filePath("project.json").toStdString(),
                           R"({"sounds": [{"name": "A", "file": "a.wav", "author": "Mira Oste", "licence": "CC0"},
                                          {"name": "B", "file": "b.wav"}, {"name": "A again", "file": "a.wav"}]})");
        const auto printed = run({"credits", folder.path()});
        QCOMPARE(printed.code, 0);
        QVERIFY(printed.out.indexOf("Mira Oste") < printed.out.indexOf("b.wav"));
        QCOMPARE(printed.out.count("a.wav"), 1);
        const QJsonArray credits = run({"credits", folder.path(), "--json"}).json().value("credits").toArray();
        QCOMPARE(credits.size(), 2);
        QCOMPARE(credits[0].toObject().value("sounds").toArray().size(), 2);
    }

    void layoutsAreRendered()
    {
        QTemporaryDir folder;
        const QString out = folder.filePath("x.wav");
        for (const char* layout : {"binaural", "7.1.4", "ambix3"}) {
            const auto done = run(
                {"render", DEMO, "--at", "24,12,1.6", "--heading", "0", "--seconds", "0.3", "--layout", layout, "--out", out});
            QVERIFY2(done.code == 0, qPrintable(done.error));
        }
        const auto bad = run({"render", DEMO, "--at", "0,0,0", "--heading", "0", "--seconds", "1", "--layout", "binaural",
                              "--ears", DEMO "/project.json", "--out", out});
        QCOMPARE(bad.code, 2);
        QVERIFY2(bad.error.contains("choose another SOFA file"), qPrintable(bad.error));
    }

    void checkSpeaksInExitCodes()
    {
        QCOMPARE(run({"check", DEMO}).code, 0);
        fixture::writeText(folder_.filePath("broken.json").toStdString(),
                           R"({"emitters": [{"name": "a", "sound": "gone.wav"}]})");
        const Result broken = run({"check", folder_.filePath("broken.json"), "--json"});
        QCOMPARE(broken.code, 1);
        const QJsonObject finding = broken.json().value("findings").toArray().at(0).toObject();
        QCOMPARE(finding["code"].toString(), QString("sound-missing"));
        QCOMPARE(finding["severity"].toString(), QString("error"));
        QCOMPARE(run({"check", folder_.filePath("nowhere")}).code, 2);
    }

    void mistakesGetOneLine_data()
    {
        QTest::addColumn<QStringList>("arguments");
        QTest::addColumn<QString>("expected");
        const QString p = folder_.path();
        QTest::newRow("no such project") << QStringList{"info", "/nowhere/at/all"} << "/nowhere/at/all: cannot be read";
        QTest::newRow("no such walk") << QStringList{"render", p, "--walk", "x", "--out", "/tmp/x.wav"} << "there are \"Past\"";
        QTest::newRow("no such emitter") << QStringList{"probe", p, "--at", "0,0,0", "--only", "x"}
                                         << "no emitter is called \"x\"";
        QTest::newRow("bad place") << QStringList{"probe", p, "--at", "0,nan"} << "expected X,Y,Z in metres";
        QTest::newRow("heading that is no number")
            << QStringList{"probe", p, "--at", "0,0,0", "--heading", "nan"} << "--heading: nan is not a number";
        QTest::newRow("too far away") << QStringList{"probe", p, "--at", "1e300,0,0"} << "expected X,Y,Z in metres";
        QTest::newRow("no such option") << QStringList{"probe", p, "--wat"} << "see stone-echo-cli --help";
        QTest::newRow("bad layout") << QStringList{"render", p, "--walk", "Past", "--layout", "9.9", "--out", "/tmp/x.wav"}
                                    << "use one of mono, stereo";
        QTest::newRow("no place to listen") << QStringList{"render", p, "--out", "/tmp/x.wav"} << "render needs --walk NAME";
        QTest::newRow("nowhere to write") << QStringList{"render", p, "--walk", "Past", "--out", "/nowhere/x.wav"}
                                          << "/nowhere/x.wav: cannot be written";
        QTest::newRow("impulse from nowhere")
            << QStringList{"impulse", p, "--at", "0,0,1", "--from", "here"} << "--from \"here\": expected X,Y,Z";
        QTest::newRow("nothing to render") << QStringList{"render", p,      "--walk", "Past",  "--from",
                                                          "3",      "--to", "2",      "--out", "/tmp/x.wav"}
                                           << "nothing to render";
    }
    void mistakesGetOneLine()
    {
        QFETCH(QStringList, arguments);
        QFETCH(QString, expected);
        const Result result = run(arguments);
        QCOMPARE(result.code, 2);
        const QString error = QString::fromUtf8(result.error).trimmed();
        QVERIFY2(error.contains(expected) && !error.contains('\n'), qPrintable(error));
        QVERIFY(result.out.isEmpty());
    }

    void anInterruptedRenderLeavesNothing()
    {
        QProcess process;
        process.start(CLI,
                      {"render", folder_.path(), "--at", "0,0,0", "--seconds", "100000", "--out", folder_.filePath("cut.wav")});
        QVERIFY(process.waitForStarted());
        QTRY_VERIFY(!QDir(folder_.path()).entryList({"cut.wav*"}).isEmpty());
        QTest::qWait(100);
        ::kill(static_cast<pid_t>(process.processId()), SIGINT);
        QVERIFY(process.waitForFinished(10'000));
        QCOMPARE(process.exitCode(), 130);
        QVERIFY(QDir(folder_.path()).entryList({"cut*"}).isEmpty());
    }
};

} // namespace tst_cli

STONE_TEST(tst_cli, TestCli)
#include "tst_cli.moc"
