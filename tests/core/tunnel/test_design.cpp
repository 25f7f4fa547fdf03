// A lining against the profile that was designed, held against slow sums over many rays.

#include <catch2/catch.hpp>

#include <algorithm>
#include <cmath>
#include <functional>
#include <numbers>
#include <random>

#include "core/base/error.h"
#include "core/io/points.h"
#include "core/io/profile_file.h"
#include "core/tunnel/design.h"
#include "support/cloud_makers.h"

using namespace pristine;
using namespace pristine::tunnel;

namespace {

constexpr double kStraight = std::numbers::pi, kDesignTunnel = 20;
constexpr Vec3 kAt{412300, 5218930, 58};

// A straight tunnel to the north of a radius that may change with angle (0 up, to the right) and chainage.
std::shared_ptr<const cloud::PointCloud> tube(const std::function<double(double, double)>& radius) {
    io::PointList list;
    list.name = "Tunnel";
    for (int i = 0; i <= 400; ++i)
        for (int k = 0; k < 500; ++k) {
            const double s = kDesignTunnel * i / 400,
                         a = -kStraight + 2 * kStraight * (k + 0.5 * (i % 2)) / 500, r = radius(a, s);
            list.points.push_back(kAt + Vec3{r * std::sin(a), s, r * std::cos(a)});
        }
    return io::cloud_of_points(list, cloud::Reference{"m", {}, {}});
}

Lining lining_of(const cloud::PointCloud& c) {
    Options o;
    o.spacing = 0.25;
    return Lining(c, ElementSet::all(c.size()), {kAt, kAt + Vec3{0, kDesignTunnel, 0}}, o);
}

// The farthest meeting of a ray with a polygon.
double reach(const std::vector<std::array<double, 2>>& ring, double a) {
    const double dx = std::sin(a), dy = std::cos(a);
    double far = 0;
    for (std::size_t i = 0; i < ring.size(); ++i) {
        const auto &p = ring[i], &q = ring[(i + 1) % ring.size()];
        const double ex = q[0] - p[0], ey = q[1] - p[1], det = dx * ey - dy * ex;
        if (std::fabs(det) < 1e-15) continue;
        const double r = (p[0] * ey - p[1] * ex) / det, t = (p[0] * dy - p[1] * dx) / det;
        if (t >= -1e-12 && t <= 1 + 1e-12) far = std::max(far, r);
    }
    return far;
}

}  // namespace

TEST_CASE("OverAndUnderbreakAreThoseOfManyRays", "[tunnel]") {
    const std::uint64_t seed = test::seed_for("Design");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::uniform_real_distribution<double> u(0, 1);
    for (int round = 0; round < 3; ++round) {
        const double a1 = 0.1 * u(dice), a2 = 0.1 * u(dice), turn = 6 * u(dice);
        const auto cloud = tube(
            [&](double a, double s) { return 3 + a1 * std::sin(3 * a + turn) + a2 * std::sin(0.5 * s); });
        const Lining lining = lining_of(*cloud);
        DesignProfile design;
        for (int k = 0; k < 40; ++k) {
            const double a = 2 * kStraight * k / 40, r = 3 + 0.08 * std::cos(2 * a) - 0.02;
            design.corners.push_back({r * std::sin(a), r * std::cos(a)});
        }
        if (round == 1) std::reverse(design.corners.begin(), design.corners.end());
        const std::vector<BreakInterval> found = against_design(lining, design, 5);
        REQUIRE(found.size() == 4);
        double over = 0, under = 0;
        const auto sections = lining.sections();
        std::vector<std::array<double, 2>> areas;
        constexpr int kRays = 20'000;
        for (const Section& s : sections) {
            areas.push_back({0, 0});
            for (int k = 0; k < kRays; ++k) {
                const double a = -kStraight + 2 * kStraight * (k + 0.5) / kRays, l = reach(s.corners, a),
                             d = reach(design.corners, a);
                areas.back()[l > d ? 0 : 1] += 0.5 * std::fabs(l * l - d * d) * 2 * kStraight / kRays;
            }
        }
        for (std::size_t k = 0; k + 1 < sections.size(); ++k) {
            const double step = sections[k + 1].chainage - sections[k].chainage;
            over += 0.5 * step * (areas[k][0] + areas[k + 1][0]);
            under += 0.5 * step * (areas[k][1] + areas[k + 1][1]);
        }
        double o = 0, n = 0;
        for (const BreakInterval& i : found) {
            o += i.over, n += i.under;
            CHECK(i.measured == Approx(1));
            CHECK(i.most_over < 0.35);
        }
        CHECK(o == Approx(over).epsilon(2e-4));
        CHECK(n == Approx(under).epsilon(2e-4));
    }
}

// A round tunnel against a round design: rings of known area; and what is seen of an opening.
TEST_CASE("ARoundTunnelBreaksOutByARing", "[tunnel]") {
    const auto cloud = tube([](double, double) { return 3.0; });
    const Lining lining = lining_of(*cloud);
    const auto circle = [](double r) {
        DesignProfile p;
        for (int k = 0; k < 720; ++k)
            p.corners.push_back(
                {r * std::sin(2 * kStraight * k / 720), r * std::cos(2 * kStraight * k / 720)});
        return p;
    };
    const auto sum = [&](const DesignProfile& p) {
        BreakInterval all;
        for (const BreakInterval& i : against_design(lining, p, 7)) {
            all.over += i.over, all.under += i.under;
            all.most_over = std::max(all.most_over, i.most_over);
            all.most_under = std::max(all.most_under, i.most_under);
        }
        return all;
    };
    const BreakInterval wide = sum(circle(2.9)), narrow = sum(circle(3.2));
    CHECK(wide.over == Approx(kStraight * (9 - 2.9 * 2.9) * kDesignTunnel).epsilon(0.01));
    CHECK(wide.under == Approx(0).margin(1e-6));
    CHECK(wide.most_over == Approx(0.1).margin(0.005));
    CHECK(narrow.under == Approx(kStraight * (3.2 * 3.2 - 9) * kDesignTunnel).epsilon(0.01));
    CHECK(narrow.over == Approx(0).margin(1e-6));
    CHECK(narrow.most_under == Approx(0.2).margin(0.005));
    // A profile that does not go round the line.
    DesignProfile beside = circle(1);
    for (auto& c : beside.corners) c[0] += 5;
    CHECK_THROWS_WITH(against_design(lining, beside, 5), Catch::Contains("does not go once round"));
    CHECK_THROWS_AS(against_design(lining, {{{0, 1}, {1, 0}}}, 5), Error);
}

TEST_CASE("AProfileIsReadFromText", "[io]") {
    const test::TemporaryFolder folder;
    const auto read = [&](const char* text) {
        test::write_file(folder / "profil.txt", text);
        return io::read_design_profile(folder / "profil.txt").corners;
    };
    CHECK(read("offset;height\r\n-2.5;0\r\n2.5;0\r\n\r\n# crown\r\n0;3.5\r\n-2.5;0\r\n").size() == 3);
    CHECK(read("-2 0\n2 0\n0 3\n")[2] == std::array<double, 2>{0, 3});
    CHECK_THROWS_WITH(read("-2 0\n2 x\n0 3\n"), Catch::Contains("line 2"));
    CHECK_THROWS_AS(read("-2 0\n2 0\n"), Error);
    CHECK_THROWS_AS(read(""), Error);
}
