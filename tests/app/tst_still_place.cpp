// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/lanes/lane_strip.h"
#include "app/shell/top_bar.h"
#include "app/widgets/still_place.h"
#include "app/window_fixture.h"
#include "support/one_of_many.h"

#include <QLabel>
#include <QRegularExpression>
#include <QTest>
#include <QVBoxLayout>

#include <cmath>
#include <optional>

namespace tst_still_place
{

using namespace stone;

/// A walk all the way within a zone, past one tone.
const std::string inAZone = R"({
  "name": "Test yard",
  "sounds": [{"id": "tone", "name": "Tone", "file": "tone.wav"}],
  "levels": [{"id": "yard", "emitters": [{"id": "a", "name": "Lamp", "at": [0, 5, 1.6], "sound": "tone"}],
              "zones": [{"id": "z", "name": "Yard", "at": [0, 0, 0], "shape": {"is": "box", "size_m": [30, 30, 10]}}],
              "walks": [{"id": "w", "name": "Across", "points": [{"t_s": 0, "at": [-8, 0, 0]}, {"t_s": 4, "at": [8, 0, 0]}]}]}]
})";

/// Words that change all the time do not move what stands round them.
class TestStillPlace : public QObject
{
    Q_OBJECT

private:
    /// How often something was told to lay itself out anew.
    class Layouts : public QObject
    {
    public:
        explicit Layouts(QWidget* of) { of->installEventFilter(this); }
        int count = 0;

    protected:
        bool eventFilter(QObject*, QEvent* event) override
        {
            count += event->type() == QEvent::LayoutRequest ? 1 : 0;
            return false;
        }
    };

    /// A page with a label between two others.
    struct Paged {
        QWidget page;
        QLabel* words = new QLabel;
        QLabel* below = new QLabel("below");

        explicit Paged(bool wraps, const std::optional<QString>& text = "a")
        {
            if (text) {
                words->setText(*text);
            }
            words->setWordWrap(wraps);
            auto* box = new QVBoxLayout(&page);
            box->addWidget(new StillPlace(words));
            box->addWidget(below);
            box->addStretch();
            page.resize(220, 300);
            page.show();
            QVERIFY(QTest::qWaitForWindowExposed(&page));
            QCoreApplication::processEvents();
        }
        void say(const QString& text)
        {
            words->setText(text);
            QCoreApplication::processEvents();
            QCoreApplication::processEvents();
        }
    };

private slots:
    void whatIsRoundItStays()
    {
        Paged paged(false);
        paged.say("-36.9 LUFS");
        Layouts layouts(&paged.page);
        for (int i = 0; i < 20; ++i) {
            paged.say(QString("-%1.%2 LUFS").arg(20 + i).arg(i % 10));
        }
        QCOMPARE(layouts.count, 0);
        QCOMPARE(paged.words->text(), QString("-39.9 LUFS"));
    }

    /// Longer words get their room, shorter ones give none back.
    void itGrowsAndDoesNotShrink()
    {
        Paged paged(false);
        QWidget* place = paged.words->parentWidget();
        paged.say("some words");
        const int before = place->minimumWidth();
        paged.say("some words and a few more");
        const int grown = place->minimumWidth();
        QVERIFY(grown > before);
        QVERIFY(paged.words->width() >= paged.words->sizeHint().width());
        Layouts layouts(&paged.page);
        paged.say("few");
        QCOMPARE(place->minimumWidth(), grown);
        QCOMPARE(layouts.count, 0);
    }

    /// Wrapped words have all of their lines, whatever the width, and what is below makes room.
    void wrappedWordsAreNotCutOff()
    {
        Paged paged(true);
        const int oneLine = paged.below->y();
        paged.say("The character is 12.3 m inside. Other zones leave it minus 12.3 decibels, and a little more than that.");
        QVERIFY(paged.below->y() > oneLine);
        QVERIFY(paged.words->height() >= paged.words->heightForWidth(paged.words->width()));
        const int many = paged.words->height();
        paged.page.resize(120, 400);
        QCoreApplication::processEvents();
        QCoreApplication::processEvents();
        QVERIFY(paged.words->height() > many);
        QVERIFY(paged.words->height() >= paged.words->heightForWidth(paged.words->width()));
        // A wider page needs fewer lines again.
        paged.page.resize(600, 400);
        QCoreApplication::processEvents();
        QCoreApplication::processEvents();
        QVERIFY(paged.words->height() < many);
        QVERIFY(paged.words->height() >= paged.words->heightForWidth(paged.words->width()));
    }

    /// A page is laid out before anything is known that could be said.
    void oneWithoutWordsYetHasNoSizeThatQtComplainsOf()
    {
        QTest::failOnWarning(QRegularExpression("Negative"));
        Paged paged(true, std::nullopt);
        paged.say("something");
        QVERIFY(paged.words->height() > 0 && paged.words->height() >= paged.words->heightForWidth(paged.words->width()));
    }

    /// Who follows a walk through a zone, with its page open, has neither the page nor the bar laid out with each moment.
    void aWalkThroughAZoneLeavesThePageAsItIs()
    {
        WindowFixture f(inAZone);
        f.session->selectThing<Zone>({"z"});
        QTest::keyClick(&f.plan(), Qt::Key_Space);
        f.playback->setWalking(true);
        auto* words = f.find<QLabel>("zoneShare");
        f.pass(0.2);
        QTest::qWait(50);
        const QString begun = words->text();
        QVERIFY2(begun.contains("inside"), qPrintable(begun));
        QWidget* page = words->parentWidget()->parentWidget();
        Layouts onPage(page);
        Layouts inBar(f.window->findChild<TopBar*>());
        for (int i = 0; i < 50; ++i) {
            f.pass(0.04);
            QCoreApplication::processEvents();
        }
        QVERIFY(words->text() != begun);
        QVERIFY2(onPage.count <= 2, qPrintable(QString::number(onPage.count)));
        QVERIFY2(inBar.count <= 2, qPrintable(QString::number(inBar.count)));
        QVERIFY(words->height() >= words->heightForWidth(words->width()));
    }

    /// Where only the ears move over a lane, only they are drawn, and the picture is the same as if all of it were.
    void onlyTheEarsMoveOverALane()
    {
        LaneStrip strip;
        int replots = 0;
        QCoreApplication::processEvents(); // what it draws empty
        connect(&strip, &QCustomPlot::afterReplot, this, [&] { ++replots; });
        LaneStrip::Shown shown;
        shown.lane.property = LaneProperty::level;
        shown.lane.shape = LaneShape::curve;
        shown.lane.curve = {{.x = 0.0, .y = 0.0}, {.x = 20.0, .y = -40.0}};
        shown.place = 3.0;
        strip.showLane(shown);
        QCoreApplication::processEvents();
        QCOMPARE(replots, 0); // nobody sees it
        strip.resize(300, 150);
        strip.show();
        QVERIFY(QTest::qWaitForWindowExposed(&strip));
        strip.clearFocus();
        QTRY_VERIFY(replots > 0 && !strip.hasFocus());
        QTest::qWait(20);
        const QImage begun = strip.grab().toImage();
        replots = 0;
        strip.showLane(shown);
        QCoreApplication::processEvents();
        QCOMPARE(strip.grab().toImage(), begun);
        shown.place = 12.0;
        strip.showLane(shown);
        QCoreApplication::processEvents();
        const QImage moved = strip.grab().toImage();
        QVERIFY(moved != begun);
        QCOMPARE(replots, 0);
        strip.replot();
        QCOMPARE(strip.grab().toImage(), moved);
        replots = 0;
        shown.lane.curve[1].y = -20.0;
        strip.showLane(shown);
        QTRY_COMPARE(replots, 1);
        QVERIFY(strip.grab().toImage() != moved);
        shown.place.reset();
        strip.showLane(shown);
        QCoreApplication::processEvents();
        QCOMPARE(replots, 1);
        strip.hide();
        shown.lane.curve[1].y = -10.0;
        strip.showLane(shown);
        QCoreApplication::processEvents();
        QCOMPARE(replots, 1);
        strip.show();
        QTRY_VERIFY(replots > 1);
    }

    /// One emitter alone is heard as among all of them, while the engine runs and while it does not.
    void oneIsHeardAsAmongAll()
    {
        WindowFixture f;
        f.window->openProject(DEMO);
        f.waitForLoading();
        const auto compare = [&] {
            const std::size_t count = f.playback->hearing().level().emitters.size(); // with planted copies
            std::vector<double> alone;
            for (std::uint32_t i = 0; i < count; ++i) {
                alone.push_back(f.playback->heardOf(i).level_db);
            }
            const std::vector<Heard> all = f.playback->heard();
            QCOMPARE(all.size(), count);
            for (std::size_t i = 0; i < count; ++i) {
                QVERIFY2(alone[i] == all[i].level_db || (std::isnan(alone[i]) && std::isnan(all[i].level_db)),
                         qPrintable(QString("%1: %2 and %3").arg(i).arg(alone[i]).arg(all[i].level_db)));
            }
        };
        for (const double at : {0.0, 0.3, 0.7}) {
            f.playback->seekWalk(f.playback->walkLength_s() * at);
            compare();
        }
        QTest::keyClick(&f.plan(), Qt::Key_Space);
        f.playback->setWalking(true);
        for (int i = 0; i < 5; ++i) {
            f.pass(0.7);
            compare();
        }
    }
};

} // namespace tst_still_place

STONE_TEST(tst_still_place, TestStillPlace)
#include "tst_still_place.moc"
