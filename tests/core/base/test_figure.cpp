// Numbers as people write them.

#include <catch2/catch.hpp>
#include <cmath>
#include <random>

#include "core/base/figure.h"
#include "support/cloud_makers.h"

using namespace pristine;

TEST_CASE("FiguresReadBackAndNeverShowAnExponent") {
    const std::uint64_t seed = test::seed_for("FiguresReadBackAndNeverShowAnExponent");
    CAPTURE(seed);
    std::mt19937_64 random(seed);
    std::uniform_real_distribution<double> power(-4, 12), mantissa(1, 10);
    const NumberMarks german{".", ","};
    for (int i = 0; i < 100'000; ++i) {
        double v = std::min(9.9e11, mantissa(random) * std::pow(10.0, std::floor(power(random))));
        if (random() % 2) v = -v;
        const int decimals = static_cast<int>(random() % 7);
        for (const NumberMarks& marks : {NumberMarks{}, german}) {
            const std::string text = figure(v, decimals, marks);
            REQUIRE(text.find_first_of("eE") == std::string::npos);
            // Back by hand: groups away, the mark a point.
            std::string plain;
            std::size_t group = 0;
            bool after = false, parted = false;
            for (const char c : text) {
                if (std::string(1, c) == marks.group) {
                    REQUIRE_FALSE(after);
                    if (parted) REQUIRE(group == 3);
                    parted = true;
                    group = 0;
                    continue;
                }
                if (std::string(1, c) == marks.decimal) {
                    after = true;
                    if (parted) REQUIRE(group == 3);
                    plain += '.';
                    continue;
                }
                if (!after && c != '-') ++group;
                plain += c;
            }
            REQUIRE(std::fabs(std::stod(plain) - v) <=
                    0.5000001 * std::pow(10.0, -decimals) + 1e-15 * std::fabs(v));
            REQUIRE((text[0] != '-' || plain.find_first_of("123456789") != std::string::npos));
        }
    }
}

TEST_CASE("FiguresOfKnownValues") {
    CHECK(figure(1234567.891, 2) == "1,234,567.89");
    CHECK(figure(-1234.5, 0) == "-1,234");
    CHECK(figure(999, 0) == "999");
    CHECK(figure(-0.001, 2) == "0.00");
    CHECK(figure(NAN, 2) == "none");
    CHECK(figure(1e12, 2) == "1.00000e+12");
    CHECK(figure(1234.5, 1, {".", ","}) == "1.234,5");
    CHECK(decimals_for(0.00123456, 3) == 5);
    CHECK(decimals_for(1234.5, 3) == 0);
    CHECK(decimals_for(0, 3, 2) == 2);
    CHECK(mass_text(1234567) == "1,234.6 t");
    CHECK(mass_text(9999) == "9,999.0 kg");
    CHECK(mass_text(0.5) == "0.50000 kg");
}
