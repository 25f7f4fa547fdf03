#include "render/facets.h"

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>

namespace pristine::render {
namespace {

// On the screen: pixels, and what is linear there of the depth (1 / depth in perspective).
struct Corner {
    double x, y, w;
};

// A corner in the view: along right, down and ahead.
struct Placed {
    double right, down, depth;
};

class Painter {
  public:
    Painter(const ViewFrame& v, const Target& t) : v_(v), t_(t) {}

    void draw(const std::array<Vec3, 3>& triangle, std::uint32_t id) const {
        std::array<Placed, 3> p;
        int behind = 0;
        for (std::size_t k = 0; k < 3; ++k) {
            const Vec3 d = triangle[k] - v_.eye;
            p[k] = {dot(d, v_.right), dot(d, v_.down), dot(d, v_.ahead)};
            behind += !(p[k].depth > v_.near_depth);
        }
        if (behind == 3) return;
        if (behind == 0) return fill(on_screen(p[0]), on_screen(p[1]), on_screen(p[2]), id);
        // Cut at the near plane: three or four corners are left.
        std::array<Corner, 4> left;
        std::size_t n = 0;
        const double near = v_.near_depth * (1 + 1e-9) + 1e-12;
        for (std::size_t k = 0; k < 3; ++k) {
            const Placed &a = p[k], &b = p[(k + 1) % 3];
            const bool a_in = a.depth > v_.near_depth, b_in = b.depth > v_.near_depth;
            if (a_in) left[n++] = on_screen(a);
            if (a_in != b_in) {
                const double f = (near - a.depth) / (b.depth - a.depth);
                left[n++] =
                    on_screen({a.right + f * (b.right - a.right), a.down + f * (b.down - a.down), near});
            }
        }
        for (std::size_t k = 2; k < n; ++k) fill(left[0], left[k - 1], left[k], id);
    }

  private:
    Corner on_screen(const Placed& p) const {
        const double s = v_.perspective ? v_.scale / p.depth : v_.scale;
        return {v_.centre_x + p.right * s, v_.centre_y + p.down * s, v_.perspective ? 1 / p.depth : p.depth};
    }

    void fill(Corner a, Corner b, Corner c, std::uint32_t id) const {
        double area = (b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x);
        if (area < 0) std::swap(b, c), area = -area;
        if (!(area > 0)) return;
        const double top = std::min({a.y, b.y, c.y}), bottom = std::max({a.y, b.y, c.y});
        if (bottom < 0 || top > t_.height) return;
        const int y0 = std::max(0, static_cast<int>(std::ceil(top - 0.5))),
                  y1 = std::min(t_.height - 1, static_cast<int>(std::floor(bottom - 0.5)));
        // w = w0 + wx x + wy y
        const double wx = ((b.w - a.w) * (c.y - a.y) - (c.w - a.w) * (b.y - a.y)) / area,
                     wy = ((c.w - a.w) * (b.x - a.x) - (b.w - a.w) * (c.x - a.x)) / area;
        for (int y = y0; y <= y1; ++y) {
            const double py = y + 0.5;
            double lo = -INFINITY, hi = INFINITY;
            // The stretch of the row inside all three edges.
            const auto edge = [&](const Corner& p, const Corner& q) {
                const double dy = q.y - p.y;
                if (dy == 0) {
                    if ((q.x - p.x) * (py - p.y) < 0) lo = INFINITY;
                    return;
                }
                const double x = p.x + (py - p.y) / dy * (q.x - p.x);
                if (dy < 0)
                    lo = std::max(lo, x);
                else
                    hi = std::min(hi, x);
            };
            edge(a, b), edge(b, c), edge(c, a);
            if (!(lo <= hi) || hi < 0 || lo > t_.width) continue;
            const int x0 = std::max(0, static_cast<int>(std::ceil(lo - 0.5))),
                      x1 = std::min(t_.width - 1, static_cast<int>(std::floor(hi - 0.5)));
            std::uint64_t* row = t_.keys + static_cast<std::size_t>(y) * static_cast<std::size_t>(t_.width);
            double w = a.w + wx * (x0 + 0.5 - a.x) + wy * (py - a.y);
            for (int x = x0; x <= x1; ++x, w += wx) {
                const auto depth = static_cast<float>(v_.perspective ? 1 / w : w);
                if (!(depth > 0)) continue;
                const std::uint64_t key = std::uint64_t{std::bit_cast<std::uint32_t>(depth)} << 32 | id;
                row[x] = std::min(row[x], key);
            }
        }
    }

    const ViewFrame& v_;
    const Target& t_;
};

}  // namespace

void draw_facets(const ViewFrame& view, const mesh::TriMesh& m, const FacetRun& run, const Target& target) {
    const Painter painter(view, target);
    const std::size_t first = run.page * kPageSize, last = std::min(m.triangles.size(), first + kPageSize);
    const auto kind = run.set ? run.set->kind(run.page) : ElementSet::Kind::None;
    for (std::size_t t = first; t < last; ++t) {
        const bool member = kind == ElementSet::Kind::All ||
                            (kind == ElementSet::Kind::Some && run.set->bits(run.page)->test(t - first));
        if (member != run.draw_members) continue;
        const auto& c = m.triangles[t];
        painter.draw({m.vertices[c[0]], m.vertices[c[1]], m.vertices[c[2]]},
                     run.first_id + static_cast<std::uint32_t>(t - first));
    }
}

}  // namespace pristine::render
