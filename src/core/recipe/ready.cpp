#include "core/recipe/ready.h"

#include <cmath>
#include <limits>

#include "core/base/error.h"
#include "core/base/figure.h"
#include "core/score/suggest.h"

namespace pristine::score {
namespace {

constexpr double kFar = std::numeric_limits<double>::infinity();

Step step_of(const Score& score, const cloud::PointCloud& cloud, Limits limits, std::uint8_t to_class,
             const char* reason) {
    Step s;
    s.score = score.id;
    s.parameters = suggested(score, cloud).parameters;
    s.limits = limits;
    s.reason = reason;
    s.to_class = to_class;
    return s;
}

Limits between(double lo, double hi) {
    return {lo, hi, !std::isfinite(lo), !std::isfinite(hi), false};
}

// How far the ground scatters, and how far off strays are: where the rules of both begin.
double begin_of(const Score& score, const cloud::PointCloud& cloud, const ElementSet& eligible,
                double otherwise, Progress& progress) {
    const Column column = compute(score, {cloud, eligible}, suggested(score, cloud).parameters, progress);
    const Profile p = profile(column);
    if (p.count == 0) throw Error(ErrorCode::Usage, "No ground was found: there is nothing to class by");
    const auto first = first_range(score, p, column, cloud);
    return first && std::isfinite(first->limits.lo) && first->limits.lo > 0 ? first->limits.lo : otherwise;
}

}  // namespace

Recipe terrain_classes(const cloud::PointCloud& cloud, const ElementSet& eligible, double per_metre,
                       Progress& progress) {
    const Score &ground = find("ground"), &stray = find("stray");
    double scatter = 0, strays = 0;
    {
        const Progress::Part part(progress, 0, 0.5, "Looking for the ground");
        scatter = two_digits(begin_of(ground, cloud, eligible, 0.05 * per_metre, progress));
    }
    {
        const Progress::Part part(progress, 0.5, 1, "Looking for strays");
        strays = two_digits(begin_of(stray, cloud, eligible, 3, progress));
    }
    const double low = 0.3 * per_metre, medium = 2 * per_metre, high = 5 * per_metre;
    return {step_of(ground, cloud, between(-scatter, scatter), 2, "Ground"),
            step_of(ground, cloud, between(low, medium), 3, "Vegetation"),
            step_of(ground, cloud, between(medium, high), 4, "Vegetation"),
            step_of(ground, cloud, between(high, kFar), 5, "Vegetation"),
            step_of(ground, cloud, between(-kFar, -3 * scatter), 7, "Noise"),
            step_of(stray, cloud, between(strays, kFar), 7, "Noise")};
}

}  // namespace pristine::score
