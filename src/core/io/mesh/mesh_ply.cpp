#include "core/io/mesh/mesh_ply.h"

#include <fmt/format.h>

#include "core/base/bytes.h"
#include "core/base/file.h"

namespace pristine::io {

void write_mesh_ply(const mesh::TriMesh& m, const std::filesystem::path& path, bool replace) {
    OutputFile out(path, replace);
    std::string bytes = fmt::format(
        "ply\nformat binary_little_endian 1.0\nelement vertex {}\nproperty double x\nproperty double y\n"
        "property double z\nelement face {}\nproperty list uchar int vertex_indices\nend_header\n",
        m.vertices.size(), m.triangles.size());
    for (const Vec3& v : m.vertices)
        for (int a = 0; a < 3; ++a) append_le(bytes, v[a]);
    for (const auto& t : m.triangles) {
        append_le(bytes, std::uint8_t{3});
        for (const std::uint32_t i : t) append_le(bytes, static_cast<std::int32_t>(i));
    }
    out.write(bytes);
    out.finish();
}

}  // namespace pristine::io
