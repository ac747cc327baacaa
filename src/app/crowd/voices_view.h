// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/voice_history.h"

#include <QWidget>

#include <optional>

namespace stone
{

/// Copies over the last 20 seconds against their limit: each a bar in the lowest row that was free, the limit a line that is
/// dragged or moved by the arrow keys, crosses above it for who was refused or dropped, dashes for who sleeps.
class VoicesView : public QWidget
{
    Q_OBJECT

public:
    /// Whose copies are shown.
    enum class Of { sound, family, level };

    VoicesView(Of of, const VoiceHistory& history, QWidget* parent = nullptr);

    void showSound(const SoundId& id) { sound_ = id; }
    void showFamily(const FamilyId& id) { family_ = id; }
    /// `atOnce`: 0: there is none.
    void showLimit(int atOnce);

    /// Those that are shown, oldest first.
    std::vector<const VoiceHistory::Span*> shown() const;
    /// Where so many copies are, in the widget.
    double yOf(double copies) const;

    QSize sizeHint() const override { return {300, 150}; }
    QSize minimumSizeHint() const override { return {160, 110}; }

signals:
    /// The line was moved; `done` when it is let go.
    void limitDragged(int atOnce, bool done);

protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    bool event(QEvent* event) override;

private:
    int rowOf(const VoiceHistory::Span& span) const;
    int rows() const;
    QRectF plot() const;
    double xOf(double time_s) const;
    double limit_y() const;
    int limitAt(double y) const;
    const VoiceHistory::Span* under(const QPointF& at) const;

    Of of_;
    const VoiceHistory& history_;
    SoundId sound_;
    FamilyId family_;
    int atOnce_ = 0;
    std::optional<int> held_; ///< rows while the limit is pulled: the picture keeps its scale meanwhile
};

} // namespace stone
