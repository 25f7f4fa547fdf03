#include "core/measure/smooth_contours.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <memory>

#include "core/base/error.h"
#include "core/base/parallel.h"
#include "core/geometry/predicates.h"
#include "core/surface/box_grid.h"

namespace pristine::measure {
namespace {

constexpr double kShareOfInterval = 0.45;
constexpr int kRounds = 24;  // of smoothing, there and back
constexpr double kShrink = 0.5, kGrow = -0.53;
constexpr int kHalvings = 5;  // then a place that still breaks a law stays where it was

// One round along a line; ends of an open line stay. Neighbours count by how near they are.
void relax(std::vector<Vec3>& p, bool closed, double factor) {
    const std::size_t n = p.size();
    const std::vector<Vec3> was = p;
    for (std::size_t i = closed ? 0 : 1; i < (closed ? n : n - 1); ++i) {
        const Vec3 &a = was[(i + n - 1) % n], &b = was[i], &c = was[(i + 1) % n];
        const double la = std::hypot(b.x - a.x, b.y - a.y), lc = std::hypot(c.x - b.x, c.y - b.y);
        if (!(la + lc > 0)) continue;
        const double wa = lc / (la + lc), wc = la / (la + lc);
        p[i].x += factor * (wa * a.x + wc * c.x - b.x);
        p[i].y += factor * (wa * a.y + wc * c.y - b.y);
    }
}

std::vector<Vec3> wanted_of(const Contour& c, double most) {
    std::vector<Vec3> p = c.points;
    if (p.size() < 3) return p;
    for (int r = 0; r < kRounds; ++r) {
        relax(p, c.closed, kShrink);
        relax(p, c.closed, kGrow);
    }
    for (std::size_t i = 0; i < p.size(); ++i) {
        const double dx = p[i].x - c.points[i].x, dy = p[i].y - c.points[i].y, d = std::hypot(dx, dy);
        if (d <= most) continue;
        p[i].x = c.points[i].x + dx * most / d;
        p[i].y = c.points[i].y + dy * most / d;
    }
    return p;
}

// Heights of a surface along straight segments in plan.
class Ground {
  public:
    explicit Ground(const mesh::TriMesh& m) : mesh_(m), boxes_(boxes_of(m)), grid_(boxes_) {}
    // How far the surface is from the level at most along it; infinity where there is no surface.
    double farthest(const Vec3& a, const Vec3& b, double level) const {
        const double length = std::hypot(b.x - a.x, b.y - a.y);
        if (length == 0) return 0;
        surface::PlanBox box;
        box.add(a.x, a.y);
        box.add(b.x, b.y);
        double covered = 0, worst = 0;
        grid_.meeting(box, [&](std::uint32_t t) {
            const auto [from, to] = inside(t, a, b);
            if (!(from < to)) return;
            covered += to - from;
            for (const double s : {from, to})
                worst = std::max(worst,
                                 std::fabs(height(t, a.x + s * (b.x - a.x), a.y + s * (b.y - a.y)) - level));
        });
        return covered > 1 - 1e-6 ? worst : INFINITY;
    }

  private:
    static std::vector<surface::PlanBox> boxes_of(const mesh::TriMesh& m) {
        std::vector<surface::PlanBox> boxes(m.triangles.size());
        for (std::size_t t = 0; t < boxes.size(); ++t)
            for (const std::uint32_t v : m.triangles[t]) boxes[t].add(m.vertices[v].x, m.vertices[v].y);
        return boxes;
    }
    // Which part of the segment lies in a triangle, of 0 to 1.
    std::pair<double, double> inside(std::uint32_t t, const Vec3& a, const Vec3& b) const {
        double from = 0, to = 1;
        const auto& c = mesh_.triangles[t];
        for (std::size_t k = 0; k < 3; ++k) {
            const Vec3 &p = mesh_.vertices[c[k]], &q = mesh_.vertices[c[(k + 1) % 3]];
            const auto side = [&](const Vec3& at) {
                return (q.x - p.x) * (at.y - p.y) - (q.y - p.y) * (at.x - p.x);
            };
            const double sa = side(a), sb = side(b);
            if (sa < 0 && sb < 0) return {1, 0};
            if (sa < 0) from = std::max(from, sa / (sa - sb));
            if (sb < 0) to = std::min(to, sa / (sa - sb));
        }
        return {from, to};
    }
    double height(std::uint32_t t, double x, double y) const {
        const auto& c = mesh_.triangles[t];
        const Vec3 &p = mesh_.vertices[c[0]], &q = mesh_.vertices[c[1]], &r = mesh_.vertices[c[2]];
        const double w = (q.x - p.x) * (r.y - p.y) - (q.y - p.y) * (r.x - p.x);
        const double u = ((x - p.x) * (r.y - p.y) - (y - p.y) * (r.x - p.x)) / w,
                     v = ((q.x - p.x) * (y - p.y) - (q.y - p.y) * (x - p.x)) / w;
        return p.z + u * (q.z - p.z) + v * (r.z - p.z);
    }
    const mesh::TriMesh& mesh_;
    std::vector<surface::PlanBox> boxes_;
    surface::BoxGrid grid_;  // refers to them
};

// The lines of one level while they are smoothed.
class Level {
  public:
    Level(const Ground& ground, const std::vector<Contour>& all, const std::vector<std::size_t>& which,
          double cap, double most)
        : ground_(ground), cap_(cap) {
        for (const std::size_t k : which) {
            const Contour& c = all[k];
            lines_.push_back({&c, wanted_of(c, most), c.points, std::vector<double>(c.points.size(), 1)});
            for (std::size_t i = 0; i + (c.closed ? 0 : 1) < c.points.size(); ++i)
                segments_.push_back({lines_.size() - 1, i, (i + 1) % c.points.size()});
        }
    }

    void settle(Progress& progress) {
        for (int round = 0;; ++round) {
            progress.check();
            move();
            std::vector<bool> bad(segments_.size());
            for (std::size_t s = 0; s < segments_.size(); ++s)
                bad[s] = moved(s) && !(ground_.farthest(place(s, 0), place(s, 1), level(s)) <= cap_);
            mark_crossings(bad);
            if (std::none_of(bad.begin(), bad.end(), [](bool b) { return b; })) return;
            for (std::size_t s = 0; s < segments_.size(); ++s)
                if (bad[s])
                    for (const std::size_t i : {segments_[s].from, segments_[s].to}) {
                        double& part = lines_[segments_[s].line].part[i];
                        part = round < kHalvings ? std::min(part, std::pow(0.5, round + 1)) : 0;
                    }
        }
    }

    void report(const std::vector<std::size_t>& which, SmoothContours& out) const {
        for (std::size_t k = 0; k < lines_.size(); ++k) {
            const Line& l = lines_[k];
            out.contours[which[k]].points = l.now;
            for (std::size_t i = 0; i < l.now.size(); ++i) {
                const Vec3& p = l.given->points[i];
                out.plan = std::max(out.plan, std::hypot(l.now[i].x - p.x, l.now[i].y - p.y));
                out.held += l.part[i] < 1;
            }
        }
        for (std::size_t s = 0; s < segments_.size(); ++s)
            if (moved(s))
                out.height = std::max(out.height, ground_.farthest(place(s, 0), place(s, 1), level(s)));
    }

  private:
    struct Line {
        const Contour* given;
        std::vector<Vec3> wanted, now;
        std::vector<double> part;  // of the way to where it is wanted
    };
    struct Segment {
        std::size_t line, from, to;
    };
    void move() {
        for (Line& l : lines_)
            for (std::size_t i = 0; i < l.now.size(); ++i) {
                const Vec3 &a = l.given->points[i], &b = l.wanted[i];
                l.now[i].x = a.x + l.part[i] * (b.x - a.x);
                l.now[i].y = a.y + l.part[i] * (b.y - a.y);
            }
    }
    const Vec3& place(std::size_t s, int end) const {
        const Segment& g = segments_[s];
        return lines_[g.line].now[end == 0 ? g.from : g.to];
    }
    double level(std::size_t s) const { return lines_[segments_[s].line].given->level; }
    bool moved(std::size_t s) const {
        const Segment& g = segments_[s];
        return lines_[g.line].part[g.from] > 0 || lines_[g.line].part[g.to] > 0;
    }
    bool share_an_end(std::size_t s, std::size_t o) const {
        const Segment &a = segments_[s], &b = segments_[o];
        return a.line == b.line && (a.from == b.from || a.from == b.to || a.to == b.from || a.to == b.to);
    }
    // Lines that were true to the triangles did not cross: where two cross or touch now, one has moved.
    void mark_crossings(std::vector<bool>& bad) const {
        std::vector<surface::PlanBox> boxes(segments_.size());
        for (std::size_t s = 0; s < segments_.size(); ++s)
            for (const int end : {0, 1}) boxes[s].add(place(s, end).x, place(s, end).y);
        const surface::BoxGrid grid(boxes);
        for (std::size_t s = 0; s < segments_.size(); ++s) {
            if (!moved(s)) continue;
            grid.meeting(boxes[s], [&](std::uint32_t o) {
                if (o == s || share_an_end(s, o)) return;
                const Vec3 &a = place(s, 0), &b = place(s, 1), &c = place(o, 0), &d = place(o, 1);
                const auto side = [](const Vec3& p, const Vec3& q, const Vec3& r) {
                    return orientation(p.x, p.y, q.x, q.y, r.x, r.y);
                };
                if (side(a, b, c) * side(a, b, d) <= 0 && side(c, d, a) * side(c, d, b) <= 0)
                    bad[s] = true, bad[o] = bad[o] || moved(o);
            });
        }
    }
    const Ground& ground_;
    double cap_;
    std::vector<Line> lines_;
    std::vector<Segment> segments_;
};

}  // namespace

SmoothContours smoothed(const mesh::TriMesh& mesh, const std::vector<Contour>& contours, double interval,
                        double most, Progress& progress) {
    if (!(most > 0) || !std::isfinite(most))
        throw Error(ErrorCode::Usage, "Contours are smoothed by more than nothing", {},
                    "Say how far a place may move.");
    const Ground ground(mesh);
    std::map<double, std::vector<std::size_t>> levels;
    for (std::size_t k = 0; k < contours.size(); ++k) levels[contours[k].level].push_back(k);
    std::vector<const std::vector<std::size_t>*> which;
    for (const auto& [level, lines] : levels) which.push_back(&lines);
    SmoothContours out;
    out.contours = contours;
    const auto settled = parallel::map<std::shared_ptr<Level>>(which.size(), [&](std::size_t k) {
        progress.check();
        auto level = std::make_shared<Level>(ground, contours, *which[k], kShareOfInterval * interval, most);
        level->settle(progress);
        return level;
    });
    for (std::size_t k = 0; k < which.size(); ++k) settled[k]->report(*which[k], out);
    return out;
}

}  // namespace pristine::measure
