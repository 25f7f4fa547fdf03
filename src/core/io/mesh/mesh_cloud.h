// Meshes and surfaces through the same door as clouds: their triangles are elements (cloud/triangles.h).

#pragma once

#include "core/elements/element_set.h"
#include "core/io/cloud_io.h"
#include "core/mesh/tri_mesh.h"

namespace pristine::io {

/// A terrain surface when the format says so or all its triangles face up; else a mesh.
ReadResult read_mesh_cloud(const std::filesystem::path&, Progress&);

/// The kept triangles of all items in one mesh or, by the ending, one grid (cell of 0.5 m). All items must
/// have triangles: Error(Unsupported). How many were written.
std::uint64_t write_mesh_clouds(const std::vector<WriteItem>&, const std::filesystem::path&,
                                const WriteOptions&, Progress&);

/// The triangles of a set of elements, in their order.
mesh::TriMesh mesh_of(const cloud::PointCloud&, const ElementSet&);

}  // namespace pristine::io
