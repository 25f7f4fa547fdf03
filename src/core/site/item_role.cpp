#include "core/site/item_role.h"

#include <algorithm>
#include <array>

#include "core/cloud/triangles.h"

namespace pristine::site {
namespace {

constexpr std::array<const char*, kItemRoles> kNames{"points", "terrain", "mesh", "change map", "lining"};

bool has_change(const cloud::PointCloud& c) {
    return c.records()->layout().find(kChangeColumn) != nullptr;
}

}  // namespace

const char* name_of(ItemRole r) {
    return kNames[static_cast<std::size_t>(r)];
}

ItemRole role_of(const std::string& word, const cloud::PointCloud& cloud) {
    for (const ItemRole r : possible_roles(cloud))
        if (word == name_of(r)) return r;
    return usual_role(cloud);
}

ItemRole usual_role(const cloud::PointCloud& c) {
    if (!c.triangles()) return ItemRole::Points;
    if (!cloud::is_surface(c)) return ItemRole::Mesh;
    return has_change(c) ? ItemRole::ChangeMap : ItemRole::Terrain;
}

std::vector<ItemRole> possible_roles(const cloud::PointCloud& c) {
    if (!c.triangles()) return {ItemRole::Points};
    std::vector<ItemRole> out;
    if (cloud::is_surface(c)) out.push_back(ItemRole::Terrain);
    out.push_back(ItemRole::Mesh);
    if (cloud::is_surface(c) && has_change(c)) out.push_back(ItemRole::ChangeMap);
    out.push_back(ItemRole::Lining);
    return out;
}

}  // namespace pristine::site
