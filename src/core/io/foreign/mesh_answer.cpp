#include "core/io/foreign/mesh_answer.h"

#include <cstring>

#include "core/io/foreign/answer_bytes.h"
#include "core/io/foreign/guarded.h"

namespace pristine::io {
namespace {

template <class T>
void append_list(std::string& out, const std::vector<T>& list) {
    static_assert(std::is_trivially_copyable_v<T>);
    append_le(out, static_cast<std::uint64_t>(list.size()));
    out.append(reinterpret_cast<const char*>(list.data()), list.size() * sizeof(T));
}

template <class T>
void take_list(AnswerBytes& in, std::vector<T>& list) {
    const auto n = in.number<std::uint64_t>();
    const std::string raw = in.bytes(n > UINT64_MAX / sizeof(T) ? UINT64_MAX : n * sizeof(T));
    list.resize(n);
    if (!raw.empty()) std::memcpy(list.data(), raw.data(), raw.size());
}

}  // namespace

std::string bytes_of(const std::vector<MeshFile>& all) {
    std::string out;
    append_le(out, static_cast<std::uint64_t>(all.size()));
    for (const MeshFile& f : all) {
        append_list(out, f.mesh.vertices);
        append_list(out, f.mesh.triangles);
        append_list(out, f.attributes.colours);
        append_list(out, f.attributes.normals);
        append_list(out, f.attributes.texture);
        append_list(out, f.attributes.group);
        append_list(out, f.attributes.material);
        append_le(out, static_cast<std::uint64_t>(f.attributes.groups.size()));
        for (const std::string& g : f.attributes.groups) append_text(out, g);
        append_le(out, static_cast<std::uint64_t>(f.attributes.materials.size()));
        for (const mesh::Material& m : f.attributes.materials) {
            append_text(out, m.name);
            append_le(out, m.colour);
            append_text(out, m.image_name);
            append_text(out, m.image ? *m.image : std::string());
        }
        for (const std::string* s : {&f.format, &f.unit, &f.crs, &f.height_unit, &f.name})
            append_text(out, *s);
        append_le(out, static_cast<std::uint8_t>(f.surface));
        append_le(out, static_cast<std::uint64_t>(f.warnings.size()));
        for (const std::string& w : f.warnings) append_text(out, w);
    }
    return out;
}

std::vector<MeshFile> meshes_from(const std::string& bytes) {
    AnswerBytes in(bytes);
    std::vector<MeshFile> all(in.count());
    for (MeshFile& f : all) {
        take_list(in, f.mesh.vertices);
        take_list(in, f.mesh.triangles);
        take_list(in, f.attributes.colours);
        take_list(in, f.attributes.normals);
        take_list(in, f.attributes.texture);
        take_list(in, f.attributes.group);
        take_list(in, f.attributes.material);
        f.attributes.groups.resize(in.count());
        for (std::string& g : f.attributes.groups) g = in.text();
        f.attributes.materials.resize(in.count());
        for (mesh::Material& m : f.attributes.materials) {
            m.name = in.text();
            m.colour = in.number<std::uint32_t>();
            m.image_name = in.text();
            if (std::string image = in.text(); !image.empty())
                m.image = std::make_shared<const std::string>(std::move(image));
        }
        for (std::string* s : {&f.format, &f.unit, &f.crs, &f.height_unit, &f.name}) *s = in.text();
        f.surface = in.number<std::uint8_t>() != 0;
        f.warnings.resize(in.count());
        for (std::string& w : f.warnings) w = in.text();
    }
    return all;
}

std::vector<MeshFile> read_meshes_guarded(const char* what, const std::filesystem::path& path) {
    return meshes_from(run_guarded({what, std::filesystem::absolute(path).string()}, limits_for(path),
                                   path.filename().string()));
}

}  // namespace pristine::io
