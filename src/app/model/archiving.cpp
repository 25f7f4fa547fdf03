// An archive of the project beside it.

#include "app/model/document.h"
#include "app/model/jobs.h"
#include "core/base/error.h"

namespace pristine::app {

std::uint64_t Document::archive_bytes() {
    ensure_draft();
    flush();
    std::uint64_t bytes = 0;
    journal_->with_project([&](store::Project& p) { bytes = p.copy_bytes(); });
    return bytes;
}

void Document::archive(const std::filesystem::path& path, bool replace) {
    ensure_draft();
    if (!flush()) {
        emit failed(tr("The project could not be written: %1").arg(QString::fromStdString(disk().error)));
        return;
    }
    jobs_->start(
        tr("Writing the archive"),
        [this, path, replace](Progress& p) {
            p.stretch(0, 1, "Writing the archive");
            journal_->with_project([&](store::Project& project) { project.copy_to(path, replace); });
        },
        [this, path] {
            emit message(tr("Archived: %1").arg(QString::fromStdString(path.string())));
            emit wrote(path);
        });
}

}  // namespace pristine::app
