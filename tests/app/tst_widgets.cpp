// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/ledger_view.h"
#include "app/lanes/lane_strip.h"
#include "app/lists/row_list.h"
#include "app/plan/label_layer.h"
#include "app/widgets/number_field.h"
#include "app/window_fixture.h"

#include "app/dial/ear_dial.h"
#include "app/shell/findings_dialog.h"
#include "app/shell/storey_switch.h"
#include "app/theme/theme.h"
#include "app/widgets/name_chooser.h"
#include "support/one_of_many.h"

#include <QHelpEvent>
#include <QLineEdit>
#include <QPushButton>

#include <cmath>

namespace tst_widgets
{

using namespace stone;

/// The parts of the window, each for itself.
class TestWidgets : public QObject
{
    Q_OBJECT

private slots:
    void initTestCase() { stone::theme::apply(*qApp); }

    /// The desktop's colours say which look fits; black on white with nothing between asks for more contrast.
    void theLookFitsTheDesktop()
    {
        const auto look = [](const char* ground, const char* text) {
            QPalette desktop;
            desktop.setColor(QPalette::Window, QColor(ground));
            desktop.setColor(QPalette::WindowText, QColor(text));
            return theme::lookOf(desktop);
        };
        QCOMPARE(look("#efefef", "#000000"), theme::Look::day);
        QCOMPARE(look("#2d2d2d", "#eeeeee"), theme::Look::night);
        QCOMPARE(look("#ffffff", "#000000"), theme::Look::plain);
        QCOMPARE(look("#000000", "#ffffff"), theme::Look::plainNight);
        // In each of them text stands out from its ground as the guidelines ask: 4.5 to 1, plain ones 7 to 1.
        const auto luminance = [](const QColor& colour) {
            const auto linear = [](double c) { return c <= 0.04045 ? c / 12.92 : std::pow((c + 0.055) / 1.055, 2.4); };
            return 0.2126 * linear(colour.redF()) + 0.7152 * linear(colour.greenF()) + 0.0722 * linear(colour.blueF());
        };
        const auto contrast = [&](const QColor& a, const QColor& b) {
            return (std::max(luminance(a), luminance(b)) + 0.05) / (std::min(luminance(a), luminance(b)) + 0.05);
        };
        for (const theme::Look each : {theme::Look::day, theme::Look::night, theme::Look::plain, theme::Look::plainNight}) {
            theme::apply(*qApp, each);
            const bool plain = each == theme::Look::plain || each == theme::Look::plainNight;
            for (const QColor& ground : {theme::paper, theme::panel, theme::field}) {
                QVERIFY(contrast(theme::ink, ground) > (plain ? 15.0 : 10.0));
                for (const QColor& colour : {theme::soft, theme::verdigris, theme::cinnabar}) {
                    QVERIFY2(contrast(colour, ground) > (plain ? 7.0 : 4.5),
                             qPrintable(QString("%1 on %2 in look %3").arg(colour.name(), ground.name()).arg(int(each))));
                }
            }
        }
        theme::apply(*qApp, theme::Look::day);
    }

    /// One thing is counted as one, however often the look was chosen anew; what reads the same for one stays as it is.
    void oneIsSaidAsOne()
    {
        theme::apply(*qApp);
        theme::apply(*qApp);
        const auto said = [](const char* text, int number) {
            return QCoreApplication::translate("any", text, nullptr, number);
        };
        QCOMPARE(said("%n storeys", 1), QString("1 storey"));
        QCOMPARE(said("%n storeys", 2), QString("2 storeys"));
        QCOMPARE(said("%n storeys", 0), QString("0 storeys"));
        QCOMPARE(said("%n are planted; %1.", 1).arg("the rest stands in walls"),
                 QString("1 is planted; the rest stands in walls."));
        QCOMPARE(said("plants %n", 1), QString("plants 1"));
        QCOMPARE(QCoreApplication::translate("any", "%1 openings"), QString("%1 openings"));
        QCOMPARE(qApp->findChildren<QTranslator*>("singular").size(), 1);
    }

    /// A name for which there is no room ends in dots, not within a letter; it is whole under the pointer.
    void aLongNameEndsInDots()
    {
        NameChooser chooser;
        const QString whole = "Last train, all the way round by the underpass";
        chooser.addItems({whole, "other"});
        chooser.resize(120, 30);
        const QImage cut = chooser.grab().toImage();
        chooser.setCurrentIndex(1);
        const auto looksLike = [&](const QString& text) {
            chooser.setItemText(1, text);
            return chooser.grab().toImage() == cut;
        };
        int letters = 0;
        while (letters < whole.size() && !looksLike(whole.left(letters).trimmed() + QChar(0x2026))) {
            ++letters;
        }
        QVERIFY(letters > 5 && letters < 30);
        chooser.setCurrentIndex(0);
        QHelpEvent help(QEvent::ToolTip, {20, 10}, chooser.mapToGlobal(QPoint(20, 10)));
        QApplication::sendEvent(&chooser, &help);
        QCOMPARE(chooser.toolTip(), whole);
    }

    /// The dial's petal points to where the sound is, and is drawn anew when it can be seen to have changed: as one walks past,
    /// when what is selected changes, and when it falls silent.
    void theDialFollowsWhatIsHeard()
    {
        WindowFixture f(oneTone);
        f.waitForLoading();
        f.playback->setListening(true);
        auto* dial = f.window->findChild<EarDial*>();
        // How far to the right of the middle what is neither paper nor line lies, on the average; nothing: nothing is drawn.
        const auto leaning = [&]() -> std::optional<double> {
            const QImage image = dial->grab().toImage();
            const QColor petal = theme::colourOf(EmitterKind::point);
            double sum = 0.0;
            int count = 0;
            for (int y = 20; y < image.height() - 20; ++y) {
                for (int x = 20; x < image.width() - 20; ++x) {
                    const QColor here = image.pixelColor(x, y);
                    if (here.saturation() > 60 && std::abs(here.hue() - petal.hue()) < 30) {
                        sum += x - image.width() / 2.0;
                        ++count;
                    }
                }
            }
            return count > 0 ? std::optional(sum / count) : std::nullopt;
        };
        // Time of the picture, not of the sound, lets the dial draw again.
        const auto settle = [&] {
            f.pass(0.2);
            QTest::qWait(100);
            f.pass(0.05);
        };
        f.playback->placeFeet({{-8, 5, 0}, 0.0, 0.0, 0.0});
        settle();
        QVERIFY(leaning().has_value() && *leaning() > 10.0);
        const QImage before = dial->grab().toImage();
        settle();
        QCOMPARE(dial->grab().toImage(), before);
        f.playback->placeFeet({{8, 5, 0}, 0.0, 0.0, 0.0});
        settle();
        QVERIFY(leaning().has_value() && *leaning() < -10.0);
        const QImage unselected = dial->grab().toImage();
        f.session->selectOnly({"a"});
        QVERIFY(dial->grab().toImage() != unselected);
        f.session->editSubject("muted", {}, [](Emitter& e) { e.muted = true; });
        settle();
        QVERIFY(!leaning().has_value());
    }

    void numbersAreShownAsPeopleReadThem()
    {
        QCOMPARE(theme::signedNumber(-3.25, 1), QStringLiteral("−3.3"));
        QCOMPARE(theme::signedNumber(-0.04, 1), QStringLiteral("0.0")); // no minus before nothing
        QCOMPARE(theme::decibels(-INFINITY), QStringLiteral("silent"));
        QCOMPARE(theme::metres(11.66), QStringLiteral("11.7 m"));
        QCOMPARE(theme::metres(1234.4), QStringLiteral("1234 m"));
        QCOMPARE(theme::clock(62.4), QStringLiteral("1:02.4"));
    }

    void aNumberFieldTakesEveryMinus_data()
    {
        QTest::addColumn<QString>("typed");
        QTest::addColumn<double>("value");
        QTest::newRow("true minus") << QStringLiteral("−3.5") << -3.5;
        QTest::newRow("hyphen") << "-3.5" << -3.5;
        QTest::newRow("comma") << "2,5" << 2.5;
        QTest::newRow("with its unit") << "4 dB" << 4.0;
    }
    void aNumberFieldTakesEveryMinus()
    {
        QFETCH(QString, typed);
        QFETCH(double, value);
        NumberField field("dB", -200, 60, 1, 1.0);
        QSignalSpy edited(&field, &NumberField::valueEdited);
        QLineEdit* line = field.findChild<QLineEdit*>();
        line->setText(typed);
        QTest::keyClick(&field, Qt::Key_Return);
        QCOMPARE(field.value(), value);
        QCOMPARE(edited.size(), 1);
        field.present(-7.0);
        QCOMPARE(edited.size(), 1); // shown, not edited
        QVERIFY(field.text().startsWith(QStringLiteral("−7.0")));
    }

    /// Far more names than there is room for, all at one spot: some are left out, none covers another, all are within the view.
    void labelsNeverLieOnEachOther()
    {
        QImage image(400, 300, QImage::Format_ARGB32);
        QPainter painter(&image);
        LabelLayer labels(QRectF(0, 0, 400, 300));
        labels.keepFree(QRectF(0, 0, 400, 100));
        const auto label = [](const QString& text, const QPointF& at, LabelLayer::Rank rank) {
            return LabelLayer::Label{
                .text = text, .font = theme::text(8), .colour = theme::ink, .at = at, .radius = 7.0, .rank = rank};
        };
        for (int i = 0; i < 30; ++i) {
            labels.add(label("Platform lamp", {200, 150}, LabelLayer::Rank::heard));
        }
        labels.add(label("outside", {-500, 0}, LabelLayer::Rank::selected));
        labels.add(label("kept free", {60, 50}, LabelLayer::Rank::pointed));
        labels.add(label("must", {330, 50}, LabelLayer::Rank::selected));
        labels.paint(painter);
        const auto& boxes = labels.written();
        QVERIFY2(boxes.size() >= 4 && boxes.size() <= 7, qPrintable(QString::number(boxes.size())));
        int high = 0;
        for (std::size_t i = 0; i < boxes.size(); ++i) {
            QVERIFY(QRectF(0, 0, 400, 300).contains(boxes[i]));
            high += boxes[i].bottom() < 100.0 ? 1 : 0;
            for (std::size_t j = 0; j < i; ++j) {
                QVERIFY(!boxes[i].intersects(boxes[j]));
            }
        }
        QCOMPARE(high, 1);
    }

    /// Whatever the order in which names are asked for, the more important gets the room, of two as important the louder.
    void importantNamesWin()
    {
        QImage image(400, 300, QImage::Format_ARGB32);
        const auto firstOf = [&](std::vector<LabelLayer::Label> labels) {
            QPainter painter(&image);
            // Room for one.
            LabelLayer layer(QRectF(195, 140, 90, 20));
            const QFont font = theme::text(8);
            for (LabelLayer::Label& label : labels) {
                label.font = font;
                label.at = QPointF(195, 150);
                layer.add(label);
            }
            layer.paint(painter);
            if (layer.written().size() != 1) {
                return -1.0;
            }
            return layer.written().front().width();
        };
        using Rank = LabelLayer::Rank;
        const auto alone = [&](const QString& text) {
            return firstOf({{.text = text, .font = {}, .colour = theme::ink, .at = {}}});
        };
        const double w = alone("www");
        const auto label = [](const QString& text, Rank rank, double level_db) {
            return LabelLayer::Label{
                .text = text, .font = {}, .colour = theme::ink, .at = {}, .rank = rank, .level_db = level_db};
        };
        QVERIFY(w > 0.0 && w != alone("i"));
        QCOMPARE(firstOf({label("i", Rank::silent, 0), label("www", Rank::selected, -90)}), w);
        QCOMPARE(firstOf({label("i", Rank::place, 0), label("i", Rank::space, 0), label("www", Rank::heard, -90)}), w);
        QCOMPARE(firstOf({label("i", Rank::heard, -40), label("www", Rank::heard, -20)}), w);
        // Long names lose their middle, selected ones do not.
        const QString endless = "i" + QString("w").repeated(40) + "i";
        QCOMPARE(firstOf({label(endless, Rank::selected, 0)}), -1.0);
        QCOMPARE(firstOf({label(QString("i").repeated(60), Rank::heard, 0)}),
                 alone(QString("i").repeated(14) + "…" + QString("i").repeated(11)));
    }

    void theCameraZoomsToTheCursor()
    {
        PlanCamera camera;
        camera.view = QSizeF(640, 480);
        camera.fit({-10, -5}, {30, 15}, 20);
        QVERIFY(QRectF(0, 0, 640, 480).contains(camera.toScreen(Vec2{-10, -5})));
        QVERIFY(QRectF(0, 0, 640, 480).contains(camera.toScreen(Vec2{30, 15})));
        const QPointF cursor(123, 321);
        const Vec2 under = camera.toLevel(cursor);
        for (const double factor : {1.3, 0.4, 7.0, 1e9, 1e-12}) {
            camera.zoom(factor, cursor);
            QVERIFY(glm::length(camera.toLevel(cursor) - under) < 1e-6);
        }
        QCOMPARE(camera.pixelsPerMetre, PlanCamera::least);
        // North is up.
        QVERIFY(camera.toScreen(Vec2{0, 10}).y() < camera.toScreen(Vec2{0, 0}).y());
    }

    void gridStepsAreRound()
    {
        QCOMPARE(gridStep(10.0, 36.0), 5.0);
        QCOMPARE(gridStep(100.0, 36.0), 0.5);
        QCOMPARE(gridStep(0.1, 36.0), 500.0);
    }

    void aListKeepsWhatIsChosenWhileItsOrderChanges()
    {
        RowList list;
        list.resize(240, 120);
        list.show();
        const auto rows = [](const QStringList& keys) {
            std::vector<Row> made(1);
            made.front().heading = true;
            for (const QString& key : keys) {
                Row row;
                row.key = row.title = key;
                made.push_back(row);
            }
            return made;
        };
        list.setRows(rows({"a", "b", "c", "d", "e", "f"}));
        QSignalSpy chosen(&list, &RowList::chosen);
        QTest::keyClick(&list, Qt::Key_Down);
        QTest::keyClick(&list, Qt::Key_Down);
        QCOMPARE(list.currentKey(), QString("b"));
        QCOMPARE(chosen.size(), 2);
        list.verticalScrollBar()->setValue(30);
        list.setRows(rows({"f", "e", "b", "d", "a", "c"}));
        QCOMPARE(list.currentKey(), QString("b"));
        QCOMPARE(list.verticalScrollBar()->value(), 30);
        list.setRows(rows({"x"}));
        QVERIFY(list.currentKey().isEmpty());
        QCOMPARE(chosen.size(), 2); // nobody chose anything
    }

    static LaneStrip::Shown linear(double place)
    {
        LaneStrip::Shown shown;
        shown.lane.formula = {.model = DistanceModel::linear, .reference_m = 2.0, .maximum_m = 20.0};
        shown.place = place;
        return shown;
    }

    void theLaneFollowsItsFormula()
    {
        LaneStrip strip;
        strip.resize(320, 170);
        strip.show();
        strip.showLane(linear(5.0));
        QVERIFY(QTest::qWaitForWindowExposed(&strip));
        strip.replot();
        QVERIFY(std::abs(strip.handlePlace(0).x() - strip.xAxis->coordToPixel(2.0)) < 0.5);
        QVERIFY(std::abs(strip.handlePlace(1).x() - strip.xAxis->coordToPixel(20.0)) < 0.5);
        QVERIFY(std::abs(strip.earsPlace().x() - strip.xAxis->coordToPixel(5.0)) < 0.5);
        // The silent end of a linear model is its maximum; of the others their end of reach.
        QSignalSpy moved(&strip, &LaneStrip::laneEdited);
        WindowFixture::drag(&strip, strip.handlePlace(1), QPointF(strip.xAxis->coordToPixel(15.0), strip.handlePlace(1).y()));
        QVERIFY(!moved.isEmpty());
        const auto formula = moved.last().at(0).value<Lane>().formula;
        QVERIFY(std::abs(formula.maximum_m - 15.0) < 0.2);
        QCOMPARE(formula.silentAt_m, 0.0);
        QCOMPARE(moved.first().at(2), moved.last().at(2)); // one gesture
        QVERIFY(std::abs(withSilentAt({.reference_m = 1.0}, 9.0).silentAt_m - 9.0) < 1e-12);
        // A full level is never dragged beyond the silence.
        moved.clear();
        strip.showLane(linear(5.0));
        WindowFixture::drag(&strip, strip.handlePlace(0), QPointF(strip.width() - 14, strip.handlePlace(0).y()));
        QVERIFY(moved.last().at(0).value<Lane>().formula.reference_m <= 16.0);
        // The ears' place listens elsewhere until it is let go.
        QSignalSpy places(&strip, &LaneStrip::placeDragged);
        QSignalSpy released(&strip, &LaneStrip::placeReleased);
        strip.showLane(linear(9.0));
        WindowFixture::drag(&strip, strip.earsPlace() + QPointF(0, 40), QPointF(strip.xAxis->coordToPixel(12.0), 60));
        QVERIFY(std::abs(places.last().at(0).toDouble() - 12.0) < 0.2 && released.size() == 1);
    }

    void pointsAreAddedMovedAndTakenOut()
    {
        LaneStrip strip;
        strip.resize(320, 170);
        strip.show();
        LaneStrip::Shown shown;
        shown.lane.shape = LaneShape::curve;
        shown.lane.curve = {{2.0, 0.0}, {10.0, -20.0}, {20.0, -96.0}};
        QSignalSpy edited(&strip, &LaneStrip::laneEdited);
        // As its owner would: shows what was edited.
        connect(&strip, &LaneStrip::laneEdited, &strip, [&](const Lane& lane) {
            shown.lane = lane;
            strip.showLane(shown);
        });
        strip.showLane(shown);
        QVERIFY(QTest::qWaitForWindowExposed(&strip));
        strip.replot();
        QTest::mouseDClick(&strip, Qt::LeftButton, {}, QPoint(static_cast<int>(strip.xAxis->coordToPixel(6.0)), 100));
        QCOMPARE(shown.lane.curve.size(), std::size_t{4});
        QVERIFY(std::abs(shown.lane.curve[1].y + 10.0) < 0.5); // on the curve, so that nothing changes yet
        // Not past its neighbours, and down to silence at the bottom.
        WindowFixture::drag(&strip, strip.handlePlace(1), strip.handlePlace(1) + QPointF(200, 0));
        QCOMPARE(shown.lane.curve[1].x, 10.0);
        WindowFixture::drag(&strip, strip.handlePlace(0), QPointF(strip.handlePlace(0).x(), strip.height()));
        QCOMPARE(shown.lane.curve[0].y, laneSilent_db);
        strip.choose(1);
        QTest::keyClick(&strip, Qt::Key_Delete);
        QCOMPARE(shown.lane.curve.size(), std::size_t{3});
        strip.choose(0);
        QTest::keyClick(&strip, Qt::Key_Up);
        QVERIFY(shown.lane.curve[0].y > lanes::bottom_db); // one step up from silence is heard
    }

    void theLedgerGrowsWithItsTerms()
    {
        Falloff own;
        own.lanes.front().formula.silentAt_m = 10.0;
        Emitter emitter = fixture::pointAt("a", {0, 9, 0});
        emitter.falloff = own;
        const auto project = std::make_shared<const Project>(fixture::projectWith({emitter}));
        const HearingModel model(project, {"level"});
        LedgerView ledger;
        ledger.resize(300, 200);
        const Moment beside(Ears({0, 8, 0}, 0, 0, 0), {});
        ledger.showHeard(model, beside, model.hearOne(beside, 0));
        const int near = ledger.height();
        const Moment away(Ears({0, 0, 0}, 0, 0, 0), {});
        ledger.showHeard(model, away, model.hearOne(away, 0));
        QVERIFY(ledger.height() > near); // the end of reach is a line of its own
    }

    void theDialPointsToTheSound()
    {
        WindowFixture f(oneTone);
        auto* dial = f.window->findChild<EarDial*>();
        QVERIFY(dial != nullptr);
        const auto ochreIn = [&](const QRect& part) {
            const QImage image = dial->grab().toImage();
            int count = 0;
            for (int y = part.top(); y <= part.bottom(); ++y) {
                for (int x = part.left(); x <= part.right(); ++x) {
                    const QColor c = image.pixelColor(x, y);
                    count += c.red() - c.blue() > 60 ? 1 : 0;
                }
            }
            return count;
        };
        const QRect above(dial->width() / 2 - 15, 20, 30, dial->height() / 2 - 26);
        const QRect right(dial->width() / 2 + 6, dial->height() / 2 - 15, dial->width() / 2 - 26, 30);
        QVERIFY(ochreIn(above) > 4 * (ochreIn(right) + 1));
        f.playback->placeFeet({{0, 0, 0}, -90, 0, 0});
        QVERIFY(ochreIn(right) > 4 * (ochreIn(above) + 1));
    }

    void storeysAreSwitchedAndCut()
    {
        WindowFixture f(
            R"({"levels": [{"geometry": {"file": "level.glb"}, "storeys": [{"name": "Up", "floor_m": 6, "cut_m": 6.8},
            {"name": "Ground"}, {"name": "Down", "floor_m": -4, "cut_m": -2.4}], "emitters": [{"id": "a", "at": [0, 0, -3]}]}]})",
            true);
        QCOMPARE(f.plan().storey(), 1);
        QTest::keyClick(&f.plan(), Qt::Key_PageDown);
        QCOMPARE(f.plan().storey(), 2);
        QCOMPARE(f.plan().cut_m(), -2.4);
        QTest::keyClick(&f.plan(), Qt::Key_PageUp);
        QTest::keyClick(&f.plan(), Qt::Key_PageUp);
        QTest::keyClick(&f.plan(), Qt::Key_PageUp); // there is none above
        QCOMPARE(f.plan().storey(), 0);
        f.type("cutHeight", "7.5");
        QCOMPARE(f.plan().cut_m(), 7.5);
        auto* slider = f.find<QSlider>("cutSlider");
        slider->setValue(120);
        QVERIFY(std::abs(f.plan().cut_m() - 7.2) < 1e-9);
        // The Plan follows the character to another storey, but not back against whoever looks elsewhere.
        f.playback->placeFeet({{-10, 34, -4}, 0, 0, 0});
        QCOMPARE(f.plan().storey(), 2);
        QTest::keyClick(&f.plan(), Qt::Key_PageUp);
        f.playback->placeFeet({{-10, 33, -4}, 0, 0, 0});
        QCOMPARE(f.plan().storey(), 1);
    }

    void findingsLeadToTheirEmitter()
    {
        WindowFixture f(
            R"({"sounds": [{"id": "gone", "file": "gone.wav"}], "emitters": [{"id": "x"}, {"id": "a", "sound": "gone", "at": [9, 9]}]})");
        QTRY_COMPARE(f.session->findings().size(), std::size_t{2});
        FindingsDialog dialog(*f.session, f.playback->shownScene(), f.window.get());
        dialog.show();
        QSignalSpy wanted(&dialog, &FindingsDialog::emitterWanted);
        auto* list = dialog.findChild<RowList*>("findingsList");
        const bool first = f.session->findings()[0].code == "sound-missing";
        list->setFocus();
        QTest::keyClick(list, first ? Qt::Key_Home : Qt::Key_Down);
        for (QPushButton* button : dialog.findChildren<QPushButton*>()) {
            if (button->text() == "Show it") {
                QTest::mouseClick(button, Qt::LeftButton);
            }
        }
        QCOMPARE(wanted.size(), 1);
        QCOMPARE(wanted.first().first().value<EmitterId>().text, std::string("a"));
    }
};

} // namespace tst_widgets

STONE_TEST(tst_widgets, TestWidgets)
#include "tst_widgets.moc"
