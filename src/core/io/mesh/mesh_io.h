// Triangle meshes and surfaces in files: PLY, OBJ, STL, OFF, LandXML, DXF.

#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "core/base/progress.h"
#include "core/cloud/point_cloud.h"
#include "core/mesh/attributes.h"
#include "core/mesh/tri_mesh.h"

namespace pristine::io {

/// The triangles of a file and what it says of them.
struct MeshFile {
    mesh::TriMesh mesh;
    mesh::Attributes attributes{};
    std::string format;                ///< "PLY mesh, binary"
    bool surface = false;              ///< the format says that it is terrain (LandXML)
    std::string unit;                  ///< an id of units.h, where the format states one
    std::string crs{}, height_unit{};  ///< as of cloud::Reference, where the format states them
    std::string name{};                ///< in the file; empty: that of the file
    std::vector<std::string> warnings;
    cloud::Reference reference() const { return {crs, unit, height_unit}; }
};

/// Whether a file holds triangles: by its ending, and for PLY by its header, for XML by its first bytes.
bool is_mesh_file(const std::filesystem::path&);

/// Polygons become triangles. Corners of STL in the same place to the bit become one. Throws Error(Io,
/// Format, Unsupported) naming file and place.
/// Of a file with several surfaces (LandXML): Error(Usage) naming them.
MeshFile read_mesh(const std::filesystem::path&, Progress& = Progress::none());
/// Every surface of a file, each with its name; one for all formats but LandXML.
std::vector<MeshFile> read_meshes(const std::filesystem::path&, Progress& = Progress::none());

/// By the ending: ply, obj, stl, off, xml (LandXML), dxf (3D faces). Whole or not at all. STL keeps singles
/// only: where they cost digits its coordinates count from a place that is written beside (local_origin.h).
/// Of the attributes OBJ (with an MTL file) keeps all, PLY all but groups and colours of materials beside a
/// texture, OFF colours of vertices; pictures go beside. Throws Error(Io, Conflict, Unsupported).
void write_mesh(const mesh::TriMesh&, const std::filesystem::path&, bool replace,
                const std::string& unit = {}, const mesh::Attributes& = {}, const std::string& crs = {});

// One reader and writer for each format; `text` is the whole file. Readers also throw Cancelled.
MeshFile read_ply_mesh(const std::string& text, const std::string& place, Progress& = Progress::none());
MeshFile read_obj(const std::string& text, const std::string& place, Progress& = Progress::none());
MeshFile read_stl(const std::string& text, const std::string& place, Progress& = Progress::none());
MeshFile read_off(const std::string& text, const std::string& place, Progress& = Progress::none());
/// The surfaces that have faces. Throws Error(Format) when there is none.
std::vector<MeshFile> read_landxml_surfaces(const std::string& text, const std::string& place);
MeshFile read_dxf_faces(const std::string& text, const std::string& place, Progress& = Progress::none());
void write_obj(const mesh::TriMesh&, const mesh::Attributes&, const std::filesystem::path&, bool replace,
               const cloud::Reference& = {});

}  // namespace pristine::io
