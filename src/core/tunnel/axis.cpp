#include "core/tunnel/axis.h"

#include <algorithm>
#include <cmath>

#include "core/base/error.h"

namespace pristine::tunnel {
namespace {

double distance_to(const Vec3& p, const Vec3& from, const Vec3& ahead, double length) {
    const double t = std::clamp(dot(p - from, ahead), 0.0, length);
    return norm(p - (from + ahead * t));
}

}  // namespace

Axis::Axis(const std::vector<Vec3>& line, double lift) : start_{0} {
    const Vec3 up{0, 0, lift};
    for (std::size_t i = 1; i < line.size(); ++i) {
        const Vec3 way = line[i] - line[i - 1];
        const double length = norm(way);
        if (length == 0) continue;
        Stretch s{line[i - 1] + up, way * (1 / length), {}, {}, length};
        // Upwards across the line; of a shaft, northwards.
        const Vec3 high = std::fabs(s.ahead.z) < 0.99 ? Vec3{0, 0, 1} : Vec3{0, 1, 0};
        s.up = normalized(high - s.ahead * dot(high, s.ahead));
        s.right = cross(s.ahead, s.up);
        stretches_.push_back(s);
        start_.push_back(start_.back() + length);
    }
    if (stretches_.empty()) throw Error(ErrorCode::Usage, "A centreline has two different points at least");
}

Place Axis::place(const Vec3& world, const std::vector<std::size_t>* candidates) const {
    std::size_t best = 0;
    double nearest = INFINITY;
    const auto look = [&](std::size_t i) {
        const Stretch& s = stretches_[i];
        const double d = distance_to(world, s.from, s.ahead, s.length);
        if (d < nearest) {
            nearest = d;
            best = i;
        }
    };
    if (candidates)
        for (const std::size_t i : *candidates) look(i);
    else
        for (std::size_t i = 0; i < stretches_.size(); ++i) look(i);
    const Stretch& s = stretches_[best];
    const Vec3 d = world - s.from;
    const double t = dot(d, s.ahead), x = dot(d, s.right), y = dot(d, s.up);
    Place p{start_[best] + std::clamp(t, 0.0, s.length), std::atan2(x, y), std::hypot(x, y), false};
    p.beyond = (best == 0 && t < 0) || (best + 1 == stretches_.size() && t > s.length);
    return p;
}

Vec3 Axis::world(double chainage, double angle, double radius) const {
    const auto after = std::upper_bound(start_.begin() + 1, start_.end() - 1, chainage);
    const auto i = static_cast<std::size_t>(after - start_.begin()) - 1;
    const Stretch& s = stretches_[i];
    return s.from + s.ahead * (chainage - start_[i]) + s.up * (radius * std::cos(angle)) +
           s.right * (radius * std::sin(angle));
}

std::vector<std::size_t> Axis::near(const Box3& box) const {
    const Vec3 middle = box.centre();
    const double half = 0.5 * box.diagonal();
    std::vector<double> d;
    for (const Stretch& s : stretches_) d.push_back(distance_to(middle, s.from, s.ahead, s.length));
    const double least = *std::min_element(d.begin(), d.end());
    std::vector<std::size_t> out;
    for (std::size_t i = 0; i < d.size(); ++i)
        if (d[i] <= least + 2 * half) out.push_back(i);
    return out;
}

}  // namespace pristine::tunnel
