#include "core/site/site.h"

#include <fmt/chrono.h>
#include <pwd.h>
#include <unistd.h>

#include <algorithm>
#include <functional>

#include "core/base/error.h"

namespace pristine::site {
namespace {

SetPtr union_of_active(const Item& item) {
    ElementSet out(item.cloud->size());
    for (const LedgerEntry& e : item.ledger)
        if (e.active) out = out | *e.elements;
    return std::make_shared<const ElementSet>(std::move(out));
}

Error missing(const char* what) {
    return Error(ErrorCode::Usage, std::string(what) + " is not there any more");
}

// A copy of the site in which one item is replaced by a changed copy of itself.
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

// Law 3: after a change of what is out, shown or locked, the selection may hold too much.
void trim_selection(Site& site) {
    if (!site.selection) return;
    const ItemPtr item = site.active_item();
    if (!item) {
        site.selection = nullptr;
        return;
    }
    ElementSet rest = *site.selection & eligible(*item);
    site.selection = rest.empty() ? nullptr : std::make_shared<const ElementSet>(std::move(rest));
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

SitePtr add_entry(const Site& site, ElementSet elements, const Decision& d) {
    auto next = with_item(site, site.active, [&](Item& item) {
        item.ledger.push_back({site.next_id, d.reason, d.how, d.signature.who, d.signature.when, true,
                               std::make_shared<const ElementSet>(std::move(elements)), d.picture});
        item.removed = std::make_shared<const ElementSet>(*item.removed | *item.ledger.back().elements);
    });
    next->next_id = site.next_id + 1;
    next->selection = nullptr;
    return next;
}

}  // namespace

const LedgerEntry* Item::entry(std::uint64_t entry_id) const {
    for (const LedgerEntry& e : ledger)
        if (e.id == entry_id) return &e;
    return nullptr;
}

std::vector<std::string> Item::reasons() const {
    std::vector<std::string> out;
    for (const LedgerEntry& e : ledger)
        if (e.active && std::find(out.begin(), out.end(), e.reason) == out.end()) out.push_back(e.reason);
    return out;
}

ElementSet Item::out_for(const std::string& reason) const {
    ElementSet out(cloud->size());
    for (const LedgerEntry& e : ledger)
        if (e.active && e.reason == reason) out = out | *e.elements;
    return out;
}

ItemPtr Site::item(std::uint64_t id) const {
    for (const ItemPtr& i : items)
        if (i->id == id) return i;
    return nullptr;
}

Signature Signature::now() {
    Signature s;
    const passwd* user = ::getpwuid(::getuid());
    s.who = user && user->pw_name ? user->pw_name : "unknown";
    s.when = fmt::format("{:%Y-%m-%dT%H:%M:%S}", fmt::localtime(std::time(nullptr)));
    return s;
}

SitePtr add_cloud(const Site& site, std::shared_ptr<const cloud::PointCloud> cloud, const std::string& name,
                  const std::string& origin) {
    auto next = std::make_shared<Site>(site);
    auto item = std::make_shared<Item>();
    item->id = next->next_id++;
    item->name = name;
    item->origin = origin;
    item->removed = std::make_shared<const ElementSet>(cloud->size());
    item->style.colour_by = cloud->colour()      ? ColourBy::Rgb
                            : cloud->intensity() ? ColourBy::Intensity
                                                 : ColourBy::Height;
    item->cloud = std::move(cloud);
    if (next->active == 0) next->active = item->id;
    next->items.push_back(std::move(item));
    return next;
}

SitePtr activate(const Site& site, std::uint64_t id) {
    if (!site.item(id)) throw missing("This item");
    auto next = std::make_shared<Site>(site);
    if (next->active != id) next->selection = nullptr;
    next->active = id;
    return next;
}

SitePtr set_visible(const Site& site, std::uint64_t id, bool visible) {
    auto next = with_item(site, id, [&](Item& i) { i.visible = visible; });
    trim_selection(*next);
    return next;
}

SitePtr set_locked(const Site& site, std::uint64_t id, bool locked) {
    auto next = with_item(site, id, [&](Item& i) { i.locked = locked; });
    trim_selection(*next);
    return next;
}

SitePtr rename_item(const Site& site, std::uint64_t id, const std::string& name) {
    if (name.empty()) throw Error(ErrorCode::Usage, "A name cannot be empty");
    return with_item(site, id, [&](Item& i) { i.name = name; });
}

SitePtr set_group(const Site& site, std::uint64_t id, const std::string& group) {
    return with_item(site, id, [&](Item& i) { i.group = group; });
}

SitePtr set_group_visible(const Site& site, const std::string& group, bool visible) {
    SitePtr next = std::make_shared<Site>(site);
    for (const ItemPtr& item : site.items)
        if (item->group == group && item->visible != visible) next = set_visible(*next, item->id, visible);
    return next;
}

SitePtr set_style(const Site& site, std::uint64_t id, const Style& style) {
    return with_item(site, id, [&](Item& i) { i.style = style; });
}

SitePtr duplicate_item(const Site& site, std::uint64_t id) {
    const ItemPtr item = site.item(id);
    if (!item) throw missing("This item");
    auto next = std::make_shared<Site>(site);
    auto copy = std::make_shared<Item>(*item);
    copy->id = next->next_id++;
    copy->name += " copy";
    for (LedgerEntry& e : copy->ledger) e.id = next->next_id++;
    next->items.push_back(std::move(copy));
    return next;
}

SitePtr drop_item(const Site& site, std::uint64_t id) {
    if (!site.item(id)) throw missing("This item");
    auto next = std::make_shared<Site>(site);
    std::erase_if(next->items, [&](const ItemPtr& i) { return i->id == id; });
    if (next->active == id) {
        next->active = next->items.empty() ? 0 : next->items.front()->id;
        next->selection = nullptr;
    }
    return next;
}

ElementSet eligible(const Item& item) {
    if (!item.visible || item.locked) return ElementSet(item.cloud->size());
    return ~*item.removed;
}

SitePtr select(const Site& site, const ElementSet& set, Combine how) {
    const Item& item = item_in_work(site);
    const ElementSet fresh = set & eligible(item);
    const ElementSet before = site.selection ? *site.selection : ElementSet(item.cloud->size());
    ElementSet after = how == Combine::New        ? fresh
                       : how == Combine::Add      ? before | fresh
                       : how == Combine::TakeAway ? before - fresh
                                                  : before & fresh;
    auto next = std::make_shared<Site>(site);
    next->selection = after.empty() ? nullptr : std::make_shared<const ElementSet>(std::move(after));
    return next;
}

SitePtr clear_selection(const Site& site) {
    auto next = std::make_shared<Site>(site);
    next->selection = nullptr;
    return next;
}

SitePtr invert_selection(const Site& site) {
    const Item& item = item_in_work(site);
    ElementSet rest = eligible(item);
    if (site.selection) rest = rest - *site.selection;
    return select(site, rest, Combine::New);
}

SitePtr remove_selection(const Site& site, const Decision& d) {
    item_in_work(site);
    if (site.selected() == 0)
        throw Error(ErrorCode::Usage, "Nothing is selected", {}, "Select something first: draw a fence.");
    return add_entry(site, *site.selection, d);
}

SitePtr keep_only_selection(const Site& site, const Decision& d) {
    const Item& item = item_in_work(site);
    if (site.selected() == 0)
        throw Error(ErrorCode::Usage, "Nothing is selected, so nothing would be left", {},
                    "Select what is to stay first: draw a fence.");
    ElementSet rest = eligible(item) - *site.selection;
    if (rest.empty()) throw Error(ErrorCode::Usage, "Everything is selected, so nothing would go");
    return add_entry(site, std::move(rest), d);
}

SitePtr set_entry_active(const Site& site, std::uint64_t item_id, std::uint64_t entry_id, bool active) {
    auto next = with_item(site, item_id, [&](Item& item) {
        bool found = false;
        for (LedgerEntry& e : item.ledger)
            if (e.id == entry_id) {
                e.active = active;
                found = true;
            }
        if (!found) throw missing("This ledger entry");
        item.removed = union_of_active(item);
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

}  // namespace pristine::site
