#include "core/site/surface_source.h"

#include <algorithm>

#include "core/base/error.h"
#include "core/cloud/triangles.h"
#include "core/site/change.h"

namespace pristine::site {
namespace {

std::vector<std::uint32_t> members(const ElementSet& set) {
    std::vector<std::uint32_t> out;
    set.for_each([&](std::uint64_t e) { out.push_back(static_cast<std::uint32_t>(e)); });
    return out;
}

// A part of the new surface that lies in the same areas.
struct Piece {
    mesh::TriMesh mesh;
    std::vector<std::size_t> areas;
};

// Cuts all pieces along an area; those inside remember it.
void cut(std::vector<Piece>& pieces, const surface::Rings& rings, std::size_t area, Progress& progress) {
    if (rings.empty()) return;
    std::vector<Piece> out;
    for (Piece& p : pieces) {
        Piece in{surface::clip(p.mesh, rings, surface::Keep::Inside, surface::Edges::Exact, progress),
                 p.areas};
        Piece rest{surface::clip(p.mesh, rings, surface::Keep::Outside, surface::Edges::Exact, progress),
                   p.areas};
        in.areas.push_back(area);
        if (!in.mesh.triangles.empty()) out.push_back(std::move(in));
        if (!rest.mesh.triangles.empty()) out.push_back(std::move(rest));
    }
    pieces = std::move(out);
}

// The triangles of all pieces, one piece after the other.
mesh::TriMesh together(const std::vector<Piece>& pieces) {
    mesh::TriMesh all = pieces.front().mesh;
    for (std::size_t k = 1; k < pieces.size(); ++k) {
        const auto first = static_cast<std::uint32_t>(all.vertices.size());
        const mesh::TriMesh& m = pieces[k].mesh;
        all.vertices.insert(all.vertices.end(), m.vertices.begin(), m.vertices.end());
        for (const auto& t : m.triangles) all.triangles.push_back({first + t[0], first + t[1], first + t[2]});
    }
    return all;
}

// Areas as sets of elements of the new cloud.
std::vector<SetPtr> sets_of(const cloud::PointCloud& c, const std::vector<Piece>& pieces, std::size_t areas) {
    if (areas == 0) return {};
    std::vector<std::uint32_t> piece_of;
    for (std::uint32_t k = 0; k < pieces.size(); ++k)
        piece_of.insert(piece_of.end(), pieces[k].mesh.triangles.size(), k);
    std::vector<std::vector<char>> holds(areas, std::vector<char>(pieces.size(), 0));
    for (std::size_t k = 0; k < pieces.size(); ++k)
        for (const std::size_t a : pieces[k].areas) holds[a][k] = 1;
    std::vector<ElementSet> sets(areas, ElementSet(c.size()));
    const auto order = c.order();
    for (std::size_t p = 0; p < c.page_count(); ++p) {
        const auto original = order->page(p);
        for (std::size_t a = 0; a < areas; ++a) {
            PageBits bits;
            for (std::size_t i = 0; i < original.size(); ++i)
                if (holds[a][piece_of[original[i]]]) bits.set(i);
            sets[a].set_page(p, bits);
        }
    }
    std::vector<SetPtr> out;
    for (ElementSet& s : sets) out.push_back(std::make_shared<const ElementSet>(std::move(s)));
    return out;
}

std::shared_ptr<Item> copy_of(const Site& site, std::uint64_t id) {
    const ItemPtr item = site.item(id);
    if (!item) throw Error(ErrorCode::Usage, "There is no such item");
    return std::make_shared<Item>(*item);
}

SitePtr with_item(const Site& site, std::shared_ptr<Item> item) {
    auto next = std::make_shared<Site>(site);
    for (ItemPtr& i : next->items)
        if (i->id == item->id) i = item;
    return next;
}

}  // namespace

SourcePtr with_lines_of(const SurfaceSource& source, const Site& site) {
    auto next = std::make_shared<SurfaceSource>(source);
    bool changed = false;
    for (std::size_t i = 0; i < source.breakline_ids.size(); ++i)
        if (const LinePtr l = site.line(source.breakline_ids[i]);
            l && l->points != source.definition.breaklines[i].points) {
            next->definition.breaklines[i].points = l->points;
            changed = true;
        }
    for (std::size_t i = 0; i < source.boundary_ids.size(); ++i)
        if (const LinePtr l = site.line(source.boundary_ids[i]);
            l && l->points != source.definition.boundary[i]) {
            next->definition.boundary[i] = l->points;
            changed = true;
        }
    for (std::size_t k = 0; k < source.patch_ids.size(); ++k) {
        surface::Patch& patch = next->definition.patches[k];
        for (std::size_t i = 0; i < source.patch_ids[k].size() && i <= patch.lines.size(); ++i) {
            std::vector<Vec3>& points = i == 0 ? patch.outline : patch.lines[i - 1].points;
            if (const LinePtr l = site.line(source.patch_ids[k][i]); l && l->points != points) {
                points = l->points;
                changed = true;
            }
        }
    }
    return changed ? next : nullptr;
}

SourcePtr source_of(const Item& item) {
    if (item.source) return item.source;
    if (!cloud::is_surface(*item.cloud)) throw Error(ErrorCode::Usage, "The item is no terrain surface");
    auto source = std::make_shared<SurfaceSource>();
    source->definition.given = *item.cloud->triangles();
    return source;
}

Rebuilt rebuild(const Item& item, const SurfaceSource& source, Progress& progress) {
    if (!item.cloud->triangles()) throw Error(ErrorCode::Usage, "The item is no surface");
    if (item.scope)
        throw Error(ErrorCode::Usage, "A piece that was set apart cannot be built again", {},
                    "Put it together first.");
    const mesh::TriMesh& old = *item.cloud->triangles();
    auto next = std::make_shared<SurfaceSource>(source);
    next->definition.exclusions.clear();
    surface::Built built = surface::build(next->definition, progress);
    if (built.mesh.triangles.empty())
        throw Error(ErrorCode::Empty, "Nothing would be left of the surface", {},
                    "Look at its limits and its boundary.");
    std::vector<surface::Rings> areas;
    next->areas.clear();
    for (const LedgerEntry& e : item.ledger) {
        if (e.edit != 0) {  // no area: the definition is what it changes
            areas.emplace_back();
            continue;
        }
        const auto known = source.areas.find(e.id);
        areas.push_back(known != source.areas.end() ? known->second
                                                    : surface::rings_round(old, members(*e.elements)));
        next->areas[e.id] = areas.back();
    }
    for (const Guard& g : item.guards) areas.push_back(surface::rings_round(old, members(*g.elements)));
    for (const KeptSelection& k : item.kept) areas.push_back(surface::rings_round(old, members(*k.elements)));
    if (item.hidden) areas.push_back(surface::rings_round(old, members(*item.hidden)));
    std::vector<Piece> pieces{{std::move(built.mesh), {}}};
    for (std::size_t a = 0; a < areas.size(); ++a) cut(pieces, areas[a], a, progress);
    Rebuilt r;
    const bool distinct = built.distinct && pieces.size() == 1;
    const cloud::TriangleParts parts{item.cloud->unit(), item.cloud->crs(),        true, {}, {}, {},
                                     distinct,           item.cloud->height_unit()};
    r.cloud = cloud::cloud_of_triangles(together(pieces), parts, progress);
    r.source = next;
    r.report = std::move(built.report);
    const std::vector<SetPtr> sets = sets_of(*r.cloud, pieces, areas.size());
    auto at = sets.begin();
    const auto take = [&](std::size_t n) {
        std::vector<SetPtr> some(at, at + static_cast<std::ptrdiff_t>(n));
        at += static_cast<std::ptrdiff_t>(n);
        return some;
    };
    r.ledger = take(item.ledger.size());
    r.guards = take(item.guards.size());
    r.kept = take(item.kept.size());
    if (item.hidden) r.hidden = *at;
    return r;
}

SitePtr replace_surface(const Site& site, std::uint64_t id, const Rebuilt& r) {
    auto item = copy_of(site, id);
    if (item->ledger.size() != r.ledger.size() || item->guards.size() != r.guards.size() ||
        item->kept.size() != r.kept.size())
        throw Error(ErrorCode::Usage, "The item changed while it was built");
    item->cloud = r.cloud;
    item->source = r.source;
    item->scope = nullptr;
    item->clipped = nullptr;
    item->hidden = r.hidden;
    for (std::size_t i = 0; i < r.ledger.size(); ++i) item->ledger[i].elements = r.ledger[i];
    for (LedgerEntry& e : item->ledger)
        if (const auto edit = r.source->edits.find(e.edit); edit != r.source->edits.end())
            e.active = edit->second.active;
    for (const auto& [number, edit] : r.source->edits)
        if (edit.kind == SurfaceEdit::Kind::Thinning) item->thinned = edit.active ? edit.tolerance : 0;
    for (std::size_t i = 0; i < r.guards.size(); ++i) item->guards[i].elements = r.guards[i];
    for (std::size_t i = 0; i < r.kept.size(); ++i) item->kept[i].elements = r.kept[i];
    ElementSet removed(r.cloud->size());
    for (const LedgerEntry& e : item->ledger)
        if (e.active) removed = removed | *e.elements;
    item->removed = std::make_shared<const ElementSet>(std::move(removed));
    item->refresh();
    auto own = std::make_shared<Site>(*with_item(site, item));
    detail::forget_selection(*own, id);
    return own;
}

SitePtr set_source(const Site& site, std::uint64_t id, SourcePtr source) {
    auto item = copy_of(site, id);
    item->source = std::move(source);
    return with_item(site, item);
}

}  // namespace pristine::site
