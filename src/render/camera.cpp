#include "render/camera.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace pristine::render {
namespace {

double radians(double deg) {
    return deg * std::numbers::pi / 180;
}
double focal(double field_deg, int height) {
    return height / 2.0 / std::tan(radians(field_deg) / 2);
}

}  // namespace

Vec3 Camera::right() const {
    return {std::cos(radians(yaw_deg)), -std::sin(radians(yaw_deg)), 0};
}

Vec3 Camera::ahead() const {
    const double c = std::cos(radians(pitch_deg));
    return {std::sin(radians(yaw_deg)) * c, std::cos(radians(yaw_deg)) * c, std::sin(radians(pitch_deg))};
}

ViewFrame Camera::frame(int width, int height, const Box3& scene) const {
    ViewFrame f;
    f.right = right();
    f.ahead = ahead();
    f.down = cross(f.ahead, f.right);
    f.eye = eye;
    f.perspective = perspective;
    f.width = width;
    f.height = height;
    f.centre_x = width / 2.0;
    f.centre_y = height / 2.0;
    const double focal_px = focal(field_deg, height);
    f.scale = perspective ? focal_px : focal_px / focus;
    f.near_depth = std::max(focus, 1e-9) * 2e-3;
    if (!perspective && !scene.empty()) {
        // Depth must be positive for all that is there: step back until the whole box lies ahead.
        const double centre_depth = dot(scene.centre() - eye, f.ahead);
        f.eye = eye + f.ahead * (centre_depth - scene.diagonal() * 0.55 - 2 * f.near_depth);
    }
    return f;
}

void Camera::turn_about(Vec3 centre, double yaw_by, double pitch_by) {
    const Vec3 v = centre - eye;
    const Vec3 r = right(), a = ahead(), d = cross(a, r);
    const double x = dot(v, r), y = dot(v, d), z = dot(v, a);
    yaw_deg = std::remainder(yaw_deg + yaw_by, 360.0);
    pitch_deg = std::clamp(pitch_deg + pitch_by, -90.0, 90.0);
    const Vec3 r2 = right(), a2 = ahead(), d2 = cross(a2, r2);
    eye = centre - r2 * x - d2 * y - a2 * z;
}

void Camera::move_by(double dx, double dy, double depth, int viewport_height) {
    const double f = focal(field_deg, viewport_height);
    const double unit = perspective ? depth / f : focus / f;
    const Vec3 r = right(), d = cross(ahead(), r);
    eye = eye - r * (dx * unit) - d * (dy * unit);
}

void Camera::zoom_at(Vec3 point, double factor) {
    eye = point + (eye - point) * factor;
    focus *= factor;
}

void Camera::look_at_all(const Box3& box, double aspect) {
    if (box.empty()) return;
    const Vec3 r = right(), a = ahead(), d = cross(a, r), c = box.centre(), h = (box.hi - box.lo) * 0.5;
    const auto reach = [&](Vec3 u) {
        return std::fabs(u.x) * h.x + std::fabs(u.y) * h.y + std::fabs(u.z) * h.z;
    };
    const double t = std::tan(radians(field_deg) / 2);
    double distance = std::max(reach(d) / t, reach(r) / (t * std::max(aspect, 0.01))) * 1.05;
    if (perspective) distance += reach(a);
    // A single point has no size; a tiny body has one, which doubles can tell down to a millionth of a
    // millionth of its place.
    constexpr double kOfOnePoint = 1e-3, kOfPlace = 1e-12;
    focus = distance > 0 ? std::max(distance, kOfPlace * norm(c)) : kOfOnePoint;
    eye = c - a * focus;
}

void Camera::look_along(AxisView view, const Box3& box, double aspect) {
    constexpr struct {
        double yaw, pitch;
    } directions[] = {{0, -90}, {0, 90}, {0, 0}, {180, 0}, {90, 0}, {-90, 0}};
    const auto& direction = directions[static_cast<int>(view)];
    yaw_deg = direction.yaw;
    pitch_deg = direction.pitch;
    look_at_all(box, aspect);
}

}  // namespace pristine::render
