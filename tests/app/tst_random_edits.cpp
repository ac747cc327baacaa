// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/bench_panel.h"
#include "app/lanes/lane_strip.h"
#include "app/window_fixture.h"

#include "project/read.h"
#include "support/one_of_many.h"

#include <QAbstractSpinBox>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QRandomGenerator>
#include <QTableWidget>

#include <algorithm>

namespace tst_random_edits
{

using namespace stone;

namespace
{

/// Something of every kind.
constexpr const char* yard = R"({
      "sounds": [{"id": "tone", "name": "Tone", "file": "tone.wav"},
                 {"id": "run", "make": "run", "files": [{"file": "tone.wav"}, {"file": "tone.wav"}]}],
      "falloffs": [{"id": "yard", "lanes": [{"reference_m": 2, "silent_at_m": 20}]}],
      "families": [{"id": "birds", "name": "Birds"}],
      "game_values": [{"id": "rain", "name": "Rain"}],
      "signals": [{"id": "bell", "name": "Bell"}],
      "gazes": [{"id": "look", "name": "Look"}],
      "levels": [{"id": "yard",
        "emitters": [
          {"id": "a", "name": "Lamp", "at": [0, 5, 1.6], "sound": "tone", "falloff": "yard"},
          {"id": "b", "name": "Bed", "kind": "bed", "sound": "run"},
          {"id": "c", "name": "Pond", "kind": "area", "at": [9, 3, 0], "sound": "tone"},
          {"id": "d", "name": "Drops", "kind": "sprinkle", "at": [-8, 4, 0], "sound": "tone", "family": "birds"},
          {"id": "e", "name": "Cat", "kind": "roamer", "sound": "run", "roamer": {"stops": [{"at": [1, 8, 0]}, {"at": [5, 8, 0]}]}},
          {"id": "f", "name": "Feet", "kind": "steps", "sound": "tone"}],
        "zones": [{"id": "z", "name": "Lawn", "at": [4, -6, 0]}],
        "rooms": [{"id": "r", "name": "Hut", "at": [-9, -6, 0]}],
        "openings": [{"id": "o", "name": "Door", "from": [-9, -4], "to": [-8, -4]}],
        "walks": [{"id": "w", "name": "Round", "points": [{"t_s": 0, "at": [-3, 0, 0]}, {"t_s": 4, "at": [3, 0, 0]},
                                                          {"t_s": 6, "at": [3, 3, 0]}],
                   "events": [{"t_s": 5, "do": "signal", "signal": "bell"}]}]}]})";

} // namespace

/// The forms as somebody uses them who does not know what they do: whatever is typed, chosen and clicked, in any order, can be
/// saved and opened again.
class TestRandomEdits : public QObject
{
    Q_OBJECT

    QRandomGenerator random_{20'260};

    template <class Thing> const Thing& one(const QList<Thing>& things) { return things[random_.bounded(things.size())]; }

    void chooseSomething(WindowFixture& f)
    {
        switch (random_.bounded(10)) {
        case 0: f.session->selectThing<Zone>({"z"}); break;
        case 1: f.session->selectThing<Room>({"r"}); break;
        case 2: f.session->selectThing<Opening>({"o"}); break;
        case 3: f.session->select({{"a"}, {"c"}, {"d"}}, {"a"}); break;
        case 4: f.session->selectThing<Walk>({"w"}); break;
        default: f.session->selectOnly(one(QList<EmitterId>{{"a"}, {"b"}, {"c"}, {"d"}, {"e"}, {"f"}})); break;
        }
    }

    /// Whether it changes the document: the storey, the output and the monitor do not.
    static bool belongsToAPage(const QWidget* widget, const QWidget* pages)
    {
        return widget->isVisible() && widget->isEnabled() && pages->isAncestorOf(widget) &&
               widget->objectName() != "qt_spinbox_lineedit";
    }

    template <class Widget> QList<Widget*> onPages(WindowFixture& f)
    {
        QList<Widget*> found;
        for (Widget* widget : f.window->findChildren<Widget*>()) {
            if (belongsToAPage(widget, f.window->findChild<BenchPanel*>())) {
                found << widget;
            }
        }
        return found;
    }

    /// As a cell is left that was typed into.
    bool typeInACell(WindowFixture& f)
    {
        const QList<QTableWidget*> tables = onPages<QTableWidget>(f);
        if (tables.isEmpty() || tables.first()->rowCount() == 0) {
            return false;
        }
        const QString texts[] = {"", "0", "-1", "3,5", "1e9", "far", QString::number(20.0 * random_.generateDouble(), 'f', 3)};
        QTableWidget* table = tables.first();
        table->item(random_.bounded(table->rowCount()), random_.bounded(table->columnCount()))
            ->setText(texts[random_.bounded(7)]);
        return true;
    }

    void typeSomething(WindowFixture& f)
    {
        if (random_.bounded(2) == 0 && typeInACell(f)) {
            return;
        }
        const QList<QDoubleSpinBox*> fields = onPages<QDoubleSpinBox>(f);
        if (fields.isEmpty()) {
            return;
        }
        QPointer<QDoubleSpinBox> field = one(fields);
        field->setFocus();
        const double ends[] = {field->minimum(), field->maximum(), 0.0, -1.0, 1.0, field->value() * 2.0};
        switch (random_.bounded(4)) {
        case 0: QTest::keyClick(field, random_.bounded(2) == 0 ? Qt::Key_Up : Qt::Key_Down); return;
        case 1:
            field->findChild<QLineEdit*>()->setText(QString::number(ends[random_.bounded(6)], 'f', field->decimals()));
            break;
        default:
            field->findChild<QLineEdit*>()->setText(
                QString::number(-50.0 + 100.0 * random_.generateDouble(), 'f', field->decimals()));
            break;
        }
        QTest::keyClick(field, Qt::Key_Return);
    }

    void chooseInAList(WindowFixture& f)
    {
        const QList<QComboBox*> lists = onPages<QComboBox>(f);
        if (!lists.isEmpty()) {
            QComboBox* list = one(lists);
            list->setFocus();
            QTest::keyClick(list, one(QList<Qt::Key>{Qt::Key_Up, Qt::Key_Down, Qt::Key_Home, Qt::Key_End}));
        }
    }

    void tick(WindowFixture& f)
    {
        const QList<QCheckBox*> boxes = onPages<QCheckBox>(f);
        if (!boxes.isEmpty()) {
            one(boxes)->click();
        }
    }

    /// Lanes are added by links under the rows, and made large by clicking a row.
    void turnToAnotherLane(WindowFixture& f)
    {
        QList<QLabel*> links;
        for (QLabel* label : onPages<QLabel>(f)) {
            if (label->objectName() == "addLane") {
                links << label;
            }
        }
        if (!links.isEmpty() && random_.bounded(2) == 0) {
            emit one(links)->linkActivated(QString::number(random_.bounded(6)));
            return;
        }
        QList<QWidget*> rows;
        for (QWidget* widget : onPages<QWidget>(f)) {
            if (widget->objectName().startsWith("lane") && widget->objectName().size() == 5) {
                rows << widget;
            }
        }
        if (!rows.isEmpty()) {
            QTest::mouseClick(one(rows), Qt::LeftButton, {}, QPoint(60, 12));
        }
    }

    void turnToAnotherTab(WindowFixture& f)
    {
        for (QTabBar* tabs : onPages<QTabBar>(f)) {
            tabs->setCurrentIndex(random_.bounded(tabs->count()));
        }
    }

    void useAStrip(WindowFixture& f)
    {
        const QList<LaneStrip*> strips = onPages<LaneStrip>(f);
        if (strips.isEmpty()) {
            return;
        }
        LaneStrip* strip = one(strips);
        const auto anywhere = [&] { return QPointF(random_.bounded(strip->width()), random_.bounded(strip->height())); };
        switch (random_.bounded(3)) {
        case 0: QTest::mouseDClick(strip, Qt::LeftButton, {}, anywhere().toPoint()); break;
        case 1:
            strip->setFocus();
            QTest::keyClick(strip, one(QList<Qt::Key>{Qt::Key_Insert, Qt::Key_Delete, Qt::Key_Up, Qt::Key_Down, Qt::Key_Left,
                                                      Qt::Key_Right, Qt::Key_Tab}));
            break;
        default:
            if (const int handles = strip->handleCount(); handles > 0) {
                WindowFixture::drag(strip, strip->handlePlace(random_.bounded(handles)), anywhere());
            }
            break;
        }
    }

private slots:
    void whateverIsEditedCanBeSavedAndOpened()
    {
        // 5 000 by hand: STONE_ROUNDS=5000.
        const int rounds = std::max(1'500, qEnvironmentVariableIntValue("STONE_ROUNDS"));
        WindowFixture f(yard);
        QSignalSpy failures(f.session.get(), &Session::failed);
        int changes = 0;
        const auto undoAll = [&] {
            while (!f.session->undoName().isEmpty()) {
                f.session->undo();
            }
            QCOMPARE(projectText(f.session->project()), projectText(readProjectText(yard, "yard").project));
        };
        for (int round = 0; round < rounds; ++round) {
            if (round % 500 == 499) {
                undoAll(); // by now much lies at its limits and would stay there
            }
            const auto before = f.session->document();
            switch (random_.bounded(10)) {
            case 0: chooseSomething(f); break;
            case 9: turnToAnotherTab(f); break;
            case 1:
            case 2: chooseInAList(f); break;
            case 3: tick(f); break;
            case 4: turnToAnotherLane(f); break;
            case 5: useAStrip(f); break;
            default: typeSomething(f); break;
            }
            QCoreApplication::processEvents();
            if (f.session->document() == before) {
                continue;
            }
            ++changes;
            const std::string text = projectText(f.session->project());
            try {
                const ReadProject read = readProjectText(text, "edited");
                QVERIFY2(projectText(read.project) == text, qPrintable(QString("round %1").arg(round)));
            } catch (const FileError& error) {
                QFAIL(qPrintable(QString("round %1, %2: %3").arg(round).arg(f.session->undoName(), error.what())));
            }
        }
        for (const auto& failure : failures) {
            qInfo("refused: %s", qPrintable(failure.front().toString()));
        }
        QVERIFY2(changes > rounds / 4, qPrintable(QString("%1 changes").arg(changes)));
        // The forms keep within the rules by themselves: only a loop's ends may contradict each other.
        QVERIFY2(failures.size() < rounds / 100, qPrintable(QString("%1 refusals").arg(failures.size())));
        f.session->saveAs(f.path());
        const auto saved = readProjectFile(f.path());
        QCOMPARE(projectText(saved.project), projectText(f.session->project()));
        undoAll();
    }
};

} // namespace tst_random_edits

STONE_TEST(tst_random_edits, TestRandomEdits)
#include "tst_random_edits.moc"
