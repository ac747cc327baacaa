// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/plan/plan_camera.h"
#include "app/session/session.h"
#include "level/floor_plan.h"

#include <QPainter>
#include <QPixmap>

namespace stone
{

/// The part of the Plan that stays while things move: paper, grid, floors, walls. Kept as one picture for a camera and
/// a cut, painted again only when one of them changes.
class PlanSheet
{
public:
    void setLevel(const LoadedLevel& loaded, const Level& level);
    /// Where a level is cut that is seen from above; one seen from the side is cut where it begins.
    void setCut(double floor_m, double cut_m);

    /// `grid`: with lines that show its scale.
    void paint(QPainter& painter, const PlanCamera& camera, double devicePixelRatio, bool grid = true);

    const PlanCut& cut() const { return cut_; }
    /// Another one: another picture.
    std::uint64_t version() const { return version_; }

private:
    void draw(QPainter& painter, const PlanCamera& camera, bool grid) const;
    void drawPicture(QPainter& painter, const PlanCamera& camera) const;
    void drawFloors(QPainter& painter, const PlanCamera& camera) const;
    void drawWalls(QPainter& painter, const PlanCamera& camera) const;

    LoadedLevel loaded_;
    Geometry geometry_;
    double metresPerUnit_ = 1.0;
    double floor_m_ = 0.0;
    std::optional<Looking> upright_;
    double across_m_ = 0.0; ///< where an upright one stands
    PlanCut cut_;
    std::vector<PlanCut> storeys_; ///< each at its own height: drawn faintly behind the one that is shown
    FloorPlan floors_;
    QPixmap picture_;
    PlanCamera pictured_;
    bool gridded_ = true; ///< in picture_
    bool stale_ = true;
    std::uint64_t version_ = 0;
};

/// The grid of a sheet, in the level's unit.
void drawGrid(QPainter& painter, const PlanCamera& camera, double metresPerUnit);
/// What a cut meets: solid where it is closed.
void drawCut(QPainter& painter, const PlanCamera& camera, const PlanCut& cut);

/// The distance between grid lines at a scale: 1, 2 or 5 times a power of ten, in the level's unit.
double gridStep(double pixelsPerUnit, double leastPixels);

} // namespace stone
