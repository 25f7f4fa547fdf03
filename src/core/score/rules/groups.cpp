// How many points hang together: groups whose members reach each other in steps of at most a gap.
//
// Method: cubes whose diagonal is the gap, so that all points of a cube are one group; cubes near each other
// are joined if a pair of their points is near enough, and are not looked at when they are one group already.

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numeric>

#include "core/base/spill_vector.h"
#include "core/score/rules/neighbour_values.h"
#include "core/select/cell_index.h"
#include "core/select/solid.h"

namespace pristine::score {
namespace {

using Entry = select::CellIndex::Entry;

class DisjointSets {
  public:
    explicit DisjointSets(std::size_t n) : parent_(n), size_(n, 0) {
        std::iota(parent_.begin(), parent_.end(), 0u);
    }
    std::uint32_t find(std::uint32_t i) {
        while (parent_[i] != i) i = parent_[i] = parent_[parent_[i]];
        return i;
    }
    void join(std::uint32_t a, std::uint32_t b) {
        a = find(a);
        b = find(b);
        if (a == b) return;
        if (size_[a] < size_[b]) std::swap(a, b);
        parent_[b] = a;
        size_[a] += size_[b];
    }
    void grow(std::uint32_t i, std::uint64_t by) { size_[i] += by; }
    std::uint64_t size(std::uint32_t i) { return size_[find(i)]; }

  private:
    SpillVector<std::uint32_t> parent_;
    SpillVector<std::uint64_t> size_;
};

bool near(std::span<const Entry> a, std::span<const Entry> b, float limit) {
    for (const Entry& p : a)
        for (const Entry& q : b) {
            const float dx = p.x - q.x, dy = p.y - q.y, dz = p.z - q.z;
            if (dx * dx + dy * dy + dz * dz <= limit) return true;
        }
    return false;
}

Column group_size(const Input& in, const Parameters& p, Progress& progress) {
    const double gap = p.at("gap");
    // The cubes reach a million to either side; the few points beyond stand alone.
    const double side = gap / std::sqrt(3.0), reach = 0.9e6 * side;
    const Box3 robust = in.cloud.robust_bounds();
    const ElementSet near_set =
        robust.empty()
            ? in.eligible
            : select::inside(in.cloud,
                             select::half_spaces({(robust.lo + robust.hi) * 0.5, {reach, reach, reach}, 0}),
                             in.eligible, progress);
    select::CellIndex index(in.cloud, near_set, side, progress);
    if (index.side() > side * (1 + 1e-9))  // it had to be made larger: the diagonal is longer
        throw Error(ErrorCode::Usage, fmt::format("A gap of {} is too small for a site of this extent", gap),
                    {}, "Take a larger gap, or work on a part.");
    const auto entries = index.entries();
    SpillVector<std::uint32_t> cell_of(entries.size());  // number of the cube of each entry
    SpillVector<std::uint32_t> first;
    for (std::uint32_t i = 0; i < entries.size(); ++i) {
        if (i == 0 || entries[i].cell != entries[i - 1].cell) first.push_back(i);
        cell_of[i] = static_cast<std::uint32_t>(first.size() - 1);
    }
    const std::size_t cells = first.size();
    first.push_back(static_cast<std::uint32_t>(entries.size()));
    DisjointSets joined(cells);
    for (std::uint32_t c = 0; c < cells; ++c) joined.grow(c, first[c + 1] - first[c]);
    const auto points = [&](std::uint32_t c) { return entries.subspan(first[c], first[c + 1] - first[c]); };
    const auto limit = static_cast<float>(gap * gap);
    for (std::uint32_t c = 0; c < cells; ++c) {
        if (c % 4096 == 0) progress.advance(static_cast<double>(c) / static_cast<double>(cells));
        const Entry& e = entries[first[c]];
        const auto reach = static_cast<float>(index.side());
        // Cubes up to two away on each axis may hold a point within the gap.
        for (const int dz : {-1, 1})
            for (const int dy : {-1, 1})
                for (const int dx : {-1, 1})
                    index.around(e.x + static_cast<float>(dx) * reach, e.y + static_cast<float>(dy) * reach,
                                 e.z + static_cast<float>(dz) * reach,
                                 [&](std::uint32_t from, std::uint32_t) {
                                     const std::uint32_t other = cell_of[from];
                                     if (other > c && joined.find(other) != joined.find(c) &&
                                         near(points(c), points(other), limit))
                                         joined.join(c, other);
                                     return false;
                                 });
    }
    SpillVector<float> by_element(in.cloud.size(), NAN);
    (in.eligible - near_set).for_each([&](std::uint64_t i) { by_element[i] = 1; });
    for (std::uint32_t i = 0; i < entries.size(); ++i)
        by_element[entries[i].element] = static_cast<float>(joined.size(cell_of[i]));
    Column column;
    column.values = for_members(in, Progress::none(), [&](std::size_t page, std::vector<float>& values) {
        std::copy_n(by_element.begin() + static_cast<std::ptrdiff_t>(page * kPageSize), values.size(),
                    values.begin());
    });
    return column;
}

Column density(const Input& in, const Parameters& p, Progress& progress) {
    const double radius = p.at("radius");
    select::CellIndex index(in.cloud, in.eligible, radius, progress);
    const auto entries = index.entries();
    const auto limit = static_cast<float>(radius * radius);
    SpillVector<float> by_element(in.cloud.size(), NAN);
    for (std::size_t i = 0; i < entries.size(); ++i) {
        if (i % 65536 == 0) progress.advance(static_cast<double>(i) / static_cast<double>(entries.size()));
        const Entry e = entries[i];
        std::uint32_t count = 0;
        index.around(e.x, e.y, e.z, [&](std::uint32_t from, std::uint32_t to) {
            for (std::uint32_t j = from; j < to; ++j) {
                const float dx = entries[j].x - e.x, dy = entries[j].y - e.y, dz = entries[j].z - e.z;
                count += dx * dx + dy * dy + dz * dz <= limit;
            }
            return false;
        });
        by_element[e.element] = static_cast<float>(count - 1);
    }
    Column column;
    column.values = for_members(in, Progress::none(), [&](std::size_t page, std::vector<float>& values) {
        std::copy_n(by_element.begin() + static_cast<std::ptrdiff_t>(page * kPageSize), values.size(),
                    values.begin());
    });
    return column;
}

}  // namespace

void add_groups(std::vector<Score>& s) {
    s.push_back(
        {"group",
         "Group size",
         "points",
         "part of something large",
         "a few points that hang together and touch nothing else: clumps of strays, birds, dust",
         "Small real things far away have few points as well; what touches the floor belongs to the floor.",
         {{"gap", "Gap", "length", "Points no farther apart hang together", 0.1, 0.001, 100, false}},
         {},
         group_size,
         true});
    s.push_back({"density",
                 "Neighbours in a radius",
                 "points",
                 "densely measured",
                 "alone, or thinly measured",
                 "Density falls with range: far surfaces are as thin as near noise.",
                 {{"radius", "Radius", "length", "How far to look", 0.1, 0.001, 100, false}},
                 {},
                 density});
}

}  // namespace pristine::score
