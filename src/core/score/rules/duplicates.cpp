// Points that are there more than once.

#include <cmath>

#include "core/score/rules/neighbour_values.h"

namespace pristine::score {

void add_duplicates(std::vector<Score>& s) {
    s.push_back({"duplicate",
                 "Duplicates",
                 "points",
                 "so many points before it lie in the same place: all but the first may go",
                 "0: the first or only one in its place",
                 "Where more than 64 lie in one place, not all are counted, and some that are not the first "
                 "may show 0.",
                 {{"within", "Same place", "length",
                   "Points no farther apart than this are in the same place", 0.0005, 0, 1, false}},
                 {},
                 [](const Input& in, const Parameters& p, Progress& progress) {
                     const cloud::NeighbourIndex index(in.cloud, in.eligible, progress);
                     const auto limit = static_cast<float>(p.at("within") * p.at("within"));
                     SpillVector<float> values(index.size(), 0);
                     index.for_each_nearest(
                         64,
                         [&](std::size_t i, const cloud::NeighbourIndex::Nearest& nearest) {
                             int before = 0;
                             for (std::size_t j = 0; j < nearest.index.size() && nearest.squared[j] <= limit;
                                  ++j)
                                 before += index.element(nearest.index[j]) < index.element(i);
                             values[i] = static_cast<float>(before);
                         },
                         progress);
                     return in_place(in, index, values);
                 }});
}

}  // namespace pristine::score
