// Sections above each other, and a profile: heights over distance as a drawing, with axes, unit and
// exaggeration.

#pragma once

#include <string>
#include <vector>

#include "core/measure/sections.h"
#include "core/report/drawing.h"

namespace pristine::report {

struct SectionsSpec {
    std::vector<std::string> surfaces;      ///< names, the earlier first
    double width = 165, most_height = 200;  ///< mm
    double metres = 1, shown_factor = 1;
    std::string unit;
    int scale = 0;  ///< of distances; 0: the largest round one that fits
    double exaggeration = 1;
};

/// The drawings, a page each at most, and the scale that they got.
struct SectionsDrawn {
    std::vector<Drawing> drawings;
    int scale = 0;
};
/// With two surfaces what lies between them is filled and hatched: fill blue, cut orange.
SectionsDrawn section_drawings(const std::vector<measure::CrossSection>&, const SectionsSpec&);

}  // namespace pristine::report
