// Volumes of stockpiles: what of a surface lies inside closed lines, each above a base of its own.

#pragma once

#include <string>
#include <vector>

#include "core/base/progress.h"
#include "core/mesh/tri_mesh.h"

namespace pristine::measure {

/// What a pile stands on.
enum class PileBase {
    TriangulatedRim,  ///< its foot, triangulated
    LowestOfRim,      ///< a level at the lowest height of its foot
    MeanOfRim,        ///< a level at the mean height along its foot
    PlaneOfRim,       ///< the plane through its foot, by least squares of the heights
    Level,            ///< a level that is given
    OtherSurface      ///< another surface, such as the yard when it was empty
};
/// "rim", "lowest", "mean", "plane", "level", "surface": on the command line and in files.
const char* id_of(PileBase);
/// Throws Error(Usage) with a list of what there is.
PileBase pile_base_of(const std::string& id);

struct PileOptions {
    PileBase base = PileBase::TriangulatedRim;
    double level = 0;                      ///< of PileBase::Level, data unit
    const mesh::TriMesh* other = nullptr;  ///< of PileBase::OtherSurface
    /// Of the heights of a vertex, one standard deviation, data unit; 0: estimated of each pile (noise.h).
    double noise = 0;
};

/// One pile. Data units, squared and cubed.
struct Pile {
    double volume = 0;  ///< above the base
    double below = 0;   ///< between base and surface where the surface lies below it
    /// One standard deviation of `volume - below` from independent noise of the heights, the foot and, of
    /// OtherSurface, the other surface included. What both share, such as a height datum, is not in it.
    double sigma = 0;
    double noise = 0;  ///< that was counted with
    double plan_area = 0, surface_area = 0;
    double outline_area = 0;  ///< of the line; larger than plan_area where the surface does not cover it
    double highest = 0;
    double base_low = 0, base_high = 0;  ///< of the base along the foot
};

/// What a surface has inside a closed line, cut exactly there. The surface is counter-clockwise in plan.
/// Throws Error(Usage) for a line of fewer than three places or one that crosses itself, Error(Empty) where
/// the surface does not reach inside, Cancelled. O(n log n).
Pile stockpile(const mesh::TriMesh&, const std::vector<Vec3>& outline, const PileOptions&,
               Progress& = Progress::none());

/// Pairs of outlines that overlap in plan, the smaller number first: what lies in both counts twice.
std::vector<std::pair<std::size_t, std::size_t>> overlapping_outlines(
    const std::vector<std::vector<Vec3>>& outlines);

}  // namespace pristine::measure
