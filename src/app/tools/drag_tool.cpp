#include "app/tools/drag_tool.h"

#include <cmath>

namespace pristine::app {

bool DragTool::large_enough(PixelPoint from, PixelPoint to) const {
    return std::hypot(to.x - from.x, to.y - from.y) >= kClick_px;
}

}  // namespace pristine::app
