// Any bytes as a mesh: the first says in which format. An Error, or triangles that name vertices that are
// there, with as much of each attribute as there are triangles.

#include <iterator>
#include <string>

#include "core/base/error.h"
#include "core/io/mesh/mesh_io.h"
#include "fuzz_support.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    using namespace pristine::io;
    if (size == 0) return 0;
    constexpr MeshFile (*readers[])(const std::string&, const std::string&, pristine::Progress&) = {
        read_ply_mesh, read_obj, read_stl, read_off, nullptr, read_dxf_faces};
    const std::string text(reinterpret_cast<const char*>(data) + 1, size - 1);
    const auto read = readers[data[0] % std::size(readers)];
    try {
        if (read)
            pristine::fuzz::check(read(text, "fuzz", pristine::Progress::none()));
        else
            for (const MeshFile& m : read_landxml_surfaces(text, "fuzz")) pristine::fuzz::check(m);
    } catch (const pristine::Error&) {
    }
    return 0;
}
