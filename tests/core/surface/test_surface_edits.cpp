// Changes of what a surface is built from: each can be lifted in any order, and what is then built is what
// would have been built without it.

#include <catch2/catch.hpp>

#include <algorithm>
#include <cmath>
#include <random>
#include <set>
#include <tuple>

#include "core/base/error.h"
#include "core/cloud/triangles.h"
#include "core/io/points.h"
#include "core/site/surface_edits.h"
#include "core/store/project.h"
#include "core/surface/make.h"
#include "support/cloud_makers.h"

using namespace pristine;
using namespace pristine::site;

namespace {

constexpr Vec3 kEditsAt{4'412'300, 5'218'930, 58};
constexpr double kTolerance = 0.1;

// Heights on a grid of 1/1024, so that no sum depends on its order; some places have two heights.
std::vector<Vec3> ground(std::mt19937_64& dice, std::size_t n) {
    std::uniform_real_distribution<double> u(0, 1);
    const auto fine = [](double v) { return std::round(v * 1024) / 1024; };
    std::vector<Vec3> p;
    for (std::size_t i = 0; i < n; ++i) {
        const double x = fine(80 * u(dice)), y = fine(60 * u(dice));
        p.push_back(kEditsAt + Vec3{x, y, fine(std::sin(0.1 * x) + 0.05 * y)});
        if (i % 25 == 0) p.push_back(p.back() + Vec3{0, 0, 0.25});
    }
    return p;
}

std::shared_ptr<const cloud::PointCloud> scan_of(const std::vector<Vec3>& points) {
    return io::cloud_of_points({.name = "Scan", .points = points}, cloud::Reference{"m", {}, {}});
}

// A site with a scan, hidden, and the surface that was built of it, thinned.
SitePtr built(std::mt19937_64& dice, std::uint64_t& surface_id) {
    const std::vector<Vec3> points = ground(dice, 700);
    SitePtr s = add_cloud(Site(), scan_of(points), "Scan", "made");
    const ItemPtr scan = s->items[0];
    surface::Definition d;
    d.points = surface::places_of(*scan->cloud, eligible(*scan));
    d.duplicates = surface::Duplicates::Highest;
    const surface::Made made = surface::make(d, kTolerance);
    s = add_cloud(*s, cloud::cloud_of_triangles(made.built.mesh, {"m", "", true, {}, {}}), "Surface", "");
    surface_id = s->items[1]->id;
    SurfaceSource source;
    source.definition = made.definition;
    const Edited thinned =
        with_thinning(source, kTolerance, *scan, std::make_shared<const ElementSet>(eligible(*scan)));
    s = set_source(*s, surface_id, thinned.source);
    s = enter_edit(*s, surface_id, thinned.number, {"Thinning", thinned.cause, {}, nullptr});
    return activate(*s, surface_id);
}

using Triangle = std::array<std::tuple<double, double, double>, 3>;

// The triangles by their places, in any order.
std::multiset<Triangle> triangles(const mesh::TriMesh& m) {
    std::multiset<Triangle> all;
    for (const auto& t : m.triangles) {
        Triangle k;
        for (std::size_t i = 0; i < 3; ++i) {
            const Vec3& v = m.vertices[t[i]];
            k[i] = {v.x, v.y, v.z};
        }
        std::sort(k.begin(), k.end());
        all.insert(k);
    }
    return all;
}

std::multiset<Triangle> triangles(const Site& s, std::uint64_t id) {
    return triangles(*s.item(id)->cloud->triangles());
}

SitePtr changed(const Site& s, std::uint64_t id, const Edited& e, const std::string& reason) {
    const SitePtr next = replace_surface(s, id, rebuild(*s.item(id), *e.source));
    return enter_edit(*next, id, e.number, {reason, e.cause, {}, nullptr});
}

SitePtr toggled(const Site& s, std::uint64_t id, const std::vector<std::uint32_t>& numbers, bool active) {
    const SourcePtr source = with_edits(s, *s.item(id)->source, numbers, active);
    return replace_surface(s, id, rebuild(*s.item(id), *source));
}

// All triangles round the vertex that is nearest to a place.
ElementSet round_vertex(const Item& item, const Vec3& place) {
    const mesh::TriMesh& m = *item.cloud->triangles();
    std::size_t best = 0;
    const auto off = [&](std::size_t v) {
        return std::hypot(m.vertices[v].x - place.x, m.vertices[v].y - place.y);
    };
    for (std::size_t v = 1; v < m.vertices.size(); ++v)
        if (off(v) < off(best)) best = v;
    ElementSet set(item.cloud->size());
    for (std::size_t t = 0; t < m.triangles.size(); ++t)
        for (const std::uint32_t v : m.triangles[t])
            if (m.vertices[v].x == m.vertices[best].x && m.vertices[v].y == m.vertices[best].y) set.insert(t);
    return set;
}

// The triangles whose middle lies in a disc.
ElementSet disc(const Item& item, const Vec3& middle, double r) {
    ElementSet set(item.cloud->size());
    for (std::uint64_t e = 0; e < item.cloud->size(); ++e) {
        const Vec3 p = item.cloud->position(e) - kEditsAt - middle;
        if (std::hypot(p.x, p.y) < r) set.insert(e);
    }
    return set;
}

Line ring(double x, double y, double r, const std::string& name) {
    Line l;
    l.name = name;
    l.closed = true;
    for (int k = 0; k < 8; ++k)
        l.points.push_back(kEditsAt + Vec3{x + r * std::cos(0.7854 * k), y + r * std::sin(0.7854 * k), 3});
    return l;
}

}  // namespace

// Laws 1 to 3, on random sequences of changes and of liftings.
TEST_CASE("ALiftedChangeIsAsIfItHadNeverBeen", "[site]") {
    const std::uint64_t seed = test::seed_for("SurfaceEdits");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::uniform_real_distribution<double> u(0, 1);
    for (int round = 0; round < 4; ++round) {
        CAPTURE(round);
        std::uint64_t id = 0;
        SitePtr s = built(dice, id);
        s = put_lines(*s, {ring(20, 20, 8, "one"), ring(55, 35, 9, "two")});
        const std::multiset<Triangle> thinned = triangles(*s, id);
        surface::Definition whole;
        whole.points = surface::places_of(*s->items[0]->cloud, eligible(*s->items[0]));
        whole.duplicates = surface::Duplicates::Highest;
        const std::multiset<Triangle> everything = triangles(surface::build(whole).mesh);
        CHECK(everything.size() > thinned.size());
        for (int k = 0; k < 6; ++k) {
            const ItemPtr item = s->item(id);
            switch (k) {
                case 0:
                case 2:
                    s = changed(*s, id, with_patch(*item->source, *s->lines[k == 0 ? 0 : 1], {}), "Part");
                    break;
                case 3:
                    s = changed(*s, id, with_limits(*item->source, {22 + 5 * u(dice), 0, 0}), "Limits");
                    break;
                case 4: {
                    double largest = 0;
                    const Edited e = with_smoothed(*item, disc(*item, {40, 30, 0}, 18), 0.04, largest);
                    REQUIRE(e.source);
                    CHECK(largest <= 0.04);
                    s = changed(*s, id, e, "Smoothed");
                    break;
                }
                default:
                    const Edited e = without_points(
                        *item, round_vertex(*item, kEditsAt + Vec3{10 + 60 * u(dice), 10 + 40 * u(dice), 0}));
                    // A corner of a part is no point of the definition.
                    if (e.source) s = changed(*s, id, e, "Wrong point");
            }
        }
        const std::multiset<Triangle> all_in_force = triangles(*s, id);
        std::vector<std::uint32_t> numbers;
        for (const auto& [number, e] : s->item(id)->source->edits) numbers.push_back(number);
        REQUIRE(numbers.size() >= 4);
        CHECK(s->item(id)->ledger.size() == numbers.size());
        // Up and down at random: what is in force decides, not how it came about.
        std::map<std::vector<bool>, std::multiset<Triangle>> seen;
        for (int step = 0; step < 25; ++step) {
            const std::uint32_t number = numbers[dice() % numbers.size()];
            s = toggled(*s, id, {number}, !s->item(id)->source->edits.at(number).active);
            std::vector<bool> state;
            for (const std::uint32_t n : numbers) state.push_back(s->item(id)->source->edits.at(n).active);
            const auto [known, fresh] = seen.insert({state, triangles(*s, id)});
            if (!fresh) CHECK(known->second == triangles(*s, id));
            for (const LedgerEntry& e : s->item(id)->ledger) {
                REQUIRE(e.active == s->item(id)->source->edits.at(e.edit).active);
                REQUIRE(e.elements->empty());
                REQUIRE(e.elements->size() == s->item(id)->cloud->size());
            }
            const bool thin = s->item(id)->source->edits.at(1).active;
            REQUIRE(s->item(id)->thinned == (thin ? kTolerance : 0));
        }
        std::vector<std::uint32_t> but_thinning(numbers.begin() + 1, numbers.end());
        s = toggled(*s, id, numbers, true);
        CHECK(triangles(*s, id) == all_in_force);
        s = toggled(*s, id, but_thinning, false);
        CHECK(triangles(*s, id) == thinned);
        s = toggled(*s, id, {numbers[0]}, false);
        CHECK(triangles(*s, id) == everything);
        s = toggled(*s, id, numbers, true);
        CHECK(triangles(*s, id) == all_in_force);
    }
}

TEST_CASE("TwoDropsOfOnePlaceHoldEachByItself", "[site]") {
    std::mt19937_64 dice(3);
    std::uint64_t id = 0;
    SitePtr s = built(dice, id);
    const std::multiset<Triangle> whole = triangles(*s, id);
    const Vec3 place = kEditsAt + Vec3{40, 30, 0};
    s = changed(*s, id, without_points(*s->item(id), round_vertex(*s->item(id), place)), "First");
    const std::multiset<Triangle> without = triangles(*s, id);
    const std::uint32_t first = s->item(id)->ledger.back().edit;
    s = toggled(*s, id, {first}, false);
    s = changed(*s, id, without_points(*s->item(id), round_vertex(*s->item(id), place)), "Second");
    const std::uint32_t second = s->item(id)->ledger.back().edit;
    CHECK(triangles(*s, id) == without);
    s = toggled(*s, id, {first}, true);
    CHECK(triangles(*s, id) == without);
    s = toggled(*s, id, {second}, false);
    CHECK(triangles(*s, id) == without);  // the first still holds
    s = toggled(*s, id, {first}, false);
    CHECK(triangles(*s, id) == whole);
}

// The vertices of a file's surface, to the bit.
TEST_CASE("ASurfaceFromAFileIsSmoothedInPartAndComesBackToTheBit", "[site]") {
    const std::uint64_t seed = test::seed_for("SmoothedGiven");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::normal_distribution<double> noise(0, 0.05);
    surface::Definition d;
    for (Vec3 p : ground(dice, 500)) d.points.push_back(p + Vec3{0, 0, noise(dice)});
    SitePtr s = add_cloud(Site(), cloud::cloud_of_triangles(surface::build(d).mesh, {"m", "", true, {}, {}}),
                          "Bank", "bank.xml");
    const std::uint64_t id = s->items[0]->id;
    const std::multiset<Triangle> before = triangles(*s, id);
    double largest = 0;
    const Edited first = with_smoothed(*s->item(id), disc(*s->item(id), {30, 30, 0}, 15), 0.03, largest);
    CHECK(first.count > 20);
    CHECK(largest <= 0.03);
    s = changed(*s, id, first, "Smoothed");
    const std::multiset<Triangle> once = triangles(*s, id);
    CHECK(once != before);
    // A second one over it: lifting the first leaves the second as it was decided.
    const Edited second = with_smoothed(*s->item(id), disc(*s->item(id), {40, 30, 0}, 15), 0.03, largest);
    s = changed(*s, id, second, "Smoothed");
    s = toggled(*s, id, {second.number}, false);
    CHECK(triangles(*s, id) == once);
    s = toggled(*s, id, {first.number}, false);
    CHECK(triangles(*s, id) == before);
    s = toggled(*s, id, {first.number}, true);
    CHECK(triangles(*s, id) == once);
    // Outside the disc nothing changed: those triangles are the same to the bit.
    std::size_t same = 0;
    for (const Triangle& t : once) same += before.contains(t);
    CHECK(same > before.size() / 2);
    ElementSet none(s->item(id)->cloud->size());
    CHECK_FALSE(with_smoothed(*s->item(id), none, 0.03, largest).source);
}

TEST_CASE("ChangesOfABuildComeBackFromAProject", "[site]") {
    std::mt19937_64 dice(5);
    std::uint64_t id = 0;
    SitePtr s = built(dice, id);
    s = put_lines(*s, {ring(20, 20, 8, "one")});
    s = changed(*s, id, with_patch(*s->item(id)->source, *s->lines[0], {}), "Part");
    s = toggled(*s, id, {s->item(id)->ledger.back().edit}, false);
    s = changed(*s, id, without_points(*s->item(id), round_vertex(*s->item(id), kEditsAt + Vec3{50, 40, 0})),
                "Point");
    s = changed(*s, id, with_limits(*s->item(id)->source, {9, 0, 0}), "Limits");
    const SurfaceSource back = unpacked_source(packed(*s->item(id)->source));
    REQUIRE(back.edits.size() == 4);
    CHECK(back.patch_edits == s->item(id)->source->patch_edits);
    for (const auto& [number, e] : s->item(id)->source->edits) {
        const SurfaceEdit& b = back.edits.at(number);
        CHECK(b.kind == e.kind);
        CHECK(b.active == e.active);
        CHECK(b.points == e.points);
        CHECK(b.held == e.held);
        CHECK(b.patch.outline == e.patch.outline);
        CHECK(b.patch_ids == e.patch_ids);
        CHECK(b.limits == e.limits);
        CHECK(b.tolerance == e.tolerance);
        CHECK(b.item == e.item);
        CHECK((b.part != nullptr) == (e.part != nullptr));
        if (b.part) CHECK(*b.part == *e.part);
    }
    // Through the file: the entries name their changes, and can be lifted.
    test::TemporaryFolder folder;
    {
        auto project = store::Project::create(folder / "site.pristine");
        project->write({1, "Built", s});
    }
    const auto project = store::Project::open(folder / "site.pristine");
    const SitePtr opened = project->load().now();
    REQUIRE(opened->item(id)->ledger.size() == 4);
    for (std::size_t k = 0; k < 4; ++k) {
        CHECK(opened->item(id)->ledger[k].edit == s->item(id)->ledger[k].edit);
        CHECK(opened->item(id)->ledger[k].cause == s->item(id)->ledger[k].cause);
    }
    const std::uint32_t drop = opened->item(id)->ledger[2].edit;
    CHECK(triangles(*toggled(*opened, id, {drop}, false), id) ==
          triangles(*toggled(*s, id, {drop}, false), id));
}

TEST_CASE("AChangeOfABuildIsRefusedWhereItCannotBeLifted", "[site]") {
    std::mt19937_64 dice(7);
    std::uint64_t id = 0;
    SitePtr s = built(dice, id);
    const LedgerEntry thinning = s->item(id)->ledger.front();
    // An entry is not switched behind the back of the surface.
    CHECK_THROWS_AS(set_entry_active(*s, id, thinning.id, false), Error);
    CHECK(told(thinning.cause).find("within 0.1 in height") != std::string::npos);
    // The scan is gone, and with it the points that were left out.
    const SitePtr without = drop_item(*s, s->items[0]->id);
    CHECK_THROWS_WITH(with_edits(*without, *without->item(id)->source, {thinning.edit}, false),
                      Catch::Matchers::Contains("not in the site any more"));
    // The same limits once more are no change; none at all lift the entry.
    s = changed(*s, id, with_limits(*s->item(id)->source, {9, 2, 150}), "Limits");
    CHECK_FALSE(with_limits(*s->item(id)->source, {9, 2, 150}).source);
    CHECK(
        told(s->item(id)->ledger.back().cause) ==
        "triangles beyond limits left off, edges up to 9, edges at the rim up to 2, angles at the rim up to "
        "150°");
    s = changed(*s, id, with_limits(*s->item(id)->source, {}), "Limits");
    REQUIRE(s->item(id)->ledger.size() == 2);
    CHECK_FALSE(s->item(id)->ledger.back().active);
    CHECK(s->item(id)->source->edits.at(s->item(id)->ledger.back().edit).limits.longest_edge == 9);
    // A triangle set that holds no whole vertex drops nothing.
    ElementSet one(s->item(id)->cloud->size());
    one.insert(0);
    CHECK_FALSE(without_points(*s->item(id), one).source);
}
