// The register of mesh formats: adding one is its file, a test, a seed and a line in mesh_formats().

#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "core/base/file.h"
#include "core/io/mesh/mesh_io.h"

namespace pristine::io {

/// What is written: a mesh, all that it carries, and what its coordinates mean.
struct MeshOut {
    const mesh::TriMesh& mesh;
    const mesh::Attributes& attributes;
    const cloud::Reference& reference;
};

/// A format of triangles; a row of the register.
struct MeshFormat {
    std::string id;                    ///< "glb"
    std::string title;                 ///< as in dialogs: "glTF 2.0, binary"
    std::vector<std::string> endings;  ///< lower case, without the dot; the first is the usual one
    /// Whether a file with such an ending holds triangles; null: always. Throws Error(Io).
    bool (*holds_triangles)(const InputFile&) = nullptr;
    /// Every mesh of the file; null: only written. Progress over the present stretch, where the reader can
    /// tell it. Throws Error(Io, Format, Unsupported), Cancelled.
    std::vector<MeshFile> (*read)(const std::filesystem::path&, Progress&) = nullptr;
    /// Whole or not at all; null: only read. Throws Error(Io, Conflict, Unsupported).
    void (*write)(const MeshOut&, const std::filesystem::path&, bool replace) = nullptr;
};

/// In the order in which dialogs offer them.
const std::vector<MeshFormat>& mesh_formats();
/// Null for endings that no mesh format has.
const MeshFormat* mesh_format_of(const std::filesystem::path&);

// Each format, in a file of its own.
MeshFormat ply_mesh_format();
MeshFormat landxml_mesh_format();
MeshFormat obj_format();
MeshFormat stl_format();
MeshFormat off_format();
MeshFormat dxf_faces_format();
MeshFormat glb_format();
MeshFormat three_mf_format();

}  // namespace pristine::io
