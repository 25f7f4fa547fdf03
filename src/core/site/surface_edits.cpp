#include "core/site/surface_edits.h"

#include <algorithm>
#include <map>
#include <set>

#include "core/base/error.h"
#include "core/repair/smooth_heights.h"
#include "core/site/change.h"
#include "core/surface/make.h"
#include "core/surface/thin.h"
#include "core/topology/adjacency.h"

namespace pristine::site {
namespace {

using Kind = SurfaceEdit::Kind;
using Places = std::set<std::pair<double, double>>;  // in plan

std::uint32_t next_number(const SurfaceSource& s) {
    return s.edits.empty() ? 1 : s.edits.rbegin()->first + 1;
}

Cause built(const std::string& id, Settings settings) {
    return by({.kind = Act::Kind::Build, .id = id, .settings = std::move(settings)});
}

// Points by their places in plan, each place with its points in their order.
using ByPlace = std::map<std::pair<double, double>, std::vector<Vec3>>;

std::pair<double, double> place(const Vec3& p) {
    return {p.x, p.y};
}

bool moves_points(const SurfaceEdit& e) {
    return e.kind == Kind::DropPoints || e.kind == Kind::Heights;
}

Places places_of(const SurfaceEdit& e) {
    Places places;
    for (const Vec3& p : e.points) places.insert(place(p));
    return places;
}

// The points in these places, in their order.
std::vector<Vec3> at(const std::vector<Vec3>& points, const Places& places) {
    std::vector<Vec3> found;
    for (const Vec3& p : points)
        if (places.contains(place(p))) found.push_back(p);
    return found;
}

// What changes of points are about: the places of a surface from a file are its vertices.
std::vector<Vec3>& points_in(SurfaceSource& s) {
    return s.definition.given.triangles.empty() ? s.definition.points : s.definition.given.vertices;
}

// The points without any change; for a surface from a file in the order of its vertices.
std::vector<Vec3> raw_points(const SurfaceSource& s) {
    ByPlace held;
    for (const auto& [number, e] : s.edits) {
        if (!moves_points(e)) continue;
        ByPlace own;
        for (const Vec3& p : e.held) own[place(p)].push_back(p);
        held.merge(own);
    }
    const bool given = !s.definition.given.triangles.empty();
    std::vector<Vec3> raw;
    for (const Vec3& p : given ? s.definition.given.vertices : s.definition.points) {
        const auto known = held.find(place(p));
        if (known == held.end())
            raw.push_back(p);
        else if (given)
            raw.push_back(known->second.front());
    }
    if (!given)
        for (const auto& [where, points] : held) raw.insert(raw.end(), points.begin(), points.end());
    return raw;
}

// The points as the changes in force make them.
std::vector<Vec3> changed(std::vector<Vec3> raw, const SurfaceSource& s) {
    Places gone;
    std::map<std::pair<double, double>, double> height;
    for (const auto& [number, e] : s.edits) {
        if (!e.active || !moves_points(e)) continue;
        if (e.kind == Kind::DropPoints) gone.merge(places_of(e));
        if (e.kind == Kind::Heights)
            for (const Vec3& p : e.points) height[place(p)] = p.z;  // the latest holds
    }
    std::erase_if(raw, [&](const Vec3& p) { return gone.contains(place(p)); });
    for (Vec3& p : raw)
        if (const auto known = height.find(place(p)); known != height.end()) p.z = known->second;
    return raw;
}

// Of each vertex whether all of its triangles, one at least, are in the set.
std::vector<char> whole_vertices(const mesh::TriMesh& m, const ElementSet& set) {
    std::vector<std::uint32_t> all(m.vertices.size(), 0), own(m.vertices.size(), 0);
    for (const auto& t : m.triangles)
        for (const std::uint32_t v : t) ++all[v];
    set.for_each([&](std::uint64_t e) {
        for (const std::uint32_t v : m.triangles[e]) ++own[v];
    });
    std::vector<char> whole(m.vertices.size(), 0);
    for (std::size_t v = 0; v < whole.size(); ++v) whole[v] = own[v] > 0 && own[v] == all[v];
    return whole;
}

// Adds a change of points, and takes it into the definition.
std::uint32_t add_change(SurfaceSource& s, Kind kind, std::vector<Vec3> points) {
    std::vector<Vec3> raw = raw_points(s);
    const std::uint32_t number = next_number(s);
    SurfaceEdit& e = s.edits[number];
    e.kind = kind;
    e.points = std::move(points);
    e.held = at(raw, places_of(e));
    points_in(s) = changed(std::move(raw), s);
    return number;
}

// The points of the surface as they are before any is dropped, thinned or not.
std::vector<Vec3> points_of(const Site& site, const SurfaceEdit& thinning, Progress& progress) {
    const ItemPtr item = site.item(thinning.item);
    if (!item || item->cloud->triangles() || !thinning.part || item->cloud->size() != thinning.part->size())
        throw Error(ErrorCode::Usage,
                    "The points that the surface was thinned from are not in the site any more", {},
                    "Undo until they are there, or build the surface anew.");
    std::vector<Vec3> all = surface::places_of(*item->cloud, *thinning.part);
    if (!thinning.active) return all;
    std::vector<Vec3> kept;
    for (const std::uint32_t i : surface::thinned(all, thinning.tolerance, progress)) kept.push_back(all[i]);
    return kept;
}

// In force a part stands in the definition, in the order of the changes; lifted in the change.
void set_patch(SurfaceSource& s, std::uint32_t number, SurfaceEdit& edit, bool active) {
    edit.active = active;
    s.patch_edits.resize(s.definition.patches.size());
    const auto at = std::lower_bound(s.patch_edits.begin(), s.patch_edits.end(), number);
    const auto k = at - s.patch_edits.begin();
    auto& patches = s.definition.patches;
    if (active) {
        patches.insert(patches.begin() + k, std::move(edit.patch));
        s.patch_ids.insert(s.patch_ids.begin() + k, std::move(edit.patch_ids));
        s.patch_edits.insert(at, number);
        edit.patch = {};
        edit.patch_ids.clear();
        return;
    }
    edit.patch = std::move(patches[static_cast<std::size_t>(k)]);
    edit.patch_ids = std::move(s.patch_ids[static_cast<std::size_t>(k)]);
    patches.erase(patches.begin() + k);
    s.patch_ids.erase(s.patch_ids.begin() + k);
    s.patch_edits.erase(at);
}

}  // namespace

Edited without_points(const Item& item, const ElementSet& set) {
    if (!item.source || !item.source->definition.given.triangles.empty())
        throw Error(ErrorCode::Usage, "The points of this surface are those of its file", {},
                    "Draw a line round the bad one and replace the surface inside.");
    const mesh::TriMesh& m = *item.cloud->triangles();
    const std::vector<char> whole = whole_vertices(m, set);
    Places places;
    for (std::size_t v = 0; v < whole.size(); ++v)
        if (whole[v]) places.insert(place(m.vertices[v]));
    auto next = std::make_shared<SurfaceSource>(*item.source);
    std::vector<Vec3> gone = at(next->definition.points, places);
    if (gone.empty()) return {};
    const std::uint64_t count = gone.size();
    const std::uint32_t number = add_change(*next, Kind::DropPoints, std::move(gone));
    return {next, number, built("surface.drop_points", {{"points", static_cast<double>(count)}}), count};
}

namespace {

// Of each vertex whether it may move: a point of the definition, inside the set, on no rim and no breakline.
std::vector<char> free_vertices(const mesh::TriMesh& m, const ElementSet& set, const SurfaceSource& source) {
    std::vector<char> may = whole_vertices(m, set);
    for (const auto& rim : topology::boundary_loops(m.triangles, topology::adjacency(m.triangles)))
        for (const std::uint32_t v : rim) may[v] = 0;
    // How often each place is there: of a surface from a file two heights in one place stay.
    const surface::Definition& d = source.definition;
    const bool given = !d.given.triangles.empty();
    std::map<std::pair<double, double>, int> known;
    for (const Vec3& p : given ? d.given.vertices : d.points) ++known[place(p)];
    Places fixed;
    for (const surface::Breakline& b : d.breaklines)
        for (const Vec3& p : b.points) fixed.insert(place(p));
    for (std::size_t v = 0; v < may.size(); ++v) {
        if (!may[v]) continue;
        const auto at = known.find(place(m.vertices[v]));
        may[v] = at != known.end() && (!given || at->second == 1) && !fixed.contains(place(m.vertices[v]));
    }
    return may;
}

}  // namespace

Edited with_smoothed(const Item& item, const ElementSet& set, double most, double& largest,
                     Progress& progress) {
    const SourcePtr source = source_of(item);
    const mesh::TriMesh& m = *item.cloud->triangles();
    const repair::SmoothHeights smooth =
        repair::smoothed_heights(m, free_vertices(m, set, *source), most, 3, progress);
    largest = smooth.largest;
    std::vector<Vec3> points;
    for (std::size_t v = 0; v < m.vertices.size(); ++v)
        if (smooth.heights[v] != m.vertices[v].z)
            points.push_back({m.vertices[v].x, m.vertices[v].y, smooth.heights[v]});
    if (points.empty()) return {};
    auto next = std::make_shared<SurfaceSource>(*source);
    const std::uint64_t count = points.size();
    const std::uint32_t number = add_change(*next, Kind::Heights, std::move(points));
    return {next, number,
            built("surface.smooth", {{"points", static_cast<double>(count)}, {"largest", largest}}), count};
}

Edited with_patch(const SurfaceSource& source, const Line& outline, const std::vector<LinePtr>& lines) {
    if (!outline.closed || outline.points.size() < 3)
        throw Error(ErrorCode::Usage, "The outline of a part is a closed line", {},
                    "Close it: click its first place again while drawing.");
    auto next = std::make_shared<SurfaceSource>(source);
    surface::Patch patch{outline.points, {}};
    next->patch_ids.resize(next->definition.patches.size());
    next->patch_edits.resize(next->definition.patches.size());
    std::vector<std::uint64_t> ids{outline.id};
    std::vector<std::string> names;
    const surface::Inside inside({outline.points});
    for (const LinePtr& l : lines) {
        if (l->id == outline.id) continue;
        if (std::none_of(l->points.begin(), l->points.end(), [&](const Vec3& p) { return inside(p.x, p.y); }))
            continue;
        patch.lines.push_back({l->name, l->points, l->closed});
        ids.push_back(l->id);
        names.push_back(l->name);
    }
    const std::uint64_t along = names.size();
    const std::uint32_t number = next_number(*next);
    next->definition.patches.push_back(std::move(patch));
    next->patch_ids.push_back(std::move(ids));
    next->patch_edits.push_back(number);
    next->edits[number] = {.kind = Kind::ReplacePart, .points = {}, .held = {}, .patch_ids = {}, .part = {}};
    return {next, number, built("surface.replace_part", {{"lines", std::move(names)}}), along};
}

Edited with_limits(const SurfaceSource& source, const surface::Limits& limits) {
    if (limits == source.definition.limits) return {};
    auto next = std::make_shared<SurfaceSource>(source);
    next->definition.limits = limits;
    const auto known = std::find_if(next->edits.begin(), next->edits.end(),
                                    [](const auto& e) { return e.second.kind == Kind::Limits; });
    const bool any = limits != surface::Limits{};
    const std::uint32_t number = known != next->edits.end() ? known->first : next_number(*next);
    SurfaceEdit& edit = next->edits[number];
    edit.kind = Kind::Limits;
    edit.active = any;
    edit.limits = any ? limits : source.definition.limits;
    Settings settings;
    if (edit.limits.longest_edge > 0) settings["longest"] = edit.limits.longest_edge;
    if (edit.limits.rim_edge > 0) settings["rim"] = edit.limits.rim_edge;
    if (edit.limits.rim_angle > 0) settings["angle"] = edit.limits.rim_angle;
    return {next, number, built("surface.limits", std::move(settings)), 0};
}

Edited with_thinning(const SurfaceSource& source, double tolerance, const Item& of, const SetPtr& part) {
    auto next = std::make_shared<SurfaceSource>(source);
    const std::uint32_t number = next_number(*next);
    next->edits[number] = {.kind = Kind::Thinning,
                           .points = {},
                           .held = {},
                           .patch_ids = {},
                           .tolerance = tolerance,
                           .item = of.id,
                           .part = part};
    const std::uint64_t used = next->definition.points.size(), all = part->count();
    return {next, number,
            built("surface.thinning", {{"tolerance", tolerance},
                                       {"used", static_cast<double>(used)},
                                       {"of", static_cast<double>(all)}}),
            all - used};
}

SourcePtr with_edits(const Site& site, const SurfaceSource& source, const std::vector<std::uint32_t>& numbers,
                     bool active, Progress& progress) {
    auto next = std::make_shared<SurfaceSource>(source);
    SurfaceEdit* thinning = nullptr;
    bool points = false;
    for (const std::uint32_t number : numbers) {
        const auto found = next->edits.find(number);
        if (found == next->edits.end()) throw detail::missing("This ledger entry");
        SurfaceEdit& edit = found->second;
        if (edit.active == active) continue;
        if (edit.kind == Kind::ReplacePart) set_patch(*next, number, edit, active);
        if (edit.kind == Kind::Limits) next->definition.limits = active ? edit.limits : surface::Limits{};
        if (edit.kind == Kind::Thinning) thinning = &edit;
        points |= moves_points(edit);
        edit.active = active;
    }
    if (!thinning && !points) return next;
    const std::vector<Vec3> raw = thinning ? points_of(site, *thinning, progress) : raw_points(*next);
    if (thinning)
        for (auto& [number, e] : next->edits)
            if (moves_points(e)) e.held = at(raw, places_of(e));
    points_in(*next) = changed(raw, *next);
    return next;
}

SitePtr enter_edit(const Site& site, std::uint64_t id, std::uint32_t number, const Decision& d) {
    auto next = detail::with_item(site, id, [&](Item& item) {
        if (!item.source || !item.source->edits.contains(number)) throw detail::missing("This change");
        const SurfaceEdit& edit = item.source->edits.at(number);
        const auto known = std::find_if(item.ledger.begin(), item.ledger.end(),
                                        [&](const LedgerEntry& e) { return e.edit == number; });
        if (known == item.ledger.end()) {
            item.ledger.push_back({site.next_id, d.reason, d.cause, d.signature.who, d.signature.when,
                                   edit.active, std::make_shared<const ElementSet>(item.cloud->size()),
                                   d.picture});
            item.ledger.back().edit = number;
        } else {
            known->cause = d.cause;
            known->who = d.signature.who;
            known->when = d.signature.when;
            known->active = edit.active;
        }
        if (edit.kind == Kind::Thinning) item.thinned = edit.active ? edit.tolerance : 0;
    });
    next->next_id = site.next_id + 1;
    return next;
}

Box3 place_of(const SurfaceEdit& edit, const SurfaceSource& source, std::uint32_t number) {
    Box3 box;
    for (const Vec3& p : edit.points) box.add(p);
    const surface::Patch* patch = edit.kind == Kind::ReplacePart ? &edit.patch : nullptr;
    for (std::size_t k = 0; patch && k < source.patch_edits.size(); ++k)
        if (source.patch_edits[k] == number) patch = &source.definition.patches[k];
    if (patch)
        for (const Vec3& p : patch->outline) box.add(p);
    return box;
}

}  // namespace pristine::site
