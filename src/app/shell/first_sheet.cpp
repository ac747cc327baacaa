// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/first_sheet.h"

#include "app/theme/labels.h"
#include "app/theme/theme.h"

#include <QDir>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QPushButton>

#include <algorithm>
#include <utility>

namespace stone
{

FirstSheet::FirstSheet(Session& session, QWidget* parent) : QFrame(parent), session_(session), recent_(new QVBoxLayout)
{
    setObjectName("firstSheet");
    setStyleSheet("#firstSheet { background: " + theme::field.name() + "; border: 1px solid " + theme::line.name() +
                  "; border-radius: 8px; }");
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(26, 20, 26, 20);
    box->setSpacing(10);
    auto* title = new QLabel(tr("Where to begin"));
    title->setFont(theme::text(14, QFont::Bold));
    box->addWidget(title);
    const auto way = [&](const char* name, const QString& what, const QString& why, const std::function<void()>& act) {
        auto* row = new QHBoxLayout;
        auto* button = new QPushButton(what);
        button->setObjectName(name);
        button->setMinimumSize(170, 28);
        connect(button, &QPushButton::clicked, this, act);
        auto* words = theme::explained(why);
        row->addWidget(button);
        row->addWidget(words, 1);
        box->addLayout(row);
    };
    way("firstDemo", tr("Open Vellmoor Halt"), tr("A railway station at night with everything set up: press Space and walk."),
        [this] { emit demoWanted(); });
    way("firstLevel", tr("Bring in a level…"),
        tr("Geometry as glTF or OBJ, or a picture of a plan. A file dropped on the sheet does the same."),
        [this] { emit levelWanted(); });
    way("firstEmpty", tr("Begin empty"), tr("A grid to place sounds on. Sound files dropped on it are placed where they fall."),
        [this] {
            closed_ = true;
            refresh();
        });
    way("firstOpen", tr("Open a project…"), tr("From its folder: the file that ends in .stone-echo, or project.json."),
        [this] { emit openWanted(); });
    box->addLayout(recent_);
    connect(&session_, &Session::documentChanged, this, &FirstSheet::refresh);
    hide();
}

void FirstSheet::offer(const QStringList& recent)
{
    closed_ = false;
    while (QLayoutItem* item = recent_->takeAt(0)) {
        delete item->widget();
        delete item;
    }
    constexpr int most = 5;
    bool first = true;
    for (const QString& path : recent.mid(0, most)) {
        if (!QFileInfo::exists(path)) {
            continue;
        }
        if (std::exchange(first, false)) {
            recent_->addWidget(theme::caption(tr("Opened lately")));
        }
        auto* link = new QPushButton(QFileInfo(path).dir().dirName());
        link->setProperty("link", true);
        link->setToolTip(path);
        connect(link, &QPushButton::clicked, this, [this, path] { emit recentWanted(path); });
        recent_->addWidget(link, 0, Qt::AlignLeft);
    }
    refresh();
}

void FirstSheet::refresh()
{
    const bool untouched = session_.path().empty() && !session_.changed() && session_.undoName().isEmpty();
    setVisible(untouched && !closed_);
    if (isVisible()) {
        place();
        raise();
    }
}

void FirstSheet::place()
{
    constexpr int widest = 520;
    constexpr int margin = 40;
    const int width = std::min(widest, parentWidget()->width() - margin);
    setFixedWidth(std::max(width, 1));
    adjustSize();
    move((parentWidget()->width() - this->width()) / 2, std::max(56, (parentWidget()->height() - height()) / 3));
}

} // namespace stone
