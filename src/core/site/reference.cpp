// Unit and reference system of items.

#include <algorithm>

#include "core/base/error.h"
#include "core/base/units.h"
#include "core/cloud/by_records.h"
#include "core/io/reference/reproject.h"
#include "core/io/reference/system.h"
#include "core/site/site.h"
#include "core/site/surface_source.h"

namespace pristine::site {

namespace {

// Pieces of one cloud are told the same.
SitePtr with_cloud(const Site& site, const std::shared_ptr<const cloud::PointCloud>& before,
                   const std::shared_ptr<const cloud::PointCloud>& now) {
    auto out = std::make_shared<Site>(site);
    for (ItemPtr& i : out->items) {
        if (i->cloud != before) continue;
        auto changed = std::make_shared<Item>(*i);
        changed->cloud = now;
        i = std::move(changed);
    }
    return out;
}

}  // namespace

SitePtr set_reference(const Site& site, std::uint64_t id, const cloud::Reference& reference) {
    const ItemPtr item = site.item(id);
    if (!item) throw Error(ErrorCode::Usage, "There is no such item");
    for (const std::string& unit : {reference.unit, reference.height_unit})
        if (!unit.empty() && unit != kDegrees && !is_length(unit))
            throw Error(ErrorCode::Usage, "'" + unit + "' is no unit of length");
    return with_cloud(site, item->cloud, cloud::with_reference(item->cloud, reference));
}

SitePtr set_stations(const Site& site, std::uint64_t id,
                     const std::optional<std::vector<cloud::Station>>& stations) {
    const ItemPtr item = site.item(id);
    if (!item) throw Error(ErrorCode::Usage, "There is no such item");
    if (item->cloud->triangles())
        throw Error(ErrorCode::Usage, "'" + item->name + "' is made of triangles; no station saw them");
    const auto own = cloud::with_stations(item->cloud, std::nullopt);
    if (stations && own->stations().size() > 1)
        throw Error(ErrorCode::Usage, "The file of '" + item->name + "' says where its stations stood", {},
                    "Part it by scan first.");
    return with_cloud(site, item->cloud, cloud::with_stations(item->cloud, stations));
}

cloud::Reference reference_of(const Site& site) {
    cloud::Reference degrees;
    for (const ItemPtr& i : site.items) {
        if (is_length(i->cloud->unit())) return i->cloud->reference();
        if (degrees.unit.empty()) degrees = i->cloud->reference();
    }
    return degrees;
}

bool differs_from_site(const Site& site, const Item& item) {
    const cloud::Reference a = reference_of(site), b = item.cloud->reference();
    if (b.unit.empty()) return false;  // it states nothing: asked for elsewhere
    if (a.unit != b.unit || a.height_unit != b.height_unit) return true;
    if (a.crs.empty() || b.crs.empty() || a.crs == b.crs) return false;
    return io::system_of(a.crs).name != io::system_of(b.crs).name;
}

SitePtr add_converted(const Site& site, std::uint64_t id,
                      const std::shared_ptr<const cloud::PointCloud>& cloud, const std::string& name,
                      const std::string& how) {
    const ItemPtr from = site.item(id);
    if (!from) throw Error(ErrorCode::Usage, "There is no such item");
    const auto mapped = [&](const SetPtr& set) {
        return set ? std::make_shared<const ElementSet>(cloud::moved_by_records(*set, *from->cloud, *cloud))
                   : SetPtr();
    };
    SitePtr added = add_cloud(site, cloud, name, from->origin + ", " + how);
    auto out = std::make_shared<Site>(*added);
    auto item = std::make_shared<Item>(*out->items.back());
    item->group = from->group;
    item->date = from->date;
    item->survey = from->survey;
    item->role = role_of(name_of(from->role), *cloud);
    item->style = from->style;
    for (LedgerEntry e : from->ledger) {
        e.id = out->next_id++;
        e.elements = mapped(e.elements);
        e.made = mapped(e.made);
        item->ledger.push_back(std::move(e));
    }
    item->scope = mapped(from->scope);
    item->hidden = mapped(from->hidden);
    item->unseen_classes = from->unseen_classes;
    for (Guard g : from->guards) {
        g.id = out->next_id++;
        g.elements = mapped(g.elements);
        item->guards.push_back(std::move(g));
    }
    for (KeptSelection k : from->kept) {
        k.id = out->next_id++;
        k.elements = mapped(k.elements);
        item->kept.push_back(std::move(k));
    }
    item->refresh_removed();
    const std::uint64_t fresh = item->id;
    out->items.back() = std::move(item);
    return activate(*set_visible(*out, id, false), fresh);
}

}  // namespace pristine::site
