#include "core/report/picture.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace pristine::report {

namespace {

// Straight down at exactly the box, so that places on paper are those of the plan.
ViewFrame plan_of(const Shot& shot, const Box3& all) {
    ViewFrame f;
    f.scale = shot.width / std::max(shot.box.hi.x - shot.box.lo.x, 1e-12);
    const Vec3 middle = shot.box.centre();
    const double above = std::max(1.0, 0.01 * all.diagonal());
    f.eye = {middle.x, middle.y, (all.empty() ? middle.z : all.hi.z) + above};
    f.near_depth = above * 1e-3;
    return f;
}

// The corners of the box fill the picture but for a rim.
ViewFrame view_of(const Shot& shot, const Box3& all) {
    constexpr double kFilled = 0.9;
    const double yaw = shot.yaw_deg * std::numbers::pi / 180, pitch = shot.pitch_deg * std::numbers::pi / 180;
    ViewFrame f;
    f.right = {std::cos(yaw), -std::sin(yaw), 0};
    f.ahead = {std::sin(yaw) * std::cos(pitch), std::cos(yaw) * std::cos(pitch), std::sin(pitch)};
    f.down = cross(f.ahead, f.right);
    const Vec3 middle = shot.box.centre();
    double wide = 1e-9, high = 1e-9;
    for (int k = 0; k < 8; ++k) {
        const Vec3 corner{k & 1 ? shot.box.hi.x : shot.box.lo.x, k & 2 ? shot.box.hi.y : shot.box.lo.y,
                          k & 4 ? shot.box.hi.z : shot.box.lo.z};
        wide = std::max(wide, 2 * std::fabs(dot(corner - middle, f.right)));
        high = std::max(high, 2 * std::fabs(dot(corner - middle, f.down)));
    }
    f.scale = kFilled * std::min(shot.width / wide, shot.height / high);
    const double back = std::max((all.empty() ? shot.box : all).diagonal(), 1e-6);
    f.near_depth = back * 1e-3;
    const double to_all = all.empty() ? 0 : dot(all.centre() - middle, f.ahead);
    f.eye = middle + f.ahead * (to_all - back);
    return f;
}

}  // namespace

ViewFrame frame_of(const Shot& shot, const Box3& all) {
    ViewFrame f = shot.plan ? plan_of(shot, all) : view_of(shot, all);
    f.width = shot.width;
    f.height = shot.height;
    f.centre_x = shot.width / 2.0;
    f.centre_y = shot.height / 2.0;
    return f;
}

Seen seen(const site::Item& i) {
    return {i.cloud, i.absent, nullptr, i.style, i.drape, i.decided};
}

std::string told_view(double yaw_deg, double pitch_deg) {
    // Who looks north-east stands in the south-west.
    constexpr std::array<const char*, 8> kFrom{"south", "south-west", "west", "north-west",
                                               "north", "north-east", "east", "south-east"};
    if (pitch_deg <= -89) return "From above, parallel";
    double turn = std::fmod(yaw_deg, 360.0);
    if (turn < 0) turn += 360;
    const auto k = static_cast<std::size_t>(std::lround(turn / 45)) % 8;
    const char* tilt = pitch_deg < 0 ? "down" : "up";
    return fmt::format("From the {}, {:.0f}° {}, parallel", kFrom[k], std::fabs(pitch_deg), tilt);
}

}  // namespace pristine::report
