#include <algorithm>

#include "core/site/change.h"

namespace pristine::site {
using namespace detail;

namespace {

ItemPtr piece_of(const Item& from, std::uint64_t id, const std::string& name, const SetPtr& chosen) {
    auto piece = std::make_shared<Item>();
    piece->id = id;
    piece->name = name;
    piece->group = from.group;
    piece->origin = from.origin;
    piece->cloud = from.cloud;
    piece->style = from.style;
    piece->role = from.role;
    piece->unseen_classes = from.unseen_classes;
    // What was decided about the class of its points goes with them, as the same decision.
    for (const LedgerEntry& e : from.ledger)
        if (SetPtr part = e.to_class ? shared(*e.elements & *chosen) : nullptr) {
            piece->ledger.push_back(e);
            piece->ledger.back().elements = std::move(part);
        }
    piece->removed = std::make_shared<const ElementSet>(from.cloud->size());
    piece->scope = chosen;
    piece->clipped = from.clipped;
    piece->clip_open = from.clip_open;
    piece->refresh();
    return piece;
}

}  // namespace

SitePtr set_apart(const Site& site, const std::string& name, bool move) {
    const Parts& chosen = selected_or_refuse(site);
    if (name.empty()) throw Error(ErrorCode::Usage, "A name cannot be empty");
    auto next = std::make_shared<Site>(site);
    for (const auto& [id, part] : chosen) {
        const ItemPtr from = site.item(id);
        if (!from) throw missing("This item");
        if (move && (~*from->absent - *part).empty())
            throw Error(
                ErrorCode::Usage,
                "Everything that is shown of '" + from->name + "' is selected, so nothing would be left", {},
                "Copy it, or duplicate the item.");
        next->items.push_back(
            piece_of(*from, next->next_id++, chosen.size() == 1 ? name : name + " of " + from->name, part));
        if (!move) continue;
        next = with_item(*next, id, [&, &out = part](Item& item) {
            const ElementSet all = item.scope ? *item.scope : ElementSet::all(item.cloud->size());
            item.scope = std::make_shared<const ElementSet>(all - *out);
            item.refresh();
        });
    }
    let_go(*next);
    return next;
}

SitePtr merge_items(const Site& site, std::uint64_t into, std::uint64_t from) {
    const ItemPtr a = site.item(into), b = site.item(from);
    if (!a || !b || a == b) throw missing("One of the two items");
    if (a->locked || b->locked)
        throw Error(ErrorCode::Usage, "One of the two is locked", {}, "Open its lock in the contents.");
    if (a->cloud != b->cloud)
        throw Error(ErrorCode::Unsupported,
                    "'" + a->name + "' and '" + b->name + "' come from different files", {},
                    "Pieces of one file can be put together; different files are put together on export.");
    std::uint64_t id = site.next_id;
    auto next = with_item(site, into, [&](Item& item) {
        const ElementSet everything = ElementSet::all(item.cloud->size());
        const ElementSet sa = a->scope ? *a->scope : everything, sb = b->scope ? *b->scope : everything;
        // What is out of the one stays out only where the other does not have it.
        const ElementSet shown = (sa - *a->removed) | (sb - *b->removed);
        item.scope = (sa | sb) == everything ? nullptr : std::make_shared<const ElementSet>(sa | sb);
        for (const LedgerEntry& e : b->ledger) {
            const auto same =
                std::find_if(item.ledger.begin(), item.ledger.end(), [&](const LedgerEntry& own) {
                    return e.to_class && own.id == e.id && own.active == e.active;
                });
            if (same != item.ledger.end()) {
                same->elements = std::make_shared<const ElementSet>(*same->elements | *e.elements);
                continue;
            }
            item.ledger.push_back(e);
            item.ledger.back().id = id++;
        }
        for (LedgerEntry& e : item.ledger)
            if (e.active && e.removes() && !(*e.elements & shown).empty())
                e.elements = std::make_shared<const ElementSet>(*e.elements - shown);
        std::erase_if(item.ledger, [](const LedgerEntry& e) { return e.elements->empty(); });
        for (const Guard& g : b->guards) item.guards.push_back({id++, g.name, g.elements});
        for (const KeptSelection& k : b->kept) item.kept.push_back({id++, k.name, k.elements});
        if (b->hidden)
            item.hidden =
                item.hidden ? std::make_shared<const ElementSet>(*item.hidden | *b->hidden) : b->hidden;
        item.refresh_removed();
    });
    next->next_id = id;
    std::erase_if(next->items, [&](const ItemPtr& i) { return i->id == from; });
    forget_selection(*next, from);
    if (next->active == from) next->active = into;
    return next;
}

}  // namespace pristine::site
