// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "level/floor_edges.h"

#include <QPainter>
#include <QPolygonF>

namespace stone
{

/// Draws an edge of the floor on a sheet, its floor on the left of the way along the line as seen on the level, which is up on
/// the screen: kinds are told apart by how they are drawn. What is too short to be told is left out.
void drawEdge(QPainter& painter, EdgeKind kind, const QPolygonF& line);

} // namespace stone
