// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/ledger_view.h"

#include "app/theme/theme.h"
#include "hearing/echoed.h"

#include <QHelpEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>

#include <algorithm>
#include <cmath>
#include <numeric>

namespace stone
{

namespace
{

constexpr int lineHeight = 21;
constexpr int totalHeight = 30;
constexpr int effectsHeight = 32;
constexpr int nameWidth = 112;
constexpr int valueWidth = 62;
constexpr double least_db = -70.0;
constexpr double most_db = 6.0;

} // namespace

LedgerView::LedgerView(QWidget* parent) : QWidget(parent)
{
    setObjectName("ledger");
    setFocusPolicy(Qt::TabFocus);
    setAccessibleName(tr("Ledger: why it sounds like this"));
}

QSize LedgerView::sizeHint() const
{
    return {280, static_cast<int>(lines_.size()) * lineHeight + totalHeight + (effects_.isEmpty() ? 0 : effectsHeight)};
}

void LedgerView::showHeard(const HearingModel& model, const Moment& moment, const std::optional<Heard>& heard)
{
    std::vector<Line> lines;
    if (heard) {
        for (const Term& term : heard->terms) {
            lines.push_back({QString::fromUtf8(termName(term.kind)), QString::fromStdString(reasonOf(model, *heard, term)),
                             term.db, term.kind});
        }
    }
    QStringList effects;
    if (heard) {
        for (const std::string& effect : effectsOf(model, *heard)) {
            effects << QString::fromStdString(effect).replace(" -", QStringLiteral(" −"));
        }
    }
    if (const Echoed echoed = heard ? echoedAt(model, moment, *heard) : Echoed{}; echoed.count > 0) {
        effects << tr("%1 echoes from %2 ms, %3 dB")
                       .arg(echoed.count)
                       .arg(1000.0 * echoed.first_s, 0, 'f', 0)
                       .arg(theme::decibels(echoed.level_db));
    }
    const QString joined = effects.join(QStringLiteral(" · "));
    const double total = heard ? heard->level_db : 0.0;
    if (lines == all_ && total == total_db_ && joined == effects_) {
        return;
    }
    effects_ = joined;
    all_ = std::move(lines);
    total_db_ = total;
    fold();
}

/// The lines that are drawn: in their order, so that each bar begins where the one before ends.
void LedgerView::fold()
{
    constexpr std::size_t loudest = 3;
    lines_ = all_;
    if (!whole_ && all_.size() > loudest + 1) {
        std::vector<std::size_t> order(all_.size());
        std::iota(order.begin(), order.end(), std::size_t{0});
        const auto weight = [this](std::size_t i) { return std::isnan(all_[i].db) ? 0.0 : std::abs(all_[i].db); };
        std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return weight(a) > weight(b); });
        order.resize(loudest);
        std::sort(order.begin(), order.end());
        lines_.clear();
        Line others{tr("%n more ▸", nullptr, static_cast<int>(all_.size() - loudest)), {}, 0.0, {}};
        for (std::size_t i = 0; i < all_.size(); ++i) {
            if (std::find(order.begin(), order.end(), i) != order.end()) {
                lines_.push_back(all_[i]);
            } else {
                others.db += all_[i].db;
                others.why += (others.why.isEmpty() ? QString() : QStringLiteral("\n")) +
                              QStringLiteral("%1 %2 dB").arg(all_[i].name, theme::decibels(all_[i].db));
            }
        }
        lines_.push_back(others);
    } else if (all_.size() > loudest + 1) {
        lines_.push_back({tr("fewer ▾"), tr("Shows the three that change most"), 0.0, {}});
    }
    const int height = sizeHint().height();
    const bool other = height != minimumHeight();
    setFixedHeight(height);
    update();
    if (other) {
        emit resized();
    }
}

void LedgerView::setWhole(bool on)
{
    whole_ = on;
    fold();
}

std::optional<QPoint> LedgerView::placeOf(TermKind kind) const
{
    const auto line = std::find_if(lines_.begin(), lines_.end(), [kind](const Line& l) { return l.kind == kind; });
    if (line == lines_.end()) {
        return {};
    }
    return QPoint(nameWidth / 2, static_cast<int>(line - lines_.begin()) * lineHeight + lineHeight / 2);
}

std::optional<std::size_t> LedgerView::lineAt(int y) const
{
    const auto line = static_cast<std::size_t>(std::max(y, 0) / lineHeight);
    return line < lines_.size() ? std::optional(line) : std::nullopt;
}

void LedgerView::paintEvent(QPaintEvent*)
{
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const double left = nameWidth;
    const double right = width() - valueWidth;
    const auto xOf = [&](double db) {
        const double bounded = std::clamp(std::isfinite(db) ? db : least_db, least_db, most_db);
        return left + (bounded - least_db) / (most_db - least_db) * (right - left);
    };
    double running = 0.0;
    int y = 0;
    for (const Line& line : lines_) {
        painter.setFont(theme::text(9));
        painter.setPen(theme::ink);
        const QString opens = wallsOpen_ ? QStringLiteral(" ▾") : QStringLiteral(" ▸");
        painter.drawText(QRectF(0, y, nameWidth, lineHeight), Qt::AlignLeft | Qt::AlignVCenter,
                         line.kind == TermKind::walls ? line.name + opens : line.name);
        if (!line.kind && line.db == 0.0) {
            y += lineHeight;
            continue; // nothing is added where it only says that there could be fewer lines
        }
        const double from = xOf(running);
        running += line.db;
        const double to = xOf(running);
        painter.setPen(QPen(theme::soft, 1, Qt::DotLine));
        painter.drawLine(QPointF(to, y + lineHeight - 5), QPointF(to, y + lineHeight + 5));
        painter.setPen(Qt::NoPen);
        painter.setBrush(line.db > 0.0 ? theme::verdigris : theme::ochre);
        painter.drawRect(QRectF(std::min(from, to), y + 5, std::max(std::abs(to - from), 1.2), lineHeight - 10));
        painter.setFont(theme::number(8.5, QFont::Bold));
        painter.setPen(theme::ink);
        painter.drawText(QRectF(right, y, valueWidth, lineHeight), Qt::AlignRight | Qt::AlignVCenter, theme::decibels(line.db));
        y += lineHeight;
    }
    painter.setPen(QPen(theme::ink, 1.2));
    painter.drawLine(QPointF(0, y + 2), QPointF(width(), y + 2));
    painter.setFont(theme::text(9.5, QFont::Bold));
    painter.drawText(QRectF(0, y + 4, nameWidth, totalHeight - 8), Qt::AlignLeft | Qt::AlignVCenter, tr("At your ears"));
    painter.setFont(theme::number(10.5, QFont::Bold));
    const QString total = std::isfinite(total_db_) ? theme::decibels(total_db_) + " dB" : tr("silent");
    painter.drawText(QRectF(left, y + 4, width() - left, totalHeight - 8), Qt::AlignRight | Qt::AlignVCenter, total);
    if (!effects_.isEmpty()) {
        painter.setFont(theme::text(8.5));
        painter.setPen(theme::soft);
        painter.drawText(QRectF(0, y + totalHeight - 2, width(), effectsHeight), Qt::AlignLeft | Qt::TextWordWrap, effects_);
    }
}

void LedgerView::setWallsOpen(bool on)
{
    wallsOpen_ = on;
    update();
}

void LedgerView::mousePressEvent(QMouseEvent* event)
{
    const auto line = lineAt(event->position().toPoint().y());
    if (line && !lines_[*line].kind) {
        setWhole(!whole_);
    } else if (line && lines_[*line].kind == TermKind::walls) {
        emit wallsClicked();
    }
}

void LedgerView::keyPressEvent(QKeyEvent* event)
{
    if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) {
        emit wallsClicked();
        return;
    }
    QWidget::keyPressEvent(event);
}

bool LedgerView::event(QEvent* event)
{
    if (event->type() == QEvent::ToolTip) {
        const auto* help = static_cast<QHelpEvent*>(event);
        const auto line = lineAt(help->pos().y());
        QToolTip::showText(help->globalPos(), line ? lines_[*line].why : tr("the sum of the lines above"), this);
        return true;
    }
    return QWidget::event(event);
}

} // namespace stone
