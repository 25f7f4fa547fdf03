#include "core/geometry/line_edit.h"

#include <algorithm>
#include <cmath>

#include "core/base/error.h"

namespace pristine {
namespace {

constexpr double kLongestMitre = 4;  // times the distance: corners sharper than about 30 degrees

double off(const Vec3& p, const Vec3& a, const Vec3& b) {
    const Vec3 d = b - a;
    const double length = dot(d, d);
    const double t = length > 0 ? std::clamp(dot(p - a, d) / length, 0.0, 1.0) : 0;
    return norm(p - (a + d * t));
}

// Marks what stays between two places that stay; without calls inside calls, lines are long.
void mark(const std::vector<Vec3>& points, std::size_t from, std::size_t to, double tolerance,
          std::vector<char>& stays, double& deviation) {
    std::vector<std::pair<std::size_t, std::size_t>> open{{from, to}};
    while (!open.empty()) {
        const auto [a, b] = open.back();
        open.pop_back();
        double farthest = 0;
        std::size_t at = a;
        for (std::size_t k = a + 1; k < b; ++k)
            if (const double d = off(points[k], points[a], points[b]); d > farthest) {
                farthest = d;
                at = k;
            }
        if (farthest <= tolerance) {
            deviation = std::max(deviation, farthest);
            continue;
        }
        stays[at] = 1;
        open.push_back({a, at});
        open.push_back({at, b});
    }
}

}  // namespace

Simplified simplified(const std::vector<Vec3>& points, bool closed, double tolerance) {
    if (!(tolerance >= 0)) throw Error(ErrorCode::Usage, "A tolerance is not below zero");
    if (points.size() < (closed ? 4u : 3u)) return {points, 0};
    std::vector<Vec3> line = points;
    std::size_t first = 0, middle = 0;
    if (closed) {
        // Two places that stay: the first, and the one farthest from it.
        for (std::size_t k = 1; k < points.size(); ++k)
            if (norm(points[k] - points[first]) > norm(points[middle] - points[first])) middle = k;
        line.push_back(points.front());
    }
    std::vector<char> stays(line.size(), 0);
    stays.front() = stays.back() = 1;
    Simplified out;
    if (closed) {
        stays[middle] = 1;
        mark(line, 0, middle, tolerance, stays, out.deviation);
        mark(line, middle, line.size() - 1, tolerance, stays, out.deviation);
        // A ring of two places is none: the third is the one that lies farthest off their line.
        if (std::count(stays.begin(), stays.end() - 1, 1) < 3) {
            std::size_t third = middle == 1 ? 2 : 1;
            for (std::size_t k = 1; k + 1 < line.size(); ++k)
                if (!stays[k] &&
                    off(line[k], line[0], line[middle]) > off(line[third], line[0], line[middle]))
                    third = k;
            stays[third] = 1;
        }
    } else {
        mark(line, 0, line.size() - 1, tolerance, stays, out.deviation);
    }
    for (std::size_t k = 0; k < line.size() - (closed ? 1 : 0); ++k)
        if (stays[k]) out.points.push_back(line[k]);
    return out;
}

std::vector<Vec3> beside(const std::vector<Vec3>& all, bool closed, double distance) {
    // Places that lie upon each other in plan have no direction between them.
    std::vector<Vec3> points;
    for (const Vec3& p : all)
        if (points.empty() || std::hypot(p.x - points.back().x, p.y - points.back().y) > 0)
            points.push_back(p);
    if (closed && points.size() > 1 &&
        std::hypot(points.front().x - points.back().x, points.front().y - points.back().y) == 0)
        points.pop_back();
    const std::size_t n = points.size();
    if (n < 2) throw Error(ErrorCode::Usage, "A line needs two different places in plan");
    const auto left_of = [&](std::size_t a, std::size_t b) {
        const double x = points[b].x - points[a].x, y = points[b].y - points[a].y, l = std::hypot(x, y);
        return Vec3{-y / l, x / l, 0};
    };
    std::vector<Vec3> out;
    for (std::size_t k = 0; k < n; ++k) {
        const bool has_before = closed || k > 0, has_after = closed || k + 1 < n;
        const Vec3 before = has_before ? left_of((k + n - 1) % n, k) : left_of(k, k + 1);
        const Vec3 after = has_after ? left_of(k, (k + 1) % n) : before;
        const Vec3 sum = before + after;
        const double half = 0.5 * norm(sum);  // cosine of half the turn
        if (half * kLongestMitre >= 1)
            out.push_back(points[k] + sum * (distance / (2 * half * half)));
        else {
            out.push_back(points[k] + before * distance);
            out.push_back(points[k] + after * distance);
        }
    }
    return out;
}

std::pair<std::vector<Vec3>, std::vector<Vec3>> split_at(const std::vector<Vec3>& points, bool closed,
                                                         std::size_t place) {
    if (place >= points.size()) throw Error(ErrorCode::Usage, "The line has no such place");
    const auto at = points.begin() + static_cast<std::ptrdiff_t>(place);
    if (closed) {
        std::vector<Vec3> open(at, points.end());
        open.insert(open.end(), points.begin(), at + 1);
        return {open, {}};
    }
    if (place == 0 || place + 1 == points.size())
        throw Error(ErrorCode::Usage, "A line is not split at its end");
    return {{points.begin(), at + 1}, {at, points.end()}};
}

std::vector<Vec3> joined_ends(const std::vector<Vec3>& first, const std::vector<Vec3>& second) {
    if (first.empty() || second.empty()) throw Error(ErrorCode::Usage, "There is nothing to join");
    std::vector<Vec3> a = first, b = second;
    const double ways[4] = {norm(a.back() - b.front()), norm(a.back() - b.back()),
                            norm(a.front() - b.front()), norm(a.front() - b.back())};
    const auto best = std::min_element(ways, ways + 4) - ways;
    if (best >= 2) std::reverse(a.begin(), a.end());
    if (best == 1 || best == 3) std::reverse(b.begin(), b.end());
    a.insert(a.end(), norm(a.back() - b.front()) == 0 ? b.begin() + 1 : b.begin(), b.end());
    return a;
}

}  // namespace pristine
