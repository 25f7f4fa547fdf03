#include "core/place/pairs.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/base/error.h"

namespace pristine::place {
namespace {

constexpr double kOutlier = 3;
constexpr double kOnOneLine = 1e-6;  // part of the extent along the line

Eigen::Vector3d eigen(const Vec3& v) {
    return {v.x, v.y, v.z};
}

struct Centred {
    std::vector<Pair> pairs;  // about their middles
    Vec3 is, should;
};

Centred centred(const std::vector<Pair>& all, std::size_t without) {
    Centred c;
    for (std::size_t k = 0; k < all.size(); ++k)
        if (all[k].used && k != without) c.pairs.push_back(all[k]);
    if (c.pairs.empty()) return c;
    const double n = static_cast<double>(c.pairs.size());
    const Vec3 first_is = c.pairs[0].is, first_should = c.pairs[0].should;
    for (const Pair& p : c.pairs) {
        c.is = c.is + (p.is - first_is) * (1 / n);
        c.should = c.should + (p.should - first_should) * (1 / n);
    }
    c.is = c.is + first_is;
    c.should = c.should + first_should;
    for (Pair& p : c.pairs) {
        p.is = p.is - c.is;
        p.should = p.should - c.should;
    }
    return c;
}

std::size_t least_pairs(Freedom f) {
    return f == Freedom::Shift ? 1 : f == Freedom::Level ? 2 : 3;
}

void refuse_flat(const Centred& c, Freedom f) {
    if (f == Freedom::Shift) return;
    Eigen::Matrix3d spread = Eigen::Matrix3d::Zero();
    for (const Pair& p : c.pairs) {
        const Eigen::Vector3d d = eigen(f == Freedom::Level ? Vec3{p.is.x, p.is.y, 0} : p.is);
        spread += d * d.transpose();
    }
    const Eigen::Vector3d v = Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d>(spread).eigenvalues();
    if (!(v(2) > 0)) throw Error(ErrorCode::Usage, "The pairs lie in one place: they say nothing of a turn");
    if (f != Freedom::Level && v(1) <= kOnOneLine * kOnOneLine * v(2))
        throw Error(ErrorCode::Usage, "The pairs lie on one line: the turn about it stays open", {},
                    "Add a pair beside the line, or place by shift and turn about the vertical.");
}

Similarity solved(const Centred& c, Freedom f) {
    Similarity s;
    if (f == Freedom::Level) {
        double sine = 0, cosine = 0;
        for (const Pair& p : c.pairs) {
            cosine += p.is.x * p.should.x + p.is.y * p.should.y;
            sine += p.is.x * p.should.y - p.is.y * p.should.x;
        }
        s = Similarity::about({}, {0, 0, 1}, std::atan2(sine, cosine) * 180 / std::numbers::pi, 1, {});
    } else if (f != Freedom::Shift) {
        const auto n = static_cast<Eigen::Index>(c.pairs.size());
        Eigen::Matrix3Xd is(3, n), should(3, n);
        for (Eigen::Index k = 0; k < n; ++k) {
            is.col(k) = eigen(c.pairs[static_cast<std::size_t>(k)].is);
            should.col(k) = eigen(c.pairs[static_cast<std::size_t>(k)].should);
        }
        const Eigen::Matrix4d m = Eigen::umeyama(is, should, f == Freedom::Similarity);
        const Eigen::Matrix3d linear = m.topLeftCorner<3, 3>();
        s.scale = std::cbrt(linear.determinant());
        for (int row = 0; row < 3; ++row)
            for (int column = 0; column < 3; ++column)
                s.move.rotation[static_cast<std::size_t>(3 * row + column)] = linear(row, column) / s.scale;
    }
    s.move.shift = c.should - s.move.turned(c.is) * s.scale;
    return s;
}

}  // namespace

Placed by_pairs(const std::vector<Pair>& pairs, Freedom freedom) {
    constexpr std::size_t kNone = static_cast<std::size_t>(-1);
    const Centred all = centred(pairs, kNone);
    if (all.pairs.size() < least_pairs(freedom))
        throw Error(ErrorCode::Usage, "That many parameters need " + std::to_string(least_pairs(freedom)) +
                                          " pairs; there are " + std::to_string(all.pairs.size()));
    refuse_flat(all, freedom);
    Placed out;
    out.placement = solved(all, freedom);
    double sum = 0;
    for (const Pair& p : pairs) {
        Residual r;
        r.off = out.placement(p.is) - p.should;
        r.size = norm(r.off);
        r.used = p.used;
        if (p.used) {
            sum += r.size * r.size;
            out.worst = std::max(out.worst, r.size);
        }
        out.residuals.push_back(r);
    }
    const double n = static_cast<double>(all.pairs.size());
    out.rms = std::sqrt(sum / n);
    const double parameters = freedom == Freedom::Shift   ? 3
                              : freedom == Freedom::Level ? 4
                              : freedom == Freedom::Rigid ? 6
                                                          : 7;
    out.sigma = 3 * n > parameters ? std::sqrt(sum / (3 * n - parameters)) : NAN;
    // Each as the others would place it; that needs one more than it takes.
    for (std::size_t k = 0; k < pairs.size(); ++k) {
        const Centred rest = centred(pairs, k);
        if (rest.pairs.size() < least_pairs(freedom) + 1) continue;
        try {
            refuse_flat(rest, freedom);
        } catch (const Error&) {
            continue;
        }
        const Similarity by_others = solved(rest, freedom);
        double others = 0;
        for (std::size_t o = 0; o < pairs.size(); ++o)
            if (o != k && pairs[o].used) {
                const Vec3 off = by_others(pairs[o].is) - pairs[o].should;
                others += dot(off, off);
            }
        const double left = 3 * static_cast<double>(rest.pairs.size()) - parameters;
        const double usual = std::sqrt(3 * others / std::max(1.0, left));
        // One at the edge of all pairs turns with its own error: the studentized residual is the geometric
        // mean of what it is off with and without it (Cook & Weisberg 1982).
        const double without = norm(by_others(pairs[k].is) - pairs[k].should);
        const double own = pairs[k].used ? std::sqrt(without * out.residuals[k].size) : without;
        out.residuals[k].outlier = own > kOutlier * usual && own > 1e-9;
    }
    return out;
}

}  // namespace pristine::place
