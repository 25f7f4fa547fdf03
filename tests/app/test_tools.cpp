#include <catch2/catch.hpp>

#include "app/tools/fence_tools.h"

using namespace pristine;
using namespace pristine::app;

namespace {

ViewFrame frame(Vec3 eye = {0, -10, 0}) {
    ViewFrame f;
    f.eye = eye;
    f.right = {1, 0, 0};
    f.down = {0, 0, -1};
    f.ahead = {0, 1, 0};
    f.perspective = true;
    f.scale = 500;
    f.centre_x = 400;
    f.centre_y = 300;
    f.near_depth = 0.01;
    return f;
}

Tool::Anchor at_depth(const ViewFrame& f, double depth) {
    return [=](PixelPoint p) { return f.lift(p, depth); };
}

void click(Tool& t, const ViewFrame& f, PixelPoint p) {
    t.press(p, f, at_depth(f, 10));
    t.release(p, f);
}

}  // namespace

TEST_CASE("APolygonIsClosedByEnterWithTheCornersThatWereSet") {
    PolygonTool t;
    const ViewFrame f = frame();
    for (const PixelPoint p : {PixelPoint{100, 100}, {200, 100}, {200, 200}}) click(t, f, p);
    CHECK(t.begun());
    CHECK_FALSE(t.take_fence());
    t.key(ToolKey::Finish, f);
    const auto fence = t.take_fence();
    REQUIRE(fence);
    REQUIRE(fence->corners.size() == 3);
    CHECK(fence->corners[1].x == Approx(200));
    CHECK_FALSE(t.begun());
    CHECK_FALSE(t.take_fence());
}

TEST_CASE("BackTakesACornerAndCancelDropsTheFence") {
    PolygonTool t;
    const ViewFrame f = frame();
    for (int i = 0; i < 4; ++i) click(t, f, {100.0 + 30 * i, 100.0 + 20 * i * i});
    t.key(ToolKey::Back, f);
    CHECK(t.corner_count() == 3);
    t.key(ToolKey::Cancel, f);
    CHECK_FALSE(t.begun());
    t.key(ToolKey::Back, f);  // nothing to take back: nothing happens
    CHECK_FALSE(t.begun());
}

TEST_CASE("TwoCornersAreRefusedWithAReasonAndKept") {
    PolygonTool t;
    const ViewFrame f = frame();
    click(t, f, {100, 100});
    click(t, f, {200, 100});
    t.key(ToolKey::Finish, f);
    CHECK_FALSE(t.take_fence());
    CHECK(t.refusal().find("three corners") != std::string::npos);
    CHECK(t.begun());
}

TEST_CASE("CornersStayPlantedInTheWorldWhenTheViewMoves") {
    PolygonTool t;
    const ViewFrame before = frame();
    click(t, before, {100, 100});
    click(t, before, {200, 100});
    const ViewFrame moved = frame({1, -10, 0});  // 1 to the right at depth 10: 50 pixels to the left
    const Polygon outline = t.outline(moved);
    CHECK(outline[0].x == Approx(50));
    CHECK(outline[1].x == Approx(150));
    click(t, moved, {100, 200});
    t.key(ToolKey::Finish, before);  // and back again: exactly where they were
    const auto fence = t.take_fence();
    REQUIRE(fence);
    CHECK(fence->corners[0].x == Approx(100).margin(1e-9));
    CHECK(fence->corners[2].x == Approx(150));
}

TEST_CASE("ACornerBehindTheEyeIsRefused") {
    PolygonTool t;
    const ViewFrame f = frame();
    for (const PixelPoint p : {PixelPoint{100, 100}, {200, 100}, {200, 200}}) click(t, f, p);
    t.key(ToolKey::Finish, frame({0, 10, 0}));
    CHECK_FALSE(t.take_fence());
    CHECK(t.refusal().find("behind you") != std::string::npos);
}

TEST_CASE("ARectangleNeedsADrag") {
    RectangleTool t;
    const ViewFrame f = frame();
    click(t, f, {100, 100});
    CHECK_FALSE(t.take_fence());
    t.press({100, 120}, f, at_depth(f, 10));
    t.move({180, 60}, f);
    CHECK(t.outline(f).size() == 4);
    t.release({180, 60}, f);
    const auto fence = t.take_fence();
    REQUIRE(fence);
    CHECK(contains(fence->corners, {140, 90}));
    CHECK_FALSE(contains(fence->corners, {140, 130}));
    t.press({1, 1}, f, at_depth(f, 10));
    t.key(ToolKey::Cancel, f);
    t.release({90, 90}, f);
    CHECK_FALSE(t.take_fence());
}
