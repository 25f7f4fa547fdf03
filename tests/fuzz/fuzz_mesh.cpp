// Any bytes as a mesh: the first says in which format. An Error, or triangles that name vertices that are
// there, with as much of each attribute as there are triangles.

#include <cstdint>
#include <string>

#include "core/base/error.h"
#include "core/io/mesh/mesh_io.h"

namespace {

void check(const pristine::io::MeshFile& m) {
    for (const auto& t : m.mesh.triangles)
        for (const std::uint32_t v : t)
            if (v >= m.mesh.vertices.size()) __builtin_trap();
    const auto& a = m.attributes;
    for (const std::size_t n :
         {a.colours.size(), a.normals.size(), a.texture.size(), a.group.size(), a.material.size()})
        if (n != 0 && n != m.mesh.triangles.size()) __builtin_trap();
    for (const std::uint16_t g : a.group)
        if (g >= a.groups.size()) __builtin_trap();
    for (const std::uint16_t k : a.material)
        if (k >= a.materials.size()) __builtin_trap();
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    using namespace pristine::io;
    if (size == 0) return 0;
    constexpr MeshFile (*readers[])(const std::string&, const std::string&) = {
        read_ply_mesh, read_obj, read_stl, read_off, nullptr, read_dxf_faces};
    const std::string text(reinterpret_cast<const char*>(data) + 1, size - 1);
    const auto read = readers[data[0] % std::size(readers)];
    try {
        if (read)
            check(read(text, "fuzz"));
        else
            for (const MeshFile& m : read_landxml_surfaces(text, "fuzz")) check(m);
    } catch (const pristine::Error&) {
    }
    return 0;
}
