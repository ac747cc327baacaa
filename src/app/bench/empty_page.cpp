#include "app/bench/empty_page.h"

#include "app/theme/labels.h"
#include "app/theme/theme.h"

#include <QLabel>
#include <QVBoxLayout>

namespace stone
{

EmptyPage::EmptyPage(QWidget* parent) : Page(parent)
{
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(18, 20, 18, 0);
    box->setSpacing(10);
    box->addWidget(theme::heading(tr("Nothing selected")));
    auto* text =
        new QLabel(tr("Choose an emitter on the Plan or in the list to see why it sounds as it does, and to change it.<br><br>"
                      "To place a new one, drag a sound from <b>Sounds</b> onto the Plan, or drop sound files there.<br><br>"
                      "<b>W A S D</b> walk, <b>Q E</b> turn, <b>Shift</b> faster<br>"
                      "<b>Space</b> listen · <b>1–9</b> saved places<br>"
                      "<b>Page Up / Down</b> storeys · <b>F</b> show all"));
    text->setWordWrap(true);
    text->setStyleSheet("color: " + theme::soft.name());
    box->addWidget(text);
    box->addStretch();
}

} // namespace stone
