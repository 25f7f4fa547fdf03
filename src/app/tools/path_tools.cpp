#include "app/tools/path_tools.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <utility>

namespace pristine::app {
namespace {

constexpr double kStep_px = 4, kClose_px = 3;

double pixels_between(PixelPoint a, PixelPoint b) {
    return std::hypot(a.x - b.x, a.y - b.y);
}

// The outline of a disc that moved from a to b.
Polygon capsule(PixelPoint a, PixelPoint b, double radius) {
    if (pixels_between(a, b) < 0.5) return circle(b, radius);
    const double along = std::atan2(b.y - a.y, b.x - a.x), half = std::numbers::pi / 2;
    Polygon p;
    constexpr int kCorners = 14;
    for (int i = 0; i <= kCorners; ++i) {
        const double t = along - half + std::numbers::pi * i / kCorners;
        p.push_back({b.x + radius * std::cos(t), b.y + radius * std::sin(t)});
    }
    for (int i = 0; i <= kCorners; ++i) {
        const double t = along + half + std::numbers::pi * i / kCorners;
        p.push_back({a.x + radius * std::cos(t), a.y + radius * std::sin(t)});
    }
    return p;
}

}  // namespace

Polygon circle(PixelPoint middle, double radius_px) {
    const int corners = std::clamp(static_cast<int>(radius_px), 16, 96);
    Polygon p;
    for (int i = 0; i < corners; ++i) {
        const double t = 2 * std::numbers::pi * i / corners;
        p.push_back({middle.x + radius_px * std::cos(t), middle.y + radius_px * std::sin(t)});
    }
    return p;
}

void FreehandTool::press(PixelPoint p, const ViewFrame&, const Anchor&) {
    path_ = {p};
}

void FreehandTool::move(PixelPoint p, const ViewFrame&) {
    if (!path_.empty() && pixels_between(path_.back(), p) >= kStep_px) path_.push_back(p);
}

void FreehandTool::release(PixelPoint p, const ViewFrame& view) {
    move(p, view);
    if (path_.size() >= 3) fence_ = select::Fence{view, path_};
    path_.clear();
}

void FreehandTool::key(ToolKey k, const ViewFrame& view) {
    if (k == ToolKey::Finish && !path_.empty()) release(path_.back(), view);
    if (k == ToolKey::Back && path_.size() > 1) path_.pop_back();
    if (k == ToolKey::Cancel) path_.clear();
}

std::optional<select::Fence> FreehandTool::take_fence() {
    return std::exchange(fence_, std::nullopt);
}

void AcrossTool::press(PixelPoint p, const ViewFrame&, const Anchor&) {
    path_ = {p};
}

void AcrossTool::move(PixelPoint p, const ViewFrame&) {
    if (!path_.empty() && pixels_between(path_.back(), p) >= kClose_px) path_.push_back(p);
}

void AcrossTool::release(PixelPoint p, const ViewFrame& view) {
    if (path_.empty()) return;
    move(p, view);
    fence_ = select::Fence{view, path_};
    path_.clear();
}

void AcrossTool::key(ToolKey k, const ViewFrame& view) {
    if (k == ToolKey::Finish && !path_.empty()) release(path_.back(), view);
    if (k == ToolKey::Back && path_.size() > 1) path_.pop_back();
    if (k == ToolKey::Cancel) path_.clear();
}

std::optional<select::Fence> AcrossTool::take_fence() {
    return std::exchange(fence_, std::nullopt);
}

Polygon CircleTool::shape(PixelPoint middle, PixelPoint rim) const {
    return circle(middle, pixels_between(middle, rim));
}

void BrushTool::press(PixelPoint p, const ViewFrame& view, const Anchor&) {
    painting_ = true;
    at_ = from_ = p;
    fence_ = select::Fence{view, circle(p, radius_px_)};
}

void BrushTool::move(PixelPoint p, const ViewFrame& view) {
    at_ = p;
    if (!painting_) return;
    fence_ = select::Fence{view, capsule(from_, p, radius_px_)};
    from_ = p;
}

void BrushTool::release(PixelPoint p, const ViewFrame& view) {
    if (painting_ && pixels_between(from_, p) > 0.5) move(p, view);
    painting_ = false;
}

void BrushTool::key(ToolKey k, const ViewFrame&) {
    if (k == ToolKey::Finish || k == ToolKey::Cancel) painting_ = false;
}

void BrushTool::resize(double factor) {
    radius_px_ = std::clamp(radius_px_ * factor, 3.0, 400.0);
}

std::optional<select::Fence> BrushTool::take_fence() {
    return std::exchange(fence_, std::nullopt);
}

}  // namespace pristine::app
