#include <algorithm>

#include "core/site/change.h"

namespace pristine::site {
using namespace detail;

ElementSet eligible(const Item& item) {
    if (!item.visible || item.locked) return ElementSet(item.cloud->size());
    ElementSet all = item.clip_open && item.clipped ? item.but_for_clip() : ~*item.absent;
    return item.guarded ? all - *item.guarded : all;
}

ElementSet eligible_removed(const Item& item) {
    if (!item.visible || item.locked) return ElementSet(item.cloud->size());
    // What a lifted repair made comes back with that repair only.
    return item.scope ? item.taken() & *item.scope : item.taken();
}

std::vector<std::uint64_t> reach_of(const Site& site, bool all_shown) {
    std::vector<std::uint64_t> ids;
    if (!all_shown) {
        if (site.active_item()) ids.push_back(site.active);
        return ids;
    }
    for (const ItemPtr& i : site.items)
        if (i->visible && !i->locked) ids.push_back(i->id);
    return ids;
}

std::uint64_t count_of(const Parts& parts) {
    std::uint64_t n = 0;
    for (const auto& [id, set] : parts) n += set ? set->count() : 0;
    return n;
}

SetPtr Site::selection_of(std::uint64_t id) const {
    const auto part = selection.find(id);
    return part == selection.end() ? nullptr : part->second;
}

namespace {

Origin joined(const Origin& before, const Origin& fresh, Combine how) {
    if (fresh.cause.empty() && before.cause.empty()) return before;
    // What nobody knows the cause of took part all the same: the other did not make it alone.
    const auto known = [](const Cause& c) { return c.empty() ? by({}) : c; };
    return {combined(known(before.cause), known(fresh.cause), how),
            before.reason.empty() ? fresh.reason : before.reason};
}

SetPtr combined_set(const SetPtr& before, const ElementSet& fresh, Combine how) {
    switch (how) {
        case Combine::New:
            return shared(fresh);
        case Combine::Add:
            return shared(before ? *before | fresh : fresh);
        case Combine::TakeAway:
            return before ? shared(*before - fresh) : nullptr;
        case Combine::Both:
            return before ? shared(*before & fresh) : nullptr;
    }
    return nullptr;
}

SitePtr combined(const Site& site, const Parts& fresh, Combine how, bool of_removed, const Origin& origin) {
    const bool goes_on = !site.selection.empty() && site.of_removed == of_removed;
    const Parts before = goes_on ? site.selection : Parts();
    Parts after = how == Combine::New ? Parts() : before;
    for (const auto& [id, set] : fresh) {
        const ItemPtr item = site.item(id);
        if (!item) throw missing("This item");
        const ElementSet nothing(item->cloud->size());
        const auto part = before.find(id);
        SetPtr now = combined_set(
            part == before.end() ? nullptr : part->second,
            set ? *set & (of_removed ? eligible_removed(*item) : eligible(*item)) : nothing, how);
        if (now)
            after[id] = std::move(now);
        else
            after.erase(id);
    }
    auto next = std::make_shared<Site>(site);
    if (!goes_on) let_go(*next);
    next->origin = how == Combine::New || before.empty() ? origin : joined(site.origin, origin, how);
    next->selection = std::move(after);
    next->of_removed = of_removed && !next->selection.empty();
    if (next->selection.empty()) next->origin = {};
    return next;
}

Parts of_item_in_work(const Site& site, const ElementSet& set) {
    return {{item_in_work(site).id, std::make_shared<const ElementSet>(set)}};
}

}  // namespace

SitePtr select(const Site& site, const Parts& sets, Combine how, const Origin& origin) {
    return combined(site, sets, how, false, origin);
}

SitePtr select(const Site& site, const ElementSet& set, Combine how, const Origin& origin) {
    return combined(site, of_item_in_work(site, set), how, false, origin);
}

SitePtr select_removed(const Site& site, const Parts& sets, Combine how, const Origin& origin) {
    return combined(site, sets, how, true, origin);
}

SitePtr select_removed(const Site& site, const ElementSet& set, Combine how, const Origin& origin) {
    return combined(site, of_item_in_work(site, set), how, true, origin);
}

SitePtr set_origin(const Site& site, const Origin& origin) {
    if (site.selection.empty()) throw Error(ErrorCode::Usage, "Nothing is selected");
    auto next = std::make_shared<Site>(site);
    next->origin = origin;
    return next;
}

SitePtr clear_selection(const Site& site) {
    auto next = std::make_shared<Site>(site);
    let_go(*next);
    return next;
}

SitePtr reselect(const Site& site) {
    if (site.last_selection.empty()) throw Error(ErrorCode::Usage, "Nothing was selected before");
    Parts last;
    for (const auto& [id, set] : site.last_selection)
        if (site.item(id)) last[id] = set;
    return select(site, last, Combine::New, site.last_origin);
}

SitePtr keep_selection(const Site& site, const std::string& name) {
    if (name.empty()) throw Error(ErrorCode::Usage, "A name cannot be empty");
    const Parts& parts = selected_or_refuse(site);
    auto next = std::make_shared<Site>(site);
    for (ItemPtr& item : next->items) {
        const auto part = parts.find(item->id);
        if (part == parts.end()) continue;
        auto changed = std::make_shared<Item>(*item);
        std::erase_if(changed->kept, [&](const KeptSelection& k) { return k.name == name; });
        changed->kept.push_back({site.next_id, name, part->second, site.origin});
        item = std::move(changed);
    }
    next->next_id = site.next_id + 1;
    return next;
}

SitePtr use_kept(const Site& site, std::uint64_t id, Combine how) {
    Parts parts;
    const KeptSelection* first = nullptr;
    for (const ItemPtr& item : site.items)
        for (const KeptSelection& k : item->kept)
            if (k.id == id) {
                parts[item->id] = k.elements;
                if (!first) first = &k;
            }
    if (!first) throw missing("This selection");
    if (parts.size() == 1 && parts.contains(site.active)) item_in_work(site);  // says why it cannot be used
    return select(
        site, parts, how,
        {wrapped(first->origin.cause, Act::Kind::Kept, {}, {{"name", first->name}}), first->origin.reason});
}

SitePtr drop_kept(const Site& site, std::uint64_t id) {
    auto next = std::make_shared<Site>(site);
    bool any = false;
    for (ItemPtr& item : next->items) {
        if (std::none_of(item->kept.begin(), item->kept.end(), [&](const auto& k) { return k.id == id; }))
            continue;
        auto changed = std::make_shared<Item>(*item);
        std::erase_if(changed->kept, [&](const KeptSelection& k) { return k.id == id; });
        item = std::move(changed);
        any = true;
    }
    if (!any) throw missing("This selection");
    return next;
}

SitePtr rename_kept(const Site& site, std::uint64_t id, const std::string& name) {
    if (name.empty()) throw Error(ErrorCode::Usage, "A selection cannot have an empty name");
    auto next = std::make_shared<Site>(site);
    bool any = false;
    for (ItemPtr& item : next->items) {
        auto changed = std::make_shared<Item>(*item);
        bool own = false;
        for (KeptSelection& k : changed->kept)
            if (k.id == id) k.name = name, own = true;
        if (own) item = std::move(changed);
        any |= own;
    }
    if (!any) throw missing("This selection");
    return next;
}

SitePtr invert_selection(const Site& site, const Reach& reach) {
    const Origin inverted{
        site.origin.cause.empty() ? Cause() : wrapped(site.origin.cause, Act::Kind::Inverse),
        site.origin.reason};
    Parts rest;
    for (const std::uint64_t id : reach.empty() ? Reach{item_in_work(site).id} : reach) {
        const ItemPtr item = site.item(id);
        if (!item) throw missing("This item");
        ElementSet all = site.of_removed ? eligible_removed(*item) : eligible(*item);
        if (const SetPtr part = site.selection_of(id)) all = all - *part;
        rest[id] = std::make_shared<const ElementSet>(std::move(all));
    }
    return combined(site, rest, Combine::New, site.of_removed, inverted);
}

}  // namespace pristine::site
