// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/crowd/crowd_dialog.h"

#include "app/theme/labels.h"
#include "app/widgets/typed_dialog.h"

#include <QDialogButtonBox>
#include <QVBoxLayout>

namespace stone
{

CrowdDialog::CrowdDialog(Session& session, Playback& playback, const FamilyId& family, QWidget* parent) : QDialog(parent)
{
    auto* panel = new CrowdPanel(VoicesView::Of::family, "familyLimit", session, playback);
    panel->showFamily(family);
    arrange(panel, tr("How many of the family's members are heard at once. What gives way by the limit of its sound does not "
                      "count here."));
    const auto follow = [this, &session, family] {
        if (const Family* shown = session.project().families.find(family)) {
            setWindowTitle(tr("Limit of the family %1").arg(QString::fromStdString(shown->name)));
        } else {
            close();
        }
    };
    connect(&session, &Session::documentChanged, this, follow);
    follow();
}

CrowdDialog::CrowdDialog(Session& session, Playback& playback, QWidget* parent) : QDialog(parent)
{
    setWindowTitle(tr("Voices of the level"));
    auto* panel = new CrowdPanel(VoicesView::Of::level, "voices", session, playback);
    panel->refresh();
    arrange(panel, tr("How many copies are mixed at once. Vital ones never give way; of the others the lowest priority does "
                      "first."));
}

void CrowdDialog::arrange(CrowdPanel* panel, const QString& explanation)
{
    setObjectName("crowdDialog");
    resize(460, 420);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close);
    auto* box = new QVBoxLayout(this);
    box->addWidget(theme::explained(explanation));
    box->addWidget(panel, 1);
    box->addWidget(buttons);
    enterEndsTyping(this);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
}

} // namespace stone
