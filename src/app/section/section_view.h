// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/plan/drawn_shape.h"
#include "app/plan/plan_camera.h"
#include "app/section/height_grips.h"
#include "level/section_cut.h"

#include <QLabel>
#include <QPushButton>
#include <QWidget>

namespace stone
{

class LabelLayer;

/// The Section: the level cut upright through what is selected, or else through the ears, with heights. Emitters and the
/// heights of the selected shape are dragged; on empty ground a drag moves the sheet and the wheel zooms.
class SectionView : public QWidget
{
    Q_OBJECT

public:
    SectionView(Session& session, Playback& playback, QWidget* parent = nullptr);
    QSize sizeHint() const override { return {600, 210}; }

    Looking looking() const { return looking_; }
    void setLooking(Looking looking);
    /// Whether edges of the floor are drawn.
    void showEdges(bool on);
    /// Where the cut runs: metres north, or east.
    double across_m() const;

    /// Where things are drawn, in this widget's pixels.
    QPointF toScreen(const Vec3& p) const { return camera_.toScreen(onSheet(looking_, p)); }
    QPointF placeOf(const HeightGrip& grip, const DrawnShape& drawn) const;
    QPointF placeOf(const EmitterId& id) const;
    QPointF placeOfGrip(HeightGrip::Kind kind, std::size_t index) const;
    /// A point of the selected walk.
    QPointF placeOfWalkPoint(std::size_t point) const;

protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void showEvent(QShowEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;

private:
    void fit();
    void refresh();
    void bringIntoView();
    std::optional<Vec3> selectedPlace() const;
    const Emitter* emitterAt(const QPointF& at) const;
    std::optional<HeightGrip> gripAt(const QPointF& at) const;
    std::optional<std::size_t> walkPointAt(const QPointF& at) const;
    QString nameOfSelected() const;
    /// How strongly something is drawn that lies off the cut: 1 on it, 0 where it is left out.
    double nearness(const Vec3& p, double across_m) const;

    void paintEdges(QPainter& painter) const;
    void paintStoreys(QPainter& painter) const;
    void paintZones(QPainter& painter, LabelLayer& labels) const;
    void paintShape(QPainter& painter) const;
    void paintEmitters(QPainter& painter, LabelLayer& labels) const;
    void paintPlanted(QPainter& painter) const;
    void paintWalk(QPainter& painter) const;
    void paintCharacter(QPainter& painter) const;
    void paintGrips(QPainter& painter) const;

    Session& session_;
    Playback& playback_;
    Looking looking_ = Looking::north;
    PlanCamera camera_;
    bool fitted_ = false;
    PlanCut cut_;
    const void* cutOf_ = nullptr; ///< the cutter that made it
    QPushButton* turn_;
    QLabel* where_;

    enum class Hold { nothing, sheet, emitter, grip, walkPoint };
    Hold hold_ = Hold::nothing;
    QPointF lastAt_;
    Vec2 grabOffset_{0.0};
    EmitterId grabbed_;
    std::size_t walkPoint_ = 0;
    std::optional<HeightGrip> grip_;
    int gestures_ = 0;
    bool edgesShown_ = false;
};

} // namespace stone
