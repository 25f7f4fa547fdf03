// Surfaces of LandXML 1.2: points northing first, faces by the numbers of points.

#include <fmt/format.h>

#include <pugixml.hpp>
#include <unordered_map>

#include "core/base/error.h"
#include "core/geometry/predicates.h"
#include "core/io/landxml.h"
#include "core/io/lines/line_sources.h"
#include "core/io/mesh/mesh_io.h"

namespace pristine::io {
namespace {

// Turned so that it faces upwards; false for one that stands upright.
bool face_up(const mesh::TriMesh& m, std::array<std::uint32_t, 3>& t) {
    const Vec3 &a = m.vertices[t[0]], &b = m.vertices[t[1]], &c = m.vertices[t[2]];
    const int turn = orientation(a.x, a.y, b.x, b.y, c.x, c.y);
    if (turn < 0) std::swap(t[1], t[2]);
    return turn != 0;
}

}  // namespace

namespace {

MeshFile surface_of(const pugi::xml_node& surface, const std::string& place) {
    MeshFile m;
    m.format = "LandXML surface";
    m.surface = true;
    m.name = surface.attribute("name").as_string();
    const pugi::xml_node definition = local_child(surface, "Definition");
    std::size_t upright = 0;
    std::unordered_map<std::int64_t, std::uint32_t> number;
    for (const pugi::xml_node& p : local_child(definition, "Pnts").children()) {
        if (local_name(p) != "P") continue;
        const std::vector<double> v = numbers_in(p.text().as_string(), "point", place);
        if (v.size() < 3) throw Error(ErrorCode::Format, "A point has fewer than three coordinates", place);
        number[p.attribute("id").as_llong()] = static_cast<std::uint32_t>(m.mesh.vertices.size());
        m.mesh.vertices.push_back({v[1], v[0], v[2]});
    }
    for (const pugi::xml_node& f : local_child(definition, "Faces").children()) {
        if (local_name(f) != "F" || f.attribute("i").as_int() == 1)
            continue;  // invisible: outside of the surface
        const std::vector<double> v = numbers_in(f.text().as_string(), "face", place);
        std::array<std::uint32_t, 3> t{};
        if (v.size() < 3) throw Error(ErrorCode::Format, "A face has fewer than three corners", place);
        for (std::size_t k = 0; k < 3; ++k) {
            const auto it = number.find(static_cast<std::int64_t>(v[k]));
            if (it == number.end())
                throw Error(ErrorCode::Format, fmt::format("A face names point {} that is not there", v[k]),
                            place);
            t[k] = it->second;
        }
        if (face_up(m.mesh, t))
            m.mesh.triangles.push_back(t);
        else
            ++upright;
    }
    if (upright > 0)
        m.warnings.push_back(
            fmt::format("{} faces stand upright or have no area and were left out", upright));
    return m;
}

}  // namespace

std::vector<MeshFile> read_landxml_surfaces(const std::string& text, const std::string& place) {
    pugi::xml_document doc;
    const pugi::xml_node root = landxml_root(doc, text, place);
    const cloud::Reference reference = landxml_reference(root);
    std::vector<MeshFile> found;
    for (const pugi::xml_node& group : root.children()) {
        if (local_name(group) != "Surfaces") continue;
        for (const pugi::xml_node& surface : group.children()) {
            if (local_name(surface) != "Surface" || !local_child(local_child(surface, "Definition"), "Faces"))
                continue;
            MeshFile m = surface_of(surface, place);
            m.unit = reference.unit;
            m.height_unit = reference.height_unit;
            m.crs = reference.crs;
            found.push_back(std::move(m));
        }
    }
    if (found.empty()) throw Error(ErrorCode::Format, "There is no surface with faces in the file", place);
    return found;
}

}  // namespace pristine::io
