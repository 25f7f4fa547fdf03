#include <algorithm>

#include "core/site/change.h"

namespace pristine::site {
using namespace detail;

const ClipBox* Site::clip_in_force() const {
    for (const ClipBox& c : clips)
        if (c.id == clip) return &c;
    return nullptr;
}

namespace {

SitePtr hide(const Site& site, const Parts& sets) {
    auto next = std::make_shared<Site>(site);
    for (ItemPtr& item : next->items) {
        const auto part = sets.find(item->id);
        if (part == sets.end()) continue;
        auto changed = std::make_shared<Item>(*item);
        changed->hidden = shared(item->hidden ? *item->hidden | *part->second : *part->second);
        changed->refresh();
        item = std::move(changed);
    }
    let_go(*next);
    return next;
}

}  // namespace

SitePtr hide_selection(const Site& site) {
    return hide(site, selected_or_refuse(site));
}

SitePtr show_only_selection(const Site& site, const Reach& reach) {
    const Parts& chosen = selected_or_refuse(site);
    Parts rest;
    const auto leave = [&](std::uint64_t id) {
        const ItemPtr item = site.item(id);
        if (!item) throw missing("This item");
        const SetPtr part = site.selection_of(id);
        rest[id] = std::make_shared<const ElementSet>(part ? ~*item->absent - *part : ~*item->absent);
    };
    for (const auto& [id, part] : chosen) leave(id);
    for (const std::uint64_t id : reach) leave(id);
    return hide(site, rest);
}

SitePtr show_all(const Site& site, std::uint64_t id) {
    return with_item(site, id, [&](Item& item) {
        if (!item.hidden) throw Error(ErrorCode::Usage, "Nothing of '" + item.name + "' is hidden");
        item.hidden = nullptr;
        item.refresh();
    });
}

namespace {

// Gives every item what is outside the box, or nothing without one.
std::shared_ptr<Site> clipped_to(const Site& site, const ClipBox* clip, Progress& progress) {
    auto next = std::make_shared<Site>(site);
    std::vector<std::pair<const cloud::PointCloud*, SetPtr>> known;
    for (ItemPtr& item : next->items) {
        auto changed = std::make_shared<Item>(*item);
        changed->clipped = nullptr;
        changed->clip_open = clip && clip->open;
        if (clip) {
            auto k = std::find_if(known.begin(), known.end(),
                                  [&](const auto& p) { return p.first == item->cloud.get(); });
            if (k == known.end())
                k = known.insert(known.end(),
                                 {item->cloud.get(), outside(*item->cloud, clip->box, progress)});
            changed->clipped = k->second;
        }
        changed->refresh();
        item = std::move(changed);
    }
    return next;
}

}  // namespace

SitePtr use_clip(const Site& site, const ClipBox& clip, Progress& progress) {
    for (int a = 0; a < 3; ++a)
        if (!(clip.box.half[a] > 0))
            throw Error(ErrorCode::Usage, "A clip box needs a size along every axis");
    auto next = clipped_to(site, &clip, progress);
    ClipBox kept = clip;
    if (kept.id == 0) kept.id = next->next_id++;
    std::erase_if(next->clips, [&](const ClipBox& c) { return c.id == kept.id; });
    next->clips.push_back(kept);
    next->clip = kept.id;
    trim_selection(*next);
    return next;
}

SitePtr clear_clip(const Site& site) {
    if (site.clip == 0) throw Error(ErrorCode::Usage, "No clip box is in force");
    auto next = clipped_to(site, nullptr, Progress::none());
    next->clip = 0;
    return next;
}

SitePtr open_clip(const Site& site, bool open) {
    if (site.clip == 0) throw Error(ErrorCode::Usage, "No clip box is in force");
    auto next = std::make_shared<Site>(site);
    for (ClipBox& c : next->clips)
        if (c.id == next->clip) c.open = open;
    for (ItemPtr& item : next->items) {
        auto changed = std::make_shared<Item>(*item);
        changed->clip_open = open;
        item = std::move(changed);
    }
    trim_selection(*next);
    return next;
}

SitePtr drop_clip(const Site& site, std::uint64_t id) {
    std::shared_ptr<Site> next =
        site.clip == id ? clipped_to(site, nullptr, Progress::none()) : std::make_shared<Site>(site);
    if (next->clip == id) next->clip = 0;
    if (std::erase_if(next->clips, [&](const ClipBox& c) { return c.id == id; }) == 0)
        throw missing("This clip box");
    return next;
}

SitePtr guard(const Site& site, const Parts& parts, const std::string& name) {
    if (count_of(parts) == 0) throw Error(ErrorCode::Usage, "There is nothing to guard");
    auto next = std::make_shared<Site>(site);
    for (ItemPtr& item : next->items) {
        const auto part = parts.find(item->id);
        if (part == parts.end() || !part->second || part->second->empty()) continue;
        auto changed = std::make_shared<Item>(*item);
        changed->guards.push_back({site.next_id, name, part->second});
        changed->refresh();
        item = std::move(changed);
    }
    next->next_id = site.next_id + 1;
    trim_selection(*next);
    return next;
}

SitePtr guard(const Site& site, const ElementSet& set, const std::string& name) {
    return guard(site, Parts{{item_in_work(site).id, std::make_shared<const ElementSet>(set)}}, name);
}

SitePtr lift_guard(const Site& site, std::uint64_t item_id, std::uint64_t id) {
    return with_item(site, item_id, [&](Item& item) {
        if (std::erase_if(item.guards, [&](const Guard& g) { return g.id == id; }) == 0)
            throw missing("This guard");
        item.refresh();
    });
}

}  // namespace pristine::site
