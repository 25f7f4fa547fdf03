#include "core/io/mesh/mesh_io.h"

#include "core/io/landxml_writer.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstring>

#include "core/base/bytes.h"
#include "core/base/file.h"
#include "core/base/output.h"
#include "core/io/ending.h"
#include "core/io/mesh/mesh_ply.h"
#include "core/io/mesh/text_scan.h"
#include "core/io/mesh/vertex_colours.h"
#include "core/io/ply/ply_header.h"
#include "core/io/reference/remark.h"
#include "core/io/text_encoding.h"

namespace pristine::io {
namespace {

constexpr std::size_t kHead = 64 << 10;  // bytes that tell what a file is

std::string head_of(const InputFile& file) {
    return file.read_string(0, std::min<std::uint64_t>(file.size(), kHead));
}

bool ply_has_faces(const std::string& head) {
    try {
        const PlyHeader header = parse_ply_header(head, {});
        const PlyElement* faces = header.find("face");
        return faces && faces->count > 0 && faces->has_list();
    } catch (const Error&) {
        return false;
    }
}

std::string off_of(const mesh::TriMesh& m, const mesh::Attributes& a, const cloud::Reference& reference) {
    const std::vector<std::uint32_t> colours = vertex_colours(m, a);
    std::string s = colours.empty() ? "OFF\n" : "COFF\n";
    for (const std::string& line : reference_remarks(reference)) s += "# " + line + "\n";
    s += fmt::format("{} {} 0\n", m.vertices.size(), m.triangles.size());
    for (std::size_t i = 0; i < m.vertices.size(); ++i) {
        const Vec3& v = m.vertices[i];
        fmt::format_to(std::back_inserter(s), "{} {} {}", v.x, v.y, v.z);
        if (!colours.empty())
            fmt::format_to(std::back_inserter(s), " {} {} {} 255", colours[i] >> 16, colours[i] >> 8 & 255u,
                           colours[i] & 255u);
        s += '\n';
    }
    for (const auto& t : m.triangles) fmt::format_to(std::back_inserter(s), "3 {} {} {}\n", t[0], t[1], t[2]);
    return s;
}

std::string stl_of(const mesh::TriMesh& m) {
    Box3 box;
    for (const Vec3& v : m.vertices) box.add(v);
    const double far = box.empty()
                           ? 0
                           : std::max({std::fabs(box.lo.x), std::fabs(box.lo.y), std::fabs(box.lo.z),
                                       std::fabs(box.hi.x), std::fabs(box.hi.y), std::fabs(box.hi.z)});
    if (far > 100'000)
        throw Error(ErrorCode::Unsupported,
                    "STL keeps seven digits only, which national coordinates do not fit into", {},
                    "Write PLY or OBJ.");
    std::string s(80, ' ');
    std::memcpy(s.data(), "triangle mesh", 13);
    append_le(s, static_cast<std::uint32_t>(m.triangles.size()));
    for (const auto& t : m.triangles) {
        const Vec3 &a = m.vertices[t[0]], &b = m.vertices[t[1]], &c = m.vertices[t[2]];
        const Vec3 n = normalized(cross(b - a, c - a));
        for (const Vec3& v : {n, a, b, c})
            for (int k = 0; k < 3; ++k) append_le(s, static_cast<float>(v[k]));
        append_le(s, std::uint16_t{0});
    }
    return s;
}

// The drawing's unit by the number that DXF has for it ($INSUNITS); 0: not stated.
int dxf_unit(const std::string& unit) {
    return unit == "m"      ? 6
           : unit == "mm"   ? 4
           : unit == "cm"   ? 5
           : unit == "km"   ? 7
           : unit == "in"   ? 1
           : unit == "ft"   ? 2
           : unit == "usft" ? 21
                            : 0;
}

std::string dxf_of(const mesh::TriMesh& m, const std::string& unit) {
    std::string s;
    if (const int number = dxf_unit(unit); number != 0)
        s = fmt::format("0\nSECTION\n2\nHEADER\n9\n$INSUNITS\n70\n{}\n0\nENDSEC\n", number);
    s += "0\nSECTION\n2\nENTITIES\n";
    for (const auto& t : m.triangles) {
        s += "0\n3DFACE\n8\nSURFACE\n";
        for (int k = 0; k < 4; ++k) {
            const Vec3& v = m.vertices[t[static_cast<std::size_t>(std::min(k, 2))]];
            fmt::format_to(std::back_inserter(s), "{}\n{}\n{}\n{}\n{}\n{}\n", 10 + k, v.x, 20 + k, v.y,
                           30 + k, v.z);
        }
    }
    return s + "0\nENDSEC\n0\nEOF\n";
}

// A vertex record of a polyface or polygon mesh: flag 64 or 128, 16 of its polyline.
bool dxf_has_meshes(const std::string& text) {
    TextScan scan(text, {});
    std::string_view code, value;
    bool polyline = false;
    while (scan.line(code) && scan.line(value)) {
        if (code == "0") polyline = value == "POLYLINE";
        if (!polyline || code != "70") continue;
        std::int64_t flags = 0;
        std::from_chars(value.data(), value.data() + value.size(), flags);
        if (flags & (16 | 64)) return true;
    }
    return false;
}

}  // namespace

bool is_mesh_file(const std::filesystem::path& path) {
    const std::string e = ending_of(path);
    if (e == ".obj" || e == ".stl" || e == ".off") return true;
    if (e != ".ply" && e != ".xml" && e != ".dxf") return false;
    try {
        const InputFile file(path);
        if (e == ".ply") return ply_has_faces(head_of(file));
        const std::string all = file.read_string(0, file.size());
        return e == ".xml" ? all.find("Faces") != std::string::npos || all.rfind("\xFF\xFE", 0) == 0
                           : all.find("3DFACE") != std::string::npos || dxf_has_meshes(all);
    } catch (const Error&) {
        return false;
    }
}

namespace {

// Throws for what cannot be used, whatever the format.
void check(const MeshFile& m, const std::string& place) {
    if (m.format.empty())
        throw Error(ErrorCode::Unsupported, "The file is none of the meshes that can be read", place,
                    "There are PLY, OBJ, STL, OFF, LandXML and DXF.");
    for (const auto& t : m.mesh.triangles)
        for (const std::uint32_t v : t)
            if (v >= m.mesh.vertices.size())
                throw Error(ErrorCode::Format, "A triangle names a vertex that is not there", place);
    for (const Vec3& v : m.mesh.vertices)
        if (!std::isfinite(v.x) || !std::isfinite(v.y) || !std::isfinite(v.z))
            throw Error(ErrorCode::Format, "A vertex has a coordinate that is no number", place);
}

void take(const cloud::Reference& r, MeshFile& m) {
    m.unit = r.unit;
    m.crs = r.crs;
    m.height_unit = r.height_unit;
}

// Our own comments at the start of a text.
void take_remarks(const std::string& text, MeshFile& m) {
    cloud::Reference r;
    std::string_view line;
    TextScan scan(std::string_view(text).substr(0, kHead), {});
    for (int k = 0; k < 40 && scan.line(line); ++k)
        if (!line.empty() && line.front() == '#') take_remark(line, r);
    if (!r.unit.empty() || !r.crs.empty()) take(r, m);
}

}  // namespace

std::vector<MeshFile> read_meshes(const std::filesystem::path& path, Progress& progress) {
    const InputFile file(path);
    const std::string e = ending_of(path), place = path.string();
    const std::string text = e == ".ply" || e == ".xml" ? file.read_string(0, file.size())
                                                        : as_utf8(file.read_string(0, file.size()));
    progress.check();
    std::vector<MeshFile> all;
    if (e == ".xml")
        all = read_landxml_surfaces(text, place);
    else
        all.push_back(text.rfind("ply", 0) == 0 ? read_ply_mesh(text, place)
                      : e == ".obj"             ? read_obj(text, place)
                      : e == ".stl"             ? read_stl(text, place)
                      : e == ".off"             ? read_off(text, place)
                      : e == ".dxf"             ? read_dxf_faces(text, place)
                                                : MeshFile());
    for (MeshFile& m : all) {
        check(m, place);
        if (m.mesh.triangles.empty())
            throw Error(ErrorCode::Format,
                        m.mesh.vertices.empty() ? std::string("The file holds no triangles")
                                                : fmt::format("The file holds {} vertices and no triangles",
                                                              m.mesh.vertices.size()),
                        place, m.mesh.vertices.empty() ? "" : "Save the points as PLY or text to open them.");
        if (e == ".obj" || e == ".off") take_remarks(text, m);
        if (m.unit.empty() && m.crs.empty()) take(sidecar_reference(path), m);
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
    const std::string e = ending_of(path);
    const cloud::Reference reference{crs, unit, {}};
    if (e == ".ply") return write_mesh_ply(m, path, replace, a, reference);
    if (e == ".obj") return write_obj(m, a, path, replace, reference);
    if (e != ".stl" && e != ".off" && e != ".dxf" && e != ".xml")
        throw Error(ErrorCode::Unsupported, "'" + e + "' is no ending of a mesh that can be written",
                    path.string(), "There are .ply, .obj, .stl, .off, .xml (LandXML) and .dxf.");
    const std::string text = e == ".stl"   ? stl_of(m)
                             : e == ".off" ? off_of(m, a, reference)
                             : e == ".dxf" ? dxf_of(m, unit)
                                           : text_of(LandXml{reference, {{path.stem().string(), m}}});
    OutputFile out(path, replace);
    out.write(text);
    out.finish();
}

}  // namespace pristine::io
