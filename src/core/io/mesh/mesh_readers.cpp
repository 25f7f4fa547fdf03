// PLY, OBJ, STL, OFF and the faces of DXF.

#include <fmt/format.h>

#include <algorithm>
#include <bit>
#include <cstring>

#include "core/base/bytes.h"
#include "core/io/mesh/mesh_io.h"
#include "core/io/mesh/text_scan.h"
#include "core/io/ply/ply_header.h"
#include "core/mesh/joined.h"
#include "core/mesh/polygon_triangles.h"

namespace pristine::io {
namespace {

using cloud::FieldType;

void add_polygon(MeshFile& m, const std::vector<std::uint32_t>& corners, const std::string& place) {
    for (const std::uint32_t c : corners)
        if (c >= m.mesh.vertices.size())
            throw Error(ErrorCode::Format, "A triangle names a vertex that is not there", place);
    mesh::triangulate_polygon(m.mesh.vertices, corners, m.mesh.triangles);
}

// Values of a PLY body, one after the other, in any of its encodings.
class PlyBody {
  public:
    PlyBody(const std::string& text, const PlyHeader& header, const std::string& place)
        : text_(text), at_(header.bytes), encoding_(header.encoding), place_(place) {}

    double value(FieldType type) {
        if (encoding_ == PlyEncoding::Ascii) return word();
        const std::size_t n = cloud::bytes_of(type);
        if (text_.size() - at_ < n)
            throw Error(ErrorCode::Format, "The file ends before all faces are told",
                        fmt::format("{}, byte {}", place_, at_));
        std::array<char, 8> raw{};
        std::memcpy(raw.data(), text_.data() + at_, n);
        at_ += n;
        if (encoding_ == PlyEncoding::BinaryBig)
            std::reverse(raw.begin(), raw.begin() + static_cast<std::ptrdiff_t>(n));
        return cloud::value({"", type, 0}, reinterpret_cast<const std::byte*>(raw.data()));
    }
    std::size_t left() const { return text_.size() - at_; }

  private:
    double word() {
        const auto blank = [](char c) { return c == ' ' || c == '\t' || c == '\n' || c == '\r'; };
        while (at_ < text_.size() && blank(text_[at_])) ++at_;
        std::size_t to = at_;
        while (to < text_.size() && !blank(text_[to])) ++to;
        double v = 0;
        const auto r = std::from_chars(text_.data() + at_, text_.data() + to, v);
        if (to == at_ || r.ec != std::errc() || r.ptr != text_.data() + to)
            throw Error(ErrorCode::Format,
                        to == at_ ? "The file ends before all faces are told"
                                  : "There is something that is no number",
                        fmt::format("{}, byte {}", place_, at_));
        at_ = to;
        return v;
    }
    const std::string& text_;
    std::size_t at_;
    PlyEncoding encoding_;
    std::string place_;
};

}  // namespace

MeshFile read_ply_mesh(const std::string& text, const std::string& place) {
    const PlyHeader header = parse_ply_header(text, place);
    MeshFile m;
    m.format = header.encoding == PlyEncoding::Ascii ? "PLY mesh, text" : "PLY mesh, binary";
    PlyBody body(text, header, place);
    std::vector<std::uint32_t> corners;
    for (const PlyElement& e : header.elements) {
        if (e.count > text.size())
            throw Error(ErrorCode::Format,
                        fmt::format("There cannot be {} of '{}' in this file", e.count, e.name), place);
        const bool vertices = e.name == "vertex", faces = e.name == "face";
        if (vertices) m.mesh.vertices.reserve(e.count);
        for (std::uint64_t i = 0; i < e.count; ++i) {
            Vec3 p;
            for (const PlyProperty& property : e.properties) {
                if (!property.list) {
                    const double v = body.value(property.type);
                    if (property.name == "x") p.x = v;
                    if (property.name == "y") p.y = v;
                    if (property.name == "z") p.z = v;
                    continue;
                }
                const double n = body.value(property.count_type);
                if (!(n >= 0) || n > static_cast<double>(body.left() + 1))
                    throw Error(ErrorCode::Format, "A list is longer than the file", place);
                const bool wanted =
                    faces && (property.name == "vertex_indices" || property.name == "vertex_index");
                if (wanted) corners.clear();
                for (double k = 0; k < n; ++k) {
                    const double v = body.value(property.type);
                    if (wanted && !(v >= 0 && v < 4294967295.0))
                        throw Error(ErrorCode::Format, "A face names a vertex that is not there", place);
                    if (wanted) corners.push_back(static_cast<std::uint32_t>(v));
                }
                if (wanted) add_polygon(m, corners, place);
            }
            if (vertices) m.mesh.vertices.push_back(p);
        }
    }
    return m;
}

MeshFile read_obj(const std::string& text, const std::string& place) {
    MeshFile m;
    m.format = "OBJ mesh";
    TextScan scan(text, place);
    std::string_view line;
    std::vector<std::uint32_t> corners;
    while (scan.line(line)) {
        const std::string_view what = TextScan::word(line);
        if (what == "v") {
            Vec3 p;
            for (int k = 0; k < 3; ++k) p[k] = scan.number(TextScan::word(line));
            m.mesh.vertices.push_back(p);
        } else if (what == "f") {
            corners.clear();
            for (std::string_view w = TextScan::word(line); !w.empty(); w = TextScan::word(line)) {
                std::int64_t i = scan.whole(w.substr(0, w.find('/')));
                // Negative numbers count from the last vertex backwards.
                i = i < 0 ? static_cast<std::int64_t>(m.mesh.vertices.size()) + i : i - 1;
                if (i < 0 || i >= static_cast<std::int64_t>(m.mesh.vertices.size()))
                    scan.fail("A face names a vertex that is not there");
                corners.push_back(static_cast<std::uint32_t>(i));
            }
            if (corners.size() < 3) scan.fail("A face has fewer than three corners");
            mesh::triangulate_polygon(m.mesh.vertices, corners, m.mesh.triangles);
        }
    }
    return m;
}

MeshFile read_stl(const std::string& text, const std::string& place) {
    MeshFile m;
    std::vector<Vec3> corners;
    constexpr std::size_t kHeader = 84, kFacet = 50;
    const std::uint32_t count = text.size() >= kHeader ? load_le<std::uint32_t>(text.data() + 80) : 0;
    const bool binary =
        text.size() >= kHeader && text.size() >= kHeader + std::uint64_t{count} * kFacet &&
        (text.rfind("solid", 0) != 0 || text.size() == kHeader + std::uint64_t{count} * kFacet);
    if (binary) {
        m.format = "STL mesh, binary";
        for (std::uint64_t f = 0; f < count; ++f)
            for (std::size_t k = 0; k < 3; ++k) {
                const char* at = text.data() + kHeader + f * kFacet + 12 + 12 * k;
                corners.push_back({static_cast<double>(load_le<float>(at)),
                                   static_cast<double>(load_le<float>(at + 4)),
                                   static_cast<double>(load_le<float>(at + 8))});
            }
    } else if (text.rfind("solid", 0) == 0) {
        m.format = "STL mesh, text";
        TextScan scan(text, place);
        std::string_view line;
        while (scan.line(line)) {
            if (TextScan::word(line) != "vertex") continue;
            Vec3 p;
            for (int k = 0; k < 3; ++k) p[k] = scan.number(TextScan::word(line));
            corners.push_back(p);
        }
        if (corners.size() % 3 != 0) scan.fail("A triangle does not have three corners");
    } else {
        throw Error(ErrorCode::Format, "The STL file ends before all its triangles", place);
    }
    m.mesh = mesh::joined(corners);
    return m;
}

MeshFile read_off(const std::string& text, const std::string& place) {
    MeshFile m;
    m.format = "OFF mesh";
    TextScan scan(text, place);
    std::string_view line;
    const auto next_line = [&] {
        do {
            if (!scan.line(line)) scan.fail("The file ends before all faces are told");
            line = line.substr(0, line.find('#'));
        } while (line.find_first_not_of(" \t") == std::string_view::npos);
    };
    next_line();
    const std::string_view magic = TextScan::word(line);
    if (magic.size() < 3 || magic.substr(magic.size() - 3) != "OFF") scan.fail("This is no OFF file");
    if (line.find_first_not_of(" \t") == std::string_view::npos) next_line();
    const std::int64_t vertices = scan.whole(TextScan::word(line)), faces = scan.whole(TextScan::word(line));
    if (vertices < 0 || faces < 0 || vertices > static_cast<std::int64_t>(text.size()) ||
        faces > static_cast<std::int64_t>(text.size()))
        scan.fail("The counts do not fit into the file");
    for (std::int64_t i = 0; i < vertices; ++i) {
        next_line();
        Vec3 p;
        for (int k = 0; k < 3; ++k) p[k] = scan.number(TextScan::word(line));
        m.mesh.vertices.push_back(p);
    }
    std::vector<std::uint32_t> corners;
    for (std::int64_t i = 0; i < faces; ++i) {
        next_line();
        const std::int64_t n = scan.whole(TextScan::word(line));
        if (n < 3 || n > static_cast<std::int64_t>(text.size()))
            scan.fail("A face has fewer than three corners");
        corners.clear();
        for (std::int64_t k = 0; k < n; ++k) {
            const std::int64_t v = scan.whole(TextScan::word(line));
            if (v < 0 || v >= vertices) scan.fail("A face names a vertex that is not there");
            corners.push_back(static_cast<std::uint32_t>(v));
        }
        mesh::triangulate_polygon(m.mesh.vertices, corners, m.mesh.triangles);
    }
    return m;
}

MeshFile read_dxf_faces(const std::string& text, const std::string& place) {
    MeshFile m;
    m.format = "DXF faces";
    TextScan scan(text, place);
    std::string_view code, value;
    std::vector<Vec3> corners;
    std::array<Vec3, 4> face;
    bool in_face = false, ended = false;
    const auto finish = [&] {
        if (!in_face) return;
        for (const std::size_t k : {0u, 1u, 2u}) corners.push_back(face[k]);
        if (!(face[3] == face[2]))
            for (const std::size_t k : {0u, 2u, 3u}) corners.push_back(face[k]);
        in_face = false;
    };
    while (scan.line(code) && scan.line(value)) {
        const std::int64_t group = scan.whole(code);
        if (group == 0) {
            finish();
            ended = value == "EOF";
            in_face = value == "3DFACE";
            face = {};
        } else if (in_face && group >= 10 && group < 40 && group % 10 < 4) {
            face[static_cast<std::size_t>(group % 10)][static_cast<int>(group / 10) - 1] = scan.number(value);
        }
    }
    if (!ended) scan.fail("The file ends before its end mark");
    m.mesh = mesh::joined(corners);
    return m;
}

}  // namespace pristine::io
