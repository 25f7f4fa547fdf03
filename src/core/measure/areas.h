// Cut and fill of several work areas beside each other, checked against the whole.

#pragma once

#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "core/measure/difference.h"

namespace pristine::measure {

/// A part of the site that is counted by itself: a closed line in plan that does not repeat its first place.
struct WorkArea {
    std::string name;
    std::vector<Vec3> outline;
};

/// The figures of all areas. Data units.
struct AreaTable {
    struct Row {
        std::string name;
        double area = 0;  ///< inside of the outline, in plan
        Difference change;
    };
    std::vector<Row> rows;
    Difference whole, rest;              ///< everywhere, and outside of all areas
    std::optional<Difference> together;  ///< of all areas; none when some overlap: they would count twice
    /// Numbers of areas that overlap.
    std::vector<std::pair<std::size_t, std::size_t>> overlapping;
    /// How far the sum of areas and rest is from the whole, in cut and fill: rounding, or a fault. 0 when
    /// areas overlap.
    double mismatch = 0;
};

/// Both surfaces are cut exactly at each outline. Throws Error(Usage) for an outline that crosses itself,
/// Error(Empty) when an area lies off both surfaces, each with its name; Cancelled. O(areas * triangles).
AreaTable difference_by_area(const mesh::TriMesh& before, const mesh::TriMesh& after,
                             const std::vector<WorkArea>&, const DifferenceOptions& = {},
                             Progress& = Progress::none());

}  // namespace pristine::measure
