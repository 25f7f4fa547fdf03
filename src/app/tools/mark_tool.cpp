#include "app/tools/mark_tool.h"

#include <utility>

namespace pristine::app {

void MarkTool::set_kind(MarkKind k) {
    if (kind_ == k) return;
    kind_ = k;
    points_.clear();
}

void MarkTool::press(PixelPoint p, const ViewFrame&, const Anchor& anchor) {
    pointer_ = p;
    const Vec3 at = anchor(p);
    // The second press of a double click plants nothing.
    if (!points_.empty() && norm(at - points_.back()) == 0) return;
    points_.push_back(at);
    const MarkPlaces wanted = places_of(kind_);
    if (kind_ == MarkKind::Above || (wanted.most > 0 && points_.size() == wanted.most)) end();
}

void MarkTool::end() {
    const std::size_t least = kind_ == MarkKind::Above ? 1 : places_of(kind_).least;
    if (points_.size() < least) return;
    shape_ = SpaceShape{SpaceShape::Kind::Mark, std::exchange(points_, {}), pointer_};
}

void MarkTool::key(ToolKey k, const ViewFrame&) {
    if (k == ToolKey::Finish) end();
    if (k == ToolKey::Cancel) points_.clear();
    if (k == ToolKey::Back && !points_.empty()) points_.pop_back();
}

Polygon MarkTool::outline(const ViewFrame& view) const {
    Polygon line;
    for (const Vec3& p : points_)
        if (view.depth(p) > view.near_depth) line.push_back(view.project(p));
    if (!line.empty()) line.push_back(pointer_);
    return line;
}

}  // namespace pristine::app
