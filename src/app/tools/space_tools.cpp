#include "app/tools/space_tools.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <utility>

#include "app/tools/path_tools.h"

namespace pristine::app {
namespace {

constexpr double kClick_px = 3, kGrab_px = 16;

}  // namespace

void SpanTool::press(PixelPoint p, const ViewFrame&, const Anchor& anchor) {
    begun_ = true;
    from_ = to_ = p;
    start_ = anchor(p);
    anchor_ = anchor;
}

void SpanTool::move(PixelPoint p, const ViewFrame&) {
    if (begun_) to_ = p;
}

void SpanTool::release(PixelPoint p, const ViewFrame& view) {
    if (!begun_) return;
    begun_ = false;
    to_ = p;
    if (std::hypot(to_.x - from_.x, to_.y - from_.y) < kClick_px) return;
    const bool line = kind_ == SpaceShape::Kind::Section;
    shape_ = SpaceShape{kind_, {start_, line ? anchor_(to_) : view.lift(to_, view.depth(start_))}, to_};
}

void SpanTool::key(ToolKey k, const ViewFrame& view) {
    if (k == ToolKey::Finish) release(to_, view);
    if (k == ToolKey::Cancel) begun_ = false;
}

Polygon SpanTool::outline(const ViewFrame&) const {
    if (!begun_) return {};
    if (kind_ == SpaceShape::Kind::Section) return {from_, to_};
    return circle(from_, std::max(3.0, std::hypot(to_.x - from_.x, to_.y - from_.y)));
}

std::optional<SpaceShape> SpanTool::take_shape() {
    return std::exchange(shape_, std::nullopt);
}

Vec3 BoxTool::axis(int a) const {
    const double t = box_.yaw_deg * std::numbers::pi / 180;
    if (a == 0) return {std::cos(t), std::sin(t), 0};
    if (a == 1) return {-std::sin(t), std::cos(t), 0};
    return {0, 0, 1};
}

std::vector<Vec3> BoxTool::handles() const {
    std::vector<Vec3> h;
    for (int a = 0; a < 3; ++a)
        for (const double sign : {-1.0, 1.0}) h.push_back(box_.centre + axis(a) * (sign * box_.half[a]));
    h.push_back(box_.centre + axis(0) * (1.35 * box_.half.x));
    return h;
}

std::vector<std::vector<Vec3>> BoxTool::guides() const {
    const auto corner = [&](int i) {
        return box_.centre + axis(0) * (i & 1 ? box_.half.x : -box_.half.x) +
               axis(1) * (i & 2 ? box_.half.y : -box_.half.y) +
               axis(2) * (i & 4 ? box_.half.z : -box_.half.z);
    };
    std::vector<std::vector<Vec3>> lines;
    for (int z = 0; z <= 4; z += 4)
        lines.push_back({corner(z), corner(z + 1), corner(z + 3), corner(z + 2), corner(z)});
    for (int i = 0; i < 4; ++i) lines.push_back({corner(i), corner(i + 4)});
    lines.push_back({box_.centre + axis(0) * box_.half.x, handles().back()});
    return lines;
}

void BoxTool::press(PixelPoint p, const ViewFrame& view, const Anchor&) {
    held_ = -1;
    double nearest = kGrab_px;
    const std::vector<Vec3> h = handles();
    for (std::size_t i = 0; i < h.size(); ++i) {
        if (view.depth(h[i]) < view.near_depth) continue;
        const PixelPoint q = view.project(h[i]);
        const double d = std::hypot(q.x - p.x, q.y - p.y);
        if (d >= nearest) continue;
        nearest = d;
        held_ = static_cast<int>(i);
    }
    before_ = box_;
    from_ = p;
}

void BoxTool::move(PixelPoint p, const ViewFrame& view) {
    if (held_ < 0) return;
    box_ = before_;
    if (held_ == 6) {  // turn: the angle about the middle, as seen
        const PixelPoint m = view.project(box_.centre);
        const double seen = std::atan2(p.y - m.y, p.x - m.x) - std::atan2(from_.y - m.y, from_.x - m.x);
        const double sense = view.ahead.z < 0 ? -1 : 1;  // pixels run downwards
        box_.yaw_deg = std::remainder(before_.yaw_deg + sense * seen * 180 / std::numbers::pi, 360.0);
        return;
    }
    const int a = held_ / 2;
    const double sign = held_ % 2 ? 1 : -1;
    const Vec3 face = box_.centre + axis(a) * (sign * box_.half[a]), out = axis(a) * sign;
    const PixelPoint q = view.project(face), r = view.project(face + out);
    const double ux = r.x - q.x, uy = r.y - q.y, length = ux * ux + uy * uy;
    if (length < 1e-6) return;  // the face is seen square on
    const double by = std::max(((p.x - from_.x) * ux + (p.y - from_.y) * uy) / length, -1.98 * box_.half[a]);
    box_.half[a] += by / 2;
    box_.centre = box_.centre + out * (by / 2);
}

void BoxTool::release(PixelPoint p, const ViewFrame& view) {
    if (held_ < 0) return;
    move(p, view);
    held_ = -1;
    done_ = box_;
}

void BoxTool::key(ToolKey k, const ViewFrame&) {
    if (k != ToolKey::Cancel || held_ < 0) return;
    box_ = before_;
    held_ = -1;
}

std::optional<select::Box> BoxTool::take_box() {
    return std::exchange(done_, std::nullopt);
}

void PointsTool::press(PixelPoint p, const ViewFrame&, const Anchor& anchor) {
    points_.push_back(anchor(p));
    pointer_ = p;
    if (points_.size() < count_) return;
    shape_ = SpaceShape{kind_, std::exchange(points_, {}), p};
}

void PointsTool::key(ToolKey k, const ViewFrame&) {
    if (k == ToolKey::Back && !points_.empty()) points_.pop_back();
    if (k == ToolKey::Cancel) points_.clear();
}

Polygon PointsTool::outline(const ViewFrame& view) const {
    Polygon p;
    for (const Vec3& w : points_)
        if (view.depth(w) >= view.near_depth) p.push_back(view.project(w));
    if (!p.empty()) p.push_back(pointer_);
    return p;
}

std::optional<SpaceShape> PointsTool::take_shape() {
    return std::exchange(shape_, std::nullopt);
}

}  // namespace pristine::app
