// What an item stands for: said by the file that it came from, by what made it, or by a person. Figures ask
// for the role, never for a name.

#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "core/cloud/point_cloud.h"

namespace pristine::site {

/// What an item stands for.
enum class ItemRole : std::uint8_t {
    Points,     ///< a point cloud
    Terrain,    ///< the ground of a date, triangulated
    Mesh,       ///< triangles of an object; no ground
    ChangeMap,  ///< triangles with the change of height between two dates in a column; no ground of any date
    Lining,     ///< the inner face of a tunnel, shaft or chamber
};
inline constexpr int kItemRoles = 5;

/// Name of the column that holds changes of height: drawn in the colours of cut and fill.
inline constexpr const char* kChangeColumn = "change";

/// "points", "terrain", "mesh", "change map", "lining": as project files hold it.
const char* name_of(ItemRole);
/// The role of such a word, if it is one that a cloud can have; else usual_role.
ItemRole role_of(const std::string& word, const cloud::PointCloud&);
/// What a cloud is taken for as it is read: points; a surface with a column "change": a map; another surface:
/// terrain; other triangles: a mesh.
ItemRole usual_role(const cloud::PointCloud&);
/// Roles that a cloud can have, its usual one among them: terrain must be a surface (faces up, none over
/// another), a map must also have the column.
std::vector<ItemRole> possible_roles(const cloud::PointCloud&);

}  // namespace pristine::site
