#include <catch2/catch.hpp>

#include "app/tools/fence_tools.h"
#include "app/tools/path_tools.h"
#include "app/tools/space_tools.h"

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

TEST_CASE("AFreehandLoopNeedsThreeCornersAndCanBeShortened") {
    FreehandTool t;
    const ViewFrame f = frame();
    t.press({100, 100}, f, at_depth(f, 10));
    t.move({101, 100}, f);  // too near to count
    t.move({140, 100}, f);
    t.move({140, 150}, f);
    CHECK(t.outline(f).size() == 3);
    t.key(ToolKey::Back, f);
    CHECK(t.outline(f).size() == 2);
    t.release({140, 100}, f);
    CHECK_FALSE(t.take_fence());  // two corners are no loop
    t.press({100, 100}, f, at_depth(f, 10));
    t.move({140, 100}, f);
    t.release({120, 160}, f);
    const auto fence = t.take_fence();
    REQUIRE(fence);
    CHECK(fence->corners.size() == 3);
    CHECK_FALSE(t.begun());
}

TEST_CASE("ABrushGivesAPieceForEachMovementThatCoversThePath") {
    BrushTool t;
    t.set_radius_px(10);
    const ViewFrame f = frame();
    t.press({100, 100}, f, at_depth(f, 10));
    auto piece = t.take_fence();
    REQUIRE(piece);
    CHECK(contains(piece->corners, {105, 105}));
    CHECK_FALSE(contains(piece->corners, {111, 100}));
    t.move({200, 100}, f);
    piece = t.take_fence();
    REQUIRE(piece);
    for (const double x : {95.0, 150.0, 205.0}) CHECK(contains(piece->corners, {x, 104}));
    CHECK_FALSE(contains(piece->corners, {150, 111}));
    CHECK_FALSE(contains(piece->corners, {212, 100}));
    t.release({200, 100}, f);
    CHECK_FALSE(t.take_fence());  // nothing was left to paint
    t.move({300, 100}, f);
    CHECK_FALSE(t.take_fence());  // the button is up
    t.resize(1000);
    CHECK(t.radius_px() == 400);
    t.resize(1e-9);
    CHECK(t.radius_px() == 3);
}

TEST_CASE("ASpanToolMeasuresAtTheDepthWhereItBegan") {
    SpanTool t(SpaceShape::Kind::Ball);
    const ViewFrame f = frame();
    t.press({400, 300}, f, at_depth(f, 10));
    t.move({450, 300}, f);
    CHECK(t.outline(f).size() >= 16);
    t.release({450, 300}, f);
    const auto shape = t.take_shape();
    REQUIRE(shape);
    REQUIRE(shape->points.size() == 2);
    CHECK(shape->points[0].y == Approx(0));
    CHECK(shape->points[1].x - shape->points[0].x == Approx(1));  // 50 pixels of 500 at 10 m
    t.press({400, 300}, f, at_depth(f, 10));
    t.release({401, 300}, f);
    CHECK_FALSE(t.take_shape());  // a click
    t.press({400, 300}, f, at_depth(f, 10));
    t.key(ToolKey::Cancel, f);
    CHECK_FALSE(t.begun());
}

TEST_CASE("APointsToolCountsItsClicksAndTakesThemBack") {
    PointsTool t(SpaceShape::Kind::Plane, 3);
    const ViewFrame f = frame();
    click(t, f, {100, 100});
    click(t, f, {200, 100});
    CHECK(t.outline(f).size() == 3);
    t.key(ToolKey::Back, f);
    click(t, f, {220, 100});
    CHECK_FALSE(t.take_shape());
    click(t, f, {200, 200});
    const auto shape = t.take_shape();
    REQUIRE(shape);
    CHECK(shape->points.size() == 3);
    CHECK(f.project(shape->points[1]).x == Approx(220));
    CHECK_FALSE(t.begun());
}

TEST_CASE("ABoxKeepsItsOtherFacesWhenOneIsDragged") {
    BoxTool t;
    const select::Box box{{0, 0, 0}, {2, 3, 1}, 0};
    t.set_box(box);
    const ViewFrame f = frame({0, -20, 0});
    const auto pixel = [&](std::size_t handle) { return f.project(t.handles()[handle]); };
    CHECK(t.handles().size() == 7);
    // The eastern face, by one metre outwards: the western one stays.
    const PixelPoint from = pixel(1);
    t.press(from, f, at_depth(f, 20));
    REQUIRE(t.begun());
    const double metre = f.project(t.handles()[1] + Vec3{1, 0, 0}).x - from.x;
    t.move({from.x + metre, from.y}, f);
    t.release({from.x + metre, from.y}, f);
    auto done = t.take_box();
    REQUIRE(done);
    CHECK(done->half.x == Approx(2.5));
    CHECK(done->centre.x - done->half.x == Approx(-2));
    CHECK(done->half.y == 3);
    // A face never passes the opposite one.
    t.press(pixel(1), f, at_depth(f, 20));
    t.move({-10000, from.y}, f);
    t.release({-10000, from.y}, f);
    done = t.take_box();
    REQUIRE(done);
    CHECK(done->half.x > 0);
    CHECK(done->centre.x - done->half.x == Approx(-2));
    // Beside every handle nothing is held; Esc brings the box back that was there.
    t.press({5, 5}, f, at_depth(f, 20));
    CHECK_FALSE(t.begun());
    const select::Box before = t.box();
    t.press(pixel(5), f, at_depth(f, 20));
    t.move({400, 0}, f);
    t.key(ToolKey::Cancel, f);
    CHECK(t.box().half.z == before.half.z);
    CHECK_FALSE(t.take_box());
    CHECK(t.guides().size() == 7);
}
