#include "core/site/mend.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "core/base/error.h"
#include "core/cloud/column.h"
#include "core/cloud/grown.h"
#include "core/cloud/triangles.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/mesh/carry.h"
#include "core/mesh/weld.h"
#include "core/site/change.h"

namespace pristine::site {
namespace {

using Key = std::array<std::uint32_t, 3>;

struct Change {
    std::vector<std::uint32_t> taken;  // triangles of what is shown
    std::vector<std::uint32_t> made;   // triangles of the result
};

std::array<Vec3, 3> corners_of(const mesh::TriMesh& m, std::size_t t) {
    const auto& c = m.triangles[t];
    return {m.vertices[c[0]], m.vertices[c[1]], m.vertices[c[2]]};
}

// Of equal triangles as many stay as there are in both.
Change change(const mesh::TriMesh& shown, const mesh::TriMesh& result) {
    // Most repairs leave most triangles where they stand in the list: only the others are looked for.
    std::vector<std::uint32_t> old, fresh;
    const std::size_t n = shown.triangles.size(), m = result.triangles.size(), both = std::min(n, m);
    for (std::size_t t = 0; t < std::max(n, m); ++t) {
        if (t < both && corners_of(shown, t) == corners_of(result, t)) continue;
        if (t < n) old.push_back(static_cast<std::uint32_t>(t));
        if (t < m) fresh.push_back(static_cast<std::uint32_t>(t));
    }
    std::vector<Vec3> corners;
    corners.reserve(3 * (old.size() + fresh.size()));
    for (const std::uint32_t t : old)
        for (const Vec3& v : corners_of(shown, t)) corners.push_back(v);
    for (const std::uint32_t t : fresh)
        for (const Vec3& v : corners_of(result, t)) corners.push_back(v);
    const mesh::TriMesh places = mesh::weld(corners);
    const auto key = [&](std::size_t i) {
        Key k = places.triangles[i];
        std::rotate(k.begin(), std::min_element(k.begin(), k.end()), k.end());
        return k;
    };
    std::vector<std::pair<Key, std::uint32_t>> known(old.size());
    for (std::size_t i = 0; i < old.size(); ++i) known[i] = {key(i), static_cast<std::uint32_t>(i)};
    std::sort(known.begin(), known.end());
    std::vector<char> stays(old.size(), 0);
    Change out;
    for (std::size_t i = 0; i < fresh.size(); ++i) {
        const Key k = key(old.size() + i);
        auto at = std::lower_bound(known.begin(), known.end(), std::pair{k, std::uint32_t{0}});
        while (at != known.end() && at->first == k && stays[at->second]) ++at;
        if (at != known.end() && at->first == k)
            stays[at->second] = 1;
        else
            out.made.push_back(fresh[i]);
    }
    for (std::size_t i = 0; i < old.size(); ++i)
        if (!stays[i]) out.taken.push_back(old[i]);
    return out;
}

// What the triangles that are made carry.
mesh::Attributes carried_to(const mesh::TriMesh& before, const mesh::Attributes& a, const Change& c,
                            const mesh::TriMesh& result, Carry carry, Progress& progress) {
    std::vector<std::uint32_t> stay;
    if (carry == Carry::Healed)
        for (std::uint32_t t = 0; t < before.triangles.size(); ++t)
            if (!std::binary_search(c.taken.begin(), c.taken.end(), t)) stay.push_back(t);
    const mesh::Attributes all =
        stay.empty() ? mesh::carried(before, a, result, progress)
                     : mesh::carried(mesh::part_of(before, stay), mesh::part_of(a, stay), result, progress);
    return mesh::part_of(all, c.made);
}

// The number of the record of each element.
std::vector<std::uint32_t> records_of(const cloud::PointCloud& c) {
    std::vector<std::uint32_t> out;
    out.reserve(c.size());
    const auto order = c.order();
    for (std::size_t p = 0; p < c.page_count(); ++p)
        for (const std::uint32_t r : order->page(p)) out.push_back(r);
    return out;
}

// The one number that a triangle may have beside its corners, by record; nothing for those that are made.
void take_values(const cloud::PointCloud& c, const std::vector<std::uint32_t>& record, std::size_t count,
                 cloud::TriangleParts& parts, Progress& progress) {
    const auto column = cloud::fetch_column(c, parts.value_name, progress);
    parts.values.assign(count, NAN);
    for (std::size_t e = 0; e < record.size(); ++e)
        parts.values[record[e]] = column->base + static_cast<double>(column->values[e]);
}

std::string value_name(const cloud::PointCloud& c) {
    const auto& fields = c.records()->layout().fields;
    const auto own = std::find_if(fields.begin(), fields.end(), [](const cloud::Field& f) {
        return f.type == cloud::FieldType::F64 && f.offset > 72;
    });
    return own == fields.end() ? std::string() : own->name;
}

// Everything there was, in the order of its records, then what was made.
std::shared_ptr<const cloud::PointCloud> with_made(const std::shared_ptr<const cloud::PointCloud>& old,
                                                   const std::vector<std::uint32_t>& record,
                                                   const mesh::TriMesh& made, mesh::Attributes carried,
                                                   Progress& progress) {
    cloud::TriangleParts parts{old->unit(), old->crs(), cloud::is_surface(*old), value_name(*old), {}, {}};
    parts.height_unit = old->height_unit();
    parts.attributes = std::move(carried);
    if (!parts.value_name.empty()) parts.values.assign(made.triangles.size(), NAN);
    if (auto quick = cloud::grown(old, made, parts, progress)) return quick;
    // Other fields, or far outside of the grid: from the beginning.
    const std::size_t n = record.size(), all = n + made.triangles.size();
    std::vector<std::uint32_t> order(all);
    for (std::uint32_t e = 0; e < n; ++e) order[record[e]] = e;
    for (std::size_t t = n; t < all; ++t) order[t] = static_cast<std::uint32_t>(t);
    parts.joined = true;
    if (!parts.value_name.empty()) take_values(*old, record, all, parts, progress);
    if (old->attributes()) {
        mesh::Attributes both = *old->attributes();
        mesh::append(both, n, parts.attributes, made.triangles.size());
        parts.attributes = mesh::part_of(both, order);
    }
    return cloud::cloud_of_triangles(mesh::part_of(mesh::extended(*old->triangles(), made), order), parts,
                                     progress);
}

ElementSet moved(const ElementSet& set, const Mended& m) {
    std::vector<PageBits> bits(m.taken->page_count());
    std::vector<char> some(bits.size(), 0);
    set.for_each([&](std::uint64_t e) {
        const std::size_t at = m.element[e];
        bits[at / kPageSize].set(at % kPageSize);
        some[at / kPageSize] = 1;
    });
    ElementSet out(m.cloud->size());
    for (std::size_t p = 0; p < bits.size(); ++p)
        if (some[p]) out.set_page(p, bits[p]);
    return out;
}

SetPtr moved(const SetPtr& set, const Mended& m) {
    return set ? std::make_shared<const ElementSet>(moved(*set, m)) : nullptr;
}

}  // namespace

Mended mended(const Item& item, const mesh::TriMesh& result, Progress& progress, Carry carry) {
    const cloud::PointCloud& old = *item.cloud;
    if (!old.triangles()) throw Error(ErrorCode::Usage, "'" + item.name + "' has no triangles");
    const ElementSet shown = ~*item.absent;
    const mesh::TriMesh before = io::mesh_of(old, shown);
    const Change c = change(before, result);
    progress.check();
    const std::vector<std::uint32_t> record = records_of(old);
    const std::size_t n = record.size(), all = n + c.made.size();
    Mended m;
    mesh::Attributes carried;
    if (old.attributes())
        carried = carried_to(before, io::attributes_of(old, shown), c, result, carry, progress);
    m.cloud = with_made(item.cloud, record, mesh::part_of(result, c.made), std::move(carried), progress);
    const std::vector<std::uint32_t> fresh = records_of(*m.cloud);
    std::vector<std::uint32_t> element(all);
    for (std::uint32_t e = 0; e < all; ++e) element[fresh[e]] = e;
    for (std::size_t e = 0; e < n; ++e) m.element.push_back(element[record[e]]);
    ElementSet taken(all), made(all);
    std::vector<std::uint32_t> elements;  // of the triangles that are shown
    shown.for_each([&](std::uint64_t e) { elements.push_back(static_cast<std::uint32_t>(e)); });
    std::vector<PageBits> bits(made.page_count());
    for (std::size_t k = 0; k < c.made.size(); ++k)
        bits[element[n + k] / kPageSize].set(element[n + k] % kPageSize);
    for (std::size_t p = 0; p < bits.size(); ++p) made.set_page(p, bits[p]);
    std::fill(bits.begin(), bits.end(), PageBits{});
    for (const std::uint32_t t : c.taken) {
        const std::size_t at = m.element[elements[t]];
        bits[at / kPageSize].set(at % kPageSize);
    }
    for (std::size_t p = 0; p < bits.size(); ++p) taken.set_page(p, bits[p]);
    m.taken = std::make_shared<const ElementSet>(std::move(taken));
    m.made = std::make_shared<const ElementSet>(std::move(made));
    return m;
}

SitePtr mend(const Site& site, std::uint64_t id, const std::shared_ptr<const cloud::PointCloud>& of,
             const Mended& m, const Decision& d) {
    const ItemPtr old = site.item(id);
    if (!old || old->cloud != of)
        throw Error(ErrorCode::Usage, "The item changed meanwhile; the repair was dropped");
    if (old->locked)
        throw Error(ErrorCode::Usage, "'" + old->name + "' is locked", {}, "Open its lock in the contents.");
    auto item = std::make_shared<Item>(*old);
    item->cloud = m.cloud;
    for (LedgerEntry& e : item->ledger) {
        e.elements = moved(e.elements, m);
        e.made = moved(e.made, m);
    }
    for (Guard& g : item->guards) g.elements = moved(g.elements, m);
    for (const Guard& g : item->guards)
        if (const auto n = (*g.elements & *m.taken).count(); n > 0)
            throw Error(
                ErrorCode::Usage,
                "The repair would take " + std::to_string(n) + " triangles guarded by '" + g.name + "'", {},
                "Lift the guard, or repair less.");
    for (KeptSelection& k : item->kept) k.elements = moved(k.elements, m);
    item->hidden = moved(item->hidden, m);
    item->clipped = moved(item->clipped, m);
    // What was made belongs to a piece that was set apart.
    if (item->scope) item->scope = std::make_shared<const ElementSet>(moved(*item->scope, m) | *m.made);
    item->ledger.push_back({site.next_id, d.reason, d.cause, d.signature.who, d.signature.when, true, m.taken,
                            d.picture, m.made});
    item->refresh_removed();
    auto next = std::make_shared<Site>(site);
    next->next_id = site.next_id + 1;
    for (ItemPtr& i : next->items)
        if (i->id == id) i = item;
    detail::forget_selection(*next, id);
    return next;
}

}  // namespace pristine::site
