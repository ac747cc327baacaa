// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/main_window.h"

#include <QGuiApplication>
#include <QScreen>
#include <QSettings>
#include <QSplitter>

/// Where the parts of the main window are, and what lies over them.
namespace stone
{

/// The window as it was left: its size, and how wide each column is. What does not fit the screen that is there does not count.
void MainWindow::takeArrangement()
{
    const QSettings settings;
    const QSize size = settings.value("window/size").toSize();
    if (size.isValid()) {
        const QSize screen = QGuiApplication::primaryScreen()->availableSize();
        resize(size.boundedTo(screen));
    }
    columns_->restoreState(settings.value("window/columns").toByteArray());
}

void MainWindow::keepArrangement()
{
    QSettings settings;
    settings.setValue("window/size", size());
    if (!widthsBeforeRun_.isEmpty()) {
        columns_->setSizes(widthsBeforeRun_);
    }
    settings.setValue("window/columns", columns_->saveState());
}

void MainWindow::placeOverlays()
{
    constexpr int gap_px = 10;
    tools_->move(gap_px, 8);
    // On a narrow sheet the storeys go under the tools.
    const int storeys_x = plan_->width() - storeys_->width() - gap_px;
    const bool low = tools_->geometry().right() + gap_px > storeys_x;
    storeys_->move(storeys_x, low ? tools_->geometry().bottom() + 6 : 8);
    QWidget* host = sheets_->host();
    for (QWidget* overlay : {static_cast<QWidget*>(dial_), static_cast<QWidget*>(rig_)}) {
        if (overlay->parentWidget() != host) {
            overlay->setParent(host);
            overlay->show();
            host->installEventFilter(this);
        }
    }
    // The dial lies below the storeys or, on a low sheet, left of them.
    const int dial_y = host->height() - dial_->height() - gap_px;
    const bool aside = storeys_->geometry().bottom() > dial_y - rig_->height() - 4;
    const int right = aside ? storeys_x - gap_px : host->width() - gap_px;
    dial_->move(right - dial_->width(), dial_y);
    rig_->move(right - rig_->width(), dial_y - rig_->height() - 4);
    // Beside the tools, or under them where the storeys leave no room.
    const bool beside = tools_->geometry().right() + 2 * gap_px + pointer_->width() < storeys_->x();
    pointer_->move(beside ? QPoint(tools_->geometry().right() + gap_px, 16)
                          : QPoint(tools_->x() + 2, tools_->geometry().bottom() + 6));
    contours_->move(tools_->x(), (beside ? tools_ : static_cast<QWidget*>(pointer_))->geometry().bottom() + gap_px);
    first_->place();
    // Over the sheet, left of the Ear dial: what is worked on stays where it is.
    constexpr int margin_px = 12;
    constexpr int scale_px = 40;
    QWidget* centre = centralWidget();
    const QPoint corner = sheets_->mapTo(centre, QPoint(margin_px, sheets_->height() - scale_px));
    banner_->lieAbove(corner, sheets_->width() - dial_->width() - 3 * margin_px);
}

bool MainWindow::eventFilter(QObject* watched, QEvent* event)
{
    if ((watched == plan_ || watched == sheets_->host() || watched == centralWidget()) &&
        (event->type() == QEvent::Resize || event->type() == QEvent::Show)) {
        placeOverlays();
    }
    return QMainWindow::eventFilter(watched, event);
}

} // namespace stone
