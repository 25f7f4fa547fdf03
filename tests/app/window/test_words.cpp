// Words of a survey list in the window: judged by, coloured by, and named in the ledger and the legend.

#include <catch2/catch.hpp>

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>

#include <set>

#include "app/cards/rule_card.h"
#include "app/look/range_histogram.h"
#include "app/window/legend.h"
#include "core/recipe/recipe.h"
#include "window_driver.h"

using namespace pristine;
using test::WindowDriver;

namespace {

// 60 points in three rows, one row for each code.
std::string coded_rows() {
    std::string s = "x,y,z,code,depth\n";
    const char* codes[] = {"TREE", "POLE", "SPOT"};
    for (int i = 0; i < 60; ++i)
        s += std::to_string(i / 3) + "," + std::to_string(10 * (i % 3)) + ",5," + codes[i % 3] + "," +
             std::to_string(i) + "\n";
    return s;
}

void tick(QListWidget& words, const QString& word) {
    for (int i = 0; i < words.count(); ++i)
        if (words.item(i)->data(Qt::UserRole).toString() == word) words.item(i)->setCheckState(Qt::Checked);
}

struct List {
    test::TemporaryFolder folder;
    WindowDriver w{folder / "home"};
    List() {
        test::write_file(folder / "list.csv", coded_rows());
        REQUIRE(w.open(folder / "list.csv"));
        w.click(w.find<QPushButton>("noticeFirst"));  // metres
        w.window().commands().trigger("select.rule");
        w.window().findChild<app::RuleCard*>()->choose("column");
        REQUIRE(w.wait([&] { return w.find<QListWidget>("ruleWords")->count() == 3; }));
    }
};

}  // namespace

TEST_CASE("PointsAreTakenByTheirCodes", "[window]") {
    List s;
    auto& words = *s.w.find<QListWidget>("ruleWords");
    CHECK(s.w.find<QComboBox>("ruleOther")->currentText() == "code");
    CHECK_FALSE(s.w.find<app::RangeHistogram>("ruleHistogram")->isVisible());
    CHECK(s.w.find<QLabel>("ruleSentence")->text().contains("Tick the words"));
    CHECK_FALSE(s.w.site().selection_in_work());
    tick(words, "TREE");
    tick(words, "POLE");
    REQUIRE(s.w.settle());
    CHECK(s.w.site().selected() == 40);
    CHECK(s.w.find<QLabel>("ruleSentence")->text().contains("code is POLE or TREE"));
    s.w.key(Qt::Key_Delete);
    REQUIRE(s.w.settle());
    REQUIRE(s.w.item().ledger.size() == 1);
    CHECK(s.w.item().ledger[0].reason == "POLE, TREE");
    CHECK(site::told(s.w.item().ledger[0].cause) == "rule column \"code\" =POLE,TREE");
    CHECK(site::eligible(s.w.item()).count() == 20);
    // The rule of the ledger is a recipe, that takes the same of the same list.
    s.w.window().controllers().rules.save_recipe(s.folder / "codes.json");
    const score::Recipe recipe = score::recipe_from_json(test::read_file(s.folder / "codes.json"));
    const auto all = ElementSet::all(60);
    CHECK(score::run(recipe, *s.w.item().cloud, all)[0].elements == *s.w.item().ledger[0].elements);
    s.w.close();
}

TEST_CASE("AColumnOfNumbersIsARuleWithAHistogram", "[window]") {
    List s;
    auto* column = s.w.find<QComboBox>("ruleOther");
    column->setCurrentText("depth");
    emit column->activated(column->currentIndex());
    REQUIRE(s.w.wait([&] { return s.w.find<app::RangeHistogram>("ruleHistogram")->isVisible(); }));
    CHECK_FALSE(s.w.find<QListWidget>("ruleWords")->isVisible());
    s.w.find<QDoubleSpinBox>("ruleLow")->setValue(50);
    s.w.find<QDoubleSpinBox>("ruleHigh")->setValue(59);
    REQUIRE(s.w.settle());
    CHECK(s.w.site().selected() == 10);
    s.w.close();
}

TEST_CASE("TheLegendNamesTheWordsBesideTheirColours", "[window]") {
    List s;
    s.w.click(s.w.find<QPushButton>("ruleColour"));
    REQUIRE(s.w.settle());
    const auto* legend = s.w.find<app::Legend>("legend");
    CHECK(legend->title() == "code");
    REQUIRE(legend->names().size() == 3);
    CHECK(legend->names()[1].second == "POLE");
    // Each swatch has a colour of its own, and no bar of the ramp runs beside them.
    const QImage image = s.w.find<app::Legend>("legend")->grab().toImage();
    std::set<QRgb> swatches;
    for (int i = 0; i < 3; ++i) swatches.insert(image.pixel(16, 26 + 17 * i + 8));
    CHECK(swatches.size() == 3);
    const int below = image.height() - 5;
    CHECK(image.pixel(16, below) == image.pixel(60, below));
    s.w.close();
}
