// Boxes in a grid, against asking every box.

#include "core/surface/box_grid.h"

#include <catch2/catch.hpp>

#include <random>

#include "support/cloud_makers.h"

using namespace pristine;
using surface::BoxGrid;
using surface::PlanBox;

namespace {

PlanBox some_box(std::mt19937_64& dice, double world, double size) {
    std::uniform_real_distribution<double> at(0, world), side(0, size);
    PlanBox b;
    const double x = at(dice), y = at(dice);
    b.add(x, y);
    b.add(x + side(dice), y + side(dice));
    return b;
}

void check_against_all(const std::vector<PlanBox>& boxes, const std::vector<PlanBox>& asked) {
    const BoxGrid grid(boxes);
    for (const PlanBox& b : asked) {
        std::vector<int> met(boxes.size(), 0);
        grid.meeting(b, [&](std::uint32_t i) { ++met[i]; });
        std::size_t wrong = 0;
        for (std::size_t i = 0; i < boxes.size(); ++i)
            wrong += met[i] != (!boxes[i].empty() && boxes[i].meets(b) ? 1 : 0);
        CHECK(wrong == 0);
    }
}

}  // namespace

TEST_CASE("EveryBoxThatMeetsIsMetOnce") {
    std::mt19937_64 dice(test::seed_for("EveryBoxThatMeetsIsMetOnce"));
    for (const double size : {0.0, 0.1, 5.0, 200.0}) {
        std::vector<PlanBox> boxes, asked;
        for (int i = 0; i < 400; ++i) boxes.push_back(some_box(dice, 100, size));
        boxes[7] = PlanBox();  // empty
        boxes[8] = boxes[9];   // a double
        for (int i = 0; i < 60; ++i) asked.push_back(some_box(dice, 120, size + 3));
        asked.push_back(boxes[3]);
        asked.push_back({-1e6, -1e6, 1e6, 1e6});
        asked.push_back({1e6, 1e6, 2e6, 2e6});
        CAPTURE(size);
        check_against_all(boxes, asked);
    }
}

TEST_CASE("BoxesInALineAndInOnePlaceAreMet") {
    std::vector<PlanBox> line, place;
    for (int i = 0; i < 50; ++i) {
        line.push_back({i * 1.0, 5, i + 0.5, 5});
        place.push_back({3, 3, 3, 3});
    }
    check_against_all(line, {{10, 0, 20, 9}, {10.2, 5, 10.3, 5}, {0, 6, 99, 9}});
    check_against_all(place, {{3, 3, 3, 3}, {0, 0, 5, 5}, {4, 4, 5, 5}});
    check_against_all({}, {{0, 0, 1, 1}});
}
