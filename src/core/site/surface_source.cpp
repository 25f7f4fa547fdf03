#include "core/site/surface_source.h"

#include <algorithm>
#include <nlohmann/json.hpp>
#include <set>
#include <tuple>

#include "core/base/compress.h"
#include "core/base/error.h"
#include "core/cloud/triangles.h"
#include "core/site/change.h"

namespace pristine::site {
namespace {

using nlohmann::json;

json places(const std::vector<Vec3>& points) {
    json j = json::array();
    for (const Vec3& p : points)
        for (int a = 0; a < 3; ++a) j.push_back(p[a]);
    return j;
}

std::vector<Vec3> points_from(const json& j) {
    std::vector<Vec3> p(j.size() / 3);
    for (std::size_t i = 0; i < p.size(); ++i)
        for (std::size_t a = 0; a < 3; ++a) p[i][static_cast<int>(a)] = j[3 * i + a].get<double>();
    return p;
}

json rings_json(const surface::Rings& rings) {
    json j = json::array();
    for (const auto& r : rings) j.push_back(places(r));
    return j;
}

surface::Rings rings_from(const json& j) {
    surface::Rings rings;
    for (const json& r : j) rings.push_back(points_from(r));
    return rings;
}

json lines_json(const std::vector<surface::Breakline>& lines) {
    json j = json::array();
    for (const surface::Breakline& l : lines) j.push_back({l.name, places(l.points), l.closed});
    return j;
}

std::vector<surface::Breakline> lines_from(const json& j) {
    std::vector<surface::Breakline> lines;
    for (const json& l : j) lines.push_back({l.at(0), points_from(l.at(1)), l.at(2)});
    return lines;
}

// What projects of earlier versions do not have.
void take_patches(const json& j, SurfaceSource& s) {
    surface::Definition& d = s.definition;
    for (const json& p : j.at("patches")) d.patches.push_back({points_from(p.at(0)), lines_from(p.at(1))});
    s.patch_ids = j.at("patch_ids").get<std::vector<std::vector<std::uint64_t>>>();
    s.patch_ids.resize(d.patches.size());
    d.given.vertices = points_from(j.at("given_places"));
    const json& given = j.at("given");
    for (std::size_t i = 0; i + 3 <= given.size(); i += 3) {
        std::array<std::uint32_t, 3> t{given[i], given[i + 1], given[i + 2]};
        for (const std::uint32_t v : t)
            if (v >= d.given.vertices.size())
                throw Error(ErrorCode::Format, "What a surface was built from names places that it lacks");
        d.given.triangles.push_back(t);
    }
}

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

std::string packed(const SurfaceSource& s) {
    const surface::Definition& d = s.definition;
    json areas = json::array(), patches = json::array(), given = json::array();
    for (const surface::Patch& p : d.patches) patches.push_back({places(p.outline), lines_json(p.lines)});
    for (const auto& t : d.given.triangles)
        for (const std::uint32_t v : t) given.push_back(v);
    for (const auto& [id, rings] : s.areas) areas.push_back({id, rings_json(rings)});
    const json j{{"version", 1},
                 {"points", places(d.points)},
                 {"breaklines", lines_json(d.breaklines)},
                 {"boundary", rings_json(d.boundary)},
                 {"whole", d.boundary_edges == surface::Edges::Whole},
                 {"duplicates", static_cast<int>(d.duplicates)},
                 {"crossings", static_cast<int>(d.crossings)},
                 {"limits", {d.limits.longest_edge, d.limits.rim_edge, d.limits.rim_angle}},
                 {"breakline_ids", s.breakline_ids},
                 {"boundary_ids", s.boundary_ids},
                 {"areas", areas},
                 {"patches", patches},
                 {"patch_ids", s.patch_ids},
                 {"given_places", places(d.given.vertices)},
                 {"given", given}};
    const std::vector<std::uint8_t> bytes = json::to_cbor(j);
    return pack(std::string(bytes.begin(), bytes.end()));
}

SurfaceSource unpacked_source(const std::string& text) {
    try {
        const std::string bytes = unpack(text, std::uint64_t{1} << 36);
        const json j = json::from_cbor(bytes);
        SurfaceSource s;
        surface::Definition& d = s.definition;
        d.points = points_from(j.at("points"));
        d.breaklines = lines_from(j.at("breaklines"));
        d.boundary = rings_from(j.at("boundary"));
        d.boundary_edges = j.at("whole").get<bool>() ? surface::Edges::Whole : surface::Edges::Exact;
        d.duplicates = static_cast<surface::Duplicates>(j.at("duplicates").get<int>());
        d.crossings = static_cast<surface::Crossings>(j.at("crossings").get<int>());
        const json& l = j.at("limits");
        d.limits = {l.at(0), l.at(1), l.at(2)};
        s.breakline_ids = j.at("breakline_ids").get<std::vector<std::uint64_t>>();
        s.boundary_ids = j.at("boundary_ids").get<std::vector<std::uint64_t>>();
        for (const json& a : j.at("areas")) s.areas[a.at(0)] = rings_from(a.at(1));
        if (j.contains("patches")) take_patches(j, s);
        return s;
    } catch (const json::exception& e) {
        throw Error(ErrorCode::Format, std::string("What a surface was built from is damaged: ") + e.what());
    }
}

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

SourcePtr with_patch(const SurfaceSource& source, const Line& outline, const std::vector<LinePtr>& lines) {
    if (!outline.closed || outline.points.size() < 3)
        throw Error(ErrorCode::Usage, "The outline of a part is a closed line", {},
                    "Close it: click its first place again while drawing.");
    auto next = std::make_shared<SurfaceSource>(source);
    surface::Patch patch{outline.points, {}};
    next->patch_ids.resize(next->definition.patches.size());
    std::vector<std::uint64_t> ids{outline.id};
    const surface::Inside inside({outline.points});
    for (const LinePtr& l : lines) {
        if (l->id == outline.id) continue;
        if (std::none_of(l->points.begin(), l->points.end(), [&](const Vec3& p) { return inside(p.x, p.y); }))
            continue;
        patch.lines.push_back({l->name, l->points, l->closed});
        ids.push_back(l->id);
    }
    next->definition.patches.push_back(std::move(patch));
    next->patch_ids.push_back(std::move(ids));
    return next;
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

std::pair<SourcePtr, std::size_t> without_points(const Item& item, const ElementSet& set) {
    if (!item.source || !item.source->definition.given.triangles.empty())
        throw Error(ErrorCode::Usage, "The points of this surface are those of its file", {},
                    "Draw a line round the bad one and replace the surface inside.");
    const mesh::TriMesh& m = *item.cloud->triangles();
    std::vector<std::uint32_t> all(m.vertices.size(), 0), own(m.vertices.size(), 0);
    for (const auto& t : m.triangles)
        for (const std::uint32_t v : t) ++all[v];
    set.for_each([&](std::uint64_t e) {
        for (const std::uint32_t v : m.triangles[e]) ++own[v];
    });
    std::set<std::pair<double, double>> gone;
    for (std::size_t v = 0; v < all.size(); ++v)
        if (own[v] > 0 && own[v] == all[v]) gone.insert({m.vertices[v].x, m.vertices[v].y});
    auto next = std::make_shared<SurfaceSource>(*item.source);
    const std::size_t before = next->definition.points.size();
    std::erase_if(next->definition.points, [&](const Vec3& p) { return gone.contains({p.x, p.y}); });
    return {next, before - next->definition.points.size()};
}

}  // namespace pristine::site
