#include <catch2/catch.hpp>

#include <random>

#include "core/base/parallel.h"
#include "core/cloud/classes.h"
#include "core/cloud/triangles.h"
#include "core/io/points.h"
#include "demo/solids.h"
#include "render/camera.h"
#include "render/renderer.h"
#include "render/splat.h"
#include "support/cloud_makers.h"

using namespace pristine;
using namespace pristine::render;
using test::Shape;

namespace {

std::shared_ptr<const Scene> scene_with(std::shared_ptr<const cloud::PointCloud> c,
                                        site::SetPtr hidden = nullptr, site::SetPtr selected = nullptr,
                                        site::SetPtr ghosts = nullptr) {
    return std::make_shared<const Scene>(
        std::vector<DrawItem>{{1, std::move(c), hidden, selected, ghosts, {}}});
}

ViewFrame view_of(const Scene& s, bool perspective, int w = 320, int h = 240) {
    Camera c;
    c.yaw_deg = 30;
    c.pitch_deg = -40;
    c.perspective = perspective;
    c.look_at_all(s.robust_bounds(), static_cast<double>(w) / h);
    return c.frame(w, h, s.bounds());
}

}  // namespace

TEST_CASE("TheVectorSplatterGivesTheSameKeysAsItsScalarTwin") {
    if (!has_avx2()) {
        WARN("this machine has no AVX2; only the scalar version can run");
        return;
    }
    const std::uint64_t seed = test::seed_for("Splat");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::uniform_real_distribution<float> unit(-1, 1);
    for (int round = 0; round < 60; ++round) {
        const int w = 200 + round, h = 150;
        std::vector<std::int32_t> x(3000), y(3000), z(3000);
        for (std::size_t i = 0; i < x.size(); ++i) {
            x[i] = static_cast<std::int32_t>(dice() % 10000) - 2000 + (i % 500 == 0 ? 2000000000 : 0);
            y[i] = static_cast<std::int32_t>(dice() % 10000);
            z[i] = static_cast<std::int32_t>(dice() % 10000);
        }
        PageMap m;
        m.perspective = round % 2 != 0;
        for (auto* row : {&m.x, &m.y, &m.depth})
            for (float& v : *row) v = unit(dice) * (row == &m.depth ? 0.01f : 0.05f);
        m.x[3] = 60;
        m.y[3] = 60;
        m.depth[3] = 10;
        PageBits bits;
        for (auto& word : bits.words) word = dice();
        SplatRun r;
        r.x = x.data();
        r.y = y.data();
        r.z = z.data();
        r.origin = {100, -5, 77};
        r.first_id = 5u << 16;
        r.begin = static_cast<std::uint32_t>(dice() % 100);
        r.end = 3000 - static_cast<std::uint32_t>(dice() % 100);
        if (round % 3) r.bits = bits.words.data();
        r.draw_members = round % 3 == 2;
        std::vector<std::uint64_t> a(static_cast<std::size_t>(w * h + 8), kNothing), b = a;
        splat_scalar(m, r, {a.data(), w, h, 0.5f});
        splat_avx2(m, r, {b.data(), w, h, 0.5f});
        a.resize(static_cast<std::size_t>(w * h));
        b.resize(a.size());
        REQUIRE(a == b);
        REQUIRE(std::count(a.begin(), a.end(), kNothing) < w * h);
    }
}

TEST_CASE("ThePictureDoesNotDependOnThreadsOrSteps") {
    const auto c = test::random_cloud(300000, Shape::Terrain, 3);
    const auto scene = scene_with(c);
    for (const bool perspective : {true, false}) {
        const ViewFrame v = view_of(*scene, perspective);
        Picture one, many, stepped;
        {
            const parallel::WorkerLimit limit(1);
            one = render_picture(scene, v);
        }
        many = render_picture(scene, v);
        Renderer by_steps;
        by_steps.begin(scene, v);
        while (!by_steps.step(40000)) by_steps.resolve(stepped);
        by_steps.resolve(stepped);
        CHECK(stepped.keys == one.keys);
        CHECK(stepped.pixels == one.pixels);
        CHECK(one.pixels == many.pixels);
        CHECK(one.keys == many.keys);
        CHECK(one.complete);
    }
}

TEST_CASE("StepsAddUpToEveryPointOnce") {
    const auto c = test::random_cloud(300000, Shape::Terrain, 3);
    const auto scene = scene_with(c);
    Renderer r;
    r.begin(scene, view_of(*scene, true));
    r.step(10000);
    CHECK(r.drawn() > 3000);
    CHECK(r.drawn() < 60000);
    CHECK_FALSE(r.complete());
    int steps = 0;
    while (!r.step(40000) && steps < 100) ++steps;
    CHECK(r.complete());
    CHECK(r.drawn() == r.in_view());
    CHECK(r.in_view() == 300000);
    Picture p;
    r.resolve(p);
    CHECK(p.complete);
    bool asked = false;
    r.begin(scene, view_of(*scene, true));
    r.step(UINT64_MAX, [&] { return asked = true; });
    CHECK(asked);
    CHECK_FALSE(r.complete());
}

TEST_CASE("EveryPixelNamesAnElementThatProjectsNextToIt") {
    const auto c = test::random_cloud(200000, Shape::Terrain, 5);
    const auto scene = scene_with(c);
    for (const bool perspective : {true, false}) {
        const ViewFrame v = view_of(*scene, perspective);
        const Picture p = render_picture(scene, v);
        int hits = 0;
        for (int y = 0; y < p.height; y += 3)
            for (int x = 0; x < p.width; x += 3)
                if (const auto id = p.id_at(x, y)) {
                    ++hits;
                    const PixelPoint q = v.project(p.position(*id));
                    REQUIRE(std::fabs(q.x - x - 0.5) < 8);
                    REQUIRE(std::fabs(q.y - y - 0.5) < 8);
                }
        CHECK(hits > 500);
        CHECK_FALSE(p.id_at(-1, 0));
        CHECK_FALSE(p.id_at(0, p.height));
    }
}

TEST_CASE("HiddenPointsAreNotDrawnAndSelectedOnesAreTinted") {
    const auto c = test::random_cloud(60000, Shape::Terrain, 5);
    const auto all = std::make_shared<const ElementSet>(ElementSet::all(c->size()));
    const auto plain = scene_with(c);
    const ViewFrame v = view_of(*plain, false);
    const Picture a = render_picture(plain, v);
    const Picture nothing = render_picture(scene_with(c, all), v);
    CHECK(std::count(nothing.keys.begin(), nothing.keys.begin() + v.width * v.height, kNothing) ==
          v.width * v.height);
    // Hide exactly what wins the middle pixel: something else, or nothing, is seen there.
    const auto id = a.id_near(160, 120, 10);
    REQUIRE(id);
    ElementSet one(c->size());
    one.insert(std::uint64_t{*id >> 16} * kPageSize + (*id & 0xFFFFu));
    const Picture without = render_picture(scene_with(c, std::make_shared<const ElementSet>(one)), v);
    for (std::size_t i = 0; i < without.pixels.size(); ++i)
        REQUIRE((without.keys[i] == kNothing || static_cast<std::uint32_t>(without.keys[i]) != *id));
    const Picture tinted = render_picture(scene_with(c, nullptr, all), v);
    int purple = 0, drawn = 0;
    for (std::size_t i = 0; i < tinted.pixels.size(); ++i) {
        if (tinted.keys[i] == kNothing) continue;
        ++drawn;
        const std::uint32_t px = tinted.pixels[i];
        purple += (px & 255u) > ((px >> 8) & 255u);
    }
    CHECK(purple > drawn * 9 / 10);
}

TEST_CASE("GhostsShowWhatIsOutFaintlyAndCannotBePicked") {
    const auto c = test::random_cloud(60000, Shape::Terrain, 5);
    const auto all = std::make_shared<const ElementSet>(ElementSet::all(c->size()));
    const auto scene = scene_with(c, all, nullptr, all);
    const ViewFrame v = view_of(*scene, false);
    const Picture ghost = render_picture(scene, v), empty = render_picture(scene_with(c, all), v);
    int differ = 0;
    for (std::size_t i = 0; i < ghost.pixels.size(); ++i) differ += ghost.pixels[i] != empty.pixels[i];
    CHECK(differ > 2000);
    CHECK_FALSE(ghost.id_near(160, 120, 40));
}

TEST_CASE("NearSurfacesCloseUpAndLonePointsStaySmall") {
    // A sparse near wall in front of a dense far one, and one stray in the air.
    cloud::PointBatch b;
    std::mt19937_64 dice(4);
    for (int i = 0; i < 60000; ++i) {
        const bool near = i < 12000;
        b.x.push_back(static_cast<std::int32_t>(dice() % 4000));
        b.y.push_back(near ? 0 : 3000);
        b.z.push_back(near ? static_cast<std::int32_t>(dice() % 1500)
                           : static_cast<std::int32_t>(dice() % 3000));
        b.colour.push_back(near ? 0xFF0000 : 0x00FF00);
    }
    cloud::PointCloud::Parts parts;
    parts.grid = {{0.001, 0.001, 0.001}, {0, 0, 0}};
    const auto c = cloud::build({b}, std::move(parts));
    ViewFrame v;
    v.eye = {2, -5, 1.5};
    v.right = {1, 0, 0};
    v.down = {0, 0, -1};
    v.ahead = {0, 1, 0};
    v.perspective = true;
    v.scale = 300;
    v.width = 300;
    v.height = 200;
    v.centre_x = 150;
    v.centre_y = 100;
    v.near_depth = 0.01;
    RenderOptions options;
    options.depth_shading = false;
    const Picture p = render_picture(scene_with(c), v, options);
    int green_below = 0, below = 0;
    for (int y = 115; y < 180; ++y)
        for (int x = 60; x < 240; ++x) {
            ++below;
            green_below += (p.pixels[static_cast<std::size_t>(y * 300 + x)] & 0xFFFFFFu) == 0x00FF00u;
        }
    CHECK(green_below < below / 50);
}

TEST_CASE("TurningKeepsThePointUnderThePointerWhereItIs") {
    std::mt19937_64 dice(2);
    std::uniform_real_distribution<double> unit(-1, 1);
    Box3 box;
    box.add(Vec3{412290, 5218900, 50});
    box.add(Vec3{412310, 5218960, 65});
    for (int i = 0; i < 200; ++i) {
        Camera c;
        c.perspective = i % 2;
        c.yaw_deg = 170 * unit(dice);
        c.pitch_deg = 60 * unit(dice);
        c.look_at_all(box, 1.4);
        const Vec3 p{412300 + 8 * unit(dice), 5218930 + 20 * unit(dice), 58 + 5 * unit(dice)};
        const PixelPoint before = c.frame(800, 600, box).project(p);
        c.turn_about(p, 37 * unit(dice), 20 * unit(dice));
        const PixelPoint after = c.frame(800, 600, box).project(p);
        CHECK(after.x == Approx(before.x).margin(1e-3));
        CHECK(after.y == Approx(before.y).margin(1e-3));
        c.zoom_at(p, 0.7);
        const PixelPoint zoomed = c.frame(800, 600, box).project(p);
        CHECK(zoomed.x == Approx(before.x).margin(1e-3));
        CHECK(zoomed.y == Approx(before.y).margin(1e-3));
    }
}

TEST_CASE("EveryAxisViewShowsTheWholeBox") {
    Box3 box;
    box.add(Vec3{412290, 5218900, 50});
    box.add(Vec3{412310, 5218960, 65});
    for (const AxisView view :
         {AxisView::Top, AxisView::Bottom, AxisView::Front, AxisView::Back, AxisView::Left, AxisView::Right})
        for (const bool perspective : {true, false}) {
            Camera c;
            c.perspective = perspective;
            c.look_along(view, box, 1.4);
            const ViewFrame f = c.frame(840, 600, box);
            for (int corner = 0; corner < 8; ++corner) {
                const Vec3 p{corner & 1 ? box.hi.x : box.lo.x, corner & 2 ? box.hi.y : box.lo.y,
                             corner & 4 ? box.hi.z : box.lo.z};
                const PixelPoint q = f.project(p);
                CHECK(f.depth(p) > f.near_depth);
                CHECK((q.x >= 0 && q.x <= 840 && q.y >= 0 && q.y <= 600));
            }
        }
    Camera c;
    c.look_along(AxisView::Top, box, 1);
    c.perspective = false;
    const ViewFrame f = c.frame(600, 600, box);
    CHECK(f.project({412300, 5218940, 58}).y < f.project({412300, 5218930, 58}).y);  // north is up
    CHECK(f.project({412301, 5218930, 58}).x > f.project({412300, 5218930, 58}).x);  // east is right
}

TEST_CASE("DecidedClassesAndColoursOfTheSiteAreDrawn") {
    const std::uint64_t n = 70'000;
    const auto c = test::random_cloud(n, Shape::Terrain, 5);
    site::SitePtr s = site::add_cloud({}, c, "Quay", "");
    site::Style style;
    style.colour_by = site::ColourBy::Class;
    s = site::set_style(*s, s->active, style);
    ElementSet some(n);
    for (std::uint64_t i = 0; i < n; i += 3) some.insert(i);
    s = site::class_parts(*s, {{s->active, std::make_shared<const ElementSet>(some)}}, 70,
                          {"Gate", {}, {}, nullptr});
    s = site::put_class(*s, {70, "Lock gate", 0x123456});
    s = site::put_class(*s, {2, "", 0x654321});
    const Scene scene = scene_of(*s);
    for (std::uint32_t id = 0; id < 2000; ++id) {
        const std::uint8_t own = c->classification()->value(0, id);
        const Rgb expected = id % 3 == 0 ? 0x123456u : own == 2 ? 0x654321u : cloud::class_colour(own);
        REQUIRE(scene.colour(id) == expected);
    }
    // What was decided of a cloud without a column of classes is drawn too.
    const auto e57 = test::e57_scans(300, 5);
    site::SitePtr t = site::add_cloud({}, e57, "Chamber", "");
    t = site::set_style(*t, t->active, style);
    CHECK(scene_of(*t).colour(0) != cloud::class_colour(6));  // by height
    t = site::class_parts(*t, {{t->active, std::make_shared<const ElementSet>(ElementSet::all(e57->size()))}},
                          6, {"Building", {}, {}, nullptr});
    CHECK(scene_of(*t).colour(0) == cloud::class_colour(6));
}

TEST_CASE("ColoursFollowTheStyle") {
    const auto c = test::random_cloud(5000, Shape::Terrain, 5);
    for (const auto by : {site::ColourBy::Rgb, site::ColourBy::Intensity, site::ColourBy::Height,
                          site::ColourBy::Class, site::ColourBy::Single}) {
        site::Style style;
        style.colour_by = by;
        const Scene s(std::vector<DrawItem>{{1, c, nullptr, nullptr, nullptr, style}});
        const std::uint32_t id = 77;
        const Rgb got = s.colour(id);
        if (by == site::ColourBy::Rgb) CHECK(got == (*c->colour())[77]);
        if (by == site::ColourBy::Intensity) CHECK((got & 255u) == (got >> 16));
        if (by == site::ColourBy::Class) CHECK(got == cloud::class_colour((*c->classification())[77]));
        if (by == site::ColourBy::Single) CHECK(got == style.single_colour);
    }
    CHECK(height_colour(0) != height_colour(255));
    CHECK(mix(0x000000, 0xFFFFFF, 1) == 0xFFFFFF);
}

namespace {

// A square of two triangles seen from straight above, 200 pixels wide: it faces up, or down.
struct Square {
    DrawItem item;
    ViewFrame view;
    explicit Square(bool up, bool terrain = false, mesh::Attributes attributes = {}) {
        mesh::TriMesh m;
        m.vertices = {{0, 0, 0}, {10, 0, 0}, {10, 10, 0}, {0, 10, 0}};
        m.triangles = {{0, 1, 2}, {0, 2, 3}};
        if (!up)
            for (auto& t : m.triangles) std::swap(t[1], t[2]);
        item.id = 1;
        item.cloud = cloud::cloud_of_triangles(m, {"m", "", terrain, {}, {}, std::move(attributes)});
        item.style.colour_by = site::ColourBy::Single;
        item.style.single_colour = 0xD03010;
        view.eye = {5, 5, 20};
        view.scale = 20;
        view.width = view.height = 240;
        view.centre_x = view.centre_y = 120;
    }
    std::uint32_t pixel(int x, int y) const {
        const Picture p = render_picture(std::make_shared<const Scene>(std::vector<DrawItem>{item}), view);
        return p.pixels[static_cast<std::size_t>(y * p.width + x)] & 0xFFFFFFu;
    }
};

std::uint32_t red(std::uint32_t c) {
    return c >> 16;
}
std::uint32_t blue(std::uint32_t c) {
    return c & 255u;
}

}  // namespace

TEST_CASE("BacksOfMeshesHaveAToneAndTerrainHasNoBack") {
    const std::uint32_t front = Square(true).pixel(160, 180), back = Square(false).pixel(160, 180);
    CHECK(red(front) > 2 * blue(front));
    CHECK(blue(back) > red(back) / 2);
    CHECK(Square(false, true).pixel(160, 180) == Square(true, true).pixel(160, 180));
}

TEST_CASE("EdgesOnlyLeavesTheBackgroundInsideOfTriangles") {
    Square s(true);
    const std::uint32_t outside = s.pixel(2, 180), solid = s.pixel(160, 180);
    CHECK(solid != outside);
    s.item.style.faces = site::Faces::EdgesOnly;
    CHECK(s.pixel(160, 180) == outside);
    // Edges are darker where they are drawn with the faces, and no different when faces are solid.
    s.item.style.faces = site::Faces::Edged;
    const Picture edged =
        render_picture(std::make_shared<const Scene>(std::vector<DrawItem>{s.item}), s.view);
    s.item.style.faces = site::Faces::Solid;
    const Picture plain =
        render_picture(std::make_shared<const Scene>(std::vector<DrawItem>{s.item}), s.view);
    std::size_t darker = 0;
    for (std::size_t i = 0; i < plain.pixels.size(); ++i)
        darker += red(edged.pixels[i] & 0xFFFFFFu) < red(plain.pixels[i] & 0xFFFFFFu);
    CHECK(darker > 150);  // the diagonal at least
    CHECK(darker < 2000);
}

TEST_CASE("ADrapedPictureIsSeenWhereItLiesAndTheFaceWhereItDoesNot") {
    Square s(true);
    s.item.drape = std::make_shared<const surface::Orthophoto>(
        "p", 1, 1, std::array<double, 6>{0, 0.2, 0, 0, 0, 0.1}, std::vector<std::uint32_t>{0xFF00C000u});
    const std::uint32_t west = s.pixel(60, 180), east = s.pixel(190, 180);
    CHECK(red(west) == 0);  // the picture covers 0 to 5 in x
    CHECK(red(east) > 50);
}

TEST_CASE("OneValueAloneHasTheMiddleOfTheColours") {
    // Every point at one height: neither black nor the end of the range.
    io::PointList list;
    for (int k = 0; k < 100; ++k) list.points.push_back({0.1 * k, 0.1 * (k % 10), 5});
    DrawItem item;
    item.cloud = io::cloud_of_points(list, {});
    item.style.colour_by = site::ColourBy::Height;
    const auto range = colour_range(item);
    REQUIRE(range);
    CHECK(range->hi > range->lo);
    CHECK(range->position(5.0) == Approx(127.5).margin(1));
}

TEST_CASE("ClassesGiveOneColourBetweenTwoLimitsAndSwitchExactlyThere") {
    ColourRange r;
    r.lo = -2, r.hi = 2;
    CHECK(r.position(-2) == Approx(0));
    CHECK(r.position(0) == Approx(127.5));
    r.classes = {-1, -0.1, 0.1, 1};
    CHECK(r.position(-0.0999) == r.position(0.0999));
    CHECK(r.position(0.0999) == Approx(127.5));
    CHECK(r.position(0.1) == r.position(0.9));
    CHECK(r.position(0.1) > r.position(0.0999));
    CHECK(r.position(1.5) == Approx(255));  // beyond the last limit
    CHECK(r.position(-1.01) == Approx(0));  // before the first
    r.classes = {0.5};                      // one limit makes no class
    CHECK(r.position(1) == Approx(191.25));
}

TEST_CASE("ColoursOfCornersRunIntoEachOther") {
    mesh::Attributes a;  // red to the west, blue to the east
    a.colours = {{0xFF0000, 0x0000FF, 0x0000FF}, {0xFF0000, 0x0000FF, 0xFF0000}};
    Square s(true, false, a);
    s.item.style.colour_by = site::ColourBy::Rgb;
    s.item.style.faces = site::Faces::Solid;
    int before = 1000;
    for (int x = 30; x < 215; x += 8) {
        const std::uint32_t c = s.pixel(x, 150);
        CHECK(static_cast<int>(red(c)) < before);
        before = static_cast<int>(red(c));
        // Together as bright everywhere, but for the light.
        CHECK(red(c) + blue(c) == Approx(red(s.pixel(120, 90)) + blue(s.pixel(120, 90))).margin(4));
    }
    // By another colour it is as any mesh.
    s.item.style.colour_by = site::ColourBy::Single;
    CHECK(s.pixel(40, 150) == s.pixel(200, 150));
}

TEST_CASE("ATextureIsSeenTheRightWayUp") {
    mesh::Attributes a;
    mesh::Material m;
    m.name = "four";
    m.picture = std::make_shared<const Mipmap>(
        2, 2, std::vector<std::uint32_t>{0xFFFF0000u, 0xFF00FF00u, 0xFF0000FFu, 0xFFFFFFFFu});
    a.materials = {m};
    a.material = {0, 0};
    const std::array<float, 2> sw{0, 0}, se{1, 0}, ne{1, 1}, nw{0, 1};
    a.texture = {{sw, se, ne}, {sw, ne, nw}};
    Square s(true, false, a);
    s.item.style.colour_by = site::ColourBy::Rgb;
    s.item.style.faces = site::Faces::Solid;
    const auto green = [](std::uint32_t c) { return c >> 8 & 255u; };
    const std::uint32_t north_west = s.pixel(70, 70), north_east = s.pixel(170, 70),
                        south_west = s.pixel(70, 170), south_east = s.pixel(170, 170);
    CHECK((red(north_west) > 150 && green(north_west) == 0 && blue(north_west) == 0));
    CHECK((green(north_east) > 150 && red(north_east) == 0));
    CHECK((blue(south_west) > 150 && red(south_west) == 0));
    CHECK((red(south_east) > 150 && green(south_east) > 150 && blue(south_east) > 150));
    // A triangle has one colour as an element, the mean of what is seen of it.
    CHECK(s.item.cloud->colour());
}

TEST_CASE("PointsStandInForManyTrianglesUntilThereIsTime") {
    DrawItem item;
    item.id = 1;
    item.cloud = cloud::cloud_of_triangles(demo::ball(60, 5), {"m", "", false, {}, {}});
    item.style.colour_by = site::ColourBy::Single;
    item.style.faces = site::Faces::Edged;
    ViewFrame view;
    view.eye = {0, 0, 20};
    view.scale = 20;
    view.width = view.height = 240;
    view.centre_x = view.centre_y = 120;
    const auto scene = std::make_shared<const Scene>(std::vector<DrawItem>{item});
    const Picture whole = render_picture(scene, view);
    CHECK_FALSE(whole.stand_in);
    RenderOptions options;
    options.most_triangles = 1000;
    Renderer r;
    r.begin(scene, view, options);
    CHECK_FALSE(r.step(100'000));
    Picture moving;
    r.resolve(moving);
    CHECK(moving.stand_in);
    CHECK_FALSE(moving.complete);
    CHECK(r.presentable());
    std::size_t both = 0, one = 0, edges = 0;
    for (std::size_t i = 0; i < whole.pixels.size(); ++i) {
        const bool in_whole = whole.keys[i] != kNothing, in_moving = moving.keys[i] != kNothing;
        both += in_whole && in_moving;
        one += in_whole != in_moving;
        edges += in_moving && red(moving.pixels[i] & 0xFFFFFFu) < 60;
    }
    CHECK(both > 28'000);      // of 10,000 pi
    CHECK(one < both / 15);    // along the rim
    CHECK(edges < both / 20);  // discs have no edges
    // Nothing is shown while the triangles are drawn.
    while (!r.step(10'000)) CHECK_FALSE(r.presentable());
    Picture done;
    r.resolve(done);
    CHECK_FALSE(done.stand_in);
    CHECK(done.keys == whole.keys);
    CHECK(done.pixels == whole.pixels);
    // Few enough: at once.
    options.most_triangles = 1'000'000;
    r.begin(scene, view, options);
    CHECK(r.step(100'000));
}

TEST_CASE("AFineSurfaceFromAfarHasNoPinholes", "[property]") {
    const auto seed = std::random_device{}();
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    // Three to ten triangles a pixel, at steps and corners that no raster shares.
    const int n = 300;
    std::uniform_real_distribution<double> u(-0.36, 0.36);
    mesh::TriMesh m;
    for (int y = 0; y <= n; ++y)
        for (int x = 0; x <= n; ++x)
            m.vertices.push_back(
                {x + u(dice), y + u(dice), 20 * std::sin(x * 6.0 / n) * std::cos(y * 5.0 / n) + u(dice)});
    const auto id = [&](int x, int y) { return static_cast<std::uint32_t>(y * (n + 1) + x); };
    for (int y = 0; y < n; ++y)
        for (int x = 0; x < n; ++x) {
            m.triangles.push_back({id(x, y), id(x + 1, y), id(x + 1, y + 1)});
            m.triangles.push_back({id(x, y), id(x + 1, y + 1), id(x, y + 1)});
        }
    DrawItem item;
    item.id = 1;
    item.cloud = cloud::cloud_of_triangles(m, {"m", "", false, {}, {}});
    item.style.colour_by = site::ColourBy::Single;
    item.style.faces = site::Faces::Solid;
    const auto scene = std::make_shared<const Scene>(std::vector<DrawItem>{item});
    for (const double wide : {170.0, 240.0, 301.7}) {
        CAPTURE(wide);
        ViewFrame view;
        view.eye = {n / 2.0, n / 2.0, 2.0 * n};
        view.scale = wide / n;
        view.width = view.height = 320;
        view.centre_x = view.centre_y = 160;
        const Picture p = render_picture(scene, view);
        const int half = static_cast<int>(wide * 0.46);
        int open = 0;
        for (int y = 160 - half; y < 160 + half; ++y)
            for (int x = 160 - half; x < 160 + half; ++x)
                open += p.keys[static_cast<std::size_t>(y) * 320 + static_cast<std::size_t>(x)] == kNothing;
        CHECK(open == 0);
    }
}

TEST_CASE("TrianglesAsPointsLeaveTheirInsideOpen") {
    Square s(true);
    s.item.style.faces = site::Faces::Solid;
    const std::uint32_t outside = s.pixel(2, 180);
    CHECK(s.pixel(60, 180) != outside);
    s.item.style.faces = site::Faces::Points;
    CHECK(s.pixel(60, 180) == outside);
    const Picture p = render_picture(std::make_shared<const Scene>(std::vector<DrawItem>{s.item}), s.view);
    CHECK(std::count_if(p.keys.begin(), p.keys.end(), [](std::uint64_t k) { return k != kNothing; }) >= 2);
}
