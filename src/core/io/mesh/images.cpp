#include "core/io/mesh/images.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "core/base/error.h"
#include "core/base/file.h"
#include "core/base/output.h"
#include "core/io/grid/picture.h"

namespace pristine::io {
namespace fs = std::filesystem;
namespace {

constexpr std::uint64_t kLargestPicture = 512u << 20;

bool holds(const fs::path& path, const std::string& bytes) {
    const InputFile file(path);
    return file.size() == bytes.size() && file.read_string(0, file.size()) == bytes;
}

// Whether the machine failed (no memory, no process for the reader) and not the picture, whose bytes are
// there. Leaving the picture out would then lose it from everything that is written.
bool machine_failed(const Error& e, const std::shared_ptr<const std::string>& bytes) {
    return bytes && e.code() == ErrorCode::Io;
}

}  // namespace

std::filesystem::path file_beside(const std::filesystem::path& mesh_file, const std::string& named) {
    std::string relative = named;
    std::replace(relative.begin(), relative.end(), '\\', '/');
    fs::path name = fs::path(relative);
    // Places on the machine where the mesh was made say nothing here.
    if (name.is_absolute() || (relative.size() > 1 && relative[1] == ':')) name = name.filename();
    std::error_code none;
    const fs::path folder =
        fs::canonical(mesh_file.has_parent_path() ? mesh_file.parent_path() : fs::path("."), none);
    if (none) return {};
    // Files that were moved: the picture may lie beside the mesh.
    for (const fs::path& candidate : {folder / name, folder / name.filename()}) {
        const fs::path real = fs::canonical(candidate, none);
        if (none || !fs::is_regular_file(real, none)) continue;
        const fs::path inside = real.lexically_relative(folder);
        if (!inside.empty() && *inside.begin() != "..") return real;
    }
    return {};
}

void load_image(mesh::Material& m, const fs::path& mesh_file, const std::string& named,
                std::vector<std::string>& warnings) {
    std::string plain = named;
    std::replace(plain.begin(), plain.end(), '\\', '/');
    m.image_name = fs::path(plain).filename().string();
    std::shared_ptr<const std::string> bytes;
    try {
        const fs::path path = file_beside(mesh_file, named);
        if (path.empty())
            throw Error(ErrorCode::Io, "There is no such file in the folder of the mesh, or below it");
        const InputFile file(path);
        if (file.size() > kLargestPicture)
            throw Error(ErrorCode::Memory, fmt::format("The file has {} MB, more than {}", file.size() >> 20,
                                                       kLargestPicture >> 20));
        bytes = std::make_shared<const std::string>(file.read_string(0, file.size()));
        m.picture = decode_picture(*bytes, path.filename().string());
        m.image = std::move(bytes);
    } catch (const Error& e) {
        if (machine_failed(e, bytes)) throw;
        warnings.push_back("The picture '" + named + "' of the mesh is left out: " + e.what());
    }
}

void decode_images(mesh::Attributes& a) {
    for (mesh::Material& m : a.materials) {
        if (!m.image || m.picture) continue;
        try {
            m.picture = decode_picture(*m.image, m.image_name);
        } catch (const Error& e) {
            if (machine_failed(e, m.image)) throw;
            // It could not be read when it came in either, which was said then.
        }
    }
}

std::vector<std::string> write_images(const mesh::Attributes& a, const fs::path& mesh_file, bool replace) {
    OutputGroup together;
    std::vector<std::string> names;
    std::map<std::string, std::shared_ptr<const std::string>> used;  // bytes of each name
    for (const mesh::Material& m : a.materials) {
        // A project from elsewhere may hold any name; it leads to no other folder.
        const std::string own = fs::path(m.image_name).filename().string();
        if (!m.image) {
            names.push_back(own);
            continue;
        }
        std::string name = own;
        // Two pictures of one name, from different folders, become two.
        for (int k = 2; used.contains(name) && *used[name] != *m.image; ++k)
            name = std::to_string(k) + "-" + own;
        names.push_back(name);
        if (!used.emplace(name, m.image).second) continue;
        const fs::path path = mesh_file.parent_path() / name;
        std::error_code none;
        if (fs::is_regular_file(path, none) && holds(path, *m.image)) continue;
        OutputFile out(path, replace);
        out.write(*m.image);
        out.finish();
    }
    together.commit();
    return names;
}

}  // namespace pristine::io
