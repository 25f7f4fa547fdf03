// Colours for the rule card, taken off the stage.

#include <catch2/catch.hpp>

#include <QDoubleSpinBox>
#include <QPushButton>

#include "app/cards/rule_card.h"
#include "core/score/colour_sample.h"
#include "open_scan.h"

using namespace pristine;
using test::OpenScan;

TEST_CASE("ColoursAreTakenOffTheStageAndOfTheSelection", "[window]") {
    OpenScan s;
    auto& card = *s.w.window().findChild<app::RuleCard*>();
    const auto choose = [&] {
        if (!card.is_open()) s.run("select.rule");
        card.choose("colour");
        REQUIRE(s.w.settle());
    };
    const auto ready = [&] {
        REQUIRE(s.w.wait([&] { return card.step().has_value() && !s.w.window().jobs().busy(); }));
        REQUIRE(s.w.settle());
    };
    const auto box = [&](const char* name) {
        return s.w.find<QDoubleSpinBox>(QStringLiteral("rule.") + QString::fromLatin1(name))->value();
    };
    choose();
    s.w.click(s.w.find<QPushButton>("ruleColourPick"));
    // The floor: grey stone.
    const QPoint floor = s.pixel(0.5, 6);
    const auto seen =
        s.w.stage().measured_at({static_cast<double>(floor.x()), static_cast<double>(floor.y())});
    REQUIRE(seen);
    QTest::mouseClick(&s.w.stage(), Qt::LeftButton, Qt::NoModifier, floor);
    ready();
    const auto wanted = score::colour_at(s.cloud(), s.all(), *seen);
    REQUIRE(wanted);
    CHECK(box("red") == (wanted->rgb >> 16 & 255u));
    CHECK(box("green") == (wanted->rgb >> 8 & 255u));
    CHECK(box("blue") == (wanted->rgb & 255u));
    CHECK(box("second") == -1);
    CHECK(card.step()->limits.lo <= 0);
    CHECK(card.step()->limits.hi == Approx(std::clamp(1.2 * wanted->spread, 4.0, 40.0)).margin(0.01));
    const std::uint64_t before = s.w.site().selected();
    CHECK(before > 100);
    // Another click adds a colour: no less is selected.
    s.w.click(s.w.find<QPushButton>("ruleColourPick"));
    const QPoint vest = s.w.point(s.w.stage().frame().project(demo::kSiteOrigin + Vec3{-1.3, 15.4, 1.7}));
    REQUIRE(s.w.stage().measured_at({static_cast<double>(vest.x()), static_cast<double>(vest.y())}));
    QTest::mouseClick(&s.w.stage(), Qt::LeftButton, Qt::NoModifier, vest);
    ready();
    CHECK(box("second") >= 0);
    CHECK(s.w.site().selected() >= before);
    // Of what is selected: its mean.
    choose();
    ready();
    s.run("select.rectangle");
    s.drag({s.pixel(-1, 5), s.pixel(1, 6)});
    const auto mean = score::sample_colours(s.cloud(), s.selection());
    REQUIRE(mean);
    s.w.click(s.w.find<QPushButton>("ruleColourSelection"));
    ready();
    CHECK(box("red") == (mean->rgb >> 16 & 255u));
    CHECK(box("second") == -1);
}
