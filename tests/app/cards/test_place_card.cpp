// An item in another place: by numbers, by pairs that are clicked, on the surfaces of another item.

#include <catch2/catch.hpp>

#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QPushButton>
#include <QTreeWidget>

#include "app/cards/place_card.h"
#include "core/io/mapped_cloud.h"
#include "core/place/residual_map.h"
#include "core/select/solid.h"
#include "open_scan.h"

using namespace pristine;
using test::OpenScan;

namespace {

app::PlaceCard& card(OpenScan& s) {
    return *s.w.window().findChild<app::PlaceCard*>();
}

QString state(OpenScan& s) {
    return s.w.find<QLabel>("placeState")->text();
}

void press_place(OpenScan& s) {
    const std::size_t items = s.w.site().items.size();
    s.w.click(s.w.find<QPushButton>("placePlace"));
    REQUIRE(s.w.wait([&] { return s.w.site().items.size() == items + 1; }));
    REQUIRE(s.w.settle());
}

}  // namespace

TEST_CASE("AnItemIsPlacedByNumbersWithItsDecisions", "[window]") {
    OpenScan s;
    s.run("select.rectangle");
    s.drag({s.pixel(-2, 10), s.pixel(2, 14)});
    s.w.key(Qt::Key_Delete);
    REQUIRE(s.w.settle());
    const std::uint64_t out = s.w.item().removed->count();
    REQUIRE(out > 0);
    s.run("item.place");
    CHECK_FALSE(s.w.find<QPushButton>("placePlace")->isEnabled());  // nowhere yet
    s.w.find<QDoubleSpinBox>("placeE")->setValue(1.5);
    s.w.find<QDoubleSpinBox>("placeH")->setValue(-0.25);
    CHECK(s.w.find<QPushButton>("placePlace")->isEnabled());
    const site::ItemPtr before = s.w.site().active_item();
    press_place(s);
    const site::Item& after = s.w.item();
    CHECK(after.id != before->id);
    CHECK_FALSE(s.w.site().items[0]->visible);
    CHECK(after.removed->count() == out);
    CHECK(after.ledger.size() == 1);
    const Vec3 off = after.cloud->bounds().lo - before->cloud->bounds().lo;
    CHECK(norm(off - Vec3{1.5, 0, -0.25}) < 1e-3);
    REQUIRE(after.placement.size() == 16);
    CHECK(after.placement[3] == Approx(1.5));
    s.run("edit.undo");
    CHECK(s.w.site().items.size() == 1);
    CHECK(s.w.site().items[0]->visible);
}

TEST_CASE("PairsAreClickedAndTheirResidualsAreShown", "[window]") {
    OpenScan s;
    s.run("item.place");
    s.w.find<QComboBox>("placeWay")->setCurrentIndex(2);
    auto* parameters = s.w.find<QComboBox>("placeParameters");
    parameters->setCurrentIndex(0);  // shift
    const auto click = [&](double x, double y) {
        QTest::mouseClick(&s.w.stage(), Qt::LeftButton, Qt::NoModifier, s.pixel(x, y));
    };
    for (int k = 0; k < 2; ++k) {
        s.w.click(s.w.find<QPushButton>("placeAdd"));
        click(0, 10 + 2 * k);
        CHECK(card(s).pairs().size() == static_cast<std::size_t>(k));
        click(0.5, 10 + 2 * k);
        CHECK(card(s).pairs().size() == static_cast<std::size_t>(k + 1));
    }
    CHECK(s.w.site().selected() == 0);  // the tool saw no click
    CHECK(card(s).guides().size() == 2);
    auto* list = s.w.find<QTreeWidget>("placePairs");
    REQUIRE(list->topLevelItemCount() == 2);
    CHECK(list->topLevelItem(0)->text(1).contains("m"));
    CHECK(state(s).contains("rms"));
    REQUIRE(card(s).placement());
    CHECK(card(s).placement()->move.shift.x == Approx(0.5).margin(0.3));
    // One is not used: then nothing is left over.
    list->topLevelItem(1)->setCheckState(0, Qt::Unchecked);
    CHECK(state(s).contains("met exactly"));
    parameters->setCurrentIndex(2);
    CHECK(state(s).contains("need 3 pairs"));
    CHECK_FALSE(s.w.find<QPushButton>("placePlace")->isEnabled());
}

TEST_CASE("AnItemIsFittedToAnother", "[window]") {
    OpenScan s;
    const site::ItemPtr still = s.w.site().active_item();
    const Similarity moved =
        Similarity::about(still->cloud->robust_bounds().centre(), {0, 0, 1}, 0.2, 1, {0.03, -0.04, 0.02});
    const auto off = io::placed(still->cloud, moved, still->cloud->reference());
    s.w.document().apply("Open", [&](const site::Site& now) {
        const site::SitePtr next = site::add_cloud(now, off, "Sits off", "");
        return site::activate(*next, next->items.back()->id);
    });
    REQUIRE(s.w.settle());
    s.run("item.place");
    s.w.find<QComboBox>("placeWay")->setCurrentIndex(3);
    CHECK(s.w.find<QComboBox>("placeOther")->currentText() == QString::fromStdString(still->name));
    s.w.click(s.w.find<QPushButton>("placeFit"));
    REQUIRE(s.w.wait([&] { return state(s).contains("rms"); }));
    CHECK(state(s).contains("overlap"));
    REQUIRE(card(s).placement());
    const Similarity found = *card(s).placement();
    const Box3 b = still->cloud->robust_bounds();
    for (const Vec3& p : {b.lo, b.hi, b.centre()}) CHECK(norm(found(moved(p)) - p) < 0.005);
    // How far each place lies off is an item of its own, in the colours of change.
    const QImage before = s.w.stage_picture();
    s.w.click(s.w.find<QPushButton>("placeResiduals"));
    const std::size_t items = s.w.site().items.size();
    REQUIRE(s.w.wait([&] { return s.w.site().items.size() == items + 1; }));
    REQUIRE(s.w.settle());
    const site::Item& map = *s.w.site().items.back();
    CHECK(map.style.column == place::kResidualColumn);
    CHECK(map.cloud->size() > 500);
    CHECK(map.visible);
    CHECK_FALSE(s.w.item().visible);
    CHECK(s.w.stage_picture() != before);
    CHECK(card(s).placement());  // the fit is still in hand
    s.run("edit.undo");
    press_place(s);
    CHECK(s.w.item().cloud->size() == still->cloud->size());
    CHECK(norm(s.w.item().cloud->bounds().centre() - found(off->bounds().centre())) < 0.1);
    // Inside no line nothing can be fitted.
    s.w.find<QCheckBox>("placeInside")->setChecked(true);
    s.w.click(s.w.find<QPushButton>("placeFit"));
    CHECK(state(s).contains("No closed line"));
}

TEST_CASE("AnItemIsLevelledByWhatIsSelectedAndScaledByKnownDistances", "[window]") {
    OpenScan s;
    // The same scan as photogrammetry would leave it: inclined, and not to size.
    const site::ItemPtr straight = s.w.site().active_item();
    const Vec3 floor = demo::kSiteOrigin;
    const Similarity crooked = Similarity::about(floor, normalized({1, 0.4, 0}), 4, 0.8, {});
    const auto cloud = io::placed(straight->cloud, crooked, straight->cloud->reference());
    s.w.document().apply("Crooked", [&](const site::Site& now) {
        return site::activate(
            *site::add_cloud(*site::set_visible(now, straight->id, false), cloud, "Crooked", ""),
            now.next_id);
    });
    REQUIRE(s.w.settle());
    s.run("view.all");
    s.run("item.place");
    s.w.find<QComboBox>("placeWay")->setCurrentIndex(1);
    CHECK_FALSE(s.w.find<QPushButton>("placePlace")->isEnabled());
    // The floor, fenced.
    s.run("select.rectangle");
    const auto at = [&](double x, double y) {
        return s.w.point(s.w.stage().frame().project(crooked(floor + Vec3{x, y, 0})));
    };
    s.drag({at(-1.2, 3.6), at(1.2, 5.6)});
    REQUIRE(s.w.site().selected() > 100);
    s.w.click(s.w.find<QPushButton>("placeLevelSelection"));
    CHECK(s.w.find<QLabel>("placeLevelState")->text().contains("4.0"));
    // Two places of the floor whose distance is known.
    s.w.click(s.w.find<QPushButton>("placeDistanceAdd"));
    const auto pick = [&](QPoint p) {
        const auto picture = s.w.stage().picture();
        const auto id = picture->id_near(p.x(), p.y(), 3);
        REQUIRE(id);
        QTest::mouseClick(&s.w.stage(), Qt::LeftButton, Qt::NoModifier, p);
        return picture->position(*id);
    };
    const Vec3 a = pick(at(-1, 4)), b = pick(at(1, 9));
    auto* list = s.w.find<QTreeWidget>("placeDistances");
    REQUIRE(list->topLevelItemCount() == 1);
    CHECK(list->topLevelItem(0)->text(1).toDouble() == Approx(norm(b - a)).margin(1e-3));
    list->topLevelItem(0)->setText(2, "nothing");  // is no length, and changes nothing
    CHECK(list->topLevelItem(0)->text(2) == list->topLevelItem(0)->text(1));
    const double truth = norm(b - a) / 0.8;
    list->topLevelItem(0)->setText(2, QString::number(truth, 'f', 4));
    CHECK(state(s).contains("levelled by the selection"));
    CHECK(state(s).contains("scale 1.25"));
    press_place(s);
    // Level again, and to size.
    const site::Item& placed = s.w.item();
    const auto plane = [&] {
        const Box3 box = placed.cloud->robust_bounds();
        ElementSet low(placed.cloud->size());
        for (std::uint64_t e = 0; e < placed.cloud->size(); ++e)
            if (placed.cloud->position(e).z < box.lo.z + 0.12 * (box.hi.z - box.lo.z)) low.insert(e);
        return select::fitted_plane(*placed.cloud, low);
    }();
    REQUIRE(plane);
    CHECK(plane->normal.z > std::cos(0.3 * 3.14159265 / 180));
    CHECK(placed.cloud->robust_bounds().diagonal() ==
          Approx(straight->cloud->robust_bounds().diagonal()).epsilon(0.02));
    // Whoever reads a figure of it later learns what it rests on.
    CHECK(placed.placed_by.find("levelled by the selection; scale 1.25") != std::string::npos);
}

TEST_CASE("ThreePlacesAtOneHeightLevelAnItem", "[window]") {
    OpenScan s;
    s.run("item.place");
    s.w.find<QComboBox>("placeWay")->setCurrentIndex(1);
    s.w.click(s.w.find<QPushButton>("placeLevelPick"));
    for (const QPoint& p : {s.pixel(-1.5, 4), s.pixel(1.5, 4), s.pixel(0, 9)})
        QTest::mouseClick(&s.w.stage(), Qt::LeftButton, Qt::NoModifier, p);
    CHECK(s.w.find<QLabel>("placeLevelState")->text().startsWith("By 3 places: 0."));
    s.w.click(s.w.find<QPushButton>("placeLevelDrop"));
    CHECK(s.w.find<QLabel>("placeLevelState")->text() == "Nothing is levelled.");
    // Three places on one line are refused with a word.
    s.w.click(s.w.find<QPushButton>("placeLevelPick"));
    for (int k = 0; k < 3; ++k)
        QTest::mouseClick(&s.w.stage(), Qt::LeftButton, Qt::NoModifier, s.pixel(-1.5, 4));
    CHECK(s.w.find<QLabel>("placeLevelState")->text() == "Nothing is levelled.");
}
