// Contours that swing less than their triangles make them, without losing what they say.

#pragma once

#include "core/measure/contours.h"

namespace pristine::measure {

/// Smoothed contours, and how far they are from those that are true to the triangles.
struct SmoothContours {
    std::vector<Contour> contours;  ///< in the order in which they were given, with as many places
    double plan = 0;                ///< no place is farther from where it was; data unit
    double height = 0;              ///< the surface is nowhere farther from the level of its line
    std::uint64_t held = 0;  ///< places that moved less than wanted, or not at all, so that nothing crosses
};

/// Laws (tested): 1. No place moves farther than `most` in plan; ends of open lines stay. 2. Everywhere on a
/// line the surface is within 0.45 of the interval of its level, so lines of different levels never cross. 3.
/// Lines of one level do not cross each other or themselves. 4. Lines stay on the surface. Method: low-pass
/// along the line without shrinking (Taubin 1995), then places that break a law go back half-way, and in the
/// end wholly. `contours` are those of the surface at that interval. O(places * rounds), by levels in
/// parallel. Throws Error(Usage) for a `most` that is not above zero; Cancelled.
SmoothContours smoothed(const mesh::TriMesh&, const std::vector<Contour>& contours, double interval,
                        double most, Progress& = Progress::none());

}  // namespace pristine::measure
