// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/ambience/pad.h"
#include "app/bench/bench_panel.h"
#include "app/contours/contours_panel.h"
#include "app/dial/ear_dial.h"
#include "app/ears/rig_button.h"
#include "app/lists/earshot_panel.h"
#include "app/posts/posts_dialog.h"
#include "app/posts/solve_dialog.h"
#include "app/shell/banner.h"
#include "app/shell/first_sheet.h"
#include "app/shell/sheets.h"
#include "app/shell/storey_switch.h"
#include "app/shell/top_bar.h"
#include "app/shell/walk_keys.h"

#include <QAction>
#include <QLabel>
#include <QMainWindow>
#include <QMenu>
#include <QSplitter>

namespace stone
{

class GameDesk;
class GameDialog;

/// The window: puts the views together and owns what people can ask for from menus and keys.
class MainWindow : public QMainWindow
{
    Q_OBJECT

public:
    MainWindow(Session& session, Playback& playback);

    /// Opens a project and says so when it cannot be read.
    bool openProject(const QString& path);
    /// Asks about what a window that was killed had not saved, if there is any.
    void offerLeftBehind();

    /// Offers what one can begin with, where nothing was begun.
    void offerFirst();
    /// Where something that comes along lies, demo or guide: beside the program where it is installed, in the checkout where it
    /// was built.
    static QString shared(const QString& path);

    PlanView& plan() { return *plan_; }
    EarshotPanel& lists() { return *lists_; }
    Banner& banner() { return *banner_; }
    void showWishes();

protected:
    void closeEvent(QCloseEvent* event) override;
    bool eventFilter(QObject* watched, QEvent* event) override;

private:
    void makeFileMenu();
    void makeEditMenu();
    void makeAddMenu();
    void addOfKind(EmitterKind kind);
    void addPlant();
    void followRuns();
    void runToGoal(bool blind);
    void addZone();
    Vec3 middleOfSheet() const;
    template <class Thing> void standUp(Thing& thing) const;
    void addRoom();
    void drawWalk();
    void proposeRooms();
    void pasteHere(bool there);
    void bringInLevel(const QString& dropped);
    void clap(Clap what);
    void keepState();
    void showDecay();
    void showPad();
    void showGame();
    void askForSeed();
    void compareRigs();
    void tryOutput();
    void showWalls();
    void showEyes();
    void fly(Flight what);
    void makeViewMenu();
    void makeShowMenu(QMenu* menu);
    void makeColumnsMenu(QMenu* menu);
    void makeLookMenu(QMenu* menu);
    void keepArrangement();
    void takeArrangement();
    void makeWalkMenu();
    void makeTakeMenu();
    void listenOrStop();
    void writeTakePage();
    void makeLevelMenu();
    void makeHelpMenu();
    QWidget* makeTools();
    QAction* add(QMenu* menu, const QString& text, const QKeySequence& key, std::function<void()> act);
    void placeOverlays();
    void refreshActions();
    void refreshRecent();
    void refreshPlaces();
    void refreshLevels();

    /// Asks what to do with changes; false: stay.
    bool mayLeave();
    bool save();
    bool mayOverwrite();
    void refreshSaves();
    void rememberProject();
    bool withDocument(const std::function<void()>& act);
    void tellOfKeeping(const QString& why);
    bool saveTo(const std::filesystem::path& path);
    bool saveAs();
    void openByDialog();
    void addSoundsByDialog();
    void exportAll();
    void sendAsOne();
    QString unpackedFrom(const QString& pack);
    void takeTables();
    void showFindings();
    PostsDialog& showPosts();
    void evenOutFamily();
    void showPostMarks();
    void offerPosts(const QPoint& global, bool onEars);
    void forgetMeasures();
    void startPlacing();
    void nudge(const Vec2& way);
    void showKeys();

    Session& session_;
    Playback& playback_;
    TopBar* top_;
    Banner* banner_;
    FirstSheet* first_ = nullptr;
    EarshotPanel* lists_;
    Sheets* sheets_;
    PlanView* plan_;
    EarDial* dial_;
    RigButton* rig_;
    StoreySwitch* storeys_;
    QList<int> widthsBeforeRun_; ///< of the columns; empty while no run is blind
    ContoursPanel* contours_;
    PostDesk* postDesk_;
    GameDesk* game_;
    GameDialog* gameDialog_ = nullptr; ///< made when it is wanted
    PostsDialog* posts_ = nullptr;     ///< made when it is wanted
    SolveDialog* solve_ = nullptr;     ///< likewise
    BenchPanel* bench_;
    QSplitter* columns_ = nullptr;
    QWidget* tools_ = nullptr;
    Pad* pad_ = nullptr;
    QLabel* pointer_;
    QAction* undo_ = nullptr;
    QAction* redo_ = nullptr;
    QAction* save_ = nullptr;
    QList<QAction*> onSelection_;
    QMenu* recent_ = nullptr;
    QMenu* saves_ = nullptr;
    QMenu* show_ = nullptr;    ///< what of the Plan is drawn
    QString keepingTrouble_;   ///< what the banner says of it, while it says so
    bool fileTrouble_ = false; ///< opening or saving failed last, and the banner says so
    QMenu* places_ = nullptr;
    QMenu* levels_ = nullptr;
    QStringList levelsListed_; ///< in it, ids and names
    bool toldOfClock_ = false;
};

} // namespace stone
