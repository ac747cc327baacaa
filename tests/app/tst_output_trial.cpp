// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/session/ear_test.h"
#include "app/shell/output_trial.h"
#include "app/window_fixture.h"
#include "support/one_of_many.h"

#include <QRadioButton>
#include <QTest>

#include <cmath>

namespace tst_output_trial
{

using namespace stone;

/// An output is tried by ear before anything is tuned by it: what is left is left.
class TestOutputTrial : public QObject
{
    Q_OBJECT

    /// By how much the left channel is louder than the right.
    static double leftOver_db(const std::vector<float>& out)
    {
        const double seconds = static_cast<double>(out.size()) / 2.0 / 48'000.0;
        return fixture::rms_db(out, 0, 0.3, seconds) - fixture::rms_db(out, 1, 0.3, seconds);
    }

    static void press(WindowFixture& f, const char* button)
    {
        QTest::mouseClick(f.window->findChild<OutputTrial*>()->findChild<QPushButton*>(button), Qt::LeftButton);
    }

private slots:
    void eachSideComesFromWhereItSays_data()
    {
        QTest::addColumn<bool>("headphones");
        QTest::addColumn<double>("apart_db");
        QTest::newRow("loudspeakers") << false << 20.0;
        QTest::newRow("headphones") << true << 4.0;
    }

    void eachSideComesFromWhereItSays()
    {
        QFETCH(bool, headphones);
        QFETCH(double, apart_db);
        WindowFixture f(oneTone);
        f.menu("Try the output…");
        auto* trial = f.window->findChild<OutputTrial*>();
        QVERIFY(trial != nullptr && trial->isVisible());
        auto* kind = trial->findChild<QRadioButton*>(headphones ? "trialHeadphones" : "trialLoudspeakers");
        QTest::mouseClick(kind, Qt::LeftButton, Qt::NoModifier, {10, kind->height() / 2});
        QCOMPARE(f.playback->layout(), headphones ? Layout::binaural : Layout::stereo);
        press(f, "trialLeft");
        QVERIFY(f.playback->listening());
        f.pass(0.5);
        QVERIFY(leftOver_db(f.pass(1.2)) > apart_db);
        press(f, "trialRight");
        f.pass(0.5);
        QVERIFY(leftOver_db(f.pass(1.2)) < -apart_db);
        press(f, "trialAhead");
        f.pass(0.5);
        QVERIFY(std::abs(leftOver_db(f.pass(1.2))) < 1.0);
        // Round: to the right within the first half, to the left within the second.
        press(f, "trialRound");
        f.pass(1.0);
        QVERIFY(leftOver_db(f.pass(1.6)) < -3.0);
        f.pass(2.4);
        QVERIFY(leftOver_db(f.pass(1.6)) > 3.0);
        QVERIFY(!f.session->changed());
        // Closed: silence as before, and nothing of it in what is heard of the level.
        trial->close();
        QVERIFY(!f.playback->listening() && !f.playback->tryingOutput());
    }

    void whoListenedGoesOnListening()
    {
        WindowFixture f(oneTone);
        f.playback->setListening(true);
        f.pass(0.5);
        const double level_db = fixture::energy_db(f.pass(0.5), 0.1, 0.5);
        f.menu("Try the output…");
        press(f, "trialLeft");
        f.pass(1.0);
        f.window->findChild<OutputTrial*>()->close();
        QVERIFY(f.playback->listening());
        f.pass(0.5);
        QVERIFY(std::abs(fixture::energy_db(f.pass(0.5), 0.1, 0.5) - level_db) < 0.1);
        QVERIFY(OutputTrial::asked());
    }

    void endingToListenEndsTheTrial()
    {
        WindowFixture f(oneTone);
        f.playback->tryOutput(90.0);
        QVERIFY(f.playback->tryingOutput());
        f.playback->setListening(false);
        QVERIFY(!f.playback->tryingOutput());
        QCOMPARE(goneRound_deg(2.0), 90.0);
    }
};

} // namespace tst_output_trial

STONE_TEST(tst_output_trial, TestOutputTrial)
#include "tst_output_trial.moc"
