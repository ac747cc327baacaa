// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/storey_switch.h"

#include "app/theme/theme.h"
#include "project/range.h"

#include <QLabel>
#include <QPainter>
#include <QSignalBlocker>

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

/// How far above and below its storey's floor the slider cuts, in centimetres.
constexpr int lowest_cm = 5;
constexpr int highest_cm = 600;

double floorOf(const Session& session, int storey)
{
    const auto& storeys = session.level().storeys;
    return storeys[static_cast<std::size_t>(std::clamp(storey, 0, static_cast<int>(storeys.size()) - 1))].floor_m;
}

} // namespace

StoreySwitch::StoreySwitch(Session& session, PlanView& plan, QWidget* parent)
    : QWidget(parent), session_(session), plan_(plan), buttons_(new QVBoxLayout), slider_(new QSlider(Qt::Horizontal)),
      height_(new NumberField("m", ranges::metres, 2, 0.1))
{
    setObjectName("storeySwitch");
    setAttribute(Qt::WA_StyledBackground);
    setStyleSheet("#storeySwitch { background: " + theme::over() + "; border: 1px solid " + theme::line.name() +
                  "; border-radius: 6px; }");
    slider_->setObjectName("cutSlider");
    slider_->setAccessibleName(tr("Height of the cut"));
    slider_->setRange(lowest_cm, highest_cm);
    slider_->setToolTip(tr("At what height the level is cut for the Plan"));
    height_->setObjectName("cutHeight");
    height_->setAccessibleName(slider_->accessibleName());
    auto* label = new QLabel(tr("cut at"));
    label->setFont(theme::text(7.5));
    label->setStyleSheet("color: " + theme::soft.name());
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(6, 6, 6, 6);
    box->setSpacing(3);
    buttons_->setSpacing(2);
    box->addLayout(buttons_);
    box->addWidget(label);
    box->addWidget(height_);
    box->addWidget(slider_);
    setFixedWidth(106);
    connect(slider_, &QSlider::valueChanged, this,
            [this](int cm) { plan_.setCut(floorOf(session_, plan_.storey()) + cm / 100.0); });
    connect(height_, &NumberField::valueEdited, this, [this](double height) { plan_.setCut(height); });
    connect(&plan_, &PlanView::storeyChanged, this, &StoreySwitch::refresh);
    connect(&session_, &Session::documentChanged, this, &StoreySwitch::rebuild);
    connect(&session_, &Session::levelChanged, this, &StoreySwitch::rebuild);
    rebuild();
}

void StoreySwitch::rebuild()
{
    const auto& storeys = session_.level().storeys;
    if (buttons_->count() != static_cast<int>(storeys.size())) {
        while (QLayoutItem* item = buttons_->takeAt(0)) {
            delete item->widget();
            delete item;
        }
        for (int i = 0; i < static_cast<int>(storeys.size()); ++i) {
            auto* button = new QToolButton;
            button->setCheckable(true);
            button->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
            button->setFont(theme::text(8));
            connect(button, &QToolButton::clicked, this, [this, i] { plan_.showStorey(i); });
            buttons_->addWidget(button);
            button->show(); // what is hidden does not count for the size
        }
    }
    refresh();
}

void StoreySwitch::refresh()
{
    const auto& storeys = session_.level().storeys;
    // Of another level there may be fewer than there are buttons, until those are made anew.
    for (int i = 0; i < std::min<int>(buttons_->count(), static_cast<int>(storeys.size())); ++i) {
        auto* button = qobject_cast<QToolButton*>(buttons_->itemAt(i)->widget());
        const Storey& storey = storeys[static_cast<std::size_t>(i)];
        button->setText(QFontMetrics(button->font()).elidedText(QString::fromStdString(storey.name), Qt::ElideRight, 76));
        button->setToolTip(tr("%1: floor at %2").arg(QString::fromStdString(storey.name), theme::metres(storey.floor_m)));
        button->setChecked(i == plan_.storey());
    }
    const QSignalBlocker quiet(slider_);
    slider_->setValue(static_cast<int>(std::lround((plan_.cut_m() - floorOf(session_, plan_.storey())) * 100.0)));
    height_->present(plan_.cut_m());
    adjustSize();
}

} // namespace stone
