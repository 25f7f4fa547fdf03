#include <catch2/catch.hpp>

#include "app/tools/fence_tools.h"
#include "app/tools/line_tool.h"
#include "app/tools/path_tools.h"
#include "app/tools/solid_tool.h"
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
    SolidTool t(nullptr);
    const select::Box box{{0, 0, 0}, {2, 3, 1}, 0};
    t.set_solid(Solid::of(box));
    const ViewFrame f = frame({0, -20, 0});
    const auto pixel = [&](std::size_t handle) { return f.project(t.handles()[handle]); };
    CHECK(t.handles().size() == 9);
    // The eastern face, by one metre outwards: the western one stays.
    const PixelPoint from = pixel(1);
    t.press(from, f, at_depth(f, 20));
    REQUIRE(t.begun());
    const double metre = f.project(t.handles()[1] + Vec3{1, 0, 0}).x - from.x;
    t.move({from.x + metre, from.y}, f);
    t.release({from.x + metre, from.y}, f);
    auto done = t.take_solid();
    REQUIRE(done);
    CHECK(done->half.x == Approx(2.5));
    CHECK(done->centre.x - done->half.x == Approx(-2));
    CHECK(done->half.y == 3);
    // A face never passes the opposite one.
    t.press(pixel(1), f, at_depth(f, 20));
    t.move({-10000, from.y}, f);
    t.release({-10000, from.y}, f);
    done = t.take_solid();
    REQUIRE(done);
    CHECK(done->half.x > 0);
    CHECK(done->centre.x - done->half.x == Approx(-2));
    // Beside every handle nothing is held; Esc brings the box back that was there.
    t.press({5, 5}, f, at_depth(f, 20));
    CHECK_FALSE(t.begun());
    const select::Box before = t.solid()->box();
    t.press(pixel(5), f, at_depth(f, 20));
    t.move({400, 0}, f);
    t.key(ToolKey::Cancel, f);
    CHECK(t.solid()->half.z == before.half.z);
    CHECK_FALSE(t.take_solid());
    CHECK(t.guides().size() == 9);
}

TEST_CASE("ABallStaysWithItsHandlesUntilAnotherIsDrawn") {
    SolidTool t(std::make_unique<SpanTool>(SpaceShape::Kind::Ball));
    const ViewFrame f = frame({0, -20, 0});
    t.press({400, 300}, f, at_depth(f, 20));
    t.release({450, 300}, f);
    REQUIRE(t.take_shape());
    Solid ball;
    ball.centre = {0, 0, 0};
    ball.radius = 2;
    t.set_solid(ball);
    REQUIRE(t.handles().size() == 7);
    // Its eastern handle outwards by the radius.
    const PixelPoint rim = f.project(t.handles()[0]), middle = f.project(ball.centre);
    t.press(rim, f, at_depth(f, 20));
    t.release({rim.x + (rim.x - middle.x), rim.y}, f);
    auto done = t.take_solid();
    REQUIRE(done);
    CHECK(done->radius == Approx(4));
    CHECK_FALSE(t.take_shape());  // nothing new was begun
    // The middle moves it across the view.
    t.press(middle, f, at_depth(f, 20));
    t.release({middle.x + 50, middle.y - 25}, f);
    done = t.take_solid();
    REQUIRE(done);
    CHECK(done->centre.x == Approx(2));  // 50 of 500 pixels at 20 m
    CHECK(done->centre.z == Approx(1));
    CHECK(done->radius == Approx(4));
    // A click on a handle changes nothing; Esc lets the shape go; a press elsewhere begins another.
    t.press(f.project(t.handles()[6]), f, at_depth(f, 20));
    t.release(f.project(t.handles()[6]), f);
    CHECK_FALSE(t.take_solid());
    t.key(ToolKey::Cancel, f);
    CHECK(t.handles().empty());
    t.press({100, 100}, f, at_depth(f, 20));
    CHECK(t.begun());
}

TEST_CASE("TheEndsOfACylinderAndThePlaneMoveAlongTheirAxes") {
    const ViewFrame f = frame({0, -20, 0});
    Solid c;
    c.kind = Solid::Kind::Cylinder;
    c.drawn_bottom = -3;
    c.drawn_top = 3;
    const auto up = [&](const Solid& s, std::size_t h, double pixels) {
        const PixelPoint p = f.project(s.handles()[h]);
        return s.dragged(h, p, {p.x, p.y - pixels}, f);
    };
    CHECK(up(c, 4, -25).top == Approx(2));  // 25 pixels are a metre here
    CHECK(std::isinf(up(c, 4, -25).bottom));
    CHECK(up(c, 5, 25).bottom == Approx(-2));
    CHECK(up(c, 5, 1000).bottom < 3);  // never past the other end
    CHECK(up(c, 6, 25).centre.z == 0);
    Solid plane;
    plane.kind = Solid::Kind::Plane;
    plane.radius = 2;
    CHECK(up(plane, 1, 25).centre.z == Approx(1));
    CHECK(up(plane, 0, -50).centre.z == Approx(-2));
    // Seen square on, the mouse moves up for outward.
    plane.normal = {0, -1, 0};
    CHECK(up(plane, 1, 25).centre.y == Approx(-1));
}

TEST_CASE("ALineIsDrawnClosedAndEditedByItsCorners") {
    LineTool t;
    const ViewFrame f = frame({0, -20, 0});
    const auto at = at_depth(f, 20);
    const auto press = [&](PixelPoint p) {
        t.press(p, f, at);
        t.release(p, f);
    };
    press({100, 100});
    press({300, 100});
    t.key(ToolKey::Back, f);
    press({200, 100});
    t.key(ToolKey::Finish, f);
    auto line = t.take_line();
    REQUIRE(line);
    CHECK(line->id == 0);
    CHECK_FALSE(line->closed);
    REQUIRE(line->points.size() == 2);
    CHECK(f.project(line->points[1]).x == Approx(200));
    for (const PixelPoint p : {PixelPoint{100, 100}, {300, 100}, {300, 300}, {102, 98}}) press(p);
    line = t.take_line();
    REQUIRE(line);
    CHECK(line->closed);
    CHECK(line->points.size() == 3);

    line->id = 7;
    t.set_line(line);
    CHECK(t.handles().size() == 3);
    t.press({300, 100}, f, at);
    t.move({350, 120}, f);
    t.release({350, 120}, f);
    auto changed = t.take_line();
    REQUIRE(changed);
    CHECK(changed->id == 7);
    CHECK(f.project(changed->points[1]).x == Approx(350));
    CHECK(f.project(changed->points[0]).x == Approx(100));
    // A double click on the closing stretch puts a corner in; the click before it is not taken for a new
    // line.
    press({200, 200});
    t.double_click({200, 200}, f);
    changed = t.take_line();
    REQUIRE(changed);
    REQUIRE(changed->points.size() == 4);
    CHECK(f.project(changed->points[3]).y == Approx(200));
    CHECK_FALSE(t.begun());
    t.set_line(changed);
    t.hold_control(true);
    press({200, 200});
    changed = t.take_line();
    REQUIRE(changed);
    CHECK(changed->points.size() == 3);
    // A triangle keeps its corners.
    t.set_line(changed);
    press(f.project(changed->points[0]));
    CHECK_FALSE(t.take_line());
    t.hold_control(false);
    t.press(f.project(changed->points[0]), f, at);
    t.move({5, 5}, f);
    t.key(ToolKey::Cancel, f);
    CHECK_FALSE(t.take_line());
    CHECK(f.project(t.line()->points[0]).x == Approx(100));
}
