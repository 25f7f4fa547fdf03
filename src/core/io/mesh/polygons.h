// Faces of files, which may have any number of corners, into triangles with what their corners carry.

#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/io/mesh/mesh_io.h"

namespace pristine::io {

/// One face of a file. What is there must be there of all its corners.
struct Face {
    std::vector<std::uint32_t> corners;
    std::vector<std::array<float, 2>> texture{};
    std::vector<std::array<float, 3>> normals{};
    std::optional<std::uint32_t> colour{};  ///< of the whole face, 0x00RRGGBB
    std::uint16_t group = 0, material = 0;

    void clear();
};

/// Adds faces to a mesh. What only some of them have is filled up for the others.
class FaceAdder {
  public:
    /// `vertex_colours`: of each vertex, or empty. Both must outlive this.
    FaceAdder(MeshFile& file, const std::vector<std::uint32_t>& vertex_colours, std::string place)
        : file_(file), vertex_colours_(vertex_colours), place_(std::move(place)) {}
    /// Throws Error(Format) for corners that are not there, Error(Unsupported) for more than 1000.
    void add(const Face&);
    /// Once, after the last face: groups and materials are dropped where there is but one without a name.
    void finish();

  private:
    MeshFile& file_;
    const std::vector<std::uint32_t>& vertex_colours_;
    std::string place_;
};

}  // namespace pristine::io
