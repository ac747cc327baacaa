#include "analysis/findings.h"
#include "support/fixtures.h"

#include <QTest>

#include <set>

using namespace stone;

/// What is found in ambiences: a document with one slip each, and that it is gone when it is put right.
class TestFindings : public QObject
{
    Q_OBJECT

private:
    static std::vector<Finding> found(const Project& project)
    {
        SoundBank bank(48'000);
        return findAll({project, {}, {}, bank, filesInside("/nowhere"), Loading::now});
    }
    static bool has(const Project& project, const std::string& code)
    {
        const auto all = found(project);
        return std::any_of(all.begin(), all.end(), [&](const Finding& f) { return f.code == code; });
    }
    static Project read(const QString& level)
    {
        const QString text = QString(R"({"sounds": [{"id": "loop", "file": "a.wav", "loop": true},
                                                    {"id": "once", "files": [{"file": "a.wav"}, {"file": "b.wav"}], "loop": false}],
                                         "falloffs": [{"id": "f", "lanes": [{"reference_m": 1, "silent_at_m": 5}]}],
                                         "signals": [{"id": "ring"}], "game_values": [{"id": "wind"}],
                                         "levels": [{"id": "level", %1}]})")
                                 .arg(level);
        return readProjectText(text.toStdString(), "test").project;
    }

private slots:
    void slipsOfAmbiences_data()
    {
        QTest::addColumn<QString>("code");
        QTest::addColumn<QString>("wrong");
        QTest::addColumn<QString>("right");
        const auto emitter = [](const QString& more, const char* kind = "point", const char* sound = "loop") {
            return QString(R"("emitters": [{"id": "e", "kind": "%1", "sound": "%2", "falloff": "f"%3}])")
                .arg(kind, sound, more.isEmpty() ? QString() : ", " + more);
        };
        const auto zones = [](const QString& list, const QString& emitters = {}) {
            return QString(R"("zones": [%1], "emitters": [%2])").arg(list, emitters);
        };
        const QString bedA = R"({"id": "ba", "kind": "bed", "sound": "loop", "falloff": "f", "zone": "a"})";
        const QString bedB = R"({"id": "bb", "kind": "bed", "sound": "loop", "falloff": "f", "zone": "b"})";
        const auto box = [](const char* id, double x, double size, const QString& more = {}) {
            return QString(R"({"id": "%1", "at": [%2, 0, 0], "shape": {"is": "box", "size_m": [%3, %3, 4]}%4})")
                .arg(id)
                .arg(x)
                .arg(size)
                .arg(more);
        };
        QTest::newRow("overlap") << "zones-overlap" << zones(box("a", 0, 20) + ',' + box("b", 12, 20), bedA + ',' + bedB)
                                 << zones(box("a", 0, 20) + ',' + box("b", 21, 20), bedA + ',' + bedB);
        const QString shortFall = R"("own_falloff": {"lanes": [{"silent_at_m": 2}]})";
        const QString near = R"("falloff": "f")";
        QTest::newRow("gap") << "zones-gap"
                             << zones(box("a", 0, 10) + ',' + box("b", 15.5, 10),
                                      QString(bedA).replace(near, shortFall) + ',' + QString(bedB).replace(near, shortFall))
                             << zones(box("a", 0, 10) + ',' + box("b", 15.5, 10), bedA + ',' + bedB);
        QTest::newRow("child too large") << "zone-outgrows"
                                         << zones(box("a", 0, 10) + ',' + box("b", 0, 30, R"(, "parent": "a")"))
                                         << zones(box("a", 0, 30) + ',' + box("b", 0, 10, R"(, "parent": "a")"));
        QTest::newRow("ring of parents") << "zone-parent"
                                         << zones(box("a", 0, 10, R"(, "parent": "b")") + ',' +
                                                  box("b", 0, 10, R"(, "parent": "a")"))
                                         << zones(box("a", 0, 20) + ',' + box("b", 0, 10, R"(, "parent": "a")"));
        QTest::newRow("no margin") << "hard-cut" << zones(box("a", 0, 10, R"(, "margin_m": 0)"), bedA)
                                   << zones(box("a", 0, 10), bedA);
        QTest::newRow("cut fade")
            << "hard-cut"
            << zones(
                   box("a", 0, 30) + ',' +
                   box("b", 0, 10,
                       R"(, "parent": "a", "fades": [{"over": "depth", "points": [{"x": 0, "y": 0}, {"x": 0.2, "y": -96}]}])"))
            << zones(box("a", 0, 30) + ',' + box("b", 0, 10, R"(, "parent": "a")"));
        QTest::newRow("crossed")
            << "outline-crosses"
            << zones(R"({"id": "a", "shape": {"is": "prism", "points": [[0, 0], [9, 9], [9, 0], [0, 9]]}})")
            << zones(R"({"id": "a", "shape": {"is": "prism", "points": [[0, 0], [9, 0], [9, 9], [0, 9]]}})");
        QTest::newRow("area's border") << "hard-cut" << emitter(R"("placement": {"near_range_m": 0})", "area")
                                       << emitter({}, "area");
        QTest::newRow("rhythm") << "regular-rhythm" << emitter(R"("sprinkle": {"least_s": 5, "most_s": 5})", "sprinkle", "once")
                                << emitter(R"("sprinkle": {"least_s": 2, "most_s": 8})", "sprinkle", "once");
        QTest::newRow("one file") << "same-each-time" << emitter({}, "sprinkle", "loop") << emitter({}, "sprinkle", "once");
        QTest::newRow("out of earshot") << "out-of-earshot"
                                        << emitter(R"("sprinkle": {"nearest_m": 9, "farthest_m": 12})", "sprinkle", "once")
                                        << emitter(R"("sprinkle": {"nearest_m": 1, "farthest_m": 4})", "sprinkle", "once");
        QTest::newRow("jumps") << "jumps-back"
                               << emitter(
                                      R"("roamer": {"stops": [{"at": [0, 0]}, {"at": [5, 0]}], "round_end": "starts_over"})",
                                      "roamer")
                               << emitter(R"("roamer": {"stops": [{"at": [0, 0]}, {"at": [5, 0]}]})", "roamer");
        QTest::newRow("no stops") << "no-way" << emitter({}, "roamer")
                                  << emitter(R"("roamer": {"stops": [{"at": [0, 0]}, {"at": [5, 0]}]})", "roamer");
        QTest::newRow("never starts") << "never-starts" << emitter(R"("starting": {"starts": []})")
                                      << emitter(R"("starting": {"starts": [{"on": "signal", "signal": "ring"}]})");
        QTest::newRow("signal gone") << "never-starts"
                                     << emitter(R"("starting": {"starts": [{"on": "signal", "signal": "sing"}]})")
                                     << emitter(R"("starting": {"starts": [{"on": "signal", "signal": "ring"}]})");
        QTest::newRow("one-shot") << "one-shot-at-start" << emitter({}, "point", "once")
                                  << emitter(R"("start_after_s": 3)", "point", "once");
        QTest::newRow("bed runs out") << "bed-runs-out" << emitter({}, "bed", "once")
                                      << emitter(R"("starting": {"rounds": "endless"})", "bed", "once");
        QTest::newRow("value gone")
            << "value-gone" << emitter(R"("lanes": [{"over": "game_value", "value": "rain", "points": [{"x": 0, "y": 0}]}])")
            << emitter(R"("lanes": [{"over": "game_value", "value": "wind", "points": [{"x": 0, "y": 0}]}])");
        QTest::newRow("carrier gone") << "carrier-gone" << emitter(R"("riding": {"on": "roamer", "roamer": "nobody"})")
                                      << emitter(R"("riding": {"on": "character"})");
        QTest::newRow("zone gone") << "zone-gone" << emitter(R"("zone": "nowhere")") << emitter({});
    }
    void slipsOfAmbiences()
    {
        QFETCH(QString, code);
        QFETCH(QString, wrong);
        QFETCH(QString, right);
        const Project project = read(wrong);
        QVERIFY(has(project, code.toStdString()));
        QVERIFY(!has(read(right), code.toStdString()));
        // Each way to put it right does, and touches nothing else that was found.
        for (const Finding& finding : found(project)) {
            if (finding.code != code.toStdString()) {
                continue;
            }
            for (const Remedy& remedy : finding.remedies) {
                const Project mended = remedy.apply(project);
                const auto left = found(mended);
                QVERIFY2(std::none_of(left.begin(), left.end(),
                                      [&](const Finding& f) { return f.code == finding.code && f.where == finding.where; }),
                         remedy.label.c_str());
            }
        }
    }
};

QTEST_GUILESS_MAIN(TestFindings)
#include "tst_findings.moc"
