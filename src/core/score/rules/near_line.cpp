// How far from a line of the site, in plan: what lies along a road, a fence or a pipe.

#include <algorithm>
#include <cmath>

#include "core/base/error.h"
#include "core/score/score.h"

namespace pristine::score {
namespace {

struct Segment {
    Vec3 from, to;
};

double in_plan(const Segment& s, double x, double y) {
    const double dx = s.to.x - s.from.x, dy = s.to.y - s.from.y, length = dx * dx + dy * dy;
    const double t =
        length > 0 ? std::clamp(((x - s.from.x) * dx + (y - s.from.y) * dy) / length, 0.0, 1.0) : 0;
    return std::hypot(x - s.from.x - t * dx, y - s.from.y - t * dy);
}

// Those that may be the nearest to a point of the box: no farther from its middle than the nearest one and
// the whole diagonal.
std::vector<Segment> near_box(const std::vector<Segment>& all, const Box3& box) {
    const Vec3 middle = (box.lo + box.hi) * 0.5;
    const double reach = std::hypot(box.hi.x - box.lo.x, box.hi.y - box.lo.y);
    double nearest = INFINITY;
    for (const Segment& s : all) nearest = std::min(nearest, in_plan(s, middle.x, middle.y));
    std::vector<Segment> near;
    for (const Segment& s : all)
        if (in_plan(s, middle.x, middle.y) <= nearest + reach) near.push_back(s);
    return near;
}

Column distance_to_line(const Input& in, const Parameters&, Progress& progress) {
    if (!in.line || in.line->empty())
        throw Error(ErrorCode::Usage, "It is not said which line distances are taken from", {},
                    "Draw or add a line and choose it, or give --line on the command line.");
    std::vector<Segment> segments;
    for (std::size_t i = 1; i < in.line->size(); ++i) segments.push_back({(*in.line)[i - 1], (*in.line)[i]});
    if (segments.empty()) segments.push_back({in.line->front(), in.line->front()});
    Column c;
    c.values = for_members(in, progress, [&](std::size_t page, std::vector<float>& values) {
        const auto near = near_box(segments, world_box(in.cloud.info(page).bounds, in.cloud.grid()));
        const cloud::PositionPage points = in.cloud.positions(page);
        in.eligible.for_each_in_page(page, [&](std::size_t i) {
            const Vec3 p = in.cloud.grid().world(points.x[i], points.y[i], points.z[i]);
            double least = INFINITY;
            for (const Segment& s : near) least = std::min(least, in_plan(s, p.x, p.y));
            values[i] = static_cast<float>(least);
        });
    });
    return c;
}

}  // namespace

void add_near_line(std::vector<Score>& s) {
    Score score{"line",
                "Distance from a line, in plan",
                "length",
                "far from the line",
                "along it, at any height",
                "A closed line counts without its last side unless its first place is given again.",
                {},
                {},
                distance_to_line};
    score.needs_line = true;
    score.line_title = "Line";
    score.reason = "%1 from the line";
    s.push_back(score);
}

}  // namespace pristine::score
