// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/blind/run_banner.h"

#include "app/theme/theme.h"

#include <QEvent>
#include <QHBoxLayout>
#include <QToolButton>

namespace stone
{

RunBanner::RunBanner(RunClock& clock, QWidget* sheet) : QFrame(sheet), clock_(clock), time_(new QLabel)
{
    setObjectName("runBanner");
    setFrameShape(QFrame::StyledPanel);
    setAutoFillBackground(true);
    time_->setObjectName("runTime");
    time_->setFont(theme::number(14, QFont::Bold));
    auto* close = new QToolButton;
    close->setObjectName("runEnd");
    close->setText(QStringLiteral("×"));
    close->setAutoRaise(true);
    close->setAccessibleName(tr("End the run"));
    close->setToolTip(tr("Gives the run up, or puts its time away"));
    close->setFocusPolicy(Qt::NoFocus);
    auto* box = new QHBoxLayout(this);
    box->setContentsMargins(10, 3, 4, 3);
    box->addWidget(time_);
    box->addWidget(close);
    connect(close, &QToolButton::clicked, &clock_, &RunClock::end);
    connect(&clock_, &RunClock::changed, this, &RunBanner::refresh);
    connect(&clock_, &RunClock::ticked, this, &RunBanner::refresh);
    sheet->installEventFilter(this);
    refresh();
}

void RunBanner::hideFor(bool something)
{
    elsewhere_ = something;
    refresh();
}

bool RunBanner::eventFilter(QObject* watched, QEvent* event)
{
    if (event->type() == QEvent::Resize) {
        refresh();
    }
    return QFrame::eventFilter(watched, event);
}

void RunBanner::refresh()
{
    setVisible(clock_.shown() && !elsewhere_);
    raise();
    const QString words = clock_.words();
    if (time_->text() != words) {
        time_->setText(words);
    }
    adjustSize();
    constexpr int underTools_px = 48;
    move((parentWidget()->width() - width()) / 2, underTools_px);
}

} // namespace stone
