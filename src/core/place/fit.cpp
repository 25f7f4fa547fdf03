#include "core/place/fit.h"

#include <fmt/format.h>

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/base/error.h"
#include "core/base/parallel.h"
#include "core/place/surfels.h"

namespace pristine::place {
namespace {

constexpr int kMostRounds = 40;   // at each size of cubes
constexpr double kTukey = 4.685;  // times the scale: what is farther has no weight
constexpr double kMedianToSigma = 1.4826;
constexpr double kSpacings = 8;  // of the sparser cloud, least side of a cube
constexpr double kOpen = 1e-3;   // of the best determined freedom: less is open
constexpr double kStill = 2e-4;  // of the noise: a step that is no step
constexpr double kLeastOverlap = 0.02;
constexpr double kFarther = 1.5;            // times the reach that any place may be moved
constexpr std::size_t kFewestPlaces = 100;  // places that count
constexpr std::size_t kChunk = 8192;

using Vector6 = Eigen::Matrix<double, 6, 1>;
using Matrix6 = Eigen::Matrix<double, 6, 6>;

double usual_spacing(const cloud::PointCloud& c, std::size_t sampled) {
    std::vector<float> all;
    for (std::size_t p = 0; p < c.page_count(); ++p)
        for (const float s : c.info(p).spacing)
            if (s > 0) all.push_back(s);
    if (all.empty()) return 0;
    std::nth_element(all.begin(), all.begin() + static_cast<std::ptrdiff_t>(all.size() / 2), all.end());
    const double thinner =
        static_cast<double>(c.size()) / static_cast<double>(std::max<std::size_t>(1, sampled));
    return static_cast<double>(all[all.size() / 2]) * std::sqrt(std::max(1.0, thinner));
}

struct Match {
    Vec3 place;  // where the place of the moving cloud is now
    Vec3 normal;
    double off;  // from the plane
};

struct Sums {
    Matrix6 h = Matrix6::Zero();
    Vector6 g = Vector6::Zero();
    double weight = 0, squares = 0;
    std::size_t count = 0;
};

struct Round {
    Sums sums;
    double scale = 0;
    std::size_t matched = 0;
};

class Fitter {
  public:
    Fitter(const std::vector<Vec3>& places, Freedom freedom) : freedom_(freedom) {
        Box3 box;
        for (const Vec3& p : places) box.add(p);
        pivot_ = box.centre();
        arm_ = std::max(1e-9, 0.5 * box.diagonal());
    }

    const Similarity& now() const { return now_; }

    // Until it stands still; false: it did not.
    bool settle(const SurfelMap& map, const std::vector<Vec3>& even, Fit& out, Progress& progress) {
        for (int round = 0; round < kMostRounds; ++round) {
            progress.check();
            const Round r = look(map, even);
            const double total = static_cast<double>(std::max<std::size_t>(1, even.size()));
            out.overlap = static_cast<double>(r.matched) / total;
            out.stable =
                static_cast<double>(r.sums.count) / static_cast<double>(std::max<std::size_t>(1, r.matched));
            ++out.rounds;
            if (r.sums.count < kFewestPlaces) return false;
            out.rms = std::sqrt(r.sums.squares / r.sums.weight);
            const Vector6 step = solve(r, out);
            apply(step);
            const double moved = step.tail<3>().norm() + step.head<3>().norm();  // turns in arms
            if (moved < kStill * std::max(r.scale, 1e-9 * arm_)) return true;
        }
        return false;
    }

    // How far off a place usually is; not a number: too few are near a plane.
    double usual_off(const SurfelMap& map, const std::vector<Vec3>& even) const {
        const Round r = look(map, even);
        return r.matched < kFewestPlaces ? NAN : r.scale;
    }
    // How many places agree with the planes, each by its weight.
    double agreement(const SurfelMap& map, const std::vector<Vec3>& even, double cut) const {
        double sum = 0;
        for (const Vec3& place : even) {
            const Vec3 p = now_(place);
            const Surfel* s = map.nearest(p);
            if (!s) continue;
            const Vec3 d = p - s->middle;
            const double u = dot(d, s->normal) / cut;
            if (dot(d, d) > map.side() * map.side() || std::fabs(u) >= 1) continue;
            sum += (1 - u * u) * (1 - u * u);
        }
        return sum;
    }

  private:
    // Weighted by how far off a place is against what is usual.
    Round look(const SurfelMap& map, const std::vector<Vec3>& even) const {
        const std::size_t chunks = (even.size() + kChunk - 1) / kChunk;
        const auto found = parallel::map<std::vector<Match>>(chunks, [&](std::size_t c) {
            std::vector<Match> out;
            for (std::size_t k = c * kChunk; k < std::min(even.size(), (c + 1) * kChunk); ++k) {
                const Vec3 p = now_(even[k]);
                const Surfel* s = map.nearest(p);
                if (!s) continue;
                const Vec3 d = p - s->middle;
                if (dot(d, d) > map.side() * map.side()) continue;
                out.push_back({p, s->normal, dot(d, s->normal)});
            }
            return out;
        });
        Round r;
        std::vector<double> off;
        for (const auto& chunk : found)
            for (const Match& m : chunk) off.push_back(std::fabs(m.off));
        r.matched = off.size();
        if (off.size() < kFewestPlaces) return r;
        std::nth_element(off.begin(), off.begin() + static_cast<std::ptrdiff_t>(off.size() / 2), off.end());
        r.scale = kMedianToSigma * off[off.size() / 2];
        const double cut = kTukey * std::max(r.scale, 1e-12 * arm_);
        const auto parts = parallel::map<Sums>(chunks, [&](std::size_t c) {
            Sums s;
            for (const Match& m : found[c]) {
                const double u = m.off / cut;
                if (std::fabs(u) >= 1) continue;
                const double w = (1 - u * u) * (1 - u * u);
                const Vec3 turn = cross(m.place - pivot_, m.normal) * (1 / arm_);
                Vector6 j;
                j << turn.x, turn.y, turn.z, m.normal.x, m.normal.y, m.normal.z;
                s.h += w * j * j.transpose();
                s.g += w * m.off * j;
                s.weight += w;
                s.squares += w * m.off * m.off;
                ++s.count;
            }
            return s;
        });
        for (const Sums& s : parts) {
            r.sums.h += s.h;
            r.sums.g += s.g;
            r.sums.weight += s.weight;
            r.sums.squares += s.squares;
            r.sums.count += s.count;
        }
        return r;
    }

    // Along what the planes hold; what they leave open stays.
    Vector6 solve(const Round& r, Fit& out) const {
        Matrix6 h = r.sums.h / r.sums.weight;
        Vector6 g = r.sums.g / r.sums.weight;
        const auto fix = [&](int k) {
            h.row(k).setZero();
            h.col(k).setZero();
            g(k) = 0;
        };
        if (freedom_ != Freedom::Rigid)
            for (const int k : {0, 1}) fix(k);
        if (freedom_ == Freedom::Shift) fix(2);
        const Eigen::SelfAdjointEigenSolver<Matrix6> e(h);
        const double best = e.eigenvalues()(5);
        const int held_fixed = freedom_ == Freedom::Rigid ? 0 : freedom_ == Freedom::Level ? 2 : 3;
        Vector6 step = Vector6::Zero();
        Vector6 variance = Vector6::Zero();
        out.open.clear();
        const double noise = r.sums.squares / std::max(1.0, static_cast<double>(r.sums.count) - 6);
        for (int k = 0; k < 6; ++k) {
            const Vector6 v = e.eigenvectors().col(k);
            if (e.eigenvalues()(k) <= kOpen * best) {
                if (k >= held_fixed) out.open.push_back(words_of(v));
                continue;
            }
            step -= v * (v.dot(g) / e.eigenvalues()(k));
            variance += v.cwiseProduct(v) * (noise / (e.eigenvalues()(k) * r.sums.weight));
        }
        out.sigma_turn_deg = std::sqrt(variance.head<3>().sum()) / arm_ * 180 / std::numbers::pi;
        out.sigma_shift = std::sqrt(variance.tail<3>().sum());
        return step;
    }

    static std::string words_of(const Vector6& v) {
        const bool turn = v.head<3>().norm() > v.tail<3>().norm();
        Eigen::Vector3d d = turn ? Eigen::Vector3d(v.head<3>()) : Eigen::Vector3d(v.tail<3>());
        d.normalize();
        Eigen::Index largest = 0;
        d.cwiseAbs().maxCoeff(&largest);
        if (d(largest) < 0) d = -d;
        return fmt::format("{} {:.2f} {:.2f} {:.2f}", turn ? "turn about" : "shift along", d(0) + 0.0,
                           d(1) + 0.0, d(2) + 0.0);
    }

    void apply(const Vector6& step) {
        const Vec3 turn{step(0), step(1), step(2)}, shift{step(3), step(4), step(5)};
        const double angle = norm(turn) / arm_ * 180 / std::numbers::pi;
        const Similarity s = angle > 0 ? Similarity::about(pivot_, turn, angle, 1, shift)
                                       : Similarity::about(pivot_, {0, 0, 1}, 0, 1, shift);
        now_ = s.after(now_);
    }

    Freedom freedom_;
    Vec3 pivot_;
    double arm_ = 1;
    Similarity now_;
};

Error nothing_in_common() {
    return Error(ErrorCode::Usage, "The two clouds have no surface in common within the reach", {},
                 "Bring them together by pairs first, or give a longer reach.");
}

}  // namespace

Fit fit(const cloud::PointCloud& moving, const ElementSet& moving_eligible, const cloud::PointCloud& still,
        const ElementSet& still_eligible, const FitOptions& options, Progress& progress) {
    if (options.freedom == Freedom::Similarity)
        throw Error(ErrorCode::Usage, "A fit to surfaces finds no scale", {}, "Scale by pairs first.");
    if (!(options.reach > 0)) throw Error(ErrorCode::Usage, "The reach is above zero");
    if (!moving.unit().empty() && !still.unit().empty() && moving.unit() != still.unit())
        throw Error(ErrorCode::Usage, "The two clouds have different units", {},
                    "Convert one of them first.");
    const Box3 box = still.robust_bounds();
    if (box.empty() || moving_eligible.empty() || still_eligible.empty())
        throw Error(ErrorCode::Usage, "There are no points to fit, or to fit to");
    const Vec3 origin = box.centre();
    progress.stretch(0, 0.2, "Reading points");
    const std::vector<Vec3> target = places_of(still, still_eligible, origin, options.most_points, progress);
    const std::vector<Vec3> places =
        places_of(moving, moving_eligible, origin, options.most_points, progress);
    const double spacing =
        std::max(usual_spacing(still, target.size()), usual_spacing(moving, places.size()));
    Fit out;
    out.cube = std::max(kSpacings * spacing, 1e-9 * box.diagonal());
    const std::vector<Vec3> even_finest = one_in_each(places, 0.5 * out.cube);
    int levels = 1;
    while (out.cube * std::pow(2, levels - 1) < 2 * options.reach && levels < 12) ++levels;
    std::vector<SurfelMap> maps;  // by level, the finest first
    std::vector<std::vector<Vec3>> even;
    for (int level = 0; level < levels; ++level) {
        const double side = out.cube * std::pow(2, level);
        progress.stretch(0.2 + 0.3 * level / levels, 0.2 + 0.3 * (level + 1) / levels, "Looking for planes");
        maps.emplace_back(target, side, progress);
        even.push_back(level == 0 ? even_finest : one_in_each(even_finest, 0.25 * side));
    }
    // Large cubes reach far, and may slide onto something else: each size begins once, and what the finest
    // planes agree with most is taken.
    std::vector<std::pair<Fitter, Fit>> tried;
    double usual = INFINITY;
    for (int first = levels - 1; first >= 0; --first) {
        progress.stretch(0.5 + 0.45 * (levels - 1 - first) / levels, 0.5 + 0.45 * (levels - first) / levels,
                         "Fitting");
        auto& [fitter, told] = tried.emplace_back(Fitter(places, options.freedom), out);
        for (int level = first; level >= 0; --level)
            told.settled = fitter.settle(maps[static_cast<std::size_t>(level)],
                                         even[static_cast<std::size_t>(level)], told, progress);
        if (const double off = fitter.usual_off(maps[0], even[0]); off < usual) usual = off;
    }
    if (!std::isfinite(usual)) throw nothing_in_common();
    std::size_t best = 0;
    double most = -1;
    for (std::size_t k = 0; k < tried.size(); ++k) {
        const double agrees =
            tried[k].first.agreement(maps[0], even[0], kTukey * std::max(usual, 1e-9 * out.cube));
        if (agrees > most) {
            most = agrees;
            best = k;
        }
    }
    const Fitter& fitter = tried[best].first;
    out = tried[best].second;
    if (out.overlap < kLeastOverlap ||
        out.stable * out.overlap * static_cast<double>(even_finest.size()) < kFewestPlaces)
        throw nothing_in_common();
    // Farther than they may be apart they were not: it slid onto something else.
    double farthest = 0;
    for (const Vec3& p : even_finest) farthest = std::max(farthest, norm(fitter.now()(p) - p));
    if (farthest > kFarther * options.reach) throw nothing_in_common();
    // From about the origin to the world.
    Similarity there, back;
    there.move.shift = origin * -1.0;
    back.move.shift = origin;
    out.placement = back.after(fitter.now()).after(there);
    return out;
}

}  // namespace pristine::place
