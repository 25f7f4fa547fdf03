// Things on the ground by mouse: listed, ticked by kind, selected, told.

#include <catch2/catch.hpp>

#include <QComboBox>
#include <QPushButton>
#include <QTreeWidget>

#include "app/cards/objects_card.h"
#include "demo/ashmere.h"
#include "window_driver.h"

using namespace pristine;
using test::WindowDriver;

TEST_CASE("ThingsOnTheGroundAreListedTickedAndSelected", "[window]") {
    const test::TemporaryFolder folder;
    WindowDriver w(folder / "home");
    demo::Options o;
    o.points = 200'000;
    demo::write_site(folder / "ashmere-lock", o);
    REQUIRE(w.open(folder / "ashmere-lock" / "chamber-station-1.las"));
    w.window().commands().trigger("select.objects");
    REQUIRE(w.settle());
    auto* card = w.window().findChild<app::ObjectsCard*>();
    REQUIRE(card->objects());
    REQUIRE_FALSE(card->objects()->list().empty());
    auto* tree = w.find<QTreeWidget>("objectsTree");
    int listed = 0;
    for (int k = 0; k < tree->topLevelItemCount(); ++k) listed += tree->topLevelItem(k)->childCount();
    CHECK(listed == static_cast<int>(card->objects()->list().size()));
    // A whole kind by one tick.
    QTreeWidgetItem* head = tree->topLevelItem(0);
    head->setCheckState(0, Qt::Checked);
    ElementSet expected(w.item().cloud->size());
    for (int c = 0; c < head->childCount(); ++c)
        expected = expected | card->objects()->of(
                                  static_cast<std::size_t>(head->child(c)->data(0, Qt::UserRole).toInt()));
    w.click(w.find<QPushButton>("objectsTake"));
    REQUIRE(w.settle());
    REQUIRE(w.site().selection_in_work());
    CHECK(*w.site().selection_in_work() == expected);
    // Told to be another kind, it is listed there, and stays ticked.
    tree->setCurrentItem(head->child(0));
    const auto number = static_cast<std::size_t>(head->child(0)->data(0, Qt::UserRole).toInt());
    auto* kind = w.find<QComboBox>("objectsKind");
    const int other = (kind->currentIndex() + 1) % kind->count();
    kind->setCurrentIndex(other);
    emit kind->activated(other);
    CHECK(static_cast<int>(card->objects()->list()[number].kind) == other);
    CHECK((expected - *card->ticked().begin()->second).empty());
    w.click(w.find<QPushButton>("objectsClose"));
    CHECK_FALSE(card->isVisible());
    w.close();
}
