#include "core/store/glance.h"

#include <nlohmann/json.hpp>

#include "core/base/error.h"
#include "core/store/database.h"

namespace pristine::store {

Glance glance(const std::filesystem::path& path) {
    Glance g;
    for (const char* end : {"", "-wal", "-shm"}) {
        std::error_code error;
        const auto size = std::filesystem::file_size(path.string() + end, error);
        if (!error) g.bytes += size;
    }
    Database db(path, Database::Mode::Read);
    try {
        Statement last = db.prepare("SELECT title, site FROM site_commit ORDER BY number DESC LIMIT 1");
        if (last.step()) {
            g.last_step = last.bytes(0);
            const nlohmann::json site = nlohmann::json::parse(last.bytes(1));
            g.name = site.value("name", "");
            for (const auto& item : site.at("items")) g.items.push_back(item.value("name", ""));
        }
    } catch (const nlohmann::json::exception& e) {
        throw Error(ErrorCode::Format, std::string("The last commit is damaged: ") + e.what(),
                    path.filename().string());
    }
    Statement note = db.prepare("SELECT text FROM note WHERE key=?");
    note.bind(0, std::string_view(kPictureNote));
    if (note.step()) g.picture = note.bytes(0);
    return g;
}

}  // namespace pristine::store
