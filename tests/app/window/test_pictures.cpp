// Pictures inside an E57 file: in the panorama, and as colours of the points.

#include <catch2/catch.hpp>

#include <QComboBox>
#include <QLabel>
#include <map>

#include "app/panes/panorama_pane.h"
#include "support/e57_pictures.h"
#include "window_driver.h"

using namespace pristine;
using test::WindowDriver;

namespace {

std::map<QRgb, int> colours_in(const QImage& image) {
    std::map<QRgb, int> n;
    for (int y = 0; y < image.height(); ++y)
        for (int x = 0; x < image.width(); ++x) ++n[image.pixel(x, y) & 0xFFFFFFu];
    return n;
}

}  // namespace

TEST_CASE("PicturesOfAScannerAreSeenInThePanoramaAndColourItsPoints", "[window]") {
    const test::TemporaryFolder folder;
    test::write_pictured_e57(folder / "Kammer außen.e57");
    WindowDriver w(folder / "home");
    REQUIRE(w.open(folder / "Kammer außen.e57", 2));
    w.document().apply("first", [](const site::Site& s) { return site::activate(s, s.items[0]->id); });
    REQUIRE(w.settle());
    REQUIRE(w.item().cloud->stations().front().name == "S1");
    w.window().commands().trigger("view.panorama");
    auto& pane = *w.window().findChild<app::PanoramaPane*>("panoramaPane");
    REQUIRE(w.wait([&] { return pane.is_current(); }));
    auto* mode = w.find<QComboBox>("panoramaMode");
    mode->setCurrentIndex(3);
    emit mode->activated(3);
    const auto shown = [&] { return colours_in(pane.view().picture()); };
    REQUIRE(w.wait([&] { return shown()[0xC02020] > 1000; }));
    // All four parts of the dome, each about as large, also where nothing was measured.
    const auto n = shown();
    const int all = pane.view().picture().width() * pane.view().picture().height();
    for (const QRgb quarter : {0xC02020u, 0x20C020u, 0x2020C0u, 0xC0C020u}) {
        CAPTURE(quarter);
        REQUIRE(n.contains(quarter));
        CHECK(n.at(quarter) > all / 6);
    }
    CHECK_FALSE(n.contains(0xFFFFFF));  // the drum has nothing that the dome has not
    // As colours of the points, in a new item; the one before is hidden and stays as it was.
    const site::ItemPtr before = w.site().active_item();
    w.window().commands().trigger("item.picture_colours");
    REQUIRE(w.wait([&] { return w.site().items.size() == 3; }));
    REQUIRE(w.settle());
    const site::Item& made = *w.site().items.back();
    REQUIRE(made.cloud->colour());
    CHECK_FALSE(before->cloud->colour());
    CHECK_FALSE(w.site().item(before->id)->visible);
    const test::PicturedTruth truth;
    for (std::uint64_t e = 0; e < made.cloud->size(); ++e)
        REQUIRE((*made.cloud->colour())[e] == truth.colour(made.cloud->position(e)));
    CHECK(w.find<QLabel>("message")->toolTip().contains("lie in a picture"));
    // What was moved has none any more, and says so.
    CHECK_FALSE(w.window().commands().find("item.picture_colours")->why_not().isEmpty());
    w.close();
}
