// Placements from pairs: what was done to the places is found, and what is off is told.

#include <catch2/catch.hpp>

#include <cmath>
#include <random>

#include "core/base/error.h"
#include "core/io/pairs_file.h"
#include "core/place/pairs.h"
#include "support/cloud_makers.h"

using namespace pristine;
using place::Freedom;
using place::Pair;

namespace {

Vec3 any(std::mt19937_64& dice, double size) {
    std::uniform_real_distribution<double> d(-size, size);
    return {d(dice), d(dice), d(dice)};
}

Similarity done(Freedom f, std::mt19937_64& dice) {
    std::uniform_real_distribution<double> turn(-180, 180), scale(0.2, 4);
    const Vec3 axis = f == Freedom::Level ? Vec3{0, 0, 1} : any(dice, 1);
    return Similarity::about(any(dice, 50), axis, f == Freedom::Shift ? 0 : turn(dice),
                             f == Freedom::Similarity ? scale(dice) : 1, any(dice, 1e6));
}

}  // namespace

TEST_CASE("APlacementIsFoundFromItsPairs") {
    const std::uint64_t seed = test::seed_for("pairs");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    for (const Freedom f : {Freedom::Shift, Freedom::Level, Freedom::Rigid, Freedom::Similarity})
        for (int round = 0; round < 30; ++round) {
            const Similarity truth = done(f, dice);
            std::vector<Pair> pairs;
            const Vec3 far = any(dice, 5e6);
            for (int k = 0; k < 6; ++k) {
                const Vec3 p = far + any(dice, 100);
                pairs.push_back({std::to_string(k), p, truth(p)});
            }
            const place::Placed found = place::by_pairs(pairs, f);
            CAPTURE(static_cast<int>(f), round);
            for (int k = 0; k < 20; ++k) {
                const Vec3 p = far + any(dice, 100);
                REQUIRE(norm(found.placement(p) - truth(p)) < 2e-6);
            }
            CHECK(found.rms < 2e-6);
            CHECK(found.placement.scale == Approx(truth.scale).epsilon(1e-9));
        }
}

TEST_CASE("APairThatIsOffIsMarkedAndNothingIsLeftOut") {
    std::mt19937_64 dice(5);
    std::normal_distribution<double> noise(0, 0.003);
    const Similarity truth = Similarity::about({1, 2, 3}, {0, 0, 1}, 30, 1, {400, 500, 6});
    std::vector<Pair> pairs;
    for (int k = 0; k < 8; ++k) {
        const Vec3 p = any(dice, 40);
        pairs.push_back({std::to_string(k), p, truth(p) + Vec3{noise(dice), noise(dice), noise(dice)}});
    }
    for (const place::Residual& r : place::by_pairs(pairs, Freedom::Rigid).residuals) CHECK_FALSE(r.outlier);
    pairs[3].should.x += 0.12;
    place::Placed p = place::by_pairs(pairs, Freedom::Rigid);
    for (std::size_t k = 0; k < 8; ++k) {
        CAPTURE(k);
        CHECK(p.residuals[k].outlier == (k == 3));
        CHECK(p.residuals[k].used);
    }
    // Left out by a person it is still told how far off it is.
    pairs[3].used = false;
    p = place::by_pairs(pairs, Freedom::Rigid);
    CHECK(p.rms < 0.01);
    CHECK(p.residuals[3].size == Approx(0.12).margin(0.02));
    CHECK(p.sigma == Approx(0.003).margin(0.002));
}

TEST_CASE("PairsThatDetermineNothingAreRefused") {
    const Pair a{"a", {0, 0, 0}, {5, 5, 5}}, b{"b", {1, 0, 0}, {6, 5, 5}}, c{"c", {2, 0, 0}, {7, 5, 5}},
        above{"d", {0, 0, 9}, {5, 5, 14}};
    CHECK_THROWS_AS(place::by_pairs({}, Freedom::Shift), Error);
    CHECK(norm(place::by_pairs({a}, Freedom::Shift).placement({1, 1, 1}) - Vec3{6, 6, 6}) < 1e-12);
    CHECK(std::isnan(place::by_pairs({a}, Freedom::Shift).sigma));
    CHECK_THROWS_AS(place::by_pairs({a}, Freedom::Level), Error);
    CHECK_THROWS_WITH(place::by_pairs({a, above}, Freedom::Level), Catch::Contains("one place"));
    CHECK_THROWS_WITH(place::by_pairs({a, b, c}, Freedom::Rigid), Catch::Contains("one line"));
    CHECK_NOTHROW(place::by_pairs({a, b, above}, Freedom::Rigid));
}

TEST_CASE("SimilaritiesGoThereAndBackAndAreMatrices") {
    std::mt19937_64 dice(9);
    for (int round = 0; round < 50; ++round) {
        const Similarity a = done(Freedom::Similarity, dice), b = done(Freedom::Similarity, dice);
        const Vec3 p = any(dice, 1000);
        CHECK(norm(a.inverse()(a(p)) - p) < 1e-5);
        CHECK(norm(b.after(a)(p) - b(a(p))) < 1e-5);
        CHECK(Similarity::about(p, any(dice, 1), 25, 2, p).turn_deg() == Approx(25));
        CHECK(Similarity::about(p, any(dice, 1), -1e-5, 1, p).turn_deg() == Approx(1e-5));
        const auto m = a.matrix();
        const Vec3 by_matrix{m[0] * p.x + m[1] * p.y + m[2] * p.z + m[3],
                             m[4] * p.x + m[5] * p.y + m[6] * p.z + m[7],
                             m[8] * p.x + m[9] * p.y + m[10] * p.z + m[11]};
        CHECK(norm(by_matrix - a(p)) < 1e-6);
        CHECK(norm(Similarity::of_matrix(m)(p) - a(p)) < 1e-4);
    }
    std::array<double, 16> m = Similarity().matrix();
    m[0] = 2;
    CHECK_THROWS_WITH(Similarity::of_matrix(m), Catch::Contains("shears"));
    m = Similarity().matrix();
    m[10] = -1;
    CHECK_THROWS_WITH(Similarity::of_matrix(m), Catch::Contains("mirrors"));
    m = Similarity().matrix();
    m[12] = 1;
    CHECK_THROWS_AS(Similarity::of_matrix(m), Error);
}

TEST_CASE("PairsAreReadFromTables") {
    const test::TemporaryFolder f;
    test::write_file(
        f / "a.csv",
        "# station list\nnail 1,1.5,2,3,101.5,102,103\n-P2,4,5,6,104,105,106\nSüd,7,8,9,107,108,109\n");
    const auto a = io::read_pairs(f / "a.csv");
    REQUIRE(a.size() == 3);
    CHECK(a[0].name == "nail 1");
    CHECK(a[0].is == Vec3{1.5, 2, 3});
    CHECK(a[0].should == Vec3{101.5, 102, 103});
    CHECK(a[1].name == "P2");
    CHECK_FALSE(a[1].used);
    CHECK(a[2].name == "Süd");
    test::write_file(f / "b.txt", "1 2 3 4 5 6\n7 8 9 10 11 12\n");
    const auto b = io::read_pairs(f / "b.txt");
    REQUIRE(b.size() == 2);
    CHECK(b[1].should == Vec3{10, 11, 12});
    test::write_file(f / "c.txt", "1 2 3\n4 5 6\n");
    CHECK_THROWS_AS(io::read_pairs(f / "c.txt"), Error);
}
