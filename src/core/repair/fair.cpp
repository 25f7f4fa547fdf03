#include "core/repair/fair.h"

#include <Eigen/Dense>
#include <Eigen/Sparse>
#include <algorithm>
#include <cmath>
#include <map>

namespace pristine::repair {
namespace {

using Sparse = Eigen::SparseMatrix<double>;
using Triplet = Eigen::Triplet<double>;

double cotangent(const Vec3& at, const Vec3& a, const Vec3& b) {
    const Vec3 u = a - at, v = b - at;
    const double s = norm(cross(u, v));
    // Of slivers the weights would swallow everything.
    return s > 0 ? std::clamp(dot(u, v) / s, -5.0, 5.0) : 0;
}

Vec3 middle_of(const FairProblem& p) {
    Box3 b;
    for (const Vec3& v : p.vertices) b.add(v);
    return b.centre();
}

// Cotangent weights of edges, kept positive, and areas of vertices, over some of the triangles.
struct Laplace {
    Sparse weights;  // symmetric, zero diagonal
    Eigen::VectorXd areas;

    Laplace(const FairProblem& p, std::size_t triangles) {
        std::vector<Triplet> all;
        const auto n = static_cast<Eigen::Index>(p.vertices.size());
        areas = Eigen::VectorXd::Zero(n);
        for (std::size_t t = 0; t < triangles; ++t) {
            const auto& c = p.triangles[t];
            const Vec3 &a = p.vertices[c[0]], &b = p.vertices[c[1]], &d = p.vertices[c[2]];
            const double area = norm(cross(b - a, d - a)) / 6;
            for (std::size_t k = 0; k < 3; ++k) {
                const std::uint32_t i = c[(k + 1) % 3], j = c[(k + 2) % 3];
                const double w = 0.5 * cotangent(p.vertices[c[k]], p.vertices[i], p.vertices[j]);
                all.emplace_back(static_cast<int>(i), static_cast<int>(j), w);
                all.emplace_back(static_cast<int>(j), static_cast<int>(i), w);
                areas(static_cast<Eigen::Index>(c[k])) += area;
            }
        }
        weights.resize(n, n);
        weights.setFromTriplets(all.begin(), all.end());
        for (Eigen::Index k = 0; k < weights.outerSize(); ++k)
            for (Sparse::InnerIterator it(weights, k); it; ++it) it.valueRef() = std::max(it.value(), 0.02);
        const double least = 1e-6 * areas.maxCoeff();
        areas = areas.cwiseMax(least);
    }
};

// Numbers of the free vertices; the others have none.
std::vector<Eigen::Index> numbers(const FairProblem& p, Eigen::Index& count) {
    std::vector<Eigen::Index> number(p.vertices.size(), -1);
    count = 0;
    for (std::size_t v = 0; v < number.size(); ++v)
        if (p.free[v]) number[v] = count++;
    return number;
}

// Rows of the Laplacian, each scaled; columns split into free vertices and what the fixed ones contribute.
struct Rows {
    Sparse free;
    Eigen::MatrixXd fixed;
};

Rows rows_of(const FairProblem& p, const Laplace& l, const std::vector<std::uint32_t>& at, const Vec3& origin,
             bool by_area) {
    Eigen::Index count = 0;
    const auto number = numbers(p, count);
    Rows r;
    r.free.resize(static_cast<Eigen::Index>(at.size()), count);
    r.fixed = Eigen::MatrixXd::Zero(static_cast<Eigen::Index>(at.size()), 3);
    std::vector<Triplet> all;
    for (std::size_t row = 0; row < at.size(); ++row) {
        const auto i = static_cast<Eigen::Index>(at[row]);
        const double scale = by_area ? 1 / std::sqrt(l.areas(i)) : 1;
        double sum = 0;
        const auto put = [&](Eigen::Index v, double w) {
            if (number[static_cast<std::size_t>(v)] >= 0) {
                all.emplace_back(static_cast<int>(row), static_cast<int>(number[static_cast<std::size_t>(v)]),
                                 w);
                return;
            }
            const Vec3 x = p.vertices[static_cast<std::size_t>(v)] - origin;
            for (int a = 0; a < 3; ++a) r.fixed(static_cast<Eigen::Index>(row), a) += w * x[a];
        };
        for (Sparse::InnerIterator it(l.weights, i); it; ++it) {
            put(it.row(), scale * it.value());
            sum += it.value();
        }
        put(i, -scale * sum);
    }
    r.free.setFromTriplets(all.begin(), all.end());
    return r;
}

// Least squares of all rows.
void solve(FairProblem& p, const Rows& r, const Vec3& origin) {
    if (r.free.cols() == 0) return;
    Sparse normal = r.free.transpose() * r.free;
    Eigen::SimplicialLDLT<Sparse> solver(normal);
    if (solver.info() != Eigen::Success) return;
    const Eigen::MatrixXd x = solver.solve(Eigen::MatrixXd(-(r.free.transpose() * r.fixed)));
    if (!x.allFinite()) return;
    Eigen::Index at = 0;
    for (std::size_t v = 0; v < p.vertices.size(); ++v)
        if (p.free[v]) {
            p.vertices[v] = origin + Vec3{x(at, 0), x(at, 1), x(at, 2)};
            ++at;
        }
}

std::vector<std::uint32_t> patch_vertices(const FairProblem& p, bool free_only) {
    std::vector<char> in(p.vertices.size(), 0);
    for (std::size_t t = 0; t < p.patch; ++t)
        for (const std::uint32_t v : p.triangles[t]) in[v] = 1;
    std::vector<std::uint32_t> out;
    for (std::uint32_t v = 0; v < in.size(); ++v)
        if (in[v] && (p.free[v] || !free_only)) out.push_back(v);
    return out;
}

// ---- a quadric through the surroundings: f = c . (1, x, y, z, xx, yy, zz, xy, xz, yz)

using Ten = Eigen::Matrix<double, 10, 1>;

Ten terms(const Vec3& p) {
    Ten t;
    t << 1, p.x, p.y, p.z, p.x * p.x, p.y * p.y, p.z * p.z, p.x * p.y, p.x * p.z, p.y * p.z;
    return t;
}

Eigen::Matrix<double, 10, 3> slopes(const Vec3& p) {
    Eigen::Matrix<double, 10, 3> s = Eigen::Matrix<double, 10, 3>::Zero();
    s(1, 0) = s(2, 1) = s(3, 2) = 1;
    s(4, 0) = 2 * p.x, s(5, 1) = 2 * p.y, s(6, 2) = 2 * p.z;
    s(7, 0) = p.y, s(7, 1) = p.x;
    s(8, 0) = p.z, s(8, 2) = p.x;
    s(9, 1) = p.z, s(9, 2) = p.y;
    return s;
}

struct FittedQuadric {
    Ten c;
    Vec3 origin;
    double scale = 1;

    Vec3 local(const Vec3& p) const { return (p - origin) * (1 / scale); }
    // Step along the gradient to f = 0, in world lengths.
    Vec3 step(const Vec3& world) const {
        const Vec3 p = local(world);
        const double f = c.dot(terms(p));
        const Eigen::Vector3d g = slopes(p).transpose() * c;
        const double gg = g.squaredNorm();
        if (!(gg > 1e-12)) return {0, 0, 0};
        return Vec3{g(0), g(1), g(2)} * (-f / gg * scale);
    }
    bool onto(Vec3& p) const {
        const Vec3 from = p;
        for (int i = 0; i < 12; ++i) p = p + step(p);
        return norm(p - from) < 3 * scale && norm(step(p)) < 1e-6 * scale;
    }
};

FittedQuadric fitted(const FairProblem& p, const std::vector<std::uint32_t>& at,
                     const std::vector<Vec3>& normals) {
    FittedQuadric q;
    Box3 box;
    for (const std::uint32_t v : at) box.add(p.vertices[v]);
    q.origin = box.centre();
    q.scale = std::max(box.diagonal() / 2, 1e-300);
    Eigen::Matrix<double, 10, 10> a = Eigen::Matrix<double, 10, 10>::Zero();
    Ten b = Ten::Zero();
    for (std::size_t k = 0; k < at.size(); ++k) {
        const Vec3 w = q.local(p.vertices[at[k]]);
        const Ten t = terms(w);
        // Places count more than the directions there, which are only as good as the triangles.
        a += 1000 * t * t.transpose();
        if (norm(normals[k]) == 0) continue;
        const auto s = slopes(w);
        a += s * s.transpose();
        b += s * Eigen::Vector3d(normals[k].x, normals[k].y, normals[k].z);
    }
    a.diagonal().array() += 1e-12 * a.trace();
    q.c = a.ldlt().solve(b);
    return q;
}

}  // namespace

void fair_flat(FairProblem& p) {
    const auto free = patch_vertices(p, true);
    const Vec3 origin = middle_of(p);
    // The film pulls itself tight: weights follow the shape.
    for (int round = 0; round < 3; ++round)
        solve(p, rows_of(p, Laplace(p, p.patch), free, origin, false), origin);
}

void fair_tangent(FairProblem& p) {
    fair_flat(p);
    auto all = patch_vertices(p, false);
    std::erase_if(all, [&](std::uint32_t v) { return !p.loose.empty() && p.loose[v]; });
    const Vec3 origin = middle_of(p);
    for (int round = 0; round < 3; ++round)
        solve(p, rows_of(p, Laplace(p, p.triangles.size()), all, origin, true), origin);
}

bool follow_curvature(FairProblem& p) {
    // The surroundings: every vertex that is not free, with its normal and the mean edge there.
    std::vector<Vec3> normal(p.vertices.size());
    double edge = 0;
    std::size_t edges = 0;
    for (std::size_t t = p.patch; t < p.triangles.size(); ++t) {
        const auto& c = p.triangles[t];
        const Vec3 n = cross(p.vertices[c[1]] - p.vertices[c[0]], p.vertices[c[2]] - p.vertices[c[0]]);
        for (std::size_t k = 0; k < 3; ++k) {
            normal[c[k]] = normal[c[k]] + n;
            edge += norm(p.vertices[c[(k + 1) % 3]] - p.vertices[c[k]]);
            ++edges;
        }
    }
    if (edges == 0) return false;
    // At the rim, and where the surroundings end, a normal knows one side only.
    std::vector<char> whole(p.vertices.size(), 1);
    std::map<std::pair<std::uint32_t, std::uint32_t>, int> sides;
    for (std::size_t t = p.patch; t < p.triangles.size(); ++t)
        for (std::size_t k = 0; k < 3; ++k)
            ++sides[std::minmax(p.triangles[t][k], p.triangles[t][(k + 1) % 3])];
    for (const auto& [ends, n] : sides)
        if (n == 1) whole[ends.first] = whole[ends.second] = 0;
    edge /= static_cast<double>(edges);
    std::vector<std::uint32_t> at;
    std::vector<Vec3> normals;
    for (std::uint32_t v = 0; v < p.vertices.size(); ++v)
        if (!p.free[v] && norm(normal[v]) > 0) {
            at.push_back(v);
            normals.push_back(whole[v] ? normalized(normal[v]) : Vec3{});
        }
    if (at.size() < 12) return false;
    const FittedQuadric q = fitted(p, at, normals);
    double sum = 0;
    for (const std::uint32_t v : at) sum += dot(q.step(p.vertices[v]), q.step(p.vertices[v]));
    if (!(std::sqrt(sum / static_cast<double>(at.size())) < 0.1 * edge)) return false;
    // Onto the quadric; what the rim is off is spread over the patch as a film would.
    const auto free = patch_vertices(p, true), all = patch_vertices(p, false);
    FairProblem off = p;
    for (const std::uint32_t v : all)
        if (!p.free[v]) off.vertices[v] = q.step(p.vertices[v]) * -1.0;
    solve(off, rows_of(off, Laplace(p, p.patch), free, {0, 0, 0}, false), {0, 0, 0});
    std::vector<Vec3> moved = p.vertices;
    for (const std::uint32_t v : free) {
        if (!q.onto(moved[v])) return false;
        moved[v] = moved[v] + off.vertices[v];
    }
    p.vertices = std::move(moved);
    return true;
}

}  // namespace pristine::repair
