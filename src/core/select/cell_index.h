// Points in cubes: which points lie near a place. For growth over the neighbours of a set.

#pragma once

#include <cstdint>
#include <span>

#include "core/base/progress.h"
#include "core/base/spill_vector.h"
#include "core/cloud/point_cloud.h"
#include "core/elements/element_set.h"

namespace pristine::select {

/// Which members lie in the cells round a place. Never changes.
class CellIndex {
  public:
    struct Entry {
        std::uint64_t cell;
        std::uint32_t element;
        float x, y, z;  ///< relative to origin()
    };
    /// The members of `set`, in cubes of this side (> 0). O(n log n); what does not fit in the
    /// memory budget lies in a scratch file. At most 2^21 cubes along an axis: a
    /// smaller side is made larger. Throws Error(Unsupported) for clouds of 2^32 points or more.
    CellIndex(const cloud::PointCloud&, const ElementSet& set, double side, Progress& = Progress::none());

    double side() const { return side_; }
    const Vec3& origin() const { return origin_; }
    /// Box of the members, world.
    const Box3& bounds() const { return bounds_; }
    std::span<Entry> entries() { return entries_; }
    std::span<const Entry> entries() const { return entries_; }

    /// Calls visit(first, last) with the entries of each non-empty cube that touches the 27 round a place
    /// relative to origin(); stops when it returns true. Indices into entries().
    template <class Visit>
    bool around(float x, float y, float z, Visit&& visit) const;

  private:
    struct Slot {
        std::uint64_t cell = UINT64_MAX;
        std::uint32_t first = 0, last = 0;
    };
    const Slot* find(std::uint64_t cell) const;
    std::int64_t cube(float v) const { return static_cast<std::int64_t>(v * inverse_); }
    static std::uint64_t key(std::int64_t x, std::int64_t y, std::int64_t z) {
        return static_cast<std::uint64_t>(x) | static_cast<std::uint64_t>(y) << 21 |
               static_cast<std::uint64_t>(z) << 42;
    }

    double side_ = 1;
    float inverse_ = 1;
    Vec3 origin_;
    Box3 bounds_;
    SpillVector<Entry> entries_;
    SpillVector<Slot> slots_;
};

template <class Visit>
bool CellIndex::around(float x, float y, float z, Visit&& visit) const {
    const std::int64_t cx = cube(x), cy = cube(y), cz = cube(z);
    for (std::int64_t k = std::max<std::int64_t>(0, cz - 1); k <= cz + 1; ++k)
        for (std::int64_t j = std::max<std::int64_t>(0, cy - 1); j <= cy + 1; ++j)
            for (std::int64_t i = std::max<std::int64_t>(0, cx - 1); i <= cx + 1; ++i)
                if (const Slot* s = find(key(i, j, k)); s && visit(s->first, s->last)) return true;
    return false;
}

}  // namespace pristine::select
