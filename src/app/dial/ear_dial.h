// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/playback.h"

#include <QPixmap>
#include <QTimer>
#include <QWidget>

namespace stone
{

/// A round picture of what reaches the ears: from which direction (ahead is up), how loud (length) and how wide
/// (a point is narrow, something that surrounds fills the ring).
class EarDial : public QWidget
{
    Q_OBJECT

public:
    EarDial(Session& session, Playback& playback, QWidget* parent = nullptr);
    QSize sizeHint() const override { return {158, 158}; }

protected:
    void paintEvent(QPaintEvent* event) override;
    bool event(QEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;

private:
    /// What is heard of one thing, no finer than it can be seen.
    struct Petal {
        static constexpr double partsOfDecibel = 4.0;
        static constexpr double partsOfDegree = 2.0;
        static constexpr double partsOfPoint = 200.0;

        EmitterKind kind;
        bool selected;
        int level;
        int azimuth;
        int point; ///< how much it comes from one side

        bool operator==(const Petal&) const = default;
    };

    Petal petalOf(const Heard& heard) const;
    std::vector<Petal> petalsNow() const;
    /// Takes up what is heard now; draws it when anything of it can be seen.
    void look();
    /// Where the part in the ears of what is on the bench is drawn: outwards to the rim on the horizon, in towards the
    /// middle as it rises above the head. None for what is wholly in the world.
    std::optional<QPointF> earsHandle() const;
    double innerRadius() const;
    /// What does not move: rim, circles, spokes and the letters beside them.
    void drawFace(QPainter& painter) const;
    void drawPetals(QPainter& painter) const;
    QPolygonF outlineOf(const Petal& petal) const;
    /// What is loud enough to be drawn, the loudest first; holds until the playback moves on.
    std::vector<const Heard*> heardNow() const;

    Session& session_;
    Playback& playback_;
    bool dragging_ = false;
    int gestures_ = 0;
    QPixmap face_;    ///< what drawFace has drawn
    QPixmap picture_; ///< and drawPetals on it; null: not yet
    std::vector<Petal> petals_;
    bool stale_ = true; ///< the document or what is selected is another than when petals_ were found
    QTimer later_;      ///< runs until what moves may be drawn again
};

} // namespace stone
