// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/sounds/waveform_view.h"

#include "app/session/work_pool.h"
#include "app/theme/theme.h"

#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QWheelEvent>
#include <QtConcurrent>

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

constexpr double least_s = 0.002; ///< the most that is zoomed in
constexpr double click_px = 4.0;
constexpr double seam_s = 0.005;

} // namespace

WaveformView::WaveformView(QWidget* parent) : QWidget(parent)
{
    setObjectName("waveform");
    setAccessibleName(tr("Waveform"));
    setToolTip(tr("Click to listen from there; the wheel zooms, dragging moves along, F shows all"));
    setFocusPolicy(Qt::StrongFocus);
    setFixedHeight(sizeHint().height());
    connect(&gathering_, &QFutureWatcherBase::finished, this, [this] {
        if (&gathering_.result().pyramid->buffer() == buffer_.get()) {
            gathered_ = gathering_.result();
            update();
            emit gathered();
        }
    });
}

void WaveformView::showSound(const SharedBuffer& buffer, const std::shared_ptr<const MeasureStore>& kept)
{
    if (buffer == buffer_) {
        return;
    }
    buffer_ = buffer;
    gathered_.reset();
    positions_.clear();
    if (buffer_) {
        see(0.0, buffer_->seconds());
        gathering_.setFuture(QtConcurrent::run(&workPool(), [buffer, kept] { return gatherPeaks(buffer, kept.get()); }));
    }
    update();
}

void WaveformView::showPositions(std::vector<double> seconds)
{
    if (seconds != positions_) {
        positions_ = std::move(seconds);
        update();
    }
}

void WaveformView::showLoop(const std::optional<std::pair<double, double>>& loop)
{
    if (loop != loop_) {
        loop_ = loop;
        update();
    }
}

double WaveformView::secondsAt(double x) const
{
    return from_s_ + (to_s_ - from_s_) * x / std::max(width(), 1);
}

void WaveformView::see(double from_s, double length_s)
{
    const double all_s = buffer_ ? buffer_->seconds() : 1.0;
    const double length = std::clamp(length_s, std::min(least_s, all_s), all_s);
    from_s_ = std::clamp(from_s, 0.0, all_s - length);
    to_s_ = from_s_ + length;
    update();
}

void WaveformView::zoom(double factor, double at_s)
{
    const double length = (to_s_ - from_s_) * factor;
    see(at_s - (at_s - from_s_) * factor, length);
}

void WaveformView::paintEvent(QPaintEvent*)
{
    QPainter painter(this);
    painter.fillRect(rect(), theme::field);
    painter.setPen(QPen(theme::line, 1));
    painter.drawRect(rect().adjusted(0, 0, -1, -1));
    painter.setFont(theme::text(8));
    if (!gathered_) {
        painter.setPen(theme::soft);
        painter.drawText(rect(), Qt::AlignCenter, buffer_ ? tr("gathering peaks …") : tr("the sound is being read …"));
        return;
    }
    const std::size_t channels = buffer_->channelCount();
    const double lane = static_cast<double>(height() - 14) / static_cast<double>(channels);
    for (std::size_t channel = 0; channel < channels; ++channel) {
        const double middle = lane * (static_cast<double>(channel) + 0.5);
        painter.setPen(QPen(theme::grid, 1));
        painter.drawLine(QPointF(0, middle), QPointF(width(), middle));
        painter.setPen(QPen(theme::ochre, 1));
        for (int x = 0; x < width(); ++x) {
            const auto first = static_cast<std::size_t>(std::max(secondsAt(x) * buffer_->rate, 0.0));
            const auto last = static_cast<std::size_t>(std::max(secondsAt(x + 1) * buffer_->rate, 0.0)) + 1;
            const auto [low, high] = gathered_->pyramid->range(channel, first, last);
            const double scale = lane / 2.0 - 1.0;
            painter.drawLine(QPointF(x, middle - static_cast<double>(high) * scale),
                             QPointF(x, middle - static_cast<double>(low) * scale));
        }
    }
    const auto xAt = [&](double seconds) { return (seconds - from_s_) / (to_s_ - from_s_) * width(); };
    if (loop_) {
        // What lies outside the loop is washed out.
        const double end_s = loop_->second > 0.0 ? loop_->second : buffer_->seconds();
        QColor veil = theme::panel;
        veil.setAlphaF(0.7F);
        painter.fillRect(QRectF(QPointF(0, 1), QPointF(xAt(loop_->first), height() - 14)), veil);
        painter.fillRect(QRectF(QPointF(xAt(end_s), 1), QPointF(width(), height() - 14)), veil);
        painter.setPen(QPen(theme::verdigris, 1, Qt::DashLine));
        painter.drawLine(QPointF(xAt(loop_->first), 1), QPointF(xAt(loop_->first), height() - 14));
        painter.drawLine(QPointF(xAt(end_s), 1), QPointF(xAt(end_s), height() - 14));
    }
    painter.setPen(QPen(theme::ink, 1));
    for (const double position_s : positions_) {
        painter.drawLine(QPointF(xAt(position_s), 0), QPointF(xAt(position_s), height() - 13));
    }
    painter.setPen(theme::soft);
    painter.setFont(theme::number(7.5));
    const QRectF foot(3, height() - 13, width() - 6, 12);
    const int decimals = to_s_ - from_s_ < 0.1 ? 4 : to_s_ - from_s_ < 10.0 ? 2 : 1;
    painter.drawText(foot, Qt::AlignLeft, QString::number(from_s_, 'f', decimals) + " s");
    painter.drawText(foot, Qt::AlignRight, QString::number(to_s_, 'f', decimals) + " s");
    if (hasFocus()) {
        painter.setPen(QPen(theme::verdigris, 1.5));
        painter.drawRect(rect().adjusted(0, 0, -1, -1));
    }
}

void WaveformView::wheelEvent(QWheelEvent* event)
{
    zoom(std::pow(0.8, event->angleDelta().y() / 120.0), secondsAt(event->position().x()));
    event->accept();
}

void WaveformView::mousePressEvent(QMouseEvent* event)
{
    pressedX_ = event->position().x();
    pressedFrom_s_ = from_s_;
    moved_ = false;
}

void WaveformView::mouseMoveEvent(QMouseEvent* event)
{
    const double by = event->position().x() - pressedX_;
    if ((event->buttons() & Qt::LeftButton) && (moved_ || std::abs(by) > click_px)) {
        moved_ = true;
        see(pressedFrom_s_ - by / width() * (to_s_ - from_s_), to_s_ - from_s_);
    }
}

void WaveformView::mouseReleaseEvent(QMouseEvent* event)
{
    if (!moved_ && buffer_) {
        emit listenWanted(secondsAt(event->position().x()));
    }
}

void WaveformView::keyPressEvent(QKeyEvent* event)
{
    const double length = to_s_ - from_s_;
    switch (event->key()) {
    case Qt::Key_Plus: zoom(0.5, from_s_ + length / 2); break;
    case Qt::Key_Minus: zoom(2.0, from_s_ + length / 2); break;
    case Qt::Key_Left: see(from_s_ - length / 4, length); break;
    case Qt::Key_Right: see(from_s_ + length / 4, length); break;
    case Qt::Key_F: see(0.0, 1e9); break;
    case Qt::Key_Return: emit listenWanted(from_s_); break;
    default: QWidget::keyPressEvent(event);
    }
}

SeamView::SeamView(QWidget* parent) : QWidget(parent)
{
    setObjectName("seam");
    setAccessibleName(tr("The loop's seam, enlarged"));
    setToolTip(tr("Left of the line the last 5 ms of the loop, right of it the first"));
    setFixedHeight(sizeHint().height());
}

void SeamView::showSound(const SharedBuffer& buffer, double from_s, double to_s)
{
    buffer_ = buffer;
    from_s_ = from_s;
    to_s_ = to_s;
    update();
}

void SeamView::paintEvent(QPaintEvent*)
{
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.fillRect(rect(), theme::field);
    painter.setPen(QPen(theme::line, 1));
    painter.drawRect(rect().adjusted(0, 0, -1, -1));
    if (!buffer_) {
        return;
    }
    const auto frameAt = [&](double seconds) {
        return std::min(static_cast<std::size_t>(seconds * buffer_->rate), buffer_->frames());
    };
    const std::size_t end = to_s_ > 0.0 ? frameAt(to_s_) : buffer_->frames();
    const std::size_t start = std::min(frameAt(from_s_), end);
    const std::size_t side = std::min(static_cast<std::size_t>(seam_s * buffer_->rate), end - start);
    std::vector<std::vector<float>> joined(buffer_->channelCount(), std::vector<float>(2 * side));
    float largest = 1e-4F;
    for (std::size_t channel = 0; channel < joined.size(); ++channel) {
        buffer_->read(channel, end - side, std::span(joined[channel]).first(side));
        buffer_->read(channel, start, std::span(joined[channel]).last(side));
        for (const float sample : joined[channel]) {
            largest = std::max(largest, std::abs(sample));
        }
    }
    const double middle = height() / 2.0;
    painter.setPen(QPen(theme::ink, 1, Qt::DotLine));
    painter.drawLine(QPointF(width() / 2.0, 2), QPointF(width() / 2.0, height() - 2));
    for (std::size_t channel = 0; channel < joined.size(); ++channel) {
        QPainterPath path;
        for (std::size_t i = 0; i < 2 * side; ++i) {
            const double x = static_cast<double>(width()) * static_cast<double>(i) / static_cast<double>(2 * side);
            const double y = middle - static_cast<double>(joined[channel][i] / largest) * (middle - 4);
            i == 0 ? path.moveTo(x, y) : path.lineTo(x, y);
        }
        painter.setPen(QPen(channel == 0 ? theme::ochre : theme::lapis, 1.3));
        painter.drawPath(path);
    }
}

} // namespace stone
