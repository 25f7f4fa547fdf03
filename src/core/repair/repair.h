// Making a mesh sound: category by category, each time only what is at fault.
//
// Laws (tested): 1. A triangle that no repair names stays as it is, its corners to the bit. 2. What could not
// be repaired is listed with the reason. 3. The result is the same for any number of workers.

#pragma once

#include <set>
#include <string>
#include <vector>

#include "core/base/progress.h"
#include "core/repair/check.h"
#include "core/repair/deviation.h"
#include "core/repair/fill.h"

namespace pristine::repair {

struct RepairOptions {
    std::set<Fault> only;  ///< empty: all
    CheckOptions check;    ///< what is tiny, sharp, small
    FillOptions fill;
    std::uint64_t max_hole = 0;  ///< rims of more edges stay open; 0: no limit
};

struct Unrepaired {
    Fault fault;
    Vec3 where;
    std::string why;
};

/// What the repair of one category took and made.
struct RepairStep {
    Fault fault;
    std::uint64_t found = 0, removed = 0, made = 0;  ///< triangles, but `found`: findings
};

struct Repaired {
    mesh::TriMesh mesh;
    Check before, after;
    std::vector<RepairStep> steps;
    std::vector<Unrepaired> unrepaired;
    Deviation deviation;  ///< of the triangles that were made from the mesh as it was
};

/// Throws Cancelled.
Repaired repair(const mesh::TriMesh&, const RepairOptions& = {}, Progress& = Progress::none());

}  // namespace pristine::repair
