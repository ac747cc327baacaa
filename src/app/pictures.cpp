// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/bench_panel.h"
#include "app/bench/falloff_editor.h"
#include "app/bench/ledger_view.h"
#include "app/eyes/eyes_view.h"
#include "app/game/game_desk.h"
#include "app/lanes/lane_stack.h"
#include "app/lists/row_list.h"
#include "app/section/section_view.h"
#include "app/session/take_desk.h"
#include "app/shell/findings_dialog.h"
#include "app/shell/main_window.h"
#include "app/shell/sheets.h"
#include "app/theme/theme.h"
#include "game/game_window.h"
#include "world/walk_pose.h"

#include <QApplication>
#include <QDialog>
#include <QElapsedTimer>
#include <QKeyEvent>
#include <QSettings>
#include <QTabBar>
#include <QTemporaryDir>

#include <filesystem>
#include <iostream>
#include <map>

/// stone-echo-pictures PROJECT FOLDER [NAME...]: shows the window with things happening in it and keeps a picture of
/// each view, for the README and for whoever has no display.
namespace
{

using namespace stone;

void wait(int ms)
{
    QElapsedTimer timer;
    timer.start();
    while (timer.elapsed() < ms) {
        QApplication::processEvents(QEventLoop::AllEvents, 20);
    }
}

void press(QWidget& widget, QEvent::Type what, int key)
{
    QKeyEvent event(what, key, Qt::NoModifier);
    QApplication::sendEvent(&widget, &event);
}

struct Stage {
    QString shown; ///< the project of the command line
    QTemporaryDir own;
    Session session{48'000};
    Playback playback{session, [](const QString&, int rate, unsigned) { return openClock(rate, 256); }};
    MainWindow window{session, playback};
    std::unique_ptr<QWidget> beside; ///< another program's window, at the left of it

    void open(const QString& project)
    {
        window.resize(1280, 800);
        window.show();
        window.openProject(project);
        while (session.loadingLevel() || session.bank().pending() > 0) {
            wait(20);
        }
        wait(400);
    }

    /// Listens at a time of the first walk.
    void listenAt(double time_s)
    {
        playback.setListening(true);
        window.banner().hide();
        wait(200);
        playback.seekWalk(time_s);
        playback.setWalking(true);
        wait(1800);
        playback.setWalking(false);
        wait(300);
    }
};

void waitForMap(ContoursPanel& panel)
{
    wait(300);
    while (panel.maker().making() || panel.maker().shown() == nullptr) {
        wait(50);
    }
    wait(300);
}

using Scene = std::function<void(Stage&)>;

std::map<QString, Scene> scenes()
{
    return {
        {"main-window",
         [](Stage& s) {
             s.session.selectOnly({"departure-board"});
             s.listenAt(12.0);
         }},
        {"game",
         [](Stage& s) {
             s.window.findChild<GameDesk*>()->begin(GameLink::usualPort, false);
             s.window.banner().hide();
             s.beside = std::make_unique<game::GameWindow>(s.session.document(), s.session.level(),
                                                           s.session.loadedLevel().ground, "127.0.0.1", GameLink::usualPort);
             s.beside->resize(620, 800);
             s.beside->show();
             wait(600);
             press(*s.beside, QEvent::KeyPress, Qt::Key_W);
             wait(2600);
             press(*s.beside, QEvent::KeyRelease, Qt::Key_W);
             s.beside->findChild<QPushButton*>("putThing")->click();
             wait(1500);
         }},
        {"first-sheet",
         [](Stage& s) {
             s.session.startNew();
             s.window.offerFirst();
             wait(200);
         }},
        {"level",
         [](Stage& s) {
             s.window.findChild<BenchPanel*>()->showLevel(true);
             s.window.findChild<QToolButton*>("showTool")->click();
             wait(300);
         }},
        {"lanes",
         [](Stage& s) {
             s.session.selectOnly({"goods-train"});
             s.listenAt(76.0);
             s.window.findChild<QTabBar*>("benchTabs")->setCurrentIndex(1);
             auto* stack = s.window.findChild<FalloffEditor*>("falloffEditor")->findChild<LaneStack*>();
             stack->enlarge(LaneProperty::lowPass);
             wait(200);
         }},
        {"sound",
         [](Stage& s) {
             s.listenAt(8.0);
             s.window.findChild<QTabBar*>("listTabs")->setCurrentIndex(2);
             auto* sounds = s.window.findChild<RowList*>("sounds");
             sounds->setCurrentKey("rain-on-roof");
             s.window.findChild<BenchPanel*>()->showSound({"rain-on-roof"});
             wait(500);
         }},
        {"loudest",
         [](Stage& s) {
             auto* panel = s.window.findChild<ContoursPanel*>();
             panel->setOn(true);
             for (int i = 0; i < static_cast<int>(MapShows::loudest); ++i) {
                 panel->showNext();
             }
             waitForMap(*panel);
         }},
        {"posts",
         [](Stage& s) {
             s.session.selectOnly({"departure-board"});
             s.session.editSelected("softer", {}, [](Emitter& e) { e.level_db = -16.0; });
             wait(1500);
             auto* dialog = new PostsDialog(s.session, s.playback, *s.window.findChild<PostDesk*>(), &s.window);
             dialog->move(s.window.mapToGlobal(QPoint(300, 270)));
             dialog->show();
             dialog->choose({"board-over-rain"});
             wait(500);
         }},
        {"zones",
         [](Stage& s) {
             s.listenAt(9.0);
             s.session.selectThing<Zone>({"ticket-office"});
             s.window.findChild<SectionView*>("section")->show();
             wait(100);
             for (int i = 0; i < 3; ++i) {
                 s.window.plan().zoomBy(1.25);
             }
             wait(300);
         }},
        {"side-on",
         [](Stage& s) {
             s.open(s.shown + "/../../examples/side-on");
             s.session.selectOnly({"boiler"});
             s.listenAt(10.2);
         }},
        {"crowd",
         [](Stage& s) {
             s.listenAt(14.0);
             s.session.editSound({"cups"}, "three at once", {}, [](Sound& sound) { sound.limit.atOnce = 3; });
             s.window.findChild<BenchPanel*>()->showSound({"cups"});
             s.window.findChild<QTabBar*>("soundTabs")->setCurrentIndex(3);
             Burst burst;
             burst.emitter = s.session.level().emitters[0]->id;
             for (const auto& emitter : s.session.level().emitters) {
                 burst.emitter = emitter->sound == SoundId{"cups"} ? emitter->id : burst.emitter;
             }
             burst.where = Burst::Where::around;
             burst.irregular = true;
             burst.every_s = 0.25;
             burst.count = 60;
             s.playback.burst(burst);
             wait(9000);
         }},
        {"wishes",
         [](Stage& s) {
             s.session.selectOnly({"departure-board"});
             s.window.showWishes();
             auto* dialog = s.window.findChild<SolveDialog*>();
             dialog->move(s.window.mapToGlobal(QPoint(8, 380)));
             const std::pair<Vec3, const char*> wishes[] = {{{22.0, 11.0, 0.0}, "-8"}, {{10.0, 6.0, 0.0}, "-26"}};
             for (int i = 0; i < 2; ++i) {
                 s.playback.placeFeet({wishes[i].first, 0, 0, 0});
                 s.window.findChild<QPushButton*>("solveWishLevel")->click();
                 s.window.findChild<CellTable*>("wishes")->item(i, 3)->setText(wishes[i].second);
             }
             s.window.findChild<QCheckBox*>("solveTry")->setChecked(true);
             auto* panel = s.window.findChild<ContoursPanel*>();
             panel->setOn(true);
             s.window.findChild<QComboBox*>("contoursOf")->setCurrentIndex(1);
             emit s.window.findChild<QComboBox*>("contoursOf")->activated(1);
             s.window.findChild<QToolButton*>("contoursFold")->setChecked(true);
             waitForMap(*panel);
         }},
        {"contours",
         [](Stage& s) {
             s.session.selectOnly({"departure-board"});
             s.listenAt(12.0);
             auto* panel = s.window.findChild<ContoursPanel*>();
             panel->setOn(true);
             s.window.findChild<QComboBox*>("contoursOf")->setCurrentIndex(1);
             emit s.window.findChild<QComboBox*>("contoursOf")->activated(1);
             waitForMap(*panel);
         }},
        {"walk-through",
         [](Stage& s) {
             s.window.findChild<Sheets*>()->show(Sheets::Shown::both);
             s.session.selectOnly({"departure-board"});
             s.listenAt(10.0);
         }},
        {"walls",
         [](Stage& s) {
             s.open(s.shown + "/../../examples/walls");
             s.session.selectOnly({"bell"});
             s.listenAt(6.0);
             emit s.window.findChild<LedgerView*>("ledger")->wallsClicked();
             wait(300);
         }},
        {"plant",
         [](Stage& s) {
             s.open(s.shown + "/../../examples/plant");
             s.listenAt(3.0);
             s.session.selectThing<Plant>(s.session.level().plants[0]->id);
             wait(400);
         }},
        {"rooms",
         [](Stage& s) {
             s.listenAt(12.0);
             s.session.selectThing<Room>({"concourse"});
             wait(1500);
         }},
        {"takes",
         [](Stage& s) {
             // Takes are kept beside their project: this one is beside a copy.
             const std::filesystem::path copy = s.own.path().toStdString();
             std::filesystem::copy(s.shown.toStdString(), copy, std::filesystem::copy_options::recursive);
             s.open(s.own.path());
             s.window.findChild<QAction*>("showStrata")->setChecked(true);
             for (const double level_db : {0.0, -9.0}) {
                 s.session.selectOnly({"departure-board"});
                 s.session.editSelected("softer", {}, [&](Emitter& e) { e.level_db = level_db; });
                 s.playback.takes().setRecording(true);
                 s.listenAt(6.0);
                 s.playback.setWalking(true);
                 wait(12'000);
                 s.playback.takes().setRecording(false);
             }
             s.playback.takes().compareWith(s.playback.takes().shelf().back().path);
             s.playback.takes().setCursor(8.0);
             wait(1500);
         }},
        {"pulse",
         [](Stage& s) {
             s.window.findChild<QAction*>("show/edges")->setChecked(true);
             s.session.selectOnly({"edges"});
             s.playback.setListening(true);
             s.window.banner().hide();
             // On platform 1, coming to its edge.
             s.playback.placeFeet({{26, 27, 0}, 20, 0, 0});
             wait(500);
             s.playback.send({"feel-the-edge"});
             s.window.plan().zoomBy(2.4);
             wait(2500);
         }},
    };
}

} // namespace

int main(int argc, char** argv)
{
    QApplication app(argc, argv);
    QApplication::setApplicationName("Stone Echo");
    QTemporaryDir settings;
    QSettings::setDefaultFormat(QSettings::IniFormat);
    QSettings::setPath(QSettings::IniFormat, QSettings::UserScope, settings.path());
    theme::apply(app);
    const QStringList arguments = QApplication::arguments();
    if (arguments.size() < 3) {
        std::cerr << "usage: stone-echo-pictures PROJECT FOLDER [NAME...]\n";
        return 2;
    }
    for (const auto& [name, scene] : scenes()) {
        if (arguments.size() > 3 && !arguments.mid(3).contains(name)) {
            continue;
        }
        Stage stage;
        stage.shown = arguments[1];
        stage.open(stage.shown);
        scene(stage);
        wait(100);
        // A menu is a window of its own: it is laid over the picture where it stands.
        QPixmap picture = stage.window.grab();
        // What the graphics card draws is not in it yet, nor what lies over that.
        if (auto* eyes = stage.window.findChild<EyesView*>(); eyes != nullptr && eyes->isVisible()) {
            QPainter painter(&picture);
            painter.drawImage(eyes->mapTo(&stage.window, QPoint()), eyes->grabFramebuffer());
            for (auto* over : eyes->findChildren<QWidget*>(Qt::FindDirectChildrenOnly)) {
                over->render(&painter, over->mapTo(&stage.window, QPoint()), {}, QWidget::DrawChildren);
            }
        }
        for (QDialog* dialog : stage.window.findChildren<QDialog*>()) {
            if (dialog->isVisible()) {
                QPainter painter(&picture);
                const QPoint at = stage.window.mapFromGlobal(dialog->pos());
                painter.drawPixmap(at, dialog->grab());
                painter.setPen(theme::ink);
                painter.drawRect(QRect(at, dialog->size()));
            }
        }
        if (stage.beside) {
            QPixmap both(stage.beside->width() + picture.width(), picture.height());
            both.fill(theme::ink);
            QPainter painter(&both);
            painter.drawPixmap(0, 0, stage.beside->grab());
            painter.drawPixmap(stage.beside->width(), 0, picture);
            picture = both;
        }
        if (QWidget* popup = QApplication::activePopupWidget()) {
            QPainter(&picture).drawPixmap(stage.window.mapFromGlobal(popup->pos()), popup->grab());
        }
        if (!picture.save(arguments[2] + "/" + name + ".png")) {
            std::cerr << arguments[2].toStdString() << ": pictures cannot be written there; choose another folder\n";
            return 1;
        }
    }
    return 0;
}
