// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/ledger_foot.h"

#include "app/bench/ledger_view.h"
#include "app/theme/theme.h"
#include "app/walls/walls_view.h"
#include "app/widgets/still_place.h"

#include <QHBoxLayout>
#include <QSettings>
#include <QTimer>
#include <QVBoxLayout>

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

const QString openKey = QStringLiteral("bench/ledgerOpen");
constexpr double mostOfWindow = 0.45; ///< the page above keeps the rest

} // namespace

LedgerFoot::LedgerFoot(Session& session, Playback& playback, QWidget* parent)
    : QWidget(parent), session_(session), playback_(playback), title_(new QPushButton), sum_(new QLabel),
      ledger_(new LedgerView), walls_(new WallsView), body_(new QScrollArea)
{
    setObjectName("ledgerFoot");
    setAttribute(Qt::WA_StyledBackground);
    setStyleSheet("#ledgerFoot { border-top: 1px solid " + theme::line.name() + "; }");
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(14, 5, 14, 6);
    box->setSpacing(3);
    auto* head = new QHBoxLayout;
    title_->setObjectName("ledgerTitle");
    title_->setProperty("link", true);
    title_->setFont(theme::text(9.5, QFont::Bold));
    title_->setToolTip(tr("The Ledger: from the recorded level to the level at your ears, term by term"));
    sum_->setObjectName("ledgerSum");
    sum_->setFont(theme::number(10.5, QFont::Bold));
    sum_->setToolTip(tr("At your ears, now"));
    head->addWidget(title_);
    head->addStretch();
    head->addWidget(new StillPlace(sum_));
    box->addLayout(head);
    auto* terms = new QWidget;
    auto* inside = new QVBoxLayout(terms);
    inside->setContentsMargins(0, 0, 0, 0);
    inside->addWidget(ledger_);
    inside->addWidget(walls_);
    inside->addStretch();
    walls_->hide();
    body_->setAccessibleName(tr("Why it sounds like this"));
    body_->setWidget(terms);
    body_->setWidgetResizable(true);
    body_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    body_->setFrameShape(QFrame::NoFrame);
    box->addWidget(body_);
    connect(title_, &QPushButton::clicked, this, [this] {
        setOpen(!open_);
        QSettings().setValue(openKey, open_);
    });
    connect(ledger_, &LedgerView::wallsClicked, this, [this] { showWalls(walls_->isHidden()); });
    connect(ledger_, &LedgerView::resized, this, &LedgerFoot::fit);
    setOpen(QSettings().value(openKey, true).toBool());
}

void LedgerFoot::setOpen(bool on)
{
    open_ = on;
    title_->setText(tr("Why it sounds like this") + (on ? QStringLiteral(" ▾") : QStringLiteral(" ▸")));
    body_->setVisible(on);
    fit();
}

void LedgerFoot::showWalls(bool on)
{
    walls_->setVisible(on);
    ledger_->setWallsOpen(on);
    refresh();
    fit();
    // When it has got its room.
    QTimer::singleShot(0, this, [this, on] {
        fit();
        body_->ensureWidgetVisible(on ? static_cast<QWidget*>(walls_) : ledger_);
    });
}

/// As high as the terms are, as far as there is room.
void LedgerFoot::fit()
{
    const int wanted = ledger_->height() + (walls_->isHidden() ? 0 : walls_->sizeHint().height() + 6);
    const int most = static_cast<int>(mostOfWindow * window()->height());
    body_->setFixedHeight(std::clamp(wanted, 0, std::max(most, 0)));
}

void LedgerFoot::resizeEvent(QResizeEvent* event)
{
    QWidget::resizeEvent(event);
    fit();
}

void LedgerFoot::refresh()
{
    const int index = session_.subjectIndex();
    const HearingModel& model = playback_.hearing();
    setVisible(index >= 0);
    if (index < 0 || static_cast<std::size_t>(index) >= model.level().emitters.size()) {
        return;
    }
    const Moment moment = playback_.moment();
    const Heard& heard = playback_.heardOf(static_cast<std::uint32_t>(index));
    sum_->setText(std::isfinite(heard.level_db) ? theme::decibels(heard.level_db) + " dB" : tr("silent"));
    ledger_->showHeard(model, moment, heard);
    if (!walls_->isHidden()) {
        walls_->showExplained(model, model.explain(moment, heard));
    }
}

} // namespace stone
