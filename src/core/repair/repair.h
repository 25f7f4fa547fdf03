// Making a mesh sound: category by category, each time only what is at fault.
//
// Laws (tested): 1. A triangle that no repair names stays as it is, its corners to the bit. 2. What could not
// be repaired is listed with the reason. 3. The result is the same for any number of workers. 4. No kind of
// fault is found more often afterwards than before; a place where the repair would add one, lose more surface
// than its faults have, or better nothing stays as it was (guard.h). 5. The edge of an open scan is not
// filled unless asked.

#pragma once

#include <set>
#include <string>
#include <vector>

#include "core/base/progress.h"
#include "core/repair/check.h"
#include "core/repair/deviation.h"
#include "core/repair/fill.h"

namespace pristine::repair {

/// What is repaired.
struct RepairOptions {
    std::set<Fault> only;  ///< empty: all
    CheckOptions check;    ///< what is tiny, sharp, small
    FillOptions fill;
    std::uint64_t max_hole = 0;  ///< rims of more edges stay open; 0: no limit
    bool fill_outer = false;     ///< also the edges of open scans (Check::outer)
    double most_loss =
        0.01;  ///< share of the mesh's area that one place may lose beside the faulty triangles
};

/// A fault that stayed, and why.
struct Unrepaired {
    Fault fault;
    Vec3 where;
    std::string why;
};

/// What the repair of one category took and made. What was undone afterwards (law 4) still counts here;
/// `taken` and `made` of the whole do not count it.
struct RepairStep {
    Fault fault;
    std::uint64_t found = 0, removed = 0, made = 0;  ///< triangles, but `found`: findings
};

/// A repaired mesh and what was done to it.
struct Repaired {
    mesh::TriMesh mesh;
    Check before, after;
    std::vector<RepairStep> steps;
    std::vector<Unrepaired> unrepaired;
    Deviation deviation;  ///< of the triangles that were made from the mesh as it was
    double area_before = 0, area_after = 0, area_taken = 0, area_made = 0;  ///< square data units
    std::uint64_t taken = 0, made = 0;  ///< triangles that are in one of the two meshes only
    std::uint64_t left_alone =
        0;  ///< places that stayed as they were because the repair would have made them worse
};

/// `known`: a check of the same mesh with the same options, which then need not be made again; null: none.
/// Throws Cancelled.
Repaired repair(const mesh::TriMesh&, const RepairOptions& = {}, Progress& = Progress::none(),
                const Check* known = nullptr);

}  // namespace pristine::repair
