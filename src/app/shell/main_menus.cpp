// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/game/game_dialog.h"
#include "app/shell/main_window.h"

#include "app/bench/bench_panel.h"
#include "app/ears/rig_compare.h"
#include "app/plan/plan_view.h"
#include "app/rooms/decay_view.h"
#include "app/session/clipboard.h"
#include "app/shell/changes_dialog.h"
#include "app/shell/names_dialog.h"

#include <QApplication>
#include <QCoreApplication>
#include <QDir>
#include <QInputDialog>
#include <QMenuBar>
#include <QSettings>
#include <QTime>

/// The menus of the main window: every tool on a key.
namespace stone
{

QString MainWindow::shared(const QString& path)
{
    const QDir program(QCoreApplication::applicationDirPath());
    const QDir installed(program.filePath("../share/stone-echo"));
    return (installed.exists() ? installed : QDir(program.filePath("../../.."))).filePath(path);
}

void MainWindow::makeFileMenu()
{
    QMenu* menu = menuBar()->addMenu(tr("&File"));
    add(menu, tr("&New"), QKeySequence::New, [this] {
        if (mayLeave()) {
            session_.startNew();
            offerFirst();
        }
    });
    add(menu, tr("&Open…"), QKeySequence::Open, [this] { openByDialog(); });
    recent_ = menu->addMenu(tr("Open &recent"));
    saves_ = menu->addMenu(tr("Earlier sa&ves"));
    saves_->setEnabled(false);
    QMenu* examples = menu->addMenu(tr("&Examples"));
    examples->setObjectName("examples");
    const auto offer = [&](const QString& name, const QString& folder) {
        if (QFile::exists(folder + "/project.json")) {
            add(examples, name, {}, [this, folder] {
                if (mayLeave()) {
                    openProject(folder + "/project.json");
                }
            });
        }
    };
    offer(tr("Vellmoor Halt, the demo"), shared("demo/vellmoor-halt"));
    examples->addSeparator();
    const QDir small(shared("examples"));
    for (const QString& name : small.entryList(QDir::Dirs | QDir::NoDotAndDotDot, QDir::Name)) {
        offer(name.left(1).toUpper() + name.mid(1), small.filePath(name));
    }
    menu->addSeparator();
    save_ = add(menu, tr("&Save"), QKeySequence::Save, [this] { save(); });
    add(menu, tr("Save &as…"), QKeySequence("Ctrl+Shift+S"), [this] { saveAs(); });
    menu->addSeparator();
    add(menu, tr("Bring in a &level…"), QKeySequence("Ctrl+Shift+L"), [this] { bringInLevel({}); });
    add(menu, tr("Add sou&nds…"), QKeySequence("Ctrl+I"), [this] { addSoundsByDialog(); });
    add(menu, tr("&Findings…"), QKeySequence("Ctrl+F"), [this] { showFindings(); });
    add(menu, tr("&Posts: what is expected…"), QKeySequence("Ctrl+P"), [this] { showPosts(); });
    add(menu, tr("Sol&ve for me: how it is to be heard…"), QKeySequence("Ctrl+Shift+P"), [this] { showWishes(); });
    add(menu, tr("&Even out the family at its posts"), {}, [this] { evenOutFamily(); });
    add(menu, tr("E&xport…"), QKeySequence("Ctrl+Shift+E"), [this] { exportAll(); });
    add(menu, tr("Send as &one file…"), {}, [this] { sendAsOne(); });
    add(menu, tr("&Take tables in…"), {}, [this] { takeTables(); });
    add(menu, tr("For&get measures of sounds"), {}, [this] { forgetMeasures(); });
    menu->addSeparator();
    add(menu, tr("&Quit"), QKeySequence::Quit, [this] { close(); });
}

void MainWindow::makeEditMenu()
{
    QMenu* menu = menuBar()->addMenu(tr("&Edit"));
    undo_ = add(menu, tr("&Undo"), QKeySequence::Undo, [this] { session_.undo(); });
    redo_ = add(menu, tr("&Redo"), QKeySequence("Ctrl+Shift+Z"), [this] { session_.redo(); });
    menu->addSeparator();
    onSelection_ << add(menu, tr("Cu&t"), QKeySequence::Cut, [this] {
        if (copySelected(session_)) {
            session_.deleteSelected();
        }
    });
    onSelection_ << add(menu, tr("&Copy"), QKeySequence::Copy, [this] { copySelected(session_); });
    add(menu, tr("&Paste at the pointer"), QKeySequence::Paste, [this] { pasteHere(true); });
    add(menu, tr("Paste where it &was"), QKeySequence("Ctrl+Shift+V"), [this] { pasteHere(false); });
    onSelection_ << add(menu, tr("&Duplicate"), QKeySequence("Ctrl+D"), [this] { session_.duplicateSelected(); });
    onSelection_ << add(menu, tr("D&elete"), QKeySequence::Delete, [this] { session_.deleteSelected(); });
    add(menu, tr("Select &all"), QKeySequence("Ctrl+Shift+A"), [this] {
        std::set<EmitterId> all;
        for (const auto& emitter : session_.level().emitters) {
            all.insert(emitter->id);
        }
        session_.select(all, all.empty() ? EmitterId{} : *all.begin());
    });
    add(menu, tr("Select &nothing"), QKeySequence(Qt::Key_Escape), [this] {
        // A list that hangs open has the key first.
        if (QWidget* open = QApplication::activePopupWidget()) {
            open->close();
            return;
        }
        if (plan_->tool() != PlanView::Tool::select) {
            plan_->setTool(PlanView::Tool::select);
        } else {
            session_.selectNone();
        }
        plan_->setFocus();
    });
    menu->addSeparator();
    add(menu, tr("What c&hanged…"), QKeySequence("Ctrl+Shift+D"), [this] {
        auto* dialog = new ChangesDialog(session_, this);
        dialog->setAttribute(Qt::WA_DeleteOnClose);
        dialog->show();
    });
    add(menu, tr("&Keep this state to compare with…"), QKeySequence("Ctrl+F11"), [this] { keepState(); });
    QAction* before = add(menu, tr("&Before and after"), QKeySequence("F11"),
                          [this] { session_.lookAt(session_.seen() ? std::nullopt : std::optional(session_.before())); });
    before->setCheckable(true);
    connect(&session_, &Session::documentChanged, before, [this, before] { before->setChecked(session_.seen().has_value()); });
    add(menu, tr("Na&mes: who uses what…"), QKeySequence("Ctrl+Shift+N"), [this] {
        auto* dialog = new NamesDialog(session_, this);
        dialog->setAttribute(Qt::WA_DeleteOnClose);
        dialog->show();
    });
    QMenu* nudges = menu->addMenu(tr("&Nudge"));
    const struct {
        QString text;
        const char* arrow;
        double right;
        double up;
    } ways[] = {{tr("Left"), "Left", -1, 0}, {tr("Right"), "Right", 1, 0}, {tr("Up"), "Up", 0, 1}, {tr("Down"), "Down", 0, -1}};
    for (const auto& way : ways) {
        onSelection_ << add(nudges, way.text + tr(" 10 cm"), QKeySequence(QString("Alt+") + way.arrow), [this, way] {
            nudge({0.1 * way.right, 0.1 * way.up});
        });
        onSelection_ << add(nudges, way.text + tr(" 1 m"), QKeySequence(QString("Alt+Shift+") + way.arrow), [this, way] {
            nudge({way.right, way.up});
        });
    }
}

/// What one goes back to with a key, under a name of one's own.
void MainWindow::keepState()
{
    bool given = false;
    const QString name =
        QInputDialog::getText(this, tr("Keep this state"), tr("F11 will show and play it again. Its name:"), QLineEdit::Normal,
                              tr("as it was at %1").arg(QTime::currentTime().toString("hh:mm")), &given);
    if (given && !name.trimmed().isEmpty()) {
        session_.keepState(name.trimmed());
        banner_->say(tr("Kept: %1. F11 goes back to it and forth.").arg(name.trimmed()));
    }
}

void MainWindow::clap(Clap what)
{
    if (!playback_.listening()) {
        banner_->say(tr("Nobody would hear it: start listening first (Space)."));
        return;
    }
    playback_.live().clap(what);
}

void MainWindow::showDecay()
{
    auto* dialog = new DecayView(session_, playback_, this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->show();
}

void MainWindow::showPad()
{
    if (pad_ == nullptr) {
        pad_ = new Pad(session_, playback_, this);
    }
    pad_->show();
    pad_->raise();
}

void MainWindow::showGame()
{
    if (gameDialog_ == nullptr) {
        gameDialog_ = new GameDialog(*game_, this);
    }
    gameDialog_->show();
    gameDialog_->raise();
}

void MainWindow::makeWalkMenu()
{
    QMenu* menu = menuBar()->addMenu(tr("&Walk"));
    add(menu, tr("&Listen or stop"), QKeySequence(Qt::Key_Space), [this] { listenOrStop(); });
    add(menu, tr("&Follow or pause the walk"), QKeySequence("P"), [this] { playback_.setWalking(!playback_.walking()); });
    QAction* record = add(menu, tr("Record a walk, or end it"), QKeySequence("Shift+P"),
                          [this] { playback_.setRecording(!playback_.recording()); });
    record->setCheckable(true);
    connect(&playback_, &Playback::walkChanged, record, [this, record] { record->setChecked(playback_.recording()); });
    add(menu, tr("Listen along to a ga&me…"), QKeySequence("Ctrl+G"), [this] { showGame(); });
    add(menu, tr("All sounds from the &beginning"), QKeySequence("R"), [this] { playback_.restart(); });
    onSelection_ << add(menu, tr("Start what is selected by &hand"), QKeySequence("Ctrl+Space"),
                        [this] { playback_.startByHand(session_.inHand()); });
    onSelection_ << add(menu, tr("Stop what is selected by ha&nd"), QKeySequence("Ctrl+Shift+Space"),
                        [this] { playback_.stopByHand(session_.inHand()); });
    add(menu, tr("Play the sound chosen in the l&ist, or end that"), QKeySequence("Shift+Space"),
        [this] { lists_->audition(); });
    add(menu, tr("Back to the &start, and from there where you were"), QKeySequence("0"), [this] { playback_.reset(); });
    menu->addSeparator();
    QAction* pause = add(menu, tr("Pa&use time"), QKeySequence("K"), [this] { playback_.setPaused(!playback_.paused()); });
    pause->setCheckable(true);
    add(menu, tr("A tenth of a second &on"), QKeySequence("J"), [this] { playback_.stepTime(0.1); });
    connect(&playback_, &Playback::ticked, pause, [this, pause] {
        pause->setEnabled(playback_.listening());
        pause->setChecked(playback_.paused());
    });
    add(menu, tr("Si&gnals and game values…"), QKeySequence("Ctrl+E"), [this] { showPad(); });
    add(menu, tr("Use what is near"), QKeySequence("I"), [this] { playback_.interact(); });
    add(menu, tr("&Jump"), QKeySequence("U"), [this] { playback_.jump(); });
    menu->addSeparator();
    add(menu, tr("&Clap your hands at your ears"), QKeySequence("F2"), [this] { clap(Clap::hands); });
    add(menu, tr("Bu&rst a balloon there"), QKeySequence("Shift+F2"), [this] { clap(Clap::balloon); });
    add(menu, tr("What this place ans&wers…"), QKeySequence("F12"), [this] { showDecay(); });
    menu->addSeparator();
    const auto flight = [&](const QString& text, const char* key, Flight what) {
        QAction* action = add(menu, text, QKeySequence(key), [this, what] { fly(what); });
        action->setCheckable(true);
        connect(&playback_, &Playback::flightChanged, action,
                [this, action, what] { action->setChecked(playback_.flight() == what); });
    };
    flight(tr("Let the ears &fly"), "F4", Flight::ears);
    flight(tr("Look round while the ears sta&y"), "F5", Flight::eyes);
    add(menu, tr("Blin&d walk, or show where it went"), QKeySequence("F8"), [this] {
        BlindWalk& walk = sheets_->blindWalk();
        walk.on() ? walk.end() : walk.begin();
    });
    add(menu, tr("Run to the &goal of the walk"), QKeySequence("Alt+F8"), [this] { runToGoal(false); });
    add(menu, tr("The same, blin&dly"), QKeySequence("Shift+F8"), [this] { runToGoal(true); });
    QAction* keep = add(menu, tr("&Keep runs as takes"), {}, [] {});
    keep->setObjectName("keepRuns");
    keep->setCheckable(true);
    keep->setChecked(QSettings().value("keepRuns", false).toBool());
    connect(keep, &QAction::toggled, this, [](bool on) { QSettings().setValue("keepRuns", on); });
    add(menu, tr("Listen through the next &rig"), QKeySequence("O"), [this] { rig_->next(); });
    add(menu, tr("Set up the &gaze…"), {}, [this] { bench_->showGaze(true); });
    add(menu, tr("Set up the &ears…"), {}, [this] { bench_->showRig(true); });
    add(menu, tr("Compare two rigs…"), {}, [this] { compareRigs(); });
    add(menu, tr("Tr&y the output…"), {}, [this] { tryOutput(); });
    add(menu, tr("S&eed of chance…"), {}, [this] { askForSeed(); });
    menu->addSeparator();
    QAction* collide = add(menu, tr("&Walls stop the walker"), QKeySequence("C"), [this] {
        const bool on = !session_.level().character.collides;
        session_.edit(withLevel(session_.project(), session_.levelId(), [on](Level& l) { l.character.collides = on; }),
                      on ? tr("Walls stop the walker") : tr("Walk through walls"));
    });
    collide->setCheckable(true);
    QAction* quarters = add(menu, tr("Turn by &quarters"), {}, [] {});
    quarters->setObjectName("quarterTurns");
    quarters->setCheckable(true);
    connect(quarters, &QAction::toggled, this, [this](bool on) {
        playback_.setQuarterTurns(on);
        QSettings().setValue("quarterTurns", on);
    });
    quarters->setChecked(QSettings().value("quarterTurns", false).toBool());
    const auto refresh = [this, collide] { collide->setChecked(session_.level().character.collides); };
    connect(&session_, &Session::documentChanged, this, refresh);
    refresh();
    add(menu, tr("S&ave this place"), QKeySequence("Ctrl+B"), [this] {
        const Pose feet = playback_.feet();
        session_.edit(
            withLevel(session_.project(), session_.levelId(),
                      [&](Level& l) {
                          l.places.push_back({"Place " + std::to_string(l.places.size() + 1), feet.at, feet.heading_deg, {}});
                      }),
            tr("Save a place"));
    });
    places_ = menu->addMenu(tr("&Places"));
}

void MainWindow::compareRigs()
{
    auto* dialog = new RigCompare(session_, playback_, this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->show();
}

void MainWindow::askForSeed()
{
    QInputDialog dialog(this);
    dialog.setObjectName("seed");
    dialog.setWindowTitle(tr("Seed of chance"));
    dialog.setLabelText(
        tr("Everything that is left to chance follows from this number.\nThe same seed gives the same night again."));
    dialog.setTextValue(QString::number(session_.project().seed));
    if (dialog.exec() != QDialog::Accepted) {
        return;
    }
    bool isNumber = false;
    const qulonglong seed = dialog.textValue().trimmed().toULongLong(&isNumber);
    if (!isNumber) {
        banner_->say(tr("The seed stays as it was: \"%1\" is not a whole number from 0 up.").arg(dialog.textValue()));
        return;
    }
    Project next = session_.project();
    next.seed = seed;
    session_.edit(std::move(next), tr("Seed %1").arg(seed));
}

void MainWindow::makeLevelMenu()
{
    levels_ = menuBar()->addMenu(tr("&Level"));
}

} // namespace stone
