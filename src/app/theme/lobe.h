// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "project/document.h"

#include <QPainterPath>

namespace stone::theme
{

/// How an emitter sounds all round, seen from above: out to `radius` where it is as it is ahead, in towards the middle by
/// 30 dB. Its front looks along its heading; one that is tilted is never quite faced on the level.
QPainterPath lobe(const Emitter& emitter, const QPointF& centre, double radius);

} // namespace stone::theme
