// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/main_window.h"

#include "app/game/game_strip.h"
#include "app/shell/findings_dialog.h"
#include "app/shell/for_ears_strip.h"
#include "app/shell/output_trial.h"
#include "app/theme/theme.h"
#include "app/walls/walls_dialog.h"
#include "project/file_error.h"

#include <QCloseEvent>
#include <QFileDialog>
#include <QFileInfo>
#include <QGuiApplication>
#include <QHBoxLayout>
#include <QLocale>
#include <QMenuBar>
#include <QMessageBox>
#include <QScreen>
#include <QSettings>
#include <QSplitter>
#include <utility>

namespace stone
{

MainWindow::MainWindow(Session& session, Playback& playback)
    : session_(session), playback_(playback), top_(new TopBar(session, playback)), banner_(new Banner),
      lists_(new EarshotPanel(session, playback)), sheets_(new Sheets(session, playback)), plan_(&sheets_->plan()),
      dial_(new EarDial(session, playback, plan_)), rig_(new RigButton(session, plan_)),
      storeys_(new StoreySwitch(session, *plan_, plan_)), contours_(new ContoursPanel(session, playback, *plan_)),
      postDesk_(new PostDesk(session, playback, this)), bench_(new BenchPanel(session, playback)), pointer_(new QLabel)
{
    // Whole on the screen, with the frame that it will get; on a large one most of it.
    constexpr QSize usual{1280, 800};
    constexpr QSize frame{8, 36};
    const QSize screen = QGuiApplication::primaryScreen()->availableSize();
    resize(usual.expandedTo(screen * 3 / 4).boundedTo(screen - frame));
    columns_ = new QSplitter(Qt::Horizontal);
    columns_->setObjectName("columns");
    columns_->addWidget(lists_);
    columns_->addWidget(sheets_);
    columns_->addWidget(bench_);
    columns_->setStretchFactor(1, 1);
    columns_->setCollapsible(1, false);
    columns_->setHandleWidth(3);
    columns_->setSizes({244, 690, 342});
    lists_->setMinimumWidth(200);
    bench_->setMinimumWidth(320);

    auto* centre = new QWidget;
    auto* box = new QVBoxLayout(centre);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(0);
    box->addWidget(top_);
    auto* rule = new QFrame;
    rule->setFixedHeight(1);
    rule->setStyleSheet("background: " + theme::line.name());
    box->addWidget(rule);
    box->addWidget(new ForEarsStrip(session_, playback_));
    game_ = new GameDesk(session_, playback_, this);
    auto* gameStrip = new GameStrip(*game_);
    connect(gameStrip, &GameStrip::asked, this, &MainWindow::showGame);
    box->addWidget(gameStrip);
    box->addWidget(columns_, 1);
    setCentralWidget(centre);
    banner_->setParent(centre);
    first_ = new FirstSheet(session_, sheets_);
    centre->installEventFilter(this);

    tools_ = makeTools();
    plan_->installEventFilter(this);
    new WalkKeys(playback_, *this, *plan_);

    pointer_->setParent(plan_);
    pointer_->setFont(theme::number(7.5));
    pointer_->setStyleSheet("color: " + theme::soft.name());

    makeFileMenu();
    makeEditMenu();
    makeAddMenu();
    makeViewMenu();
    makeWalkMenu();
    makeTakeMenu();
    makeLevelMenu();
    makeHelpMenu();

    connect(&session_, &Session::documentChanged, this, &MainWindow::refreshActions);
    connect(&session_, &Session::documentChanged, this, &MainWindow::refreshPlaces);
    connect(&session_, &Session::documentChanged, this, &MainWindow::refreshLevels);
    connect(&session_, &Session::selectionChanged, this, &MainWindow::refreshActions);
    connect(&session_, &Session::fileChanged, this, &MainWindow::refreshActions);
    connect(&session_, &Session::failed, this, [this](const QString& message) { banner_->say(message); });
    connect(&session_, &Session::soundReread, this, [this](const QString& file) {
        banner_->say(tr("%1 has changed on the disk and is taken as it is now.").arg(file));
    });
    connect(&session_, &Session::sourceChanged, this, [this](const QString& file) {
        banner_->say(tr("%1 has changed where it was copied from.").arg(file), tr("Take it anew"),
                     [this, file] { session_.takeAnew(file.toStdString()); });
    });
    connect(&session_, &Session::keepingTroubled, this, &MainWindow::tellOfKeeping);
    connect(&top_->outputMenu(), &OutputMenu::failed, this, [this](const QString& message) { banner_->say(message); });
    connect(&playback_, &Playback::outputFailed, this, [this](const QString& message) {
        banner_->say(message, tr("Choose output"), [this] {
            top_->refreshOutputs();
            findChild<QComboBox*>("output")->showPopup();
        });
    });
    connect(&playback_, &Playback::outputBack, this,
            [this](const QString& name) { banner_->say(tr("%1 is there again and plays on.").arg(name)); });
    connect(&playback_, &Playback::listeningChanged, this, [this] {
        if (playback_.listening() && playback_.audible() && !OutputTrial::asked()) {
            tryOutput();
        }
        // Why there is none may be on the banner already: that says more.
        if (playback_.listening() && !playback_.audible() && !banner_->isVisible() && !std::exchange(toldOfClock_, true)) {
            banner_->say(tr("There is no sound card: nothing can be heard, but meters, lists and the Plan work the same."),
                         tr("Choose output"), [this] {
                             top_->refreshOutputs();
                             findChild<QComboBox*>("output")->showPopup();
                         });
        }
    });
    connect(lists_, &EarshotPanel::addSoundsWanted, this, &MainWindow::addSoundsByDialog);
    connect(postDesk_, &PostDesk::changed, this, &MainWindow::showPostMarks);
    connect(&session_, &Session::documentChanged, this, &MainWindow::showPostMarks);
    connect(plan_, &PlanView::menuWanted, this,
            [this](const QPoint& global, const Vec2&, bool onEars) { offerPosts(global, onEars); });
    connect(lists_, &EarshotPanel::findingsWanted, this, &MainWindow::showFindings);
    connect(lists_, &EarshotPanel::emitterChosen, plan_, &PlanView::reveal);
    connect(lists_, &EarshotPanel::soundChosen, bench_, &BenchPanel::showSound);
    connect(lists_, &EarshotPanel::placeWanted, this, &MainWindow::startPlacing);
    for (const auto& [wanted, tool] :
         {std::pair{&BenchPanel::drawWanted, PlanView::Tool::draw}, std::pair{&BenchPanel::fitWanted, PlanView::Tool::fit}}) {
        connect(bench_, wanted, plan_, [this, tool = tool] {
            plan_->setTool(tool);
            plan_->setFocus();
        });
    }
    connect(rig_, &RigButton::setUpWanted, bench_, [this] { bench_->showRig(true); });
    connect(rig_, &RigButton::compareWanted, this, &MainWindow::compareRigs);
    followRuns();
    connect(bench_, &BenchPanel::compareWanted, this, &MainWindow::compareRigs);
    connect(&session_, &Session::documentChanged, this, &MainWindow::placeOverlays);
    connect(sheets_, &Sheets::arranged, this, &MainWindow::placeOverlays);
    connect(top_, &TopBar::listenWanted, this, &MainWindow::listenOrStop);
    connect(top_, &TopBar::drawWalkWanted, this, &MainWindow::drawWalk);
    connect(bench_, &BenchPanel::drawWalkWanted, this, &MainWindow::drawWalk);
    connect(bench_, &BenchPanel::addSoundsWanted, this, &MainWindow::addSoundsByDialog);
    connect(bench_, &BenchPanel::levelWanted, this, [this] { bringInLevel({}); });
    // Not while the drop is going on: whoever dragged it waits for that to end.
    connect(plan_, &PlanView::levelDropped, this, &MainWindow::bringInLevel, Qt::QueuedConnection);
    connect(first_, &FirstSheet::levelWanted, this, [this] { bringInLevel({}); });
    connect(first_, &FirstSheet::openWanted, this, &MainWindow::openByDialog);
    connect(first_, &FirstSheet::recentWanted, this, &MainWindow::openProject);
    connect(first_, &FirstSheet::demoWanted, this, [this] { openProject(shared("demo/vellmoor-halt/project.json")); });
    connect(banner_, &Banner::said, this, &MainWindow::placeOverlays);
    connect(plan_, &PlanView::notPassable, banner_, [this](std::size_t legs) {
        banner_->say(
            tr("Walls or a missing floor stand in the way on %n legs of the walk: there it goes straight through. Drag its "
               "points round them.",
               nullptr, static_cast<int>(legs)));
    });
    connect(bench_, &BenchPanel::sideChosen, plan_, &PlanView::markSide);
    connect(bench_, &BenchPanel::previewed, plan_, &PlanView::setPreview);
    connect(plan_, &PlanView::pointed, this, [this](const QString& where) {
        pointer_->setText(where);
        pointer_->adjustSize();
        placeOverlays();
    });
    refreshActions();
    refreshRecent();
    refreshPlaces();
    refreshLevels();
    takeArrangement();
    plan_->setFocus();
}

QWidget* MainWindow::makeTools()
{
    auto* bar = new QWidget(plan_);
    bar->setObjectName("tools");
    bar->setAttribute(Qt::WA_StyledBackground);
    bar->setStyleSheet("#tools { background: " + theme::over() + "; border: 1px solid " + theme::line.name() +
                       "; border-radius: 6px; }"
                       "#tools QToolButton { border: 0; padding: 4px 10px; }");
    auto* box = new QHBoxLayout(bar);
    box->setContentsMargins(3, 3, 3, 3);
    box->setSpacing(2);
    const auto tool = [&](const QString& text, const QString& tip, bool checkable) {
        auto* button = new QToolButton;
        button->setText(text);
        button->setToolTip(tip);
        button->setCheckable(checkable);
        box->addWidget(button);
        return button;
    };
    QToolButton* select = tool(tr("Select"), tr("Select and move things (V)"), true);
    QToolButton* place = tool(tr("Place emitter"), tr("Put down the sound chosen under Sounds (N)"), true);
    place->setObjectName("placeTool");
    QToolButton* draw = tool(tr("Draw"), tr("Draw the outline, line or stops of what is selected, or a new zone (L)"), true);
    draw->setObjectName("drawTool");
    connect(draw, &QToolButton::clicked, this, [this] {
        plan_->setTool(PlanView::Tool::draw);
        plan_->setFocus();
    });
    QToolButton* show = tool(tr("Show…"), tr("What of the Plan is drawn: zones, rooms, names and more"), false);
    show->setObjectName("showTool");
    connect(show, &QToolButton::clicked, this, [this, show] { show_->popup(show->mapToGlobal(QPoint(0, show->height()))); });
    QToolButton* fit = tool(tr("Show all"), tr("Show the whole level (F)"), false);
    connect(select, &QToolButton::clicked, this, [this] { plan_->setTool(PlanView::Tool::select); });
    connect(place, &QToolButton::clicked, this, &MainWindow::startPlacing);
    connect(fit, &QToolButton::clicked, plan_, &PlanView::fitAll);
    const auto refresh = [this, select, place, draw] {
        select->setChecked(plan_->tool() == PlanView::Tool::select);
        place->setChecked(plan_->tool() == PlanView::Tool::place);
        draw->setChecked(plan_->tool() == PlanView::Tool::draw);
    };
    connect(plan_, &PlanView::toolChanged, this, refresh);
    refresh();
    bar->adjustSize();
    return bar;
}

QAction* MainWindow::add(QMenu* menu, const QString& text, const QKeySequence& key, std::function<void()> act)
{
    QAction* action = menu->addAction(text);
    action->setShortcut(key);
    connect(action, &QAction::triggered, this, [act = std::move(act)] { act(); });
    return action;
}

void MainWindow::refreshActions()
{
    NumberField::setLevelUnit(session_.level().metresPerUnit);
    // From the side all storeys are seen at once.
    storeys_->setVisible(!session_.level().sideOn);
    if (session_.level().sideOn) {
        contours_->setOn(false);
    }
    undo_->setEnabled(!session_.undoName().isEmpty());
    undo_->setText(session_.undoName().isEmpty() ? tr("&Undo") : tr("&Undo: %1").arg(session_.undoName()));
    redo_->setEnabled(!session_.redoName().isEmpty());
    redo_->setText(session_.redoName().isEmpty() ? tr("&Redo") : tr("&Redo: %1").arg(session_.redoName()));
    for (QAction* action : onSelection_) {
        action->setEnabled(!session_.selection().empty() || session_.thingSelected());
    }
    const QString name = QString::fromStdString(session_.project().name);
    setWindowTitle(tr("%1[*] – Stone Echo").arg(name));
    setWindowModified(session_.changed());
}

void MainWindow::refreshPlaces()
{
    places_->clear();
    int number = 1;
    for (const Place& place : session_.level().places) {
        const Pose pose{place.at, place.heading_deg, 0.0, 0.0};
        const QKeySequence key = number <= 9 ? QKeySequence(QString::number(number)) : QKeySequence();
        add(places_, QString::fromStdString(place.name), key, [this, pose] { playback_.placeFeet(pose); });
        ++number;
    }
    places_->setEnabled(!places_->isEmpty());
}

void MainWindow::refreshLevels()
{
    QStringList levels{QString::fromStdString(session_.levelId().text)};
    for (const auto& level : session_.project().levels) {
        levels << QString::fromStdString(level->id.text) << QString::fromStdString(level->name);
    }
    if (levels == levelsListed_) {
        return;
    }
    levelsListed_ = levels;
    levels_->clear();
    add(levels_, tr("&Set up this level"), QKeySequence("Ctrl+L"), [this] { bench_->showLevel(true); });
    add(levels_, tr("&Walls and materials…"), QKeySequence("M"), [this] { showWalls(); });
    add(levels_, tr("&Add a level"), {}, [this] {
        Level level = *blankProject().levels[0];
        level.name = tr("Level %1").arg(session_.project().levels.size() + 1).toStdString();
        level.id = session_.project().levels.freshId(level.name);
        const LevelId id = level.id;
        Project next = session_.project();
        next.levels.put(std::move(level));
        session_.edit(std::move(next), tr("Add a level"));
        session_.showLevel(id);
    });
    levels_->addSeparator();
    for (const auto& level : session_.project().levels) {
        QAction* action =
            add(levels_, QString::fromStdString(level->name), {}, [this, id = level->id] { session_.showLevel(id); });
        action->setCheckable(true);
        action->setChecked(level->id == session_.levelId());
    }
}

void MainWindow::showFindings()
{
    FindingsDialog dialog(session_, playback_.shownScene(), this);
    connect(&dialog, &FindingsDialog::emitterWanted, this, [this](const EmitterId& id) {
        session_.selectOnly(id);
        plan_->reveal(id);
    });
    connect(&dialog, &FindingsDialog::levelSettingsWanted, bench_, [this] { bench_->showLevel(true); });
    dialog.exec();
}

void MainWindow::forgetMeasures()
{
    const MeasureStore& kept = *session_.bank().measures();
    const MeasureStore::Size size = kept.size();
    kept.clear();
    banner_->say(
        tr("What was measured of sounds is forgotten (%n files, %1). Each is measured again when it is read next.", nullptr,
           static_cast<int>(size.files))
            .arg(QLocale(QLocale::English).formattedDataSize(static_cast<qint64>(size.bytes), 1, QLocale::DataSizeSIFormat)));
}

void MainWindow::showWalls()
{
    auto* dialog = new WallsDialog(session_, this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->show();
}

/// The Plan, both, the walk-through view, and round again.
void MainWindow::showEyes()
{
    const Sheets::Shown next = sheets_->shown() == Sheets::Shown::plan   ? Sheets::Shown::both
                               : sheets_->shown() == Sheets::Shown::both ? Sheets::Shown::eyes
                                                                         : Sheets::Shown::plan;
    if (!sheets_->show(next)) {
        banner_->say(tr("The walk-through view needs OpenGL, and there is none on this display. The Plan shows everything."));
    }
}

void MainWindow::fly(Flight what)
{
    playback_.fly(playback_.flight() == what ? Flight::none : what);
}

void MainWindow::startPlacing()
{
    SoundId sound = lists_->currentSound();
    if (sound.empty() && !session_.project().sounds.empty()) {
        lists_->showSounds();
        banner_->say(tr("Choose a sound in the list first, then place it. You can also drag it onto the Plan."));
        plan_->setTool(PlanView::Tool::select);
        return;
    }
    plan_->setSoundToPlace(sound);
    plan_->setTool(PlanView::Tool::place);
}

/// By a way on the sheet.
void MainWindow::nudge(const Vec2& way)
{
    if (!session_.selection().empty()) {
        session_.moveSelected(plan_->camera().wayOf(way), "nudge");
    }
}

/// Once on each machine, and when it is asked for.
void MainWindow::tryOutput()
{
    if (findChild<OutputTrial*>() == nullptr) {
        auto* trial = new OutputTrial(playback_, top_->outputMenu(), this);
        trial->setAttribute(Qt::WA_DeleteOnClose);
        trial->show();
    }
}

void MainWindow::closeEvent(QCloseEvent* event)
{
    if (mayLeave()) {
        playback_.setListening(false);
        keepArrangement();
        event->accept();
    } else {
        event->ignore();
    }
}

} // namespace stone
