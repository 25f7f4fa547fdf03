// How far a point keeps from its neighbours, by itself and against what is usual round it.

#include <Eigen/Eigenvalues>
#include <algorithm>
#include <array>
#include <cmath>
#include <mutex>

#include "core/base/parallel.h"
#include "core/base/units.h"
#include "core/score/rules/neighbour_values.h"
#include "core/score/surroundings.h"

namespace pristine::score {
namespace {

using cloud::NeighbourIndex;

constexpr unsigned kPlaneNeighbours = 8;
constexpr double kWider = 8;                      // times the spacing: side of the cubes compared with
constexpr double kUneven = 0.2, kInPlane = 0.05;  // unevenness that counts in full; least share that counts
constexpr double kClearOf = 3,
                 kWellClearOf = 12;               // times the thickness of a surface: begins to be off it; is
constexpr double kSomeAside = 0.6, kAside = 0.8;  // of its distance that a point keeps across a surface
constexpr double kAmongOthers = 0.47, kAlone = 2;               // weights
constexpr double kOneSided = 0.93, kAllOneSided = 0.98;         // of a mean direction: begins to count; does
constexpr double kFarFromAll = 1000;                            // times the usual spacing of the whole cloud
constexpr double kFinestCube = 0.03125, kLeastSpacing = 0.001;  // metres

float mean_distance(const NeighbourIndex::Nearest& nearest) {
    double sum = 0;
    for (const float d : nearest.squared) sum += static_cast<double>(std::sqrt(d));
    return nearest.squared.empty() ? NAN
                                   : static_cast<float>(sum / static_cast<double>(nearest.squared.size()));
}

SpillVector<float> spacings(const NeighbourIndex& index, unsigned k, Progress& progress) {
    SpillVector<float> spacing(index.size(), NAN);
    index.for_each_nearest(
        k,
        [&](std::size_t i, const NeighbourIndex::Nearest& nearest) { spacing[i] = mean_distance(nearest); },
        progress);
    return spacing;
}

Column spacing(const Input& in, const Parameters& p, Progress& progress) {
    const NeighbourIndex index(in.cloud, in.eligible, progress);
    return in_place(in, index, spacings(index, static_cast<unsigned>(p.at("neighbours")), progress));
}

// How a point lies to the plane of its neighbours.
struct Off {
    // Its distance from it, and how far they lie off it themselves, against how far away they are: 0 in a
    // plane, about a third among points strewn in space.
    double uneven = 0;
    // 1 for one that keeps its distance from a surface, 0 for one on it or among points that make none.
    double alone = 0;
    // Length of the mean direction to its neighbours: 1 where all lie on one side, as for a point far from
    // everything; about a half at the rim of a surface.
    double one_sided = 0;
};

// `distance`: mean distance to its nearest neighbours.
Off off_plane(const NeighbourIndex& index, std::size_t i, const NeighbourIndex::Nearest& nearest,
              double distance) {
    const auto p = index.position(i);
    const auto offset = [&](std::uint32_t j) {
        const auto o = index.position(j);
        return Eigen::Vector3d(static_cast<double>(o[0] - p[0]), static_cast<double>(o[1] - p[1]),
                               static_cast<double>(o[2] - p[2]));
    };
    const auto n = static_cast<double>(nearest.index.size());
    Eigen::Vector3d middle = Eigen::Vector3d::Zero();
    double away = 0;
    for (const std::uint32_t j : nearest.index) {
        middle += offset(j);
        away += offset(j).norm();
    }
    if (away == 0) return {};
    middle /= n;
    Eigen::Matrix3d spread = Eigen::Matrix3d::Zero();
    for (const std::uint32_t j : nearest.index) {
        const Eigen::Vector3d d = offset(j) - middle;
        spread += d * d.transpose();
    }
    Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d> solver;
    solver.computeDirect(spread / n);
    const double off = std::fabs(middle.dot(solver.eigenvectors().col(0))),
                 thick = std::sqrt(std::max(0.0, solver.eigenvalues()(0)));
    const auto ramp = [](double v, double from, double to) {
        return std::clamp((v - from) / (to - from), 0.0, 1.0);
    };
    Off result{std::hypot(off, thick) * n / away};
    result.one_sided = middle.norm() * n / away;
    if (off > kClearOf * thick && distance > 0)
        result.alone = ramp(off / std::max(thick, 1e-9 * off), kClearOf, kWellClearOf) *
                       ramp(off / distance, kSomeAside, kAside);
    return result;
}

// The median of an even sample.
double usual_of(const SpillVector<float>& values) {
    constexpr std::size_t kSample = 1'000'000;
    std::vector<float> sample;
    for (std::size_t i = 0, step = values.size() / kSample + 1; i < values.size(); i += step)
        sample.push_back(values[i]);
    if (sample.empty()) return 0;
    const auto middle = sample.begin() + static_cast<std::ptrdiff_t>(sample.size() / 2);
    std::nth_element(sample.begin(), middle, sample.end());
    return static_cast<double>(*middle);
}

// Spacing against what is usual in a much wider place. There surfaces outnumber strays by far, so that strays
// among strays stand out too; and it follows any density, since sparse surfaces are sparse all round. What
// lies in the plane of its neighbours is the rim of a thinly measured surface rather than a stray; what
// stands alone off a surface is one even where that is thinly measured itself; and among points that make no
// surface, as where a scanner saw through a gap, it takes more.
Column stray(const Input& in, const Parameters& p, Progress& progress) {
    const auto k = static_cast<unsigned>(p.at("neighbours"));
    const NeighbourIndex index(in.cloud, in.eligible, progress);
    const double metre = 1 / length_unit(in.cloud.unit()).metres;
    SpillVector<float> own(index.size(), NAN), weight(index.size(), 0);
    // Points whose neighbours all lie on one side. Such a point makes its own surroundings: it is judged by
    // how close those neighbours keep to theirs. For a single point that grows with its distance without end.
    struct Outside {
        std::size_t point;
        std::array<std::uint32_t, kPlaneNeighbours> beside;  // the nearest; repeated where there are fewer
        double share;
    };
    std::vector<Outside> outside;
    std::mutex mutex;
    index.for_each_nearest(
        std::max(k, kPlaneNeighbours),
        [&](std::size_t i, const NeighbourIndex::Nearest& nearest) {
            own[i] =
                mean_distance({nearest.squared.first(std::min<std::size_t>(k, nearest.squared.size())), {}});
            if (nearest.index.size() < 3) return;
            const Off off = off_plane(index, i, nearest, static_cast<double>(own[i]));
            if (off.one_sided > kOneSided) {
                const double share =
                    std::clamp((off.one_sided - kOneSided) / (kAllOneSided - kOneSided), 0.0, 1.0);
                const std::lock_guard<std::mutex> guard(mutex);
                Outside o{i, {}, share};
                for (std::size_t n = 0; n < o.beside.size(); ++n)
                    o.beside[n] = nearest.index[std::min(n, nearest.index.size() - 1)];
                outside.push_back(o);
            }
            weight[i] = static_cast<float>(std::clamp(off.uneven / kUneven, kInPlane, 1.0) *
                                           (kAmongOthers + (kAlone - kAmongOthers) * off.alone));
        },
        progress);
    SpillVector<Vec3> places(index.size());
    SpillVector<float> logs(index.size());
    for (std::size_t i = 0; i < places.size(); ++i) {
        places[i] = in.cloud.position(index.element(i));
        logs[i] = static_cast<float>(std::log(
            std::max(kLeastSpacing * metre, std::isfinite(own[i]) ? static_cast<double>(own[i]) : 0.0)));
    }
    const Surroundings round(places, logs, kFinestCube * metre);
    const double far_from_all = kFarFromAll * std::exp(usual_of(logs));
    SpillVector<float> ratio(index.size(), NAN);
    parallel::for_ranges(ratio.size(), 65536, [&](std::size_t from, std::size_t to) {
        progress.check();
        for (std::size_t i = from; i < to; ++i) {
            if (!std::isfinite(own[i])) continue;
            const auto d = static_cast<double>(own[i]);
            const double usual = std::exp(round.mean(i, round.level_for(kWider * d)));
            // Strays that are far from everything are as far from each other: against the whole cloud.
            ratio[i] =
                static_cast<float>(std::max(d / usual * static_cast<double>(weight[i]), d / far_from_all));
        }
    });
    for (const Outside& o : outside) {
        // The closest of them: others among them may be far strays too.
        double theirs = INFINITY;
        for (const std::uint32_t j : o.beside)
            if (std::isfinite(own[j])) theirs = std::min(theirs, static_cast<double>(own[j]));
        theirs = std::max(theirs, kLeastSpacing * metre);
        const auto alone = static_cast<float>(o.share * static_cast<double>(own[o.point]) / theirs);
        if (std::isfinite(alone)) ratio[o.point] = std::max(ratio[o.point], alone);
    }
    return in_place(in, index, ratio);
}

}  // namespace

Column in_place(const Input& in, const NeighbourIndex& index, const SpillVector<float>& values) {
    // Elements of a page lie anywhere in the index: first where they go, then page by page.
    SpillVector<float> by_element(in.cloud.size(), NAN);
    for (std::size_t i = 0; i < index.size(); ++i) by_element[index.element(i)] = values[i];
    Column c;
    c.values = for_members(in, Progress::none(), [&](std::size_t p, std::vector<float>& page) {
        std::copy_n(by_element.begin() + static_cast<std::ptrdiff_t>(p * kPageSize), page.size(),
                    page.begin());
    });
    return c;
}

void add_spacing(std::vector<Score>& s) {
    s.push_back({"stray",
                 "Strays",
                 "times",
                 "so many times farther from its neighbours than is usual round it, and not in one plane "
                 "with them: a stray (above 2.5)",
                 "as close to its neighbours as is usual round it (1 and less)",
                 "Where strays outnumber the points of surfaces; single wires far from everything.",
                 {neighbours_parameter(4)},
                 {},
                 stray,
                 true});  // what matters lies far beyond the bulk
    s.back().begins = 2.5;
    s.back().reason =
        "%1 times as far from its neighbours as is usual round it: less the more it lies in their plane, "
        "or they in none";
    s.push_back({"spacing",
                 "Mean distance to neighbours",
                 "length",
                 "thinly measured, or alone",
                 "densely measured",
                 "Density falls with range: far surfaces are as thin as near noise. Strays follow density.",
                 {neighbours_parameter(8)},
                 {},
                 spacing,
                 true});
}

}  // namespace pristine::score
