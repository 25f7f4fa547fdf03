#include "render/journey.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/base/error.h"

namespace pristine::render {
namespace {

// Metres.
constexpr double kEyes = 1.65, kLeastEyes = 0.3, kMostEyes = 30;
constexpr double kStepUp = 0.6, kStepDown = 1.0;
constexpr double kAsk = 0.08;    // the floor is looked for again after so far
constexpr double kSettle = 0.5;  // of a step's height is taken in one call, so that stairs do not jerk
constexpr double kSearch = 60;   // below a place that is pointed at
constexpr double kClearance = 0.3;
constexpr double kFocus = 4;  // near things are seen from 8 mm on

double degrees(double radians) {
    return radians * 180 / std::numbers::pi;
}

}  // namespace

Walk::Walk(Floor floor, double metre) : floor_(std::move(floor)), metre_(metre), eye_height_(kEyes * metre) {}

Camera Walk::stand_at(const Camera& from, const Vec3& place) {
    Camera c = from;
    const Vec3 above = place + Vec3{0, 0, kClearance * metre_};
    const auto floor = floor_(above, 0, kSearch * metre_);
    on_floor_ = floor.has_value();
    c.eye = {place.x, place.y, floor.value_or(place.z) + eye_height_};
    c.pitch_deg = 0;
    c.perspective = true;
    c.focus = kFocus * metre_;
    asked_at_ = c.eye;
    return c;
}

Camera Walk::walked(Camera c, double ahead, double right) {
    Camera level = c;
    level.pitch_deg = 0;
    c.eye = c.eye + level.ahead() * ahead + level.right() * right;
    if (std::hypot(c.eye.x - asked_at_.x, c.eye.y - asked_at_.y) < kAsk * metre_) return c;
    asked_at_ = c.eye;
    const auto floor = floor_(c.eye, eye_height_ - kStepUp * metre_, eye_height_ + kStepDown * metre_);
    on_floor_ = floor.has_value();
    if (floor) c.eye.z += kSettle * (*floor + eye_height_ - c.eye.z);
    return c;
}

Camera Walk::raised(Camera c, double by) {
    const double next = std::clamp(eye_height_ + by, kLeastEyes * metre_, kMostEyes * metre_);
    c.eye.z += next - eye_height_;
    eye_height_ = next;
    return c;
}

Flight::Flight(std::vector<Vec3> line, bool closed, double above, double look_ahead)
    : line_(std::move(line)), closed_(closed), above_(above), look_ahead_(look_ahead) {
    if (closed_ && line_.size() > 2) line_.push_back(line_.front());
    double sum = 0;
    for (std::size_t i = 0; i < line_.size(); ++i) {
        if (i > 0) sum += norm(line_[i] - line_[i - 1]);
        length_.push_back(sum);
    }
    if (!(sum > 0)) throw Error(ErrorCode::Usage, "The line has no length to fly along");
}

Vec3 Flight::place(double distance) const {
    const double d = std::clamp(distance, 0.0, length());
    const auto next = std::upper_bound(length_.begin(), length_.end() - 1, d);
    const auto k = static_cast<std::size_t>(next - length_.begin());
    const double step = length_[k] - length_[k - 1];
    const double share = step > 0 ? (d - length_[k - 1]) / step : 0;
    return line_[k - 1] + (line_[k] - line_[k - 1]) * share;
}

Camera Flight::at(double distance, const Camera& like) const {
    Camera c = like;
    c.perspective = true;
    const double d = std::clamp(distance, 0.0, length());
    const Vec3 here = place(d);
    c.eye = here + Vec3{0, 0, above_};
    // Along what is still to come; at the end, along what has just been flown.
    double to = d + look_ahead_;
    if (closed_ && to > length()) to -= length();
    Vec3 way = place(to) - here;
    if (!closed_ && to > length()) {
        const double back = std::min(look_ahead_, length());
        way = place(length()) - place(length() - back);
        if (d < length()) {
            // From one to the other without a jump.
            const double share = (to - length()) / look_ahead_;
            const Vec3 rest = place(length()) - here;
            if (norm(rest) > 0 && norm(way) > 0)
                way = rest * ((1 - share) / norm(rest)) + way * (share / norm(way));
        }
    }
    if (std::hypot(way.x, way.y) > 0) c.yaw_deg = degrees(std::atan2(way.x, way.y));
    if (norm(way) > 0) c.pitch_deg = degrees(std::asin(std::clamp(way.z / norm(way), -1.0, 1.0)));
    return c;
}

}  // namespace pristine::render
