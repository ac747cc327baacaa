// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/levels/bring_in.h"
#include "app/session/clipboard.h"
#include "app/shell/changes_dialog.h"
#include "app/shell/guide_window.h"
#include "app/shell/names_dialog.h"
#include "app/widgets/cell_table.h"
#include "app/window_fixture.h"
#include "level/mesh.h"
#include "project/read.h"
#include "support/one_of_many.h"

#include <QCheckBox>
#include <QClipboard>
#include <QDir>
#include <QLineEdit>
#include <QMessageBox>
#include <QMimeData>
#include <QTest>
#include <QTimer>
#include <QTreeWidget>

#include <cmath>
#include <fstream>

namespace tst_housekeeping
{

using namespace stone;

/// What keeps a level in order: its page, copying and pasting, names and who bears them, bringing a level in.
class TestHousekeeping : public QObject
{
    Q_OBJECT

    static void typeCell(WindowFixture& f, const char* table, int row, int column, const QString& text)
    {
        auto* cells = f.find<CellTable>(table);
        cells->setFocus();
        cells->setCurrentCell(row, column);
        cells->editItem(cells->item(row, column));
        auto* editor = qobject_cast<QLineEdit*>(QApplication::focusWidget());
        QVERIFY(editor != nullptr);
        editor->selectAll();
        QTest::keyClicks(editor, text);
        QTest::keyClick(editor, Qt::Key_Return);
        QCoreApplication::processEvents(); // what is typed is taken a turn later
    }

    static void press(WindowFixture& f, const char* button) { QTest::mouseClick(f.find<QPushButton>(button), Qt::LeftButton); }

    /// A floor 4 m wide, with another 3.2 m over it and stairs between, in centimetres.
    static QString houseInCentimetres(const WindowFixture& f)
    {
        const QString path = f.folder.filePath("house.obj");
        std::ofstream out(path.toStdString());
        int corners = 0;
        const auto slab = [&](double x0, double x1, double z0, double z1, double height) {
            for (const auto& [x, z] : {std::pair{x0, z0}, {x1, z0}, {x1, z1}, {x0, z1}}) {
                out << "v " << x << ' ' << height << ' ' << z << '\n';
            }
            out << "f " << corners + 4 << ' ' << corners + 3 << ' ' << corners + 2 << ' ' << corners + 1 << '\n';
            corners += 4;
        };
        slab(0, 2000, 0, 2000, 0);
        slab(1000, 2000, 0, 2000, 320);
        for (int step = 1; step < 16; ++step) {
            slab(200 + 50 * step, 250 + 50 * step, 0, 300, 20 * step);
        }
        return path;
    }

private slots:
    void theLevelsPageSaysAndChangesWhatItHas()
    {
        WindowFixture f(oneTone);
        QTest::keyClick(f.window.get(), Qt::Key_L, Qt::ControlModifier);
        QVERIFY(f.find<QWidget>("levelPage")->isVisible());
        f.type("levelUnit", "0.5");
        QCOMPARE(f.level().metresPerUnit, 0.5);
        f.type("walkingSpeed", "2");
        QCOMPARE(f.level().character.speed_m_s, 2.0);
        f.type("outsideEchoes", "-6");
        QCOMPARE(f.level().outside.echoes_db, -6.0);
        f.type("voices", "24");
        QCOMPARE(f.session->project().voices, 24);
        f.type("airTemperature", "-10");
        QCOMPARE(f.session->project().air.temperature_c, -10.0);
        f.session->undo();
        QCOMPARE(f.session->project().air.temperature_c, 15.0);

        f.playback->placeFeet({{3, 4, 0}, 90, 0, 0});
        press(f, "startHere");
        QCOMPARE(f.level().character.start, (Vec3{3, 4, 0}));
        QCOMPARE(f.level().character.heading_deg, 90.0);
        press(f, "levelBack");
        QVERIFY(!f.window->findChild<QWidget*>("levelPage")->isVisible());
    }

    void storeysAreTypedAddedAndTakenAway()
    {
        WindowFixture f(oneTone);
        QTest::keyClick(f.window.get(), Qt::Key_L, Qt::ControlModifier);
        const auto before = f.level().storeys.size();
        press(f, "addStorey");
        QCOMPARE(f.level().storeys.size(), before + 1);
        typeCell(f, "storeys", 0, 0, "Attic");
        typeCell(f, "storeys", 0, 1, "6,4");
        typeCell(f, "storeys", 0, 2, "7.5");
        QCOMPARE(f.level().storeys[0].name, std::string("Attic"));
        QCOMPARE(f.level().storeys[0].floor_m, 6.4);
        QCOMPARE(f.level().storeys[0].cut_m, 7.5);
        // What is no number is shown again as it was.
        typeCell(f, "storeys", 0, 1, "high");
        QCOMPARE(f.level().storeys[0].floor_m, 6.4);
        QCOMPARE(f.find<CellTable>("storeys")->item(0, 1)->text(), QString("6.4"));
        f.find<CellTable>("storeys")->setCurrentCell(0, 0);
        press(f, "removeStorey");
        QCOMPARE(f.level().storeys.size(), before);
        // One stays, whatever is pressed.
        for (int i = 0; i < 3; ++i) {
            press(f, "removeStorey");
        }
        QCOMPARE(f.level().storeys.size(), 1U);
    }

    void placesAreSavedRenamedVisitedAndTakenAway()
    {
        WindowFixture f(oneTone);
        QTest::keyClick(f.window.get(), Qt::Key_L, Qt::ControlModifier);
        f.playback->placeFeet({{-3, 2, 0}, 45, 0, 0});
        press(f, "addPlace");
        QCOMPARE(f.level().places.size(), 2U);
        typeCell(f, "places", 1, 0, "By the wall");
        typeCell(f, "places", 1, 1, "-4.5");
        typeCell(f, "places", 1, 4, "450");
        QCOMPARE(f.level().places[1].name, std::string("By the wall"));
        QCOMPARE(f.level().places[1].at, (Vec3{-4.5, 2, 0}));
        QCOMPARE(f.level().places[1].heading_deg, 90.0);
        f.find<CellTable>("places")->setCurrentCell(0, 0);
        press(f, "goToPlace");
        QCOMPARE(f.playback->feet().at, (Vec3{12, 0, 0}));
        press(f, "removePlace");
        QCOMPARE(f.level().places.size(), 1U);
        QCOMPARE(f.level().places[0].name, std::string("By the wall"));
    }

    void whatIsCopiedIsPastedBesideAndElsewhere()
    {
        WindowFixture f(oneTone);
        f.session->selectOnly({"a"});
        f.plan().setFocus();
        QTest::keyClick(f.window.get(), Qt::Key_C, Qt::ControlModifier);
        QTest::keyClick(f.window.get(), Qt::Key_V, Qt::ControlModifier | Qt::ShiftModifier);
        QCOMPARE(f.level().emitters.size(), 2U);
        const Emitter& copy = *f.session->primary();
        QCOMPARE(copy.name, std::string("Lamp 2"));
        QCOMPARE(copy.at, f.emitter("a").at);
        QCOMPARE(copy.sound, SoundId{"tone"});
        QCOMPARE(f.session->undoName(), QString("Paste Lamp"));
        // Into another level.
        f.menu("Add a level");
        QVERIFY(f.level().emitters.empty());
        QTest::keyClick(f.window.get(), Qt::Key_V, Qt::ControlModifier | Qt::ShiftModifier);
        QCOMPARE(f.level().emitters.size(), 1U);
        QCOMPARE(f.session->project().sounds.size(), 1U);
        // At a place: the middle of what is pasted goes there.
        paste(*f.session, Vec2{7.0, -3.0});
        QVERIFY(glm::length(f.session->primary()->at - Vec3{7.0, -3.0, 1.6}) < 0.011);
        // Cut is gone, and comes back.
        QTest::keyClick(f.window.get(), Qt::Key_X, Qt::ControlModifier);
        QCOMPARE(f.level().emitters.size(), 1U);
        QTest::keyClick(f.window.get(), Qt::Key_V, Qt::ControlModifier | Qt::ShiftModifier);
        QCOMPARE(f.level().emitters.size(), 2U);
    }

    void zonesAndWalksArePastedToo()
    {
        WindowFixture f(oneTone);
        f.session->selectThing<Walk>({"w"});
        QVERIFY(copySelected(*f.session));
        paste(*f.session, Vec2{0.0, 10.0});
        QCOMPARE(f.level().walks.size(), 2U);
        const auto* walk = f.session->selected<Walk>();
        QVERIFY(walk != nullptr);
        QCOMPARE(walk->points[0].at, (Vec3{-8, 10, 0}));
        f.menu("Zone");
        QVERIFY(copySelected(*f.session));
        paste(*f.session, {});
        QCOMPARE(f.level().zones.size(), 2U);
        f.session->selectNone();
        QVERIFY(!copySelected(*f.session));
    }

    void whatIsOfNoUseIsSaid()
    {
        WindowFixture f(oneTone);
        QSignalSpy said(f.session.get(), &Session::failed);
        for (const char* text : {"", "a shopping list", "{ \"emitters\": 7 }", "{"}) {
            QGuiApplication::clipboard()->setText(text);
            paste(*f.session, {});
        }
        QCOMPARE(said.count(), 4);
        QVERIFY(said[2][0].toString().contains("clipboard"));
        QCOMPARE(f.level().emitters.size(), 1U);
        QVERIFY(!f.session->changed());
    }

    /// Two windows: sounds come by name, and their files when one agrees.
    void anotherWindowsSoundsAreBroughtInOnRequest()
    {
        WindowFixture from(oneTone);
        from.session->selectOnly({"a"});
        QVERIFY(copySelected(*from.session));
        WindowFixture to(R"({"name": "Elsewhere", "levels": [{"id": "yard"}]})");
        QFile::remove(to.folder.filePath("tone.wav"));
        to.plan().setFocus();
        QTest::keyClick(to.window.get(), Qt::Key_V, Qt::ControlModifier);
        QCOMPARE(to.session->project().sounds.size(), 1U);
        QVERIFY(to.window->banner().isVisible());
        QVERIFY(to.window->banner().message().contains(from.folder.path()));
        const Sound sound = *to.session->project().sounds[0];
        QVERIFY(!QFileInfo::exists(QString::fromStdString(to.session->resolve(sound.files[0].file).string())));
        for (QPushButton* button : to.window->banner().findChildren<QPushButton*>()) {
            if (button->text() == "Bring the files in") {
                QTest::mouseClick(button, Qt::LeftButton);
            }
        }
        const std::string file = to.session->project().sounds[0]->files[0].file;
        const QString copied = QString::fromStdString(to.session->resolve(file).string());
        QVERIFY2(QFileInfo::exists(copied) && copied.startsWith(to.folder.path()), qPrintable(copied));
    }

    /// What was agreed to is a folder: a text that names something outside of it gets nothing.
    void nothingIsBroughtFromOutsideTheFolder()
    {
        QTemporaryDir elsewhere;
        fixture::writeTone(elsewhere.filePath("secret.wav").toStdString(), 440.0, 0.2);
        QVERIFY(QDir(elsewhere.path()).mkdir("shared"));
        WindowFixture f(oneTone);
        auto* data = new QMimeData;
        data->setText(R"({"name": "Stranger", "sounds": [{"id": "s", "name": "S", "file": "../secret.wav"}],
            "levels": [{"id": "l", "emitters": [{"id": "e", "name": "E", "sound": "s"}]}]})");
        data->setData("application/x-stone-echo-folder", elsewhere.filePath("shared").toUtf8());
        QGuiApplication::clipboard()->setMimeData(data);
        const Unbrought left = paste(*f.session, {});
        QCOMPARE(left.sounds.size(), 1U);
        bringFiles(*f.session, left);
        QCOMPARE(f.session->project().sounds.find(left.sounds[0])->files[0].file, std::string("../secret.wav"));
        QVERIFY(f.session->resolve("../secret.wav").empty());
    }

    void theLevelThatIsShownCanGo()
    {
        WindowFixture f(oneTone);
        f.menu("Add a level");
        QCOMPARE(f.session->project().levels.size(), 2U);
        NamesDialog dialog(*f.session, f.window.get());
        dialog.show();
        auto* tree = dialog.findChild<QTreeWidget*>("namesTree");
        for (int i = 0; i < tree->topLevelItemCount(); ++i) {
            if (tree->topLevelItem(i)->text(0).startsWith("Levels")) {
                tree->setCurrentItem(tree->topLevelItem(i)->child(1));
            }
        }
        QTest::mouseClick(dialog.findChild<QPushButton*>("namesDelete"), Qt::LeftButton);
        QCOMPARE(f.session->project().levels.size(), 1U);
        QCOMPARE(f.level().id, LevelId{"yard"});
        f.plan().grab();
        f.session->undo();
        QCOMPARE(f.session->project().levels.size(), 2U);
    }

    void namesAreChangedAndWhoUsesThemIsSaid()
    {
        WindowFixture f(oneTone);
        NamesDialog dialog(*f.session, f.window.get());
        dialog.show();
        auto* tree = dialog.findChild<QTreeWidget*>("namesTree");
        const auto rowOf = [tree](const QString& head, int row) -> QTreeWidgetItem* {
            for (int i = 0; i < tree->topLevelItemCount(); ++i) {
                if (tree->topLevelItem(i)->text(0).startsWith(head)) {
                    return tree->topLevelItem(i)->child(row);
                }
            }
            return nullptr;
        };
        QVERIFY(rowOf("Sounds", 0) != nullptr);
        tree->setCurrentItem(rowOf("Sounds", 0));
        auto* users = dialog.findChild<QLabel*>("namesUsers");
        QVERIFY2(users->text().contains("emitter Lamp"), qPrintable(users->text()));
        rowOf("Sounds", 0)->setText(0, "Hum");
        QCOMPARE(f.session->project().sounds[0]->name, std::string("Hum"));
        QCOMPARE(f.emitter("a").sound, SoundId{"tone"});
        rowOf("Walks", 0)->setText(0, "Across the yard");
        QCOMPARE(f.level().walks[0]->name, std::string("Across the yard"));
        // An empty name is none.
        rowOf("Walks", 0)->setText(0, "  ");
        QCOMPARE(f.level().walks[0]->name, std::string("Across the yard"));

        // What is used is only deleted when one says so again.
        const auto answer = [&](bool yes) {
            QTimer::singleShot(0, &dialog, [yes] {
                auto* ask = qobject_cast<QMessageBox*>(QApplication::activeModalWidget());
                QVERIFY(ask != nullptr && ask->informativeText().contains("Lamp"));
                for (QAbstractButton* button : ask->buttons()) {
                    if ((ask->buttonRole(button) == QMessageBox::DestructiveRole) == yes) {
                        button->click();
                    }
                }
            });
            QTest::mouseClick(dialog.findChild<QPushButton*>("namesDelete"), Qt::LeftButton);
        };
        tree->setCurrentItem(rowOf("Sounds", 0));
        answer(false);
        QCOMPARE(f.session->project().sounds.size(), 1U);
        answer(true);
        QCOMPARE(f.session->project().sounds.size(), 0U);
        f.session->undo();
        QCOMPARE(f.session->project().sounds.size(), 1U);
        // The last level stays.
        tree->setCurrentItem(rowOf("Levels", 0));
        QTest::mouseClick(dialog.findChild<QPushButton*>("namesDelete"), Qt::LeftButton);
        QCOMPARE(f.session->project().levels.size(), 1U);
    }

    void whatChangedIsListed()
    {
        WindowFixture f(oneTone);
        ChangesDialog dialog(*f.session, f.window.get());
        auto* list = dialog.findChild<QListWidget*>("changesList");
        QCOMPARE(list->count(), 0);
        f.session->selectOnly({"a"});
        f.session->editSubject("Lamp: level", {}, [](Emitter& e) { e.level_db = -6.0; });
        QCOMPARE(list->count(), 1);
        QVERIFY2(list->item(0)->text().contains("Lamp") && list->item(0)->text().contains("-6"),
                 qPrintable(list->item(0)->text()));
        f.session->editSubject("Lamp: name", {}, [](Emitter& e) { e.name = "Lantern"; });
        QCOMPARE(list->count(), 2);
        // Since the last step only.
        f.choose("changesSince", "Before: Lamp: name");
        f.session->saveAs(f.path());
        QCOMPARE(dialog.findChild<QComboBox*>("changesSince")->itemText(0), QString("Since the last save"));
    }

    void stepsHaveALevelOnEachSurface()
    {
        WindowFixture f(R"({
          "sounds": [{"id": "tone", "name": "Tone", "file": "tone.wav"}],
          "levels": [{"id": "yard", "emitters": [{"id": "s", "name": "Steps", "kind": "steps", "sound": "tone",
            "steps": {"surfaces": [{"surface": "gravel", "sound": "tone"}]}}]}]
        })");
        f.session->selectOnly({"s"});
        f.type("stepLevel gravel", "-4.5");
        QCOMPARE(f.emitter("s").stepping.surfaces[0].level_db, -4.5);
        // Half as high: some 6 dB less.
        f.type("stepLevel gravel", "x0.5");
        QVERIFY(std::abs(f.emitter("s").stepping.surfaces[0].level_db + 6.0) < 0.05);
        f.session->undo();
        QCOMPARE(f.emitter("s").stepping.surfaces[0].level_db, -4.5);
    }

    void lengthsAreTypedInTheLevelsUnits()
    {
        WindowFixture f(oneTone);
        QTest::keyClick(f.window.get(), Qt::Key_L, Qt::ControlModifier);
        f.type("levelUnit", "0.25");
        f.type("startEast", "12 u");
        QCOMPARE(f.level().character.start.x, 3.0);
    }

    void theGuideIsSearched()
    {
        GuideWindow guide(MainWindow::shared("docs/guide/README.md"));
        guide.show();
        auto* text = guide.findChild<QTextBrowser*>("guideText");
        QVERIFY(text->toPlainText().contains("Bring in a level"));
        QTest::keyClicks(guide.findChild<QLineEdit*>("guideSearch"), "Roamer");
        QTest::keyClick(guide.findChild<QLineEdit*>("guideSearch"), Qt::Key_Return);
        QCOMPARE(text->textCursor().selectedText().toLower(), QString("roamer"));
        const int first = text->textCursor().position();
        QTest::keyClick(guide.findChild<QLineEdit*>("guideSearch"), Qt::Key_Return);
        QVERIFY(text->textCursor().position() != first);
        QVERIFY(reportOf("Cards").contains("Stone Echo") && reportOf("Cards").contains("Cards") &&
                reportOf({}).contains("none"));
    }

    /// A house in centimetres: its unit is guessed, its storeys found, and it is one step.
    void aLevelIsBroughtIn()
    {
        WindowFixture f;
        const QString file = houseInCentimetres(f);
        BringIn dialog(*f.session, file, f.window.get());
        dialog.show();
        auto* take = dialog.findChild<QPushButton*>("bringInTake");
        QTRY_VERIFY(take->isEnabled());
        QCOMPARE(dialog.findChild<NumberField*>("bringInUnit")->value(), 0.01);
        const QString facts = dialog.findChild<QLabel*>("bringInFacts")->text();
        QVERIFY2(facts.contains("20.0 m by 20.0 m") && facts.contains("2 storeys"), qPrintable(facts));
        auto* doubt = dialog.findChild<QLabel*>("bringInDoubt");
        QVERIFY(!doubt->isVisible());
        dialog.findChild<NumberField*>("bringInUnit")->setValue(1.0);
        QVERIFY2(doubt->isVisible() && doubt->text().contains("0.01"), qPrintable(doubt->text()));
        dialog.findChild<NumberField*>("bringInUnit")->setValue(0.01);
        QTest::mouseClick(take, Qt::LeftButton);
        QCOMPARE(f.level().metresPerUnit, 0.01);
        QVERIFY(std::holds_alternative<GeometryFile>(f.level().geometry));
        QCOMPARE(f.level().storeys.size(), 2U);
        QVERIFY(std::abs(f.level().storeys[0].floor_m - 3.2) < 0.03);
        f.waitForLoading();
        QVERIFY(f.session->loadedLevel().mesh() != nullptr);
        // One stands on its floor, and sees all of it.
        QVERIFY(glm::length(f.level().character.start) > 1.0);
        const QRectF sheet(f.plan().rect());
        QVERIFY(sheet.contains(f.plan().camera().toScreen(Vec2{0, 0})));
        QVERIFY(sheet.contains(f.plan().camera().toScreen(Vec2{20, -20})) ||
                sheet.contains(f.plan().camera().toScreen(Vec2{20, 20})));
        QCOMPARE(f.level().storeys[static_cast<std::size_t>(f.plan().storey())].name, std::string("Ground"));
        f.session->undo();
        QVERIFY(std::holds_alternative<std::monostate>(f.level().geometry));
    }

    void whatCannotBeReadIsSaidBeforeItIsALevel()
    {
        WindowFixture f;
        const QString file = f.folder.filePath("broken.glb");
        QFile broken(file);
        QVERIFY(broken.open(QIODevice::WriteOnly));
        broken.write("not a level");
        broken.close();
        BringIn dialog(*f.session, file, f.window.get());
        dialog.show();
        auto* facts = dialog.findChild<QLabel*>("bringInFacts");
        QTRY_VERIFY2(facts->text().contains("broken.glb"), qPrintable(facts->text()));
        QVERIFY(!dialog.findChild<QPushButton*>("bringInTake")->isEnabled());
        QVERIFY(!f.session->changed());
    }

    void anotherLevelIsPutBesideTheOneThereIs()
    {
        WindowFixture f(oneTone);
        BringIn dialog(*f.session, houseInCentimetres(f), f.window.get());
        dialog.show();
        auto* take = dialog.findChild<QPushButton*>("bringInTake");
        QTRY_VERIFY(take->isEnabled());
        dialog.findChild<QCheckBox*>("bringInAnother")->setChecked(true);
        QTest::mouseClick(take, Qt::LeftButton);
        QCOMPARE(f.session->project().levels.size(), 2U);
        QCOMPARE(f.level().name, std::string("house"));
        QCOMPARE(f.session->project().levels[0]->emitters.size(), 1U);
    }
};

} // namespace tst_housekeeping

STONE_TEST(tst_housekeeping, TestHousekeeping)
#include "tst_housekeeping.moc"
