// What a document writes for others: items, removed parts, lines.

#include <set>

#include "app/look/theme.h"
#include "app/model/document.h"
#include "app/model/jobs.h"
#include "core/base/output.h"
#include "core/site/making.h"
#include "core/site/origin_file.h"

namespace pristine::app {

namespace fs = std::filesystem;

void Document::export_lines(const fs::path& path, bool replace) {
    const site::SitePtr s = site();
    const auto written = std::make_shared<std::size_t>(0);
    const auto odd_ones = std::make_shared<std::vector<std::string>>();
    jobs_->start(
        tr("Exporting %1").arg(QString::fromStdString(path.filename().string())),
        [=](Progress&) {
            std::vector<io::MapLine> lines;
            std::set<std::string> groups;
            for (const site::LinePtr& l : s->lines) {
                if (!l->visible) continue;
                lines.push_back({l->name, l->points, l->closed, l->role});
                groups.insert(l->group);
            }
            if (lines.empty())
                throw Error(ErrorCode::Usage, "No line is shown, so there is nothing to write", {},
                            "Show a line in the contents.");
            io::write_lines(lines, path, replace, site::reference_of(*s));
            *written = lines.size();
            for (const std::string& group : groups)
                if (const site::Making* m = site::making_of_group(*s, group))
                    if (const std::string why = site::why_stale(*s, *m); !why.empty())
                        odd_ones->push_back("'" + group + "' is out of date: " + why +
                                            ". It was written as it was made.");
        },
        [this, written, odd_ones, path] {
            emit message(tr("%n line(s) written to %1", "", static_cast<int>(*written))
                             .arg(QString::fromStdString(path.string())));
            emit wrote(path);
            if (!odd_ones->empty()) emit odd(path, *odd_ones);
        });
}

void Document::export_shown(const fs::path& path, bool replace, io::Dropped dropped,
                            const io::WriteOptions& how) {
    const site::Export what = dropped == io::Dropped::Withheld    ? site::Export::Withheld
                              : dropped == io::Dropped::Noise     ? site::Export::Noise
                              : dropped == io::Dropped::HighNoise ? site::Export::HighNoise
                                                                  : site::Export::Shown;
    export_files({what, path, replace, how, false});
}

void Document::export_removed(const fs::path& path, bool replace) {
    export_files({site::Export::Removed, path, replace, {}, false});
}

void Document::export_reasons(const fs::path& path, bool replace) {
    export_files({site::Export::Reasons, path, replace, {}, false});
}

void Document::export_files(const ExportWish& wish) {
    const site::SitePtr s = site();
    struct Done {
        std::vector<std::string> odd;
        fs::path first;
        std::uint64_t written = 0;
        int files = 0;
        bool triangles = false;
    };
    const auto done = std::make_shared<Done>();
    const bool removed = wish.what == site::Export::Removed || wish.what == site::Export::Reasons;
    jobs_->start(
        tr("Exporting %1").arg(QString::fromStdString(wish.path.filename().string())),
        [=](Progress& p) {
            std::vector<fs::path> sources;
            for (const site::ItemPtr& i : s->items)
                if (const fs::path file = site::origin_file(*i); !file.empty()) sources.push_back(file);
            OutputGroup group(sources);
            io::WriteOptions how = wish.how;
            how.replace = wish.replace;
            const auto files = site::export_files(*s, wish.what);
            for (std::size_t k = 0; k < files.size(); ++k) {
                const double all = static_cast<double>(files.size()), at = static_cast<double>(k);
                const Progress::Part part(p, at / all, (at + 1) / all, "Writing");
                const auto items = site::records_of(files[k], wish.source_classes, p);
                const fs::path file = site::file_of(wish.path, files[k]);
                if (k == 0) done->first = file;
                done->triangles = items.front().cloud->triangles() != nullptr;
                done->written += io::write_cloud(items, file, how, p);
                for (const auto& said : {io::lost_in(items, file, how), site::stale_in(*s, files[k])})
                    done->odd.insert(done->odd.end(), said.begin(), said.end());
            }
            group.commit();
            done->files = static_cast<int>(files.size());
        },
        [this, done, removed, path = wish.path] {
            const QString place = QString::fromStdString(path.string());
            const QString what = removed ? (done->triangles ? tr("%1 removed triangles were written to %2")
                                                            : tr("%1 removed points were written to %2"))
                                         : (done->triangles ? tr("%1 triangles were written to %2")
                                                            : tr("%1 points were written to %2"));
            emit message(what.arg(grouped(done->written),
                                  done->files == 1 ? place : tr("%n file(s)", "", done->files)));
            emit wrote(done->first);
            if (!done->odd.empty()) emit odd(path, done->odd);
        });
}

}  // namespace pristine::app
