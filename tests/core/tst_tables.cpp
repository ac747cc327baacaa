// SPDX-License-Identifier: GPL-3.0-or-later
#include "acoustics/lane.h"
#include "exports/tables.h"
#include "project/file_error.h"
#include "project/read.h"
#include "project/write.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"
#include "support/random_project.h"

#include <QTest>

#include <cmath>
#include <limits>

namespace tst_tables
{

using namespace stone;

namespace
{

std::vector<CsvTable> tablesOf(const Project& project)
{
    return stone::tablesOf(std::make_shared<const Project>(project), {});
}

CsvTable tableOf(const Project& project, const std::string& name)
{
    for (CsvTable& table : tablesOf(project)) {
        if (table.name == name) {
            return std::move(table);
        }
    }
    qFatal("no table %s", name.c_str());
}

std::string failure(const std::function<void()>& act)
{
    try {
        act();
    } catch (const FileError& error) {
        return error.what();
    }
    return "nothing failed";
}

std::string& cell(CsvTable& table, std::size_t row, const char* column)
{
    return table.rows.at(row).at(table.column(column));
}

Project yard()
{
    return readProjectText(R"({
      "name": "Yard",
      "sounds": [{"id": "hum", "name": "Hum, low", "file": "hum.wav"}, {"id": "bell", "name": "Bell", "file": "bell.wav"}],
      "falloffs": [{"id": "near", "name": "Near", "lanes": [{"reference_m": 2, "silent_at_m": 20},
        {"property": "low_pass", "over": "distance", "shape": "curve", "points": [{"x": 1, "y": 20000}, {"x": 9, "y": 900}]}]}],
      "patterns": [{"id": "lamp", "name": "Lamp", "sound": "hum", "falloff": "near"}],
      "levels": [{"id": "yard", "name": "Yard",
        "emitters": [{"id": "a", "name": "Lamp, A", "at": [1, 2, 3], "sound": "hum", "falloff": "near", "level_db": -3},
                     {"id": "b", "name": "Bell", "at": [4, 5, 6], "sound": "bell"}],
        "plants": [{"id": "row", "name": "Row", "pattern": "lamp", "where": "line",
                    "shape": {"is": "line", "points": [[0, 0, 0], [10, 0, 0]], "width_m": 0}, "every_m": 5}],
        "walks": [{"id": "w", "name": "Across", "points": [{"t_s": 0, "at": [0, 0, 0]},
                   {"t_s": 4.5, "at": [8, 0, 0.25], "heading_deg": 90}]}]}]})",
                           "yard")
        .project;
}

} // namespace

/// Tables for whoever works with lists, and back.
class TestTables : public QObject
{
    Q_OBJECT

private slots:
    void fieldsAreQuotedAsTheStandardSays()
    {
        const CsvTable table{"t", {"plain", "with, comma"}, {{"say \"so\"", "two\r\nlines"}, {"", " kept "}}};
        QCOMPARE(table.text(), std::string("plain,\"with, comma\"\r\n\"say \"\"so\"\"\",\"two\r\nlines\"\r\n, kept \r\n"));
        const CsvTable back = readCsv(table.text(), "t");
        QVERIFY(back.columns == table.columns && back.rows == table.rows);
        QCOMPARE(back.lines, (std::vector<std::size_t>{2, 4}));
        // Other ends of lines, a mark at the beginning, empty lines, no end of the last one.
        const CsvTable other = readCsv("\xef\xbb\xbf"
                                       "a,b\n1,2\n\n\"3\",\n4,5",
                                       "t");
        QCOMPARE(other.columns.front(), std::string("a"));
        QCOMPARE(other.rows, (std::vector<std::vector<std::string>>{{"1", "2"}, {"3", ""}, {"4", "5"}}));
        QCOMPARE(other.lines.back(), std::size_t{5});
    }

    void whatIsNoTableIsSaidWithTheLine()
    {
        QCOMPARE(failure([] { readCsv("", "t"); }),
                 std::string("t.csv, line 1: there is nothing in it, not even names of columns"));
        QVERIFY(failure([] { readCsv("a,b\n1,2\n1,2,3\n", "t"); }).starts_with("t.csv, line 3: 3 fields, but there are 2"));
        QVERIFY(failure([] { readCsv("a,b\n1,\"2\n\n", "t"); }).starts_with("t.csv, line 2: quotation marks"));
    }

    void numbersComeBackToTheBit()
    {
        for (const double number : {0.0, 1.0, -0.1, 1.0 / 3.0, 1e-17, 123456.789, 1e22}) {
            QCOMPARE(std::stod(csvNumber(number)), number);
        }
        QCOMPARE(csvNumber(0.1), std::string("0.1"));
        QCOMPARE(csvNumber(std::numeric_limits<double>::infinity()), std::string());
    }

    void eachTableHasWhatTheProjectSays()
    {
        const Project project = yard();
        QStringList names;
        for (const CsvTable& table : tablesOf(project)) {
            names << QString::fromStdString(table.name);
            for (const auto& row : table.rows) {
                QCOMPARE(row.size(), table.columns.size());
            }
        }
        QCOMPARE(names, QStringList({"emitters", "falloffs", "zones", "rooms", "openings", "walks", "sounds", "posts"}));
        CsvTable emitters = tableOf(project, "emitters");
        QCOMPARE(emitters.rows.size(), std::size_t{5}); // two of the level's own, three planted
        QCOMPARE(cell(emitters, 0, "name"), std::string("Lamp, A"));
        QCOMPARE(cell(emitters, 0, "level_db"), std::string("-3"));
        QCOMPARE(cell(emitters, 4, "planted_by"), std::string("row"));
        QCOMPARE(cell(emitters, 4, "east_m"), std::string("10"));
        // Lanes are sampled as they are heard.
        CsvTable falloffs = tableOf(project, "falloffs");
        std::size_t levels = 0;
        for (std::size_t i = 0; i < falloffs.rows.size(); ++i) {
            const bool level = cell(falloffs, i, "property") == "level";
            levels += level ? 1 : 0;
            const double at = std::stod(cell(falloffs, i, "at"));
            const double value = laneAt(project.falloffs[0]->lanes[level ? 0 : 1], at);
            QCOMPARE(cell(falloffs, i, "value"), std::isfinite(value) ? csvNumber(value) : std::string("-inf"));
            QCOMPARE(cell(falloffs, i, "value_unit"), std::string(level ? "dB" : "Hz"));
        }
        QCOMPARE(levels, std::size_t{33});
        QCOMPARE(cell(falloffs, 32, "at"), std::string("20"));
        QCOMPARE(cell(falloffs, 32, "value"), std::string("-inf"));
    }

    /// Whatever a project is: what is written and read back is the same document, to the byte.
    void whatIsReadBackIsTheSame()
    {
        for (unsigned seed = 1; seed <= 30; ++seed) {
            const Project project = readProjectText(projectText(fixture::randomProject(seed)), "random").project;
            for (const char* name : {"emitters", "walks"}) {
                const TakenIn taken = withTable(project, readCsv(tableOf(project, name).text(), name));
                QCOMPARE(taken.changed, 0);
                QCOMPARE(taken.added, 0);
                QVERIFY(projectText(taken.project) == projectText(project));
            }
        }
    }

    void changesAreTakenIn()
    {
        const Project project = yard();
        CsvTable emitters = tableOf(project, "emitters");
        cell(emitters, 0, "east_m") = "-7.25";
        cell(emitters, 0, "muted") = "yes";
        cell(emitters, 1, "sound") = "hum";
        cell(emitters, 1, "falloff") = "near";
        cell(emitters, 3, "east_m") = "99"; // planted: the rule's
        emitters.rows.push_back(emitters.rows[0]);
        cell(emitters, 5, "id").clear();
        cell(emitters, 5, "name") = "Third";
        cell(emitters, 5, "kind") = "bed";
        const TakenIn taken = withTable(project, emitters);
        QCOMPARE(taken.changed, 2);
        QCOMPARE(taken.added, 1);
        QCOMPARE(taken.planted, 3);
        const auto& now = taken.project.levels[0]->emitters;
        QCOMPARE(now.size(), std::size_t{3});
        QVERIFY(now[0]->at == Vec3(-7.25, 2, 3) && now[0]->muted);
        QCOMPARE(now[1]->sound, SoundId{"hum"});
        QCOMPARE(std::get<FalloffId>(now[1]->falloff), FalloffId{"near"});
        QVERIFY(now[2]->name == "Third" && now[2]->kind == EmitterKind::bed && !now[2]->id.empty());
        // Columns in another order, and only some of them.
        const TakenIn some = withTable(project, readCsv("up_m,east_m,id\n9,,b\n", "emitters"));
        QVERIFY(some.project.levels[0]->emitters[1]->at == Vec3(4, 5, 9));
        QCOMPARE(some.changed, 1);

        CsvTable walks = tableOf(project, "walks");
        cell(walks, 1, "t_s") = "6";
        cell(walks, 1, "heading_deg").clear();
        walks.rows.push_back({"yard", "new", "", "0", "1", "1", "0", "", "0"});
        const TakenIn walked = withTable(project, walks);
        QCOMPARE(walked.changed, 1);
        QCOMPARE(walked.added, 1);
        QCOMPARE(walked.project.levels[0]->walks[0]->points[1].t_s, 6.0);
        QVERIFY(!walked.project.levels[0]->walks[0]->points[1].heading_deg);
        QCOMPARE(walked.project.levels[0]->walks[1]->name, std::string("new"));
    }

    void whatIsWrongIsSaidAndNothingChanged()
    {
        const Project project = yard();
        const auto wrong = [&](const std::string& text) {
            return failure([&] { withTable(project, readCsv(text, "emitters")); });
        };
        QCOMPARE(wrong("id,east_m\na,1\nb,4;5\n"),
                 std::string("emitters.csv, line 3: east_m is \"4;5\": a number is needed, with a point for decimals"));
        QVERIFY(wrong("id,east_m\na,1e999\n").find("line 2: east_m") != std::string::npos);
        QCOMPARE(wrong("id,east_m,sound\na,1,drum\n"),
                 std::string("emitters.csv, line 2: sound: there is no sound \"drum\" in the project"));
        QVERIFY(wrong("id,east_m,muted\na,1,maybe\n").find("\"yes\" or \"no\"") != std::string::npos);
        QVERIFY(wrong("level,id,east_m\nattic,a,1\n").find("there is no level \"attic\"") != std::string::npos);
        QVERIFY(wrong("id,east_m,kind\n,1,drone\n").find("\"drone\" is none") != std::string::npos);
        QVERIFY(wrong("id,east_m,heading_deg\na,1,1e9\n").find("heading_deg") != std::string::npos); // out of its range
        QVERIFY(wrong("name,x\na,1\n").find("emitters or walks are taken in") != std::string::npos);
        QVERIFY(wrong(tableOf(project, "zones").text()).find("only emitters and walks") != std::string::npos);
        QVERIFY(wrong("id,east_m,t_s\nw,1,3\nw,1,2\n").find("line 3: t_s is 2") != std::string::npos);
    }

    /// Whatever bytes come, it is a table or an error in one line.
    void anyBytesAreATableOrAnError()
    {
        const Project project = yard();
        const std::string good = tableOf(project, "emitters").text();
        unsigned chance = 7;
        const auto next = [&] { return chance = chance * 1664525U + 1013904223U; };
        for (int round = 0; round < 3000; ++round) {
            std::string text = good;
            for (int i = 0; i < 6; ++i) {
                constexpr char bytes[] = {'"', ',', '\n', '\r', '\0', 'x', '-', '9', '\xff'};
                text[(next() >> 8U) % text.size()] = bytes[(next() >> 8U) % sizeof bytes];
            }
            const std::string said = failure([&] { withTable(project, readCsv(text, "emitters")); });
            QVERIFY(said.find('\n') == std::string::npos);
        }
    }
};

} // namespace tst_tables

STONE_TEST(tst_tables, TestTables)
#include "tst_tables.moc"
