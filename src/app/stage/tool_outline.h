// How the outline of a tool looks, in the stage and in the panorama.

#pragma once

#include "core/geometry/polygon.h"

class QPainter;

namespace pristine::app {

/// Draws an outline in pixels, dashed, with its corners unless it was drawn freehand; `open`: a line, without
/// a fill. An empty one draws nothing.
void paint_tool_outline(QPainter&, const Polygon& outline, bool open);

}  // namespace pristine::app
