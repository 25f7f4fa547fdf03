// Places that a person typed or pasted, in every way that lists come.

#include <catch2/catch.hpp>
#include <random>

#include "core/base/error.h"
#include "core/io/text/typed_places.h"
#include "support/cloud_makers.h"

using namespace pristine;
using io::typed_places;

TEST_CASE("TypedPlacesAreReadHoweverTheNumbersStandApart") {
    const std::vector<Vec3> expected{{412300.25, 5218930.5, 58.2}, {412301, 5218931, -1}};
    for (const char* text :
         {"412300.25 5218930.5 58.2\n412301 5218931 -1", "412300,25\t5218930,5\t58,2\n412301\t5218931\t-1\n",
          "412300,25;5218930,5;58,2\r\n412301;5218931;-1\r\n", "412300.25,5218930.5,58.2\n412301,5218931,-1",
          "412300.25, 5218930.5, 58.2\n412301, 5218931, -1",
          "# E N H\nP1 412300.25 5218930.5 58.2\n\n  P2\t412301 5218931 -1  # kerb\n",
          "101 412300.25 5218930.5 58.2\n102 412301 5218931 -1",
          "412300.25 5218930.5 58.2 KERB\n412301 5218931 -1 KERB S",
          "\n412300.25;5218930.5;58.2\n412301;5218931;-1;\n"}) {
        CAPTURE(text);
        const io::TypedPlaces typed = typed_places(text);
        CHECK(typed.heights);
        CHECK(typed.places == expected);
    }
    const io::TypedPlaces flat = typed_places("1 2\n3 4\n");
    CHECK_FALSE(flat.heights);
    CHECK(flat.places == std::vector<Vec3>{{1, 2, 0}, {3, 4, 0}});
    CHECK(typed_places("").places.empty());
    CHECK(typed_places(" \n# nothing\n").places.empty());
}

TEST_CASE("TypedPlacesThatAreNoneNameTheirLine") {
    for (const char* text : {"1 2 3\n4 x 6", "1 2 3\n4", "1 2 3\n4 nan 5", "1 2 3\n4 5", "1 2 3\n1 2 3 4 5 6",
                             "1 2 3\nkerb", "1 2 3\n1.2.3 4 5 6 7"}) {
        CAPTURE(text);
        try {
            typed_places(text);
            FAIL("this was taken");
        } catch (const Error& e) {
            CHECK(e.where() == "line 2");
        }
    }
}

TEST_CASE("TypedPlacesComeBackAsTheyWereWritten") {
    const std::uint64_t seed = test::seed_for("typed places");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::uniform_real_distribution<double> value(-1e7, 1e7);
    for (int round = 0; round < 200; ++round) {
        std::string text;
        std::vector<Vec3> expected;
        const bool comma = dice() % 2;
        for (std::size_t n = dice() % 8; n > 0; --n) {
            expected.push_back({value(dice), value(dice), value(dice)});
            for (int a = 0; a < 3; ++a) {
                char number[40];
                std::snprintf(number, sizeof number, "%.6f", expected.back()[a]);
                expected.back()[a] = std::strtod(number, nullptr);
                for (char* c = number; comma && *c; ++c)
                    if (*c == '.') *c = ',';
                text += number;
                text += a < 2 ? "; " : "\n";
            }
        }
        CAPTURE(text);
        CHECK(typed_places(text).places == expected);
    }
}
