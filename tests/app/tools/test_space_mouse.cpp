// A mouse with six axes: a simulated device behind a pipe turns and moves the view.

#include <catch2/catch.hpp>

#include <unistd.h>

#include <cmath>
#include <deque>

#include "app/stage/space_mouse.h"
#include "bare_desk.h"
#include "core/io/cloud_io.h"
#include "support/cloud_makers.h"

using namespace pristine;
using app::SpaceMotion;
using app::SpaceMouse;

namespace {

// Events wait in a list; a byte in the pipe says that there are some.
struct Device {
    int ends[2];
    std::deque<SpaceMouse::Event> events;
    bool closed = false;
    Device() { REQUIRE(::pipe(ends) == 0); }
    ~Device() {
        ::close(ends[0]);
        ::close(ends[1]);
    }
    SpaceMouse::Source source() {
        return {[this] { return ends[0]; },
                [this]() -> std::optional<SpaceMouse::Event> {
                    if (events.empty()) {
                        char byte = 0;
                        REQUIRE(::read(ends[0], &byte, 1) == 1);
                        return std::nullopt;
                    }
                    const SpaceMouse::Event e = events.front();
                    events.pop_front();
                    return e;
                },
                [this] { closed = true; }};
    }
    void send(const SpaceMouse::Event& e) {
        events.push_back(e);
        if (events.size() == 1) REQUIRE(::write(ends[1], "x", 1) == 1);
    }
    void push(const SpaceMotion& m) { send({m, {}}); }
};

}  // namespace

TEST_CASE("AMotionOfSixAxesMovesTheCamera", "[window]") {
    render::Camera c;
    c.eye = {0, -10, 0};
    c.pitch_deg = 0;
    c.focus = 10;
    const Vec3 centre{0, 0, 0};
    const auto after = [&](const SpaceMotion& m, double speed = 1, bool viewer = false) {
        return app::after_motion(c, m, speed, viewer, centre, 10, 800);
    };
    // Nothing moves nothing; what is pulled comes nearer, by a factor of e in a second.
    CHECK(after({.seconds = 1}) == c);
    CHECK(norm(after({.near = 1, .seconds = 1}).eye - centre) == Approx(10 / M_E));
    CHECK(norm(after({.near = -0.5, .seconds = 1}).eye - centre) == Approx(10 * std::exp(0.5)));
    // A turn goes about the centre: as far away as before, a quarter in a second.
    const render::Camera turned = after({.yaw = 1, .seconds = 1});
    CHECK(norm(turned.eye - centre) == Approx(10));
    CHECK(std::fabs(turned.yaw_deg - c.yaw_deg) == Approx(90));
    CHECK(after({.yaw = 1, .seconds = 0.5}, 2) == turned);
    // To the right the things follow, so the eye goes left; the person moves the other way.
    CHECK(after({.right = 1, .seconds = 0.1}).eye.x < 0);
    CHECK(after({.right = 1, .seconds = 0.1}, 1, true).eye.x > 0);
    CHECK(after({.up = 1, .seconds = 0.1}).eye.z < 0);
    // The person turns where they stand.
    CHECK(after({.yaw = 1, .seconds = 0.1}, 1, true).eye == c.eye);
}

TEST_CASE("ADeviceWithSixAxesTurnsTheViewAndItsButtonsWork", "[window]") {
    test::TemporaryFolder folder;
    test::BareDesk d(folder / "home");
    io::write_cloud({{test::random_cloud(20'000, test::Shape::Terrain, 3)}}, folder / "ground.las");
    d.desk.document->add_files({folder / "ground.las"});
    REQUIRE(d.wait([&] { return d.site().items.size() == 1 && !d.desk.jobs->busy(); }));
    d.desk.window->resize(800, 600);
    d.desk.window->show();
    d.desk.stage->resize(800, 600);
    d.desk.view->show_scene();  // the window does so after each change
    app::Views& views = d.controllers->views;
    CHECK_FALSE(views.space_mouse()->is_there());  // no daemon on this machine
    Device device;
    auto* mouse = new SpaceMouse(device.source(), &views);
    views.use(mouse);
    REQUIRE(mouse->is_there());
    d.desk.stage->look_at_everything();
    const render::Camera before = d.desk.stage->camera();
    device.push({.yaw = 0.5, .seconds = 0.02});
    device.push({.yaw = 0.5, .seconds = 0.02});
    REQUIRE(d.wait([&] { return d.desk.stage->camera().yaw_deg != before.yaw_deg; }));
    CHECK(d.desk.stage->camera().yaw_deg == Approx(before.yaw_deg + 0.04 * 0.5 * 90).margin(1e-6));
    // After a rest the first motion does not jump.
    const double yaw = d.desk.stage->camera().yaw_deg;
    device.push({.yaw = 1, .seconds = 60});
    REQUIRE(d.wait([&] { return d.desk.stage->camera().yaw_deg != yaw; }));
    CHECK(std::fabs(d.desk.stage->camera().yaw_deg - yaw) < 5);
    // The first button shows everything.
    device.push({.near = 1, .seconds = 0.05});
    REQUIRE(d.wait([&] { return device.events.empty(); }));
    const Vec3 near = d.desk.stage->camera().eye;
    device.send({{}, 0});
    REQUIRE(d.wait([&] { return norm(d.desk.stage->camera().eye - near) > 1e-6; }));
    views.use(new SpaceMouse(SpaceMouse::daemon(), &views));
    CHECK(device.closed);
}
