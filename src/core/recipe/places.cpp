#include "core/recipe/places.h"

#include <algorithm>
#include <cmath>
#include <functional>
#include <numbers>
#include <utility>

namespace pristine::score {

std::vector<std::vector<Vec3>> limit_lines(const Step& s, const cloud::PointCloud& cloud) {
    std::vector<std::vector<Vec3>> lines;
    const Box3 box = cloud.robust_bounds();
    for (const double value : {s.limits.lo, s.limits.hi}) {
        if (box.empty() || !std::isfinite(value)) continue;
        if (s.score == "range") {
            for (const cloud::Station& station : cloud.stations()) {
                lines.emplace_back();
                for (int k = 0; k <= 96; ++k) {
                    const double a = k * std::numbers::pi / 48;
                    lines.back().push_back(station.position +
                                           Vec3{value * std::cos(a), value * std::sin(a), 0});
                }
            }
        } else if (s.score == "height" || s.score == "east" || s.score == "north") {
            const int axis = s.score == "height" ? 2
                             : s.score == "east" ? 0
                                                 : 1,
                      u = (axis + 1) % 3, v = (axis + 2) % 3;
            lines.emplace_back();
            for (const int corner : {0, 1, 3, 2, 0}) {
                Vec3 p;
                p[axis] = value;
                p[u] = corner & 1 ? box.hi[u] : box.lo[u];
                p[v] = corner & 2 ? box.hi[v] : box.lo[v];
                lines.back().push_back(p);
            }
        } else if (s.score == "plane") {
            // A square of the plane, moved by the limit along the normal.
            const auto at = [&](const char* n) { return s.parameters.at(n); };
            const Vec3 n = normalized({at("nx"), at("ny"), at("nz")});
            const Vec3 a = normalized(std::fabs(n.z) < 0.9 ? cross(n, {0, 0, 1}) : cross(n, {1, 0, 0})),
                       b = cross(n, a);
            const Vec3 foot = Vec3{at("x"), at("y"), at("z")};
            const Vec3 c = box.centre() + n * (dot(foot - box.centre(), n) + value);
            const double half = 0.5 * box.diagonal();
            lines.push_back({c + a * half + b * half, c - a * half + b * half, c - a * half - b * half,
                             c + a * half - b * half, c + a * half + b * half});
        }
    }
    return lines;
}

std::vector<Vec3> extremes(const Column& column, const ElementSet& members, double usual,
                           const cloud::PointCloud& cloud, double apart) {
    constexpr std::size_t kPlaces = 64, kLookedAt = 32 * kPlaces;
    std::vector<std::pair<double, std::uint64_t>> best;
    members.for_each([&](std::uint64_t e) {
        const double v = column.base + static_cast<double>(column.values[e]);
        const double d = std::isfinite(v) ? std::fabs(v - usual) : 0;
        if (best.size() == kLookedAt && d <= best.front().first) return;
        best.push_back({d, e});
        std::push_heap(best.begin(), best.end(), std::greater<>());
        if (best.size() > kLookedAt) {
            std::pop_heap(best.begin(), best.end(), std::greater<>());
            best.pop_back();
        }
    });
    std::sort(best.begin(), best.end(), std::greater<>());
    std::vector<Vec3> places;
    for (const auto& one : best) {
        const Vec3 w = cloud.position(one.second);
        if (std::all_of(places.begin(), places.end(), [&](const Vec3& p) { return norm(p - w) > apart; }))
            places.push_back(w);
        if (places.size() == kPlaces) break;
    }
    return places;
}

}  // namespace pristine::score
