// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/contours.h"
#include "app/contours/map_maker.h"
#include "app/plan/plan_underlay.h"

#include <QImage>
#include <QPainterPath>

namespace stone
{

/// Draws a map on the Plan as on a surveyor's sheet: lines of equal level with their figures over a tint, and areas with
/// names, bordered and hatched. Lines and hatching say everything that the tint says.
class ContourLayer : public PlanUnderlay
{
public:
    /// What is drawn from now on; null: nothing. `beside`: drawn on the left half of the sheet instead; null: nowhere.
    /// `step_db`: between lines. `limit`: of voices.
    void show(const SharedMap& map, const SharedMap& before, const SharedMap& beside, double step_db, int limit);

    std::uint64_t version() const override { return version_; }
    void paint(QPainter& painter, const PlanCamera& camera) override;
    const std::vector<QRectF>& written() const override { return written_; }
    /// The lines that are drawn.
    const std::vector<Contour>& lines() const { return now_.lines; }
    const std::vector<MapRegion>& regions() const { return now_.regions; }
    /// The numbers of the map that is shown, by cell; empty: it has none.
    const std::vector<double>& numbers() const { return now_.numbers; }
    /// A line of such a level has its figure.
    static bool isFigured(double level, double step);
    /// How far lines lie apart, for what is shown.
    static double stepOf(MapShows shows, double step_db);

private:
    /// A map as it is drawn, in the level's metres.
    struct Drawn {
        SharedMap map;
        std::vector<double> numbers;
        std::vector<Contour> lines;
        double step = 6.0;
        QImage tint; ///< a pixel a cell, north above
        std::vector<std::uint64_t> answers;
        std::vector<MapRegion> regions;
        QPainterPath borders;
        QPainterPath inside; ///< of all areas
    };

    static Drawn drawn(const SharedMap& map, const SharedMap& before, double step_db, int limit);
    static void tint(Drawn& drawn);
    static void border(Drawn& drawn);
    void paint(QPainter& painter, const PlanCamera& camera, const Drawn& drawn, const QRectF& within);
    void writeFigures(QPainter& painter, const PlanCamera& camera, const Drawn& drawn, const QRectF& within);
    void writeNames(QPainter& painter, const PlanCamera& camera, const Drawn& drawn, const QRectF& within);
    bool free(const QRectF& box) const;

    std::uint64_t version_ = 0;
    Drawn now_;
    Drawn beside_;
    std::vector<QRectF> written_;
};

} // namespace stone
