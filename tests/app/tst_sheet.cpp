// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/ledger_foot.h"
#include "app/bench/ledger_view.h"
#include "app/shell/first_sheet.h"
#include "app/theme/theme.h"
#include "app/window_fixture.h"
#include "support/one_of_many.h"

#include <QMenu>
#include <QSlider>
#include <QTest>

#include <cmath>

namespace tst_sheet
{

using namespace stone;

namespace
{

const std::string yardWithBox = R"({
  "name": "Test yard",
  "sounds": [{"id": "tone", "name": "Tone", "file": "tone.wav"}],
  "falloffs": [{"id": "yard", "name": "Yard", "lanes": [{"reference_m": 2, "silent_at_m": 20}]}],
  "levels": [{"id": "yard",
              "emitters": [{"id": "a", "name": "Lamp", "at": [0, 9, 1.6], "sound": "tone", "falloff": "yard"},
                           {"id": "far", "name": "Far", "at": [60, 60, 1.6], "sound": "tone", "falloff": "yard"}],
              "zones": [{"id": "box", "name": "Shed", "at": [10, 0, 0], "shape": {"is": "box", "size_m": [4, 6, 3]}}]}]
})";

} // namespace

/// The sheet can be read and measured, and what lies over it pushes nothing.
class TestSheet : public QObject
{
    Q_OBJECT

    static QPointF screen(WindowFixture& f, double east, double north)
    {
        return f.plan().camera().toScreen(Vec3{east, north, 0.0});
    }

    static Box boxOf(const WindowFixture& f) { return std::get<Box>(f.level().zones[0]->shape); }

private slots:
    /// A corner is pulled and the far one stays; with Alt the middle does.
    void aBoxIsPulledAboutItsFarCorner()
    {
        WindowFixture f(yardWithBox);
        f.session->selectThing<Zone>({"box"});
        // The corner in the north east, 12 and 3, two metres further out each way.
        f.drag(&f.plan(), screen(f, 12, 3), screen(f, 14, 5));
        const Zone zone = *f.level().zones[0];
        QVERIFY(std::abs(boxOf(f).size_m.x - 6.0) < 0.2 && std::abs(boxOf(f).size_m.y - 8.0) < 0.2);
        QVERIFY2(std::abs(zone.at.x - boxOf(f).size_m.x / 2.0 - 8.0) < 0.011, qPrintable(QString::number(zone.at.x)));
        QVERIFY(std::abs(zone.at.y - boxOf(f).size_m.y / 2.0 + 3.0) < 0.011);
        f.session->undo();
        QCOMPARE(boxOf(f).size_m.x, 4.0);
        QCOMPARE(f.level().zones[0]->at.x, 10.0);
    }

    void whatIsHiddenIsNeitherDrawnNorClicked()
    {
        WindowFixture f(yardWithBox);
        f.click(screen(f, 8, 0));
        QVERIFY(f.session->selected<Zone>() != nullptr);
        f.session->selectNone();
        QTest::keyClick(f.window.get(), Qt::Key_1, Qt::AltModifier);
        QVERIFY(!f.plan().shows(PlanPart::zones));
        f.plan().grab();
        f.click(screen(f, 8, 0));
        QVERIFY(f.session->selected<Zone>() == nullptr);
        // What does not sound is left out, but for what is selected.
        QTest::keyClick(f.window.get(), Qt::Key_8, Qt::AltModifier);
        QVERIFY(!f.plan().shows(PlanPart::silent));
        f.click(f.plan().placeOf({"far"}));
        QVERIFY(f.session->selection().empty());
        f.click(f.plan().placeOf({"a"}));
        QVERIFY(f.session->selection().contains({"a"}));
        // No names but that of what is selected.
        QTest::keyClick(f.window.get(), Qt::Key_9, Qt::AltModifier);
        f.session->selectNone();
        f.plan().grab();
        QCOMPARE(f.plan().labelBoxes().size(), 0U);
    }

    void whatIsShownIsRemembered()
    {
        WindowFixture f(yardWithBox);
        QTest::keyClick(f.window.get(), Qt::Key_0, Qt::AltModifier);
        QVERIFY(!f.plan().shows(PlanPart::grid));
        f.start();
        QVERIFY(!f.plan().shows(PlanPart::grid));
        QVERIFY(f.plan().shows(PlanPart::zones));
        f.menu("Everything");
        QVERIFY(f.plan().shows(PlanPart::grid));
    }

    void aDistanceIsMeasured()
    {
        WindowFixture f(yardWithBox);
        f.drag(&f.plan(), screen(f, -6, -4), screen(f, -2, -1), Qt::ControlModifier);
        const auto measured = f.plan().measured();
        QVERIFY(measured.has_value());
        const double length = glm::length((*measured)[1] - (*measured)[0]);
        QVERIFY2(std::abs(length - 5.0) < 0.2, qPrintable(QString::number(length)));
        QVERIFY(!f.session->changed());
        // Another press ends it.
        f.click(screen(f, -6, -8));
        QVERIFY(!f.plan().measured());
    }

    void whatIsSelectedFillsTheSheet()
    {
        WindowFixture f(yardWithBox);
        f.session->selectOnly({"far"});
        QTest::keyClick(f.window.get(), Qt::Key_F, Qt::ShiftModifier);
        QVERIFY(glm::length(f.plan().camera().centre - Vec2{60, 60}) < 0.1);
        QVERIFY(f.plan().camera().pixelsPerMetre > 20.0);
        f.session->selectThing<Zone>({"box"});
        QTest::keyClick(f.window.get(), Qt::Key_F, Qt::ShiftModifier);
        QVERIFY(glm::length(f.plan().camera().centre - Vec2{10, 0}) < 0.1);
        // Zoomed in, a click into the small picture of all goes elsewhere.
        f.plan().grab();
        f.click(QPointF(20, f.plan().height() - 60));
        QVERIFY(glm::length(f.plan().camera().centre - Vec2{10, 0}) > 5.0);
        QVERIFY(f.session->selected<Zone>() != nullptr);
    }

    /// The sum is there whatever page is open, folded and not, and equals what the Ledger's lines add up to.
    void theSumIsAlwaysInView()
    {
        WindowFixture f(yardWithBox);
        f.session->selectOnly({"a"});
        auto* sum = f.find<QLabel>("ledgerSum");
        const auto inView = [&] {
            return sum->isVisible() && f.window->rect().contains(QRect(sum->mapTo(f.window.get(), QPoint()), sum->size()));
        };
        auto* tabs = f.find<QTabBar>("benchTabs");
        for (int tab = 0; tab < tabs->count(); ++tab) {
            tabs->setCurrentIndex(tab);
            QCoreApplication::processEvents();
            QVERIFY(inView());
        }
        auto* ledger = f.window->findChild<LedgerView*>("ledger");
        QVERIFY(sum->text().startsWith(theme::decibels(ledger->total_db())));
        QTest::mouseClick(f.find<QPushButton>("ledgerTitle"), Qt::LeftButton);
        QVERIFY(!ledger->isVisible() && inView());
        f.start();
        f.session->selectOnly({"a"});
        QVERIFY(!f.find<LedgerFoot>("ledgerFoot")->open());
        f.session->selectThing<Zone>({"box"});
        QVERIFY(!f.window->findChild<QWidget*>("ledgerFoot")->isVisible());
    }

    void ofManyTermsTheLargestAreShown()
    {
        WindowFixture f(R"({
          "sounds": [{"id": "tone", "name": "Tone", "file": "tone.wav", "level_db": -3}],
          "falloffs": [{"id": "yard", "name": "Yard", "lanes": [{"reference_m": 2, "silent_at_m": 40}]}],
          "families": [{"id": "lamps", "name": "Lamps", "level_db": -2}],
          "levels": [{"id": "yard", "emitters": [{"id": "a", "name": "Lamp", "at": [0, 35, 1.6], "sound": "tone",
            "falloff": "yard", "level_db": -1, "family": "lamps", "air": true}]}]
        })");
        f.session->selectOnly({"a"});
        auto* ledger = f.find<LedgerView>("ledger");
        const int folded = ledger->height();
        QVERIFY(!ledger->placeOf(TermKind::emitter));
        ledger->setWhole(true);
        QVERIFY(ledger->height() > folded);
        QVERIFY(ledger->placeOf(TermKind::emitter));
    }

    void aBannerLiesOverTheSheet()
    {
        WindowFixture f(yardWithBox);
        const QSize before = f.plan().size();
        f.window->banner().say("Something was not as it should be, and this is what can be done about it.", "Do it", [] {});
        QCoreApplication::processEvents();
        QCOMPARE(f.plan().size(), before);
        const QRect banner(f.window->banner().mapTo(f.window.get(), QPoint()), f.window->banner().size());
        const QRect plan(f.plan().mapTo(f.window.get(), QPoint()), f.plan().size());
        QVERIFY(plan.contains(banner));
        QVERIFY(banner.height() > 20);
    }

    void theWindowFitsASmallScreen()
    {
        WindowFixture f(yardWithBox);
        f.session->selectOnly({"a"});
        f.window->resize(1024, 700);
        QCoreApplication::processEvents();
        QCOMPARE(f.window->size(), QSize(1024, 700));
        for (const char* name : {"listen", "walks", "output", "ledgerSum"}) {
            QWidget* widget = f.find<QWidget>(name);
            const QRect box(widget->mapTo(f.window.get(), QPoint()), widget->size());
            QVERIFY2(widget->isVisible() && f.window->rect().contains(box), name);
        }
        QVERIFY2(f.plan().width() >= 380, qPrintable(QString::number(f.plan().width())));
        f.window->resize(1600, 1000);
        QCoreApplication::processEvents();
        QVERIFY(f.find<QSlider>("walkTime")->isVisible());
    }

    void columnsFoldAndAreRemembered()
    {
        WindowFixture f(yardWithBox);
        const int before = f.plan().width();
        QTest::keyClick(f.window.get(), Qt::Key_F7, Qt::ControlModifier);
        QVERIFY(f.plan().width() > before + 150);
        QTest::keyClick(f.window.get(), Qt::Key_F8, Qt::ControlModifier);
        QVERIFY(f.plan().width() > before + 400);
        f.window->close();
        f.start();
        QVERIFY(f.plan().width() > before + 400);
        QTest::keyClick(f.window.get(), Qt::Key_F7, Qt::ControlModifier);
        QTest::keyClick(f.window.get(), Qt::Key_F8, Qt::ControlModifier);
        QVERIFY2(std::abs(f.plan().width() - before) < 60, qPrintable(QString("%1 %2").arg(f.plan().width()).arg(before)));
    }

    void theFirstSheetGoesWhenThereIsSomething()
    {
        WindowFixture f;
        f.window->offerFirst();
        auto* first = f.window->findChild<FirstSheet*>("firstSheet");
        QVERIFY(first->isVisible());
        QTest::mouseClick(f.find<QPushButton>("firstEmpty"), Qt::LeftButton);
        QVERIFY(!first->isVisible());
        f.session->startNew();
        f.window->offerFirst();
        QVERIFY(first->isVisible());
        fixture::writeTone(f.folder.filePath("hum.wav").toStdString(), 440.0, 0.5);
        f.session->addSounds({f.folder.filePath("hum.wav")});
        QVERIFY(!first->isVisible());
    }
};

} // namespace tst_sheet

STONE_TEST(tst_sheet, TestSheet)
#include "tst_sheet.moc"
