// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/exports/export_dialog.h"

#include "app/exports/one_file_tab.h"
#include "app/exports/renders_tab.h"
#include "app/exports/sounds_tab.h"
#include "app/exports/tables_tab.h"
#include "app/widgets/typed_dialog.h"

#include <QTabWidget>
#include <QVBoxLayout>

namespace stone
{

ExportDialog::ExportDialog(Session& session, Playback& playback, QWidget* parent) : QDialog(parent)
{
    setObjectName("exportDialog");
    setWindowTitle(tr("Export"));
    auto* box = new QVBoxLayout(this);
    auto* tabs = new QTabWidget;
    tabs->setObjectName("exportTabs");
    tabs->addTab(new TablesTab(session), tr("Tables"));
    tabs->addTab(new SoundsTab(session, playback), tr("Sounds"));
    tabs->addTab(levelTab(session), tr("Level"));
    tabs->addTab(pageTab(session), tr("Page"));
    tabs->addTab(new RendersTab(session), tr("Renders"));
    box->addWidget(tabs);
    enterEndsTyping(this);
}

} // namespace stone
