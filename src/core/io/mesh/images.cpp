#include "core/io/mesh/images.h"

#include <algorithm>
#include <map>

#include "core/base/error.h"
#include "core/base/file.h"
#include "core/io/grid/picture.h"

namespace pristine::io {
namespace {

bool holds(const std::filesystem::path& path, const std::string& bytes) {
    const InputFile file(path);
    return file.size() == bytes.size() && file.read_string(0, file.size()) == bytes;
}

}  // namespace

void load_image(mesh::Material& m, const std::filesystem::path& mesh_file, const std::string& named,
                std::vector<std::string>& warnings) {
    std::string relative = named;
    std::replace(relative.begin(), relative.end(), '\\', '/');
    std::filesystem::path name = std::filesystem::path(relative);
    // Places on the machine where the mesh was made say nothing here.
    if (name.is_absolute() || (relative.size() > 1 && relative[1] == ':')) name = name.filename();
    m.image_name = name.filename().string();
    std::error_code none;
    std::filesystem::path path = mesh_file.parent_path() / name;
    // Files that were moved: the picture may lie beside the mesh.
    if (!std::filesystem::exists(path, none)) path = mesh_file.parent_path() / name.filename();
    try {
        const InputFile file(path);
        m.image = std::make_shared<const std::string>(file.read_string(0, file.size()));
        m.picture = decode_picture(*m.image, m.image_name);
    } catch (const Error& e) {
        warnings.push_back("The picture '" + named + "' of the mesh is left out: " + e.what());
    }
}

void decode_images(mesh::Attributes& a) {
    for (mesh::Material& m : a.materials) {
        if (!m.image || m.picture) continue;
        try {
            m.picture = decode_picture(*m.image, m.image_name);
        } catch (const Error&) {
            // It could not be read when it came in either, which was said then.
        }
    }
}

std::vector<std::string> write_images(const mesh::Attributes& a, const std::filesystem::path& mesh_file,
                                      bool replace, bool only_ask) {
    std::vector<std::string> names;
    std::map<std::string, std::shared_ptr<const std::string>> used;  // bytes of each name
    for (const mesh::Material& m : a.materials) {
        std::string name = m.image_name;
        if (!m.image) {
            names.push_back(name);
            continue;
        }
        // Two pictures of one name, from different folders, become two.
        for (int k = 2; used.contains(name) && *used[name] != *m.image; ++k)
            name = std::to_string(k) + "-" + m.image_name;
        names.push_back(name);
        if (!used.emplace(name, m.image).second) continue;
        const std::filesystem::path path = mesh_file.parent_path() / name;
        std::error_code none;
        if (std::filesystem::exists(path, none)) {
            if (holds(path, *m.image)) continue;
            if (!replace)
                throw Error(ErrorCode::Conflict, "There is another picture of that name", path.string(),
                            "Write into an empty folder, or overwrite.");
        }
        if (only_ask) continue;
        OutputFile out(path, replace);
        out.write(*m.image);
        out.finish();
    }
    return names;
}

}  // namespace pristine::io
