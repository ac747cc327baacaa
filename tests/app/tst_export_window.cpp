// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/exports/export_dialog.h"
#include "app/exports/one_file_tab.h"
#include "app/exports/tables_tab.h"
#include "app/window_fixture.h"
#include "project/write.h"
#include "support/one_of_many.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDir>
#include <QFile>
#include <QInputDialog>
#include <QLabel>
#include <QSettings>
#include <QTabWidget>
#include <QTimer>

#include <cmath>
#include <filesystem>
#include <tuple>

namespace tst_export_window
{

using namespace stone;

namespace
{

struct Yard : WindowFixture {
    Yard() : WindowFixture(oneTone) { start(); }

    ExportDialog& dialog()
    {
        menu("Export…");
        auto* made = window->findChild<ExportDialog*>();
        if (made == nullptr || !QTest::qWaitFor([&] { return find<QTableWidget>("exportTables")->rowCount() > 0; }, 10'000)) {
            qFatal("nothing is put together");
        }
        return *made;
    }

    QString read(const QString& name) const
    {
        QFile file(folder.filePath(name));
        return file.open(QIODevice::ReadOnly) ? QString::fromUtf8(file.readAll()) : QString();
    }
    void write(const QString& name, const QString& text) const
    {
        QFile file(folder.filePath(name));
        if (!file.open(QIODevice::WriteOnly) || file.write(text.toUtf8()) < 0) {
            qFatal("cannot write");
        }
    }
};

} // namespace

/// Tables written from the window, and taken back in.
class TestExportWindow : public QObject
{
    Q_OBJECT

private slots:
    void tablesAreSeenBeforeTheyAreWritten()
    {
        Yard f;
        f.dialog();
        auto* list = f.find<QTableWidget>("exportTables");
        QCOMPARE(list->rowCount(), 8);
        QCOMPARE(list->item(0, 0)->text(), QString("emitters.csv"));
        QCOMPARE(list->item(0, 1)->text(), QString("1"));
        QVERIFY(!list->item(0, 2)->text().isEmpty());
        QCOMPARE(list->item(2, 0)->checkState(), Qt::Unchecked); // no zones: an empty table
        QCOMPARE(f.find<QLineEdit>("exportFolder")->text(), f.folder.filePath("tables"));
        QVERIFY(f.find<QLabel>("exportWords")->text().contains("replaced"));
        QVERIFY(!QDir(f.folder.filePath("tables")).exists()); // nothing yet
        list->item(1, 0)->setCheckState(Qt::Unchecked);
        f.find<QPushButton>("exportWrite")->click();
        QVERIFY(f.find<QLabel>("exportWords")->text().startsWith("Written to"));
        QCOMPARE(QDir(f.folder.filePath("tables")).entryList(QDir::Files),
                 QStringList({"emitters.csv", "sounds.csv", "walks.csv"}));
        QVERIFY(f.read("tables/emitters.csv").contains("yard,a,Lamp,point,0,5,1.6"));
        QCOMPARE(QSettings().value("export/folder").toString(), f.folder.filePath("tables"));
    }

    void whatCannotBeWrittenIsSaid()
    {
        Yard f;
        f.dialog();
        f.write("in-the-way", "a file");
        f.find<QLineEdit>("exportFolder")->setText(f.folder.filePath("in-the-way/tables"));
        f.find<QPushButton>("exportWrite")->click();
        QVERIFY(f.find<QLabel>("exportWords")->text().contains("in-the-way"));
        QCOMPARE(f.read("in-the-way"), QString("a file"));
        f.find<QLineEdit>("exportFolder")->setText("  ");
        QVERIFY(!f.find<QPushButton>("exportWrite")->isEnabled());
        f.find<QLineEdit>("exportFolder")->setText("/tmp");
        QVERIFY(f.find<QPushButton>("exportWrite")->isEnabled());
        for (int i = 0; i < 8; ++i) {
            f.find<QTableWidget>("exportTables")->item(i, 0)->setCheckState(Qt::Unchecked);
        }
        QVERIFY(!f.find<QPushButton>("exportWrite")->isEnabled());
    }

    void closedAtOnceItWaitsForNobody()
    {
        Yard f;
        f.menu("Export…");
        delete f.window->findChild<ExportDialog*>();
        QVERIFY(f.window->findChild<ExportDialog*>() == nullptr);
    }

    void soundsAreWrittenAsAGameWantsThem()
    {
        Yard f;
        f.dialog();
        f.find<QTabWidget>("exportTabs")->setCurrentIndex(1);
        auto* list = f.find<QTableWidget>("soundsList");
        QCOMPARE(list->rowCount(), 1);
        QCOMPARE(list->item(0, 0)->text(), QString("tone.ogg"));
        QCOMPARE(list->item(0, 1)->text(), QString("one, their mean"));
        QVERIFY(f.find<NumberField>("soundsQuality")->isEnabled());
        f.find<QComboBox>("soundsFormat")->setCurrentIndex(0);
        QCOMPARE(list->item(0, 0)->text(), QString("tone.wav"));
        QVERIFY(!f.find<NumberField>("soundsQuality")->isEnabled());
        f.find<QCheckBox>("soundsFold")->click();
        QCOMPARE(list->item(0, 1)->text(), QString("as they are"));
        f.find<QComboBox>("soundsRate")->setCurrentIndex(2);
        QCOMPARE(f.find<QLineEdit>("soundsFolder")->text(), f.folder.filePath("prepared"));
        f.find<QPushButton>("soundsWrite")->click();
        QTRY_VERIFY_WITH_TIMEOUT(f.find<QLabel>("soundsWords")->text().startsWith("Written:"), 20'000);
        QVERIFY(!list->item(0, 3)->text().isEmpty());
        QVERIFY(f.read("prepared/prepared.csv").contains("tone,tone.wav,tone.wav"));
        QVERIFY(f.read("prepared/prepared.csv").contains(",44100,"));
        QVERIFY(QFile::exists(f.folder.filePath("prepared/tone.wav")));
        // The choices are there again the next time.
        delete f.window->findChild<ExportDialog*>();
        f.dialog();
        QCOMPARE(f.window->findChild<QComboBox*>("soundsFormat")->currentIndex(), 0);
        QCOMPARE(f.window->findChild<QComboBox*>("soundsRate")->currentData().toInt(), 44'100);
        QVERIFY(!f.window->findChild<QCheckBox*>("soundsFold")->isChecked());
    }

    void waysToExportAreKeptInTheProject()
    {
        Yard f;
        f.dialog();
        f.find<QTabWidget>("exportTabs")->setCurrentIndex(1);
        auto* as = f.find<QComboBox>("soundsAs");
        QCOMPARE(as->count(), 1);
        QVERIFY(!f.find<QPushButton>("soundsForget")->isEnabled());
        QVERIFY(!f.find<NumberField>("soundsLoudness")->isEnabled());
        f.find<QComboBox>("soundsFormat")->setCurrentIndex(4);
        f.find<QCheckBox>("soundsMatched")->click();
        QVERIFY(f.find<NumberField>("soundsLoudness")->isEnabled());
        f.find<QComboBox>("soundsNaming")->setCurrentIndex(2);
        QCOMPARE(f.find<QTableWidget>("soundsList")->item(0, 0)->text(), QString("tone.opus"));
        const auto keep = [&](const QString& name) {
            QTimer::singleShot(0, [&] {
                auto* ask = qobject_cast<QInputDialog*>(QApplication::activeModalWidget());
                ask->setTextValue(name);
                ask->accept();
            });
            f.find<QPushButton>("soundsKeep")->click();
        };
        keep("Small console");
        QCOMPARE(f.session->project().soundTargets.size(), std::size_t{1});
        const SoundTarget kept = *f.session->project().soundTargets[0];
        QCOMPARE(kept.name, std::string("Small console"));
        QVERIFY(kept.format == SoundTarget::Format::opus && kept.loudness == SoundTarget::Loudness::matched &&
                kept.naming == SoundTarget::Naming::plain);
        QCOMPARE(as->currentText(), QString("Small console"));
        // Kept once more under its name it is another way, not another one.
        f.find<QComboBox>("soundsFormat")->setCurrentIndex(2);
        keep("Small console");
        QCOMPARE(f.session->project().soundTargets.size(), std::size_t{1});
        QVERIFY(f.session->project().soundTargets[0]->format == SoundTarget::Format::flac);
        f.session->undo();
        QVERIFY(*f.session->project().soundTargets[0] == kept);
        // Chosen it shows what it is.
        as->setCurrentIndex(1);
        emit as->activated(1);
        QCOMPARE(f.find<QComboBox>("soundsFormat")->currentIndex(), 4);
        f.find<QPushButton>("soundsForget")->click();
        QVERIFY(f.session->project().soundTargets.empty());
        QCOMPARE(as->count(), 1);
        f.session->undo();
        QCOMPARE(as->count(), 2);
    }

    void aFileIsHeardBeforeAndAfter()
    {
        Yard f;
        f.dialog();
        f.find<QTabWidget>("exportTabs")->setCurrentIndex(1);
        auto* now = f.find<QPushButton>("soundsHearNow");
        auto* then = f.find<QPushButton>("soundsHearThen");
        QVERIFY(!now->isEnabled() && !then->isEnabled());
        QVERIFY(f.find<QLabel>("soundsHeard")->text().contains("Choose a file"));
        f.find<QTableWidget>("soundsList")->selectRow(0);
        QVERIFY(now->isEnabled() && then->isEnabled());
        const auto level_db = [](const std::vector<float>& out) {
            double sum = 1e-30;
            for (const float x : out) {
                sum += static_cast<double>(x) * static_cast<double>(x);
            }
            return 10.0 * std::log10(sum / static_cast<double>(out.size()));
        };
        now->click();
        QVERIFY(f.playback->auditioned() && now->isChecked() && !then->isChecked());
        f.pass(0.3);
        const double before_db = level_db(f.pass(0.3));
        QVERIFY(before_db > -60.0);
        // As Opus, made 20 dB softer: as loud as before to the ear, and another file.
        f.find<QComboBox>("soundsFormat")->setCurrentIndex(4);
        f.find<QTableWidget>("soundsList")->selectRow(0);
        f.find<QCheckBox>("soundsMatched")->click();
        f.find<NumberField>("soundsLoudness")->setValue(-40.0);
        then->click();
        QTRY_VERIFY_WITH_TIMEOUT(f.playback->auditioned() && !f.playback->auditioned()->instead.empty(), 20'000);
        const auto made = f.playback->auditioned()->instead;
        QVERIFY(std::filesystem::exists(made) && made.extension() == ".opus");
        QVERIFY(f.playback->auditioned()->instead_db > 3.0);
        QVERIFY(then->isChecked() && !now->isChecked());
        QVERIFY(f.find<QLabel>("soundsHeard")->text().contains("become"));
        double after_db = -300.0;
        QTRY_VERIFY_WITH_TIMEOUT((after_db = level_db(f.pass(0.3)), std::abs(after_db - before_db) < 0.5), 10'000);
        // Pressed again it ends; closed, nothing of it stays.
        then->click();
        QVERIFY(!f.playback->auditioned());
        now->click();
        QVERIFY(f.playback->auditioned().has_value());
        delete f.window->findChild<ExportDialog*>();
        QVERIFY(!f.playback->auditioned());
        QVERIFY(!std::filesystem::exists(made));
    }

    void whatCannotBePreparedIsSaidAndNotHeard()
    {
        Yard f;
        f.dialog();
        f.find<QTabWidget>("exportTabs")->setCurrentIndex(1);
        f.find<QTableWidget>("soundsList")->selectRow(0);
        auto* then = f.find<QPushButton>("soundsHearThen");
        auto* words = f.find<QLabel>("soundsHeard");
        // Another format while it is being prepared: what is heard is the one that was asked for, or nothing.
        then->click();
        f.find<QComboBox>("soundsFormat")->setCurrentIndex(2);
        QTRY_VERIFY_WITH_TIMEOUT(!words->text().contains("Being prepared"), 20'000);
        QVERIFY(!f.playback->auditioned() || f.playback->auditioned()->instead.extension() == ".flac");
        f.playback->stopAudition();
        QVERIFY(QFile::remove(f.folder.filePath("tone.wav")));
        f.find<QComboBox>("soundsFormat")->setCurrentIndex(4);
        f.find<QTableWidget>("soundsList")->selectRow(0);
        QVERIFY(then->isEnabled() && !then->isChecked());
        then->click();
        QTRY_VERIFY_WITH_TIMEOUT(words->text().contains("tone.wav"), 20'000);
        QVERIFY(!f.playback->auditioned() && !then->isChecked());
        f.find<QTableWidget>("soundsList")->clearSelection();
        QVERIFY(words->text().contains("Choose a file") && !then->isEnabled());
    }

    void aPageAndALevelAreSeenAndWritten()
    {
        Yard f;
        f.dialog();
        auto* tabs = f.find<QTabWidget>("exportTabs");
        for (const auto& [tab, key, name] : {std::tuple(2, "gltf", "yard.glb"), std::tuple(3, "page", "yard.html")}) {
            tabs->setCurrentIndex(tab);
            const QByteArray prefix(key);
            QTRY_VERIFY_WITH_TIMEOUT(f.find<QPushButton>((prefix + "Write").constData())->isEnabled(), 20'000);
            QVERIFY(f.find<QLabel>((prefix + "What").constData())->text().contains("1 emitters"));
            QVERIFY(f.window->findChild<QPushButton*>(prefix + "Open")->isHidden());
            auto* one = qobject_cast<OneFileTab*>(tabs->widget(tab));
            one->writeTo(f.folder.filePath(QString("nowhere/") + name));
            QTRY_VERIFY_WITH_TIMEOUT(f.find<QLabel>((prefix + "Words").constData())->text().contains("nowhere"), 20'000);
            one->writeTo(f.folder.filePath(name)); // another folder: put together anew first
            QTRY_VERIFY_WITH_TIMEOUT(f.find<QLabel>((prefix + "Words").constData())->text().startsWith("Written to"), 20'000);
            QVERIFY(!f.read(name).isEmpty());
            QCOMPARE(QSettings().value(QString("export/") + key).toString(), f.folder.filePath(name));
        }
        QVERIFY(!f.window->findChild<QPushButton*>("pageOpen")->isHidden());
        QVERIFY(f.window->findChild<QPushButton*>("gltfOpen")->isHidden());
        QVERIFY(f.read("yard.html").contains("</html>"));
    }

    void rendersAreListedRenderedAndStopped()
    {
        Yard f;
        f.dialog();
        f.find<QTabWidget>("exportTabs")->setCurrentIndex(4);
        auto* list = f.find<QTableWidget>("rendersList");
        auto* kind = f.find<QComboBox>("rendersKind");
        auto* words = f.find<QLabel>("rendersWords");
        auto* render = f.find<QPushButton>("rendersWrite");
        QCOMPARE(list->rowCount(), 2);
        QCOMPARE(list->item(0, 0)->text(), QString("across-stereo.wav"));
        QCOMPARE(list->item(0, 1)->text(), QString("0:04.0"));
        f.find<QCheckBox>("rendersLayout_5.1")->click();
        QCOMPARE(list->item(2, 0)->text(), QString("across-5-1.wav"));
        for (const char* layout : {"rendersLayout_5.1", "rendersLayout_stereo", "rendersLayout_binaural"}) {
            f.find<QCheckBox>(layout)->click();
        }
        QVERIFY(words->text().contains("Tick the layouts") && !render->isEnabled());
        kind->setCurrentIndex(1);
        QVERIFY(words->text().contains("No room") && !render->isEnabled());
        kind->setCurrentIndex(2);
        QCOMPARE(list->rowCount(), 8);
        f.find<NumberField>("rendersCount")->setValue(4);
        QCOMPARE(list->rowCount(), 4);
        QCOMPARE(list->item(1, 0)->text(), QString("tone-090.wav"));
        QCOMPARE(f.find<QComboBox>("rendersOf")->currentText(), QString("Tone"));
        QCOMPARE(f.find<QLineEdit>("rendersFolder")->text(), f.folder.filePath("renders"));
        render->click();
        QCOMPARE(render->text(), QString("Stop"));
        QTRY_VERIFY_WITH_TIMEOUT(words->text().startsWith("Written to"), 30'000);
        QVERIFY(list->item(3, 2)->text().endsWith(" dB"));
        QCOMPARE(QDir(f.folder.filePath("renders")).entryList(QDir::Files).size(), 4);
        // A folder that cannot be made is said; stopped, it says how far it came.
        f.write("in-the-way", "a file");
        f.find<QLineEdit>("rendersFolder")->setText(f.folder.filePath("in-the-way/renders"));
        render->click();
        QTRY_COMPARE(render->text(), QString("Render"));
        QVERIFY(words->text().contains("in-the-way"));
        f.find<NumberField>("rendersCount")->setValue(360);
        f.find<QLineEdit>("rendersFolder")->setText(f.folder.filePath("many"));
        render->click();
        render->click();
        QTRY_VERIFY_WITH_TIMEOUT(words->text().startsWith("Stopped:"), 30'000);
        render->click();
        delete f.window->findChild<ExportDialog*>(); // waits for nobody
    }

    void soundsThatCannotBeWrittenAreSaid()
    {
        Yard f;
        f.dialog();
        f.find<QTabWidget>("exportTabs")->setCurrentIndex(1);
        f.write("in-the-way", "a file");
        f.find<QLineEdit>("soundsFolder")->setText(f.folder.filePath("in-the-way/sounds"));
        f.find<QPushButton>("soundsWrite")->click();
        QTRY_COMPARE(f.find<QPushButton>("soundsWrite")->text(), QString("Write"));
        QVERIFY(f.find<QLabel>("soundsWords")->text().contains("in-the-way"));
        QVERIFY(!f.find<QLabel>("soundsWords")->text().contains("replaced"));
        // Stopped, or closed, it ends at once; what is half written is taken away.
        f.find<QLineEdit>("soundsFolder")->setText(f.folder.filePath("out"));
        f.find<QPushButton>("soundsWrite")->click();
        QCOMPARE(f.find<QPushButton>("soundsWrite")->text(), QString("Stop"));
        delete f.window->findChild<ExportDialog*>();
        for (const QString& name : QDir(f.folder.filePath("out")).entryList(QDir::Files)) {
            QVERIFY(!name.contains(".part-"));
        }
    }

    void tablesAreTakenInAsOneStep()
    {
        Yard f;
        f.write("emitters.csv", "id,name,east_m\na,Lamp,3.5\n,Second,1\n");
        f.write("walks.csv", "level,id,t_s,east_m,north_m\nyard,w,0,1,1\nyard,w,5,2,2\n");
        const std::string before = projectText(f.session->project());
        const QString words = takeTablesIn(*f.session, {f.folder.filePath("emitters.csv"), f.folder.filePath("walks.csv")});
        QCOMPARE(words, QString("2 changed, 1 new."));
        QCOMPARE(f.level().emitters.size(), std::size_t{2});
        QCOMPARE(f.emitter("a").at.x, 3.5);
        QCOMPARE(f.level().walks[0]->points[1].t_s, 5.0);
        QVERIFY(f.session->undoName().startsWith("Take tables in"));
        f.session->undo();
        QVERIFY(projectText(f.session->project()) == before);
        QVERIFY(f.session->undoName().isEmpty());
    }

    void oneThatIsWrongChangesNothing()
    {
        Yard f;
        f.write("emitters.csv", "id,east_m\na,3.5\n");
        f.write("more.csv", "id,east_m\na,far\n");
        QString said;
        connect(f.session.get(), &Session::failed, this, [&](const QString& words) { said = words; });
        QVERIFY(takeTablesIn(*f.session, {f.folder.filePath("emitters.csv"), f.folder.filePath("more.csv")}).isEmpty());
        QCOMPARE(said, QString("more.csv, line 2: east_m is \"far\": a number is needed, with a point for decimals. "
                               "Nothing was changed"));
        QCOMPARE(f.emitter("a").at.x, 0.0);
        QVERIFY(takeTablesIn(*f.session, {f.folder.filePath("nowhere.csv")}).isEmpty());
        QVERIFY(said.contains("nowhere.csv"));
        // The same as it is: no step of the history.
        f.write("emitters.csv", "id,east_m\na,0\n");
        QCOMPARE(takeTablesIn(*f.session, {f.folder.filePath("emitters.csv")}), QString("0 changed, 0 new."));
        QVERIFY(f.session->undoName().isEmpty());
    }
};

} // namespace tst_export_window

STONE_TEST(tst_export_window, TestExportWindow)
#include "tst_export_window.moc"
