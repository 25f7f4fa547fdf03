// Triangles as the records of a cloud: corners, and what the mesh carries beside its shape.
//
// A record is nine doubles, the corners one after the other; one byte, 1 for terrain surfaces; perhaps one
// double more; then what there is of the attributes, in the order of mesh/attributes.h. The names of groups
// and the materials with their pictures are in the head of the layout.

#pragma once

#include "core/cloud/point_cloud.h"
#include "core/cloud/triangles.h"

namespace pristine::cloud {

/// Records of triangles in the order of the mesh, of which a copy is kept.
std::shared_ptr<const RecordSource> records_of(const mesh::TriMesh&, const TriangleParts&);

/// The number of the record of each element.
std::vector<std::uint32_t> records_in_order(const PointCloud::Parts&);

/// The mean of a triangle's colour, as far as its corners, the middles of its edges and its own tell it:
/// 0x00RRGGBB.
std::uint32_t mean_colour(const mesh::Attributes&, std::size_t triangle);

/// The middle of a triangle in steps of the grid, not rounded.
Vec3 middle_of(const mesh::TriMesh&, std::size_t triangle, const Grid&);

/// The triangles of a mesh as records: three corners each.
struct Triangles {
    std::shared_ptr<const mesh::TriMesh> mesh;           ///< null for records that are no triangles
    std::shared_ptr<const mesh::Attributes> attributes;  ///< null: none; pictures are not decoded
};
/// The triangles of records, in the order of elements; corners in the same place to the bit are one vertex.
/// Throws Error(Format) for damaged ones.
Triangles triangles_of(const RecordSource&, const OrderSource&, std::size_t pages);

}  // namespace pristine::cloud
