// STL, OFF and the faces of DXF.

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "core/base/bytes.h"
#include "core/io/mesh/mesh_io.h"
#include "core/io/mesh/polygons.h"
#include "core/io/mesh/text_scan.h"
#include "core/mesh/joined.h"

namespace pristine::io {

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

namespace {

// OFF with what its first word says of vertices: texture, colours, normals.
class OffReader {
  public:
    OffReader(const std::string& text, const std::string& place)
        : size_(static_cast<std::int64_t>(text.size())), scan_(text, place), adder_(m_, colours_, place) {
        m_.format = "OFF mesh";
    }

    MeshFile read() {
        next_line();
        const std::string_view magic = TextScan::word(line_);
        if (magic.size() < 3 || magic.substr(magic.size() - 3) != "OFF") scan_.fail("This is no OFF file");
        const std::string_view head = magic.substr(0, magic.size() - 3);
        coloured_ = head.find('C') != std::string_view::npos;
        normals_told_ = head.find('N') != std::string_view::npos;
        texture_told_ = head.substr(0, 2) == "ST";
        if (line_.find_first_not_of(" \t") == std::string_view::npos) next_line();
        const std::int64_t vertices = scan_.whole(TextScan::word(line_)),
                           faces = scan_.whole(TextScan::word(line_));
        if (vertices < 0 || faces < 0 || vertices > size_ || faces > size_)
            scan_.fail("The counts do not fit into the file");
        for (std::int64_t i = 0; i < vertices; ++i) vertex();
        for (std::int64_t i = 0; i < faces; ++i) face(vertices);
        adder_.finish();
        return std::move(m_);
    }

  private:
    void next_line() {
        do {
            if (!scan_.line(line_)) scan_.fail("The file ends before all faces are told");
            line_ = line_.substr(0, line_.find('#'));
        } while (line_.find_first_not_of(" \t") == std::string_view::npos);
    }
    double number() { return scan_.number(TextScan::word(line_)); }

    // Whole numbers up to 255, or shares of 1.
    std::uint32_t colour() {
        std::array<std::string_view, 3> words;
        bool shares = false;
        for (auto& w : words) {
            w = TextScan::word(line_);
            shares |= w.find('.') != std::string_view::npos;
        }
        std::uint32_t c = 0;
        for (const auto& w : words)
            c = c << 8 | static_cast<std::uint32_t>(
                             std::clamp(std::lround(scan_.number(w) * (shares ? 255 : 1)), 0L, 255L));
        return c;
    }

    void vertex() {
        next_line();
        Vec3 p;
        for (int k = 0; k < 3; ++k) p[k] = number();
        m_.mesh.vertices.push_back(p);
        if (normals_told_) {
            auto& n = normals_.emplace_back();
            for (float& v : n) v = static_cast<float>(number());
        }
        if (coloured_) {
            colours_.push_back(colour());
            TextScan::word(line_);  // how opaque it is
        }
        if (texture_told_) {
            auto& uv = texture_.emplace_back();
            for (float& v : uv) v = static_cast<float>(number());
        }
    }

    void face(std::int64_t vertices) {
        next_line();
        const std::int64_t n = scan_.whole(TextScan::word(line_));
        if (n < 3 || n > size_) scan_.fail("A face has fewer than three corners");
        face_.clear();
        for (std::int64_t k = 0; k < n; ++k) {
            const std::int64_t v = scan_.whole(TextScan::word(line_));
            if (v < 0 || v >= vertices) scan_.fail("A face names a vertex that is not there");
            const auto i = static_cast<std::uint32_t>(v);
            face_.corners.push_back(i);
            if (normals_told_) face_.normals.push_back(normals_[i]);
            if (texture_told_) face_.texture.push_back(texture_[i]);
        }
        // Three or four numbers more are the colour of the face; one is a number in a list nobody has.
        std::string_view rest = line_;
        int more = 0;
        while (!TextScan::word(rest).empty()) ++more;
        if (more >= 3) face_.colour = colour();
        adder_.add(face_);
    }

    std::int64_t size_;
    TextScan scan_;
    std::string_view line_;
    MeshFile m_;
    bool coloured_ = false, normals_told_ = false, texture_told_ = false;
    std::vector<std::uint32_t> colours_;
    std::vector<std::array<float, 3>> normals_;
    std::vector<std::array<float, 2>> texture_;
    Face face_;
    FaceAdder adder_;
};

}  // namespace

MeshFile read_off(const std::string& text, const std::string& place) {
    return OffReader(text, place).read();
}

MeshFile read_dxf_faces(const std::string& text, const std::string& place) {
    MeshFile m;
    m.format = "DXF faces";
    TextScan scan(text, place);
    std::string_view code, value;
    std::vector<Vec3> corners;
    std::array<Vec3, 4> face;
    bool in_face = false, fourth = false, ended = false;
    bool unit_follows = false;
    const auto finish = [&] {
        if (!in_face) return;
        for (const std::size_t k : {0u, 1u, 2u}) corners.push_back(face[k]);
        if (fourth && !(face[3] == face[2]))
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
            fourth = false;
        } else if (group == 9) {
            unit_follows = value == "$INSUNITS";
        } else if (unit_follows && group == 70) {
            // The numbers that DXF has for units; 0: not stated.
            static constexpr std::pair<int, const char*> units[] = {{1, "in"},  {2, "ft"},  {4, "mm"},
                                                                    {5, "cm"},  {6, "m"},   {7, "km"},
                                                                    {10, "yd"}, {14, "dm"}, {21, "usft"}};
            for (const auto& [number, id] : units)
                if (scan.whole(value) == number) m.unit = id;
            unit_follows = false;
        } else if (in_face && group >= 10 && group < 40 && group % 10 < 4) {
            fourth |= group % 10 == 3;
            face[static_cast<std::size_t>(group % 10)][static_cast<int>(group / 10) - 1] = scan.number(value);
        }
    }
    if (!ended) scan.fail("The file ends before its end mark");
    m.mesh = mesh::joined(corners);
    return m;
}

}  // namespace pristine::io
