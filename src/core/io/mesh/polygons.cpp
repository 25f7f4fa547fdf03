#include "core/io/mesh/polygons.h"

#include <algorithm>

#include "core/base/error.h"
#include "core/mesh/polygon_triangles.h"

namespace pristine::io {
namespace {

constexpr std::uint32_t kWhite = 0xFFFFFF;

// Puts a value behind those of all triangles before, which may have had none.
template <class T>
void put(std::vector<T>& list, std::size_t at, const T& value, const T& without) {
    list.resize(at, without);
    list.push_back(value);
}

}  // namespace

void Face::clear() {
    corners.clear();
    texture.clear();
    normals.clear();
    colour.reset();
}

void FaceAdder::add(const Face& f) {
    mesh::TriMesh& m = file_.mesh;
    for (const std::uint32_t c : f.corners)
        if (c >= m.vertices.size())
            throw Error(ErrorCode::Format, "A triangle names a vertex that is not there", place_);
    const std::size_t before = m.triangles.size();
    mesh::triangulate_polygon(m.vertices, f.corners, m.triangles);
    for (std::size_t t = before; t < m.triangles.size(); ++t) {
        std::array<std::size_t, 3> corner{};
        for (std::size_t k = 0; k < 3; ++k)
            corner[k] = static_cast<std::size_t>(
                std::find(f.corners.begin(), f.corners.end(), m.triangles[t][k]) - f.corners.begin());
        mesh::Attributes& a = file_.attributes;
        if (!f.texture.empty() || !a.texture.empty()) {
            std::array<std::array<float, 2>, 3> uv{};
            if (!f.texture.empty())
                for (std::size_t k = 0; k < 3; ++k) uv[k] = f.texture[corner[k]];
            put(a.texture, t, uv, {});
        }
        if (!f.normals.empty() || !a.normals.empty()) {
            std::array<std::array<float, 3>, 3> n{};
            if (!f.normals.empty())
                for (std::size_t k = 0; k < 3; ++k) n[k] = f.normals[corner[k]];
            put(a.normals, t, n, {});
        }
        if (f.colour)
            put(a.colours, t, {*f.colour, *f.colour, *f.colour}, {kWhite, kWhite, kWhite});
        else if (!vertex_colours_.empty() || !a.colours.empty()) {
            std::array<std::uint32_t, 3> c{kWhite, kWhite, kWhite};
            for (std::size_t k = 0; k < 3; ++k)
                if (m.triangles[t][k] < vertex_colours_.size()) c[k] = vertex_colours_[m.triangles[t][k]];
            put(a.colours, t, c, {kWhite, kWhite, kWhite});
        }
        put(a.group, t, f.group, std::uint16_t{0});
        put(a.material, t, f.material, std::uint16_t{0});
    }
}

void FaceAdder::finish() {
    mesh::Attributes& a = file_.attributes;
    if (a.groups.empty() || (a.groups.size() == 1 && a.groups[0].empty())) a.group.clear(), a.groups.clear();
    if (a.materials.empty() ||
        (a.materials.size() == 1 && a.materials[0].name.empty() && a.materials[0].image_name.empty()))
        a.material.clear(), a.materials.clear();
}

}  // namespace pristine::io
