// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "geometry/upright_sheet.h"
#include "level/plan_cut.h"

namespace stone
{

/// Cuts a mesh upright, as PlanCutter does level. Any number of threads may cut at once.
class SectionCutter
{
public:
    SectionCutter(const Mesh& mesh, Looking looking);

    /// Outlines in metres along and up, where across() is so much.
    PlanCut at(double across_m) const;

private:
    Looking looking_;
    PlanCutter turned_;
};

} // namespace stone
