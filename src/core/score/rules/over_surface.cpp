// How far over or under a terrain surface.

#include <cmath>
#include <limits>

#include "core/cloud/triangles.h"
#include "core/mesh/tri_mesh.h"
#include "core/score/score.h"
#include "core/surface/box_grid.h"

namespace pristine::score {
namespace {

// Heights of a surface by place in plan. Places are taken from a corner of it, so that they keep their
// digits.
class Heights {
  public:
    Heights(const cloud::PointCloud& c, const ElementSet& members)
        : mesh_(*c.triangles()), origin_(c.bounds().lo), boxes_(boxes_of(members)), grid_(boxes_) {}

    // Not-a-number where there is no triangle.
    double at(const Vec3& w) const {
        const double x = w.x - origin_.x, y = w.y - origin_.y;
        double z = std::numeric_limits<double>::quiet_NaN();
        grid_.meeting({x, y, x, y}, [&](std::uint32_t t) {
            if (z == z) return;
            const Vec3 a = corner(t, 0), b = corner(t, 1), c = corner(t, 2);
            const double area = (b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x);
            if (area == 0) return;
            const double u = ((x - a.x) * (c.y - a.y) - (y - a.y) * (c.x - a.x)) / area,
                         v = ((b.x - a.x) * (y - a.y) - (b.y - a.y) * (x - a.x)) / area;
            constexpr double kHair = -1e-9;  // on an edge it belongs to both
            if (u >= kHair && v >= kHair && 1 - u - v >= kHair) z = a.z + u * (b.z - a.z) + v * (c.z - a.z);
        });
        return z + origin_.z;
    }

  private:
    Vec3 corner(std::uint32_t t, std::size_t k) const {
        return mesh_.vertices[mesh_.triangles[t][k]] - origin_;
    }
    std::vector<surface::PlanBox> boxes_of(const ElementSet& members) const {
        std::vector<surface::PlanBox> boxes(mesh_.triangles.size());
        members.for_each([&](std::uint64_t t) {
            for (std::size_t k = 0; k < 3; ++k) {
                const Vec3 p = corner(static_cast<std::uint32_t>(t), k);
                boxes[t].add(p.x, p.y);
            }
        });
        return boxes;
    }

    const mesh::TriMesh& mesh_;
    Vec3 origin_;
    std::vector<surface::PlanBox> boxes_;
    surface::BoxGrid grid_;
};

Column height(const Input& in, const Parameters&, Progress& progress) {
    if (!in.other || !in.other_members || !cloud::is_surface(*in.other))
        throw Error(ErrorCode::Usage, "It is not said which surface to measure the height from", {},
                    "Choose an item that is a terrain surface, or give one by --reference.");
    const Heights heights(*in.other, *in.other_members);
    Column c;
    c.values = for_members(in, progress, [&](std::size_t page, std::vector<float>& values) {
        const cloud::PositionPage points = in.cloud.positions(page);
        in.eligible.for_each_in_page(page, [&](std::size_t i) {
            const Vec3 w = in.cloud.grid().world(points.x[i], points.y[i], points.z[i]);
            values[i] = static_cast<float>(w.z - heights.at(w));
        });
    });
    return c;
}

}  // namespace

void add_over_surface(std::vector<Score>& s) {
    Score score{
        "over",
        "Height over another surface",
        "length",
        "it lies over the surface: machines, heaps, vegetation, or ground that was added",
        "it lies under the surface: excavated, or a point that dived",
        "Where the surface has a hole or ends there is no value. Under overhangs it counts upright only.",
        {},
        {},
        height};
    score.needs_other = true;
    score.applies = Score::Applies::Both;
    s.push_back(score);
}

}  // namespace pristine::score
