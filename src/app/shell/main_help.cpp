// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/main_window.h"

#include "app/shell/guide_window.h"

#include <QClipboard>
#include <QGuiApplication>
#include <QMenuBar>
#include <QMessageBox>
#include <QPushButton>

/// The Help menu, and what it shows.
namespace stone
{

void MainWindow::makeHelpMenu()
{
    QMenu* menu = menuBar()->addMenu(tr("&Help"));
    add(menu, tr("&Guide"), QKeySequence("Ctrl+F1"), [this] {
        auto* guide = new GuideWindow(shared("docs/guide/README.md"), this);
        guide->setAttribute(Qt::WA_DeleteOnClose);
        guide->show();
    });
    add(menu, tr("&Keys"), QKeySequence::HelpContents, [this] { showKeys(); });
    add(menu, tr("&Report: what to send along…"), {}, [this] {
        QMessageBox box(QMessageBox::NoIcon, tr("Report"), reportOf(playback_.output().name()), QMessageBox::Close, this);
        box.setObjectName("report");
        box.setTextInteractionFlags(Qt::TextSelectableByMouse);
        const QPushButton* copy = box.addButton(tr("Copy"), QMessageBox::ActionRole);
        box.exec();
        if (box.clickedButton() == copy) {
            QGuiApplication::clipboard()->setText(box.text());
        }
    });
    add(menu, tr("&About Stone Echo"), {}, [this] {
        QMessageBox::about(
            this, tr("About Stone Echo"),
            tr("<b>Stone Echo %1</b><br>A desk for the sound of game levels: place, walk, hear, see why, adjust.<br><br>"
               "Free software under the GNU General Public License, version 3 or later.")
                .arg(STONE_VERSION));
    });
}

void MainWindow::showKeys()
{
    QMessageBox box(
        QMessageBox::NoIcon, tr("Keys"),
        tr("<table cellpadding='3'>"
           "<tr><td><b>W A S D</b></td><td>walk, relative to where you face</td></tr>"
           "<tr><td><b>Q E</b></td><td>turn</td></tr>"
           "<tr><td><b>arrows</b></td><td>walk and turn, while the Plan has the focus</td></tr>"
           "<tr><td><b>Shift</b></td><td>faster</td></tr>"
           "<tr><td><b>1–9, 0</b></td><td>jump to a saved place, to the start</td></tr>"
           "<tr><td><b>Space</b></td><td>listen or stop</td></tr>"
           "<tr><td><b>P</b></td><td>follow the walk or pause it</td></tr>"
           "<tr><td><b>R</b></td><td>all sounds from their beginning</td></tr>"
           "<tr><td><b>V, N, L</b></td><td>select, place an emitter, draw an outline</td></tr>"
           "<tr><td><b>Ctrl + G</b></td><td>listen along to a game that is running</td></tr>"
           "<tr><td><b>Ctrl + E, I</b></td><td>the pad with signals and game values, use what is near</td></tr>"
           "<tr><td><b>U</b></td><td>jump</td></tr>"
           "<tr><td><b>O</b></td><td>listen through the next rig</td></tr>"
           "<tr><td><b>F3</b></td><td>the walk-through view beside the Plan, instead of it, away</td></tr>"
           "<tr><td><b>F4, F5</b></td><td>the ears fly; look round while the ears stay</td></tr>"
           "<tr><td><b>F8</b></td><td>blind walk: a compass and your ears; again shows the way</td></tr>"
           "<tr><td><b>Alt+F8, Shift+F8</b></td><td>run to the goal of the walk: seeing, or blind</td></tr>"
           "<tr><td><b>F9</b></td><td>hear with and without rooms' reverb</td></tr>"
           "<tr><td><b>F2, Shift + F2</b></td><td>clap your hands at your ears, burst a balloon</td></tr>"
           "<tr><td><b>F12</b></td><td>what this place answers: decay and impulse response</td></tr>"
           "<tr><td><b>H</b></td><td>the Section: heights</td></tr>"
           "<tr><td><b>M, Y</b></td><td>walls and materials, rays to what is selected</td></tr>"
           "<tr><td><b>Z</b></td><td>hear with and without the gaze</td></tr>"
           "<tr><td><b>K, J</b></td><td>pause time, let it go on for a tenth of a second</td></tr>"
           "<tr><td><b>Alt + arrows</b></td><td>nudge the selected 10 cm, with Shift 1 m</td></tr>"
           "<tr><td><b>Ctrl + D, Delete</b></td><td>duplicate, delete</td></tr>"
           "<tr><td><b>Ctrl + C, X, V</b></td><td>copy, cut, paste at the pointer; with Shift where it was</td></tr>"
           "<tr><td><b>Shift + F</b></td><td>show what is selected</td></tr>"
           "<tr><td><b>Ctrl + drag</b></td><td>measure a distance on the Plan</td></tr>"
           "<tr><td><b>Alt + 1 to 0</b></td><td>what of the Plan is drawn</td></tr>"
           "<tr><td><b>Page Up / Down</b></td><td>storeys</td></tr>"
           "<tr><td><b>F, + , −</b></td><td>show all, zoom</td></tr>"
           "<tr><td><b>G, C</b></td><td>snap to half metres, walls stop the walker</td></tr>"
           "<tr><td><b>F6, F7</b></td><td>go to the Plan, to the lists</td></tr>"
           "</table>"),
        QMessageBox::Close, this);
    box.exec();
}

} // namespace stone
