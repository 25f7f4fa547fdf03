// Surfaces in the document: built again after edits, with what was removed staying removed.

#include <catch2/catch.hpp>

#include <cmath>
#include <random>

#include "core/base/error.h"
#include "core/cloud/triangles.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/measure/figures.h"
#include "core/site/surface_edits.h"
#include "support/cloud_makers.h"

using namespace pristine;
using namespace pristine::site;

namespace {

constexpr Vec3 kSourceAt{4'412'300, 5'218'930, 58};

std::vector<Vec3> some_ground(std::mt19937_64& dice, std::size_t n) {
    std::uniform_real_distribution<double> u(0, 1);
    std::vector<Vec3> p;
    for (std::size_t i = 0; i < n; ++i) {
        const double x = 80 * u(dice), y = 60 * u(dice);
        p.push_back(kSourceAt + Vec3{x, y, std::sin(0.1 * x) + 0.05 * y});
    }
    return p;
}

SitePtr site_of(const surface::Definition& d, SourcePtr* source_out = nullptr) {
    auto source = std::make_shared<SurfaceSource>();
    source->definition = d;
    const auto c = cloud::cloud_of_triangles(surface::build(d).mesh, {"m", "", true, {}, {}});
    SitePtr s = add_cloud(Site(), c, "Surface", "built");
    s = activate(*s, s->items[0]->id);
    if (source_out) *source_out = source;
    return set_source(*s, s->items[0]->id, source);
}

ElementSet within(const Item& item, double x, double y, double r) {
    ElementSet set(item.cloud->size());
    std::vector<PageBits> bits(item.cloud->page_count());
    for (std::uint64_t e = 0; e < item.cloud->size(); ++e) {
        const Vec3 p = item.cloud->position(e) - kSourceAt;
        if (std::hypot(p.x - x, p.y - y) < r) bits[e / kPageSize].set(e % kPageSize);
    }
    for (std::size_t p = 0; p < bits.size(); ++p) set.set_page(p, bits[p]);
    return set;
}

double area(const Item& item, const ElementSet& set) {
    return measure::figures(io::mesh_of(*item.cloud, set)).plan_area;
}

}  // namespace

TEST_CASE("ASurfaceIsBuiltAgainAndItsRemovalsHold") {
    const std::uint64_t seed = test::seed_for("SurfaceSource");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::uniform_real_distribution<double> u(0, 1);
    surface::Definition d;
    d.points = some_ground(dice, 250);
    SitePtr s = site_of(d);
    const std::uint64_t id = s->items[0]->id;
    std::map<std::uint64_t, double> removed_area;
    for (int edit = 0; edit < 40; ++edit) {
        CAPTURE(edit);
        const ItemPtr item = s->item(id);
        if (edit % 8 == 1) {
            s = site::select(*s, within(*item, 80 * u(dice), 60 * u(dice), 8), Combine::New);
            if (s->selected() == 0) continue;
            s = remove_selection(*s, {"Artifact", site::said("test"), {}, nullptr});
            const LedgerEntry& e = s->item(id)->ledger.back();
            removed_area[e.id] = area(*s->item(id), *e.elements);
            continue;
        }
        if (edit % 8 == 5 && !item->ledger.empty()) {
            const LedgerEntry& e = item->ledger[dice() % item->ledger.size()];
            s = set_entry_active(*s, id, e.id, !e.active);
            continue;
        }
        SurfaceSource source = *item->source;
        if (edit % 3 == 0)
            source.definition.points.push_back(some_ground(dice, 1)[0]);
        else
            source.definition.points[dice() % source.definition.points.size()].z += u(dice);
        const Rebuilt r = rebuild(*item, source);
        s = replace_surface(*s, id, r);
        const ItemPtr now = s->item(id);
        // The whole of it is the surface without any removal; each entry holds the area that it took.
        const mesh::TriMesh bare = surface::build(source.definition).mesh;
        REQUIRE(measure::figures(*now->cloud->triangles()).plan_area ==
                Approx(measure::figures(bare).plan_area).epsilon(1e-9));
        const measure::Volumes a = measure::volumes(*now->cloud->triangles(), measure::level(58)),
                               b = measure::volumes(bare, measure::level(58));
        REQUIRE(a.above - a.below == Approx(b.above - b.below).epsilon(1e-9).margin(1e-6));
        for (const LedgerEntry& e : now->ledger)
            REQUIRE(area(*now, *e.elements) == Approx(removed_area[e.id]).epsilon(1e-6).margin(1e-6));
        // Law 2: what is out is the union of the active entries.
        ElementSet out(now->cloud->size());
        for (const LedgerEntry& e : now->ledger)
            if (e.active) out = out | *e.elements;
        REQUIRE(out == *now->removed);
    }
    CHECK(removed_area.size() >= 4);
}

TEST_CASE("GuardsKeptSelectionsAndHiddenTrianglesAreBuiltAgainToo") {
    std::mt19937_64 dice(4);
    surface::Definition d;
    d.points = some_ground(dice, 300);
    SitePtr s = site_of(d);
    const std::uint64_t id = s->items[0]->id;
    s = guard(*s, within(*s->item(id), 20, 20, 9), "Selection");
    s = site::select(*s, within(*s->item(id), 50, 40, 7), Combine::New);
    s = keep_selection(*s, "Bank");
    s = hide_selection(*s);
    const ItemPtr held = s->item(id);
    const Item& before = *held;
    const double guarded = area(before, *before.guards[0].elements),
                 kept = area(before, *before.kept[0].elements), hidden = area(before, *before.hidden);
    CHECK(hidden > 50);
    SurfaceSource source = *before.source;
    source.definition.points.push_back(kSourceAt + Vec3{50, 40, 9});
    source.definition.points.push_back(kSourceAt + Vec3{21, 20, 9});
    s = replace_surface(*s, id, rebuild(before, source));
    const Item& now = *s->item(id);
    CHECK(area(now, *now.guards[0].elements) == Approx(guarded).epsilon(1e-9));
    CHECK(area(now, *now.kept[0].elements) == Approx(kept).epsilon(1e-9));
    CHECK(area(now, *now.hidden) == Approx(hidden).epsilon(1e-9));
    CHECK(s->selected() == 0);
}

TEST_CASE("ADroppedPointTakesItsSpikeAlong") {
    std::mt19937_64 dice(6);
    surface::Definition d;
    d.points = some_ground(dice, 200);
    d.points.push_back(kSourceAt + Vec3{40, 30, 25});  // a rod height typed wrongly
    SitePtr s = site_of(d);
    const std::uint64_t id = s->items[0]->id;
    const ItemPtr held = s->item(id);
    const Item& item = *held;
    // The triangles at the spike.
    ElementSet round(item.cloud->size());
    PageBits bits;
    const mesh::TriMesh& m = *item.cloud->triangles();
    for (std::size_t t = 0; t < m.triangles.size(); ++t)
        for (const std::uint32_t v : m.triangles[t])
            if (m.vertices[v].z > kSourceAt.z + 20) bits.set(t);
    round.set_page(0, bits);
    const Edited dropped = without_points(item, round);
    CHECK(dropped.count == 1);
    s = replace_surface(*s, id, rebuild(item, *dropped.source));
    for (const Vec3& v : s->item(id)->cloud->triangles()->vertices) CHECK(v.z < kSourceAt.z + 10);
    Item foreign = item;
    foreign.source = nullptr;
    CHECK_THROWS_AS(without_points(foreign, round), Error);
}

TEST_CASE("WhatASurfaceWasBuiltFromIsStoredAndFollowsItsLines") {
    std::mt19937_64 dice(9);
    SurfaceSource s;
    s.definition.points = some_ground(dice, 50);
    s.definition.breaklines = {{"toe", {kSourceAt, kSourceAt + Vec3{5, 5, 1}}, false}};
    s.definition.boundary = {{kSourceAt, kSourceAt + Vec3{80, 0, 0}, kSourceAt + Vec3{80, 60, 0}}};
    s.definition.boundary_edges = surface::Edges::Whole;
    s.definition.duplicates = surface::Duplicates::Lowest;
    s.definition.crossings = surface::Crossings::Later;
    s.definition.limits = {5, 6, 170};
    s.breakline_ids = {3};
    s.boundary_ids = {4};
    s.areas[7] = {{kSourceAt, kSourceAt + Vec3{1, 0, 0}, kSourceAt + Vec3{0, 1, 0}}};
    const SurfaceSource back = unpacked_source(packed(s));
    CHECK(back.definition.points == s.definition.points);
    CHECK(back.definition.breaklines[0].points == s.definition.breaklines[0].points);
    CHECK(back.definition.breaklines[0].name == "toe");
    CHECK(back.definition.boundary == s.definition.boundary);
    CHECK(back.definition.boundary_edges == surface::Edges::Whole);
    CHECK(back.definition.duplicates == surface::Duplicates::Lowest);
    CHECK(back.definition.crossings == surface::Crossings::Later);
    CHECK(back.definition.limits == s.definition.limits);
    CHECK(back.breakline_ids == s.breakline_ids);
    CHECK(back.areas.at(7) == s.areas.at(7));
    CHECK_THROWS_AS(unpacked_source("nonsense"), Error);
    // Lines of the site.
    Site site;
    Line toe{3, "toe", s.definition.breaklines[0].points, false, true},
        rim{4, "rim", s.definition.boundary[0], true, true};
    site.lines = {std::make_shared<Line>(toe), std::make_shared<Line>(rim)};
    CHECK(with_lines_of(s, site) == nullptr);
    toe.points[1].z += 2;
    site.lines[0] = std::make_shared<Line>(toe);
    const SourcePtr moved = with_lines_of(s, site);
    REQUIRE(moved);
    CHECK(moved->definition.breaklines[0].points[1].z == Approx(kSourceAt.z + 3));
}
