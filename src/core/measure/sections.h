// Sections across an axis at an interval, of one surface or two: what lies between the two at each, and the
// volume by sections beside the exact one.

#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/measure/contours.h"

namespace pristine::measure {

struct SectionPlan {
    double every = 10;       ///< along the axis in plan, data unit
    double half_width = 20;  ///< to either side, data unit
};

/// A place of a section: offset from the axis in plan, to the right above zero.
struct OffsetHeight {
    double offset = 0, height = 0;
};
using SectionStretch = std::vector<OffsetHeight>;

/// A section. Areas between the first and the last surface, square data units; 0 with one surface.
struct CrossSection {
    double chainage = 0;
    Vec3 at, left, right;                               ///< on the axis; ends, heights 0
    std::vector<std::vector<SectionStretch>> surfaces;  ///< of each, stretches from left to right
    double cut = 0, fill = 0;                           ///< the last lies below the first; above it
    double both = 0;                                    ///< width that both have
};

/// Volumes along the axis, cubic data units.
struct SectionVolumes {
    double cut_ends = 0, fill_ends = 0;      ///< mean of the areas at both ends of each stretch
    double cut_prisms = 0, fill_prisms = 0;  ///< with the area in the middle, as Simpson's rule
    std::optional<double> cut_exact,
        fill_exact;             ///< between the first and the last section, by the triangles
    std::string why_not_exact;  ///< sections cross each other in a bend
};

struct Sections {
    std::vector<CrossSection> all;
    SectionVolumes volumes;
};

/// At 0, every, twice that … and at the end of the axis. A closed axis repeats its first place. Surfaces are
/// counter-clockwise in plan, the earlier first. Throws Error(Usage) for an axis without length, an interval
/// or width that is not above zero, or more than 100,000 sections; Cancelled. O(triangles + sections *
/// triangles met), in parallel.
Sections sections(const std::vector<const mesh::TriMesh*>& surfaces, const std::vector<Vec3>& axis,
                  const SectionPlan&, Progress& = Progress::none());

/// Area between two lines of heights where both are: cut where the second lies below the first.
struct AreaBetween {
    double cut = 0, fill = 0, both = 0;
};
AreaBetween area_between(const std::vector<SectionStretch>& first, const std::vector<SectionStretch>& second);

}  // namespace pristine::measure
