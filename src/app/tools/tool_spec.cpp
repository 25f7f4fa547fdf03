#include "app/tools/tool_spec.h"

#include <QCoreApplication>
#include <algorithm>

#include "app/tools/fence_tools.h"
#include "app/tools/line_tool.h"
#include "app/tools/mark_tool.h"
#include "app/tools/path_tools.h"
#include "app/tools/solid_tool.h"
#include "app/tools/space_tools.h"
#include "app/tools/strip_tool.h"

namespace pristine::app {
namespace {

using Kind = SpaceShape::Kind;

QString tr(const char* text) {
    return QCoreApplication::translate("Tools", text);
}

template <class T>
std::unique_ptr<Tool> plain() {
    return std::make_unique<T>();
}
// Shapes keep their handles in the view.
template <Kind kind>
std::unique_ptr<Tool> spanned() {
    return std::make_unique<SolidTool>(std::make_unique<SpanTool>(kind));
}
template <Kind kind, int places>
std::unique_ptr<Tool> placed() {
    return std::make_unique<SolidTool>(std::make_unique<PointsTool>(kind, places));
}
std::unique_ptr<Tool> painted() {
    return std::make_unique<SolidTool>(std::make_unique<SampleTool>());
}
std::unique_ptr<Tool> section() {
    return std::make_unique<SpanTool>(Kind::Section);
}
std::unique_ptr<Tool> pick() {
    return std::make_unique<PointsTool>(Kind::Pick, 1);
}
std::unique_ptr<Tool> clip() {
    return std::make_unique<SolidTool>(nullptr);
}

}  // namespace

const std::vector<ToolSpec>& tool_specs() {
    static const std::vector<ToolSpec> all{
        {ToolId::Rectangle,
         "select.rectangle",
         tr("Rectangle fence"),
         tr("Press, drag, release: selects what lies in a rectangle of the view"),
         "rectangle",
         QKeySequence(Qt::Key_R),
         false,
         {.combine = true, .depth = true, .triangles = true},
         true,
         plain<RectangleTool>},
        {ToolId::Polygon,
         "select.polygon",
         tr("Polygon fence"),
         tr("Click corners, or hold the button to draw freehand; double click or Enter closes, Backspace "
            "takes one back, Esc drops it"),
         "polygon",
         QKeySequence(Qt::Key_O),
         false,
         {.combine = true, .depth = true, .triangles = true},
         true,
         plain<PolygonTool>},
        {ToolId::Freehand,
         "select.freehand",
         tr("Freehand fence"),
         tr("Press, draw a loop, release"),
         "freehand",
         QKeySequence(Qt::Key_N),
         false,
         {.combine = true, .depth = true, .triangles = true},
         true,
         plain<FreehandTool>},
        {ToolId::Circle,
         "select.circle",
         tr("Circle fence"),
         tr("Press at the middle, drag to the rim, release"),
         "circle",
         QKeySequence(Qt::Key_K),
         false,
         {.combine = true, .depth = true, .triangles = true},
         true,
         plain<CircleTool>},
        {ToolId::Strip,
         "select.strip",
         tr("Strip fence"),
         tr("Press at one end, drag along, release: selects a strip round the line. Ctrl and the wheel make "
            "it "
            "wider or narrower"),
         "strip",
         QKeySequence(Qt::SHIFT | Qt::Key_K),
         false,
         {.combine = true, .depth = true, .triangles = true},
         true,
         plain<StripTool>},
        {ToolId::Across,
         "select.across",
         tr("Line across triangles"),
         tr("Press, draw a line, release: selects the triangles that it crosses. A click at an edge takes "
            "the triangles on both sides of it"),
         "across",
         QKeySequence(Qt::SHIFT | Qt::Key_X),
         false,
         {.combine = true, .depth = true},
         false,
         plain<AcrossTool>},
        {ToolId::Brush,
         "select.brush",
         tr("Disc brush"),
         tr("Paint over the view; Ctrl+wheel sizes the disc"),
         "brush",
         QKeySequence(Qt::Key_B),
         true,
         {.combine = true, .depth = true, .triangles = true},
         true,
         plain<BrushTool>},
        {ToolId::BallBrush,
         "select.ball_brush",
         tr("Ball brush"),
         tr("Paint on what is seen: takes what lies near it in space; Ctrl+wheel sizes the ball"),
         "ball-brush",
         QKeySequence(Qt::SHIFT | Qt::Key_B),
         false,
         {.combine = true, .triangles = true},
         false,
         plain<BrushTool>},
        {ToolId::Ball,
         "select.ball",
         tr("Ball"),
         tr("Press on its middle, drag out its radius"),
         "ball",
         QKeySequence(Qt::Key_U),
         true,
         {.combine = true, .triangles = true},
         false,
         spanned<Kind::Ball>},
        {ToolId::Cylinder,
         "select.cylinder",
         tr("Upright cylinder"),
         tr("Press on its axis, drag out its radius; it reaches from bottom to top"),
         "cylinder",
         QKeySequence(Qt::Key_Y),
         false,
         {.combine = true, .triangles = true},
         false,
         spanned<Kind::Cylinder>},
        {ToolId::Box,
         "select.box",
         tr("Box"),
         tr("Press on its middle, drag out half a side; then drag its faces, turn it by the handles "
            "beyond them"),
         "box",
         QKeySequence(Qt::Key_M),
         false,
         {.combine = true, .triangles = true},
         false,
         spanned<Kind::Box>},
        {ToolId::Plane,
         "select.plane",
         tr("Plane through three points"),
         tr("Click three places of the base; selects what lies above it, or below"),
         "plane",
         QKeySequence(Qt::Key_T),
         false,
         {.combine = true, .triangles = true, .plane = true},
         false,
         placed<Kind::Plane, 3>},
        {ToolId::PaintedPlane,
         "select.painted_plane",
         tr("Plane from a painted patch"),
         tr("Paint over a flat surface: the plane through what was painted, strays aside; Ctrl+wheel sizes "
            "the brush"),
         "painted-plane",
         QKeySequence(Qt::SHIFT | Qt::Key_J),
         false,
         {.combine = true, .triangles = true, .plane = true},
         false,
         painted},
        {ToolId::Level,
         "select.level",
         tr("Level plane"),
         tr("Click a height; selects what lies above it, or below"),
         "level",
         QKeySequence(Qt::SHIFT | Qt::Key_T),
         false,
         {.combine = true, .triangles = true, .plane = true},
         false,
         placed<Kind::Level, 1>},
        {ToolId::Section,
         "view.section",
         tr("Section"),
         tr("Press at one end of a line, drag to the other: the strip along it opens below, seen from the "
            "side"),
         "section",
         QKeySequence(Qt::Key_X),
         true,
         {},
         false,
         section},
        {ToolId::Line,
         "view.line",
         tr("Line"),
         tr("Click places, Enter ends it, a click on the first closes it. Corners of the line in work are "
            "dragged; Ctrl+click takes one out, a double click between two puts one in"),
         "line",
         QKeySequence(Qt::Key_J),
         false,
         {},
         false,
         plain<LineTool>},
        {ToolId::Clip,
         "view.clip",
         tr("Clip box"),
         tr("Drag its faces, or turn it by the handles beyond them; only its inside is shown, and tools "
            "touch "
            "nothing else"),
         "clip",
         QKeySequence(Qt::Key_Z),
         false,
         {},
         false,
         clip},
        {ToolId::Pick,
         "view.pick",
         tr("Pick a point"),
         tr("Click a point: its coordinates, all its values, and the distance to the last one picked"),
         "pick",
         QKeySequence(Qt::Key_I),
         false,
         {},
         true,
         pick},
        {ToolId::Mark,
         "view.mark",
         tr("Mark"),
         tr("Measures and keeps: a point, distance, path, angle, area, height above something, fall. Click "
            "places; they are drawn to lines, corners and edges near by"),
         "mark",
         QKeySequence(Qt::SHIFT | Qt::Key_M),
         false,
         {},
         true,
         plain<MarkTool>},
        {ToolId::Single,
         "select.single",
         tr("Single point or triangle"),
         tr("Click one: it alone is taken, added or taken away; Shift+U lists what lies behind it"),
         "one-point",
         QKeySequence(Qt::SHIFT | Qt::Key_I),
         false,
         {.combine = true},
         true,
         pick},
        {ToolId::Region,
         "select.region",
         tr("Region up to an angle"),
         tr("Press on a triangle and drag: the farther, the sharper the edges that the region spreads over"),
         "",
         {},
         false,
         {.combine = true},
         false,
         plain<BrushTool>},
        {ToolId::Relax,
         "tools.relax",
         tr("Relax brush"),
         tr("Paint over a mesh: bumps under the brush even out; Ctrl+wheel sizes it, the strength is below"),
         "",
         {},
         true,
         {.strength = true},
         false,
         plain<BrushTool>},
        {ToolId::Flatten,
         "tools.flatten",
         tr("Flatten brush"),
         tr("Paint over a mesh: what is under the brush moves towards the plane that fits it best"),
         "",
         {},
         false,
         {.strength = true},
         false,
         plain<BrushTool>},
        {ToolId::RimCorner,
         "tools.rim_corner",
         tr("Corners of rims"),
         tr("Click two corners at the edges of holes; the card of holes shows what would be filled between "
            "them"),
         "",
         {},
         false,
         {},
         false,
         pick}};
    return all;
}

const ToolSpec& spec_of(ToolId id) {
    const auto& all = tool_specs();
    return *std::find_if(all.begin(), all.end(), [&](const ToolSpec& s) { return s.id == id; });
}

}  // namespace pristine::app
