// Meshes checked, repaired, filled, wrapped, reduced.

#include <catch2/catch.hpp>

#include <cmath>
#include <map>
#include <numbers>
#include <random>
#include <set>

#include "core/base/error.h"
#include "core/io/markers/markers.h"
#include "core/mesh/winding.h"
#include "core/mesh/winding_tree.h"
#include "core/repair/crossings.h"
#include "core/repair/edges.h"
#include "core/repair/inside.h"
#include "core/repair/one.h"
#include "core/repair/patch.h"
#include "core/repair/reduce.h"
#include "core/repair/repair.h"
#include "core/repair/steps.h"
#include "core/repair/wrap.h"
#include "core/topology/adjacency.h"
#include "demo/milestone.h"
#include "demo/solids.h"
#include "support/cloud_makers.h"

using namespace pristine;
using namespace pristine::repair;

namespace {

constexpr Vec3 kSite{412300, 5218930, 58};

std::vector<std::vector<std::uint32_t>> rims_of(const mesh::TriMesh& m) {
    return topology::rims(m.triangles, topology::adjacency(m.triangles));
}

// Without the triangles whose middle is nearer than this to a place.
mesh::TriMesh bitten(const mesh::TriMesh& m, const Vec3& at, double radius) {
    std::vector<char> gone(m.triangles.size(), 0);
    for (std::size_t t = 0; t < gone.size(); ++t) {
        const auto& c = m.triangles[t];
        gone[t] = norm((m.vertices[c[0]] + m.vertices[c[1]] + m.vertices[c[2]]) * (1 / 3.0) - at) < radius;
    }
    return without(m, gone);
}

void add(mesh::TriMesh& m, const mesh::TriMesh& other) {
    const auto n = static_cast<std::uint32_t>(m.vertices.size());
    m.vertices.insert(m.vertices.end(), other.vertices.begin(), other.vertices.end());
    for (const auto& t : other.triangles) m.triangles.push_back({t[0] + n, t[1] + n, t[2] + n});
}

using Corner = std::array<double, 3>;
std::set<std::array<Corner, 3>> places(const mesh::TriMesh& m) {
    std::set<std::array<Corner, 3>> all;
    for (const auto& t : m.triangles) {
        std::array<Corner, 3> c;
        for (std::size_t k = 0; k < 3; ++k)
            c[k] = {m.vertices[t[k]].x, m.vertices[t[k]].y, m.vertices[t[k]].z};
        std::rotate(c.begin(), std::min_element(c.begin(), c.end()), c.end());
        all.insert(c);
    }
    return all;
}

std::vector<std::uint64_t> counts(const Check& c) {
    std::vector<std::uint64_t> n;
    for (const auto& f : c.findings) n.push_back(f.size());
    return n;
}

}  // namespace

TEST_CASE("SoundMeshesHaveNoFindingsAndTheirGenusIsKnown", "[repair]") {
    const Check ball = check(demo::ball(12, 1, kSite)), ring = check(demo::ring(48, 1, 0.3));
    CHECK(counts(ball) == std::vector<std::uint64_t>(kFaults, 0));
    CHECK(ball.sound());
    CHECK(ball.genus == 0);
    CHECK(ring.sound());
    CHECK(ring.genus == 1);
    mesh::TriMesh two = demo::ball(8, 1);
    add(two, demo::ring(30, 5, 0.5));
    const Check both = check(two);
    CHECK(both.components == 2);
    CHECK(both.genus == 1);
    // A hole does not change the genus; the mesh is then open.
    const Check open = check(bitten(demo::ring(48, 1, 0.3), {1.3, 0, 0}, 0.2));
    CHECK(open.genus == 1);
    CHECK_FALSE(open.closed);
    CHECK(open.count(Fault::Hole) == 1);
    CHECK_FALSE(check({}).closed);
}

TEST_CASE("EachFaultIsFoundWhereItIs", "[repair]") {
    const mesh::TriMesh ball = demo::ball(12, 1);
    const auto found = [](const mesh::TriMesh& m, Fault f) { return check(m).count(f); };
    mesh::TriMesh m = ball;
    const auto top = m.triangles[0];
    m.vertices.push_back(m.vertices[top[0]] * 1.5);
    m.triangles.push_back({top[0], top[1], static_cast<std::uint32_t>(m.vertices.size() - 1)});
    CHECK(found(m, Fault::NonManifoldEdge) == 1);
    CHECK(check(m).genus == -1);

    m = ball;
    std::swap(m.triangles[5][0], m.triangles[5][1]);
    CHECK(found(m, Fault::InconsistentEdge) == 3);
    CHECK_FALSE(check(m).closed);

    m = ball;
    m.triangles.push_back(m.triangles[7]);
    m.triangles.push_back({m.triangles[9][1], m.triangles[9][0], m.triangles[9][2]});
    CHECK(found(m, Fault::DuplicateFace) == 2);

    m = ball;
    m.vertices[m.triangles[3][1]] = m.vertices[m.triangles[3][0]] + Vec3{1e-9, 0, 0};
    CHECK(found(m, Fault::TinyEdge) == 1);

    m = ball;
    m.vertices[top[0]] = m.vertices[top[0]] * 3;
    CHECK(found(m, Fault::Spike) == 1);
    CHECK(check(m).of(Fault::Spike)[0].where == m.vertices[top[0]]);

    m = ball;
    add(m, demo::block(1, {3, 3, 3}, {3.1, 3.1, 3.1}));
    CHECK(found(m, Fault::SmallPiece) == 1);
    CheckOptions few;
    few.small_piece = 12;
    CHECK(check(m, few).count(Fault::SmallPiece) == 0);

    // Two blocks that share a corner, and two that share an edge.
    m = demo::block(2, {0, 0, 0}, {1, 1, 1});
    const auto corner = [&](mesh::TriMesh& a, const mesh::TriMesh& b) {
        add(a, b);
        std::vector<Vec3> all;
        for (const auto& t : a.triangles)
            for (const std::uint32_t v : t) all.push_back(a.vertices[v]);
        mesh::TriMesh joined;
        std::map<std::array<double, 3>, std::uint32_t> number;
        for (std::size_t i = 0; i < all.size(); ++i) {
            const auto [it, fresh] = number.try_emplace({all[i].x, all[i].y, all[i].z},
                                                        static_cast<std::uint32_t>(joined.vertices.size()));
            if (fresh) joined.vertices.push_back(all[i]);
            if (i % 3 == 0) joined.triangles.emplace_back();
            joined.triangles.back()[i % 3] = it->second;
        }
        a = joined;
    };
    corner(m, demo::block(2, {1, 1, 1}, {2, 2, 2}));
    CHECK(found(m, Fault::NonManifoldVertex) == 1);
    m = demo::block(2, {0, 0, 0}, {1, 1, 1});
    corner(m, demo::block(2, {1, 1, 0}, {2, 2, 1}));
    CHECK(found(m, Fault::NonManifoldEdge) == 2);
    CHECK_THROWS_AS(fault_of("rust"), Error);
    CHECK(fault_of("holes") == Fault::Hole);
}

TEST_CASE("BrokenMeshesBecomeSoundAndWhatWasNotAtFaultStaysToTheBit", "[repair][property]") {
    int faults = 0;
    std::size_t kept = 0;
    for (int seed = 0; seed < 24; ++seed) {
        std::mt19937_64 dice(static_cast<std::uint64_t>(9000 + seed));
        const mesh::TriMesh whole = seed % 3 == 0   ? demo::ball(20, 1, kSite)
                                    : seed % 3 == 1 ? demo::block(12, {0, 0, 0}, {1, 1.2, 0.8})
                                                    : demo::ring(75, 1, 0.3);
        mesh::TriMesh m = whole;
        std::vector<Vec3> where;
        int made = 0;
        for (int k = 0; k < 14 && made < 4; ++k) {
            mesh::TriMesh next = m;
            auto places = where;
            if (!demo::break_mesh(next, static_cast<demo::Break>((seed + 3 * k) % demo::kBreaks), dice,
                                  places))
                continue;
            m = std::move(next);
            where = std::move(places);
            ++made;
        }
        const Repaired r = repair::repair(m);
        for (const auto n : counts(r.before)) faults += n > 0;
        INFO("seed " << seed);
        CHECK(r.after.sound());
        CHECK(r.unrepaired.empty());
        // Euler: V - E + F = 2 (C - g), counted here on its own.
        std::set<std::pair<std::uint32_t, std::uint32_t>> edges;
        for (const auto& t : r.mesh.triangles)
            for (std::size_t k = 0; k < 3; ++k) edges.insert(std::minmax(t[k], t[(k + 1) % 3]));
        CHECK(static_cast<std::int64_t>(r.mesh.vertices.size()) - static_cast<std::int64_t>(edges.size()) +
                  static_cast<std::int64_t>(r.mesh.triangles.size()) ==
              2 * (static_cast<std::int64_t>(r.after.components) - r.after.genus));
        CHECK(mesh::signed_volume(r.mesh) > 0.9 * mesh::signed_volume(whole));
        // Triangles of the sound mesh that are still in the broken one and far from every break are still
        // there.
        const auto before = places(m), now = places(r.mesh);
        const double edge =
            norm(whole.vertices[whole.triangles[0][1]] - whole.vertices[whole.triangles[0][0]]);
        for (const auto& t : whole.triangles) {
            mesh::TriMesh one;
            for (const std::uint32_t v : t) one.vertices.push_back(whole.vertices[v]);
            one.triangles = {{0, 1, 2}};
            bool far = true;
            for (const Vec3& w : where) far &= norm(one.vertices[0] - w) > 9 * edge;
            if (!far || !before.contains(*places(one).begin())) continue;
            ++kept;
            CHECK(now.contains(*places(one).begin()));
        }
    }
    CHECK(faults > 60);
    CHECK(kept > 10000);
}

TEST_CASE("OnlyWhatIsAskedForIsRepairedAndTheRestIsLeft", "[repair]") {
    mesh::TriMesh m = bitten(demo::ball(16, 1), {0, 0, 1}, 0.3);
    m.triangles.push_back(m.triangles[40]);
    RepairOptions o;
    o.only = {Fault::DuplicateFace};
    const Repaired r = repair::repair(m, o);
    CHECK(r.after.count(Fault::DuplicateFace) == 0);
    CHECK(r.after.count(Fault::Hole) == 1);
    CHECK(r.unrepaired.empty());
    CHECK(r.mesh.triangles.size() == m.triangles.size() - 1);
    // A hole above the limit stays open, and is listed with the reason.
    RepairOptions small;
    small.max_hole = 5;
    const Repaired open = repair::repair(m, small);
    REQUIRE(open.unrepaired.size() == 1);
    CHECK_THAT(open.unrepaired[0].why, Catch::Contains("more than the limit of 5"));
    // A band that is twisted once has no two sides.
    mesh::TriMesh band;
    constexpr int n = 30;
    for (int i = 0; i < n; ++i) {
        const double a = 2 * std::numbers::pi * i / n, h = a / 2;
        for (const double w : {-0.3, 0.3})
            band.vertices.push_back(
                {(1 + w * std::cos(h)) * std::cos(a), (1 + w * std::cos(h)) * std::sin(a), w * std::sin(h)});
    }
    for (std::uint32_t i = 0; i < n; ++i) {
        const bool last = i + 1 == n;
        const std::uint32_t a = 2 * i, b = a + 1, c = last ? 1 : a + 2, d = last ? 0 : a + 3;
        band.triangles.push_back({a, c, b});
        band.triangles.push_back({b, c, d});
    }
    RepairOptions turn;
    turn.only = {Fault::InconsistentEdge};
    const Repaired twisted = repair::repair(band, turn);
    REQUIRE(!twisted.unrepaired.empty());
    CHECK_THAT(twisted.unrepaired[0].why, Catch::Contains("only one side"));
}

TEST_CASE("InsideOutMeshesTurnOutwardsAndCavitiesStayInwards", "[repair]") {
    mesh::TriMesh m = demo::ball(10, 2);
    mesh::TriMesh cavity = demo::ball(10, 1);
    for (auto& t : cavity.triangles) std::swap(t[1], t[2]);
    add(m, cavity);
    const double volume = mesh::signed_volume(m);
    CHECK(turn_alike(m).removed == 0);
    for (auto& t : m.triangles)
        if (t[0] < demo::ball(10, 2).vertices.size()) std::swap(t[1], t[2]);
    const Step s = turn_alike(m);
    CHECK(mesh::signed_volume(s.mesh) == Approx(volume));
    CHECK(mesh::winding(s.mesh, {1.5, 0.1, 0}) == Approx(1).margin(1e-6));
    CHECK(mesh::winding(s.mesh, {0.3, 0.1, 0}) == Approx(0).margin(1e-6));
}

TEST_CASE("CurvatureFillsFollowASphereTangentOnesLeaveItAndFlatOnesAreFlat", "[repair]") {
    // The rim is seen from the centre under an angle of 60 degrees, and of 120.
    for (const double half : {30.0, 60.0}) {
        mesh::TriMesh m = demo::ball(24, 2, kSite);
        std::vector<char> gone(m.triangles.size(), 0);
        for (std::size_t t = 0; t < gone.size(); ++t) {
            const auto& c = m.triangles[t];
            const Vec3 d = (m.vertices[c[0]] + m.vertices[c[1]] + m.vertices[c[2]]) * (1 / 3.0) - kSite;
            gone[t] = d.z > norm(d) * std::cos(half * std::numbers::pi / 180);
        }
        m = without(m, gone);
        const auto rims = rims_of(m);
        REQUIRE(rims.size() == 1);
        const auto worst = [&](FillKind k) {
            const Fill f = fill_rim(m, rims[0], {k, 1, true});
            REQUIRE(f.why_not.empty());
            const Check c = check(with_fill(m, f));
            CHECK(c.sound());
            CHECK(c.genus == 0);
            double off = 0;
            for (const Vec3& v : f.vertices) off = std::max(off, std::fabs(norm(v - kSite) - 2));
            return off;
        };
        const double flat = worst(FillKind::Flat), tangent = worst(FillKind::Tangent),
                     curved = worst(FillKind::Curvature);
        CHECK(curved < 0.01 * 2);
        CHECK(curved < tangent);
        CHECK(tangent < 0.1 * 2);
        CHECK(flat > 0.8 * 2 * (1 - std::cos(half * std::numbers::pi / 180)));
    }
    // In a plane all of them are the plane, and the area is that of the hole.
    const mesh::TriMesh slab = demo::block(20, {0, 0, 0}, {1, 1, 0.5});
    const mesh::TriMesh open = bitten(slab, {0.5, 0.5, 0.5}, 0.2);
    for (const FillKind k : {FillKind::Flat, FillKind::Tangent, FillKind::Curvature}) {
        const Fill f = fill_rim(open, rims_of(open)[0], {k, 1, true});
        for (const Vec3& v : f.vertices) CHECK(v.z == Approx(0.5).margin(1e-9));
        CHECK(mesh::signed_volume(with_fill(open, f)) == Approx(0.5).epsilon(1e-9));
        // As dense as what surrounds it.
        const auto gone = static_cast<double>(slab.triangles.size() - open.triangles.size());
        CHECK(static_cast<double>(f.triangles.size()) > 0.5 * gone);
        CHECK(static_cast<double>(f.triangles.size()) < 2 * gone);
    }
}

TEST_CASE("RimsThatAreNotFitSayWhyAndWhatHelps", "[repair]") {
    // Two holes that touch in a corner, as one walk round both.
    mesh::TriMesh m;
    for (int y = 0; y <= 6; ++y)
        for (int x = 0; x <= 6; ++x) m.vertices.push_back({double(x), double(y), 0});
    const auto v = [](int x, int y) { return static_cast<std::uint32_t>(7 * y + x); };
    for (int y = 0; y < 6; ++y)
        for (int x = 0; x < 6; ++x) {
            if ((x == 2 && y == 2) || (x == 3 && y == 3)) continue;
            m.triangles.push_back({v(x, y), v(x + 1, y), v(x + 1, y + 1)});
            m.triangles.push_back({v(x, y), v(x + 1, y + 1), v(x, y + 1)});
        }
    const std::vector<std::uint32_t> both{v(3, 3), v(3, 2), v(2, 2), v(2, 3),
                                          v(3, 3), v(3, 4), v(4, 4), v(4, 3)};
    const Fill pinched = fill_rim(m, {both.rbegin(), both.rend()});
    CHECK_THAT(pinched.why_not, Catch::Contains("pinched"));
    CHECK(pinched.where == Vec3{3, 3, 0});
    CHECK(pinched.triangles.empty());
    const Fill wrong = fill_rim(m, {v(0, 0), v(1, 1), v(0, 1)});
    CHECK_THAT(wrong.why_not, Catch::Contains("does not belong to one triangle"));
    CHECK_THAT(fill_rim(m, {v(0, 0), v(1, 0)}).why_not, Catch::Contains("fewer than three"));
}

TEST_CASE("ARimThatJoinsTheOutsideToASheetInsideIsNotAHole", "[repair]") {
    // A ball without its cap; from a quarter of the rim a flap hangs down into it.
    constexpr double kRound = 0.5;
    mesh::TriMesh m = demo::ball(16, 1);
    std::vector<char> gone(m.triangles.size(), 0);
    for (std::size_t t = 0; t < gone.size(); ++t)
        for (const std::uint32_t v : m.triangles[t]) gone[t] |= m.vertices[v].z > std::cos(kRound);
    m = without(m, gone);
    const auto rims = topology::rims(m.triangles, topology::adjacency(m.triangles));
    REQUIRE(rims.size() == 1);
    const mesh::TriMesh open = m;
    CHECK(!joins_inner_sheet(mesh::WindingTree(open), Incidence(open), rims[0]));
    std::vector<std::uint32_t> upper(rims[0].begin(), rims[0].begin() + 6);
    for (int ring = 0; ring < 8; ++ring) {
        std::vector<std::uint32_t> lower;
        for (const std::uint32_t v : upper) {
            lower.push_back(static_cast<std::uint32_t>(m.vertices.size()));
            m.vertices.push_back(m.vertices[v] * 0.97 - Vec3{0, 0, 0.13});
        }
        for (std::size_t i = 0; i + 1 < upper.size(); ++i) {
            // A rim runs as its triangles do; what hangs on it runs against it.
            m.triangles.push_back({upper[i + 1], upper[i], lower[i]});
            m.triangles.push_back({upper[i + 1], lower[i], lower[i + 1]});
        }
        upper = lower;
    }
    const Check c = check(m);
    REQUIRE(c.count(Fault::Hole) == 1);
    REQUIRE(c.count(Fault::InconsistentEdge) == 0);
    REQUIRE(c.count(Fault::SelfCrossing) == 0);
    const auto where = joins_inner_sheet(mesh::WindingTree(m), Incidence(m), c.of(Fault::Hole)[0].vertices);
    REQUIRE(where);
    CHECK(where->z < 0.4);  // down on the flap
    // Neither repair closes it; both say why, and nothing is taken.
    const Step one = repair_one(m, c.of(Fault::Hole)[0], {});
    REQUIRE(one.unrepaired.size() == 1);
    CHECK(one.unrepaired[0].why == kJoinsInnerSheet);
    const Repaired all = repair::repair(m);
    REQUIRE(all.unrepaired.size() == 1);
    CHECK(all.unrepaired[0].why == kJoinsInnerSheet);
    CHECK(all.mesh.triangles.size() == m.triangles.size());
    // Without the flap it is a hole like others.
    std::vector<char> flap(m.triangles.size(), 0);
    std::fill(flap.begin() + static_cast<std::ptrdiff_t>(open.triangles.size()), flap.end(), 1);
    CHECK(repair::repair(without(m, flap)).after.sound());
}

TEST_CASE("WindingsTakenTogetherAreThoseOfEveryTriangle", "[repair][property]") {
    const std::uint64_t seed = test::seed_for("winding tree");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::uniform_real_distribution<double> u(-1.6, 1.6);
    const Vec3 at{412'300, 5'218'930, 58};
    mesh::TriMesh m = demo::ring(60, 1, 0.3);
    for (Vec3& v : m.vertices) v = v + at;
    std::vector<char> gone(m.triangles.size(), 0);
    for (std::size_t t = 0; t < 90; ++t) gone[t] = 1;
    const mesh::TriMesh open = without(m, gone);
    for (const mesh::TriMesh* of : std::initializer_list<const mesh::TriMesh*>{&m, &open}) {
        const mesh::WindingTree tree(*of);
        double worst = 0;
        for (int i = 0; i < 1000; ++i) {
            const Vec3 p = at + Vec3{u(dice), u(dice), 0.3 * u(dice)};
            worst = std::max(worst, std::fabs(tree.at(p) - mesh::winding(*of, p)));
        }
        CHECK(worst < 0.02);
        CHECK(worst > 0);  // it does take triangles together
    }
    const mesh::WindingTree tree(m);
    for (std::uint32_t t = 0; t < m.triangles.size(); t += 7)
        CHECK(tree.round(t) == Approx(0.5).margin(0.03));
    CHECK(mesh::WindingTree(mesh::TriMesh{}).at({1, 2, 3}) == 0);
}

TEST_CASE("WrapsAreClosedManifoldAndNearWhateverTheyAreRound", "[repair][property]") {
    std::mt19937_64 dice(5);
    std::uniform_real_distribution<double> u(-1, 1);
    mesh::TriMesh soup;  // triangles anywhere, crossing each other
    for (std::uint32_t t = 0; t < 60; ++t) {
        const Vec3 at = kSite + Vec3{u(dice), u(dice), u(dice)};
        for (int k = 0; k < 3; ++k) soup.vertices.push_back(at + Vec3{u(dice), u(dice), u(dice)} * 0.4);
        soup.triangles.push_back({3 * t, 3 * t + 1, 3 * t + 2});
    }
    const mesh::TriMesh sheet = bitten(demo::block(8, {0, 0, 0}, {1, 1, 0.001}), {0.5, 0.5, -1}, 1.02);
    const mesh::TriMesh crumbs = bitten(demo::block(8, {0, 0, 0}, {1, 1, 0.001}), {0.5, 0.5, -1}, 1.2);
    const mesh::TriMesh all[] = {crumbs,
                                 demo::ball(20, 1, kSite),
                                 bitten(demo::ball(20, 1, kSite), kSite + Vec3{0, 0, 1}, 0.5),
                                 demo::ring(60, 1, 0.3),
                                 soup,
                                 sheet};
    for (const mesh::TriMesh& m : all)
        for (const double detail : {0.2, 0.09}) {
            const Wrapped w = wrap(m, {detail, 0});
            const Check c = check(w.mesh);
            CHECK(c.closed);
            CHECK(c.count(Fault::NonManifoldVertex) == 0);
            CHECK(c.count(Fault::SelfCrossing) == 0);
            CHECK(mesh::signed_volume(w.mesh) > 0);
            // Crevices between triangles anywhere are closed over, which is twice the detail at most.
            CHECK(w.deviation.p95 <= (&m == &all[4] ? 2 * detail : detail));
        }
    // A hole narrower than the gap is closed over: the ball is full. A wider one lets the outside in.
    const mesh::TriMesh cup = bitten(demo::ball(40, 1), {0, 0, 1}, 0.3);
    CHECK(mesh::signed_volume(wrap(cup, {0.08, 0.8}).mesh) == Approx(4.18).epsilon(0.05));
    CHECK(mesh::signed_volume(wrap(cup, {0.08, 0.25}).mesh) < 1.5);
    CHECK_THROWS_AS(wrap(cup, {0, 0}), Error);
    CHECK_THROWS_AS(wrap(cup, {1e-5, 0}), Error);
    CHECK_THROWS_AS(wrap({}, {1, 0}), Error);
}

TEST_CASE("ReducingKeepsRimsAndPlacesAndMeasuresWhatItCosts", "[repair]") {
    const mesh::TriMesh open = bitten(demo::ball(40, 1, kSite), kSite + Vec3{0, 0, 1}, 0.4);
    const Reduced r = reduce(open, {2000, true, {}});
    CHECK(r.mesh.triangles.size() <= 2000);
    CHECK(r.mesh.triangles.size() > 1000);
    const auto rim = [](const mesh::TriMesh& m) {
        std::set<Corner> all;
        for (const auto& loop : rims_of(m))
            for (const std::uint32_t v : loop)
                all.insert({m.vertices[v].x, m.vertices[v].y, m.vertices[v].z});
        return all;
    };
    CHECK(rim(r.mesh) == rim(open));
    std::set<Corner> known;
    for (const Vec3& v : open.vertices) known.insert({v.x, v.y, v.z});
    for (const Vec3& v : r.mesh.vertices) CHECK(known.contains({v.x, v.y, v.z}));
    CHECK(r.deviation.max < 0.03);
    CHECK(r.deviation.max > 0);
    CHECK(deviation(open, open).max < 1e-8);
    CHECK_THROWS_AS(reduce(open, {0, true, {}}), Error);
}

TEST_CASE("DeviationIsThatOfTheSlowWay", "[repair]") {
    std::mt19937_64 dice(9);
    std::uniform_real_distribution<double> u(-1, 1);
    for (int round = 0; round < 6; ++round) {
        CAPTURE(round);
        mesh::TriMesh a = demo::ball(7, 1, kSite),
                      b = demo::block(3, kSite - Vec3{1, 1, 1}, kSite + Vec3{1, 1, 1});
        for (Vec3& v : a.vertices) v = v + Vec3{u(dice), u(dice), u(dice)} * 0.1;
        // Holes, a triangle twice, one the other way round, and vertices that nobody uses.
        a.triangles.resize(a.triangles.size() - 5);
        a.triangles.push_back(a.triangles[3]);
        a.triangles.push_back({a.triangles[7][0], a.triangles[7][2], a.triangles[7][1]});
        a.vertices.push_back(kSite + Vec3{50, 0, 0});
        std::vector<std::pair<double, double>> all;
        double area = 0, sum = 0;
        for (const auto& t : a.triangles) {
            const Vec3 c[3] = {a.vertices[t[0]], a.vertices[t[1]], a.vertices[t[2]]};
            const double own = 0.5 * norm(cross(c[1] - c[0], c[2] - c[0]));
            for (const Vec3& p : {c[0], c[1], c[2], (c[0] + c[1]) * 0.5, (c[1] + c[2]) * 0.5,
                                  (c[2] + c[0]) * 0.5, (c[0] + c[1] + c[2]) * (1 / 3.)}) {
                double least = INFINITY;
                for (const auto& o : b.triangles)
                    least =
                        std::min(least, norm(p - closest_on_triangle(p, b.vertices[o[0]], b.vertices[o[1]],
                                                                     b.vertices[o[2]])));
                all.push_back({least, own / 7});
                area += own / 7, sum += least * own / 7;
            }
        }
        std::sort(all.begin(), all.end());
        double below = 0, p95 = 0;
        for (const auto& [distance, own] : all) {
            p95 = distance;
            if ((below += own) >= 0.95 * area) break;
        }
        const Deviation d = deviation(a, b);
        CHECK(d.mean == Approx(sum / area).epsilon(1e-7));
        CHECK(d.max == Approx(all.back().first).epsilon(1e-7));  // a step of doubles out there
        CHECK(d.p95 == Approx(p95).epsilon(1e-3));
    }
}

TEST_CASE("SoundMeshesStaySoundWhenTheyAreReduced", "[repair]") {
    // Much of them lies in planes, where every collapse costs nothing and triangles fold over unseen.
    struct Case {
        mesh::TriMesh mesh;
        std::size_t to;
        double share;  // of the volume that may be lost
    };
    const Case cases[] = {{demo::block(24, {0, 0, 0}, {1, 1.2, 0.8}), 1500, 1e-6},
                          {demo::block(24, {0, 0, 0}, {1, 1.2, 0.8}), 200, 1e-3},
                          {demo::milestone(), 6'000, 1e-3},
                          {demo::ring(90, 1, 0.3), 1200, 3e-2}};
    for (const Case& c : cases) {
        CAPTURE(c.mesh.triangles.size(), c.to);
        const Check before = check(c.mesh);
        REQUIRE(before.sound());
        const Reduced r = reduce(c.mesh, {c.to, true, {}});
        const Check after = check(r.mesh);
        CHECK(after.sound());
        CHECK(after.components == 1);
        CHECK(after.genus == before.genus);
        CHECK(std::fabs(static_cast<double>(r.mesh.triangles.size()) / static_cast<double>(c.to) - 1) < 0.1);
        CHECK(mesh::signed_volume(r.mesh) == Approx(mesh::signed_volume(c.mesh)).epsilon(c.share));
    }
}

TEST_CASE("WhatAPlaneCutIsClosedByThatPlaneWhateverTheFill", "[repair]") {
    mesh::TriMesh m = demo::milestone(30);
    const double volume = mesh::signed_volume(m);
    std::erase_if(m.triangles, [&](const auto& t) {
        return m.vertices[t[0]].z < 1e-9 && m.vertices[t[1]].z < 1e-9 && m.vertices[t[2]].z < 1e-9;
    });
    for (const FillKind k : {FillKind::Flat, FillKind::Tangent, FillKind::Curvature}) {
        const Fill f = fill_rim(m, rims_of(m)[0], {k, 1, true});
        for (const Vec3& v : f.vertices) CHECK(v.z == Approx(0).margin(1e-12));
        CHECK(mesh::signed_volume(with_fill(m, f)) == Approx(volume).epsilon(1e-9));
    }
}

TEST_CASE("TheMilestoneIsRepairedToItsVolume", "[repair]") {
    mesh::TriMesh scan = demo::milestone_scan();
    const Check raw = check(scan);
    for (const Fault f : {Fault::NonManifoldVertex, Fault::SelfCrossing, Fault::Degenerate, Fault::SmallPiece,
                          Fault::Hole, Fault::InnerShell})
        CHECK(raw.count(f) > 0);
    CHECK(demo::milestone_markers().size() == 6);
    // The table by a plane, the clamp as a piece beside the stone.
    std::erase_if(scan.triangles, [&](const auto& t) {
        double top = -1, left = 1;
        for (const std::uint32_t v : t)
            top = std::max(top, scan.vertices[v].z), left = std::min(left, scan.vertices[v].x);
        return top < -1e-4 || left > 0.2025;
    });
    const Repaired r = repair::repair(scan);
    CHECK(r.after.sound());
    CHECK(r.after.components == 1);
    CHECK(r.after.genus == 0);
    CHECK(r.unrepaired.empty());
    CHECK(mesh::signed_volume(r.mesh) == Approx(mesh::signed_volume(demo::milestone())).epsilon(0.001));
}

TEST_CASE("ShellsInsideGoUnlessTheyAreCavities", "[repair]") {
    mesh::TriMesh m = demo::ball(16, 1);
    mesh::TriMesh inner = demo::ball(12, 0.5, {0.1, 0, 0});
    add(m, inner);
    CHECK(check(m).count(Fault::InnerShell) == 1);
    CHECK(repair::repair(m).mesh.triangles.size() == demo::ball(16, 1).triangles.size());
    for (auto& t : m.triangles)
        if (t[0] >= demo::ball(16, 1).vertices.size()) std::swap(t[1], t[2]);
    const Repaired kept = repair::repair(m);
    CHECK(kept.mesh.triangles.size() == m.triangles.size());
    REQUIRE(kept.unrepaired.size() == 1);
    CHECK_THAT(kept.unrepaired[0].why, Catch::Contains("cavity"));
}

TEST_CASE("APatchIsReplacedInOneStepAndOpenRimsAreLeftAlone", "[repair]") {
    const mesh::TriMesh ball = demo::ball(24, 1);
    std::vector<char> gone(ball.triangles.size(), 0);
    mark_round(ball, {0, 0, 1}, 0.2, gone);
    const Step s = replace_patch(ball, gone, {});
    CHECK(s.unrepaired.empty());
    CHECK(s.removed > 20);
    CHECK(check(s.mesh).sound());
    CHECK(mesh::signed_volume(s.mesh) == Approx(mesh::signed_volume(ball)).epsilon(1e-3));
    // Nothing else was touched.
    const auto before = places(ball), now = places(s.mesh);
    for (std::size_t t = 0; t < ball.triangles.size(); ++t) {
        if (gone[t]) continue;
        mesh::TriMesh one;
        for (const std::uint32_t v : ball.triangles[t]) one.vertices.push_back(ball.vertices[v]);
        one.triangles = {{0, 1, 2}};
        CHECK(now.contains(*places(one).begin()));
    }
    // At an open rim it says so.
    const mesh::TriMesh open = bitten(ball, {0, 0, 1}, 0.3);
    std::vector<char> rim(open.triangles.size(), 0);
    mark_round(open, {0.3, 0, 0.95}, 0.1, rim);
    const Step left = replace_patch(open, rim, {});
    REQUIRE(!left.unrepaired.empty());
    CHECK_THAT(left.unrepaired[0].why, Catch::Contains("open before"));
}

TEST_CASE("MarkersAreReadInAnyOrderAndFaultsNamedByLine", "[io]") {
    const test::TemporaryFolder folder;
    test::write_file(folder / "stone-markers.csv",
                     "Kind;Radius;Z;Y;X;Name;note\r\ntarget;0.01;3;2;1;M1;a\r\n\r\nsphere;0.02;6;5;4;;b\r\n");
    const auto m = io::read_markers(folder / "stone-markers.csv");
    REQUIRE(m.size() == 2);
    CHECK(m[0].name == "M1");
    CHECK(m[0].place == Vec3{1, 2, 3});
    CHECK(m[0].radius == 0.01);
    CHECK(m[1].name == "marker 2");
    CHECK(m[1].kind == "sphere");
    CHECK(io::markers_beside(folder / "stone-scan.ply") == folder / "stone-markers.csv");
    CHECK(io::markers_beside(folder / "stone.ply") == folder / "stone-markers.csv");
    CHECK(io::markers_beside(folder / "other.ply").empty());
    const auto fault = [&](const char* text) {
        test::write_file(folder / "bad.csv", text);
        try {
            io::read_markers(folder / "bad.csv");
        } catch (const Error& e) {
            return std::string(e.what());
        }
        return std::string();
    };
    CHECK_THAT(fault("name,x,y,radius\n"), Catch::Contains("no column 'z'"));
    CHECK_THAT(fault("x,y,z,radius\n1,2,3,0.1\n1,2,x3,0.1\n"), Catch::Contains("line 3"));
    CHECK_THAT(fault("x,y,z,radius\n1,2,3,-1\n"), Catch::Contains("larger than 0"));
    CHECK_THAT(fault("x,y,z,radius\n1,2\n"), Catch::Contains("no number"));
    CHECK_THAT(fault("x,y,z,radius\n"), Catch::Contains("no markers"));
    // Those of the demo site lie on the stone.
    demo::write_milestone(folder.path(), false);
    const auto stone = demo::milestone();
    for (const io::Marker& k : io::read_markers(folder / "milestone-markers.csv")) {
        std::vector<char> met(stone.triangles.size(), 0);
        mark_round(stone, k.place, k.radius, met);
        CHECK(std::count(met.begin(), met.end(), 1) > 0);
    }
}

TEST_CASE("NoMeshIsSoBrokenThatARepairOrAWrapFails", "[repair][property]") {
    for (int seed = 0; seed < 16; ++seed) {
        std::mt19937_64 dice(static_cast<std::uint64_t>(seed));
        std::uniform_real_distribution<double> u(-1, 1);
        mesh::TriMesh m;
        const auto vertices = static_cast<std::uint32_t>(4 + dice() % 40),
                   triangles = 1 + static_cast<std::uint32_t>(dice() % 120);
        for (std::uint32_t i = 0; i < vertices; ++i) {
            Vec3 p{u(dice), u(dice), u(dice)};
            if (seed % 3 == 0) p = {std::round(2 * p.x), std::round(2 * p.y), std::round(2 * p.z)};
            m.vertices.push_back(p);
        }
        const auto any = [&] { return static_cast<std::uint32_t>(dice() % vertices); };
        for (std::uint32_t i = 0; i < triangles; ++i) m.triangles.push_back({any(), any(), any()});
        INFO("seed " << seed);
        const Repaired r = repair::repair(m);
        CHECK((r.mesh.triangles.empty() || r.after.sound() || !r.unrepaired.empty()));
        try {
            const Check c = check(wrap(m, {0.2, 0}).mesh);
            CHECK(c.closed);
            CHECK(c.count(Fault::NonManifoldVertex) + c.count(Fault::SelfCrossing) == 0);
        } catch (const Error& e) {
            FAIL(e.what());
        }
    }
}

TEST_CASE("OneFindingIsRepairedAndTheOthersAreLeft", "[repair]") {
    mesh::TriMesh m = bitten(bitten(demo::ball(24, 1), {0, 0, 1}, 0.2), {1, 0, 0}, 0.2);
    const auto far = [&](std::size_t from) {
        std::size_t t = from;
        while (m.vertices[m.triangles[t][0]].z > -0.4 || std::fabs(m.vertices[m.triangles[t][0]].x) > 0.3)
            ++t;
        return t;
    };
    m.triangles.push_back(m.triangles[far(0)]);
    std::swap(m.triangles[far(far(0) + 40)][0], m.triangles[far(far(0) + 40)][1]);
    const Check before = check(m);
    REQUIRE(before.count(Fault::Hole) == 2);
    REQUIRE(before.count(Fault::DuplicateFace) == 1);
    const Step filled = repair_one(m, before.of(Fault::Hole)[0], {});
    const Check after = check(filled.mesh);
    CHECK(after.count(Fault::Hole) == 1);
    CHECK(after.count(Fault::DuplicateFace) == 1);
    CHECK(after.count(Fault::InconsistentEdge) == before.count(Fault::InconsistentEdge));
    const Step single = repair_one(m, before.of(Fault::DuplicateFace)[0], {});
    CHECK(single.removed == 1);
    CHECK(check(single.mesh).count(Fault::DuplicateFace) == 0);
    CHECK(check(single.mesh).count(Fault::Hole) == 2);
    CHECK(check(single.mesh).count(Fault::InconsistentEdge) == before.count(Fault::InconsistentEdge));
    // One that cannot be done leaves the mesh as it was, and says why.
    Finding nonsense = before.of(Fault::Hole)[0];
    std::reverse(nonsense.vertices.begin(), nonsense.vertices.end());
    const Step refused = repair_one(m, nonsense, {});
    CHECK(refused.mesh.triangles == m.triangles);
    REQUIRE(refused.unrepaired.size() == 1);
    CHECK_THAT(refused.unrepaired[0].why, Catch::Contains("does not belong to one triangle"));
}

TEST_CASE("TrianglesWithACornerTwiceCrossNothing", "[repair]") {
    mesh::TriMesh m;
    m.vertices = {{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {0.2, 0.2, -1}, {0.2, 0.2, 1}};
    m.triangles = {{0, 1, 2}, {0, 0, 1}, {1, 2, 2}, {2, 1, 2}, {3, 4, 3}};
    CHECK(crossings(m).empty());
    m.triangles.push_back({3, 4, 0});
    CHECK(crossings(m) == std::vector<Pair>{{0, 5}});
    CHECK(check(m).count(Fault::Degenerate) == 4);
}
