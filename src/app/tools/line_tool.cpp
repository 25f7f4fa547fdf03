#include "app/tools/line_tool.h"

#include <algorithm>
#include <cmath>

namespace pristine::app {
namespace {

constexpr double kGrab_px = 9, kSame_px = 3;

double distance(PixelPoint a, PixelPoint b) {
    return std::hypot(a.x - b.x, a.y - b.y);
}

double distance_to_segment(PixelPoint p, PixelPoint a, PixelPoint b) {
    const double dx = b.x - a.x, dy = b.y - a.y, length = dx * dx + dy * dy;
    const double t = length > 0 ? std::clamp(((p.x - a.x) * dx + (p.y - a.y) * dy) / length, 0.0, 1.0) : 0;
    return distance(p, {a.x + t * dx, a.y + t * dy});
}

}  // namespace

std::optional<std::size_t> LineTool::corner_at(const std::vector<Vec3>& points, PixelPoint p,
                                               const ViewFrame& view) const {
    std::optional<std::size_t> best;
    double nearest = kGrab_px;
    for (std::size_t i = 0; i < points.size(); ++i) {
        if (view.depth(points[i]) < view.near_depth) continue;
        const double d = distance(view.project(points[i]), p);
        if (d >= nearest) continue;
        nearest = d;
        best = i;
    }
    return best;
}

void LineTool::press(PixelPoint p, const ViewFrame& view, const Anchor& anchor) {
    anchor_ = anchor;
    pointer_ = p;
    if (points_.empty() && edited_) {
        if (const auto corner = corner_at(edited_->points, p, view)) {
            if (!taking_out_) {
                held_ = corner;
                before_ = *edited_;
                planted_ = p;
            } else if (edited_->points.size() > (edited_->closed ? 3u : 2u)) {
                done_ = edited_;
                done_->points.erase(done_->points.begin() + static_cast<std::ptrdiff_t>(*corner));
            }
            return;
        }
    }
    if (points_.size() >= 3 && corner_at({points_.front()}, p, view)) return end(true);
    points_.push_back(anchor(p));
    planted_ = p;
}

void LineTool::move(PixelPoint p, const ViewFrame& view) {
    pointer_ = p;
    // While it is dragged the corner keeps its depth; let go, it snaps to what is seen.
    if (held_) edited_->points[*held_] = view.lift(p, view.depth(before_.points[*held_]));
}

void LineTool::release(PixelPoint p, const ViewFrame&) {
    if (!held_) return;
    if (distance(p, planted_) < kSame_px) {
        edited_ = before_;
    } else {
        edited_->points[*held_] = anchor_(p);
        done_ = edited_;
    }
    held_.reset();
}

void LineTool::double_click(PixelPoint p, const ViewFrame& view) {
    if (!points_.empty()) {
        // The first click of the pair has planted a corner here.
        if (points_.size() >= 2) return end(false);
        if (!edited_) return;
    }
    if (!edited_) return;
    const std::vector<Vec3>& line = edited_->points;
    std::optional<std::size_t> after;
    double nearest = kGrab_px;
    for (std::size_t i = 0; i + (edited_->closed ? 0 : 1) < line.size(); ++i) {
        const Vec3 a = line[i], b = line[(i + 1) % line.size()];
        if (view.depth(a) < view.near_depth || view.depth(b) < view.near_depth) continue;
        const double d = distance_to_segment(p, view.project(a), view.project(b));
        if (d >= nearest) continue;
        nearest = d;
        after = i;
    }
    if (!after) return;
    points_.clear();
    done_ = edited_;
    done_->points.insert(done_->points.begin() + static_cast<std::ptrdiff_t>(*after + 1), anchor_(p));
}

void LineTool::key(ToolKey k, const ViewFrame&) {
    if (k == ToolKey::Cancel) {
        if (held_) edited_ = before_;
        held_.reset();
        points_.clear();
    }
    if (k == ToolKey::Back && !points_.empty()) points_.pop_back();
    if (k == ToolKey::Finish && points_.size() >= 2) end(false);
}

void LineTool::end(bool closed) {
    done_ = DrawnLine{0, std::exchange(points_, {}), closed};
}

Polygon LineTool::outline(const ViewFrame& view) const {
    Polygon p;
    for (const Vec3& w : points_)
        if (view.depth(w) >= view.near_depth) p.push_back(view.project(w));
    if (!p.empty()) p.push_back(pointer_);
    return p;
}

std::vector<std::vector<Vec3>> LineTool::guides() const {
    if (!edited_) return {};
    std::vector<Vec3> line = edited_->points;
    if (edited_->closed && !line.empty()) line.push_back(line.front());
    return {line};
}

std::vector<Vec3> LineTool::handles() const {
    return edited_ ? edited_->points : std::vector<Vec3>{};
}

}  // namespace pristine::app
