#include <fmt/chrono.h>
#include <pwd.h>
#include <unistd.h>

#include <algorithm>
#include <mutex>
#include <chrono>
#include <regex>

#include "core/base/units.h"
#include "core/site/change.h"
#include "core/site/item_classes.h"

namespace pristine::site {
using namespace detail;

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
    decided = decided_by(ledger);
    for (const std::uint8_t code : unseen_classes)
        absent = std::make_shared<const ElementSet>(*absent | of_class(*this, code));
    guarded = nullptr;
    for (const Guard& g : guards)
        guarded = guarded ? std::make_shared<const ElementSet>(*guarded | *g.elements) : g.elements;
}

ElementSet Item::but_for_clip() const {
    Item bare = *this;
    bare.clipped = nullptr;
    bare.refresh();
    return ~*bare.absent;
}

ElementSet Item::taken() const {
    ElementSet out(cloud->size());
    for (const LedgerEntry& e : ledger)
        if (e.active && e.removes()) out = out | *e.elements;
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
        if (e.active && e.removes() && std::find(out.begin(), out.end(), e.reason) == out.end())
            out.push_back(e.reason);
    return out;
}

ElementSet Item::out_for(const std::string& reason) const {
    ElementSet out(cloud->size());
    for (const LedgerEntry& e : ledger)
        if (e.active && e.removes() && e.reason == reason) out = out | *e.elements;
    return out;
}

ItemPtr Site::item(std::uint64_t id) const {
    for (const ItemPtr& i : items)
        if (i->id == id) return i;
    return nullptr;
}

namespace {

std::mutex person_lock;
std::string person;

}  // namespace

void set_person(const std::string& name) {
    const std::lock_guard lock(person_lock);
    person = name;
}

Signature Signature::now() {
    Signature s;
    {
        const std::lock_guard lock(person_lock);
        s.who = person;
    }
    if (s.who.empty()) {
        const passwd* user = ::getpwuid(::getuid());
        s.who = user && user->pw_name ? user->pw_name : "unknown";
    }
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
    item->role = usual_role(*cloud);
    item->removed = std::make_shared<const ElementSet>(cloud->size());
    // A column of equal intensities shows nothing.
    const auto [dark, bright] = cloud->intensity_range();
    item->style.colour_by = cloud->colour()                       ? ColourBy::Rgb
                            : cloud->intensity() && dark < bright ? ColourBy::Intensity
                                                                  : ColourBy::Height;
    if (cloud->attributes() && cloud->attributes()->coloured()) item->style.faces = Faces::Solid;
    item->cloud = std::move(cloud);
    clip_item(site, *item);
    item->refresh();
    if (next->active == 0) next->active = item->id;
    next->items.push_back(std::move(item));
    return next;
}

SitePtr activate(const Site& site, std::uint64_t id) {
    if (!site.item(id)) throw missing("This item");
    auto next = std::make_shared<Site>(site);
    // What is selected of the item that was in work alone belongs to the work on that one.
    const auto of_that_one = [&](const Parts& parts) {
        return std::all_of(parts.begin(), parts.end(), [&](const auto& p) { return p.first == site.active; });
    };
    if (next->active != id && of_that_one(next->selection)) {
        next->selection.clear();
        next->origin = {};
        next->of_removed = false;
    }
    if (next->active != id && of_that_one(next->last_selection)) {
        next->last_selection.clear();
        next->last_origin = {};
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
    return with_item(site, id, [&](Item& i) {
        const Survey* survey = site.survey(i.survey);
        if (survey && !survey->date.empty())
            throw Error(ErrorCode::Usage,
                        "The date of '" + i.name + "' is that of its survey '" + survey->name + "'", {},
                        "Change it there.");
        i.date = date;
    });
}

SitePtr set_role(const Site& site, std::uint64_t id, ItemRole role) {
    return with_item(site, id, [&](Item& i) {
        const std::vector<ItemRole> all = possible_roles(*i.cloud);
        if (std::find(all.begin(), all.end(), role) == all.end())
            throw Error(ErrorCode::Usage, "'" + i.name + "' cannot be a " + name_of(role));
        i.role = role;
    });
}

SitePtr set_placement(const Site& site, std::uint64_t id, std::vector<double> rows,
                      const std::string& placed_by) {
    if (!rows.empty() && rows.size() != 16) throw Error(ErrorCode::Usage, "A move has sixteen numbers");
    return with_item(site, id, [&](Item& i) {
        i.placement = std::move(rows);
        i.placed_by = placed_by;
    });
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
    forget_selection(*next, id);
    if (next->active == id) next->active = next->items.empty() ? 0 : next->items.front()->id;
    return next;
}

SitePtr set_unit(const Site& site, const std::string& unit) {
    if (!unit.empty() && length_unit(unit).id != unit)
        throw Error(ErrorCode::Usage, "'" + unit + "' is no unit of length");
    auto out = std::make_shared<Site>(site);
    out->unit = unit;
    return out;
}

}  // namespace pristine::site
