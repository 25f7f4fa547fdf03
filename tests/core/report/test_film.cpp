// Pictures, films and the client's page.

#include "core/report/film.h"

#include <webp/demux.h>
#include <catch2/catch.hpp>

#include <nlohmann/json.hpp>

#include "core/base/error.h"
#include "core/report/client_page.h"
#include "core/report/paint.h"
#include "core/report/report_site.h"
#include "render/report_pictures.h"

using namespace pristine;
using namespace pristine::report;

namespace {

Material film_material(const site::SitePtr& s) {
    Material m;
    m.site = s;
    m.program = "test";
    m.date = "2026-06-10";
    m.dpi = 60;
    m.draw = render::picture_of;
    return m;
}

site::SitePtr one_cloud() {
    auto s = std::make_shared<site::Site>();
    s->name = "Ashmere <Lock>";
    const auto cloud = test::random_cloud(20'000, test::Shape::Terrain, 4);
    const site::SitePtr made = site::add_cloud(*s, cloud, "Kammer", "x");
    return test::taken_out(made, made->items[0]->id, test::every(*cloud, 0, 4, 5000), "Noise </script>");
}

StillLook small_look() {
    StillLook l;
    l.width = 320;
    l.height = 200;
    return l;
}

std::size_t covered(const Image& i) {
    return static_cast<std::size_t>(std::count_if(i.argb.begin(), i.argb.end(), [](std::uint32_t p) {
        return p >> 24 > 0 && (p & 0xffffff) != 0xffffff;
    }));
}

}  // namespace

TEST_CASE("AStillHasItsSizeAndClearGroundWhereNothingIs") {
    const Material m = film_material(one_cloud());
    StillLook look = small_look();
    const Image full = still(m, look);
    CHECK(full.width == 320);
    CHECK(full.height == 200);
    CHECK(std::all_of(full.argb.begin(), full.argb.end(), [](std::uint32_t p) { return p >> 24 == 255; }));
    look.clear = true;
    look.legend = false;
    const Image clear = still(m, look);
    CHECK(std::any_of(clear.argb.begin(), clear.argb.end(), [](std::uint32_t p) { return p == 0; }));
    CHECK(covered(clear) > 100);
    look.before = true;
    CHECK(still(m, look).argb != clear.argb);
    look.plan = true;
    CHECK(covered(still(m, look)) > 100);
    look.width = 3;
    CHECK_THROWS_AS(still(m, look), Error);
    CHECK_THROWS_AS(still(film_material(std::make_shared<site::Site>()), small_look()), Error);
}

TEST_CASE("APairHasBeforeAtTheLeft") {
    const Material m = film_material(one_cloud());
    StillLook look = small_look();
    look.legend = false;
    const Image pair = before_and_after(m, look);
    REQUIRE(pair.width == 648);
    look.before = true;
    const Image before = still(m, look);
    for (int y = 0; y < 200; y += 17)
        for (int x = 0; x < 320; x += 13)
            CHECK(pair.argb[static_cast<std::size_t>(y * 648 + x)] ==
                  before.argb[static_cast<std::size_t>(y * 320 + x)]);
}

TEST_CASE("AFilmHasItsFramesInAFolderOrInOneFile") {
    const test::TemporaryFolder folder;
    const Material m = film_material(one_cloud());
    FilmSpec spec;
    spec.look = small_look();
    spec.frames = 8;
    spec.seconds = 2;
    write_film(m, spec, folder / "turn", false);
    std::size_t frames = 0;
    for (const auto& e : std::filesystem::directory_iterator(folder / "turn"))
        frames += e.path().extension() == ".png" ? 1 : 0;
    CHECK(frames == 8);
    CHECK(test::read_file(folder / "turn" / "frame-0001.png") !=
          test::read_file(folder / "turn" / "frame-0003.png"));
    write_film(m, spec, folder / "turn.webp", false);
    const std::string bytes = test::read_file(folder / "turn.webp");
    const WebPData data{reinterpret_cast<const std::uint8_t*>(bytes.data()), bytes.size()};
    WebPAnimDecoder* decoder = WebPAnimDecoderNew(&data, nullptr);
    REQUIRE(decoder);
    WebPAnimInfo info;
    REQUIRE(WebPAnimDecoderGetInfo(decoder, &info));
    CHECK(info.frame_count == 8);
    CHECK(info.canvas_width == 320);
    std::uint8_t* pixels = nullptr;
    int at = 0;
    while (WebPAnimDecoderHasMoreFrames(decoder)) REQUIRE(WebPAnimDecoderGetNext(decoder, &pixels, &at));
    CHECK(at == 2000);
    WebPAnimDecoderDelete(decoder);
    spec.along = {test::on_site(0, 0), test::on_site(50, 30)};
    CHECK_NOTHROW(write_film(m, spec, folder / "flight.webp", false));
    CHECK_THROWS_AS(write_film(m, spec, folder / "flight.webp", false), Error);
    spec.along = {test::on_site(0, 0), test::on_site(0, 0)};
    CHECK_THROWS_AS(write_film(m, spec, folder / "none.webp", false), Error);
    Progress cancelled;
    cancelled.cancel();
    spec.along.clear();
    CHECK_THROWS_AS(write_film(m, spec, folder / "half", false, cancelled), Cancelled);
    CHECK_FALSE(std::filesystem::exists(folder / "half"));
}

TEST_CASE("APageForTheClientKeepsItsSizeAndNothingOfItEndsTheScript") {
    const site::SitePtr s = one_cloud();
    const Material m = film_material(s);
    const Report r = compose(m, with_parts(proposed(*s), {"removed"}));
    const ClientPage page = client_page(m, r, {5, true});
    CHECK(page.html.size() < 5'300'000);
    CHECK(page.size.of_points == 20'000);
    CHECK(page.size.points == 20'000);
    CHECK(page.html.find("Noise </script>") == std::string::npos);
    const auto from = page.html.find("id=\"scene-about\">") + 17;
    const auto about =
        nlohmann::json::parse(page.html.substr(from, page.html.find("</script>", from) - from));
    CHECK(about["reasons"][0]["name"] == "Noise </script>");
    CHECK(about["things"][0]["places"] == 20'000);
    CHECK(client_page(m, r, {5, false}).size.of_points == 15'000);
    CHECK_THROWS_AS(client_page(m, r, {1, true}), Error);
    CHECK_THROWS_AS(client_page(m, r, {500, true}), Error);
    // A larger one is thinned, and says so.
    auto large = std::make_shared<site::Site>();
    const site::SitePtr many =
        site::add_cloud(*large, test::random_cloud(600'000, test::Shape::Terrain, 4), "a", "x");
    const Material big = film_material(many);
    const ClientPage thin = client_page(big, compose(big, with_parts(proposed(*many), {"site"})), {5, true});
    CHECK(thin.size.points < 400'000);
    CHECK(thin.size.points > 200'000);
    CHECK(thin.html.size() < 5'300'000);
}
