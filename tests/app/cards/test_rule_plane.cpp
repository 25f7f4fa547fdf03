// A plane for the rule card: three points, level, fitted; and both readings of its range.

#include <catch2/catch.hpp>

#include <QDoubleSpinBox>
#include <QLabel>
#include <QPushButton>
#include <QRadioButton>
#include <cmath>

#include "app/cards/rule_card.h"
#include "app/look/theme.h"
#include "core/geometry/plane_fit.h"
#include "open_scan.h"

using namespace pristine;
using test::OpenScan;

namespace {

struct OpenPlane : OpenScan {
    OpenPlane() {
        run("select.rule");
        choose();
    }
    app::RuleCard& card() { return *w.window().findChild<app::RuleCard*>(); }
    void choose() {
        card().choose("plane");
        ready();
    }
    void ready() {
        REQUIRE(w.wait([&] { return card().step().has_value() && !w.window().jobs().busy(); }));
        REQUIRE(w.settle());
    }
    double box(const char* name) {
        return w.find<QDoubleSpinBox>(QStringLiteral("rule.") + QString::fromLatin1(name))->value();
    }
    Vec3 at() { return {box("x"), box("y"), box("z")}; }
    Vec3 normal() { return {box("nx"), box("ny"), box("nz")}; }
    Vec3 click(double x, double y) {
        const QPoint p = pixel(x, y);
        const auto seen = w.stage().measured_at({static_cast<double>(p.x()), static_cast<double>(p.y())});
        REQUIRE(seen);
        QTest::mouseClick(&w.stage(), Qt::LeftButton, Qt::NoModifier, p);
        return *seen;
    }
    void press(const char* name) { w.click(w.find<QPushButton>(name)); }
};

}  // namespace

TEST_CASE("ThePlaneOfARuleIsPickedLevelledAndFitted", "[window]") {
    OpenPlane s;
    s.press("rulePlaneThree");
    const Vec3 a = s.click(-1, 4), b = s.click(1, 4), c = s.click(0, 8);
    s.ready();
    for (const Vec3& p : {a, b, c}) CHECK(std::fabs(dot(p - s.at(), s.normal())) < 2e-3);
    CHECK(norm(s.normal()) == Approx(1).margin(1e-5));
    CHECK(s.normal().z > 0);  // above is above zero
    // Where the values end is seen in the stage.
    CHECK_FALSE(s.card().guides().empty());
    // Three places on one line are no plane: nothing is changed, and they are asked for again.
    const Vec3 before = s.normal();
    s.press("rulePlaneThree");
    s.click(0, 5);
    s.click(0, 5);
    s.click(0, 5);
    REQUIRE(s.w.settle());
    CHECK(s.normal() == before);
    s.press("rulePlaneLevel");
    const Vec3 level = s.click(0.5, 6);
    s.ready();
    CHECK(s.normal() == Vec3{0, 0, 1});
    CHECK(s.box("z") == Approx(level.z).margin(1e-3));
    // Of what is fenced.
    s.run("select.rectangle");
    s.drag({s.pixel(-1, 5), s.pixel(1, 8)});
    std::vector<Vec3> places;
    s.selection().for_each([&](std::uint64_t e) { places.push_back(s.cloud().position(e)); });
    const auto fitted = fit_plane(places);
    REQUIRE(fitted);
    s.run("select.rule");
    s.choose();
    s.press("rulePlaneSelection");
    s.ready();
    CHECK(norm(s.at() - fitted->point) < 2e-3);
    CHECK(norm(s.normal() - fitted->normal) < 1e-5);
}

TEST_CASE("BothReadingsOfARangeAreSpelledOutWithTheirNumbers", "[window]") {
    OpenPlane s;
    s.press("rulePlaneLevel");
    s.click(0.5, 6);
    s.ready();
    auto *inside = s.w.find<QRadioButton>("ruleInside"), *outside = s.w.find<QRadioButton>("ruleOutside");
    s.w.find<QDoubleSpinBox>("ruleLow")->setValue(0.2);
    s.w.find<QDoubleSpinBox>("ruleHigh")->setValue(1.5);
    REQUIRE(s.w.settle());
    const std::uint64_t within = s.w.site().selected(), of = s.w.item().shown();
    CHECK(within > 100);
    CHECK(inside->isChecked());
    CHECK(inside->accessibleName().contains("0.2 to 1.5 m"));
    CHECK(inside->accessibleName().contains(app::grouped(within)));
    CHECK(outside->accessibleName().contains("less than 0.2 or more than 1.5 m"));
    CHECK(outside->accessibleName().contains(app::grouped(of - within)));
    // Whole, within the card.
    for (const char* words : {"ruleInsideWords", "ruleOutsideWords"}) {
        auto* label = s.w.find<QLabel>(QString::fromLatin1(words));
        CHECK(label->text().contains(" points"));
        CHECK(label->heightForWidth(label->width()) <= label->height());
        CHECK(label->geometry().right() < s.card().width());
    }
    CHECK(inside->icon().pixmap(44, 12).toImage() != outside->icon().pixmap(44, 12).toImage());
    s.w.click(outside);
    REQUIRE(s.w.settle());
    CHECK(s.w.site().selected() == of - within);
    CHECK(inside->accessibleName().contains(app::grouped(within)));
    CHECK(outside->accessibleName().contains(app::grouped(of - within)));
}
