// Lists of survey points: columns of words, lines that are no points, and LandXML with several surfaces.

#include <fmt/format.h>
#include <catch2/catch.hpp>

#include <algorithm>
#include <random>

#include "core/base/error.h"
#include "core/io/cloud_io.h"
#include "core/io/lines/lines.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/io/mesh/mesh_io.h"
#include "core/io/text/text.h"
#include "core/measure/figures.h"
#include "core/recipe/recipe.h"
#include "core/site/site.h"
#include "core/store/project.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

std::string word_at(const cloud::PointCloud& c, std::uint64_t record, const char* column) {
    const auto records = c.records();
    std::vector<std::byte> r(records->layout().record_bytes);
    records->read(record, r);
    const cloud::Field& f = *records->layout().find(column);
    return word_of(f, value(f, r.data()));
}

io::ReadResult read(const test::TemporaryFolder& f, const std::string& name, const std::string& text,
                    const std::vector<std::string>& columns = {}) {
    test::write_file(f / name, text);
    io::ReadOptions options;
    if (!columns.empty()) {
        options.text = io::TextReading{};
        options.text->columns = columns;
        options.text->guess_shape = true;
    }
    return io::read_cloud(f / name, options);
}

const char* const kTwoSurfaces = R"(<?xml version="1.0"?>
<lx:LandXML xmlns:lx="http://www.landxml.org/schema/LandXML-1.2" version="1.2">
<lx:Units><lx:Imperial linearUnit="USSurveyFoot"/></lx:Units>
<lx:CoordinateSystem epsgCode="2277"/>
<lx:CgPoints><lx:CgPoint name="A1" code="TOE">10 20 5</lx:CgPoint><lx:CgPoint name="A2" code="CREST">11 21 6</lx:CgPoint></lx:CgPoints>
<lx:Surfaces>
<lx:Surface name="Existing &amp; old"><lx:SourceData><lx:Breaklines><lx:Breakline name="toe"><lx:PntList3D>0 0 1 10 10 1</lx:PntList3D></lx:Breakline></lx:Breaklines></lx:SourceData>
<lx:Definition surfType="TIN"><lx:Pnts><lx:P id="1">0 0 1</lx:P><lx:P id="2">0 10 1</lx:P><lx:P id="3">10 10 1</lx:P><lx:P id="4">10 0 1</lx:P></lx:Pnts>
<lx:Faces><lx:F>1 2 3</lx:F><lx:F>1 3 4</lx:F></lx:Faces></lx:Definition></lx:Surface>
<lx:Surface name="Design"><lx:Definition surfType="TIN"><lx:Pnts><lx:P id="1">0 0 5</lx:P><lx:P id="2">0 10 5</lx:P><lx:P id="3">10 10 5</lx:P></lx:Pnts>
<lx:Faces><lx:F>1 2 3</lx:F></lx:Faces></lx:Definition></lx:Surface>
<lx:Surface name="Spots"><lx:SourceData><lx:DataPoints><lx:PntList3D>1 2 3 4 5 6 7 8 9</lx:PntList3D></lx:DataPoints></lx:SourceData></lx:Surface>
</lx:Surfaces></lx:LandXML>)";

}  // namespace

TEST_CASE("NamesAndCodesOfAListAreKeptAsWords") {
    const test::TemporaryFolder f;
    const auto r = read(f, "a.csv",
                        "Point,Easting,Northing,Elevation,Code,Date\n"
                        "A1,4000.0,5000.0,100.0,TOE,2026-10-05\n"
                        "A2,4001.0,5000.0,100.5,\"CREST, left\",2026-10-05\n"
                        "Böschung,4002.0,5001.0,101.0,12,2026-10-06\n"
                        "4,4003.0,5001.0,101.0\n");
    CHECK(r.warnings.empty());
    REQUIRE(r.cloud->size() == 4);
    CHECK(word_at(*r.cloud, 1, "code") == "CREST, left");
    CHECK(word_at(*r.cloud, 2, "point") == "Böschung");
    CHECK(word_at(*r.cloud, 2, "date") == "2026-10-06");
    CHECK(word_at(*r.cloud, 3, "code").empty());  // a code may be missing
    // Into text with the words, and back; into LAS without, and it is said.
    io::write_cloud({{r.cloud}}, f / "b.csv");
    const auto back = io::read_cloud(f / "b.csv").cloud;
    for (std::uint64_t k = 0; k < 4; ++k)
        for (const char* column : {"point", "code", "date"})
            CHECK(word_at(*back, k, column) == word_at(*r.cloud, k, column));
    io::write_cloud({{r.cloud}}, f / "b.las");
    CHECK(io::read_cloud(f / "b.las").cloud->records()->layout().find("code") == nullptr);
    CHECK(io::lost_in({{r.cloud}}, f / "b.las").size() == 1);
    CHECK(io::lost_in({{r.cloud}}, f / "b.csv").empty());
    // A project keeps them.
    site::History history(site::add_cloud(site::Site{}, r.cloud, "List", ""));
    store::Project::create(f / "a.pristine")->write(history.current(), Progress::none());
    const auto stored = store::Project::open(f / "a.pristine")->load(Progress::none()).now()->items[0]->cloud;
    CHECK(word_at(*stored, 1, "code") == "CREST, left");
}

// A code is a rule like any other: by word, by all other words, in a recipe, on another list.
TEST_CASE("WordsOfAListAreTakenByARule") {
    const test::TemporaryFolder folder;
    std::mt19937_64 random(std::random_device{}());
    const std::vector<std::string> codes{"TOE", "TREE", "\"TOE, east\"", "pipe", "Höhe"};
    std::string text;
    std::vector<std::size_t> of;
    for (int i = 0; i < 3000; ++i) {
        of.push_back(random() % codes.size());
        text += fmt::format("{} {} {} {} {}\n", i, i % 17, i % 5, codes[of.back()], i % 7);
    }
    const auto cloud = read(folder, "list.txt", text, {"x", "y", "z", "code", "height2"}).cloud;
    const ElementSet all = ElementSet::all(cloud->size());
    const auto taken = [&](const std::string& rule) {
        const score::Step step = score::parse_step(rule);
        // What a rule says is what is read back, as text and as a recipe.
        CHECK(score::text_of(score::parse_step(score::text_of(step))) == score::text_of(step));
        const score::Recipe recipe = score::recipe_from_json(score::json_of({step}));
        CHECK(recipe[0].words == step.words);
        CHECK(recipe[0].limits.outside == step.limits.outside);
        CHECK(score::run({step}, *cloud, all)[0].elements == score::run(recipe, *cloud, all)[0].elements);
        return score::run({step}, *cloud, all)[0].elements.count();
    };
    const auto count = [&](std::size_t code) {
        return static_cast<std::uint64_t>(std::count(of.begin(), of.end(), code));
    };
    CHECK(taken("column \"code\" =TOE") == count(0));
    CHECK(taken("column \"code\" = TOE , TREE") == count(0) + count(1));
    CHECK(taken("column \"code\" =\"TOE, east\",Höhe") == count(2) + count(4));
    CHECK(taken("column \"code\" !=TOE") == 3000 - count(0));
    CHECK(taken("column \"code\" =nothing") == 0);
    CHECK(taken("column \"height2\" >=5") == 3000 / 7 * 2);
    score::Step inches = score::parse_step("column \"code\" =TOE");
    inches.words = {"12\" pipe", " a", "b,c"};
    CHECK(score::parse_step(score::text_of(inches)).words == inches.words);
    for (const char* wrong : {"column \"code\" =", "column \"code\" =TOE,,TREE", "column \"code\" =\"TOE"})
        CHECK_THROWS_AS(score::parse_step(wrong), Error);
    // A range of words and words of numbers are refused with a sentence, as is a column that is not there.
    for (const char* wrong : {"column =TOE", "column \"code\" >3", "height =TOE", "column \"height2\" =TOE",
                              "column \"length\" >3"})
        CHECK_THROWS_AS(score::run({score::parse_step(wrong)}, *cloud, all), Error);
}

TEST_CASE("OneBadLineNeverRefusesAList") {
    const test::TemporaryFolder f;
    std::string text = "x y z intensity\n";
    for (int i = 0; i < 500; ++i) {
        if (i == 17) text += "12.0 oops 3.0 5\n";
        if (i == 200) text += "end of block\n";
        if (i == 201) text += "1 2\n";
        text += std::to_string(i) + ".5 2.0 3.0 " + std::to_string(i) + "\n";
    }
    const auto r = read(f, "a.xyz", text);
    CHECK(r.cloud->size() == 500);
    REQUIRE(r.warnings.size() == 1);
    CHECK(r.warnings[0].find("3 of 503 lines are no point") != std::string::npos);
    CHECK(r.warnings[0].find("line 19 ('oops' in column 2 is no number)") != std::string::npos);
    // Most of it bad: it is something else.
    CHECK_THROWS_AS(read(f, "b.xyz", "1 2 3\nno point\nat all\nhere\n"), Error);
    // A list of one point.
    CHECK(read(f, "c.xyz", "1 2 3\n").cloud->size() == 1);
}

TEST_CASE("AListWhoseColumnsNobodyNamesIsAskedFor") {
    const test::TemporaryFolder f;
    const std::string list =
        "1,5000.00,4000.00,100.0,TOE\n2,5001.00,4000.00,100.5,TOE\n3,5002.00,4001.00,101.0\n";
    CHECK_THROWS_AS(read(f, "a.csv", list), Error);
    const auto r = read(f, "a.csv", list, {"point", "y", "x", "z", "code"});
    REQUIRE(r.cloud->size() == 3);
    CHECK(r.cloud->bounds().lo.x == Approx(4000));
    CHECK(word_at(*r.cloud, 0, "code") == "TOE");
    bool sure = true;
    const io::TextReading guess = io::reading_of(io::guess_text(list, "a.csv"), sure);
    CHECK_FALSE(sure);
    CHECK(guess.columns == std::vector<std::string>{"point", "x", "y", "z", "code"});
    const auto german = read(f, "b.txt", "P1;5000,00;4000,00;100,0;TOE\nP2;5001,00;4000,00;100,5;KR\n",
                             {"point", "y", "x", "z", "code"});
    CHECK(german.cloud->bounds().hi.z == Approx(100.5));
}

TEST_CASE("SeveralSurfacesOfALandXmlAreSeveralItems") {
    const test::TemporaryFolder f;
    test::write_file(f / "a.xml", kTwoSurfaces);
    const auto items = io::read_items(f / "a.xml");
    REQUIRE(items.size() == 4);
    CHECK(items[0].name == "Existing & old");
    CHECK(items[1].name == "Design");
    CHECK(items[2].name == "Spots");
    CHECK(items[3].name == "Survey points");
    for (const auto& i : items) CHECK(i.cloud->reference() == cloud::Reference{"EPSG:2277", "usft", ""});
    CHECK(measure::figures(*items[0].cloud->triangles()).plan_area == Approx(100));
    CHECK(measure::figures(*items[1].cloud->triangles()).plan_area == Approx(50));
    CHECK(items[2].cloud->size() == 3);
    CHECK(items[2].cloud->bounds().lo.x == Approx(2));  // northing is written first
    CHECK(word_at(*items[3].cloud, 1, "code") == "CREST");
    CHECK_THROWS_AS(io::read_cloud(f / "a.xml"), Error);
    io::ReadOptions options;
    options.item = "Design";
    CHECK(io::read_cloud(f / "a.xml", options).cloud->size() == 1);
    options.item = "No such";
    CHECK_THROWS_AS(io::read_cloud(f / "a.xml", options), Error);
    CHECK_THROWS_AS(io::read_mesh(f / "a.xml"), Error);
    const auto lines = io::read_lines(f / "a.xml");
    REQUIRE(lines.size() == 1);
    CHECK(lines[0].layer == "breakline of Existing & old, toe");
}
