// The formats of meshes that are a page each; others have files of their own.

#include "core/io/mesh/mesh_format.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <cstring>
#include <optional>

#include "core/base/bytes.h"
#include "core/base/output.h"
#include "core/io/ending.h"
#include "core/io/landxml_writer.h"
#include "core/io/mesh/local_origin.h"
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

std::string stl_of(const mesh::TriMesh& m, const Vec3& origin) {
    double far = 0;
    for (const Vec3& v : m.vertices)
        for (int k = 0; k < 3; ++k) far = std::max(far, std::fabs(v[k] - origin[k]));
    if (far > 100'000)
        throw Error(ErrorCode::Unsupported,
                    "STL keeps seven digits only, which a mesh of this size does not fit into", {},
                    "Write PLY or OBJ.");
    std::string s(80, ' ');
    std::memcpy(s.data(), "triangle mesh", 13);
    append_le(s, static_cast<std::uint32_t>(m.triangles.size()));
    for (const auto& t : m.triangles) {
        const Vec3 &a = m.vertices[t[0]], &b = m.vertices[t[1]], &c = m.vertices[t[2]];
        const Vec3 n = normalized(cross(b - a, c - a));
        for (const Vec3& v : {n, a - origin, b - origin, c - origin})
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

// With the place that its coordinates count from beside it, where they would lose digits otherwise.
void write_stl(const MeshOut& m, const std::filesystem::path& path, bool replace) {
    const std::optional<Vec3> origin = local_origin_for(m.mesh);
    std::error_code none;
    const std::filesystem::path beside = origin_beside(path);
    if (!replace && std::filesystem::exists(beside, none))
        throw Error(ErrorCode::Conflict, "The file exists already", beside.string(),
                    "It would speak for the new file. Choose another name, or replace both.");
    OutputGroup together;
    const auto put = [&](const std::filesystem::path& file, const std::string& bytes) {
        OutputFile out(file, replace);
        out.write(bytes);
        out.finish();
    };
    put(path, stl_of(m.mesh, origin.value_or(Vec3{})));
    // One that spoke for the file before states zero from now on.
    if (origin || std::filesystem::exists(beside, none))
        put(beside, origin_text(path, origin.value_or(Vec3{}), m.reference));
    together.commit();
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

std::string whole_text(const std::filesystem::path& path) {
    const InputFile file(path);
    return file.read_string(0, file.size());
}

MeshFile read_stl_file(const std::filesystem::path& path, Progress& progress) {
    MeshFile m = read_stl(as_utf8(whole_text(path)), path.string(), progress);
    const std::optional<LocalOrigin> origin = read_local_origin(path);
    if (!origin) return m;
    for (Vec3& v : m.mesh.vertices) v = v + origin->place;
    m.unit = origin->unit;
    m.crs = origin->crs;
    m.warnings.push_back("Its coordinates count from the place that " +
                         origin_beside(path).filename().string() + " states: that was added.");
    return m;
}

template <MeshFile (*Read)(const std::string&, const std::string&, Progress&)>
std::vector<MeshFile> read_text(const std::filesystem::path& path, Progress& progress) {
    const std::string text = as_utf8(whole_text(path));
    std::vector<MeshFile> one;
    one.push_back(Read(text, path.string(), progress));
    take_remarks(text, one.front());
    return one;
}

void write_text(const std::string& text, const std::filesystem::path& path, bool replace) {
    OutputFile out(path, replace);
    out.write(text);
    out.finish();
}

}  // namespace

MeshFormat ply_mesh_format() {
    return {"ply",
            "PLY mesh",
            {"ply"},
            [](const InputFile& file) { return ply_has_faces(head_of(file)); },
            [](const std::filesystem::path& path, Progress& progress) {
                std::vector<MeshFile> one;
                one.push_back(read_ply_mesh(whole_text(path), path.string(), progress));
                return one;
            },
            [](const MeshOut& m, const std::filesystem::path& path, bool replace) {
                write_mesh_ply(m.mesh, path, replace, m.attributes, m.reference);
            }};
}

MeshFormat landxml_mesh_format() {
    return {"landxml",
            "LandXML surface",
            {"xml"},
            [](const InputFile& file) {
                const std::string all = file.read_string(0, file.size());
                return all.find("Faces") != std::string::npos || all.rfind("\xFF\xFE", 0) == 0;
            },
            [](const std::filesystem::path& path, Progress&) {
                return read_landxml_surfaces(whole_text(path), path.string());
            },
            [](const MeshOut& m, const std::filesystem::path& path, bool replace) {
                write_text(text_of(LandXml{m.reference, {{path.stem().string(), m.mesh}}}), path, replace);
            }};
}

MeshFormat obj_format() {
    return {"obj",
            "OBJ mesh",
            {"obj"},
            nullptr,
            read_text<read_obj>,
            [](const MeshOut& m, const std::filesystem::path& path, bool replace) {
                write_obj(m.mesh, m.attributes, path, replace, m.reference);
            }};
}

MeshFormat stl_format() {
    return {"stl",
            "STL mesh",
            {"stl"},
            nullptr,
            [](const std::filesystem::path& path, Progress& progress) {
                std::vector<MeshFile> one;
                one.push_back(read_stl_file(path, progress));
                return one;
            },
            write_stl};
}

MeshFormat off_format() {
    return {"off",
            "OFF mesh",
            {"off"},
            nullptr,
            read_text<read_off>,
            [](const MeshOut& m, const std::filesystem::path& path, bool replace) {
                write_text(off_of(m.mesh, m.attributes, m.reference), path, replace);
            }};
}

MeshFormat dxf_faces_format() {
    return {"dxf",
            "DXF faces",
            {"dxf"},
            [](const InputFile& file) {
                const std::string all = file.read_string(0, file.size());
                return all.find("3DFACE") != std::string::npos || dxf_has_meshes(all);
            },
            [](const std::filesystem::path& path, Progress& progress) {
                std::vector<MeshFile> one;
                one.push_back(read_dxf_faces(as_utf8(whole_text(path)), path.string(), progress));
                return one;
            },
            [](const MeshOut& m, const std::filesystem::path& path, bool replace) {
                write_text(dxf_of(m.mesh, m.reference.unit), path, replace);
            }};
}

const std::vector<MeshFormat>& mesh_formats() {
    static const std::vector<MeshFormat> all{ply_mesh_format(),  landxml_mesh_format(), obj_format(),
                                             glb_format(),       stl_format(),          off_format(),
                                             dxf_faces_format(), three_mf_format()};
    return all;
}

const MeshFormat* mesh_format_of(const std::filesystem::path& path) {
    const std::string e = ending_of(path);
    for (const MeshFormat& f : mesh_formats())
        for (const std::string& own : f.endings)
            if (e == "." + own) return &f;
    return nullptr;
}

}  // namespace pristine::io
