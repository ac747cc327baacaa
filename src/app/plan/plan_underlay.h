// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/plan/plan_camera.h"

#include <QPainter>

#include <cstdint>
#include <vector>

namespace stone
{

/// Something that the Plan draws on its sheet, under all things of the level, and keeps in its picture as long as it stays.
class PlanUnderlay
{
public:
    virtual ~PlanUnderlay() = default;

    /// Another one: another picture.
    virtual std::uint64_t version() const = 0;
    virtual void paint(QPainter& painter, const PlanCamera& camera) = 0;
    /// Where it wrote something in the last picture, pixels: no name is put there.
    virtual const std::vector<QRectF>& written() const = 0;
};

} // namespace stone
