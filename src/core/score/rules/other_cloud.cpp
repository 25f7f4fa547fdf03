// How far from the nearest point of another cloud.

#include <algorithm>
#include <cmath>

#include "core/score/score.h"
#include "core/select/cell_index.h"

namespace pristine::score {
namespace {

// Cubes of growing size: the small ones answer where the clouds are near each other, as they mostly are.
class Nearest {
  public:
    Nearest(const cloud::PointCloud& other, const ElementSet& members, double reach, Progress& progress) {
        for (const double share : {1.0 / 27, 1.0 / 5, 1.0})
            indexes_.emplace_back(other, members, reach * share, progress);
        reach_ = reach;
    }
    // At most reach.
    double distance(const Vec3& w) const {
        double best = reach_;
        for (const select::CellIndex& index : indexes_) {
            const Vec3 p = w - index.origin();
            const double far = std::min(best, index.side());
            const auto x = static_cast<float>(p.x), y = static_cast<float>(p.y), z = static_cast<float>(p.z);
            auto least = static_cast<float>(best * best);
            index.around(x, y, z, [&](std::uint32_t from, std::uint32_t to) {
                for (std::uint32_t k = from; k < to; ++k) {
                    const auto& e = index.entries()[k];
                    const float dx = e.x - x, dy = e.y - y, dz = e.z - z;
                    least = std::min(least, dx * dx + dy * dy + dz * dz);
                }
                return false;
            });
            best = std::min(best, std::sqrt(static_cast<double>(least)));
            // Nothing beyond the cubes looked at is nearer than their side.
            if (best <= far) break;
        }
        return best;
    }

  private:
    std::vector<select::CellIndex> indexes_;
    double reach_ = 1;
};

Column distance_to_cloud(const Input& in, const Parameters& p, Progress& progress) {
    if (!in.other || !in.other_members)
        throw Error(ErrorCode::Usage, "It is not said which cloud to measure the distance to", {},
                    "Choose another item, or give --reference on the command line.");
    const Nearest nearest(*in.other, *in.other_members, p.at("reach"), progress);
    Column c;
    c.values = for_members(in, progress, [&](std::size_t page, std::vector<float>& values) {
        const cloud::PositionPage points = in.cloud.positions(page);
        in.eligible.for_each_in_page(page, [&](std::size_t i) {
            values[i] = static_cast<float>(
                nearest.distance(in.cloud.grid().world(points.x[i], points.y[i], points.z[i])));
        });
    });
    return c;
}

}  // namespace

void add_other_cloud(std::vector<Score>& s) {
    Score score{"other",
                "Distance to another cloud",
                "length",
                "the other cloud has nothing here: new, gone, moved, or not seen there",
                "the other cloud has it too",
                "Where the other cloud is thin, everything is far from its points.",
                {{"reach", "Farthest", "length", "Farther counts as this far", 1, 0.01, 1000, false}},
                {},
                distance_to_cloud};
    score.needs_other = true;
    s.push_back(score);
}

}  // namespace pristine::score
