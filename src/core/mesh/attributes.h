// What a mesh carries beside its shape: colours, normals, texture, groups.
//
// All of it is said for each corner of each triangle, or for each triangle, and never of vertices: so the
// part that belongs to some triangles is theirs alone, and a seam of a texture is no seam of the mesh.

#pragma once

#include <array>
#include <cstdint>
#include <memory>
#include <span>
#include <string>
#include <vector>

#include "core/base/mipmap.h"

namespace pristine::mesh {

/// What triangles look like: a colour or a picture.
struct Material {
    std::string name;
    std::uint32_t colour = 0xCCCCCC;             ///< 0x00RRGGBB, where there is no picture
    std::string image_name{};                    ///< of the picture's file; empty: none
    std::shared_ptr<const std::string> image{};  ///< that file's bytes as they came
    std::shared_ptr<const Mipmap> picture{};     ///< decoded; null: none, or not to be read
};

/// Each list is empty or has one entry for each triangle of the mesh.
struct Attributes {
    std::vector<std::array<std::uint32_t, 3>> colours{};  ///< 0x00RRGGBB
    std::vector<std::array<std::array<float, 3>, 3>> normals;
    std::vector<std::array<std::array<float, 2>, 3>> texture;  ///< u, v: 0, 0 is the picture's lower left
    std::vector<std::uint16_t> group, material;                ///< numbers in the lists below
    std::vector<std::string> groups;
    std::vector<Material> materials;

    bool empty() const {
        return colours.empty() && normals.empty() && texture.empty() && group.empty() && material.empty();
    }
    /// Whether something is known of the colour.
    bool coloured() const { return !colours.empty() || !material.empty(); }
};

/// Those of some triangles, in the order in which they are named.
Attributes part_of(const Attributes&, std::span<const std::uint32_t> triangles);

/// Adds those of another mesh behind. What only one of the two has is white, without direction, in a group or
/// of a material without a name for the other.
void append(Attributes& to, std::size_t triangles, const Attributes& more, std::size_t more_triangles);

/// The colour at a place of a triangle, 0x00RRGGBB: by the texture where there is one, else the corner
/// colours, else the material. `at`: barycentric. `spot`: how large a part of the triangle's texture is seen
/// at once, in its own u and v.
std::uint32_t colour_at(const Attributes&, std::size_t triangle, const std::array<double, 3>& at,
                        double spot);

/// Corner colours at a place between them.
std::uint32_t mixed(const std::array<std::uint32_t, 3>& colours, const std::array<double, 3>& at);

}  // namespace pristine::mesh
