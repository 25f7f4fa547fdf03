// Meshes and surfaces through the same door as clouds: their triangles are elements (cloud/triangles.h).

#pragma once

#include "core/elements/element_set.h"
#include "core/geometry/features.h"
#include "core/io/cloud_io.h"
#include "core/mesh/attributes.h"
#include "core/mesh/tri_mesh.h"

namespace pristine::io {

/// Whether every triangle faces up. O(triangles).
bool faces_up(const mesh::TriMesh&);

/// Every mesh of a file: a terrain surface when the format says so or all its triangles face up; else a mesh.
std::vector<ReadResult> read_mesh_clouds(const std::filesystem::path&, const ReadOptions&, Progress&);

/// Whether a LandXML file holds surfaces or points, and not only lines. Throws Error(Io).
bool landxml_has_items(const std::filesystem::path&);
/// Survey points, and surfaces of which only points are given, each as a cloud with its name. Throws
/// Error(Format).
std::vector<ReadResult> read_landxml_points(const std::string& text, const std::string& place, Progress&);

/// The kept triangles of all items in one mesh or, by the ending, one grid. All items must
/// have triangles: Error(Unsupported). How many were written.
std::uint64_t write_mesh_clouds(const std::vector<WriteItem>&, const std::filesystem::path&,
                                const WriteOptions&, Progress&);

/// The kept triangles of one item, in the order of its records.
mesh::TriMesh kept_triangles(const WriteItem&);

/// The triangles of a set of elements, in their order.
mesh::TriMesh mesh_of(const cloud::PointCloud&, const ElementSet&);
/// What those carry beside their shape.
mesh::Attributes attributes_of(const cloud::PointCloud&, const ElementSet&);

/// A cloud of a mesh that was made from triangles of another: with its unit, and with what those carry
/// brought over (mesh/carry.h). `value_name` and `values` as in cloud::TriangleParts. Throws Cancelled.
std::shared_ptr<const cloud::PointCloud> made_from(const cloud::PointCloud&, const ElementSet& triangles,
                                                   const mesh::TriMesh& made, Progress&,
                                                   std::string value_name = {},
                                                   std::vector<double> values = {});
/// The same triangles in the same order, moved.
std::shared_ptr<const cloud::PointCloud> moved(const cloud::PointCloud&, const ElementSet& triangles,
                                               const RigidMove&, Progress&);

}  // namespace pristine::io
