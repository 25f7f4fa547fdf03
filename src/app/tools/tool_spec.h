// The hand tools: one row a tool says everything about it. Nothing looks at a title, or at the order of the
// enumeration.

#pragma once

#include <QKeySequence>
#include <QString>
#include <memory>
#include <vector>

#include "app/tools/tool.h"

namespace pristine::app {

enum class ToolId {
    Rectangle,
    Polygon,
    Freehand,
    Circle,
    Strip,
    Across,
    Brush,
    BallBrush,
    Ball,
    Cylinder,
    Box,
    Plane,
    PaintedPlane,
    Level,
    Section,
    Line,
    Clip,
    Pick,
    Mark,
    Single,
    Region,
    Relax,
    Flatten,
    RimCorner
};

struct ToolSpec {
    ToolId id;
    const char* command;  ///< id in the command table, and in causes
    QString title, help, icon;
    QKeySequence key;
    bool new_group = false;  ///< in the menu, a line stands above it
    /// Which settings of the work card it obeys.
    struct Settings {
        bool combine = false;    ///< new, add, take away, both; and growth of what it selected
        bool depth = false;      ///< through, or visible only
        bool triangles = false;  ///< when a shape takes a triangle
        bool plane = false;      ///< side and offset
        bool strength = false;   ///< of a brush that moves corners
    } settings{};
    bool in_panorama = false;  ///< it works there too: in pixels, without places in space
    std::unique_ptr<Tool> (*make)() = nullptr;
};

/// All, in the order of the menu.
const std::vector<ToolSpec>& tool_specs();
const ToolSpec& spec_of(ToolId);

}  // namespace pristine::app
