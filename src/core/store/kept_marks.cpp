#include "core/store/kept_marks.h"

#include <nlohmann/json.hpp>

#include "core/base/error.h"
#include "core/store/database.h"
#include "core/store/object_json.h"

namespace pristine::store {

KeptMarks kept_marks(const std::filesystem::path& path) {
    Database db(path, Database::Mode::Read);
    Statement commit = db.prepare(
        "SELECT site FROM site_commit WHERE number="
        "coalesce((SELECT CAST(text AS INTEGER) FROM note WHERE key='cursor'),"
        "(SELECT max(number) FROM site_commit))");
    KeptMarks kept;
    if (!commit.step()) return kept;
    try {
        const json site = json::parse(commit.bytes(0));
        for (const json& j : site.value("marks", json::array())) {
            const site::Mark m = mark_from(j);
            kept.marks.push_back(
                {m.kind, m.name, m.note, m.points, j.value("over_name", ""), j.value("stale", "")});
        }
        if (site.contains("marks_in")) kept.reference = reference_from(site.at("marks_in"));
    } catch (const json::exception& e) {
        throw Error(ErrorCode::Format, std::string("The marks are damaged: ") + e.what(),
                    path.filename().string());
    }
    return kept;
}

}  // namespace pristine::store
