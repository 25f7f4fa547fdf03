// Triangles as elements: a mesh or surface is a cloud of the middles of its triangles, so that whatever
// selects, decides, guards, undoes or stores elements works on triangles as it does on points. The corners
// are its records; the mesh itself hangs on the cloud, its triangles in the order of the elements.

#pragma once

#include "core/base/progress.h"
#include "core/cloud/point_cloud.h"
#include "core/topology/adjacency.h"

namespace pristine::cloud {

/// RecordLayout::format of such records (triangle_records.h).
inline constexpr const char* kTriangleFormat = "triangles";

/// What a mesh has beside its triangles when it becomes a cloud.
struct TriangleParts {
    std::string unit, crs;
    bool surface = false;          ///< terrain: triangles face up and do not overlap in plan
    std::string value_name{};      ///< one more column, if not empty
    std::vector<double> values{};  ///< of it, one for each triangle
    mesh::Attributes attributes{};
    bool joined = false;  ///< the vertices of the mesh lie in different places: they need not be compared
    std::string height_unit{};  ///< as PointCloud::Parts::height_unit
};
/// Middles are rounded to a grid as fine as 32 bits allow; where the mesh has colours, the element's is the
/// mean of its triangle's. Throws Cancelled.
std::shared_ptr<const PointCloud> cloud_of_triangles(const mesh::TriMesh&, const TriangleParts&,
                                                     Progress& = Progress::none());

/// The neighbours of a cloud's triangles, worked out at the first call and held for the two clouds asked for
/// last. Thread safe.
std::shared_ptr<const topology::Adjacency> adjacency_of(const PointCloud&);

/// Whether the elements are triangles of a terrain surface.
bool is_surface(const PointCloud&);

}  // namespace pristine::cloud
