// Marks in a site, in its project file, and in files for others.

#include "core/site/marks.h"

#include <gdal_priv.h>
#include <ogrsf_frmts.h>
#include <catch2/catch.hpp>

#include <cmath>
#include <random>
#include <sstream>

#include "core/base/error.h"
#include "core/io/marks_file.h"
#include "core/measure/height_above.h"
#include "core/store/kept_marks.h"
#include "core/store/project.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

std::vector<Vec3> places_for(MarkKind k, std::mt19937_64& dice) {
    std::uniform_real_distribution<double> any(0, 40);
    const MarkPlaces n = places_of(k);
    std::vector<Vec3> p;
    // A ring that does not cross itself, whatever the kind.
    const std::size_t count = n.most > 0 ? n.least : n.least + dice() % 5;
    for (std::size_t i = 0; i < count; ++i) {
        const double a = 6.28 * static_cast<double>(i) / static_cast<double>(count);
        p.push_back({412300 + 20 * std::cos(a), 5218930 + 20 * std::sin(a), 58 + 0.01 * any(dice)});
    }
    return p;
}

site::Mark any_mark(std::mt19937_64& dice) {
    site::Mark m;
    m.kind = static_cast<MarkKind>(dice() % kMarkKinds);
    m.name = "Gauge \"Süd\", " + std::to_string(dice() % 100);
    if (dice() % 2) m.note = "read twice; 3 mm apart";
    m.visible = dice() % 3 != 0;
    m.points = places_for(m.kind, dice);
    return m;
}

}  // namespace

TEST_CASE("MarksComeBackFromTheProjectAsTheyWere") {
    const auto seed = test::seed_for("marks in a project");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    const test::TemporaryFolder f;
    const auto cloud = test::random_cloud(5000, test::Shape::Clusters, dice());
    site::History h(std::make_shared<const site::Site>());
    h.commit(site::add_cloud(*h.now(), cloud, "Basin", "basin.las"), "Open");
    for (int k = 0; k < 12; ++k) {
        site::Mark m = any_mark(dice);
        if (m.kind == MarkKind::Above) {
            m.over = h.now()->active;
            m.stamp = dice() % 2 ? 1 : 0;  // not what the item has: out of date
        }
        h.commit(site::put_mark(*h.now(), m), "Mark");
    }
    h.commit(site::drop_mark(*h.now(), h.now()->marks[3]->id), "Drop");
    {
        const auto project = store::Project::create(f / "a.pristine");
        for (const site::Commit& c : h.commits()) project->write(c);
    }
    {
        const auto project = store::Project::open(f / "a.pristine");
        const site::History read = project->load();
        REQUIRE(read.now()->marks.size() == h.now()->marks.size());
        for (std::size_t k = 0; k < read.now()->marks.size(); ++k)
            CHECK(*read.now()->marks[k] == *h.now()->marks[k]);
    }
    // Without opening it the same marks are told, and which are out of date.
    const store::KeptMarks kept = store::kept_marks(f / "a.pristine");
    REQUIRE(kept.marks.size() == h.now()->marks.size());
    for (std::size_t k = 0; k < kept.marks.size(); ++k) {
        CHECK(kept.marks[k].points == h.now()->marks[k]->points);
        CHECK(kept.marks[k].stale == site::why_stale(*h.now(), *h.now()->marks[k]));
        CHECK(kept.marks[k].over == (h.now()->marks[k]->over != 0 ? "Basin" : ""));
    }
    // Undone, they are those of before.
    {
        const auto project = store::Project::open(f / "a.pristine");
        project->set_cursor(3);
    }
    CHECK(store::kept_marks(f / "a.pristine").marks.size() <= 3);
}

TEST_CASE("MarksAreRefusedRatherThanKeptWithoutAFigure") {
    site::Site s;
    site::Mark m;
    m.kind = MarkKind::Angle;
    m.points = {{0, 0, 0}, {1, 0, 0}};
    CHECK_THROWS_AS(site::put_mark(s, m), Error);
    m.id = 7;
    m.points.push_back({1, 1, 0});
    CHECK_THROWS_AS(site::put_mark(s, m), Error);
    CHECK_THROWS_AS(site::drop_mark(s, 7), Error);
}

TEST_CASE("MarksAreWrittenWithTheirFigures") {
    const auto seed = test::seed_for("marks in files");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    const test::TemporaryFolder f;
    std::vector<io::WrittenMark> marks;
    for (int k = 0; k < 20; ++k) {
        const site::Mark m = any_mark(dice);
        marks.push_back({m.kind, m.name, m.note, m.points});
    }
    marks.push_back({MarkKind::Above,
                     "Bank",
                     "",
                     {{412300, 5218930, 61.5}, {412300, 5218930, 58.25}},
                     "Floor",
                     "Floor changed"});
    const cloud::Reference in{"EPSG:25832", "m", {}};
    for (const char* ending : {"geojson", "gpkg"}) {
        CAPTURE(ending);
        const auto path = f / (std::string("marks.") + ending);
        io::write_marks(marks, path, false, in);
        CHECK_THROWS_AS(io::write_marks(marks, path, false, in), Error);  // it is there
        io::write_marks(marks, path, true, in);
        GDALAllRegister();
        const std::unique_ptr<GDALDataset> set(GDALDataset::Open(path.c_str(), GDAL_OF_VECTOR));
        REQUIRE(set);
        OGRLayer* layer = set->GetLayer(0);
        REQUIRE(layer->GetFeatureCount() == static_cast<GIntBig>(marks.size()));
        for (const io::WrittenMark& m : marks) {
            const std::unique_ptr<OGRFeature> feature(layer->GetNextFeature());
            CHECK(feature->GetFieldAsString("name") == m.name);
            CHECK(feature->GetFieldAsString("kind") == std::string(id_of(m.kind)));
            for (const MarkFigure& fig : mark_figures(m.kind, m.points))
                CHECK(feature->GetFieldAsDouble(fig.id) == Approx(fig.value).epsilon(1e-9).margin(1e-9));
            CHECK(feature->GetFieldAsString("unit") == std::string("m"));
            const auto type = wkbFlatten(feature->GetGeometryRef()->getGeometryType());
            CHECK(type == (m.kind == MarkKind::Point  ? wkbPoint
                           : m.kind == MarkKind::Area ? wkbPolygon
                                                      : wkbLineString));
        }
    }
    // A table: as many cells in each row, and a height with its unit and what it rests on.
    io::write_marks(marks, f / "marks.csv", false, in);
    const std::string table = test::read_file(f / "marks.csv");
    CHECK(table.find("above [m]") != std::string::npos);
    CHECK(table.find("\"Gauge \"\"S") != std::string::npos);
    CHECK(table.find("3.2500") != std::string::npos);
    CHECK(table.find("\"Floor\",\"Floor changed\"") != std::string::npos);
    std::istringstream rows(table);
    std::string row;
    std::size_t cells = 0, lines = 0;
    while (std::getline(rows, row)) {
        std::size_t n = 1;
        bool quoted = false;
        for (const char c : row) {
            if (c == '"') quoted = !quoted;
            n += c == ',' && !quoted;
        }
        if (lines++ == 0) cells = n;
        REQUIRE(n == cells);
    }
    CHECK(lines == marks.size() + 1);
    // A drawing has a text for each.
    io::write_marks(marks, f / "marks.dxf", false, in);
    const std::string dxf = test::read_file(f / "marks.dxf");
    CHECK(dxf.find("Bank:\\~3.25") != std::string::npos);
    CHECK(dxf.find("marks-above") != std::string::npos);
    // Without a unit the headings say so.
    io::write_marks(marks, f / "bare.csv", false, {});
    CHECK(test::read_file(f / "bare.csv").find("above [unit not set]") != std::string::npos);
    CHECK_THROWS_AS(io::write_marks(marks, f / "marks.las", false, in), Error);
}
