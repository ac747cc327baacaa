// SPDX-License-Identifier: GPL-3.0-or-later
#include "exports/web_page.h"
#include "media/base64.h"
#include "project/atomic_file.h"
#include "project/read.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"

#include <nlohmann/json.hpp>

#include <QElapsedTimer>
#include <QFile>
#include <QProcess>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QTest>
#include <QUrl>

#include <cmath>

namespace tst_web_page
{

using namespace stone;
using Json = nlohmann::ordered_json;

namespace
{

/// Each of the three models, a cone that is passed, and a bed that is everywhere.
const char* const yardText = R"({
  "name": "Yard </script>",
  "sounds": [{"id": "s", "name": "Tone", "file": "tone.wav", "loop": true, "level_db": -3},
             {"id": "w", "name": "Wind", "file": "wide.wav", "loop": true}],
  "falloffs": [{"id": "i", "name": "Inverse", "lanes": [{"model": "inverse", "reference_m": 1.5, "factor": 1.2}]},
               {"id": "l", "name": "Linear", "lanes": [{"model": "linear", "reference_m": 1, "maximum_m": 14, "factor": 0.95}]},
               {"id": "e", "name": "Exponential", "lanes": [{"model": "exponential", "reference_m": 2, "factor": 0.8, "silent_at_m": 16}]},
               {"id": "d", "name": "Drawn", "lanes": [{"shape": "curve", "points": [{"x": 1, "y": 0}, {"x": 9, "y": -40}]}]}],
  "levels": [{"id": "y", "name": "Yard",
    "emitters": [
      {"id": "a", "name": "Inverse", "at": [2, 5, 2.6], "sound": "s", "falloff": "i", "level_db": -6},
      {"id": "b", "name": "Linear", "at": [-3, 4, 1.6], "sound": "s", "falloff": "l"},
      {"id": "c", "name": "Exponential", "at": [0, -6, 1.6], "sound": "s", "falloff": "e"},
      {"id": "d", "name": "Facing", "at": [0, 8, 1.6], "heading_deg": 120, "tilt_deg": 5, "sound": "s", "falloff": "i",
       "lanes": [{"over": "off_front", "shape": "two_angles", "inner_deg": 50, "outer_deg": 160, "inside": 0, "behind": -15}]},
      {"id": "e", "name": "Wind", "kind": "bed", "sound": "w", "level_db": -10},
      {"id": "f", "name": "Drawn", "at": [1, 1, 1], "sound": "s", "falloff": "d"},
      {"id": "g", "name": "Soles", "kind": "steps", "sound": "s"}],
    "walks": [{"id": "w", "name": "Past", "points": [{"t_s": 0, "at": [-10, 0, 0]}, {"t_s": 3, "at": [4, 1, 0]}, {"t_s": 5, "at": [8, 9, 0], "heading_deg": 300}]}]}]})";

struct Yard {
    QTemporaryDir folder;
    std::shared_ptr<const Project> project = std::make_shared<const Project>(readProjectText(yardText, "yard").project);

    Yard()
    {
        fixture::writeTone(path() / "tone.wav", 750.0, 1.0, 48'000, 1, 0.3);
        fixture::writeTone(path() / "wide.wav", 500.0, 1.0, 48'000, 2, 0.3);
    }
    std::filesystem::path path() const { return folder.path().toStdString(); }
    WebPage page() const
    {
        return webPageOf(*project, {"y"}, {{{0, 0}, {4, 0}}},
                         [&](const SoundFile& file) { return fileText(path() / file.file); });
    }
};

Json dataOf(const std::string& html)
{
    const std::string mark = R"(<script id="data" type="application/json">)";
    const std::size_t from = html.find(mark) + mark.size();
    return Json::parse(html.substr(from, html.find("</script>", from) - from));
}

} // namespace

/// A level for somebody who has nothing but a browser.
class TestWebPage : public QObject
{
    Q_OBJECT

private slots:
    void bytesAsText()
    {
        // The examples of RFC 4648, section 10.
        const std::pair<const char*, const char*> examples[] = {{"", ""},
                                                                {"f", "Zg=="},
                                                                {"fo", "Zm8="},
                                                                {"foo", "Zm9v"},
                                                                {"foob", "Zm9vYg=="},
                                                                {"fooba", "Zm9vYmE="},
                                                                {"foobar", "Zm9vYmFy"}};
        for (const auto& [plain, text] : examples) {
            QCOMPARE(base64(plain), std::string(text));
        }
    }

    void whatItLeavesOutIsSaid()
    {
        const WebPage page = Yard().page();
        QCOMPARE(page.emitters, 5U);
        const auto says = [&](const std::string& line) {
            return std::find(page.leavesOut.begin(), page.leavesOut.end(), line) != page.leavesOut.end();
        };
        QVERIFY(says("falloffs that are drawn: Drawn"));
        QVERIFY(says("areas, ambiences of zones, chance, ways, steps and pulses: Soles"));
        const Json data = dataOf(page.html);
        QCOMPARE(data["sounds"].size(), 2U); // each file once
        QCOMPARE(data["without"].size(), page.leavesOut.size());
        QCOMPARE(data["walks"][0]["points"].size(), 3U);
        // A name ends no script, and is no markup.
        QVERIFY(page.html.find("Yard </script>") == std::string::npos);
        QVERIFY(page.html.find("<title>Yard – Yard &lt;/script></title>") != std::string::npos);
        QVERIFY(page.html.find("http://") == std::string::npos && page.html.find("https://") == std::string::npos);
    }

    /// A real browser plays it: along a walk each emitter alone is as loud as in our render.
    void aBrowserPlaysItAsLoud()
    {
        const QString browser = QStandardPaths::findExecutable("chromium");
        if (browser.isEmpty()) {
            QSKIP("there is no browser");
        }
        const Yard yard;
        const QString file = yard.folder.filePath("yard.html");
        fixture::writeText(file.toStdString(), yard.page().html);
        const QTemporaryDir profile;
        QProcess run;
        run.setProcessChannelMode(QProcess::MergedChannels);
        run.start(browser, {"--headless", "--no-sandbox", "--disable-gpu", "--disable-dev-shm-usage", "--enable-logging=stderr",
                            "--user-data-dir=" + profile.path(), QUrl::fromLocalFile(file).toString() + "#measure=Past"});
        QByteArray said;
        QElapsedTimer waited;
        for (waited.start();
             waited.elapsed() < 120'000 && !said.contains("measured {\\\"") && !said.contains("measured {\"");) {
            run.waitForReadyRead(1000);
            said += run.readAll();
        }
        run.waitForReadyRead(500);
        said += run.readAll();
        run.kill();
        run.waitForFinished();
        const qsizetype from = said.indexOf("measured {");
        QVERIFY2(from >= 0, said.right(600));
        // The browser puts quotation marks of its own about what a page says.
        const QByteArray text = said.mid(from + 9, said.indexOf('}', from) - from - 8).replace("\\\"", "\"");
        const Json measured = Json::parse(text.toStdString());
        SoundBank bank(48'000);
        double worst_db = 0.0;
        int compared = 0;
        for (const char* name : {"Inverse", "Linear", "Exponential", "Facing", "Wind"}) {
            ForEars alone;
            for (const auto& emitter : yard.project->levels[0]->emitters) {
                if (emitter->name == name) {
                    alone.solo.insert(emitter->id);
                }
            }
            OfflineJob job;
            job.scene = makeScene(yard.project, {"y"}, bank, filesInside(yard.path()), Loading::now, {}, {}, alone);
            const Walk& walk = *yard.project->levels[0]->walks[0];
            job.to_s = walk.seconds();
            followWalk(job, walk);
            const auto ours = fixture::rendered(job);
            const Json& theirs = measured[name];
            QVERIFY(theirs.size() >= 20U);
            // The first quarter has the beginnings of both in it.
            for (std::size_t i = 1; i < theirs.size(); ++i) {
                const double at_s = 0.25 * static_cast<double>(i);
                const double level_db = fixture::energy_db(ours, at_s, at_s + 0.25);
                const double their_db = theirs[i].get<double>();
                if (level_db > -70.0) {
                    ++compared;
                    worst_db = std::max(worst_db, std::abs(level_db - their_db));
                    QVERIFY2(std::abs(level_db - their_db) < 0.5,
                             qPrintable(
                                 QString("%1 at %2 s: %3 here, %4 dB there").arg(name).arg(at_s).arg(level_db).arg(their_db)));
                }
            }
        }
        QVERIFY2(compared > 80, qPrintable(QString::number(compared)));
        qInfo("%d quarters of a second, at worst %.4f dB", compared, worst_db);
    }
};

} // namespace tst_web_page

STONE_TEST(tst_web_page, TestWebPage)
#include "tst_web_page.moc"
