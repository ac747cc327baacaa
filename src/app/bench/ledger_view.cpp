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
                             term.db, term.kind == TermKind::walls});
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
    if (lines == lines_ && total == total_db_ && joined == effects_) {
        return;
    }
    const bool taller = lines.size() != lines_.size() || joined.isEmpty() != effects_.isEmpty();
    effects_ = joined;
    lines_ = std::move(lines);
    total_db_ = total;
    setFixedHeight(sizeHint().height());
    if (taller) {
        updateGeometry();
    }
    update();
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
                         line.walls ? line.name + opens : line.name);
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
    const auto line = static_cast<std::size_t>(std::max(event->position().toPoint().y(), 0) / lineHeight);
    if (line < lines_.size() && lines_[line].walls) {
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
        const auto line = static_cast<std::size_t>(std::max(help->pos().y(), 0) / lineHeight);
        QToolTip::showText(help->globalPos(), line < lines_.size() ? lines_[line].why : tr("the sum of the lines above"), this);
        return true;
    }
    return QWidget::event(event);
}

} // namespace stone
