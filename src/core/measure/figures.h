// Areas, lengths and volumes of a terrain surface: triangles counter-clockwise in plan that do not overlap.

#pragma once

#include "core/cloud/point_cloud.h"
#include "core/mesh/tri_mesh.h"

namespace pristine::measure {

/// Throws Error(Usage) with a sentence for people when coordinates of this kind have no areas and volumes:
/// degrees, or heights in another unit than the plan.
void require_lengths(const cloud::Reference&);

/// Areas and extent of a surface.
struct SurfaceFigures {
    double plan_area = 0, surface_area = 0;  ///< square data units
    double perimeter = 0;                    ///< of all rims, holes included, in space; data unit
    double lowest = 0, highest = 0;
};
/// O(n log n) for the perimeter.
SurfaceFigures figures(const mesh::TriMesh&);

/// z = at + east (x - foot.x) + north (y - foot.y): a level when both slopes are 0.
struct Base {
    Vec3 foot;
    double east = 0, north = 0;
    double height(double x, double y) const { return foot.z + east * (x - foot.x) + north * (y - foot.y); }
};
Base level(double z);
/// Through three points that are not in line in plan. Throws Error(Usage).
Base plane_through(const Vec3&, const Vec3&, const Vec3&);
/// Through the corners of a line: exactly for three, else by least squares of the heights. Throws
/// Error(Usage) when they are fewer or in line in plan.
Base plane_of(const std::vector<Vec3>&);
/// A level at the lowest or the mean height of the rims (mean along their length). Throws Error(Usage) for a
/// surface without triangles.
Base lowest_of_rim(const mesh::TriMesh&);
Base mean_of_rim(const mesh::TriMesh&);
/// The rims triangulated, as a surface to compare with.
mesh::TriMesh triangulated_rim(const mesh::TriMesh&);

/// Volumes above and below something.
struct Volumes {
    double above = 0, below = 0;            ///< both positive, cubic data units
    double area_above = 0, area_below = 0;  ///< in plan
};
/// Between the surface and the base, exactly: triangles are cut where they pass through it.
Volumes volumes(const mesh::TriMesh&, const Base&);

}  // namespace pristine::measure
