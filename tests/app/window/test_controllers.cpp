// Controllers with the document and without a window: what a command does to the site, and why it cannot.

#include <catch2/catch.hpp>

#include <QClipboard>

#include "bare_desk.h"
#include "support/cloud_makers.h"

using namespace pristine;
using test::BareDesk;

namespace {

struct Fixture {
    test::TemporaryFolder folder;
    BareDesk d{folder / "home"};
    std::uint64_t first = d.add(test::random_cloud(2'000, test::Shape::Terrain, 3), "Nave");

    ElementSet lowest(std::uint64_t n) {
        ElementSet s(d.site().active_item()->cloud->size());
        for (std::uint64_t e = 0; e < n; ++e) s.insert(e);
        return s;
    }
    std::uint64_t out() { return d.site().active_item()->removed->count(); }
    std::uint64_t selected() { return d.site().selected(); }
};

}  // namespace

TEST_CASE("DecisionsTakeOutBringBackAndSayWhyNot", "[window]") {
    Fixture f;
    CHECK_FALSE(f.d.run("decide.remove").isEmpty());  // nothing is selected
    f.d.select(f.lowest(300));
    CHECK(f.d.run("decide.remove").isEmpty());
    CHECK(f.out() == 300);
    CHECK(f.selected() == 0);
    REQUIRE(f.d.site().active_item()->ledger.size() == 1);
    CHECK(f.d.run("edit.undo").isEmpty());
    CHECK(f.out() == 0);
    CHECK(f.selected() == 300);
    CHECK(f.d.run("edit.redo").isEmpty());
    CHECK(f.out() == 300);
    CHECK_FALSE(f.d.run("edit.redo").isEmpty());

    f.d.select(~f.lowest(500));
    CHECK(f.d.run("decide.keep").isEmpty());
    CHECK(f.out() == 500);
    // Everything that is left: nothing would go.
    f.d.select(~f.lowest(500));
    CHECK_FALSE(f.d.run("decide.keep").isEmpty());
}

TEST_CASE("GuardedPointsAreOutOfReachUntilTheGuardIsLifted", "[window]") {
    Fixture f;
    f.d.select(f.lowest(100));
    CHECK(f.d.run("decide.guard").isEmpty());
    f.d.select(f.lowest(300));
    CHECK(f.selected() == 200);
    CHECK(f.d.run("decide.lift_guards").isEmpty());
    f.d.select(f.lowest(300));
    CHECK(f.selected() == 300);
    CHECK_FALSE(f.d.run("decide.lift_guards").isEmpty());
}

TEST_CASE("APieceIsSetApartAndPutBack", "[window]") {
    Fixture f;
    f.d.select(f.lowest(400));
    CHECK(f.d.run("decide.apart").isEmpty());
    REQUIRE(f.d.site().items.size() == 2);
    CHECK(f.d.site().items.back()->cloud->size() - f.d.site().items.back()->absent->count() == 400);
    CHECK(f.d.run("edit.undo").isEmpty());
    CHECK(f.d.site().items.size() == 1);
}

TEST_CASE("TheSelectionIsInvertedDroppedAndBroughtBack", "[window]") {
    Fixture f;
    f.d.select(f.lowest(700));
    CHECK(f.d.run("select.invert").isEmpty());
    CHECK(f.selected() == 1'300);
    CHECK(f.d.run("select.clear").isEmpty());
    CHECK(f.selected() == 0);
    CHECK(f.d.run("select.again").isEmpty());
    CHECK(f.selected() == 1'300);
}

TEST_CASE("ViewsHideAndShowAndCountWhatIsHidden", "[window]") {
    Fixture f;
    const auto hidden = [&] { return f.d.site().active_item()->absent->count(); };
    CHECK_FALSE(f.d.run("view.show_all").isEmpty());
    f.d.select(f.lowest(250));
    CHECK(f.d.run("view.hide_selection").isEmpty());
    CHECK(hidden() == 250);
    CHECK(f.d.run("view.show_all").isEmpty());
    CHECK(hidden() == 0);
    f.d.select(f.lowest(250));
    CHECK(f.d.run("view.only_selection").isEmpty());
    CHECK(hidden() == 1'750);
}

TEST_CASE("ShownItemsAreMergedIntoANewOne", "[window]") {
    Fixture f;
    CHECK_FALSE(f.d.run("decide.merge").isEmpty());  // one item only
    f.d.add(test::random_cloud(1'000, test::Shape::Clusters, 4), "Choir");
    CHECK(f.d.run("decide.merge").isEmpty());
    REQUIRE(f.d.site().items.size() == 3);
    CHECK(f.d.site().items.back()->cloud->size() == 3'000);
    CHECK_FALSE(f.d.site().items[0]->visible);
    CHECK_FALSE(f.d.site().items[1]->visible);
}

TEST_CASE("TheNumbersOfTheSelectionAreCopiedAsText", "[window]") {
    Fixture f;
    QGuiApplication::clipboard()->setText(QStringLiteral("before"));
    CHECK_FALSE(f.d.run("edit.copy_numbers").isEmpty());
    CHECK(QGuiApplication::clipboard()->text() == QStringLiteral("before"));
    f.d.select(f.lowest(500));
    REQUIRE(f.d.wait([&] { return f.d.desk.document->numbers().ready; }));
    CHECK(f.d.run("edit.copy_numbers").isEmpty());
    const QStringList lines = QGuiApplication::clipboard()->text().split('\n');
    REQUIRE(lines.size() >= 2);
    CHECK(lines[0].contains(QStringLiteral("500")));
    CHECK(lines[0].contains(QStringLiteral("25 %")));
    CHECK(lines[1].startsWith(QStringLiteral("H ")));
}

TEST_CASE("CommandsOfAnEmptySiteSayWhatIsMissing", "[window]") {
    const test::TemporaryFolder folder;
    BareDesk d(folder / "home");
    for (const char* command : {"decide.remove", "decide.keep", "decide.guard", "decide.guard_ground",
                                "select.invert", "view.hide_selection", "decide.merge", "edit.undo",
                                "edit.copy_numbers", "select.grow", "site.export"}) {
        CAPTURE(command);
        const QString why = d.run(command);
        CHECK_FALSE(why.isEmpty());
        CHECK(why.endsWith('.'));
        CHECK(d.site().items.empty());
    }
}
