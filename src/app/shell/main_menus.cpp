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
    add(menu, tr("Na&mes: who uses what…"), QKeySequence("Ctrl+Shift+N"), [this] {
        auto* dialog = new NamesDialog(session_, this);
        dialog->setAttribute(Qt::WA_DeleteOnClose);
        dialog->show();
    });
    QMenu* nudges = menu->addMenu(tr("&Nudge"));
    const struct {
        QString text;
        const char* arrow;
        double east;
        double north;
    } ways[] = {
        {tr("West"), "Left", -1, 0}, {tr("East"), "Right", 1, 0}, {tr("North"), "Up", 0, 1}, {tr("South"), "Down", 0, -1}};
    for (const auto& way : ways) {
        onSelection_ << add(nudges, way.text + tr(" 10 cm"), QKeySequence(QString("Alt+") + way.arrow),
                            [this, way] { nudge(0.1 * way.east, 0.1 * way.north); });
        onSelection_ << add(nudges, way.text + tr(" 1 m"), QKeySequence(QString("Alt+Shift+") + way.arrow),
                            [this, way] { nudge(way.east, way.north); });
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

void MainWindow::makeViewMenu()
{
    QMenu* menu = menuBar()->addMenu(tr("&View"));
    add(menu, tr("&Select tool"), QKeySequence("V"), [this] { plan_->setTool(PlanView::Tool::select); });
    add(menu, tr("&Place emitter"), QKeySequence("N"), [this] { startPlacing(); });
    add(menu, tr("&Draw outline, line or stops"), QKeySequence("L"), [this] {
        plan_->setTool(PlanView::Tool::draw);
        plan_->setFocus();
    });
    menu->addSeparator();
    add(menu, tr("Show &all"), QKeySequence("F"), [this] { plan_->fitAll(); });
    add(menu, tr("Show what is se&lected"), QKeySequence("Shift+F"), [this] { plan_->fitSelection(); });
    add(menu, tr("Zoom &in"), QKeySequence::ZoomIn, [this] { plan_->zoomBy(1.25); });
    add(menu, tr("Zoom &out"), QKeySequence::ZoomOut, [this] { plan_->zoomBy(0.8); });
    menu->addSeparator();
    add(menu, tr("Storey &up the list"), QKeySequence(Qt::Key_PageUp), [this] { plan_->showStorey(plan_->storey() - 1); });
    add(menu, tr("Storey &down the list"), QKeySequence(Qt::Key_PageDown), [this] { plan_->showStorey(plan_->storey() + 1); });
    menu->addSeparator();
    QAction* section = add(menu, tr("The S&ection: heights"), QKeySequence("H"), [] {});
    section->setCheckable(true);
    connect(section, &QAction::toggled, &sheets_->section(), &QWidget::setVisible);
    add(menu, tr("&Walk-through view: beside, instead, away"), QKeySequence("F3"), [this] { showEyes(); });
    menu->addSeparator();
    add(menu, tr("Compare &falloffs, hear one or the other"), QKeySequence("X"), [this] { bench_->compare(); });
    QAction* bare =
        add(menu, tr("&Without filters and effects"), QKeySequence("T"), [this] { playback_.setBare(!playback_.bare()); });
    bare->setCheckable(true);
    connect(&playback_, &Playback::listeningChanged, bare, [this, bare] { bare->setChecked(playback_.bare()); });
    QAction* gazing =
        add(menu, tr("&Hear with the gaze"), QKeySequence("Z"), [this] { playback_.setGazing(!playback_.gazing()); });
    gazing->setCheckable(true);
    gazing->setChecked(true);
    connect(&playback_, &Playback::listeningChanged, gazing, [this, gazing] { gazing->setChecked(playback_.gazing()); });
    QAction* answering = add(menu, tr("Hear with rooms' re&verb"), QKeySequence("F9"),
                             [this] { playback_.setAnswering(!playback_.answering()); });
    answering->setCheckable(true);
    answering->setChecked(true);
    connect(&playback_, &Playback::listeningChanged, answering,
            [this, answering] { answering->setChecked(playback_.answering()); });
    QAction* asItIs = add(menu, tr("Hear it as the project has i&t"), QKeySequence("F10"), [this] { playback_.hearAsItIs(); });
    asItIs->setEnabled(playback_.hearsOtherwise());
    connect(&playback_, &Playback::listeningChanged, asItIs,
            [this, asItIs] { asItIs->setEnabled(playback_.hearsOtherwise()); });
    add(menu, tr("&Pin the bench"), QKeySequence("B"), [this] { session_.pin(!session_.pinned()); });
    menu->addSeparator();
    makeShowMenu(menu->addMenu(tr("Sho&w on the Plan")));
    QAction* snap = add(menu, tr("S&nap to half metres"), QKeySequence("G"), [] {});
    snap->setCheckable(true);
    connect(snap, &QAction::toggled, plan_, &PlanView::setSnap);
    makeColumnsMenu(menu);
    for (const auto& [key, widget] :
         {std::pair{"F6", static_cast<QWidget*>(plan_)}, std::pair{"F7", static_cast<QWidget*>(lists_)}}) {
        QWidget* target = widget;
        add(menu, target == plan_ ? tr("Go to the Plan") : tr("Go to the lists"), QKeySequence(key), [target] {
            target->setFocus(Qt::TabFocusReason);
            if (!target->hasFocus() && target->nextInFocusChain() != nullptr) {
                target->nextInFocusChain()->setFocus(Qt::TabFocusReason);
            }
        });
    }
}

/// Folding the columns at the sides, and unfolding them as wide as they usually are.
void MainWindow::makeColumnsMenu(QMenu* menu)
{
    const struct {
        QString text;
        const char* key;
        const char* name;
        int column;
        int usual_px;
    } sides[] = {{tr("The lists"), "Ctrl+F7", "showLists", 0, 244}, {tr("The bench"), "Ctrl+F8", "showBench", 2, 342}};
    for (const auto& side : sides) {
        QAction* action = add(menu, side.text, QKeySequence(side.key), [this, side] {
            QList<int> sizes = columns_->sizes();
            sizes[1] += sizes[side.column] > 0 ? sizes[side.column] : -side.usual_px;
            sizes[side.column] = sizes[side.column] > 0 ? 0 : side.usual_px;
            columns_->setSizes(sizes);
            placeOverlays();
        });
        action->setObjectName(side.name);
        action->setCheckable(true);
        connect(menu, &QMenu::aboutToShow, action,
                [this, action, column = side.column] { action->setChecked(columns_->sizes()[column] > 0); });
    }
}

/// What of the Plan is drawn; kept from one start to the next.
void MainWindow::makeShowMenu(QMenu* menu)
{
    show_ = menu;
    menu->setObjectName("show");
    const QString names[planPartCount] = {tr("&Zones"),
                                          tr("R&ooms"),
                                          tr("O&penings"),
                                          tr("&Walks"),
                                          tr("Saved &places"),
                                          tr("&Gaze"),
                                          tr("&Rays to what is selected"),
                                          tr("Rou&tes"),
                                          tr("&Silent emitters"),
                                          tr("&Names"),
                                          tr("Gri&d")};
    const char* keys[planPartCount] = {"Alt+1", "Alt+2", "Alt+3", "Alt+4", "Alt+5", "Alt+6",
                                       "Y",     "Alt+7", "Alt+8", "Alt+9", "Alt+0"};
    for (std::size_t i = 0; i < planPartCount; ++i) {
        const QString key = QString("show/") + planPartKeys[i];
        QAction* action = add(menu, names[i], QKeySequence(keys[i]), [] {});
        action->setObjectName(key);
        action->setCheckable(true);
        action->setChecked(QSettings().value(key, true).toBool());
        plan_->show(static_cast<PlanPart>(i), action->isChecked());
        connect(action, &QAction::toggled, this, [this, i, key](bool on) {
            plan_->show(static_cast<PlanPart>(i), on);
            QSettings().setValue(key, on);
        });
    }
    menu->addSeparator();
    add(menu, tr("&Everything"), {}, [menu] {
        for (QAction* action : menu->actions()) {
            if (action->isCheckable()) {
                action->setChecked(true);
            }
        }
    });
}

void MainWindow::makeWalkMenu()
{
    QMenu* menu = menuBar()->addMenu(tr("&Walk"));
    add(menu, tr("&Listen or stop"), QKeySequence(Qt::Key_Space), [this] { playback_.setListening(!playback_.listening()); });
    add(menu, tr("&Follow or pause the walk"), QKeySequence("P"), [this] { playback_.setWalking(!playback_.walking()); });
    QAction* record = add(menu, tr("Record a walk, or end it"), QKeySequence("Shift+P"),
                          [this] { playback_.setRecording(!playback_.recording()); });
    record->setCheckable(true);
    connect(&playback_, &Playback::walkChanged, record, [this, record] { record->setChecked(playback_.recording()); });
    add(menu, tr("All sounds from the &beginning"), QKeySequence("R"), [this] { playback_.restart(); });
    add(menu, tr("Back to the &start"), QKeySequence("0"), [this] { playback_.reset(); });
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
    add(menu, tr("Listen through the next &rig"), QKeySequence("O"), [this] { rig_->next(); });
    add(menu, tr("Set up the &gaze…"), {}, [this] { bench_->showGaze(true); });
    add(menu, tr("Set up the &ears…"), {}, [this] { bench_->showRig(true); });
    add(menu, tr("Compare two rigs…"), {}, [this] { compareRigs(); });
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
