// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/main_window.h"

#include "app/bench/bench_panel.h"
#include "app/plan/plan_view.h"
#include "app/shell/banner.h"
#include "app/theme/theme.h"

#include <QActionGroup>
#include <QMenuBar>
#include <QSettings>

/// The main window's View menu: what is shown, and what is heard otherwise.
namespace stone
{

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
    // What of hearing otherwise has a key: what it is called, the key, and where it stands.
    const struct {
        QString text;
        const char* key;
        bool Otherwise::*what;
    } ways[] = {{tr("&Without filters and effects"), "T", &Otherwise::bare},
                {tr("&Hear with the gaze"), "Z", &Otherwise::gazing},
                {tr("Hear with rooms' re&verb"), "F9", &Otherwise::answering}};
    for (const auto& way : ways) {
        QAction* action = add(menu, way.text, QKeySequence(way.key), [this, what = way.what] {
            playback_.listenOtherwise([what](Otherwise& otherwise) { otherwise.*what = !(otherwise.*what); });
        });
        action->setCheckable(true);
        action->setChecked(playback_.otherwise().*way.what);
        connect(&playback_, &Playback::listeningChanged, action,
                [this, action, what = way.what] { action->setChecked(playback_.otherwise().*what); });
    }
    QAction* asItIs = add(menu, tr("Hear it as the project has i&t"), QKeySequence("F10"), [this] {
        session_.lookAt({});
        playback_.hearAsItIs();
    });
    const auto enable = [this, asItIs] {
        asItIs->setEnabled(playback_.hearsOtherwise() || session_.seen() || playback_.takes().take());
    };
    connect(&playback_.takes(), &TakeDesk::takeChanged, asItIs, enable);
    connect(&playback_, &Playback::listeningChanged, asItIs, enable);
    connect(&session_, &Session::documentChanged, asItIs, enable);
    enable();
    add(menu, tr("&Pin the bench"), QKeySequence("B"), [this] { session_.pin(!session_.pinned()); });
    menu->addSeparator();
    QAction* contours = add(menu, tr("C&ontours: the whole storey at once"), QKeySequence("Shift+C"), [] {});
    contours->setObjectName("contoursOn");
    contours->setCheckable(true);
    connect(contours, &QAction::toggled, contours_, &ContoursPanel::setOn);
    connect(contours_, &ContoursPanel::turned, contours, &QAction::setChecked);
    add(menu, tr("Contours sho&w the next thing"), QKeySequence("Ctrl+Shift+C"), [this] { contours_->showNext(); });
    makeShowMenu(menu->addMenu(tr("Sho&w on the Plan")));
    QAction* snap = add(menu, tr("S&nap to half metres"), QKeySequence("G"), [] {});
    snap->setCheckable(true);
    connect(snap, &QAction::toggled, plan_, &PlanView::setSnap);
    makeColumnsMenu(menu);
    makeLookMenu(menu->addMenu(tr("Loo&k")));
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

/// Colours: the desktop's, or what is better for these eyes. Taken at the next start, as pictures and lists keep theirs.
void MainWindow::makeLookMenu(QMenu* menu)
{
    const std::pair<QString, std::optional<theme::Look>> looks[] = {{tr("As the &desktop"), {}},
                                                                    {tr("&Paper"), theme::Look::day},
                                                                    {tr("&Night"), theme::Look::night},
                                                                    {tr("High &contrast"), theme::Look::plain},
                                                                    {tr("High contrast, n&ight"), theme::Look::plainNight}};
    auto* group = new QActionGroup(menu);
    for (const auto& [name, look] : looks) {
        QAction* action = add(menu, name, {}, [this, look = look] {
            theme::chooseLook(look);
            banner_->say(tr("Stone Echo looks so when it starts next."));
        });
        action->setCheckable(true);
        action->setChecked(theme::chosenLook() == look);
        group->addAction(action);
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
                                          tr("Gri&d"),
                                          tr("Pos&ts"),
                                          tr("&Edges of the floor")};
    const char* keys[planPartCount] = {"Alt+1", "Alt+2", "Alt+3", "Alt+4", "Alt+5",       "Alt+6",      "Y",
                                       "Alt+7", "Alt+8", "Alt+9", "Alt+0", "Alt+Shift+0", "Alt+Shift+9"};
    for (std::size_t i = 0; i < planPartCount; ++i) {
        const QString key = QString("show/") + planPartKeys[i];
        QAction* action = add(menu, names[i], QKeySequence(keys[i]), [] {});
        action->setObjectName(key);
        action->setCheckable(true);
        action->setChecked(QSettings().value(key, usuallyShown(static_cast<PlanPart>(i))).toBool());
        const auto show = [this, part = static_cast<PlanPart>(i)](bool on) {
            plan_->show(part, on);
            if (part == PlanPart::edges) {
                sheets_->section().showEdges(on);
            }
        };
        show(action->isChecked());
        connect(action, &QAction::toggled, this, [show, key](bool on) {
            show(on);
            QSettings().setValue(key, on);
        });
    }
    menu->addSeparator();
    add(menu, tr("E&verything"), {}, [menu] {
        for (QAction* action : menu->actions()) {
            if (action->isCheckable()) {
                action->setChecked(true);
            }
        }
    });
}

} // namespace stone
