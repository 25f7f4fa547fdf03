#include "core/site/site.h"

#include <fmt/chrono.h>
#include <pwd.h>
#include <unistd.h>

#include <algorithm>
#include <chrono>
#include <functional>
#include <regex>

#include "core/base/error.h"
#include "core/base/units.h"

namespace pristine::site {
namespace {

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
    ElementSet rest = *site.selection & (site.of_removed ? eligible_removed(*item) : eligible(*item));
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

SetPtr shared(ElementSet set) {
    return set.empty() ? nullptr : std::make_shared<const ElementSet>(std::move(set));
}

SetPtr outside(const cloud::PointCloud& cloud, const select::Box& box, Progress& progress) {
    const ElementSet all = ElementSet::all(cloud.size());
    return shared(all - select::inside(cloud, select::half_spaces(box), all, progress));
}

// The selection is empty from now on, and can be had again.
void let_go(Site& site) {
    if (site.selection && !site.of_removed) {
        site.last_selection = site.selection;
        site.last_origin = site.origin;
    }
    site.selection = nullptr;
    site.origin = {};
    site.of_removed = false;
}

SitePtr add_entry(const Site& site, ElementSet elements, const Decision& d) {
    auto next = with_item(site, site.active, [&](Item& item) {
        item.ledger.push_back({site.next_id, d.reason, d.cause, d.signature.who, d.signature.when, true,
                               std::make_shared<const ElementSet>(std::move(elements)), d.picture});
        item.removed = std::make_shared<const ElementSet>(*item.removed | *item.ledger.back().elements);
        item.refresh();
    });
    next->next_id = site.next_id + 1;
    let_go(*next);
    return next;
}

const ElementSet& selected_or_refuse(const Site& site) {
    item_in_work(site);
    if (site.selected() == 0 || site.of_removed)
        throw Error(ErrorCode::Usage, "Nothing is selected", {}, "Select something first: draw a fence.");
    return *site.selection;
}

}  // namespace

const LedgerEntry* Item::entry(std::uint64_t entry_id) const {
    for (const LedgerEntry& e : ledger)
        if (e.id == entry_id) return &e;
    return nullptr;
}

void Item::refresh() {
    absent = removed;
    if (hidden) absent = std::make_shared<const ElementSet>(*absent | *hidden);
    if (clipped) absent = std::make_shared<const ElementSet>(*absent | *clipped);
    if (scope) absent = std::make_shared<const ElementSet>(*absent | ~*scope);
    guarded = nullptr;
    for (const Guard& g : guards)
        guarded = guarded ? std::make_shared<const ElementSet>(*guarded | *g.elements) : g.elements;
}

ElementSet Item::taken() const {
    ElementSet out(cloud->size());
    for (const LedgerEntry& e : ledger)
        if (e.active) out = out | *e.elements;
    return out;
}

ElementSet Item::made() const {
    ElementSet out(cloud->size());
    for (const LedgerEntry& e : ledger)
        if (e.made) out = out | *e.made;
    return out;
}

void Item::refresh_removed() {
    ElementSet out = taken();
    for (const LedgerEntry& e : ledger)
        if (!e.active && e.made) out = out | *e.made;
    removed = std::make_shared<const ElementSet>(std::move(out));
    refresh();
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

const ClipBox* Site::clip_in_force() const {
    for (const ClipBox& c : clips)
        if (c.id == clip) return &c;
    return nullptr;
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
    item->date = date_in(name);
    item->removed = std::make_shared<const ElementSet>(cloud->size());
    // A column of equal intensities shows nothing.
    const auto [dark, bright] = cloud->intensity_range();
    item->style.colour_by = cloud->colour()                       ? ColourBy::Rgb
                            : cloud->intensity() && dark < bright ? ColourBy::Intensity
                                                                  : ColourBy::Height;
    if (cloud->attributes() && cloud->attributes()->coloured()) item->style.faces = Faces::Solid;
    item->cloud = std::move(cloud);
    if (const ClipBox* c = site.clip_in_force())
        item->clipped = outside(*item->cloud, c->box, Progress::none());
    item->refresh();
    if (next->active == 0) next->active = item->id;
    next->items.push_back(std::move(item));
    return next;
}

SitePtr activate(const Site& site, std::uint64_t id) {
    if (!site.item(id)) throw missing("This item");
    auto next = std::make_shared<Site>(site);
    if (next->active != id) {
        next->selection = next->last_selection = nullptr;
        next->origin = next->last_origin = {};
        next->of_removed = false;
    }
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

SitePtr set_date(const Site& site, std::uint64_t id, const std::string& date) {
    if (!date.empty() && date_in(date) != date)
        throw Error(ErrorCode::Usage, "'" + date + "' is no date", {}, "Write it as 2026-11-25.");
    return with_item(site, id, [&](Item& i) { i.date = date; });
}

SitePtr set_placement(const Site& site, std::uint64_t id, std::vector<double> rows) {
    if (!rows.empty() && rows.size() != 16) throw Error(ErrorCode::Usage, "A move has sixteen numbers");
    return with_item(site, id, [&](Item& i) { i.placement = std::move(rows); });
}

SitePtr set_features(const Site& site, std::uint64_t id, std::vector<Feature> features) {
    return with_item(site, id, [&](Item& i) { i.features = std::move(features); });
}

SitePtr set_drape(const Site& site, std::uint64_t id, std::shared_ptr<const surface::Orthophoto> picture) {
    return with_item(site, id, [&](Item& i) {
        if (picture && !i.cloud->triangles())
            throw Error(ErrorCode::Usage, "A picture is draped on triangles; this item is made of points");
        i.drape = std::move(picture);
    });
}

std::string date_in(const std::string& name) {
    static const std::regex form(R"((?:^|[^0-9])(\d{4})([-_. ]?)(\d{2})\2(\d{2})(?![0-9]))");
    for (std::sregex_iterator m(name.begin(), name.end(), form), end; m != end; ++m) {
        const int y = std::stoi((*m)[1]), mo = std::stoi((*m)[3]), d = std::stoi((*m)[4]);
        const std::chrono::year_month_day day{std::chrono::year(y),
                                              std::chrono::month(static_cast<unsigned>(mo)),
                                              std::chrono::day(static_cast<unsigned>(d))};
        if (y >= 1950 && y < 2100 && day.ok())
            return (*m)[1].str() + "-" + (*m)[3].str() + "-" + (*m)[4].str();
    }
    return {};
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
    for (Guard& g : copy->guards) g.id = next->next_id++;
    for (KeptSelection& k : copy->kept) k.id = next->next_id++;
    next->items.push_back(std::move(copy));
    return next;
}

SitePtr drop_item(const Site& site, std::uint64_t id) {
    if (!site.item(id)) throw missing("This item");
    auto next = std::make_shared<Site>(site);
    std::erase_if(next->items, [&](const ItemPtr& i) { return i->id == id; });
    if (next->active == id) {
        next->active = next->items.empty() ? 0 : next->items.front()->id;
        next->selection = next->last_selection = nullptr;
        next->origin = next->last_origin = {};
        next->of_removed = false;
    }
    return next;
}

ElementSet eligible(const Item& item) {
    if (!item.visible || item.locked) return ElementSet(item.cloud->size());
    ElementSet all = ~*item.absent;
    return item.guarded ? all - *item.guarded : all;
}

ElementSet eligible_removed(const Item& item) {
    if (!item.visible || item.locked) return ElementSet(item.cloud->size());
    // What a lifted repair made comes back with that repair only.
    return item.scope ? item.taken() & *item.scope : item.taken();
}

namespace {

Origin joined(const Origin& before, const Origin& fresh, Combine how) {
    if (fresh.cause.empty() && before.cause.empty()) return before;
    // What nobody knows the cause of took part all the same: the other did not make it alone.
    const auto known = [](const Cause& c) { return c.empty() ? by({}) : c; };
    return {combined(known(before.cause), known(fresh.cause), how),
            before.reason.empty() ? fresh.reason : before.reason};
}

SitePtr combined(const Site& site, const ElementSet& set, Combine how, bool of_removed,
                 const Origin& origin) {
    const Item& item = item_in_work(site);
    const ElementSet fresh = set & (of_removed ? eligible_removed(item) : eligible(item));
    const bool goes_on = site.selection && site.of_removed == of_removed;
    const ElementSet before = goes_on ? *site.selection : ElementSet(item.cloud->size());
    ElementSet after = how == Combine::New        ? fresh
                       : how == Combine::Add      ? before | fresh
                       : how == Combine::TakeAway ? before - fresh
                                                  : before & fresh;
    auto next = std::make_shared<Site>(site);
    if (!goes_on) let_go(*next);
    next->origin = how == Combine::New || before.empty() ? origin : joined(site.origin, origin, how);
    next->selection = shared(std::move(after));
    next->of_removed = of_removed && next->selection;
    if (!next->selection) next->origin = {};
    return next;
}

}  // namespace

SitePtr select(const Site& site, const ElementSet& set, Combine how, const Origin& origin) {
    return combined(site, set, how, false, origin);
}

SitePtr select_removed(const Site& site, const ElementSet& set, Combine how, const Origin& origin) {
    return combined(site, set, how, true, origin);
}

SitePtr set_origin(const Site& site, const Origin& origin) {
    if (!site.selection) throw Error(ErrorCode::Usage, "Nothing is selected");
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
    if (!site.last_selection) throw Error(ErrorCode::Usage, "Nothing was selected before");
    const SetPtr last = site.last_selection;
    return select(site, *last, Combine::New, site.last_origin);
}

SitePtr keep_selection(const Site& site, const std::string& name) {
    if (name.empty()) throw Error(ErrorCode::Usage, "A name cannot be empty");
    selected_or_refuse(site);
    auto next = with_item(site, site.active, [&](Item& item) {
        std::erase_if(item.kept, [&](const KeptSelection& k) { return k.name == name; });
        item.kept.push_back({site.next_id, name, site.selection, site.origin});
    });
    next->next_id = site.next_id + 1;
    return next;
}

SitePtr use_kept(const Site& site, std::uint64_t id, Combine how) {
    for (const KeptSelection& k : item_in_work(site).kept)
        if (k.id == id) {
            return select(
                site, *k.elements, how,
                {wrapped(k.origin.cause, Act::Kind::Kept, {}, {{"name", k.name}}), k.origin.reason});
        }
    throw missing("This selection");
}

SitePtr drop_kept(const Site& site, std::uint64_t id) {
    return with_item(site, site.active, [&](Item& item) {
        if (std::erase_if(item.kept, [&](const KeptSelection& k) { return k.id == id; }) == 0)
            throw missing("This selection");
    });
}

SitePtr invert_selection(const Site& site) {
    const Item& item = item_in_work(site);
    ElementSet rest = eligible(item);
    const Origin inverted{
        site.origin.cause.empty() ? Cause() : wrapped(site.origin.cause, Act::Kind::Inverse),
        site.origin.reason};
    if (site.of_removed)
        return select_removed(site, eligible_removed(item) - *site.selection, Combine::New, inverted);
    if (site.selection) rest = rest - *site.selection;
    return select(site, rest, Combine::New, inverted);
}

SitePtr remove_selection(const Site& site, const Decision& d) {
    return add_entry(site, selected_or_refuse(site), d);
}

SitePtr keep_only_selection(const Site& site, const Decision& d) {
    const Item& item = item_in_work(site);
    if (site.selected() == 0 || site.of_removed)
        throw Error(ErrorCode::Usage, "Nothing is selected, so nothing would be left", {},
                    "Select what is to stay first: draw a fence.");
    ElementSet rest = eligible(item) - *site.selection;
    if (rest.empty()) throw Error(ErrorCode::Usage, "Everything is selected, so nothing would go");
    return add_entry(site, std::move(rest), d);
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
    item_in_work(site);
    if (!site.of_removed || site.selected() == 0)
        throw Error(ErrorCode::Usage, "Nothing that is out is selected", {},
                    "Select among the ghosts first.");
    std::uint64_t id = site.next_id;
    auto next = with_item(site, site.active, [&](Item& item) {
        std::vector<LedgerEntry> rests;
        for (LedgerEntry& e : item.ledger) {
            if (!e.active || (*e.elements & *site.selection).empty()) continue;
            refuse_out_of_order(item, e, false);
            e.active = false;
            SetPtr rest = shared(*e.elements - *site.selection);
            if (rest)
                rests.push_back({id++, e.reason, e.cause, signature.who, signature.when, true,
                                 std::move(rest), e.picture});
        }
        for (LedgerEntry& e : rests) item.ledger.push_back(std::move(e));
        item.refresh_removed();
    });
    next->next_id = id;
    let_go(*next);
    return next;
}

SitePtr set_apart(const Site& site, const std::string& name, bool move) {
    const ElementSet& chosen = selected_or_refuse(site);
    if (name.empty()) throw Error(ErrorCode::Usage, "A name cannot be empty");
    const Item& from = item_in_work(site);
    if (move && (~*from.absent - chosen).empty())
        throw Error(ErrorCode::Usage, "Everything that is shown is selected, so nothing would be left", {},
                    "Copy it, or duplicate the item.");
    auto piece = std::make_shared<Item>();
    piece->id = site.next_id;
    piece->name = name;
    piece->group = from.group;
    piece->origin = from.origin;
    piece->cloud = from.cloud;
    piece->style = from.style;
    piece->removed = std::make_shared<const ElementSet>(from.cloud->size());
    piece->scope = site.selection;
    piece->clipped = from.clipped;
    piece->refresh();
    auto next = with_item(site, from.id, [&](Item& item) {
        if (!move) return;
        const ElementSet all = item.scope ? *item.scope : ElementSet::all(item.cloud->size());
        item.scope = std::make_shared<const ElementSet>(all - chosen);
        item.refresh();
    });
    next->items.push_back(std::move(piece));
    next->next_id = site.next_id + 1;
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
            item.ledger.push_back(e);
            item.ledger.back().id = id++;
        }
        for (LedgerEntry& e : item.ledger)
            if (e.active && !(*e.elements & shown).empty())
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
    if (next->active == from) {
        next->active = into;
        next->selection = next->last_selection = nullptr;
        next->origin = next->last_origin = {};
        next->of_removed = false;
    }
    return next;
}

namespace {

SitePtr hide(const Site& site, const ElementSet& set) {
    auto next = with_item(site, site.active, [&](Item& item) {
        item.hidden = shared(item.hidden ? *item.hidden | set : set);
        item.refresh();
    });
    let_go(*next);
    return next;
}

}  // namespace

SitePtr hide_selection(const Site& site) {
    return hide(site, selected_or_refuse(site));
}

SitePtr show_only_selection(const Site& site) {
    const ElementSet& chosen = selected_or_refuse(site);
    return hide(site, ~*item_in_work(site).absent - chosen);
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
std::shared_ptr<Site> clipped_to(const Site& site, const select::Box* box, Progress& progress) {
    auto next = std::make_shared<Site>(site);
    std::vector<std::pair<const cloud::PointCloud*, SetPtr>> known;
    for (ItemPtr& item : next->items) {
        auto changed = std::make_shared<Item>(*item);
        changed->clipped = nullptr;
        if (box) {
            auto k = std::find_if(known.begin(), known.end(),
                                  [&](const auto& p) { return p.first == item->cloud.get(); });
            if (k == known.end())
                k = known.insert(known.end(), {item->cloud.get(), outside(*item->cloud, *box, progress)});
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
    auto next = clipped_to(site, &clip.box, progress);
    ClipBox kept = clip;
    if (kept.id == 0) kept.id = next->next_id++;
    std::erase_if(next->clips, [&](const ClipBox& c) { return c.id == kept.id; });
    next->clips.push_back(kept);
    next->clip = kept.id;
    trim_selection(*next);
    return next;
}

SitePtr set_unit(const Site& site, const std::string& unit) {
    if (!unit.empty() && length_unit(unit).id != unit)
        throw Error(ErrorCode::Usage, "'" + unit + "' is no unit of length");
    auto out = std::make_shared<Site>(site);
    out->unit = unit;
    return out;
}

SitePtr clear_clip(const Site& site) {
    if (site.clip == 0) throw Error(ErrorCode::Usage, "No clip box is in force");
    auto next = clipped_to(site, nullptr, Progress::none());
    next->clip = 0;
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

SitePtr guard(const Site& site, const ElementSet& set, const std::string& name) {
    item_in_work(site);
    if (set.empty()) throw Error(ErrorCode::Usage, "There is nothing to guard");
    auto next = with_item(site, site.active, [&](Item& item) {
        item.guards.push_back({site.next_id, name, std::make_shared<const ElementSet>(set)});
        item.refresh();
    });
    next->next_id = site.next_id + 1;
    trim_selection(*next);
    return next;
}

SitePtr lift_guard(const Site& site, std::uint64_t item_id, std::uint64_t id) {
    return with_item(site, item_id, [&](Item& item) {
        if (std::erase_if(item.guards, [&](const Guard& g) { return g.id == id; }) == 0)
            throw missing("This guard");
        item.refresh();
    });
}

SitePtr set_entry_active(const Site& site, std::uint64_t item_id, std::uint64_t entry_id, bool active) {
    auto next = with_item(site, item_id, [&](Item& item) {
        const LedgerEntry* entry = item.entry(entry_id);
        if (!entry) throw missing("This ledger entry");
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

}  // namespace pristine::site
