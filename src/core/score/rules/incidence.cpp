// How slantingly the beam met the surface.

#include <Eigen/Eigenvalues>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/cloud/column.h"
#include "core/score/rules/neighbour_values.h"

namespace pristine::score {
namespace {

using cloud::NeighbourIndex;

// Stations of the points: by the scan that each belongs to, or the only one there is.
class Origins {
  public:
    Origins(const Input& in, Progress& progress) : in_(in) {
        if (in.cloud.stations().size() > 1) scan_ = cloud::fetch_column(in.cloud, "scan", progress);
    }
    const Vec3* of(std::uint64_t element) const {
        const auto& stations = in_.cloud.stations();
        if (!scan_) return &stations[0].position;
        const double s = scan_->base + static_cast<double>(scan_->values[element]);
        return s >= 0 && s < static_cast<double>(stations.size())
                   ? &stations[static_cast<std::size_t>(s)].position
                   : nullptr;
    }

  private:
    const Input& in_;
    std::shared_ptr<const cloud::FetchedColumn> scan_;
};

std::string no_normals(const Input& in) {
    const cloud::PointCloud& c = in.cloud;
    if (c.stations().empty()) return "The cloud does not say where its stations stood";
    if (c.stations().size() > 1 && !c.records()->layout().find("scan"))
        return "The cloud does not say which station measured which point";
    return {};
}

Column incidence(const Input& in, const Parameters& p, Progress& progress) {
    const Origins origins(in, progress);
    const NeighbourIndex index(in.cloud, in.eligible, progress);
    SpillVector<float> values(index.size(), NAN);
    index.for_each_nearest(
        static_cast<unsigned>(p.at("neighbours")),
        [&](std::size_t i, const NeighbourIndex::Nearest& nearest) {
            const Vec3* station = origins.of(index.element(i));
            if (!station || nearest.index.size() < 3) return;
            const auto own = index.position(i);
            const auto offset = [&](std::uint32_t j) {
                const auto o = index.position(j);
                return Eigen::Vector3d(static_cast<double>(o[0] - own[0]), static_cast<double>(o[1] - own[1]),
                                       static_cast<double>(o[2] - own[2]));
            };
            // The point itself counts as well.
            const auto n = static_cast<double>(nearest.index.size() + 1);
            Eigen::Vector3d middle = Eigen::Vector3d::Zero();
            for (const std::uint32_t j : nearest.index) middle += offset(j);
            middle /= n;
            Eigen::Matrix3d spread = middle * middle.transpose();
            for (const std::uint32_t j : nearest.index)
                spread += (offset(j) - middle) * (offset(j) - middle).transpose();
            Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d> solver;
            solver.computeDirect(spread);
            const Eigen::Vector3d normal = solver.eigenvectors().col(0);
            const Vec3 beam = normalized(in.cloud.position(index.element(i)) - *station);
            const double cosine = std::fabs(beam.x * normal.x() + beam.y * normal.y() + beam.z * normal.z());
            values[i] = static_cast<float>(std::acos(std::min(1.0, cosine)) * 180 / std::numbers::pi);
        },
        progress);
    return in_place(in, index, values);
}

}  // namespace

void add_incidence(std::vector<Score>& s) {
    s.push_back({"incidence",
                 "Incidence angle",
                 "angle",
                 "hit at a glancing angle: noisy, drawn out (90 is along the surface)",
                 "hit straight on (0)",
                 "At edges, and where the surface is no surface: leaves, wires.",
                 {neighbours_parameter(12)},
                 no_normals,
                 incidence});
}

}  // namespace pristine::score
