// Areas and volumes of a map of change, class by class.

#pragma once

#include <span>
#include <vector>

#include "core/mesh/tri_mesh.h"

namespace pristine::measure {

/// Area and volume of one class of a map.
struct ClassFigures {
    double from = 0,
           to = 0;      ///< value in [from, to); the first begins at minus infinity, the last has no end
    double area = 0;    ///< in plan, square data units
    double volume = 0;  ///< area times value, summed: what was added, or taken away (negative)
};

/// `values`: of each triangle, data unit. `limits`: ascending; none: one class of everything. Triangles
/// without a value are left out. O(n log k).
std::vector<ClassFigures> figures_by_class(const mesh::TriMesh&, std::span<const double> values,
                                           const std::vector<double>& limits);

}  // namespace pristine::measure
