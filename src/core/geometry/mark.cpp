#include "core/geometry/mark.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include "core/base/error.h"
#include "core/geometry/predicates.h"

namespace pristine {
namespace {

constexpr double kDeg = 180 / std::numbers::pi;
constexpr std::array<const char*, kMarkKinds> kIds{"point", "distance", "path", "angle",
                                                   "area",  "above",    "fall"};
using Q = MarkQuantity;
using Figures = std::vector<MarkFigure>;

double plan(Vec3 d) {
    return std::hypot(d.x, d.y);
}

Figures of_distance(Vec3 a, Vec3 b) {
    const Vec3 d = b - a;
    Figures f{{"distance", Q::Length, norm(d)},
              {"plan_distance", Q::Length, plan(d)},
              {"height_difference", Q::Length, d.z}};
    if (plan(d) > 0) f.push_back({"slope", Q::Slope, 100 * d.z / plan(d)});
    return f;
}

Figures of_path(std::span<const Vec3> p) {
    double length = 0, plan_length = 0;
    for (std::size_t k = 1; k < p.size(); ++k) {
        length += norm(p[k] - p[k - 1]);
        plan_length += plan(p[k] - p[k - 1]);
    }
    return {{"length", Q::Length, length},
            {"plan_length", Q::Length, plan_length},
            {"height_difference", Q::Length, p.back().z - p.front().z}};
}

double angle_between(Vec3 a, Vec3 b) {
    return std::atan2(norm(cross(a, b)), dot(a, b)) * kDeg;
}

Figures of_angle(Vec3 a, Vec3 corner, Vec3 b) {
    const Vec3 u = a - corner, v = b - corner;
    if (norm(u) == 0 || norm(v) == 0) throw Error(ErrorCode::Usage, "Two places of the angle are the same");
    Figures f{{"angle", Q::Angle, angle_between(u, v)}};
    if (plan(u) > 0 && plan(v) > 0)
        f.push_back({"plan_angle", Q::Angle, angle_between({u.x, u.y, 0}, {v.x, v.y, 0})});
    return f;
}

// Of a fall the direction is that of the water.
Figures of_fall(Vec3 a, Vec3 b) {
    const Vec3 d = b - a;
    if (plan(d) == 0)
        throw Error(ErrorCode::Usage, "The two places stand above each other: there is no fall");
    Figures f{{"slope", Q::Slope, 100 * d.z / plan(d)}};
    if (d.z != 0) f.push_back({"run_per_rise", Q::Coordinate, plan(d) / std::fabs(d.z)});
    f.push_back({"plan_distance", Q::Length, plan(d)});
    f.push_back({"height_difference", Q::Length, d.z});
    if (d.z != 0) {
        const Vec3 down = d.z < 0 ? d : d * -1.0;
        const double azimuth = std::atan2(down.x, down.y) * kDeg;
        f.push_back({"direction", Q::Angle, azimuth < 0 ? azimuth + 360 : azimuth});
    }
    return f;
}

bool sides_cross(const std::vector<PixelPoint>& ring) {
    const std::size_t n = ring.size();
    const auto side = [](PixelPoint a, PixelPoint b, PixelPoint c) {
        return orientation(a.x, a.y, b.x, b.y, c.x, c.y);
    };
    for (std::size_t i = 0; i < n; ++i)
        for (std::size_t j = i + 2; j < n; ++j) {
            if (i == 0 && j == n - 1) continue;  // neighbours
            const PixelPoint a = ring[i], b = ring[i + 1], c = ring[j], d = ring[(j + 1) % n];
            if (side(a, b, c) * side(a, b, d) < 0 && side(c, d, a) * side(c, d, b) < 0) return true;
        }
    return false;
}

Figures of_area(std::span<const Vec3> p) {
    Vec3 middle;
    for (const Vec3& q : p) middle = middle + q * (1.0 / static_cast<double>(p.size()));
    Vec3 twice;
    double perimeter = 0;
    for (std::size_t k = 0; k < p.size(); ++k) {
        const Vec3 a = p[k] - middle, b = p[(k + 1) % p.size()] - middle;
        twice = twice + cross(a, b);
        perimeter += norm(b - a);
    }
    if (norm(twice) <= 1e-12 * perimeter * perimeter)
        throw Error(ErrorCode::Usage, "The corners lie on one line: there is no area");
    const Vec3 n = normalized(twice);
    const Vec3 u = normalized(std::fabs(n.z) < 0.9 ? cross(n, Vec3{0, 0, 1}) : cross(n, Vec3{1, 0, 0}));
    const Vec3 v = cross(n, u);
    double out = 0;
    std::vector<PixelPoint> ring;
    for (const Vec3& q : p) {
        out = std::max(out, std::fabs(dot(q - middle, n)));
        ring.push_back({dot(q - middle, u), dot(q - middle, v)});
    }
    if (sides_cross(ring)) throw Error(ErrorCode::Usage, "The sides cross each other: there is no one area");
    return {{"plan_area", Q::Area, std::fabs(twice.z) / 2},
            {"true_area", Q::Area, norm(twice) / 2},
            {"perimeter", Q::Length, perimeter},
            {"out_of_plane", Q::Length, out}};
}

}  // namespace

const char* id_of(MarkKind k) {
    return kIds[static_cast<std::size_t>(k)];
}

MarkKind mark_kind_of(const std::string& id) {
    const auto at = std::find(kIds.begin(), kIds.end(), id);
    return at == kIds.end() ? MarkKind::Point : static_cast<MarkKind>(at - kIds.begin());
}

MarkPlaces places_of(MarkKind k) {
    switch (k) {
        case MarkKind::Point:
            return {1, 1};
        case MarkKind::Distance:
        case MarkKind::Above:
        case MarkKind::Fall:
            return {2, 2};
        case MarkKind::Angle:
            return {3, 3};
        case MarkKind::Path:
            return {2, 0};
        case MarkKind::Area:
            return {3, 0};
    }
    return {};
}

std::vector<MarkFigure> mark_figures(MarkKind k, std::span<const Vec3> p) {
    const MarkPlaces wanted = places_of(k);
    if (p.size() < wanted.least || (wanted.most > 0 && p.size() > wanted.most))
        throw Error(ErrorCode::Usage, "A mark of this kind has another number of places");
    switch (k) {
        case MarkKind::Point:
            return {{"east", Q::Coordinate, p[0].x},
                    {"north", Q::Coordinate, p[0].y},
                    {"height", Q::Coordinate, p[0].z}};
        case MarkKind::Distance:
            return of_distance(p[0], p[1]);
        case MarkKind::Path:
            return of_path(p);
        case MarkKind::Angle:
            return of_angle(p[0], p[1], p[2]);
        case MarkKind::Area:
            return of_area(p);
        case MarkKind::Above:
            return {{"above", Q::Length, p[0].z - p[1].z}};
        case MarkKind::Fall:
            return of_fall(p[0], p[1]);
    }
    return {};
}

}  // namespace pristine
