#include "core/io/mesh/mesh_io.h"

#include <fmt/format.h>

#include <cmath>

#include "core/base/file.h"
#include "core/io/ending.h"
#include "core/io/format.h"
#include "core/io/mesh/mesh_format.h"
#include "core/io/reference/remark.h"

namespace pristine::io {
namespace {

// Throws for what cannot be used, whatever the format.
void check(const MeshFile& m, const std::string& place) {
    for (const auto& t : m.mesh.triangles)
        for (const std::uint32_t v : t)
            if (v >= m.mesh.vertices.size())
                throw Error(ErrorCode::Format, "A triangle names a vertex that is not there", place);
    for (const Vec3& v : m.mesh.vertices)
        if (!std::isfinite(v.x) || !std::isfinite(v.y) || !std::isfinite(v.z))
            throw Error(ErrorCode::Format, "A vertex has a coordinate that is no number", place);
}

}  // namespace

bool is_mesh_file(const std::filesystem::path& path) {
    const MeshFormat* format = mesh_format_of(path);
    if (!format || !format->read) return false;
    if (!format->holds_triangles) return true;
    try {
        return format->holds_triangles(InputFile(path));
    } catch (const Error&) {
        return false;
    }
}

std::vector<MeshFile> read_meshes(const std::filesystem::path& path, Progress& progress) {
    const std::string place = path.string();
    { const InputFile there(path); }  // a clear word when it is missing
    const MeshFormat* format = mesh_format_of(path);
    if (!format || !format->read)
        throw Error(ErrorCode::Unsupported, "The file is none of the meshes that can be read", place,
                    "There are " + format_list(Format::Holds::Triangles, false) + ".");
    progress.check();
    std::vector<MeshFile> all = format->read(path, progress);
    for (MeshFile& m : all) {
        check(m, place);
        if (m.mesh.triangles.empty())
            throw Error(ErrorCode::Format,
                        m.mesh.vertices.empty() ? std::string("The file holds no triangles")
                                                : fmt::format("The file holds {} vertices and no triangles",
                                                              m.mesh.vertices.size()),
                        place, m.mesh.vertices.empty() ? "" : "Save the points as PLY or text to open them.");
        if (m.unit.empty() && m.crs.empty()) {
            const cloud::Reference r = sidecar_reference(path);
            m.unit = r.unit;
            m.crs = r.crs;
            m.height_unit = r.height_unit;
        }
    }
    return all;
}

MeshFile read_mesh(const std::filesystem::path& path, Progress& progress) {
    std::vector<MeshFile> all = read_meshes(path, progress);
    if (all.size() == 1) return std::move(all.front());
    std::string names;
    for (const MeshFile& m : all) names += (names.empty() ? "'" : ", '") + m.name + "'";
    throw Error(ErrorCode::Usage, fmt::format("The file holds {} surfaces: {}", all.size(), names),
                path.string(), "Say which one is meant (--item NAME).");
}

void write_mesh(const mesh::TriMesh& m, const std::filesystem::path& path, bool replace,
                const std::string& unit, const mesh::Attributes& a, const std::string& crs) {
    const MeshFormat* format = mesh_format_of(path);
    if (!format || !format->write)
        throw Error(ErrorCode::Unsupported,
                    "'" + ending_of(path) + "' is no ending of a mesh that can be written", path.string(),
                    "There are " + format_list(Format::Holds::Triangles, true) + ".");
    format->write({m, a, {crs, unit, {}}}, path, replace);
}

}  // namespace pristine::io
