// What is shown as one new item: points through a file, triangles joined at their open edges.

#include <unistd.h>

#include <QLocale>
#include <algorithm>

#include "app/look/lengths.h"
#include "app/look/theme.h"
#include "app/model/document.h"
#include "app/model/jobs.h"
#include "core/io/cloud_io.h"
#include "core/io/keep.h"
#include "core/io/mesh/merge_clouds.h"
#include "core/site/item_classes.h"

namespace pristine::app {

namespace fs = std::filesystem;

// One new item in place of those that are shown.
void Document::put_merged(const site::SitePtr& before, const std::shared_ptr<const cloud::PointCloud>& cloud,
                          const QString& title) {
    apply(title, [&](const site::Site& now) {
        if (&now != before.get())
            throw Error(ErrorCode::Usage, "Something changed meanwhile", {}, "Merge once more.");
        site::SitePtr next =
            site::add_cloud(now, cloud, tr("Merged").toStdString(), "merged from what was shown");
        const std::uint64_t fresh = next->items.back()->id;
        for (const site::ItemPtr& item : now.items)
            if (item->visible) next = site::set_visible(*next, item->id, false);
        return site::activate(*next, fresh);
    });
}

void Document::merge_meshes(double tolerance) {
    const site::SitePtr s = site();
    const auto result = std::make_shared<io::MergedClouds>();
    jobs_->start(
        tr("Merging"),
        [=](Progress& p) {
            std::vector<io::MergePart> parts;
            for (const site::ItemPtr& item : s->items)
                if (item->visible) parts.push_back({item->cloud, ~*item->absent});
            *result = io::merged_clouds(parts, tolerance, p);
        },
        [this, s, result] {
            const Lengths l(*s);
            put_merged(s, result->cloud,
                       tr("Merge %1 triangles into one item").arg(grouped(result->cloud->size())));
            QString text =
                tr("%1 vertices joined, %2 put into edges; none moved farther than %3.")
                    .arg(grouped(result->joined), grouped(result->split), l.spread(result->farthest));
            if (result->overlapping > 0)
                text +=
                    tr(" %n triangle(s) lie over or under another surface: the result is a mesh, no terrain.",
                       "", static_cast<int>(result->overlapping));
            emit message(text);
        });
}

void Document::merge_shown(double tolerance) {
    const site::SitePtr s = site();
    if (std::any_of(s->items.begin(), s->items.end(),
                    [](const site::ItemPtr& i) { return i->visible && i->cloud->triangles(); }))
        return merge_meshes(tolerance);
    const auto result = std::make_shared<io::ReadResult>();
    jobs_->start(
        tr("Merging"),
        [=](Progress& p) {
            std::vector<io::WriteItem> items;
            for (const site::ItemPtr& item : s->items) {
                if (!item->visible) continue;
                items.push_back({item->cloud, item->absent->empty()
                                                  ? nullptr
                                                  : io::keep_all_but(*item->cloud, *item->absent, p)});
                items.back().classes = site::classes_by_record(*item, p);
            }
            // The file is gone at once; its descriptor lives until the project has the records.
            const fs::path beside =
                fs::temp_directory_path() / ("pristine-merge-" + std::to_string(::getpid()) + ".las");
            io::WriteOptions options;
            options.replace = true;
            try {
                io::write_cloud(items, beside, options, p);
                *result = io::read_cloud(beside, {}, p);
            } catch (...) {
                std::error_code ignored;
                fs::remove(beside, ignored);
                throw;
            }
            fs::remove(beside);
        },
        [this, s, result] {
            put_merged(s, result->cloud,
                       tr("Merge %1 points into one item").arg(grouped(result->cloud->size())));
        });
}

}  // namespace pristine::app
