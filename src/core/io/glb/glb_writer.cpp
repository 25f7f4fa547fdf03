#include <fmt/format.h>
#include <tiny_gltf.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <sstream>

#include "core/base/bytes.h"
#include "core/base/output.h"
#include "core/base/units.h"
#include "core/io/glb/glb.h"
#include "core/io/glb/srgb.h"

namespace pristine::io {
namespace {

using tinygltf::Model;

// One corner as it is written; equal ones of a part become one vertex.
struct Corner {
    std::uint32_t vertex = 0;
    std::uint32_t colour = 0;
    std::array<float, 3> normal{};
    std::array<float, 2> uv{};
    auto operator<=>(const Corner&) const = default;
};

class Writer {
  public:
    explicit Writer(const MeshOut& out) : out_(out) {
        Box3 box;
        for (const Vec3& v : out.mesh.vertices) box.add(v);
        if (!box.empty())
            for (int a = 0; a < 3; ++a) origin_[a] = std::floor(0.5 * (box.lo[a] + box.hi[a]));
        model_.asset.version = "2.0";
        model_.asset.generator = "Pristine Cloud";
        model_.buffers.emplace_back();
        model_.scenes.emplace_back();
        model_.defaultScene = 0;
    }

    std::string run() {
        for (const mesh::Material& m : out_.attributes.materials) material(m);
        // A node for each group, a part for each material in it.
        std::map<std::pair<std::uint16_t, int>, std::vector<std::uint32_t>> parts;
        const mesh::Attributes& a = out_.attributes;
        for (std::size_t t = 0; t < out_.mesh.triangles.size(); ++t)
            parts[{a.group.empty() ? std::uint16_t{0} : a.group[t], a.material.empty() ? -1 : a.material[t]}]
                .push_back(static_cast<std::uint32_t>(t));
        int group = -1;
        for (const auto& [key, triangles] : parts) {
            if (key.first != group) node(group = key.first);
            model_.meshes.back().primitives.push_back(primitive(triangles, key.second));
        }
        std::ostringstream text;
        tinygltf::TinyGLTF library;
        if (!library.WriteGltfSceneToStream(&model_, text, false, true))
            throw Error(ErrorCode::Io, "The mesh could not be written as glTF");
        return text.str();
    }

  private:
    void node(int group) {
        tinygltf::Node n;
        const auto g = static_cast<std::size_t>(group);
        if (g < out_.attributes.groups.size()) n.name = out_.attributes.groups[g];
        n.mesh = static_cast<int>(model_.meshes.size());
        const double plan = length_unit(out_.reference.unit).metres;
        const double up =
            out_.reference.height_unit.empty() ? plan : length_unit(out_.reference.height_unit).metres;
        // Ours (x, y, z) is theirs (x, z, -y), in metres.
        n.matrix = {
            plan, 0, 0, 0, 0, 0, -plan, 0, 0, up, 0, 0, plan * origin_.x, up * origin_.z, -plan * origin_.y,
            1};
        model_.scenes[0].nodes.push_back(static_cast<int>(model_.nodes.size()));
        model_.nodes.push_back(std::move(n));
        model_.meshes.emplace_back();
        model_.meshes.back().name = model_.nodes.back().name;
    }

    void material(const mesh::Material& m) {
        tinygltf::Material to;
        to.name = m.name;
        to.doubleSided = true;
        to.pbrMetallicRoughness.metallicFactor = 0;
        to.pbrMetallicRoughness.roughnessFactor = 1;
        const int image = m.image ? image_of(m) : -1;
        if (image >= 0) {
            tinygltf::Texture texture;
            texture.source = image;
            to.pbrMetallicRoughness.baseColorTexture.index = static_cast<int>(model_.textures.size());
            model_.textures.push_back(texture);
        } else {
            to.pbrMetallicRoughness.baseColorFactor = {light_of(m.colour >> 16), light_of(m.colour >> 8),
                                                       light_of(m.colour), 1};
        }
        pictured_.push_back(image >= 0);
        model_.materials.push_back(std::move(to));
    }
    // -1 for kinds of pictures that the standard does not have.
    int image_of(const mesh::Material& m) {
        const std::string& b = *m.image;
        const bool png = b.rfind("\x89PNG", 0) == 0, jpeg = b.rfind("\xFF\xD8\xFF", 0) == 0;
        if (!png && !jpeg) return -1;
        tinygltf::Image image;
        image.name = std::filesystem::path(m.image_name).stem().string();
        image.mimeType = png ? "image/png" : "image/jpeg";
        image.bufferView = view(b, 0);
        model_.images.push_back(std::move(image));
        return static_cast<int>(model_.images.size()) - 1;
    }

    int view(const std::string& bytes, int target) {
        std::vector<unsigned char>& all = model_.buffers[0].data;
        while (all.size() % 4 != 0) all.push_back(0);
        tinygltf::BufferView v;
        v.buffer = 0;
        v.byteOffset = all.size();
        v.byteLength = bytes.size();
        v.target = target;
        all.insert(all.end(), bytes.begin(), bytes.end());
        model_.bufferViews.push_back(v);
        return static_cast<int>(model_.bufferViews.size()) - 1;
    }
    int accessor(const std::string& bytes, int target, int component, int type, std::size_t count,
                 bool normalized = false) {
        tinygltf::Accessor a;
        a.bufferView = view(bytes, target);
        a.componentType = component;
        a.type = type;
        a.count = count;
        a.normalized = normalized;
        model_.accessors.push_back(std::move(a));
        return static_cast<int>(model_.accessors.size()) - 1;
    }

    Corner corner(std::uint32_t t, std::size_t k, bool pictured) const {
        const mesh::Attributes& a = out_.attributes;
        Corner c{out_.mesh.triangles[t][k]};
        if (!a.colours.empty() && !pictured) c.colour = a.colours[t][k];
        if (!a.normals.empty()) c.normal = a.normals[t][k];
        if (!a.texture.empty() && pictured) c.uv = a.texture[t][k];
        return c;
    }

    tinygltf::Primitive primitive(const std::vector<std::uint32_t>& triangles, int material) {
        const bool pictured = material >= 0 && static_cast<std::size_t>(material) < pictured_.size() &&
                              pictured_[static_cast<std::size_t>(material)];
        std::map<Corner, std::uint32_t> known;
        std::vector<Corner> corners;
        std::string indices;
        for (const std::uint32_t t : triangles)
            for (std::size_t k = 0; k < 3; ++k) {
                const Corner c = corner(t, k, pictured);
                const auto [at, fresh] = known.insert({c, static_cast<std::uint32_t>(corners.size())});
                if (fresh) corners.push_back(c);
                append_le(indices, at->second);
            }
        tinygltf::Primitive p;
        p.mode = TINYGLTF_MODE_TRIANGLES;
        p.material = material;
        p.indices =
            accessor(indices, TINYGLTF_TARGET_ELEMENT_ARRAY_BUFFER, TINYGLTF_COMPONENT_TYPE_UNSIGNED_INT,
                     TINYGLTF_TYPE_SCALAR, 3 * triangles.size());
        places(p, corners);
        const mesh::Attributes& a = out_.attributes;
        std::string colours, normals, uv;
        for (const Corner& c : corners) {
            // Sixteen bits of light hold every byte of a screen.
            for (const int shift : {16, 8, 0})
                append_le(colours,
                          static_cast<std::uint16_t>(std::lround(65535 * light_of(c.colour >> shift))));
            append_le(colours, std::uint16_t{65535});
            // The matrix of the node turns normals too.
            for (const float n : c.normal) append_le(normals, n);
            append_le(uv, c.uv[0]);
            append_le(uv, 1 - c.uv[1]);
        }
        if (!a.colours.empty() && !pictured)
            p.attributes["COLOR_0"] =
                accessor(colours, TINYGLTF_TARGET_ARRAY_BUFFER, TINYGLTF_COMPONENT_TYPE_UNSIGNED_SHORT,
                         TINYGLTF_TYPE_VEC4, corners.size(), true);
        if (!a.normals.empty())
            p.attributes["NORMAL"] =
                accessor(normals, TINYGLTF_TARGET_ARRAY_BUFFER, TINYGLTF_COMPONENT_TYPE_FLOAT,
                         TINYGLTF_TYPE_VEC3, corners.size());
        if (!a.texture.empty() && pictured)
            p.attributes["TEXCOORD_0"] =
                accessor(uv, TINYGLTF_TARGET_ARRAY_BUFFER, TINYGLTF_COMPONENT_TYPE_FLOAT, TINYGLTF_TYPE_VEC2,
                         corners.size());
        return p;
    }
    // Singles, counted from a place near by; the standard wants their least and greatest said.
    void places(tinygltf::Primitive& p, const std::vector<Corner>& corners) {
        std::string bytes;
        float lo[3] = {INFINITY, INFINITY, INFINITY}, hi[3] = {-INFINITY, -INFINITY, -INFINITY};
        for (const Corner& c : corners)
            for (int a = 0; a < 3; ++a) {
                const auto v = static_cast<float>(out_.mesh.vertices[c.vertex][a] - origin_[a]);
                lo[a] = std::min(lo[a], v);
                hi[a] = std::max(hi[a], v);
                append_le(bytes, v);
            }
        const int at = accessor(bytes, TINYGLTF_TARGET_ARRAY_BUFFER, TINYGLTF_COMPONENT_TYPE_FLOAT,
                                TINYGLTF_TYPE_VEC3, corners.size());
        for (int a = 0; a < 3; ++a) {
            model_.accessors.back().minValues.push_back(static_cast<double>(lo[a]));
            model_.accessors.back().maxValues.push_back(static_cast<double>(hi[a]));
        }
        p.attributes["POSITION"] = at;
    }

    const MeshOut& out_;
    Vec3 origin_;
    Model model_;
    std::vector<bool> pictured_;  // of each material
};

}  // namespace

void write_glb(const MeshOut& out, const std::filesystem::path& path, bool replace) {
    const std::string bytes = Writer(out).run();
    OutputFile file(path, replace);
    file.write(bytes);
    file.finish();
}

MeshFormat glb_format() {
    return {"glb",
            "glTF 2.0, binary",
            {"glb"},
            nullptr,
            [](const std::filesystem::path& path, Progress&) { return read_glb(path); },
            write_glb};
}

}  // namespace pristine::io
