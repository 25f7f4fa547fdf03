#include <fmt/format.h>
#include <tiny_gltf.h>

#include <algorithm>
#include <cmath>
#include <map>

#include "core/base/error.h"
#include "core/base/fuzzing.h"
#include "core/io/foreign/mesh_answer.h"
#include "core/io/glb/glb.h"
#include "core/io/glb/srgb.h"

namespace pristine::io {
namespace {

using tinygltf::Accessor;
using tinygltf::Model;
using tinygltf::Primitive;

// Column by column, as the standard has them.
struct Matrix {
    double m[16] = {1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1};
    Vec3 at(const Vec3& p) const {
        return {m[0] * p.x + m[4] * p.y + m[8] * p.z + m[12], m[1] * p.x + m[5] * p.y + m[9] * p.z + m[13],
                m[2] * p.x + m[6] * p.y + m[10] * p.z + m[14]};
    }
    Vec3 turned(const Vec3& p) const {
        return {m[0] * p.x + m[4] * p.y + m[8] * p.z, m[1] * p.x + m[5] * p.y + m[9] * p.z,
                m[2] * p.x + m[6] * p.y + m[10] * p.z};
    }
};

Matrix operator*(const Matrix& a, const Matrix& b) {
    Matrix r;
    for (int c = 0; c < 4; ++c)
        for (int l = 0; l < 4; ++l) {
            double sum = 0;
            for (int k = 0; k < 4; ++k) sum += a.m[4 * k + l] * b.m[4 * c + k];
            r.m[4 * c + l] = sum;
        }
    return r;
}

Matrix matrix_of(const tinygltf::Node& n) {
    Matrix r;
    if (n.matrix.size() == 16) {
        std::copy(n.matrix.begin(), n.matrix.end(), r.m);
        return r;
    }
    if (n.rotation.size() == 4) {
        const double x = n.rotation[0], y = n.rotation[1], z = n.rotation[2], w = n.rotation[3];
        const double rows[9] = {1 - 2 * (y * y + z * z), 2 * (x * y - z * w),     2 * (x * z + y * w),
                                2 * (x * y + z * w),     1 - 2 * (x * x + z * z), 2 * (y * z - x * w),
                                2 * (x * z - y * w),     2 * (y * z + x * w),     1 - 2 * (x * x + y * y)};
        for (int l = 0; l < 3; ++l)
            for (int c = 0; c < 3; ++c) r.m[4 * c + l] = rows[3 * l + c];
    }
    if (n.scale.size() == 3)
        for (int c = 0; c < 3; ++c)
            for (int l = 0; l < 3; ++l) r.m[4 * c + l] *= n.scale[static_cast<std::size_t>(c)];
    if (n.translation.size() == 3)
        for (int l = 0; l < 3; ++l) r.m[12 + l] = n.translation[static_cast<std::size_t>(l)];
    return r;
}

// The library leaves offsets and lengths as they stand in the file.
class Numbers {
  public:
    Numbers(const Model& model, int accessor, const std::string& place) {
        const Accessor& a = checked(model.accessors, accessor, "An accessor", place);
        if (a.sparse.isSparse) throw Error(ErrorCode::Unsupported, "Sparse accessors cannot be read", place);
        type_ = a.componentType;
        parts_ = static_cast<std::size_t>(
            std::max(0, tinygltf::GetNumComponentsInType(static_cast<std::uint32_t>(a.type))));
        const auto bytes = static_cast<std::size_t>(
            std::max(0, tinygltf::GetComponentSizeInBytes(static_cast<std::uint32_t>(a.componentType))));
        normalized_ = a.normalized;
        count_ = a.count;
        if (parts_ == 0 || bytes == 0) throw Error(ErrorCode::Format, "An accessor has no type", place);
        const auto& view = checked(model.bufferViews, a.bufferView, "A view of a buffer", place);
        const auto& buffer = checked(model.buffers, view.buffer, "A buffer", place);
        stride_ = view.byteStride == 0 ? parts_ * bytes : view.byteStride;
        const std::size_t from = view.byteOffset + a.byteOffset, all = buffer.data.size();
        if (view.byteOffset > all || a.byteOffset > all || from > all || stride_ < parts_ * bytes ||
            (count_ > 0 &&
             ((all - from) < parts_ * bytes || (count_ - 1) > (all - from - parts_ * bytes) / stride_)))
            throw Error(ErrorCode::Format, "An accessor reaches beyond its buffer", place);
        data_ = buffer.data.data() + from;
    }
    std::size_t count() const { return count_; }
    std::size_t parts() const { return parts_; }
    /// Normalized integers become -1..1 or 0..1.
    double at(std::size_t i, std::size_t part) const {
        const unsigned char* p = data_ + i * stride_;
        switch (type_) {
            case TINYGLTF_COMPONENT_TYPE_FLOAT:
                return static_cast<double>(number<float>(p, part));
            case TINYGLTF_COMPONENT_TYPE_DOUBLE:
                return number<double>(p, part);
            case TINYGLTF_COMPONENT_TYPE_BYTE:
                return scaled(number<std::int8_t>(p, part), 127);
            case TINYGLTF_COMPONENT_TYPE_UNSIGNED_BYTE:
                return scaled(number<std::uint8_t>(p, part), 255);
            case TINYGLTF_COMPONENT_TYPE_SHORT:
                return scaled(number<std::int16_t>(p, part), 32767);
            case TINYGLTF_COMPONENT_TYPE_UNSIGNED_SHORT:
                return scaled(number<std::uint16_t>(p, part), 65535);
            case TINYGLTF_COMPONENT_TYPE_UNSIGNED_INT:
                return static_cast<double>(number<std::uint32_t>(p, part));
            default:
                return static_cast<double>(number<std::int32_t>(p, part));
        }
    }

    template <class List>
    static const typename List::value_type& checked(const List& list, int at, const char* what,
                                                    const std::string& place) {
        if (at < 0 || static_cast<std::size_t>(at) >= list.size())
            throw Error(ErrorCode::Format, fmt::format("{} is named that is not there", what), place);
        return list[static_cast<std::size_t>(at)];
    }

  private:
    template <class T>
    static T number(const unsigned char* p, std::size_t part) {
        T v;
        std::memcpy(&v, p + part * sizeof(T), sizeof(T));
        return v;
    }
    double scaled(double v, double most) const { return normalized_ ? std::max(v / most, -1.0) : v; }

    const unsigned char* data_ = nullptr;
    std::size_t count_ = 0, parts_ = 0, stride_ = 0;
    int type_ = 0;
    bool normalized_ = false;
};

// Corners of triangles of the modes that make any.
std::vector<std::uint32_t> corners_of(const Model& model, const Primitive& p, std::size_t vertices,
                                      const std::string& place) {
    std::vector<std::uint32_t> given;
    if (p.indices >= 0) {
        const Numbers n(model, p.indices, place);
        for (std::size_t i = 0; i < n.count(); ++i) {
            const double v = n.at(i, 0);
            if (!(v >= 0) || v >= static_cast<double>(vertices))
                throw Error(ErrorCode::Format, "A triangle names a vertex that is not there", place);
            given.push_back(static_cast<std::uint32_t>(v));
        }
    } else {
        for (std::size_t i = 0; i < vertices; ++i) given.push_back(static_cast<std::uint32_t>(i));
    }
    if (p.mode == TINYGLTF_MODE_TRIANGLES || p.mode < 0) {
        given.resize(given.size() / 3 * 3);
        return given;
    }
    std::vector<std::uint32_t> corners;
    const bool fan = p.mode == TINYGLTF_MODE_TRIANGLE_FAN;
    if (!fan && p.mode != TINYGLTF_MODE_TRIANGLE_STRIP) return corners;  // points and lines
    for (std::size_t i = 2; i < given.size(); ++i) {
        const bool odd = !fan && i % 2 == 1;
        const std::uint32_t a = fan ? given[0] : given[i - 2], b = given[i - 1];
        for (const std::uint32_t v : {odd ? b : a, odd ? a : b, given[i]}) corners.push_back(v);
    }
    return corners;
}

class Reader {
  public:
    Reader(const Model& model, std::string place) : model_(model), place_(std::move(place)) {}

    MeshFile run() {
        for (const std::string& e : model_.extensionsRequired)
            if (e != "KHR_mesh_quantization" && e != "KHR_materials_unlit" && e != "KHR_texture_transform")
                throw Error(ErrorCode::Unsupported,
                            fmt::format("The file needs the extension '{}', which is not known here", e),
                            place_, "Write it without compression.");
        for (std::size_t i = 0; i < model_.materials.size(); ++i) material(i);
        if (!model_.scenes.empty()) {
            const int scene = std::clamp(model_.defaultScene, 0, static_cast<int>(model_.scenes.size()) - 1);
            for (const int n : model_.scenes[static_cast<std::size_t>(scene)].nodes) node(n, {}, 0);
        } else {
            for (std::size_t n = 0; n < model_.nodes.size(); ++n) node(static_cast<int>(n), {}, 0);
        }
        if (skipped_ > 0)
            file_.warnings.push_back(
                fmt::format("{} of points or lines were left out.",
                            skipped_ == 1 ? "One part" : fmt::format("{} parts", skipped_)));
        file_.format = "glTF 2.0, binary";
        file_.unit = "m";  // by the standard
        finish();
        return std::move(file_);
    }

  private:
    void material(std::size_t i) {
        const tinygltf::Material& from = model_.materials[i];
        mesh::Material m;
        m.name = from.name.empty() ? fmt::format("Material {}", i + 1) : from.name;
        const auto& f = from.pbrMetallicRoughness.baseColorFactor;
        m.colour = 0;
        for (std::size_t c = 0; c < 3; ++c) m.colour = m.colour << 8 | srgb_byte(c < f.size() ? f[c] : 1);
        const int texture = from.pbrMetallicRoughness.baseColorTexture.index;
        if (texture >= 0) picture(texture, m);
        file_.attributes.materials.push_back(std::move(m));
    }
    void picture(int texture, mesh::Material& m) {
        const tinygltf::Texture& t = Numbers::checked(model_.textures, texture, "A texture", place_);
        const tinygltf::Image& image = Numbers::checked(model_.images, t.source, "An image", place_);
        if (image.image.empty()) {
            file_.warnings.push_back("A picture that is not in the file itself was left out.");
            return;
        }
        const bool jpeg = image.mimeType == "image/jpeg";
        m.image_name =
            fmt::format("{}.{}", image.name.empty() ? fmt::format("picture-{}", t.source + 1) : image.name,
                        jpeg ? "jpg" : "png");
        m.image = std::make_shared<const std::string>(image.image.begin(), image.image.end());
    }
    void node(int number, const Matrix& parent, int depth) {
        const tinygltf::Node& n = Numbers::checked(model_.nodes, number, "A node", place_);
        if (depth > 256) throw Error(ErrorCode::Format, "The nodes stand in a circle", place_);
        const Matrix here = parent * matrix_of(n);
        if (n.mesh >= 0) {
            const tinygltf::Mesh& m = Numbers::checked(model_.meshes, n.mesh, "A mesh", place_);
            const std::string name = !n.name.empty() ? n.name : m.name;
            for (const Primitive& p : m.primitives) primitive(p, here, name);
        }
        for (const int child : n.children) node(child, here, depth + 1);
    }
    int find(const Primitive& p, const char* what) const {
        const auto a = p.attributes.find(what);
        return a == p.attributes.end() ? -1 : a->second;
    }

    void primitive(const Primitive& p, const Matrix& here, const std::string& name) {
        const int places = find(p, "POSITION");
        if (places < 0) return;
        const Numbers xyz(model_, places, place_);
        if (xyz.parts() != 3) throw Error(ErrorCode::Format, "Places have not three numbers", place_);
        constexpr std::size_t kMost = 400'000'000;
        const std::vector<std::uint32_t> corners = corners_of(model_, p, xyz.count(), place_);
        if (corners.empty()) {
            ++skipped_;
            return;
        }
        if (file_.mesh.vertices.size() + xyz.count() > kMost)
            throw Error(ErrorCode::Memory, "The file has too many vertices", place_);
        const auto base = static_cast<std::uint32_t>(file_.mesh.vertices.size());
        for (std::size_t i = 0; i < xyz.count(); ++i) {
            const Vec3 w = here.at({xyz.at(i, 0), xyz.at(i, 1), xyz.at(i, 2)});
            file_.mesh.vertices.push_back(
                {w.x, 0 - w.z, w.y});  // their second axis points up, ours the third
        }
        const std::size_t first = file_.mesh.triangles.size();
        for (std::size_t i = 0; i + 2 < corners.size(); i += 3)
            file_.mesh.triangles.push_back({base + corners[i], base + corners[i + 1], base + corners[i + 2]});
        parts_.push_back({first, file_.mesh.triangles.size() - first, p.material, group_of(name)});
        read_corners(p, corners, here, parts_.back());
    }
    std::uint16_t group_of(const std::string& name) {
        auto& groups = file_.attributes.groups;
        const auto at = std::find(groups.begin(), groups.end(), name);
        if (at != groups.end()) return static_cast<std::uint16_t>(at - groups.begin());
        if (groups.size() == 65535)
            throw Error(ErrorCode::Unsupported, "There are more than 65,535 nodes", place_);
        groups.push_back(name);
        return static_cast<std::uint16_t>(groups.size() - 1);
    }

    struct Part {
        std::size_t first, count;
        int material;
        std::uint16_t group;
        std::vector<std::array<std::uint32_t, 3>> colours{};
        std::vector<std::array<std::array<float, 3>, 3>> normals{};
        std::vector<std::array<std::array<float, 2>, 3>> texture{};
    };
    void read_corners(const Primitive& p, const std::vector<std::uint32_t>& corners, const Matrix& here,
                      Part& part) {
        const auto each = [&](int accessor, std::size_t least, auto put) {
            if (accessor < 0) return;
            const Numbers n(model_, accessor, place_);
            if (n.parts() < least) return;
            for (const std::uint32_t v : corners)
                if (v >= n.count())
                    throw Error(ErrorCode::Format, "A vertex has no value in one of the lists", place_);
            for (std::size_t i = 0; i + 2 < corners.size(); i += 3) put(n, i);
        };
        each(find(p, "COLOR_0"), 3, [&](const Numbers& n, std::size_t i) {
            auto& t = part.colours.emplace_back();
            for (std::size_t k = 0; k < 3; ++k)
                for (std::size_t c = 0; c < 3; ++c) t[k] = t[k] << 8 | srgb_byte(n.at(corners[i + k], c));
        });
        each(find(p, "NORMAL"), 3, [&](const Numbers& n, std::size_t i) {
            auto& t = part.normals.emplace_back();
            for (std::size_t k = 0; k < 3; ++k) {
                const std::uint32_t v = corners[i + k];
                const Vec3 w = normalized(here.turned({n.at(v, 0), n.at(v, 1), n.at(v, 2)}));
                t[k] = {static_cast<float>(w.x), static_cast<float>(-w.z), static_cast<float>(w.y)};
            }
        });
        each(find(p, "TEXCOORD_0"), 2, [&](const Numbers& n, std::size_t i) {
            auto& t = part.texture.emplace_back();
            // Theirs begins at the upper left corner of the picture, ours at the lower left.
            for (std::size_t k = 0; k < 3; ++k)
                t[k] = {static_cast<float>(n.at(corners[i + k], 0)),
                        static_cast<float>(1 - n.at(corners[i + k], 1))};
        });
    }

    // What only some parts have is white, without direction, or of a material without a name for the others.
    void finish() {
        mesh::Attributes& a = file_.attributes;
        bool colours = false, normals = false, texture = false, material = false;
        for (const Part& p : parts_) {
            colours |= !p.colours.empty();
            normals |= !p.normals.empty();
            texture |= !p.texture.empty();
            material |= p.material >= 0;
        }
        const auto n = static_cast<std::uint16_t>(a.materials.size());
        bool plain = false;
        for (const Part& p : parts_)
            for (std::size_t t = 0; t < p.count; ++t) {
                if (colours)
                    a.colours.push_back(p.colours.empty()
                                            ? std::array<std::uint32_t, 3>{0xFFFFFF, 0xFFFFFF, 0xFFFFFF}
                                            : p.colours[t]);
                if (normals)
                    a.normals.push_back(p.normals.empty() ? std::array<std::array<float, 3>, 3>{}
                                                          : p.normals[t]);
                if (texture)
                    a.texture.push_back(p.texture.empty() ? std::array<std::array<float, 2>, 3>{}
                                                          : p.texture[t]);
                a.group.push_back(p.group);
                if (!material) continue;
                const bool known = p.material >= 0 && p.material < static_cast<int>(n);
                plain |= !known;
                a.material.push_back(known ? static_cast<std::uint16_t>(p.material) : n);
            }
        if (plain) a.materials.push_back({});
        if (!material) a.materials.clear();
        if (a.groups.size() == 1 && a.groups[0].empty()) {
            a.group.clear();
            a.groups.clear();
        }
    }

    const Model& model_;
    std::string place_;
    MeshFile file_;
    std::vector<Part> parts_;
    std::size_t skipped_ = 0;
};

// Pictures stay as they are in the file; nothing else is opened.
bool keep_bytes(tinygltf::Image* image, int, std::string*, std::string*, int, int, const unsigned char* bytes,
                int size, void*) {
    image->image.assign(bytes, bytes + size);
    return true;
}

tinygltf::FsCallbacks nothing_beside() {
    tinygltf::FsCallbacks f{};
    f.FileExists = [](const std::string&, void*) { return false; };
    f.ExpandFilePath = [](const std::string& path, void*) { return path; };
    f.ReadWholeFile = [](std::vector<unsigned char>*, std::string*, const std::string&, void*) {
        return false;
    };
    f.WriteWholeFile = [](std::string*, const std::string&, const std::vector<unsigned char>&, void*) {
        return false;
    };
    return f;
}

}  // namespace

std::vector<MeshFile> read_glb_here(const std::filesystem::path& path) {
    const std::string place = path.filename().string();
    const InputFile file(path);
    const std::string bytes = file.read_string(0, file.size());
    if (bytes.size() > INT32_MAX) throw Error(ErrorCode::Memory, "The file has more than 2 GB", place);
    tinygltf::TinyGLTF library;
    library.SetImageLoader(keep_bytes, nullptr);
    library.SetFsCallbacks(nothing_beside());
    Model model;
    std::string error, warning;
    const bool read = library.LoadBinaryFromMemory(&model, &error, &warning,
                                                   reinterpret_cast<const unsigned char*>(bytes.data()),
                                                   static_cast<unsigned int>(bytes.size()));
    if (!read) {
        std::replace(error.begin(), error.end(), '\n', ' ');
        while (!error.empty() && (error.back() == ' ' || error.back() == '.')) error.pop_back();
        throw Error(ErrorCode::Format,
                    error.empty() ? "The file is no binary glTF" : "The file cannot be read: " + error,
                    place);
    }
    std::vector<MeshFile> one;
    one.push_back(Reader(model, place).run());
    return one;
}

std::vector<MeshFile> read_glb(const std::filesystem::path& path) {
    return fuzzing ? read_glb_here(path) : read_meshes_guarded("glb", path);
}

}  // namespace pristine::io
