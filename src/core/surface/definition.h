// What a surface is made from, and making it: points, breaklines, boundaries, limits, and areas that were
// taken out for good. The triangles are derived; whoever changes the definition builds again.
//
// Order of a build: points and breaklines are triangulated; limits take triangles off; parts are replaced;
// boundaries cut; areas that were taken out cut. So what was removed stays removed, whatever changes before.

#pragma once

#include <string>

#include "core/surface/replace.h"

namespace pristine::surface {

/// What becomes of points in the same place in plan.
enum class Duplicates : std::uint8_t { First, Mean, Highest, Lowest };
/// Which height holds where two breaklines cross.
enum class Crossings : std::uint8_t { Mean, Earlier, Later, Highest, Lowest };

/// Which triangles of a surface are too long to be meant.
struct Limits {
    double longest_edge = 0;  ///< in plan: triangles with a longer edge go; 0: no limit
    double rim_edge =
        0;  ///< in plan: triangles go from the rim inwards while their rim edge is longer; 0: none
    double rim_angle = 0;  ///< degrees: likewise while the angle opposite is larger; 0: no limit
    bool operator==(const Limits&) const = default;
};

/// An area that was taken out: its rings, and whose decision it was.
struct Exclusion {
    std::uint64_t id = 0;
    std::string reason, how, who, when;
    bool active = true;
    Rings rings;
};

/// What a terrain surface is built from; lengths and coordinates in the data unit.
struct Definition {
    std::vector<Vec3> points;
    std::vector<Breakline> breaklines;
    Rings boundary;  ///< inside an odd number of them is inside; none: all
    Edges boundary_edges = Edges::Exact;
    Duplicates duplicates = Duplicates::First;
    Crossings crossings = Crossings::Mean;
    Limits limits;
    std::vector<Patch> patches;  ///< parts made anew, one after the other
    std::vector<Exclusion> exclusions;
    /// Triangles that are taken as they are; points, breaklines and limits then do not count.
    mesh::TriMesh given;
};

/// What was odd about the input, and what became of it.
struct BuildReport {
    struct Duplicate {
        Vec3 place;  ///< with the height that holds
        double lowest = 0, highest = 0;
        std::uint32_t count = 0;
    };
    struct Crossing {
        Vec3 place;  ///< with the height that holds
        double earlier = 0, later = 0;
        std::string first, second;  ///< names of the breaklines
    };
    std::uint64_t points = 0;  ///< that were given, breaklines' included
    std::vector<Duplicate> duplicates;
    std::vector<Crossing> crossings;
    std::uint64_t breakline_segments = 0;                  ///< edges of triangles that follow breaklines
    std::uint64_t beyond_limits = 0, beyond_boundary = 0;  ///< triangles that went
};

/// A surface and what was found on the way.
struct Built {
    mesh::TriMesh mesh;  ///< counter-clockwise in plan
    BuildReport report;
    bool distinct = false;  ///< it is known that no two vertices lie in the same place in plan
};

/// The same for any order of points and any number of workers. Throws Error(Usage): no number, too few
/// points, a boundary that crosses itself; Cancelled.
Built build(const Definition&, Progress& = Progress::none());

/// Takes triangles off from the rim inwards while they are beyond the limits of the rim, then those with an
/// edge that is too long. Fixed edges hold: a triangle does not go across one. Numbers of triangles that
/// stay.
std::vector<std::uint32_t> within_limits(const mesh::TriMesh&, const Limits&,
                                         const std::vector<std::uint8_t>& fixed_edges = {});

/// The rings round triangles of a surface: what an exclusion of them is.
Rings rings_round(const mesh::TriMesh&, const std::vector<std::uint32_t>& triangles);

/// The line round a surface as it is: its rims, heights included, holes clockwise.
Rings boundary_of(const mesh::TriMesh&);

/// Only these triangles; vertices that are no longer used are left out.
mesh::TriMesh only(const mesh::TriMesh&, const std::vector<std::uint32_t>& triangles);

}  // namespace pristine::surface
