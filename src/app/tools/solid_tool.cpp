#include "app/tools/solid_tool.h"

#include <cmath>

namespace pristine::app {
namespace {

constexpr double kHandle_px = 16, kMoved_px = 1, kMiddleFirst_px = 2;

}  // namespace

void SolidTool::press(PixelPoint p, const ViewFrame& view, const Anchor& anchor) {
    held_.reset();
    if (solid_ && !(maker_ && maker_->begun())) {
        double nearest = kHandle_px;
        const std::vector<Vec3> h = solid_->handles();
        for (std::size_t i = 0; i < h.size(); ++i) {
            if (view.depth(h[i]) < view.near_depth) continue;
            const PixelPoint q = view.project(h[i]);
            // Seen from above the middle hides handles that lie over and under it: it comes first.
            const bool middle = solid_->kind != Solid::Kind::Box && i + 1 == h.size();
            const double d = std::hypot(q.x - p.x, q.y - p.y) - (middle ? kMiddleFirst_px : 0);
            if (d >= nearest) continue;
            nearest = d;
            held_ = i;
        }
    }
    from_ = p;
    if (held_) {
        before_ = *solid_;
    } else if (maker_) {
        solid_.reset();
        maker_->press(p, view, anchor);
    }
}

void SolidTool::move(PixelPoint p, const ViewFrame& view) {
    if (held_)
        solid_ = before_.dragged(*held_, from_, p, view);
    else if (maker_)
        maker_->move(p, view);
}

void SolidTool::release(PixelPoint p, const ViewFrame& view) {
    if (!held_) {
        if (maker_) maker_->release(p, view);
        return;
    }
    move(p, view);
    held_.reset();
    if (std::hypot(p.x - from_.x, p.y - from_.y) >= kMoved_px) done_ = solid_;
}

void SolidTool::double_click(PixelPoint p, const ViewFrame& view) {
    if (maker_ && !held_) maker_->double_click(p, view);
}

void SolidTool::key(ToolKey k, const ViewFrame& view) {
    if (held_ && k == ToolKey::Cancel) {
        solid_ = before_;
        held_.reset();
    } else if (maker_ && maker_->begun()) {
        maker_->key(k, view);
    } else if (maker_ && k == ToolKey::Cancel) {
        solid_.reset();
    }
}

std::optional<SpaceShape> SolidTool::take_shape() {
    return maker_ ? maker_->take_shape() : std::nullopt;
}

std::vector<std::vector<Vec3>> SolidTool::guides() const {
    return solid_ ? solid_->outline() : std::vector<std::vector<Vec3>>{};
}

std::vector<Vec3> SolidTool::handles() const {
    return solid_ ? solid_->handles() : std::vector<Vec3>{};
}

}  // namespace pristine::app
