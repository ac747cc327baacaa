// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/banner.h"
#include "app/window_fixture.h"

#include "project/read.h"
#include "support/one_of_many.h"

#include <QComboBox>
#include <QMessageBox>
#include <QPushButton>
#include <QTimer>

#include <filesystem>
#include <fstream>
#include <iterator>

namespace tst_recovery
{

using namespace stone;

/// A program that is killed, and a document that somebody else changes: nothing that was done is lost.
class TestRecovery : public QObject
{
    Q_OBJECT

    static void move(WindowFixture& f, double x)
    {
        f.session->edit(withEmitter(f.session->project(), f.session->levelId(), {"a"}, [x](Emitter& e) { e.at.x = x; }),
                        QString("Move Lamp to %1").arg(x));
    }

    /// Clicks a button of the dialog of a name as soon as it is there, and says what it said.
    /// `choices`: what is chosen before, by the box.
    static QString* answer(const QString& dialog, const QString& button, const QMap<QString, QString>& choices = {})
    {
        auto* said = new QString;
        auto* timer = new QTimer(qApp);
        QObject::connect(timer, &QTimer::timeout, timer, [=] {
            auto* box = qobject_cast<QDialog*>(QApplication::activeModalWidget());
            if (box == nullptr || box->objectName() != dialog) {
                return;
            }
            timer->deleteLater();
            for (const QLabel* label : box->findChildren<QLabel*>()) {
                *said += label->text() + '\n';
            }
            for (auto choice = choices.begin(); choice != choices.end(); ++choice) {
                auto* found = box->findChild<QComboBox*>(choice.key());
                QVERIFY(found != nullptr);
                found->setFocus();
                QTest::keyClicks(found, choice.value());
                QVERIFY2(found->currentText().startsWith(choice.value()), qPrintable(found->currentText()));
                emit found->activated(found->currentIndex());
            }
            if (auto* found = box->findChild<QPushButton*>(button)) {
                QTest::mouseClick(found, Qt::LeftButton);
            } else {
                box->reject();
            }
        });
        timer->start(10);
        return said;
    }

    /// What a kill at this moment would leave: the files as they are, and nobody who holds them.
    static void killNow(WindowFixture& f, const QTemporaryDir& left)
    {
        f.session->flushJournal();
        std::filesystem::copy(f.state.path().toStdString(), left.path().toStdString(),
                              std::filesystem::copy_options::recursive);
    }

private slots:
    void anEditIsOnTheDiskWithinASecond()
    {
        WindowFixture f(oneTone);
        move(f, 3.0);
        const auto there = [&] {
            for (const auto& entry : std::filesystem::recursive_directory_iterator(f.state.path().toStdString())) {
                if (entry.path().filename() == "unsaved") {
                    std::ifstream in(entry.path());
                    std::string about;
                    std::getline(in, about);
                    const std::string text(std::istreambuf_iterator<char>(in), {});
                    return readProjectText(text, "unsaved").project == f.session->project();
                }
            }
            return false;
        };
        QTRY_VERIFY_WITH_TIMEOUT(there(), 1'000);
        QTest::keyClick(&f.plan(), Qt::Key_S, Qt::ControlModifier);
        f.session->flushJournal();
        QVERIFY(!there());
        // The project's own folder has nothing of it.
        QCOMPARE(QDir(f.folder.path()).entryList(QDir::Files | QDir::Hidden).filter("project"), QStringList{"project.json"});
    }

    void whatWasNotSavedIsOfferedAndComesBack()
    {
        QTemporaryDir left;
        QTemporaryDir project;
        {
            WindowFixture f(oneTone);
            move(f, 3.0);
            killNow(f, left);
            std::filesystem::copy(f.folder.path().toStdString(), project.path().toStdString(),
                                  std::filesystem::copy_options::recursive);
        }
        // The journal names the document where it lay; that folder is gone with its window, so this is a project without one.
        WindowFixture f;
        std::filesystem::copy(left.path().toStdString(), f.state.path().toStdString(),
                              std::filesystem::copy_options::recursive);
        const std::unique_ptr<QString> said(answer("leftBehind", "bringBack"));
        f.window->offerLeftBehind();
        QVERIFY2(said->contains("Test yard had changes that were not saved"), qPrintable(*said));
        QVERIFY2(said->contains("Move Lamp to 3"), qPrintable(*said));
        QCOMPARE(f.emitter("a").at.x, 3.0);
        QVERIFY(f.session->changed());
        QVERIFY(f.session->leftBehind().empty()); // it is this window's now
        f.session->undo();
        QVERIFY(f.level().emitters.empty());
    }

    void whatNobodyWantsIsThrownAway()
    {
        QTemporaryDir left;
        {
            WindowFixture f(oneTone);
            move(f, 3.0);
            killNow(f, left);
        }
        WindowFixture f;
        std::filesystem::copy(left.path().toStdString(), f.state.path().toStdString(),
                              std::filesystem::copy_options::recursive);
        QCOMPARE(f.session->leftBehind().size(), std::size_t{1});
        const std::unique_ptr<QString> said(answer("leftBehind", "throwAway"));
        f.window->offerLeftBehind();
        QVERIFY(f.session->leftBehind().empty());
        QVERIFY(!f.session->changed());
        f.window->offerLeftBehind(); // nothing is asked when there is nothing
    }

    void whatSomebodyElseWroteIsNoticed_data()
    {
        QTest::addColumn<bool>("clash");
        QTest::addColumn<QString>("button");
        QTest::addColumn<double>("lamp");
        QTest::addColumn<QString>("subtitle");
        QTest::newRow("both together") << false << "saveBoth" << 3.0 << "theirs";
        QTest::newRow("written over") << false << "writeOver" << 3.0 << "";
        QTest::newRow("not saved") << false << "none" << 0.0 << "theirs";
        QTest::newRow("a clash, mine") << true << "saveBoth" << 3.0 << "theirs";
        QTest::newRow("a clash, theirs") << true << "saveBoth theirs" << -7.0 << "theirs";
    }

    void whatSomebodyElseWroteIsNoticed()
    {
        QFETCH(bool, clash);
        QFETCH(QString, button);
        QFETCH(double, lamp);
        QFETCH(QString, subtitle);
        WindowFixture f(oneTone);
        Project theirs = readProjectFile(f.path()).project;
        theirs.subtitle = "theirs";
        if (clash) {
            theirs = withEmitter(theirs, {"yard"}, {"a"}, [](Emitter& e) { e.at.x = -7.0; });
        }
        move(f, 3.0);
        writeProjectFile(theirs, f.path());
        const bool takesTheirs = button.endsWith("theirs");
        const std::unique_ptr<QString> said(
            answer("changedOnDisk", button.section(' ', 0, 0),
                   takesTheirs ? QMap<QString, QString>{{"clash0", "theirs"}} : QMap<QString, QString>{}));
        QTest::keyClick(&f.plan(), Qt::Key_S, Qt::ControlModifier);
        QVERIFY2(said->contains("was changed on the disk by something else"), qPrintable(*said));
        QVERIFY2(said->contains("subtitle"), qPrintable(*said));
        QCOMPARE(said->contains("Emitter \"Lamp\"\n") && said->contains("Changed in both"), clash);
        const Project saved = readProjectFile(f.path()).project;
        QCOMPARE(saved.levels[0]->emitters.find({"a"})->at.x, lamp);
        QCOMPARE(QString::fromStdString(saved.subtitle), subtitle);
        QCOMPARE(f.session->changed(), button == "none");
        if (button != "none") {
            // Known now: the next save asks nothing.
            move(f, 4.0);
            f.menu("Save");
            QVERIFY(!f.session->changed());
        }
    }

    /// Two clashes, one chosen each way; and what one took out says so.
    void eachClashIsChosen()
    {
        WindowFixture f(oneTone);
        f.session->edit(withEmitter(f.session->project(), f.session->levelId(), {"a"}, [](Emitter& e) { e.at.x = 3.0; }),
                        "Move");
        Project theirs = readProjectFile(f.path()).project;
        theirs.subtitle = "theirs";
        theirs = withLevel(theirs, {"yard"}, [](Level& level) { level.emitters.remove({"a"}); });
        Project mine = f.session->project();
        mine.subtitle = "mine";
        f.session->edit(mine, "Subtitle");
        writeProjectFile(theirs, f.path());
        const std::unique_ptr<QString> said(
            answer("changedOnDisk", "saveBoth", {{"allClashes", "theirs"}, {"clash1", "mine"}}));
        QTest::keyClick(&f.plan(), Qt::Key_S, Qt::ControlModifier);
        QVERIFY2(said->contains("all of them"), qPrintable(*said));
        const Project saved = readProjectFile(f.path()).project;
        // One is theirs and one mine, in whichever order they were told.
        const bool lampStays = saved.levels[0]->emitters.find({"a"}) != nullptr;
        QCOMPARE(QString::fromStdString(saved.subtitle), QString(lampStays ? "theirs" : "mine"));
    }

    void earlierSavesComeBack()
    {
        WindowFixture f(oneTone);
        for (const double x : {1.0, 2.0, 3.0}) {
            move(f, x);
            QTest::keyClick(&f.plan(), Qt::Key_S, Qt::ControlModifier);
            QTest::qWait(5);
        }
        const auto saves = f.session->earlierSaves();
        QCOMPARE(saves.size(), std::size_t{3});
        f.session->takeEarlierSave(saves[2], "once");
        QCOMPARE(f.emitter("a").at.x, 1.0);
        QCOMPARE(f.session->undoName(), QString("Back to the save of once"));
        f.session->undo();
        QCOMPARE(f.emitter("a").at.x, 3.0);
        QVERIFY(!f.session->changed());
    }

    void whereNothingCanBeKeptForAfterACrashItIsSaid()
    {
        WindowFixture f(oneTone);
        auto* banner = f.window->findChild<Banner*>();
        const std::filesystem::path state = f.state.path().toStdString();
        std::filesystem::remove_all(state);
        fixture::writeText(state, "a file where a folder should be");
        move(f, 3.0);
        QTRY_VERIFY(banner->isVisible());
        QVERIFY2(banner->message().contains("cannot be kept for the case of a crash") &&
                     banner->message().contains("save often"),
                 qPrintable(banner->message()));
        // The work goes on, and saving does not need it.
        move(f, 4.0);
        QTest::keyClick(&f.plan(), Qt::Key_S, Qt::ControlModifier);
        QVERIFY(!f.session->changed());
        move(f, 5.0);
        std::filesystem::remove(state);
        QTRY_VERIFY(!banner->isVisible());
        f.session->flushJournal();
        QVERIFY(std::filesystem::exists(state / "open"));
    }

    void whatTheBannerSaysOfSomethingElseStays()
    {
        WindowFixture f(oneTone);
        auto* banner = f.window->findChild<Banner*>();
        const std::filesystem::path state = f.state.path().toStdString();
        std::filesystem::remove_all(state);
        fixture::writeText(state, "a file where a folder should be");
        move(f, 3.0);
        QTRY_VERIFY(banner->isVisible());
        QVERIFY(!f.window->openProject(f.folder.filePath("nowhere.json")));
        const QString other = banner->message();
        QVERIFY2(other.contains("nowhere.json"), qPrintable(other));
        std::filesystem::remove(state);
        QTest::qWait(2'500);
        QVERIFY(banner->isVisible());
        QCOMPARE(banner->message(), other);
    }

    void aTroubleWithSavingGoesWhenItIsOver()
    {
        WindowFixture f(oneTone);
        auto* banner = f.window->findChild<Banner*>();
        move(f, 3.0);
        const std::filesystem::path here = f.folder.path().toStdString();
        std::filesystem::rename(here, here.string() + "-gone");
        QTest::keyClick(&f.plan(), Qt::Key_S, Qt::ControlModifier);
        QVERIFY(banner->isVisible() && banner->message().contains("the project's folder is gone"));
        QVERIFY(f.session->changed());
        std::filesystem::rename(here.string() + "-gone", here);
        QTest::keyClick(&f.plan(), Qt::Key_S, Qt::ControlModifier);
        QVERIFY(!banner->isVisible());
        QVERIFY(!f.session->changed());
    }
};

} // namespace tst_recovery

STONE_TEST(tst_recovery, TestRecovery)
#include "tst_recovery.moc"
