// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/lanes/lane_strip.h"
#include "app/lists/family_follows.h"
#include "app/lists/row_list.h"
#include "app/walls/material_dialog.h"
#include "app/widgets/number_field.h"
#include "app/window_fixture.h"
#include "project/edit.h"
#include "project/read.h"
#include "support/one_of_many.h"

#include <QCheckBox>
#include <QComboBox>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <QTabBar>
#include <QTableWidget>
#include <QTreeWidget>

#include <filesystem>

namespace tst_small_needs
{

using namespace stone;
namespace fs = std::filesystem;

/// Small things that people needed at work, as they meet them in the window.
class TestSmallNeeds : public QObject
{
    Q_OBJECT

private slots:
    void shortSoundsArriveAsOneShots()
    {
        WindowFixture f(oneTone);
        fixture::writeTone(f.folder.filePath("knock.wav").toStdString(), 480.0, 0.4);
        fixture::writeTone(f.folder.filePath("hum.wav").toStdString(), 480.0, 5.0);
        const auto ids = f.session->addSounds({f.folder.filePath("knock.wav"), f.folder.filePath("hum.wav")});
        QVERIFY(!f.session->project().sounds.find(ids[0])->loop);
        QVERIFY(f.session->project().sounds.find(ids[1])->loop);
    }

    void backToTheStartHasAWayBack()
    {
        WindowFixture f(oneTone);
        const Pose start = f.playback->feet();
        const Pose far{{7, -3, 0}, 120, 0, 0};
        f.playback->placeFeet(far);
        QTest::keyClick(f.window.get(), Qt::Key_0);
        QCOMPARE(f.playback->feet(), start);
        QTest::keyClick(f.window.get(), Qt::Key_0);
        QCOMPARE(f.playback->feet(), far);
        QTest::keyClick(f.window.get(), Qt::Key_0);
        f.playback->placeFeet({{1, 1, 0}, 0, 0, 0});
        QTest::keyClick(f.window.get(), Qt::Key_0); // walked on meanwhile: to the start again
        QCOMPARE(f.playback->feet(), start);
    }

    void aProjectIsCalledLikeItsFolder()
    {
        WindowFixture f;
        QTemporaryDir folder;
        const fs::path path = fs::path(folder.path().toStdString()) / "Night yard";
        f.session->startNew();
        f.session->saveAs(path);
        QCOMPARE(f.session->project().name, std::string("Night yard"));
        QCOMPARE(readProjectFile(path / "Night yard.stone-echo").project.name, std::string("Night yard"));
        // One that has a name keeps it.
        f.session->saveAs(fs::path(folder.path().toStdString()) / "elsewhere");
        QCOMPARE(f.session->project().name, std::string("Night yard"));
    }

    void aFileIsFoldedToMonoAndSaved()
    {
        WindowFixture f(oneTone);
        fixture::writeTone(f.folder.filePath("wide.wav").toStdString(), 480.0, 3.0, 48'000, 2);
        const auto ids = f.session->addSounds({f.folder.filePath("wide.wav")});
        f.find<QTabBar>("listTabs")->setCurrentIndex(2);
        f.waitForLoading();
        f.find<RowList>("sounds")->setFocus();
        emit f.find<RowList>("sounds")->chosen({});
        f.session->selectNone();
        auto* list = f.find<RowList>("sounds");
        list->selectionModel()->setCurrentIndex(list->rows().index(list->rows().indexOfKey("wide")),
                                                QItemSelectionModel::ClearAndSelect);
        QTRY_VERIFY(f.find<QPushButton>("foldToMono")->isVisible());
        QTest::mouseClick(f.find<QPushButton>("foldToMono"), Qt::LeftButton);
        const Sound& sound = *f.session->project().sounds.find(ids[0]);
        QCOMPARE(sound.files[0].file, std::string("wide-mono.wav"));
        f.waitForLoading();
        QCOMPARE(f.session->soundEntry(sound).buffer->channelCount(), std::size_t{1});
        QVERIFY(fs::exists(f.folder.filePath("wide.wav").toStdString())); // the old one stays, and is back after an undo
        f.session->undo();
        QCOMPARE(f.session->project().sounds.find(ids[0])->files[0].file, std::string("wide.wav"));
    }

    void aSoundIsDraggedIntoAFolder()
    {
        WindowFixture f(R"({"sounds": [{"id": "a", "name": "A", "file": "tone.wav", "folder": "bells"},
                                       {"id": "b", "name": "B", "file": "tone.wav"}]})");
        f.find<QTabBar>("listTabs")->setCurrentIndex(2);
        auto* list = f.find<RowList>("sounds");
        const auto drop = [&](const char* key, const Row& onto) { emit list->dropped(key, onto); };
        drop("b", list->rows().row(list->rows().indexOfKey("a"))); // beside A
        QCOMPARE(f.session->project().sounds.find({"b"})->folder, std::string("bells"));
        Row out;
        out.heading = true;
        drop("a", out); // onto "in no folder"
        QVERIFY(f.session->project().sounds.find({"a"})->folder.empty());
        QVERIFY(f.session->undoName().contains("A: out of its folder"));
    }

    void aRoamersStopsAreTyped()
    {
        WindowFixture f(R"({"sounds": [{"id": "t", "file": "tone.wav"}],
            "levels": [{"id": "l", "emitters": [{"id": "cat", "name": "Cat", "kind": "roamer", "sound": "t",
                        "roamer": {"stops": [{"at": [0, 0, 0]}, {"at": [8, 0, 0]}]}}]}]})");
        f.session->selectOnly({"cat"});
        auto* stops = f.find<QTableWidget>("roamerStops");
        QCOMPARE(stops->rowCount(), 2);
        const auto type = [&](int row, int column, const QString& text) {
            stops->item(row, column)->setText(text);
            QCoreApplication::processEvents();
        };
        const auto stop = [&](std::size_t i) { return f.emitter("cat").roaming.stops[i]; };
        type(1, 0, "12,5");
        QCOMPARE(stop(1).at.x, 12.5);
        type(1, 3, "4");
        QCOMPARE(stop(1).leg_s, std::optional(4.0));
        type(1, 4, "0");
        QCOMPARE(stop(1).wait_s, std::optional(0.0));
        type(1, 4, "");
        QVERIFY(!stop(1).wait_s);
        type(1, 3, "-2"); // no time at all: it stays as it was
        QCOMPARE(stop(1).leg_s, std::optional(4.0));
        QCOMPARE(stops->item(1, 3)->text(), QString("4"));
        type(0, 1, "far");
        QCOMPARE(stop(0).at.y, 0.0);
    }

    /// Lanes over a game value for all of a family, and another falloff while it is high.
    void aFamilyFollowsAValue()
    {
        WindowFixture f(R"({"sounds": [{"id": "t", "file": "tone.wav"}], "game_values": [{"id": "rain", "name": "Rain"}],
            "falloffs": [{"id": "own", "name": "Own"}, {"id": "far", "name": "Far"}], "families": [{"id": "v", "name": "Voices"}],
            "levels": [{"id": "l", "emitters": [{"id": "e", "sound": "t", "falloff": "own", "family": "v"}]}]})");
        f.find<QTabBar>("listTabs")->setCurrentIndex(3);
        QTest::mouseClick(f.find<QPushButton>("familyFollowsOpen"), Qt::LeftButton);
        auto* dialog = f.window->findChild<FamilyFollows*>();
        QVERIFY(dialog != nullptr && dialog->isVisible());
        auto* strip = dialog->findChild<LaneStrip*>();
        QVERIFY(strip != nullptr);
        const auto family = [&] { return *f.session->project().families.find({"v"}); };
        auto* other = dialog->findChild<QComboBox*>("otherFalloff");
        other->setCurrentIndex(other->findText("Far"));
        emit other->activated(other->currentIndex());
        QCOMPARE(family().otherFalloff, FalloffId{"far"});
        QCOMPARE(family().otherWhen.value, GameValueId{"rain"});
        auto* number = dialog->findChild<NumberField*>("otherWhenNumber");
        number->findChild<QLineEdit*>()->setText("0.8");
        QTest::keyClick(number, Qt::Key_Return);
        QCOMPARE(family().otherWhen.number, 0.8);
        f.session->undo();
        f.session->undo();
        QVERIFY(family().otherFalloff.empty());
    }

    /// A material of one's own, made like another, with its own numbers: surfaces with its word are of it.
    void anOwnMaterialIsMadeBandByBand()
    {
        WindowFixture f(oneTone);
        MaterialDialog dialog(*f.session, f.window.get());
        dialog.show();
        dialog.add(materialLibrary().front());
        const auto own = [&] { return f.session->project().materials.at(0); };
        QVERIFY(own().id != materialLibrary().front().id && own().absorption == materialLibrary().front().absorption);
        const auto type = [&](const char* field, const QString& text) {
            auto* number = dialog.findChild<NumberField*>(field);
            number->findChild<QLineEdit*>()->setText(text);
            QTest::keyClick(number, Qt::Key_Return);
        };
        type("absorption3", "40");
        QVERIFY(std::abs(own().absorption[3] - 0.4) < 1e-12);
        auto* words = dialog.findChild<QLineEdit*>("materialWords");
        words->setFocus();
        words->clear();
        QTest::keyClicks(words, "Felt, wool");
        QTest::keyClick(words, Qt::Key_Return);
        QCOMPARE(own().words, (std::vector<std::string>{"felt", "wool"}));
        QCOMPARE(materialOf(f.session->project().materials, {}, "thick_felt_02").material->id, own().id);
        // By bands instead of by mass: it begins with what the mass gave.
        auto* byMass = dialog.findChild<QCheckBox*>("materialByMass");
        if (byMass->isChecked()) {
            byMass->click();
        }
        QVERIFY(own().loss_db);
        type("loss7", "50");
        QCOMPARE((*own().loss_db)[7], 50.0);
        QTest::mouseClick(dialog.findChild<QPushButton*>("deleteMaterial"), Qt::LeftButton);
        QVERIFY(f.session->project().materials.empty());
        f.session->undo();
        QCOMPARE((*own().loss_db)[7], 50.0);
    }

    void comingNearIsATrigger()
    {
        WindowFixture f(oneTone);
        f.session->selectOnly({"a"});
        auto* tabs = f.find<QTabBar>("benchTabs");
        tabs->setCurrentIndex(tabs->count() - 1);
        QMenu* menu = f.find<QPushButton>("addStart")->menu();
        emit menu->aboutToShow();
        for (QAction* action : menu->actions()) {
            if (action->text() == "On coming near") {
                action->trigger();
                break;
            }
        }
        QCOMPARE(f.emitter("a").starting.starts.back().cause, Cause::near);
        f.type("addStartListWithin1", "7.5");
        QCOMPARE(f.emitter("a").starting.starts.back().within_m, 7.5);
    }
};

} // namespace tst_small_needs

STONE_TEST(tst_small_needs, TestSmallNeeds)
#include "tst_small_needs.moc"
