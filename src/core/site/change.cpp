#include "core/site/change.h"

namespace pristine::site::detail {

Error missing(const char* what) {
    return Error(ErrorCode::Usage, std::string(what) + " is not there any more");
}

std::shared_ptr<Site> with_item(const Site& site, std::uint64_t id,
                                const std::function<void(Item&)>& change) {
    auto next = std::make_shared<Site>(site);
    for (ItemPtr& item : next->items) {
        if (item->id != id) continue;
        auto changed = std::make_shared<Item>(*item);
        change(*changed);
        item = std::move(changed);
        return next;
    }
    throw missing("This item");
}

const Item& item_in_work(const Site& site) {
    const ItemPtr item = site.active_item();
    if (!item)
        throw Error(ErrorCode::Usage, "No item is in work", {},
                    "Open a scan, or choose one in the contents.");
    if (item->locked)
        throw Error(ErrorCode::Usage, "'" + item->name + "' is locked", {}, "Open its lock in the contents.");
    if (!item->visible)
        throw Error(ErrorCode::Usage, "'" + item->name + "' is hidden", {}, "Show it in the contents.");
    return *item;
}

SetPtr shared(ElementSet set) {
    return set.empty() ? nullptr : std::make_shared<const ElementSet>(std::move(set));
}

SetPtr outside(const cloud::PointCloud& cloud, const select::Box& box, Progress& progress) {
    const ElementSet all = ElementSet::all(cloud.size());
    return shared(all - select::inside(cloud, select::half_spaces(box), all, progress));
}

namespace {

void nothing_selected(Site& site) {
    site.selection.clear();
    site.origin = {};
    site.of_removed = false;
}

}  // namespace

void clip_item(const Site& site, Item& item) {
    const ClipBox* c = site.clip_in_force();
    if (!c) return;
    item.clipped = outside(*item.cloud, c->box, Progress::none());
    item.clip_open = c->open;
}

void trim_selection(Site& site) {
    if (site.selection.empty()) return;
    for (auto part = site.selection.begin(); part != site.selection.end();) {
        const ItemPtr item = site.item(part->first);
        SetPtr rest =
            item ? shared(*part->second & (site.of_removed ? eligible_removed(*item) : eligible(*item)))
                 : nullptr;
        if (!rest) {
            part = site.selection.erase(part);
            continue;
        }
        if (rest->count() != part->second->count()) part->second = std::move(rest);
        ++part;
    }
    if (site.selection.empty()) nothing_selected(site);
}

void let_go(Site& site) {
    if (!site.selection.empty() && !site.of_removed) {
        site.last_selection = site.selection;
        site.last_origin = site.origin;
    }
    nothing_selected(site);
}

void forget_selection(Site& site, std::uint64_t item) {
    site.selection.erase(item);
    if (site.selection.empty()) nothing_selected(site);
    site.last_selection.erase(item);
    if (site.last_selection.empty()) site.last_origin = {};
}

const Parts& selected_or_refuse(const Site& site) {
    if (site.selection.empty()) item_in_work(site);  // the better reason
    if (site.selection.empty() || site.of_removed)
        throw Error(ErrorCode::Usage, "Nothing is selected", {}, "Select something first: draw a fence.");
    return site.selection;
}

}  // namespace pristine::site::detail
