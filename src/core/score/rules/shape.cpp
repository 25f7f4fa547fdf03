// The shape of the surface round a point: principal components of its nearest neighbours (as in Demantké et
// al. 2011, "Dimensionality based scale selection in 3D lidar point clouds").

#include <Eigen/Eigenvalues>
#include <algorithm>
#include <cmath>

#include "core/score/rules/neighbour_values.h"

namespace pristine::score {
namespace {

using cloud::NeighbourIndex;

struct Shape {
    double rough;                      // distance of the point to the plane through its neighbours
    double linear, planar, scattered;  // add up to 1
};

Shape shape_of(const NeighbourIndex& index, std::size_t i, const NeighbourIndex::Nearest& nearest) {
    const auto p = index.position(i);
    Eigen::Vector3d middle = Eigen::Vector3d::Zero();
    for (const std::uint32_t j : nearest.index) {
        const auto o = index.position(j);
        middle += Eigen::Vector3d(o[0] - p[0], o[1] - p[1], o[2] - p[2]);
    }
    middle /= static_cast<double>(nearest.index.size());
    Eigen::Matrix3d spread = Eigen::Matrix3d::Zero();
    for (const std::uint32_t j : nearest.index) {
        const auto o = index.position(j);
        const Eigen::Vector3d d = Eigen::Vector3d(o[0] - p[0], o[1] - p[1], o[2] - p[2]) - middle;
        spread += d * d.transpose();
    }
    Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d> solver;
    solver.computeDirect(spread / static_cast<double>(nearest.index.size()));
    const auto size = [&](int k) { return std::sqrt(std::max(0.0, solver.eigenvalues()(k))); };
    const double s1 = size(2), s2 = size(1), s3 = size(0);
    Shape s{std::fabs(middle.dot(solver.eigenvectors().col(0))), 0, 0, 0};
    if (s1 > 0) s = {s.rough, (s1 - s2) / s1, (s2 - s3) / s1, s3 / s1};
    return s;
}

template <class Value>
std::function<Column(const Input&, const Parameters&, Progress&)> from_shape(Value value) {
    return [value](const Input& in, const Parameters& p, Progress& progress) {
        const NeighbourIndex index(in.cloud, in.eligible, progress);
        SpillVector<float> values(index.size(), NAN);
        index.for_each_nearest(
            static_cast<unsigned>(p.at("neighbours")),
            [&](std::size_t i, const NeighbourIndex::Nearest& nearest) {
                if (nearest.index.size() >= 3)
                    values[i] = static_cast<float>(value(shape_of(index, i, nearest)));
            },
            progress);
        return in_place(in, index, values);
    };
}

}  // namespace

void add_shape(std::vector<Score>& s) {
    const Parameter k = neighbours_parameter(16);
    s.push_back({"roughness",
                 "Roughness",
                 "length",
                 "stands off the surface round it: noise, edges, vegetation",
                 "lies in a smooth surface",
                 "At edges and corners clean points are rough too.",
                 {k},
                 {},
                 from_shape([](const Shape& x) { return x.rough; })});
    s.push_back({"linear",
                 "Linear",
                 "",
                 "part of something thin and long: rails, wires, poles",
                 "not",
                 "Scan lines that are much closer along than across look like wires.",
                 {k},
                 {},
                 from_shape([](const Shape& x) { return x.linear; })});
    s.push_back({"planar",
                 "Planar",
                 "",
                 "part of a surface",
                 "not",
                 "Thin walls seen from both sides.",
                 {k},
                 {},
                 from_shape([](const Shape& x) { return x.planar; })});
    s.push_back({"scattered",
                 "Scattered",
                 "",
                 "spread in all directions: leaves, noise",
                 "in a line or a surface",
                 "Rough rubble is scattered as leaves are.",
                 {k},
                 {},
                 from_shape([](const Shape& x) { return x.scattered; })});
}

}  // namespace pristine::score
