// Colours of a mesh for formats that know them of vertices or of faces only.

#pragma once

#include "core/mesh/attributes.h"
#include "core/mesh/tri_mesh.h"

namespace pristine::io {

/// One colour, 0x00RRGGBB, for each vertex: the mean of those at the corners that meet there. Empty without
/// colours.
std::vector<std::uint32_t> vertex_colours(const mesh::TriMesh&, const mesh::Attributes&);

/// One colour for each triangle, where that says all and colours of vertices would not: of triangles in one
/// colour each that differ from their neighbours, or of materials without a texture. Else empty.
std::vector<std::uint32_t> face_colours(const mesh::TriMesh&, const mesh::Attributes&);

}  // namespace pristine::io
