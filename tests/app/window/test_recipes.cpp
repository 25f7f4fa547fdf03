// Recipes in the window, what else the rule card does, and the boxes that ask for a name.

#include <catch2/catch.hpp>

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <QTimer>
#include <QToolButton>

#include "app/cards/rule_card.h"
#include "app/window/legend.h"
#include "core/recipe/recipe.h"
#include "core/site/item_classes.h"
#include "demo/ashmere.h"
#include "open_chamber.h"

using namespace pristine;
using test::WindowDriver;

namespace {

struct OpenSite : test::OpenChamber {
    OpenSite() : OpenChamber(60'000) {}
    void rule(const char* id, double low) {
        if (!card().is_open()) w.window().commands().trigger("select.rule");
        card().choose(id);
        REQUIRE(w.settle());
        w.find<QDoubleSpinBox>("ruleLow")->setValue(low);
        REQUIRE(w.settle());
    }
    app::RuleCard& card() { return *w.window().findChild<app::RuleCard*>(); }
    void remove() {
        w.window().commands().trigger("decide.remove");
        REQUIRE(w.settle());
    }
};

// Types into the next box that asks for a text, and accepts it.
void answer(const QString& text) {
    QTimer::singleShot(0, [text] {
        for (int i = 0; i < 100; ++i) {
            if (auto* box = qobject_cast<QInputDialog*>(QApplication::activeModalWidget())) {
                box->findChild<QLineEdit*>()->setText(text);
                QTest::keyClick(box, Qt::Key_Return);
                return;
            }
            QTest::qWait(20);
        }
    });
}

QMenu* menu_titled(QWidget* window, const QString& title) {
    for (QMenu* m : window->findChildren<QMenu*>())
        if (m->title().remove('&') == title) return m;
    return nullptr;
}

QAction* entry(QMenu* menu, const QString& text) {
    emit menu->aboutToShow();
    for (QAction* a : menu->actions())
        if (a->text().remove('&').startsWith(text)) return a;
    return nullptr;
}

}  // namespace

TEST_CASE("ARecipeSavedFromTheLedgerGivesTheSameWithoutAWindow", "[window]") {
    OpenSite s;
    CHECK_FALSE(s.w.window().commands().find("site.save_recipe")->why_not().isEmpty());
    s.rule("stray", 2.5);
    s.remove();
    s.rule("height", demo::kSiteOrigin.z + 4);
    s.remove();
    REQUIRE(s.w.item().ledger.size() == 2);
    s.w.window().controllers().rules.save_recipe(s.folder / "rules.json");
    const score::Recipe recipe = score::recipe_from_json(test::read_file(s.folder / "rules.json"));
    REQUIRE(recipe.size() == 2);
    CHECK(recipe[0].score == "stray");
    CHECK(recipe[1].score == "height");
    // The same on the same points, in the core alone.
    const auto& c = *s.w.item().cloud;
    const auto gone = score::run(recipe, c, ElementSet::all(c.size()));
    CHECK(gone[0].elements == *s.w.item().ledger[0].elements);
    CHECK(gone[1].elements == *s.w.item().ledger[1].elements);
    // And on the second scan, from the window.
    s.w.click(s.w.find<QPushButton>("ruleClose"));
    s.w.window().open_files({s.folder / "ashmere-lock" / "chamber-station-2.las"});
    REQUIRE(s.w.wait([&] { return s.w.site().items.size() == 2 && !s.w.window().jobs().busy(); }));
    s.w.document().apply("work",
                         [&](const site::Site& now) { return site::activate(now, now.items[1]->id); });
    REQUIRE(s.w.settle());
    s.w.window().controllers().rules.run_recipe(s.folder / "rules.json");
    REQUIRE(s.w.settle());
    const auto& second = *s.w.item().cloud;
    const auto there = score::run(recipe, second, ElementSet::all(second.size()));
    REQUIRE(s.w.item().ledger.size() == 2);
    for (std::size_t i = 0; i < 2; ++i) {
        CHECK(*s.w.item().ledger[i].elements == there[i].elements);
        CHECK(s.w.item().ledger[i].cause == site::by_rule(there[i].step));
        CHECK(site::told(s.w.item().ledger[i].cause) == "rule " + there[i].rule);
    }
    // One step takes it all back.
    s.w.window().commands().trigger("edit.undo");
    REQUIRE(s.w.settle());
    CHECK(s.w.item().ledger.empty());
    // A file that is no recipe is refused, and nothing happens.
    test::write_file(s.folder / "no.json", "[1, 2");
    s.w.window().controllers().rules.run_recipe(s.folder / "no.json");
    REQUIRE(s.w.settle());
    CHECK(s.w.item().ledger.empty());
    CHECK(s.w.find<QLabel>("message")->toolTip().contains("recipe"));
}

TEST_CASE("ARecipeKeepsTheClassesThatRulesGave", "[window]") {
    OpenSite s;
    const auto give = [&](std::uint8_t code) {
        s.w.document().apply("Class", [&](const site::Site& now) {
            return site::class_selection(now, code, {"Class", now.origin.cause, {}, nullptr});
        });
        REQUIRE(s.w.settle());
    };
    s.rule("height", demo::kSiteOrigin.z + 1);
    give(5);
    s.rule("height", demo::kSiteOrigin.z + 4);
    give(6);
    s.rule("stray", 2.5);
    s.remove();
    s.w.window().controllers().rules.save_recipe(s.folder / "rules.json");
    const score::Recipe recipe = score::recipe_from_json(test::read_file(s.folder / "rules.json"));
    REQUIRE(recipe.size() == 3);
    CHECK(recipe[0].to_class == std::uint8_t{5});
    CHECK(recipe[1].to_class == std::uint8_t{6});
    CHECK_FALSE(recipe[2].to_class);
    const auto counts = site::class_counts(s.w.item());
    const site::SetPtr removed = s.w.item().removed;
    // Undone, and run again: the same classes, and the same is out.
    for (int k = 0; k < 20 && !s.w.item().ledger.empty(); ++k) s.w.window().commands().trigger("edit.undo");
    REQUIRE(s.w.settle());
    REQUIRE(s.w.item().ledger.empty());
    s.w.window().controllers().rules.run_recipe(s.folder / "rules.json");
    REQUIRE(s.w.settle());
    REQUIRE(s.w.item().ledger.size() == 3);
    CHECK(site::class_counts(s.w.item()) == counts);
    CHECK(*s.w.item().removed == *removed);
    CHECK(site::told(s.w.item().ledger[0].cause).find("-> class 5") != std::string::npos);
    s.w.window().commands().trigger("edit.undo");
    REQUIRE(s.w.settle());
    CHECK(s.w.item().ledger.empty());
}

TEST_CASE("ARuleThatComparesIsSavedAndRunWithWhatItComparesWith", "[window]") {
    OpenSite s;
    s.w.window().open_files({s.folder / "ashmere-lock" / "chamber-station-2.las"});
    REQUIRE(s.w.wait([&] { return s.w.site().items.size() == 2 && !s.w.window().jobs().busy(); }));
    const std::uint64_t first = s.w.site().items[0]->id;
    s.w.document().apply("work", [&](const site::Site& now) { return site::activate(now, first); });
    s.rule("other", 0.4);
    s.remove();
    REQUIRE(s.w.item().ledger.size() == 1);
    const std::string other = s.w.site().items[1]->name;
    CHECK(site::told(s.w.item().ledger[0].cause).find('"' + other + '"') != std::string::npos);
    const ElementSet removed = *s.w.item().ledger[0].elements;
    CHECK(removed.count() > 0);
    s.w.window().controllers().rules.save_recipe(s.folder / "compare.json");
    s.w.click(s.w.find<QPushButton>("ruleClose"));
    s.w.window().commands().trigger("edit.undo");
    REQUIRE(s.w.settle());
    REQUIRE(s.w.item().ledger.empty());
    s.w.window().controllers().rules.run_recipe(s.folder / "compare.json");
    REQUIRE(s.w.settle());
    REQUIRE(s.w.item().ledger.size() == 1);
    CHECK(*s.w.item().ledger[0].elements == removed);
    // Under another name it is not there: the recipe is refused and says what is missing.
    s.w.window().commands().trigger("edit.undo");
    REQUIRE(s.w.settle());
    const std::uint64_t second = s.w.site().items[1]->id;
    s.w.document().apply("name",
                         [&](const site::Site& now) { return site::rename_item(now, second, "Old"); });
    s.w.window().controllers().rules.run_recipe(s.folder / "compare.json");
    REQUIRE(s.w.settle());
    CHECK(s.w.item().ledger.empty());
    CHECK(s.w.find<QLabel>("noticeText")->text().contains(QString::fromStdString(other)));
}

TEST_CASE("TheRuleCardFollowsWhatHappensRoundIt", "[window]") {
    OpenSite s;
    s.rule("height", demo::kSiteOrigin.z + 4);
    const double low = s.card().step()->limits.lo;
    // Removed points are no longer taken.
    s.remove();
    REQUIRE(s.card().taken());
    CHECK((*s.card().taken() & *s.w.item().removed).empty());
    CHECK(s.w.site().selected() == 0);  // nothing is selected anew unasked
    CHECK(s.card().step()->limits.lo == Approx(low));
    // The unit of the site is that of the card.
    s.w.find<QDoubleSpinBox>("ruleLow")->setValue(demo::kSiteOrigin.z + 1);
    s.w.document().apply("unit", [](const site::Site& now) { return site::set_unit(now, "mm"); });
    REQUIRE(s.w.settle());
    CHECK(s.w.find<QDoubleSpinBox>("ruleHigh")->value() > 1000 * demo::kSiteOrigin.z);
    CHECK(s.w.find<QDoubleSpinBox>("ruleHigh")->decimals() == 0);
    CHECK(s.card().step()->limits.lo < low);
    CHECK(s.w.find<QToolButton>("rail.select.rule"));
}

TEST_CASE("TheStageIsColouredByAScoreAndShowsItsLimits", "[window]") {
    OpenSite s;
    s.w.window().commands().trigger("view.front");
    REQUIRE(s.w.settle());
    s.rule("height", demo::kSiteOrigin.z + 4.5);
    const QImage before = s.w.stage().grab().toImage();
    const site::Style style = s.w.item().style;
    s.w.click(s.w.find<QPushButton>("ruleColour"));
    REQUIRE(s.w.settle());
    const auto& drawn = s.w.stage().scene().items()[0];
    REQUIRE(drawn.column);
    for (const std::uint64_t e : {std::uint64_t{5}, s.w.item().total() / 2})
        CHECK(drawn.column->base + static_cast<double>(drawn.column->values[e]) ==
              Approx(s.w.item().cloud->position(e).z).margin(1e-3));
    CHECK(s.w.item().style == style);  // a way of looking, no change of the item
    CHECK(s.w.stage().grab().toImage() != before);
    CHECK(s.w.window().findChild<app::Legend*>()->isVisible());
    // A level at the lower limit, as a closed frame.
    const auto lines = s.card().guides();
    REQUIRE(lines.size() == 1);
    for (const Vec3& p : lines[0]) CHECK(p.z == Approx(demo::kSiteOrigin.z + 4.5));
    // Values are told under the pointer.
    QString told;
    for (int y = 100; y < 500 && told.isEmpty(); y += 20) {
        const QPoint at(s.w.stage().width() / 2, y);
        QMouseEvent move(QEvent::MouseMove, at, s.w.stage().mapToGlobal(at), Qt::NoButton, Qt::NoButton,
                         Qt::NoModifier);
        QApplication::sendEvent(&s.w.stage(), &move);
        told = s.w.stage().toolTip();
    }
    CHECK(told.contains("Height"));
    CHECK(told.contains("usual"));
    // With the reason in words, where the score has one.
    s.rule("floor", 0.5);
    std::uint64_t standing = 0;
    while (!s.card().taken()->contains(standing)) ++standing;
    CHECK(s.card().value_of(standing).contains("above the floor beneath it"));
    s.rule("height", demo::kSiteOrigin.z + 4.5);
    // Fly to the most extreme: the highest point comes into the middle of the view.
    s.w.click(s.w.find<QPushButton>("ruleExtreme"));
    REQUIRE(s.w.settle());
    Vec3 highest{0, 0, -1e9};
    for (std::uint64_t e = 0; e < s.w.item().total(); ++e)
        if (s.w.item().cloud->position(e).z > highest.z) highest = s.w.item().cloud->position(e);
    const PixelPoint at = s.w.stage().frame().project(highest);
    CHECK(std::fabs(at.x - s.w.stage().width() / 2.0) < 60);
    CHECK(std::fabs(at.y - s.w.stage().height() / 2.0) < 60);
    s.w.click(s.w.find<QPushButton>("ruleClose"));
    REQUIRE(s.w.settle());
    CHECK_FALSE(s.w.stage().scene().items()[0].column);
}

TEST_CASE("TheDistanceToAnotherScanIsARule", "[window]") {
    OpenSite s;
    s.w.window().open_files({s.folder / "ashmere-lock" / "chamber-station-2.las"});
    REQUIRE(s.w.wait([&] { return s.w.site().items.size() == 2 && !s.w.window().jobs().busy(); }));
    s.rule("other", 0.3);
    auto* other = s.w.find<QComboBox>("ruleOther");
    CHECK(other->isVisible());
    CHECK(other->count() == 1);
    REQUIRE(s.card().step());
    // Every point taken is farther than that from every point of the other scan: the slow way, for some.
    const auto& far = *s.w.site().items[s.w.site().items[0]->id == s.w.site().active ? 1 : 0]->cloud;
    int looked_at = 0;
    s.card().taken()->for_each([&](std::uint64_t e) {
        if (++looked_at > 5) return;
        const Vec3 p = s.w.item().cloud->position(e);
        double least = 1e9;
        for (std::uint64_t k = 0; k < far.size(); ++k) least = std::min(least, norm(far.position(k) - p));
        CHECK(least >= s.card().step()->limits.lo - 1e-4);
    });
    CHECK(looked_at > 0);
}

TEST_CASE("ViewsClipBoxesAndSelectionsAreKeptByName", "[window]") {
    OpenSite s;
    // A view.
    s.w.window().commands().trigger("view.top");
    REQUIRE(s.w.settle());
    const render::Camera top = s.w.stage().camera();
    answer("Above the gate");
    s.w.window().commands().trigger("view.keep");
    s.w.window().commands().trigger("view.front");
    REQUIRE(s.w.settle());
    CHECK_FALSE(s.w.stage().camera() == top);
    QMenu* views = menu_titled(&s.w.window(), "Kept views");
    REQUIRE(views);
    QAction* kept = entry(views, "Above the gate");
    REQUIRE(kept);
    kept->trigger();
    REQUIRE(s.w.settle());
    CHECK(norm(s.w.stage().camera().eye - top.eye) < 1e-6 * (1 + norm(top.eye)));
    // A clip box: named, another one made from it, dropped.
    const Box3 b = s.w.item().cloud->robust_bounds();
    s.w.document().apply("clip", [&](const site::Site& now) {
        return site::use_clip(now, {0, "Clip box 1", {b.centre(), {2, 3, 2}, 0}});
    });
    REQUIRE(s.w.settle());
    QMenu* clips = menu_titled(&s.w.window(), "Clip boxes");
    REQUIRE(clips);
    answer("Round the cart");
    entry(clips, "Rename this box…")->trigger();
    REQUIRE(s.w.settle());
    REQUIRE(s.w.site().clips.size() == 1);
    CHECK(s.w.site().clips[0].name == "Round the cart");
    entry(clips, "Another box from this one")->trigger();
    REQUIRE(s.w.settle());
    REQUIRE(s.w.site().clips.size() == 2);
    CHECK(s.w.site().clip == s.w.site().clips[1].id);
    entry(clips, "Round the cart")->trigger();
    REQUIRE(s.w.settle());
    CHECK(s.w.site().clip_in_force()->name == "Round the cart");
    entry(clips, "Drop this box")->trigger();
    REQUIRE(s.w.settle());
    CHECK(s.w.site().clips.size() == 1);
    s.w.document().apply("all", [](const site::Site& now) { return site::clear_clip(now); });
    REQUIRE(s.w.settle());
    // A selection.
    s.w.document().apply("select", [&](const site::Site& now) {
        ElementSet some(now.active_item()->cloud->size());
        for (std::uint64_t e = 0; e < 500; ++e) some.insert(e);
        return site::select(now, some & site::eligible(*now.active_item()), site::Combine::New);
    });
    REQUIRE(s.w.settle());
    const std::uint64_t n = s.w.site().selected();
    REQUIRE(n > 0);
    answer("First lot");
    s.w.window().commands().trigger("select.keep");
    s.w.window().commands().trigger("select.clear");
    REQUIRE(s.w.settle());
    REQUIRE(s.w.item().kept.size() == 1);
    CHECK(s.w.item().kept[0].name == "First lot");
    QMenu* selections = menu_titled(&s.w.window(), "Kept selections");
    REQUIRE(selections);
    REQUIRE(entry(selections, "First lot"));
    entry(selections, "First lot")->trigger();
    REQUIRE(s.w.settle());
    CHECK(s.w.site().selected() == n);
}
