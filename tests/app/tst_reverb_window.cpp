// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/window_fixture.h"
#include "media/sound_writer.h"

#include "app/rooms/room_page.h"
#include "media/sound_file.h"
#include "support/one_of_many.h"

#include <QComboBox>
#include <QFileDialog>
#include <QLineEdit>
#include <QTableWidget>
#include <QTimer>

#include <algorithm>
#include <cmath>
#include <random>

namespace tst_reverb_window
{

using namespace stone;

namespace
{

const std::string inARoom = R"({
  "stone_echo": 8, "name": "Hall",
  "sounds": [{"id": "tone", "name": "Tone", "file": "tone.wav"}],
  "levels": [{"id": "hall",
              "rooms": [{"id": "hall", "name": "Hall", "shape": {"is": "box", "size_m": [8, 8, 4]}}],
              "emitters": [{"id": "a", "name": "Lamp", "at": [0, 3, 1.6], "sound": "tone", "muted": true}]}]
})";

const std::string inTheHalt = R"({
  "stone_echo": 8, "name": "Halt",
  "levels": [{"id": "halt", "geometry": {"file": "level.glb"}, "character": {"at": [18, 12, 0]},
              "storeys": [{"name": "Ground", "floor_m": 0, "cut_m": 1.5}]}]
})";

/// Types a path into the file dialog that is about to open, and takes it.
void answerFileDialog(const QString& path)
{
    auto* timer = new QTimer;
    QObject::connect(timer, &QTimer::timeout, [timer, path] {
        auto* dialog = qobject_cast<QFileDialog*>(QApplication::activeModalWidget());
        if (dialog == nullptr) {
            return;
        }
        timer->deleteLater();
        timer->stop();
        auto* line = dialog->findChild<QLineEdit*>("fileNameEdit");
        line->setFocus();
        line->setText(path);
        QTest::keyClick(line, Qt::Key_Return);
    });
    timer->start(20);
}

double largest(const std::vector<float>& samples)
{
    float most = 0.0F;
    for (const float sample : samples) {
        most = std::max(most, std::abs(sample));
    }
    return static_cast<double>(most);
}

} // namespace

/// What rooms answer, by mouse and keyboard: claps, decays, responses, rooms found in the level.
class TestReverbWindow : public QObject
{
    Q_OBJECT

private slots:
    /// F2 claps: first the clap, then the room; without rooms only the clap. While nobody listens it says so.
    void aClapIsAnswered()
    {
        WindowFixture f(inARoom);
        f.plan().setFocus();
        QTest::keyClick(f.window.get(), Qt::Key_F2);
        QVERIFY(f.window->banner().message().contains("Space"));
        f.playback->setListening(true);
        QVERIFY(largest(f.pass(0.3)) < 1e-6);
        QTest::keyClick(f.window.get(), Qt::Key_F2);
        const auto clap = f.pass(0.2);
        QVERIFY(largest(clap) > 0.2);
        const auto tail = f.pass(0.2);
        QVERIFY2(largest(tail) > 0.003, qPrintable(QString::number(largest(tail))));
        f.pass(2.0);
        QTest::keyClick(f.window.get(), Qt::Key_F2, Qt::ShiftModifier);
        QVERIFY(largest(f.pass(0.2)) > 0.2);
        QTest::keyClick(f.window.get(), Qt::Key_F9);
        f.pass(2.0);
        QTest::keyClick(f.window.get(), Qt::Key_F2);
        QVERIFY(largest(f.pass(0.2)) > 0.2);
        QVERIFY(largest(f.pass(0.2)) < 1e-4);
    }

    /// F12: the decay of the place one stands in against what was set, band by band; and as a file.
    void aPlaceIsMeasured()
    {
        WindowFixture f(inARoom);
        f.plan().setFocus();
        QTest::keyClick(f.window.get(), Qt::Key_F12);
        auto* dialog = f.find<QDialog>("decayView");
        auto* table = dialog->findChild<QTableWidget*>("decayTable");
        auto* again = dialog->findChild<QPushButton*>("decayNow");
        QTRY_COMPARE_WITH_TIMEOUT(again->text(), QString("Measure again"), 20000);
        QVERIFY(dialog->findChild<QLabel*>("decayWords")->text().startsWith("Hall: at 1 kHz"));
        const double t20 = table->item(4, 2)->text().section(' ', 0, 0).toDouble();
        QVERIFY2(std::abs(t20 / 0.85 - 1.0) < 0.12, qPrintable(table->item(4, 2)->text()));
        QCOMPARE(table->item(4, 4)->text(), QString("0.85 s"));
        // From the lamp, and outside all rooms: nothing comes back.
        f.session->selectOnly({"a"});
        auto* from = dialog->findChild<QComboBox*>("decayFrom");
        QCOMPARE(from->count(), 2);
        from->setFocus();
        QTest::keyClick(from, Qt::Key_Down);
        QCOMPARE(from->currentText(), QString("Lamp"));
        f.playback->placeFeet({{50, 0, 0}, 0, 0, 0});
        QTest::mouseClick(again, Qt::LeftButton);
        QTRY_COMPARE_WITH_TIMEOUT(again->text(), QString("Measure again"), 20000);
        QVERIFY2(dialog->findChild<QLabel*>("decayWords")->text().startsWith("outside"),
                 qPrintable(dialog->findChild<QLabel*>("decayWords")->text()));
        f.playback->placeFeet({{0, 0, 0}, 0, 0, 0});
        const QString target = f.folder.filePath("answer.wav");
        dialog->findChild<QComboBox*>("decayLayout")->setFocus();
        QTest::keyClick(dialog->findChild<QComboBox*>("decayLayout"), Qt::Key_Down);
        answerFileDialog(target);
        QTest::mouseClick(dialog->findChild<QPushButton*>("decaySave"), Qt::LeftButton);
        QTRY_VERIFY_WITH_TIMEOUT(QFile::exists(target), 20000);
        SoundBank bank(48'000);
        const auto written = bank.load(target.toStdString(), false, Keeping::decoded);
        QVERIFY(written.buffer && written.buffer->channelCount() == 2 && written.buffer->seconds() > 0.8);
    }

    /// A response is chosen, copied into the project, measured and heard; only echoes leave no late field.
    void aRoomGetsAResponse()
    {
        WindowFixture f(inARoom);
        f.session->selectThing<Room>({"hall"});
        std::mt19937 chance(9);
        std::normal_distribution<float> gauss(0.0F, 0.2F);
        std::vector<float> samples(72'000);
        for (std::size_t i = 0; i < samples.size(); ++i) {
            samples[i] = gauss(chance) * static_cast<float>(std::pow(10.0, -3.0 * static_cast<double>(i) / 48'000.0 / 1.2));
        }
        QTemporaryDir elsewhere;
        {
            SoundWriter writer(elsewhere.filePath("cellar.wav").toStdString(), 1, 48'000);
            writer.write(samples);
            writer.finish();
        }
        f.choose("reverbTail", "Late field from a file");
        const auto reverb = [&] { return f.level().rooms[0]->reverb; };
        QTRY_COMPARE(reverb().tail, Tail::response);
        answerFileDialog(elsewhere.filePath("cellar.wav"));
        QTest::mouseClick(f.find<QPushButton>("reverbFile"), Qt::LeftButton);
        QTRY_COMPARE(reverb().response, std::string("responses/cellar.wav"));
        QVERIFY(QFile::exists(f.folder.filePath("responses/cellar.wav")));
        QVERIFY2(std::abs(reverb().rt60_s[4] / 1.2 - 1.0) < 0.15, qPrintable(QString::number(reverb().rt60_s[4])));
        QCOMPARE(f.find<QPushButton>("reverbFile")->text(), QString("cellar.wav"));
        QTRY_COMPARE(f.session->bank().pending(), std::size_t{0});
        QTest::qWait(100);
        f.playback->setListening(true);
        f.pass(0.3);
        // After the file dialog.
        f.window->activateWindow();
        QVERIFY(QTest::qWaitForWindowActive(f.window.get()));
        f.plan().setFocus();
        QTest::keyClick(f.window.get(), Qt::Key_F2);
        f.pass(0.3);
        const double tail = largest(f.pass(0.3));
        QVERIFY2(tail > 0.003, qPrintable(QString::number(tail)));
        f.choose("reverbTail", "Only echoes, as outdoors");
        QTRY_COMPARE(reverb().tail, Tail::none);
        QVERIFY(!f.find<QWidget>("reverbLevel")->isEnabled() && f.find<QWidget>("reverbEarly")->isEnabled());
        f.type("reverbEarly", "-6");
        QCOMPARE(reverb().early_db, -6.0);
        f.session->undo();
        f.session->undo();
        QCOMPARE(reverb().tail, Tail::response);
    }

    /// The halt's ground floor: five rooms with their openings in one step, and once only.
    void roomsComeFromTheLevel()
    {
        WindowFixture f(inTheHalt, true);
        f.menu("Rooms and openings from the level");
        QTRY_COMPARE_WITH_TIMEOUT(f.level().rooms.size(), std::size_t(5), 20000);
        QCOMPARE(f.level().openings.size(), std::size_t(7));
        QVERIFY(f.window->banner().message().contains("5 rooms and 7 openings"));
        // One of them is the hall in which the character stands.
        const auto& heard = f.playback->roomsHeard();
        QVERIFY(!heard.empty());
        f.menu("Rooms and openings from the level");
        QTRY_VERIFY_WITH_TIMEOUT(f.window->banner().message().contains("no closed space"), 20000);
        QCOMPARE(f.level().rooms.size(), std::size_t(5));
        f.session->undo();
        QVERIFY(f.level().rooms.empty() && f.level().openings.empty());
        WindowFixture empty(inARoom);
        empty.menu("Rooms and openings from the level");
        QVERIFY(empty.window->banner().message().contains("no geometry"));
    }
};

} // namespace tst_reverb_window

STONE_TEST(tst_reverb_window, TestReverbWindow)
#include "tst_reverb_window.moc"
