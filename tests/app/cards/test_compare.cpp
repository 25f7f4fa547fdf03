// Surveys with their deviations, and what the measure board says of two of them: by mouse and keys.

#include <catch2/catch.hpp>

#include <QApplication>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTimer>
#include <QTreeWidget>

#include "app/cards/measure_card.h"
#include "app/panes/survey_dialog.h"
#include "core/io/mesh/mesh_io.h"
#include "core/surface/definition.h"
#include "surface_sites.h"
#include "window_driver.h"

using namespace pristine;
using test::WindowDriver;

namespace {

// A plane of 20 x 20 at height 1, and a later one: 1 m higher in its west half, 0.01 m in its east half.
mesh::TriMesh plane(bool later) {
    return test::field(20, 20, [&]([[maybe_unused]] int i, [[maybe_unused]] int j) {
        return !later ? 1.0 : i <= 10 ? 2.0 : 1.01;
    });
}

site::Line square(const char* name, double x0, double y0, double x1, double y1) {
    site::Line l;
    l.name = name;
    l.points = {{x0, y0, 0}, {x1, y0, 0}, {x1, y1, 0}, {x0, y1, 0}};
    l.closed = true;
    return l;
}

struct TwoDates {
    test::TemporaryFolder folder;
    WindowDriver w;
    TwoDates() : w(folder / "home") {
        io::write_mesh(plane(false), folder / "yard 2026-03-02.ply", false, "m");
        io::write_mesh(plane(true), folder / "yard 2026-05-11.ply", false, "m");
        REQUIRE(w.open(folder / "yard 2026-03-02.ply"));
        REQUIRE(w.open(folder / "yard 2026-05-11.ply", 2));
        REQUIRE(w.site().active == w.site().items[1]->id);
    }
    ~TwoDates() { w.close(); }
    QString text(const char* label) {
        return w.find<QLabel>(QString::fromLatin1(label))->text().replace("&nbsp;", " ");
    }
    void choose(const char* combo, const QString& words) {
        auto* c = w.find<QComboBox>(QString::fromLatin1(combo));
        REQUIRE(c);
        const int row = c->findText(words, Qt::MatchStartsWith);
        CAPTURE(words.toStdString());
        REQUIRE(row >= 0);
        c->setCurrentIndex(row);
        emit c->activated(row);
    }
    void press(const char* button) {
        auto* b = w.find<QPushButton>(QString::fromLatin1(button));
        REQUIRE((b && b->isVisible() && b->isEnabled()));
        w.click(b);
        REQUIRE(w.settle());
    }
    void compare() {
        w.window().commands().trigger("tools.measure");
        choose("measureBase", "another surface");
        wait_for_figures();
    }
    void wait_for_figures() {
        REQUIRE(w.wait([&] {
            const auto* f = w.window().findChild<app::MeasureCard*>()->figures();
            return f && f->difference && !w.window().jobs().busy();
        }));
    }
    const app::Measured& figures() { return *w.window().findChild<app::MeasureCard*>()->figures(); }
};

}  // namespace

TEST_CASE("ASurveyIsAddedInATableAndItsDeviationsGoIntoCutAndFill", "[window]") {
    TwoDates s;
    s.w.window().commands().trigger("view.surveys");
    s.press("surveyDates");
    REQUIRE(s.w.site().surveys.size() == 2);
    CHECK(s.w.site().items[1]->survey == s.w.site().surveys[1].id);
    auto* rows = s.w.find<QTreeWidget>("surveyRows");
    REQUIRE(rows->topLevelItemCount() == 2);
    CHECK(rows->topLevelItem(0)->text(5) == "Yard 2026 03 02");
    // The later one by the dialog, with keys.
    QTest::mouseClick(rows->viewport(), Qt::LeftButton, Qt::NoModifier,
                      rows->visualItemRect(rows->topLevelItem(1)).center());
    bool asked = false;
    QTimer::singleShot(100, [&] {
        auto* dialog = qobject_cast<app::SurveyDialog*>(QApplication::activeModalWidget());
        REQUIRE(dialog);
        asked = true;
        auto* take = dialog->findChild<QPushButton*>("surveyTake");
        auto* date = dialog->findChild<QLineEdit*>("surveyDate");
        date->setText("11.5.2026");
        CHECK_FALSE(take->isEnabled());
        CHECK(dialog->findChild<QLabel*>("surveyWhy")->text().contains("11.5.2026"));
        date->setText("2026-05-11");
        CHECK(take->isEnabled());
        dialog->findChild<QLineEdit*>("surveyName")->setText("Mai");
        dialog->findChild<app::LengthBox*>("surveyNoise")->setValue(0.02);
        dialog->findChild<app::LengthBox*>("surveySystematic")->setValue(0.03);
        QTest::mouseClick(take, Qt::LeftButton);
    });
    s.press("surveyChange");
    REQUIRE(asked);
    CHECK(s.w.site().surveys[1].name == "Mai");
    CHECK(s.w.site().surveys[1].noise == Approx(0.02));
    CHECK(rows->topLevelItem(1)->text(0) == "Mai");

    s.compare();
    const measure::Difference& d = *s.figures().difference;
    CHECK(s.figures().later.noise == Approx(0.02));
    CHECK(s.figures().later.systematic == Approx(0.03));
    CHECK(s.figures().earlier.systematic == 0);
    CHECK(d.sigma_net > 0.03 * 400);
    CHECK(s.text("measureVolumes").contains("later 0.020 m"));
    CHECK(s.text("measureVolumes").contains("of the survey Mai"));
    CHECK(s.text("measureVolumes").contains("by local fits"));
    CHECK(s.text("measureVolumes").contains(QChar(0xB1)));
    // A survey that changes changes the figures.
    site::Survey better = s.w.site().surveys[1];
    better.systematic = 0;
    s.w.document().apply("Better", [&](const site::Site& now) { return site::put_survey(now, better); });
    s.wait_for_figures();
    REQUIRE(s.w.wait([&] { return s.figures().later.systematic == 0; }));
    CHECK(s.figures().difference->sigma_net < 0.03 * 400);
}

TEST_CASE("WorkAreasAreATableBesideTheWholeAndABandIsProposedAndMapped", "[window]") {
    TwoDates s;
    s.w.document().apply("Lines", [&](const site::Site& now) {
        return site::put_lines(now, {square("Hof Süd", 1, 1, 6, 6), square("stack", 12, 2, 18, 18)});
    });
    s.compare();
    s.choose("measureWithin", "each closed line");
    REQUIRE(s.w.wait([&] {
        const auto* f = s.w.window().findChild<app::MeasureCard*>()->figures();
        return f && f->areas && !s.w.window().jobs().busy();
    }));
    auto* rows = s.w.find<QTreeWidget>("measureAreas");
    REQUIRE(rows->isVisible());
    REQUIRE(rows->topLevelItemCount() == 5);
    CHECK(rows->topLevelItem(0)->text(0) == "Hof Süd");
    CHECK(rows->topLevelItem(0)->text(2).startsWith("25.00"));
    CHECK(rows->topLevelItem(2)->text(0) == "all areas");
    CHECK(s.text("measureAreasSaid").startsWith("Checked"));
    CHECK(s.figures().areas->mismatch < 1e-9);
    s.w.window().findChild<app::MeasureCard*>()->save_areas(s.folder / "areas.csv");
    const std::string csv = test::read_file(s.folder / "areas.csv");
    CHECK(csv.find("\"Hof Süd\",25.00,25.00,0.00,") != std::string::npos);
    CHECK(std::count(csv.begin(), csv.end(), '\n') == 6);
    // A band that is proposed leaves the east half out, and is a class of the map.
    s.w.find<app::LengthBox>("measureNoise")->setValue(0.01);
    s.wait_for_figures();
    s.press("measurePropose");
    s.wait_for_figures();
    CHECK(s.w.find<app::LengthBox>("measureBand")->in_data() == Approx(0.042));
    CHECK(s.figures().band == Approx(0.042));
    CHECK(s.figures().difference->unchanged_area > 170);
    // Pinned figures stay beside the next.
    const double net = s.figures().difference->net();
    s.press("measurePin");
    s.choose("measureWithin", "Hof Süd");
    s.wait_for_figures();
    CHECK(s.figures().difference->net() != Approx(net));
    CHECK(s.text("measurePinned").contains("now more by"));
    CHECK(s.text("measurePinned").contains("Yard 2026 03 02"));
    CHECK_FALSE(rows->isVisible());
    s.press("measurePin");
    CHECK_FALSE(s.w.find<QLabel>("measurePinned")->isVisible());
    s.choose("measureWithin", "everything");
    s.wait_for_figures();
    const QImage before = s.w.stage_picture();
    s.press("measureMap");
    REQUIRE(s.w.wait([&] { return s.w.site().items.size() == 3 && !s.w.window().jobs().busy(); }));
    REQUIRE(s.w.settle());
    const std::vector<double>& classes = s.w.site().items[2]->style.classes;
    REQUIRE(classes.size() == 8);
    CHECK(classes[3] == Approx(-0.042));
    CHECK(classes[4] == Approx(0.042));
    CHECK(s.w.stage_picture() != before);
}
