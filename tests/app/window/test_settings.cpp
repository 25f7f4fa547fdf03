// What the user sets: the unit of lengths, and the memory that may be used.

#include <catch2/catch.hpp>

#include <QCheckBox>
#include <QComboBox>
#include <QDialog>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QLineEdit>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QSettings>
#include <QSpinBox>
#include <QTimer>
#include <cmath>

#include "app/cards/work_card.h"
#include "app/look/lengths.h"
#include "app/window/settings_dialog.h"
#include "core/base/error.h"
#include "core/base/memory.h"
#include "core/select/growth.h"
#include "demo/ashmere.h"
#include "window_driver.h"

using namespace pristine;
using test::WindowDriver;

namespace {

// The first number after `before` in a text.
double number_after(const QString& text, const QString& before) {
    return text.section(before, 1).trimmed().section(' ', 0, 0).toDouble();
}

}  // namespace

TEST_CASE("LengthsAreShownAndTypedInTheUnitOfTheSiteAndTheDataStay", "[window]") {
    test::TemporaryFolder folder;
    demo::Options o;
    o.points = 60'000;
    demo::write_site(folder / "ashmere-lock", o);
    WindowDriver w(folder / "home");
    REQUIRE(w.open(folder / "ashmere-lock" / "chamber-station-1.las"));
    w.key(Qt::Key_1);
    REQUIRE(w.settle());
    REQUIRE(w.item().cloud->unit() == "m");
    const Vec3 before = w.item().cloud->position(5);
    const auto run = [&](const char* command) {
        w.window().commands().trigger(command);
        REQUIRE(w.settle());
    };
    auto* reach = w.find<QDoubleSpinBox>("reach");
    reach->setValue(0.1);
    run("select.rectangle");
    const Vec3 origin = demo::kSiteOrigin;
    const auto pixel = [&](double x, double y) {
        return w.point(w.stage().frame().project({origin.x + x, origin.y + y, origin.z}));
    };
    w.drag(Qt::LeftButton, pixel(-0.3, 10), pixel(0.3, 10.6));
    REQUIRE(w.settle());
    const ElementSet first = *w.site().selection_in_work();
    const QString in_metres = w.find<QLabel>("decisionDetail")->text();
    CHECK(in_metres.contains(" m"));
    CHECK(reach->suffix() == " m");
    const auto hover = [&] {  // sent straight to the stage: the real pointer may be anywhere
        const QPoint p = pixel(0, 10);
        QMouseEvent e(QEvent::MouseMove, p, w.stage().mapToGlobal(p), Qt::NoButton, Qt::NoButton,
                      Qt::NoModifier);
        QApplication::sendEvent(&w.stage(), &e);
    };
    hover();
    const QString metres_at = w.find<QLabel>("position")->text();

    run("view.unit_ft");
    CHECK(reach->suffix() == " ft");
    CHECK(reach->value() == Approx(0.1 / 0.3048).margin(0.0006));
    const QString in_feet = w.find<QLabel>("decisionDetail")->text();
    CHECK(in_feet.contains(" ft"));
    CHECK(number_after(in_feet, "H ") == Approx(number_after(in_metres, "H ") / 0.3048).margin(0.03));
    hover();
    const QString feet_at = w.find<QLabel>("position")->text();
    CHECK(feet_at.endsWith(" ft"));
    CHECK(number_after(feet_at, "E ") == Approx(number_after(metres_at, "E ") / 0.3048).margin(0.2));

    // What is typed in feet is applied to data in metres.
    reach->setValue(0.5);
    run("select.grow");
    const double step = std::round(0.5 * 1e3) / 1e3 * 0.3048;
    CHECK(*w.site().selection_in_work() ==
          select::grown(*w.item().cloud, first, ElementSet::all(w.item().cloud->size()), step));

    run("view.unit_mm");
    CHECK(reach->suffix() == " mm");
    CHECK(reach->value() == Approx(152.4));
    run("view.unit_usft");
    CHECK(reach->suffix() == " US ft");
    // Undone like anything else, and never a change of the data.
    w.window().commands().trigger("edit.undo");
    w.window().commands().trigger("edit.undo");
    REQUIRE(w.settle());
    CHECK(w.site().unit == "ft");
    const Vec3 after = w.item().cloud->position(5);
    CHECK(after == before);
    w.close();
}

TEST_CASE("TheMemoryBudgetIsSetInTheSettingsAndKept", "[window]") {
    test::TemporaryFolder folder;
    const std::uint64_t before = memory_budget();
    {
        WindowDriver w(folder / "home");
        bool seen = false;
        QTimer::singleShot(0, [&] {
            auto* dialog = qobject_cast<QDialog*>(QApplication::activeModalWidget());
            if (!dialog) return;
            seen = true;
            auto* memory = dialog->findChild<QDoubleSpinBox*>("settings_memory");
            CHECK(memory->value() == Approx(static_cast<double>(before) / (1u << 30)).margin(0.01));
            memory->setValue(1.5);
            QTest::keyClick(dialog, Qt::Key_Return);
        });
        w.window().commands().trigger("site.settings");
        CHECK(seen);
        CHECK(memory_budget() == std::uint64_t{3} << 29);
        w.close();
    }
    set_memory_budget(before);
    app::apply_preferences();  // what the next start does
    CHECK(memory_budget() == std::uint64_t{3} << 29);
    QSettings().remove("preferences");
    app::apply_preferences();
    set_memory_budget(before);
}

TEST_CASE("NumbersAreFollowedByTheRightWords", "[window]") {
    const auto said = [](int n) { return QObject::tr("%n piece(s) of %1", "", n).arg("stone"); };
    CHECK(said(0) == "0 pieces of stone");
    CHECK(said(1) == "1 piece of stone");
    CHECK(said(12) == "12 pieces of stone");
    // Texts without a number stay as they are, brackets and all.
    CHECK(QObject::tr("layer(s)") == "layer(s)");
}

TEST_CASE("SettingsOfPersonMouseDigitsAndReasonsHoldAtOnceAndGoToAnotherMachine", "[window]") {
    test::TemporaryFolder folder;
    demo::Options o;
    o.points = 20'000;
    demo::write_site(folder / "ashmere-lock", o);
    const app::Preferences usual = app::preferences();
    WindowDriver w(folder / "home");
    REQUIRE(w.open(folder / "ashmere-lock" / "chamber-station-1.las"));
    app::SettingsDialog dialog;
    dialog.findChild<QLineEdit*>("settings_person")->setText("Ada Löwe");
    dialog.findChild<QPlainTextEdit*>("settings_reasons")->setPlainText("Gerüst\n\n Baum ");
    dialog.findChild<QSpinBox*>("settings_digits")->setValue(2);
    dialog.findChild<QCheckBox*>("settings_wheel")->setChecked(true);
    dialog.findChild<QCheckBox*>("settings_middle")->setChecked(true);
    dialog.findChild<QLineEdit*>("settings_scratch")->setText(QString::fromStdString(folder.path().string()));
    app::Preferences coded = dialog.shown();
    coded.codes.rules = {{"KERB", site::CodeRole::Breakline}, {"BDY", site::CodeRole::Boundary}};
    coded.codes.close = "Z";
    dialog.show_preferences(coded);
    CHECK(dialog.findChild<QLabel*>("settings_codes")->text().startsWith("2 codes"));
    dialog.export_to(folder / "mine.json");
    dialog.accept();
    CHECK(site::Signature::now().who == "Ada Löwe");
    if (!std::getenv("PRISTINE_SCRATCH")) CHECK(scratch_folder() == folder.path());
    CHECK(app::Lengths(w.site()).number(1) == "1.0000");
    w.document().apply("Touch", [](const site::Site& s) { return site::rename_item(s, s.active, "Kammer"); });
    auto* reasons = w.find<QComboBox>("reason");
    REQUIRE(reasons->count() == 2);
    CHECK(reasons->itemText(1) == "Baum");
    // The wheel towards oneself comes nearer, the middle button turns.
    const QPoint middle = w.stage().rect().center();
    const auto wheel = [&](int by) {
        QWheelEvent e(middle, w.stage().mapToGlobal(middle), {}, {0, by}, Qt::NoButton, Qt::NoModifier,
                      Qt::NoScrollPhase, false);
        QApplication::sendEvent(&w.stage(), &e);
        REQUIRE(w.settle());
    };
    const auto distance = [&] {
        return norm(w.stage().camera().eye - w.item().cloud->robust_bounds().centre());
    };
    const double far = distance();
    wheel(-120);
    CHECK(distance() < far);
    const double yaw = w.stage().camera().yaw_deg;
    w.drag(Qt::RightButton, middle, middle + QPoint(60, 0));
    CHECK(w.stage().camera().yaw_deg == yaw);
    w.drag(Qt::MiddleButton, middle, middle + QPoint(60, 0));
    CHECK(w.stage().camera().yaw_deg != yaw);
    // On another machine.
    app::set_preferences(usual);
    app::SettingsDialog other;
    CHECK(other.findChild<QLineEdit*>("settings_person")->text() == usual.person);
    other.import_from(folder / "mine.json");
    CHECK(other.shown().person == "Ada Löwe");
    CHECK(other.shown().reasons == QStringList{"Gerüst", "Baum"});
    CHECK(other.shown().turn_with_middle);
    CHECK(other.shown().codes == coded.codes);
    CHECK(other.shown().scratch == coded.scratch);
    QTest::mouseClick(other.findChild<QPushButton*>("settings_codes_forget"), Qt::LeftButton);
    CHECK(other.shown().codes.rules.empty());
    // A folder that is not there is passed over.
    set_scratch_folder(folder / "gone");
    CHECK(scratch_folder() != folder / "gone");
    set_scratch_folder({});
    test::write_file(folder / "not.json", "{}");
    CHECK_THROWS_AS(other.import_from(folder / "not.json"), Error);
    // Out of its limits: brought to them.
    const app::Preferences odd = app::read_preferences(
        R"({"pristine_settings": 1, "turning": 1e9, "more_digits": -4, "sagitta_m": "wide"})");
    CHECK(odd.turning == 10);
    CHECK(odd.more_digits == 0);
    CHECK(odd.sagitta_m == 0.01);
    CHECK_THROWS_AS(app::read_preferences(R"({"pristine_settings": 2})"), Error);
    other.reject();
    QSettings().remove("preferences");
    app::apply_preferences();
    CHECK(site::Signature::now().who != "Ada Löwe");
    w.close();
}
