// A rule by mouse: chosen, dragged, seen before it is meant, removed, lifted.

#include <catch2/catch.hpp>

#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QPushButton>
#include <QRadioButton>
#include <QRegularExpression>
#include <algorithm>

#include "app/cards/rule_card.h"
#include "app/cards/work_card.h"
#include "app/look/range_histogram.h"
#include "app/look/theme.h"
#include "core/io/cloud_io.h"
#include "core/recipe/recipe.h"
#include "demo/ashmere.h"
#include "demo/trials.h"
#include "open_chamber.h"

using namespace pristine;
using test::WindowDriver;

namespace {

struct OpenRuleScan : test::OpenChamber {
    OpenRuleScan() : OpenChamber(60'000) {
        w.window().commands().trigger("select.rule");
        REQUIRE(w.settle());
    }
    app::RuleCard& card() { return *w.window().findChild<app::RuleCard*>(); }
    ElementSet slow(const score::Step& s) {
        const auto& c = *w.item().cloud;
        const ElementSet all = ElementSet::all(c.size());
        return score::within(score::compute(score::find(s.score), {c, all}, s.parameters), all, s.limits);
    }
};

}  // namespace

TEST_CASE("ARuleIsDraggedSeenRemovedAndLifted", "[window]") {
    OpenRuleScan s;
    CHECK_FALSE(s.w.window().card().isVisible());
    CHECK(s.card().isVisible());
    // The first range stands far off the usual, and is selected.
    const auto first = s.card().step();
    REQUIRE(first);
    CHECK(first->score == "stray");
    CHECK(*s.w.site().selection_in_work() == s.slow(*first));
    const std::uint64_t before = s.w.site().selected();
    CHECK(before > 0);
    CHECK(before < s.w.item().total() / 10);
    // The lower end dragged to the left takes more; while it is dragged nothing is committed, but shown.
    auto* histogram = s.w.find<app::RangeHistogram>("ruleHistogram");
    // Strays lie far beyond the bulk: twice the value is the same way to the right everywhere.
    CHECK(histogram->x_of(8) - histogram->x_of(4) ==
          Approx(histogram->x_of(4) - histogram->x_of(2)).margin(0.01));
    CHECK(histogram->x_of(8) - histogram->x_of(4) > 5);
    const std::size_t commits = s.w.window().document().history().commits().size();
    const QPoint from(static_cast<int>(histogram->x_of(first->limits.lo)), 40), to(from.x() / 2 + 5, 40);
    QTest::mousePress(histogram, Qt::LeftButton, Qt::NoModifier, from);
    QMouseEvent move(QEvent::MouseMove, to, histogram->mapToGlobal(to), Qt::NoButton, Qt::LeftButton,
                     Qt::NoModifier);
    QApplication::sendEvent(histogram, &move);
    CHECK(s.w.window().document().history().commits().size() == commits);
    const auto held = s.card().step();
    REQUIRE(held);
    CHECK(held->limits.lo < first->limits.lo);
    const auto shown = s.w.stage().scene().items()[0].selected;
    REQUIRE(shown);
    CHECK(*shown == s.slow(*held));
    QTest::mouseRelease(histogram, Qt::LeftButton, Qt::NoModifier, to);
    REQUIRE(s.w.settle());
    CHECK(*s.w.site().selection_in_work() == s.slow(*held));
    CHECK(s.w.site().selected() > before);
    CHECK(s.w.find<QLabel>("ruleSentence")->text().contains("Takes"));
    // Typed values and the outside.
    s.w.find<QDoubleSpinBox>("ruleLow")->setValue(1.5);
    REQUIRE(s.w.settle());
    CHECK(*s.w.site().selection_in_work() == s.slow(*s.card().step()));
    s.w.click(s.w.find<QRadioButton>("ruleOutside"));
    REQUIRE(s.w.settle());
    CHECK(s.card().step()->limits.outside);
    CHECK(*s.w.site().selection_in_work() == s.slow(*s.card().step()));
    s.w.click(s.w.find<QRadioButton>("ruleInside"));
    REQUIRE(s.w.settle());
    // Removed, the ledger says how; lifted, all is there again.
    const std::uint64_t gone = s.w.site().selected();
    s.w.window().commands().trigger("decide.remove");
    REQUIRE(s.w.settle());
    REQUIRE(s.w.item().ledger.size() == 1);
    CHECK(site::told(s.w.item().ledger[0].cause).find("rule stray[neighbours=4]") == 0);
    CHECK(s.w.item().shown() == s.w.item().total() - gone);
    s.w.window().document().apply("lift", [&](const site::Site& now) {
        return site::set_entry_active(now, now.active, s.w.item().ledger[0].id, false);
    });
    REQUIRE(s.w.settle());
    CHECK(s.w.item().shown() == s.w.item().total());
    s.w.click(s.w.find<QPushButton>("ruleClose"));
    CHECK(s.w.window().card().isVisible());
}

TEST_CASE("ARuleBeginsWhereTheManualSays", "[window]") {
    OpenRuleScan s;
    CHECK(s.card().step()->limits.lo == 2.5);
    s.card().choose("ground");
    REQUIRE(s.w.settle());
    const auto step = s.card().step();
    REQUIRE(step);
    CHECK(step->limits.lo == Approx(0.07));
    CHECK(*s.w.site().selection_in_work() == s.slow(*step));
    // Not in the last pixel of the histogram, where nobody could drag it.
    auto* histogram = s.w.find<app::RangeHistogram>("ruleHistogram");
    CHECK(histogram->x_of(0.07) > 0.05 * histogram->width());
    CHECK(histogram->x_of(0.07) < 0.6 * histogram->width());
}

TEST_CASE("EveryScoreMakesItsCardAndRulesCombine", "[window]") {
    OpenRuleScan s;
    auto* which = s.w.find<QComboBox>("ruleScore");
    // Those for points; a surface has others (test_surface_window.cpp).
    const auto for_points = [](const score::Score& one) {
        return one.applies != score::Score::Applies::Triangles;
    };
    REQUIRE(which->count() == std::count_if(score::scores().begin(), score::scores().end(), for_points));
    for (const score::Score& one : score::scores()) {
        CAPTURE(one.id);
        if (!for_points(one)) continue;
        s.card().choose(QString::fromStdString(one.id));
        REQUIRE(s.w.settle());
        for (const score::Parameter& p : one.parameters)
            CHECK(s.w.find<QDoubleSpinBox>(QStringLiteral("rule.") + QString::fromStdString(p.name)));
        // Either there are values, or a sentence says why not.
        CHECK((s.card().step() || !s.w.find<QLabel>("ruleState")->text().isEmpty()));
    }
    s.card().choose("height");
    REQUIRE(s.w.settle());
    s.w.find<QDoubleSpinBox>("ruleLow")->setValue(demo::kSiteOrigin.z + 1);
    REQUIRE(s.w.settle());
    const ElementSet high = *s.w.site().selection_in_work();
    s.w.find<QComboBox>("ruleCombine")->setCurrentIndex(3);  // and
    s.card().choose("north");
    REQUIRE(s.w.settle());
    s.w.find<QDoubleSpinBox>("ruleLow")->setValue(demo::kSiteOrigin.y + 10);
    REQUIRE(s.w.settle());
    const auto step = s.card().step();
    REQUIRE(step);
    CHECK(s.w.site().selected() > 0);
    CHECK((*s.w.site().selection_in_work() - high).empty());
    CHECK((*s.w.site().selection_in_work() - s.slow(*step)).empty());
}

TEST_CASE("OneHistogramOverAllScansThatAreShown", "[window]") {
    OpenRuleScan s;
    REQUIRE(s.w.open(s.folder / "ashmere-lock" / "chamber-station-2.las", 2));
    const std::uint64_t in_work = s.w.site().active;
    auto* low = s.w.find<QDoubleSpinBox>("ruleLow");
    QTest::mouseClick(s.w.find<QCheckBox>("ruleAll"), Qt::LeftButton, Qt::NoModifier, QPoint(8, 8));
    REQUIRE(s.w.settle());
    CHECK(s.w.find<QLabel>("ruleSentence")->text().contains("In 2 scans"));
    low->setValue(3);
    REQUIRE(s.w.settle());
    const auto step = s.card().step();
    REQUIRE(step);
    std::vector<ElementSet> wanted;
    std::uint64_t sum = 0;
    for (const site::ItemPtr& i : s.w.site().items) {
        const ElementSet all = ElementSet::all(i->cloud->size());
        wanted.push_back(score::within(
            score::compute(score::find(step->score), {*i->cloud, all}, step->parameters), all, step->limits));
        CHECK_FALSE(wanted.back().empty());
        sum += wanted.back().count();
    }
    CHECK(s.w.find<QLabel>("ruleSentence")->text().contains(app::grouped(sum)));
    const std::size_t commits = s.w.window().document().history().commits().size();
    auto* everywhere = s.w.find<QPushButton>("ruleEverywhere");
    REQUIRE(everywhere->isVisible());
    everywhere->click();
    REQUIRE(s.w.settle());
    CHECK(s.w.window().document().history().commits().size() == commits + 1);
    for (std::size_t k = 0; k < 2; ++k) CHECK(*s.w.site().items[k]->removed == wanted[k]);
    CHECK(s.w.site().active == in_work);
    s.w.window().commands().trigger("edit.undo");
    REQUIRE(s.w.settle());
    for (std::size_t k = 0; k < 2; ++k) CHECK(s.w.site().items[k]->removed->empty());
}

TEST_CASE("WhatMovedIsProposedAndWhoLookedPastItIsNamed", "[window]") {
    // Scans of four stations, each in a file that knows its station.
    const test::TemporaryFolder folder;
    const demo::Trial all = demo::make_trial("passers", 3, 0.1);
    std::vector<std::filesystem::path> files;
    for (std::size_t k = 0; k < all.stations.size(); ++k) {
        demo::Trial one{"one", {}, {all.stations[k]}};
        for (demo::TrialPoint p : all.points)
            if (p.scan == k) {
                p.scan = 0;
                one.points.push_back(p);
            }
        std::vector<demo::Truth> ignored;
        files.push_back(folder / ("station-" + std::to_string(k + 1) + ".e57"));
        io::write_cloud({{demo::cloud_of(one, ignored)}}, files.back());
    }
    WindowDriver w(folder / "home");
    w.window().open_files(files);
    REQUIRE(w.wait([&] { return w.site().items.size() == 4 && !w.window().jobs().busy(); }));
    w.window().commands().trigger("select.rule");
    REQUIRE(w.settle());
    auto& card = *w.window().findChild<app::RuleCard*>();
    card.choose("through");
    REQUIRE(w.settle());
    // Nearly all points have the value 0: the first range takes none of those.
    const auto step = card.step();
    REQUIRE(step);
    CHECK(step->limits.lo > 0);
    REQUIRE(w.site().selection_in_work());
    CHECK(w.site().selected() > 10);
    CHECK(w.site().selected() < w.item().total() / 20);
    std::size_t named = 0;
    w.site().selection_in_work()->for_each([&](std::uint64_t e) {
        named += card.value_of(e).contains(QRegularExpression("; Station [234] looked past it and measured"));
    });
    CHECK(named == w.site().selected());
    w.close();
}

TEST_CASE("ScansWithoutAStationAreLeftOutOfWhatIsSeenThrough", "[window]") {
    // Two stations in one file, beside it a scan that does not say where it stood.
    const test::TemporaryFolder folder;
    std::vector<demo::Truth> ignored;
    demo::Trial both = demo::make_trial("passers", 5, 0.05);
    std::erase_if(both.points, [](const demo::TrialPoint& p) { return p.scan > 1; });
    both.stations.resize(2);
    demo::Trial nowhere{"nowhere", both.points, {}};
    io::write_cloud({{demo::cloud_of(both, ignored)}}, folder / "two.e57");
    io::write_cloud({{demo::cloud_of(nowhere, ignored)}}, folder / "nowhere.las");
    WindowDriver w(folder / "home");
    w.window().open_files({folder / "two.e57", folder / "nowhere.las"});
    REQUIRE(w.wait([&] { return w.site().items.size() >= 3 && !w.window().jobs().busy(); }));
    w.document().apply("work", [](const site::Site& s) { return site::activate(s, s.items[0]->id); });
    w.window().commands().trigger("decide.join_scans");
    REQUIRE(w.settle());
    w.document().apply("work", [](const site::Site& s) { return site::activate(s, s.items[0]->id); });
    REQUIRE(w.item().cloud->stations().size() >= 1);
    w.window().commands().trigger("select.rule");
    REQUIRE(w.settle());
    auto& card = *w.window().findChild<app::RuleCard*>();
    card.choose("through");
    QTest::mouseClick(w.find<QCheckBox>("ruleAll"), Qt::LeftButton, Qt::NoModifier, QPoint(8, 8));
    REQUIRE(w.settle());
    CHECK_FALSE(w.find<QLabel>("ruleState")->text().contains("two stations"));
    // The other has no values: there is nothing to remove from all of several scans.
    CHECK_FALSE(w.find<QPushButton>("ruleEverywhere")->isVisible());
    CHECK(card.step());
    CHECK(w.site().selected() > 0);
    w.close();
}
