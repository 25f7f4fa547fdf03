#include <algorithm>
#include <map>

#include "core/site/change.h"

namespace pristine::site {
using namespace detail;
namespace {

// One entry in each item, of one number: they are one decision.
SitePtr add_entries(const Site& site, const Parts& parts, const Decision& d) {
    auto next = std::make_shared<Site>(site);
    for (ItemPtr& item : next->items) {
        const auto part = parts.find(item->id);
        if (part == parts.end()) continue;
        auto changed = std::make_shared<Item>(*item);
        changed->ledger.push_back({site.next_id, d.reason, d.cause, d.signature.who, d.signature.when, true,
                                   part->second, d.picture});
        changed->removed = std::make_shared<const ElementSet>(*changed->removed | *part->second);
        changed->refresh();
        item = std::move(changed);
    }
    next->next_id = site.next_id + 1;
    let_go(*next);
    return next;
}

}  // namespace

SitePtr remove_selection(const Site& site, const Decision& d) {
    return add_entries(site, selected_or_refuse(site), d);
}

SitePtr remove_parts(const Site& site, const Parts& parts, const Decision& d) {
    Parts some;
    for (const auto& [id, set] : parts) {
        const ItemPtr item = site.item(id);
        if (!item) throw missing("This item");
        if (SetPtr rest = set ? shared(*set & eligible(*item)) : nullptr) some[id] = std::move(rest);
    }
    if (some.empty()) throw Error(ErrorCode::Empty, "Nothing of it can be removed");
    return add_entries(site, some, d);
}

SitePtr keep_only_selection(const Site& site, const Decision& d, const Reach& reach) {
    if (site.selection.empty()) item_in_work(site);
    if (site.selection.empty() || site.of_removed)
        throw Error(ErrorCode::Usage, "Nothing is selected, so nothing would be left", {},
                    "Select what is to stay first: draw a fence.");
    Parts rest;
    const auto leave = [&](std::uint64_t id) {
        const ItemPtr item = site.item(id);
        if (!item) throw missing("This item");
        const SetPtr part = site.selection_of(id);
        if (SetPtr gone = shared(part ? eligible(*item) - *part : eligible(*item)))
            rest[id] = std::move(gone);
    };
    for (const auto& [id, part] : site.selection) leave(id);
    for (const std::uint64_t id : reach) leave(id);
    if (rest.empty()) throw Error(ErrorCode::Usage, "Everything is selected, so nothing would go");
    return add_entries(site, rest, d);
}

namespace {

bool builds_on(const LedgerEntry& later, const LedgerEntry& earlier) {
    return later.made && earlier.made && !(*later.elements & *earlier.made).empty();
}

// A repair that took what another made makes no sense without that one.
void refuse_out_of_order(const Item& item, const LedgerEntry& entry, bool active) {
    for (const LedgerEntry& e : item.ledger) {
        if (!active && e.active && builds_on(e, entry))
            throw Error(ErrorCode::Usage, "'" + e.reason + "' changed what this repair made", {},
                        "Lift that one first.");
        if (active && !e.active && builds_on(entry, e))
            throw Error(ErrorCode::Usage, "This repair changed what '" + e.reason + "' made", {},
                        "Apply that one again first.");
    }
}

}  // namespace

SitePtr put_back_selection(const Site& site, const Signature& signature) {
    if (!site.of_removed || site.selection.empty())
        throw Error(ErrorCode::Usage, "Nothing that is out is selected", {},
                    "Select among the ghosts first.");
    auto next = std::make_shared<Site>(site);
    std::map<std::uint64_t, std::uint64_t> number;  // of the rest of a decision, alike in all items
    for (ItemPtr& item : next->items) {
        const SetPtr part = site.selection_of(item->id);
        if (!part) continue;
        auto changed = std::make_shared<Item>(*item);
        std::vector<LedgerEntry> rests;
        for (LedgerEntry& e : changed->ledger) {
            if (!e.active || !e.removes() || (*e.elements & *part).empty()) continue;
            refuse_out_of_order(*changed, e, false);
            e.active = false;
            SetPtr rest = shared(*e.elements - *part);
            if (!rest) continue;
            const auto [own, fresh] = number.insert({e.id, next->next_id});
            if (fresh) ++next->next_id;
            rests.push_back({own->second, e.reason, e.cause, signature.who, signature.when, true,
                             std::move(rest), e.picture});
        }
        for (LedgerEntry& e : rests) changed->ledger.push_back(std::move(e));
        changed->refresh_removed();
        item = std::move(changed);
    }
    let_go(*next);
    return next;
}

SitePtr set_entry_active(const Site& site, std::uint64_t item_id, std::uint64_t entry_id, bool active) {
    auto next = with_item(site, item_id, [&](Item& item) {
        const LedgerEntry* entry = item.entry(entry_id);
        if (!entry) throw missing("This ledger entry");
        if (entry->edit != 0)
            throw Error(ErrorCode::Usage,
                        "'" + entry->reason + "' changed what the surface is built from: it is built again");
        refuse_out_of_order(item, *entry, active);
        for (LedgerEntry& e : item.ledger)
            if (e.id == entry_id) e.active = active;
        item.refresh_removed();
    });
    trim_selection(*next);
    return next;
}

SitePtr set_entry_reason(const Site& site, std::uint64_t item_id, std::uint64_t entry_id,
                         const std::string& reason) {
    if (reason.empty()) throw Error(ErrorCode::Usage, "A reason cannot be empty");
    return with_item(site, item_id, [&](Item& item) {
        for (LedgerEntry& e : item.ledger)
            if (e.id == entry_id) {
                e.reason = reason;
                return;
            }
        throw missing("This ledger entry");
    });
}

std::vector<ItemPtr> items_of_decision(const Site& site, std::uint64_t entry) {
    std::vector<ItemPtr> out;
    for (const ItemPtr& item : site.items)
        if (item->entry(entry)) out.push_back(item);
    return out;
}

SitePtr set_decision_active(const Site& site, std::uint64_t entry, bool active) {
    SitePtr next;
    for (const ItemPtr& item : items_of_decision(site, entry))
        if (item->entry(entry)->active != active)
            next = set_entry_active(next ? *next : site, item->id, entry, active);
    if (!next) throw missing("This ledger entry");
    return next;
}

SitePtr set_decision_reason(const Site& site, std::uint64_t entry, const std::string& reason) {
    SitePtr next;
    for (const ItemPtr& item : items_of_decision(site, entry))
        next = set_entry_reason(next ? *next : site, item->id, entry, reason);
    if (!next) throw missing("This ledger entry");
    return next;
}

SitePtr set_decisions_active(const Site& site, std::vector<std::uint64_t> entries, bool active) {
    // Numbers are drawn in the order of the decisions.
    std::sort(entries.begin(), entries.end());
    if (!active) std::reverse(entries.begin(), entries.end());
    SitePtr next;
    for (const std::uint64_t id : entries) {
        const Site& now = next ? *next : site;
        const std::vector<ItemPtr> items = items_of_decision(now, id);
        const bool other = std::any_of(items.begin(), items.end(),
                                       [&](const ItemPtr& i) { return i->entry(id)->active != active; });
        if (other) next = set_decision_active(now, id, active);
    }
    if (!next)
        throw Error(ErrorCode::Usage,
                    active ? "All of these are in force already" : "All of these are lifted already");
    return next;
}

}  // namespace pristine::site
