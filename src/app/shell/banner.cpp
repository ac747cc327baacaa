// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/banner.h"

#include "app/theme/theme.h"

#include <QHBoxLayout>

#include <algorithm>
#include <utility>

namespace stone
{

Banner::Banner(QWidget* parent) : QWidget(parent), text_(new QLabel), action_(new QPushButton)
{
    setObjectName("banner");
    setAttribute(Qt::WA_StyledBackground);
    setStyleSheet("#banner { background: " + theme::notice.name() + "; border: 1px solid " + theme::sulphur.name() +
                  "; border-radius: 6px; }");
    text_->setObjectName("bannerText");
    text_->setWordWrap(true);
    action_->setProperty("link", true);
    auto* close = new QPushButton(tr("Close"));
    close->setProperty("link", true);
    auto* box = new QHBoxLayout(this);
    box->setContentsMargins(14, 5, 8, 5);
    auto* sign = new QLabel(QStringLiteral("▲"));
    sign->setStyleSheet("color: " + theme::ochre.name());
    box->addWidget(sign);
    box->addWidget(text_, 1);
    box->addWidget(action_);
    box->addWidget(close);
    connect(close, &QPushButton::clicked, this, &QWidget::hide);
    connect(action_, &QPushButton::clicked, this, [this] {
        hide();
        if (act_) {
            act_();
        }
    });
    hide();
}

void Banner::say(const QString& message, const QString& action, std::function<void()> act)
{
    text_->setText(message);
    action_->setText(action);
    action_->setVisible(!action.isEmpty());
    act_ = std::move(act);
    show();
    raise();
    emit said();
}

void Banner::lieAbove(const QPoint& corner, int width)
{
    const int wide = std::max(width, 1);
    const int high = layout()->hasHeightForWidth() ? layout()->totalHeightForWidth(wide) : sizeHint().height();
    setGeometry(corner.x(), corner.y() - high, wide, high);
}

} // namespace stone
