// What an item stands for: its usual role, those it can have, and how they are kept.

#include <catch2/catch.hpp>

#include "core/base/error.h"
#include "core/cloud/triangles.h"
#include "core/site/site.h"
#include "core/store/project.h"
#include "support/cloud_makers.h"

using namespace pristine;
using namespace pristine::site;

namespace {

std::shared_ptr<const cloud::PointCloud> triangles(bool surface, const std::string& column = {}) {
    const mesh::TriMesh m{{{0, 0, 0}, {4, 0, 0}, {4, 4, 1}, {0, 4, 1}}, {{0, 1, 2}, {0, 2, 3}}};
    cloud::TriangleParts parts{"m", "", surface, column, {}};
    if (!column.empty()) parts.values = {0.5, -0.25};
    return cloud::cloud_of_triangles(m, parts);
}

}  // namespace

TEST_CASE("AnItemHasTheUsualRoleOfItsCloud") {
    CHECK(usual_role(*test::random_cloud(100, test::Shape::Terrain, 1)) == ItemRole::Points);
    CHECK(usual_role(*triangles(true)) == ItemRole::Terrain);
    CHECK(usual_role(*triangles(false)) == ItemRole::Mesh);
    CHECK(usual_role(*triangles(true, "change")) == ItemRole::ChangeMap);
    // Another column is no change of height, nor is a mesh with such a column a map.
    CHECK(usual_role(*triangles(true, "deviation")) == ItemRole::Terrain);
    CHECK(usual_role(*triangles(false, "change")) == ItemRole::Mesh);
    CHECK(add_cloud(Site{}, triangles(true, "change"), "map", "")->active_item()->role ==
          ItemRole::ChangeMap);
}

TEST_CASE("ARoleThatACloudCannotHaveIsRefused") {
    const SitePtr mesh = add_cloud(Site{}, triangles(false), "Gate", "");
    const std::uint64_t id = mesh->active;
    CHECK_THROWS_AS(set_role(*mesh, id, ItemRole::Terrain), Error);
    CHECK_THROWS_AS(set_role(*mesh, id, ItemRole::ChangeMap), Error);
    CHECK_THROWS_AS(set_role(*mesh, id, ItemRole::Points), Error);
    CHECK(set_role(*mesh, id, ItemRole::Lining)->active_item()->role == ItemRole::Lining);
    const SitePtr points = add_cloud(Site{}, test::random_cloud(10, test::Shape::Terrain, 1), "Scan", "");
    CHECK_THROWS_AS(set_role(*points, points->active, ItemRole::Mesh), Error);
    // Every role on offer can be given, and the usual one is among them.
    for (const auto& cloud : {triangles(true), triangles(false), triangles(true, "change")}) {
        const SitePtr s = add_cloud(Site{}, cloud, "one", "");
        bool usual = false;
        for (const ItemRole r : possible_roles(*cloud)) {
            CHECK(set_role(*s, s->active, r)->active_item()->role == r);
            CHECK(role_of(name_of(r), *cloud) == r);
            usual |= r == usual_role(*cloud);
        }
        CHECK(usual);
    }
}

TEST_CASE("RolesAreInTheProjectAndSurviveCopies") {
    const test::TemporaryFolder folder;
    SitePtr s = add_cloud(Site{}, triangles(true), "Chamber wall", "");
    s = set_role(*s, s->active, ItemRole::Lining);
    s = add_cloud(*s, triangles(true), "Ground", "");
    s = duplicate_item(*s, s->items[0]->id);
    CHECK(s->items[2]->role == ItemRole::Lining);
    {
        const auto p = store::Project::create(folder / "site.pristine");
        p->write({1, "start", s}, Progress::none());
    }
    const auto p = store::Project::open(folder / "site.pristine");
    const SitePtr back = p->load(Progress::none()).now();
    REQUIRE(back->items.size() == 3);
    CHECK(back->items[0]->role == ItemRole::Lining);
    CHECK(back->items[1]->role == ItemRole::Terrain);
    CHECK(back->items[2]->role == ItemRole::Lining);
}

TEST_CASE("APieceIsWhatItWasCutFrom") {
    SitePtr s = add_cloud(Site{}, triangles(true), "Bank", "");
    ElementSet one(2);
    one.insert(0);
    s = set_apart(*site::select(*s, one, Combine::New), "Part", true);
    REQUIRE(s->items.size() == 2);
    CHECK(s->items[1]->role == ItemRole::Terrain);
}

TEST_CASE("AnUnknownWordForARoleGivesTheUsualOne") {
    CHECK(role_of("", *triangles(true)) == ItemRole::Terrain);
    CHECK(role_of("terrain", *triangles(false)) == ItemRole::Mesh);
    CHECK(role_of("cheese", *triangles(false)) == ItemRole::Mesh);
}
