// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "level/ground.h"
#include "level/plan_cut.h"
#include "project/document.h"

#include <QWidget>

#include <map>
#include <memory>

namespace stone::game
{

/// The level from above round whoever walks in it, with doors that open when they are clicked, and things that were put there.
class LevelSheet : public QWidget
{
    Q_OBJECT

public:
    struct Thing {
        QString name;
        Pose pose;
    };

    explicit LevelSheet(QWidget* parent = nullptr);

    void setLevel(const Level& level, std::shared_ptr<const PlanCutter> cutter);
    void show(const Pose& feet, const std::map<OpeningId, double>& doors, const std::vector<Thing>& things);

signals:
    void doorClicked(const stone::OpeningId& id);

protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;

private:
    QPointF onSheet(const Vec3& at) const;
    double share(const Opening& door) const;

    const Level* level_ = nullptr;
    std::shared_ptr<const PlanCutter> cutter_;
    PlanCut cut_;
    Pose feet_;
    std::map<OpeningId, double> doors_;
    std::vector<Thing> things_;
};

} // namespace stone::game
