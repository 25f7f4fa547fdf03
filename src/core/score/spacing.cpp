// How far a point keeps from its neighbours, by itself and against what is usual round it.

#include <algorithm>
#include <cmath>

#include "core/score/neighbour_values.h"

namespace pristine::score {
namespace {

using cloud::NeighbourIndex;

float mean_distance(const NeighbourIndex::Nearest& nearest) {
    double sum = 0;
    for (const float d : nearest.squared) sum += static_cast<double>(std::sqrt(d));
    return nearest.squared.empty() ? NAN
                                   : static_cast<float>(sum / static_cast<double>(nearest.squared.size()));
}

std::vector<float> spacings(const NeighbourIndex& index, unsigned k, Progress& progress) {
    std::vector<float> spacing(index.size(), NAN);
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

// Against the median of the neighbours' own spacings: that follows any density, since both sides scale alike.
Column stray(const Input& in, const Parameters& p, Progress& progress) {
    const auto k = static_cast<unsigned>(p.at("neighbours"));
    const NeighbourIndex index(in.cloud, in.eligible, progress);
    const std::vector<float> own = spacings(index, k, progress);
    std::vector<float> ratio(index.size(), NAN);
    index.for_each_nearest(
        k,
        [&](std::size_t i, const NeighbourIndex::Nearest& nearest) {
            std::array<float, 64> round{};
            const std::size_t n = nearest.index.size();
            if (n == 0) return;
            for (std::size_t j = 0; j < n; ++j) round[j] = own[nearest.index[j]];
            const auto middle = round.begin() + static_cast<std::ptrdiff_t>(n / 2);
            std::nth_element(round.begin(), middle, round.begin() + static_cast<std::ptrdiff_t>(n));
            // Points on top of each other have no spacing; nothing is a stray among them.
            ratio[i] = *middle > 0 ? own[i] / *middle : own[i] > 0 ? INFINITY : 1.0f;
        },
        progress);
    return in_place(in, index, ratio);
}

}  // namespace

Column in_place(const Input& in, const NeighbourIndex& index, const std::vector<float>& values) {
    // Elements of a page lie anywhere in the index: first where they go, then page by page.
    std::vector<float> by_element(in.cloud.size(), NAN);
    for (std::size_t i = 0; i < index.size(); ++i) by_element[index.element(i)] = values[i];
    Column c;
    c.values = for_members(in, Progress::none(), [&](std::size_t p, std::vector<float>& page) {
        std::copy_n(by_element.begin() + static_cast<std::ptrdiff_t>(p * kPageSize), page.size(),
                    page.begin());
    });
    return c;
}

void add_spacing(std::vector<Score>& s) {
    s.push_back(
        {"stray",
         "Strays",
         "times",
         "its neighbours are much farther from it than they are from each other: a stray",
         "as close to its neighbours as they are to each other (about 1)",
         "Strays that hang together in a group of more than the neighbours looked at: use the group size.",
         {neighbours_parameter(16)},
         {},
         stray});
    s.push_back({"spacing",
                 "Mean distance to neighbours",
                 "length",
                 "thinly measured, or alone",
                 "densely measured",
                 "Density falls with range: far surfaces are as thin as near noise. Strays follow density.",
                 {neighbours_parameter(8)},
                 {},
                 spacing});
}

}  // namespace pristine::score
