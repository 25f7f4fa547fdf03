// Triangle meshes as PLY files.

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <cstring>

#include "core/base/bytes.h"
#include "core/base/error.h"
#include "core/base/output.h"
#include "core/io/mesh/images.h"
#include "core/io/mesh/mesh_io.h"
#include "core/io/mesh/mesh_ply.h"
#include "core/io/mesh/polygons.h"
#include "core/io/mesh/vertex_colours.h"
#include "core/io/ply/ply_header.h"
#include "core/io/reference/remark.h"

namespace pristine::io {
namespace {

using cloud::FieldType;

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

// What a property is to us, whatever programs call it.
enum class Meaning { None, X, Y, Z, Red, Green, Blue, Nx, Ny, Nz, U, V, Corners, Texture, Picture };

Meaning meaning_of(const PlyProperty& p) {
    static constexpr std::pair<const char*, Meaning> kNames[] = {{"x", Meaning::X},
                                                                 {"y", Meaning::Y},
                                                                 {"z", Meaning::Z},
                                                                 {"red", Meaning::Red},
                                                                 {"green", Meaning::Green},
                                                                 {"blue", Meaning::Blue},
                                                                 {"r", Meaning::Red},
                                                                 {"g", Meaning::Green},
                                                                 {"b", Meaning::Blue},
                                                                 {"diffuse_red", Meaning::Red},
                                                                 {"diffuse_green", Meaning::Green},
                                                                 {"diffuse_blue", Meaning::Blue},
                                                                 {"nx", Meaning::Nx},
                                                                 {"ny", Meaning::Ny},
                                                                 {"nz", Meaning::Nz},
                                                                 {"s", Meaning::U},
                                                                 {"t", Meaning::V},
                                                                 {"u", Meaning::U},
                                                                 {"v", Meaning::V},
                                                                 {"texture_u", Meaning::U},
                                                                 {"texture_v", Meaning::V},
                                                                 {"texnumber", Meaning::Picture},
                                                                 {"vertex_indices", Meaning::Corners},
                                                                 {"vertex_index", Meaning::Corners},
                                                                 {"texcoord", Meaning::Texture}};
    const bool list_wanted = p.name.rfind("vertex_ind", 0) == 0 || p.name == "texcoord";
    if (p.list != list_wanted) return Meaning::None;
    for (const auto& [name, meaning] : kNames)
        if (p.name == name) return meaning;
    return Meaning::None;
}

// What full light is told by, as long as the values do not say otherwise.
double usual_full(FieldType t) {
    return t == FieldType::F32 || t == FieldType::F64 ? 1 : t == FieldType::U16 ? 65535 : 255;
}

// What it is, given the greatest value: shares of 1, bytes or 16 bits, whatever the type.
double full_for(double greatest, FieldType t) {
    if (usual_full(t) == 255) return 255;
    const bool whole = t == FieldType::U16;
    return greatest <= 1.001 && !whole ? 1 : greatest <= 255 ? 255 : 65535;
}

struct Told {  // of one vertex or face
    Vec3 place;
    std::array<double, 3> colour{};
    std::array<float, 3> normal{};
    std::array<float, 2> texture{};
    double picture = 0;

    void take(Meaning m, double v, double full) {
        const auto channel = [&](std::size_t k) { colour[k] = v * 255 / full; };
        const auto f = static_cast<float>(v);
        switch (m) {
            case Meaning::X:
                place.x = v;
                break;
            case Meaning::Y:
                place.y = v;
                break;
            case Meaning::Z:
                place.z = v;
                break;
            case Meaning::Red:
                return channel(0);
            case Meaning::Green:
                return channel(1);
            case Meaning::Blue:
                return channel(2);
            case Meaning::Nx:
                normal[0] = f;
                break;
            case Meaning::Ny:
                normal[1] = f;
                break;
            case Meaning::Nz:
                normal[2] = f;
                break;
            case Meaning::U:
                texture[0] = f;
                break;
            case Meaning::V:
                texture[1] = f;
                break;
            case Meaning::Picture:
                picture = v;
                break;
            default:
                break;
        }
    }
    std::uint32_t rgb() const {
        std::uint32_t c = 0;
        for (const double v : colour)
            c = c << 8 |
                static_cast<std::uint32_t>(std::lround(std::isfinite(v) ? std::clamp(v, 0.0, 255.0) : 0));
        return c;
    }
};

class PlyMeshReader {
  public:
    /// `full`: what full light is told by; 0: what is usual for its type.
    PlyMeshReader(const std::string& text, const std::string& place, Progress* progress, double full = 0)
        : place_(place),
          text_(text),
          size_(text.size()),
          progress_(progress),
          full_(full),
          header_(parse_ply_header(text, place)),
          body_(text, header_, place),
          adder_(m_, colours_, place) {
        m_.format = header_.encoding == PlyEncoding::Ascii ? "PLY mesh, text" : "PLY mesh, binary";
    }

    MeshFile read() {
        cloud::Reference reference;
        for (const std::string& r : header_.remarks) take_remark(r, reference);
        m_.unit = reference.unit;
        m_.height_unit = reference.height_unit;
        m_.crs = reference.crs;
        for (const std::string& r : header_.remarks)
            if (r.rfind("comment TextureFile ", 0) == 0) {
                mesh::Material& m = m_.attributes.materials.emplace_back();
                load_image(m, place_, r.substr(20), m_.warnings);
                m.name = std::filesystem::path(m.image_name).stem().string();
            }
        for (const PlyElement& e : header_.elements) {
            if (e.count > size_)
                throw Error(ErrorCode::Format,
                            fmt::format("There cannot be {} of '{}' in this file", e.count, e.name), place_);
            element(e);
        }
        for (Early& e : early_) {
            face_ = std::move(e.face);
            texcoord_ = std::move(e.texcoord);
            face(e.told, e.coloured);
        }
        // Once more where the values say that they are told otherwise than is usual for their type.
        if (const double full = full_for(greatest_, colour_type_);
            full_ == 0 && greatest_ > 0 && full != usual_full(colour_type_))
            return PlyMeshReader(text_, place_, nullptr, full).read();
        adder_.finish();
        return std::move(m_);
    }

  private:
    // A face that stands before the vertices.
    struct Early {
        Face face;
        std::vector<float> texcoord;
        Told told;
        bool coloured;
    };

    void element(const PlyElement& e) {
        std::vector<Meaning> meanings;
        for (const PlyProperty& p : e.properties) meanings.push_back(meaning_of(p));
        const auto has = [&](Meaning m) {
            return std::find(meanings.begin(), meanings.end(), m) != meanings.end();
        };
        const bool vertices = e.name == "vertex", faces = e.name == "face";
        const bool coloured = has(Meaning::Red) && has(Meaning::Green) && has(Meaning::Blue);
        if (vertices) {
            has_normals_ = has(Meaning::Nx) && has(Meaning::Ny) && has(Meaning::Nz);
            has_texture_ = has(Meaning::U) && has(Meaning::V);
            m_.mesh.vertices.reserve(e.count);
        }
        for (std::uint64_t i = 0; i < e.count; ++i) {
            constexpr std::uint64_t kTell = 65'536;
            if (i % kTell == 0 && progress_)
                progress_->advance(1 - static_cast<double>(body_.left()) / static_cast<double>(size_));
            Told told;
            face_.clear();
            texcoord_.clear();
            for (std::size_t k = 0; k < meanings.size(); ++k)
                if (e.properties[k].list)
                    list(e.properties[k], faces ? meanings[k] : Meaning::None);
                else
                    value(told, meanings[k], e.properties[k].type);
            if (vertices) vertex(told, coloured);
            if (faces && m_.mesh.vertices.empty())
                early_.push_back({face_, texcoord_, told, coloured});
            else if (faces)
                face(told, coloured);
        }
    }

    void value(Told& told, Meaning meaning, FieldType type) {
        const double v = body_.value(type);
        const bool channel = meaning == Meaning::Red || meaning == Meaning::Green || meaning == Meaning::Blue;
        if (channel) {
            colour_type_ = type;
            if (std::isfinite(v)) greatest_ = std::max(greatest_, v);
        }
        told.take(meaning, v, channel && full_ > 0 ? full_ : usual_full(type));
    }

    void list(const PlyProperty& p, Meaning meaning) {
        const double n = body_.value(p.count_type);
        if (!(n >= 0) || n > static_cast<double>(body_.left() + 1))
            throw Error(ErrorCode::Format, "A list is longer than the file", place_);
        for (double k = 0; k < n; ++k) {
            const double v = body_.value(p.type);
            if (meaning == Meaning::Texture) texcoord_.push_back(static_cast<float>(v));
            if (meaning != Meaning::Corners) continue;
            if (!(v >= 0 && v < 4294967295.0))
                throw Error(ErrorCode::Format, "A face names a vertex that is not there", place_);
            face_.corners.push_back(static_cast<std::uint32_t>(v));
        }
    }

    void vertex(const Told& told, bool coloured) {
        m_.mesh.vertices.push_back(told.place);
        if (coloured) colours_.push_back(told.rgb());
        if (has_normals_) normals_.push_back(told.normal);
        if (has_texture_) texture_.push_back(told.texture);
    }

    void face(const Told& told, bool coloured) {
        for (const std::uint32_t c : face_.corners) {
            if (c < normals_.size()) face_.normals.push_back(normals_[c]);
            if (c < texture_.size()) face_.texture.push_back(texture_[c]);
        }
        if (face_.normals.size() != face_.corners.size()) face_.normals.clear();
        if (texcoord_.size() >= 2 * face_.corners.size() && !face_.corners.empty()) {
            face_.texture.clear();
            for (std::size_t k = 0; k < face_.corners.size(); ++k)
                face_.texture.push_back({texcoord_[2 * k], texcoord_[2 * k + 1]});
        } else if (face_.texture.size() != face_.corners.size()) {
            face_.texture.clear();
        }
        if (coloured) face_.colour = told.rgb();
        const auto pictures = static_cast<double>(m_.attributes.materials.size());
        face_.material =
            told.picture > 0 && told.picture < pictures ? static_cast<std::uint16_t>(told.picture) : 0;
        adder_.add(face_);
    }

    std::string place_;
    const std::string& text_;
    std::uint64_t size_;
    Progress* progress_;
    double full_, greatest_ = 0;  // of colours
    FieldType colour_type_ = FieldType::U8;
    PlyHeader header_;
    PlyBody body_;
    MeshFile m_;
    bool has_normals_ = false, has_texture_ = false;
    std::vector<std::uint32_t> colours_;
    std::vector<std::array<float, 3>> normals_;
    std::vector<std::array<float, 2>> texture_;
    std::vector<float> texcoord_;
    std::vector<Early> early_;
    Face face_;
    FaceAdder adder_;
};

// Of each vertex, the mean of the directions at the corners that meet there.
std::vector<Vec3> vertex_normals(const mesh::TriMesh& m, const mesh::Attributes& a) {
    std::vector<Vec3> n(m.vertices.size());
    for (std::size_t t = 0; t < a.normals.size(); ++t)
        for (std::size_t k = 0; k < 3; ++k) {
            const auto& v = a.normals[t][k];
            Vec3& sum = n[m.triangles[t][k]];
            sum = sum + Vec3{static_cast<double>(v[0]), static_cast<double>(v[1]), static_cast<double>(v[2])};
        }
    for (Vec3& v : n) v = normalized(v);
    return n;
}

void append_rgb(std::string& out, std::uint32_t c) {
    for (const int shift : {16, 8, 0}) append_le(out, static_cast<std::uint8_t>(c >> shift));
}

constexpr const char* kColour = "property uchar red\nproperty uchar green\nproperty uchar blue\n";

}  // namespace

MeshFile read_ply_mesh(const std::string& text, const std::string& place, Progress& progress) {
    return PlyMeshReader(text, place, &progress).read();
}

void write_mesh_ply(const mesh::TriMesh& m, const std::filesystem::path& path, bool replace,
                    const mesh::Attributes& a, const cloud::Reference& reference) {
    const bool pictures = !a.texture.empty() && !a.material.empty();
    OutputGroup together;
    OutputFile out(path, replace);
    const auto of_faces = face_colours(m, a);
    const auto colours = of_faces.empty() ? vertex_colours(m, a) : std::vector<std::uint32_t>();
    const auto normals = a.normals.empty() ? std::vector<Vec3>() : vertex_normals(m, a);
    std::string s = "ply\nformat binary_little_endian 1.0\n";
    for (const std::string& line : reference_remarks(reference)) s += "comment " + line + "\n";
    if (pictures)
        for (const std::string& name : write_images(a, path, replace))
            s += "comment TextureFile " + name + "\n";
    s += fmt::format("element vertex {}\nproperty double x\nproperty double y\nproperty double z\n",
                     m.vertices.size());
    if (!normals.empty()) s += "property float nx\nproperty float ny\nproperty float nz\n";
    if (!colours.empty()) s += kColour;
    s += fmt::format("element face {}\nproperty list uchar int vertex_indices\n", m.triangles.size());
    if (!a.texture.empty()) s += "property list uchar float texcoord\n";
    if (pictures) s += "property int texnumber\n";
    if (!of_faces.empty()) s += kColour;
    s += "end_header\n";
    for (std::size_t i = 0; i < m.vertices.size(); ++i) {
        for (int k = 0; k < 3; ++k) append_le(s, m.vertices[i][k]);
        if (!normals.empty())
            for (int k = 0; k < 3; ++k) append_le(s, static_cast<float>(normals[i][k]));
        if (!colours.empty()) append_rgb(s, colours[i]);
    }
    for (std::size_t t = 0; t < m.triangles.size(); ++t) {
        append_le(s, std::uint8_t{3});
        for (const std::uint32_t i : m.triangles[t]) append_le(s, static_cast<std::int32_t>(i));
        if (!a.texture.empty()) {
            append_le(s, std::uint8_t{6});
            for (const auto& uv : a.texture[t])
                for (const float v : uv) append_le(s, v);
        }
        if (pictures) append_le(s, static_cast<std::int32_t>(a.material[t]));
        if (!of_faces.empty()) append_rgb(s, of_faces[t]);
    }
    out.write(s);
    out.finish();
    together.commit();
}

}  // namespace pristine::io
