// What the fuzz targets share: the bytes become a file, the file is read, and what was read is used once.

#pragma once

#include <cstddef>
#include <cstdint>

#include "core/io/mesh/mesh_io.h"

namespace pristine::fuzz {

int read_cloud(const std::uint8_t* data, std::size_t size, const char* extension);
int read_meshes(const std::uint8_t* data, std::size_t size, const char* extension);
/// Ends the program when a list does not fit the triangles.
void check(const io::MeshFile&);
int read_lines(const std::uint8_t* data, std::size_t size, const char* extension);
int read_markers(const std::uint8_t* data, std::size_t size);
int read_marker_table(const std::uint8_t* data, std::size_t size);
int read_profile(const std::uint8_t* data, std::size_t size);
int read_fence(const std::uint8_t* data, std::size_t size, const char* extension);

}  // namespace pristine::fuzz
