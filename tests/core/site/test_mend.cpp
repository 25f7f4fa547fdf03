// Repairs as entries of the ledger: what is taken, what is made, and what is untouched.

#include <catch2/catch.hpp>

#include <algorithm>
#include <cstring>
#include <map>
#include <random>
#include <set>

#include "core/base/error.h"
#include "core/cloud/column.h"
#include "core/cloud/grown.h"
#include "core/cloud/triangles.h"
#include "core/io/cloud_io.h"
#include "core/io/keep.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/io/mesh/mesh_io.h"
#include "core/mesh/weld.h"
#include "core/repair/repair.h"
#include "core/repair/steps.h"
#include "core/site/history.h"
#include "core/site/mend.h"
#include "core/store/database.h"
#include "core/store/project.h"
#include "demo/milestone.h"
#include "demo/solids.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

using Corners = std::array<double, 9>;

Corners corners_of(const mesh::TriMesh& m, std::size_t t) {
    std::array<std::array<double, 3>, 3> c{};
    for (std::size_t k = 0; k < 3; ++k) {
        const Vec3& p = m.vertices[m.triangles[t][k]];
        c[k] = {p.x, p.y, p.z};
    }
    std::rotate(c.begin(), std::min_element(c.begin(), c.end()), c.end());
    Corners out{};
    for (std::size_t k = 0; k < 9; ++k) out[k] = c[k / 3][k % 3];
    return out;
}

std::multiset<Corners> triangles_of(const mesh::TriMesh& m) {
    std::multiset<Corners> out;
    for (std::size_t t = 0; t < m.triangles.size(); ++t) out.insert(corners_of(m, t));
    return out;
}

std::multiset<Corners> triangles_of(const cloud::PointCloud& c, const ElementSet& set) {
    std::multiset<Corners> out;
    set.for_each([&](std::uint64_t e) { out.insert(corners_of(*c.triangles(), e)); });
    return out;
}

std::multiset<Corners> shown(const site::Item& i) {
    return triangles_of(*i.cloud, ~*i.absent);
}

site::SitePtr site_of(const mesh::TriMesh& m, cloud::TriangleParts parts = {}) {
    parts.unit = "m";
    return site::add_cloud(site::Site{}, cloud::cloud_of_triangles(m, parts), "Stone", "stone.ply");
}

const site::Item& item(const site::SitePtr& s) {
    return *s->items.at(0);
}

site::SitePtr mended(const site::SitePtr& s, const mesh::TriMesh& result,
                     const std::string& reason = "Repaired") {
    const site::Item& i = item(s);
    return site::mend(*s, i.id, i.cloud, site::mended(i, result),
                      {reason, site::said("by test"), {}, nullptr});
}

mesh::TriMesh shown_mesh(const site::Item& i) {
    return io::mesh_of(*i.cloud, ~*i.absent);
}

// Some triangles of what is shown, at random.
ElementSet some(const site::Item& i, std::mt19937_64& dice, int n) {
    ElementSet out(i.cloud->size());
    for (int k = 0; k < n; ++k) out.insert(dice() % i.cloud->size());
    return out & ~*i.absent;
}

}  // namespace

TEST_CASE("ARepairIsAnEntryThatCanBeLiftedAndAppliedAgain") {
    const std::uint64_t seed = test::seed_for("mend");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    mesh::TriMesh m = demo::ball(16, 1, {412'300, 5'218'930, 58});
    std::vector<Vec3> where;
    for (const demo::Break b : {demo::Break::Hole, demo::Break::DoubledFace, demo::Break::FloatingPiece})
        demo::break_mesh(m, b, dice, where);
    cloud::TriangleParts parts;
    parts.value_name = "deviation";
    for (std::size_t t = 0; t < m.triangles.size(); ++t)
        parts.values.push_back(0.25 * static_cast<double>(t));
    site::SitePtr s = site_of(m, parts);
    // The item has entries, a guard and a kept selection of its own before.
    s = site::select(*s, some(item(s), dice, 40), site::Combine::New);
    s = site::remove_selection(*s, {"By hand", {}, {}, nullptr});
    s = site::select(*s, some(item(s), dice, 30), site::Combine::New);
    s = site::keep_selection(*s, "mine");
    s = site::guard(*s, some(item(s), dice, 30), "Guarded");
    const site::SitePtr before = s;
    const auto sets = [](const site::SitePtr& at) {
        const site::Item& i = item(at);
        return std::array{triangles_of(*i.cloud, *i.ledger[0].elements),
                          triangles_of(*i.cloud, *i.guards[0].elements),
                          triangles_of(*i.cloud, *i.kept[0].elements)};
    };
    const mesh::TriMesh now = shown_mesh(item(s));
    const repair::Repaired done = repair::repair(now);
    REQUIRE(done.after.sound());
    s = mended(s, done.mesh);

    CHECK(shown(item(s)) == triangles_of(done.mesh));
    CHECK(sets(s) == sets(before));
    REQUIRE(item(s).ledger.size() == 2);
    const site::LedgerEntry& e = item(s).ledger[1];
    CHECK(e.made->count() > 0);
    CHECK(item(s).cloud->size() == item(before).cloud->size() + e.made->count());
    // What was not named is the same record with the same value; what was made has none.
    const auto values = cloud::fetch_column(*item(s).cloud, "deviation", Progress::none());
    const auto old_values = cloud::fetch_column(*item(before).cloud, "deviation", Progress::none());
    std::map<Corners, float> was;
    for (std::size_t t = 0; t < item(before).cloud->size(); ++t)
        was[corners_of(*item(before).cloud->triangles(), t)] = old_values->values[t];
    for (std::size_t t = 0; t < item(s).cloud->size(); ++t) {
        const float v = values->values[t];
        if (e.made->contains(t))
            CHECK(v != v);
        else if (!was.contains(corners_of(*item(s).cloud->triangles(), t)))
            FAIL("a triangle that was not there");
    }
    // Lifted: what was there before; applied again: what the repair made.
    const site::SitePtr lifted = site::set_entry_active(*s, item(s).id, e.id, false);
    CHECK(shown(item(lifted)) == shown(item(before)));
    CHECK(sets(lifted) == sets(before));
    const site::SitePtr again = site::set_entry_active(*lifted, item(s).id, e.id, true);
    CHECK(shown(item(again)) == triangles_of(done.mesh));
    // Among the removed ones of a lifted repair nothing of what it made can be chosen.
    CHECK(triangles_of(*item(lifted).cloud, site::eligible_removed(item(lifted))) ==
          triangles_of(*item(before).cloud, site::eligible_removed(item(before))));
    // Nothing changed: nothing taken, nothing made.
    const site::Mended none = site::mended(item(s), shown_mesh(item(s)));
    CHECK(none.taken->empty());
    CHECK(none.made->empty());
}

TEST_CASE("ChainsOfRepairsAreLiftedInOrderOnly") {
    const std::uint64_t seed = test::seed_for("mend chain");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    site::SitePtr s = site_of(demo::ball(12, 1));
    const auto grown = [&](const site::SitePtr& at, double by) {
        // Every corner in the upper half moves: what the step before made there is taken again.
        mesh::TriMesh m = shown_mesh(item(at));
        for (Vec3& v : m.vertices)
            if (v.z > 0.3) v.z += by;
        return m;
    };
    const mesh::TriMesh first = grown(s, 0.1);
    s = mended(s, first, "First");
    const mesh::TriMesh second = grown(s, 0.2);
    s = mended(s, second, "Second");
    CHECK(shown(item(s)) == triangles_of(second));
    const std::uint64_t a = item(s).ledger[0].id, b = item(s).ledger[1].id, id = item(s).id;
    CHECK_THROWS_WITH(site::set_entry_active(*s, id, a, false), Catch::Contains("Second"));
    site::SitePtr back = site::set_entry_active(*s, id, b, false);
    CHECK(shown(item(back)) == triangles_of(first));
    back = site::set_entry_active(*back, id, a, false);
    CHECK(shown(item(back)) == triangles_of(demo::ball(12, 1)));
    CHECK_THROWS_WITH(site::set_entry_active(*back, id, b, true), Catch::Contains("First"));
    back = site::set_entry_active(*back, id, a, true);
    back = site::set_entry_active(*back, id, b, true);
    CHECK(shown(item(back)) == triangles_of(second));
    // Of an item that changed meanwhile a repair is dropped.
    const site::Mended late = site::mended(item(s), first);
    const site::SitePtr other = mended(s, grown(s, 0.3));
    CHECK_THROWS_WITH(site::mend(*other, id, item(s).cloud, late, {"", {}, {}, nullptr}),
                      Catch::Contains("meanwhile"));
}

TEST_CASE("RandomRepairsShowWhatTheyMadeAndSurviveTheProject", "[property]") {
    const std::uint64_t seed = test::seed_for("mend random");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    const test::TemporaryFolder f;
    const mesh::TriMesh m = demo::milestone_scan(14);
    cloud::TriangleParts parts;
    parts.attributes = demo::milestone_colours(m);
    site::SitePtr s = site_of(m, parts);
    site::History h(std::make_shared<const site::Site>());
    for (int round = 0; round < 25; ++round) {
        const std::multiset<Corners> was = shown(item(s));
        if (round % 3 == 0) {
            const ElementSet gone = some(item(s), dice, 25);
            s = site::select(*s, gone, site::Combine::New);
            s = site::remove_selection(*s, {"By hand", {}, {}, nullptr});
        } else {
            mesh::TriMesh now = shown_mesh(item(s));
            const Vec3 at = now.vertices[dice() % now.vertices.size()];
            for (Vec3& v : now.vertices)
                if (norm(v - at) < 0.05) v = v + Vec3{0.001, 0.002, 0.001 * static_cast<double>(dice() % 5)};
            const auto wanted = triangles_of(now);
            s = mended(s, now);
            REQUIRE(shown(item(s)) == wanted);
            // Lifting the last shows what was there.
            const site::SitePtr lifted =
                site::set_entry_active(*s, item(s).id, item(s).ledger.back().id, false);
            REQUIRE(shown(item(lifted)) == was);
            if (dice() % 4 == 0) s = lifted;
        }
        h.commit(s, "Round");
    }
    {
        const auto project = store::Project::create(f / "a.pristine");
        for (const site::Commit& c : h.commits()) project->write(c);
        project->set_cursor(h.current().number);
    }
    const auto stored = store::Project::open(f / "a.pristine");
    const site::SitePtr opened = stored->load().now();
    CHECK(shown(item(opened)) == shown(item(s)));
    REQUIRE(item(opened).ledger.size() == item(s).ledger.size());
    for (std::size_t k = 0; k < item(s).ledger.size(); ++k) {
        const site::LedgerEntry &a = item(opened).ledger[k], &b = item(s).ledger[k];
        CHECK(a.active == b.active);
        REQUIRE((a.made == nullptr) == (b.made == nullptr));
        if (a.made) CHECK(*a.made == *b.made);
        CHECK(*a.elements == *b.elements);
    }
    // What goes into a file is what is shown, with its colours.
    io::write_cloud({{item(opened).cloud, io::keep_all_but(*item(opened).cloud, *item(opened).absent)}},
                    f / "out.ply", {}, Progress::none());
    const io::MeshFile out = io::read_mesh(f / "out.ply");
    CHECK(triangles_of(out.mesh) == shown(item(s)));
    CHECK(out.attributes.colours.size() == out.mesh.triangles.size());
}

TEST_CASE("WhatWasThereAndWhatWasMadeAreToldApart") {
    site::SitePtr s = site_of(demo::ball(10, 1));
    const std::multiset<Corners> first = shown(item(s));
    ElementSet gone(item(s).cloud->size());
    for (std::uint64_t e = 0; e < 20; ++e) gone.insert(e);
    s = site::remove_selection(*site::select(*s, gone, site::Combine::New), {"By hand", {}, {}, nullptr});
    mesh::TriMesh now = shown_mesh(item(s));
    for (Vec3& v : now.vertices)
        if (v.z > 0.5) v.z += 0.1;
    s = mended(s, now);
    const site::Item& i = item(s);
    // Before any decision: everything but what was made.
    CHECK(triangles_of(*i.cloud, ~i.made()) == first);
    CHECK(i.taken().count() == 20 + i.ledger[1].count());
    const site::SitePtr lifted = site::set_entry_active(*s, i.id, i.ledger[1].id, false);
    CHECK(item(lifted).taken().count() == 20);
    CHECK(item(lifted).made() == i.made());
    CHECK(item(lifted).removed->count() == 20 + i.made().count());
    // What was taken by hand can be put back by hand, also after a repair.
    site::SitePtr back = site::select_removed(*s, i.taken(), site::Combine::New);
    back = site::put_back_selection(*back);
    CHECK(item(back).taken().empty());
    CHECK(shown(item(back)) == first);
}

TEST_CASE("GuardedTrianglesAreNotTakenByARepair") {
    site::SitePtr s = site_of(demo::ball(10, 1));
    const mesh::TriMesh before = shown_mesh(item(s));
    mesh::TriMesh now = before;
    for (Vec3& v : now.vertices)
        if (v.z > 0.8) v.z += 0.1;
    const site::Mended m = site::mended(item(s), now);
    REQUIRE(m.taken->count() > 5);
    // Guarded is a triangle that stays: fine. Then one that would go.
    std::uint64_t stays = 0, goes = 0;
    for (std::uint64_t e = 0; e < m.element.size(); ++e) (m.taken->contains(m.element[e]) ? goes : stays) = e;
    const auto guarded = [&](std::uint64_t e) {
        ElementSet set(item(s).cloud->size());
        set.insert(e);
        return site::guard(*s, set, "Lettering");
    };
    const site::Decision d{"Moved", site::said("by test"), {}, nullptr};
    const site::SitePtr fine = guarded(stays), refused = guarded(goes);
    CHECK(shown(item(site::mend(*fine, item(fine).id, item(fine).cloud, m, d))) == triangles_of(now));
    CHECK_THROWS_WITH(site::mend(*refused, item(refused).id, item(refused).cloud, m, d),
                      Catch::Contains("Lettering"));
}

TEST_CASE("ARepairOfALargeMeshWritesOnlyTheRecordsThatAreNew") {
    const test::TemporaryFolder f;
    site::SitePtr s = site_of(demo::ball(120, 1, {412300, 5218930, 58}));  // two chunks of records
    REQUIRE(item(s).cloud->size() > kPageSize);
    site::History h(std::make_shared<const site::Site>());
    h.commit(s, "Opened");
    std::vector<std::multiset<Corners>> wanted{shown(item(s))};
    {
        const auto project = store::Project::create(f / "a.pristine");
        for (const site::Commit& c : h.commits()) project->write(c);
        for (int round = 0; round < 3; ++round) {
            mesh::TriMesh now = shown_mesh(item(s));
            const Vec3 at = now.vertices[static_cast<std::size_t>(700 * (round + 1))];
            for (Vec3& v : now.vertices)
                if (norm(v - at) < 0.05) v = v + Vec3{0.001, 0, 0.002};
            s = mended(s, now);
            h.commit(s, "Repair");
            wanted.push_back(shown(item(s)));
            project->write(h.current());
            // Read from the file now, the first record to the last, across the border of what is shared.
            const auto records = item(s).cloud->records();
            const std::size_t bytes = records->layout().record_bytes;
            std::string all(records->count() * bytes, '\0'), part(10 * bytes, '\0');
            records->read(0, std::as_writable_bytes(std::span(all)));
            records->read(kPageSize - 5, std::as_writable_bytes(std::span(part)));
            CHECK(part == all.substr((kPageSize - 5) * bytes, 10 * bytes));
        }
    }
    // The first cloud has two rows of records, each of the others only the one that changed.
    {
        store::Database db(f / "a.pristine", store::Database::Mode::Read);
        store::Statement rows = db.prepare("SELECT count(*) FROM record GROUP BY cloud ORDER BY cloud");
        std::vector<std::int64_t> counts;
        while (rows.step()) counts.push_back(rows.number(0));
        CHECK(counts == std::vector<std::int64_t>{2, 1, 1, 1});
    }
    // Every state can be read back, by a session that has nothing in memory; and grown further.
    const auto stored = store::Project::open(f / "a.pristine");
    site::History read = stored->load();
    CHECK(shown(item(read.now())) == wanted[3]);
    site::SitePtr again = read.now();
    mesh::TriMesh now = shown_mesh(item(again));
    now.vertices[9] = now.vertices[9] + Vec3{0, 0, 0.0004};
    again = mended(again, now);
    read.commit(again, "Repair");
    stored->write(read.current());
    const auto last = shown(item(again));
    for (std::size_t k = 3; k-- > 1;) {
        read.undo();
        if (k == 2) read.undo();
        CHECK(shown(item(read.now())) == wanted[k]);
    }
    CHECK(shown(item(again)) == last);
}

TEST_CASE("AMeshThatGrowsIsTheOneThatIsMadeAnew", "[property]") {
    const std::uint64_t seed = test::seed_for("grown");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::uniform_real_distribution<double> u(-1, 1);
    for (int round = 0; round < 20; ++round) {
        const mesh::TriMesh m = demo::ball(6 + round % 5, 1, {412300, 5218930, 58});
        const auto old = cloud::cloud_of_triangles(m, {"m", {}, false, {}, {}, {}});
        // Some corners are places of the old mesh, some are named twice, some are new.
        mesh::TriMesh made;
        for (int k = 0; k < 12; ++k) {
            const Vec3& at = m.vertices[dice() % m.vertices.size()];
            made.vertices.push_back(k % 3 == 0 ? at + Vec3{u(dice), u(dice), u(dice)} : at);
            if (k % 4 == 3) made.vertices.push_back(made.vertices[dice() % made.vertices.size()]);
        }
        const auto n = made.vertices.size();
        for (int k = 0; k < 9; ++k)
            made.triangles.push_back({static_cast<std::uint32_t>(dice() % n),
                                      static_cast<std::uint32_t>(dice() % n),
                                      static_cast<std::uint32_t>(dice() % n)});
        const auto quick = cloud::grown(old, made, {"m", {}, false, {}, {}, {}});
        REQUIRE(quick);
        // The slow way: all corners, in the order of elements.
        std::vector<Vec3> corners;
        for (std::size_t p = 0; p < quick->page_count(); ++p)
            for (const std::uint32_t r : quick->order()->page(p)) {
                std::array<std::byte, 73> record{};
                quick->records()->read(r, record);
                for (std::size_t k = 0; k < 9; ++k) {
                    double v = 0;
                    std::memcpy(&v, record.data() + 8 * k, 8);
                    if (k % 3 == 0) corners.emplace_back();
                    corners.back()[static_cast<int>(k % 3)] = v;
                }
            }
        const mesh::TriMesh slow = mesh::weld(corners);
        CHECK(quick->triangles()->vertices == slow.vertices);
        CHECK(quick->triangles()->triangles == slow.triangles);
        std::multiset<Corners> both = triangles_of(m);
        for (const auto& t : triangles_of(made)) both.insert(t);
        CHECK(triangles_of(*quick->triangles()) == both);
        for (std::uint64_t e = 0; e < quick->size(); ++e) {
            const auto& c = quick->triangles()->triangles[e];
            const auto& v = quick->triangles()->vertices;
            REQUIRE(norm(quick->position(e) - (v[c[0]] + v[c[1]] + v[c[2]]) * (1 / 3.0)) < 1e-6);
        }
    }
    // Far outside of the grid, or with other fields: not this way.
    const auto old = cloud::cloud_of_triangles(demo::ball(6, 1), {"m", {}, false, {}, {}, {}});
    mesh::TriMesh far = demo::block(1, {0, 0, 0}, {1e6, 1, 1});
    CHECK_FALSE(cloud::grown(old, far, {"m", {}, false, {}, {}, {}}));
    CHECK_FALSE(cloud::grown(old, demo::block(1, {0, 0, 0}, {1, 1, 1}),
                             {"m", {}, false, "deviation", std::vector<double>(12, 0), {}}));
    CHECK_FALSE(cloud::grown(old, demo::block(1, {0, 0, 0}, {1, 1, 1}), {"m", {}, true, {}, {}, {}}));
}
