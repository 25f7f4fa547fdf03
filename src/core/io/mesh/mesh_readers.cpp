// STL and OFF.

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "core/base/bytes.h"
#include "core/io/mesh/mesh_io.h"
#include "core/io/mesh/polygons.h"
#include "core/io/mesh/text_scan.h"
#include "core/mesh/weld.h"

namespace pristine::io {

namespace {

bool begins_with_solid(std::string_view text) {
    std::string_view first = text.substr(0, text.find_first_not_of(" \t\r\n\f"));
    text.remove_prefix(std::min(first.size(), text.size()));
    std::string word(text.substr(0, 5));
    std::transform(word.begin(), word.end(), word.begin(),
                   [](char c) { return 'A' <= c && c <= 'Z' ? static_cast<char>(c + 32) : c; });
    return word == "solid";
}

// Word by word: writers break lines where they like.
std::vector<Vec3> corners_of_stl_text(const std::string& text, const std::string& place, Progress& progress) {
    std::vector<Vec3> corners;
    TextScan scan(text, place, &progress);
    std::string_view line;
    Vec3 p;
    int wanted = 0;  // coordinates of a vertex that are still to come
    while (scan.line(line))
        for (std::string_view w = TextScan::word(line); !w.empty(); w = TextScan::word(line)) {
            if (wanted > 0) {
                p[3 - wanted] = scan.number(w);
                if (--wanted == 0) corners.push_back(p);
            } else if (w == "vertex" || w == "VERTEX" || w == "Vertex") {
                wanted = 3;
            }
        }
    if (wanted > 0 || corners.size() % 3 != 0) scan.fail("A triangle does not have three corners");
    return corners;
}

std::vector<Vec3> corners_of_stl_records(const std::string& text, std::uint64_t count, std::size_t header,
                                         std::size_t facet) {
    std::vector<Vec3> corners;
    corners.reserve(3 * count);
    for (std::uint64_t f = 0; f < count; ++f)
        for (std::size_t k = 0; k < 3; ++k) {
            const char* at = text.data() + header + f * facet + 12 + 12 * k;
            corners.push_back({static_cast<double>(load_le<float>(at)),
                               static_cast<double>(load_le<float>(at + 4)),
                               static_cast<double>(load_le<float>(at + 8))});
        }
    return corners;
}

}  // namespace

MeshFile read_stl(const std::string& text, const std::string& place, Progress& progress) {
    constexpr std::size_t kHeader = 84, kFacet = 50;
    MeshFile m;
    const std::uint64_t count = text.size() >= kHeader ? load_le<std::uint32_t>(text.data() + 80) : 0,
                        bytes = kHeader + count * kFacet;
    // Headers of records may begin with "solid" too; but a text has no zero bytes, and records have.
    const bool is_text = begins_with_solid(text) && text.find('\0') == std::string::npos;
    if (is_text) {
        m.format = "STL mesh, text";
        m.mesh = mesh::weld(corners_of_stl_text(text, place, progress));
        return m;
    }
    if (text.size() < kHeader || text.size() < bytes)
        throw Error(ErrorCode::Format, "The STL file ends before all its triangles", place);
    m.format = "STL mesh, binary";
    m.mesh = mesh::weld(corners_of_stl_records(text, count, kHeader, kFacet));
    if (text.size() > bytes)
        m.warnings.push_back(
            fmt::format("{} bytes after the last of {} triangles are left out.", text.size() - bytes, count));
    return m;
}

namespace {

// OFF with what its first word says of vertices: texture, colours, normals.
class OffReader {
  public:
    OffReader(const std::string& text, const std::string& place, Progress& progress)
        : size_(static_cast<std::int64_t>(text.size())),
          scan_(text, place, &progress),
          adder_(m_, colours_, place) {
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
        // The number of edges says nothing; what follows it on this line is the first vertex.
        TextScan::word(line_);
        one_line_ = line_.find_first_not_of(" \t") != std::string_view::npos;
        for (std::int64_t i = 0; i < vertices; ++i) vertex();
        for (std::int64_t i = 0; i < faces; ++i) face(vertices);
        adder_.finish();
        return std::move(m_);
    }

  private:
    void next_line() {
        if (one_line_ && line_.find_first_not_of(" \t") != std::string_view::npos) return;
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
        while (!one_line_ && !TextScan::word(rest).empty()) ++more;
        if (more >= 3) face_.colour = colour();
        adder_.add(face_);
    }

    std::int64_t size_;
    TextScan scan_;
    std::string_view line_;
    bool one_line_ = false;  // the file does not keep to a line for each vertex and face
    MeshFile m_;
    bool coloured_ = false, normals_told_ = false, texture_told_ = false;
    std::vector<std::uint32_t> colours_;
    std::vector<std::array<float, 3>> normals_;
    std::vector<std::array<float, 2>> texture_;
    Face face_;
    FaceAdder adder_;
};

}  // namespace

MeshFile read_off(const std::string& text, const std::string& place, Progress& progress) {
    return OffReader(text, place, progress).read();
}

}  // namespace pristine::io
