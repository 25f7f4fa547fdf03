// Scans of one file: parted into items, and joined again.

#include "core/site/scans.h"

#include "app/model/document.h"
#include "app/model/jobs.h"

namespace pristine::app {

void Document::part_by_scan(std::uint64_t id) {
    const site::ItemPtr item = site()->item(id);
    if (!item) return;
    const auto parts = std::make_shared<std::vector<io::ScanPart>>();
    const QString name = QString::fromStdString(item->name);
    jobs_->start(
        tr("Parting %1 by scan").arg(name),
        [item, parts](Progress& p) { *parts = io::parted_by_scan(*item->cloud, p); },
        [this, item, parts, name] {
            apply(tr("Part %1 by scan").arg(name), [&](const site::Site& s) {
                if (s.item(item->id) != item)
                    throw Error(ErrorCode::Usage, "The item changed meanwhile", {}, "Part it once more.");
                return site::part_scans(s, item->id, *parts);
            });
        });
}

std::vector<site::ItemPtr> Document::scans_of_group(const std::string& group) const {
    std::vector<site::ItemPtr> items;
    if (group.empty()) return items;
    for (const site::ItemPtr& i : site()->items)
        if (i->group == group && !i->cloud->triangles() &&
            !io::scan_heads(i->cloud->records()->layout()).empty())
            items.push_back(i);
    return items;
}

void Document::join_group(const std::string& group) {
    const std::vector<site::ItemPtr> items = scans_of_group(group);
    const auto cloud = std::make_shared<std::shared_ptr<const cloud::PointCloud>>();
    const QString name = QString::fromStdString(group);
    jobs_->start(
        tr("Joining the scans of %1").arg(name),
        [items, cloud](Progress& p) {
            std::vector<std::shared_ptr<const cloud::PointCloud>> clouds;
            for (const site::ItemPtr& i : items) clouds.push_back(i->cloud);
            *cloud = io::joined_scans(clouds, p);
        },
        [this, items, cloud, name] {
            apply(tr("Join %1 scans of %2").arg(items.size()).arg(name), [&](const site::Site& s) {
                site::Reach ids;
                for (const site::ItemPtr& i : items) {
                    if (s.item(i->id) != i)
                        throw Error(ErrorCode::Usage, "A scan changed meanwhile", {}, "Join them once more.");
                    ids.push_back(i->id);
                }
                return site::join_scans(s, ids, *cloud, name.toStdString());
            });
        });
}

}  // namespace pristine::app
