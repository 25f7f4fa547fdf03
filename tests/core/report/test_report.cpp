// A report in four formats: the same words and digits in each, and those of measure/.

#include <catch2/catch.hpp>

#include <cstdio>
#include <nlohmann/json.hpp>
#include <sstream>

#include "core/base/error.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/measure/areas.h"
#include "core/report/compose.h"
#include "core/report/pages.h"
#include "core/report/report_site.h"
#include "core/surface/clip.h"
#include "render/report_pictures.h"

using namespace pristine;
using namespace pristine::report;
using nlohmann::json;

namespace {

Material material(const site::SitePtr& s, bool pictures = true) {
    Material m;
    m.site = s;
    m.program = "Pristine Cloud test";
    m.date = "2026-06-10";
    m.dpi = 60;
    if (pictures) m.draw = render::picture_of;
    return m;
}

// Everything on but what takes long.
Setup whole_setup(const site::Site& s) {
    Setup setup = proposed(s);
    for (PartSetup& p : setup.parts) p.on = p.kind != "tunnel";
    setup.client = "Canal <Trust> & Sons";
    setup.office = "Hale Surveys";
    setup.surveyor = "M. Hale";
    return setup;
}

std::string output_of(const std::string& command) {
    std::string out;
    FILE* pipe = ::popen(command.c_str(), "r");
    REQUIRE(pipe);
    char buffer[4096];
    for (std::size_t n = 0; (n = std::fread(buffer, 1, sizeof buffer, pipe)) > 0;) out.append(buffer, n);
    REQUIRE(::pclose(pipe) == 0);
    return out;
}

std::string squeezed(const std::string& text) {
    std::string out;
    for (std::size_t k = 0; k < text.size(); ++k) {
        const auto c = static_cast<unsigned char>(text[k]);
        if (c == 0xC2 && k + 1 < text.size() && static_cast<unsigned char>(text[k + 1]) == 0xA0) {
            ++k;  // a space that does not break
            continue;
        }
        if (!std::isspace(c)) out += text[k];
    }
    return out;
}

std::vector<Table> tables_of(const Report& r) {
    std::vector<Table> out;
    for (const Part& p : r.parts)
        for (const Block& b : p.blocks)
            if (const auto* t = std::get_if<Table>(&b)) out.push_back(*t);
    return out;
}

std::string unescaped(std::string text) {
    for (const auto& [from, to] : {std::pair{"&lt;", "<"}, {"&gt;", ">"}, {"&quot;", "\""}, {"&amp;", "&"}})
        for (std::size_t at = 0; (at = text.find(from, at)) != std::string::npos; ++at)
            text.replace(at, std::string(from).size(), to);
    return text;
}

const Table& table(const Report& r, const std::string& id) {
    for (const Part& p : r.parts)
        for (const Block& b : p.blocks)
            if (const auto* t = std::get_if<Table>(&b); t && t->id == id) return *t;
    FAIL("no table " + id);
    throw 0;
}

}  // namespace

TEST_CASE("AReportSaysTheSameInEveryFormat") {
    const test::TemporaryFolder folder;
    const site::SitePtr s = test::report_site();
    const Report r = compose(material(s), whole_setup(*s));
    const Pages pages = pages_of(r, {});
    test::write_file(folder / "r.pdf", pdf_of(r, pages));
    const std::string pdf =
        squeezed(output_of("pdftotext -raw " + (folder / "r.pdf").string() + " - | tr -d '\\f'"));
    const std::string html = squeezed(unescaped(html_of(r))), csv = squeezed(csv_of(r));
    const json j = json::parse(json_of(r));
    std::size_t figures = 0;
    for (const Table& t : tables_of(r)) {
        CAPTURE(t.id);
        for (const auto& row : t.rows)
            for (std::size_t c = 0; c < row.size(); ++c) {
                CAPTURE(row[c].text);
                std::string quoted = squeezed(row[c].text);
                CHECK(html.find(quoted) != std::string::npos);
                for (std::size_t at = 0; (at = quoted.find('"', at)) != std::string::npos; at += 2)
                    quoted.insert(at, 1, '"');
                CHECK(csv.find(quoted) != std::string::npos);
                if (!row[c].value) continue;
                ++figures;
                CHECK(pdf.find(squeezed(row[c].text)) != std::string::npos);
            }
    }
    CHECK(figures > 60);
    // The JSON holds each cell with its value.
    std::size_t in_json = 0;
    for (const json& p : j.at("parts"))
        for (const json& b : p.at("content"))
            if (b.contains("rows"))
                for (const json& row : b["rows"])
                    for (const json& cell : row)
                        in_json += cell.is_object() && cell.contains("value") ? 1 : 0;
    CHECK(in_json == figures);
    CHECK(j.at("parts").size() == r.parts.size());
}

TEST_CASE("APdfEmbedsItsFontsAndHasAsManyPagesAsItSays") {
    const test::TemporaryFolder folder;
    const site::SitePtr s = test::report_site();
    const Setup setup = whole_setup(*s);
    const Report r = compose(material(s), setup);
    const Pages pages = pages_of(r, setup.page);
    test::write_file(folder / "r.pdf", pdf_of(r, pages));
    const std::string fonts = output_of("pdffonts " + (folder / "r.pdf").string());
    std::istringstream lines(fonts);
    std::size_t rows = 0, embedded = 0;
    for (std::string line; std::getline(lines, line); ++rows)
        embedded += line.find("yes yes") != std::string::npos ? 1 : 0;
    CHECK(embedded + 2 == rows);  // a title and a rule above the fonts
    CHECK(embedded >= 2);
    const std::string info = output_of("pdfinfo " + (folder / "r.pdf").string());
    CHECK(info.find("Pages:           " + std::to_string(pages.sheets.size())) != std::string::npos);
    CHECK(info.find("A4") != std::string::npos);
    CHECK(info.find("M. Hale") != std::string::npos);
}

TEST_CASE("AReportAsHtmlIsValidAndHoldsItsPictures") {
    const test::TemporaryFolder folder;
    const site::SitePtr s = test::report_site();
    const std::string html = html_of(compose(material(s), whole_setup(*s)));
    test::write_file(folder / "r.html", html);
    // tidy ends with 1 for a warning and 2 for an error.
    CHECK(output_of("tidy -q -e " + (folder / "r.html").string() + " 2>&1") == "");
    CHECK(html.find("src=\"http") == std::string::npos);
    CHECK(html.find("<script") == std::string::npos);
    CHECK(html.find("data:image/png;base64,") != std::string::npos);
    CHECK(html.find("data:image/svg+xml;base64,") != std::string::npos);
    CHECK(html.find("<lock") == std::string::npos);
    std::size_t pictures = 0, told = 0;
    for (std::size_t at = 0; (at = html.find("<img", at)) != std::string::npos; ++at, ++pictures)
        told += html.substr(at, html.find('>', at) - at).find("alt=\"") != std::string::npos ? 1 : 0;
    CHECK(pictures > 5);
    CHECK(told == pictures);
}

TEST_CASE("TheChangeInAReportIsThatOfMeasure") {
    for (const std::string unit : {"m", "ft", "usft"}) {
        CAPTURE(unit);
        const site::SitePtr s = test::report_site({}, unit);
        Setup setup = with_parts(proposed(*s), {"change"});
        setup.parts[0].numbers["band"] = 0.03;
        const Report r = compose(material(s, false), setup);
        const Table& t = table(r, "change");
        const auto cut = [&](const site::ItemPtr& i) {
            return surface::clip(io::mesh_of(*i->cloud, ~*i->absent), {s->lines[0]->points},
                                 surface::Keep::Inside, surface::Edges::Exact);
        };
        const measure::AreaTable a = measure::difference_by_area(
            cut(s->items[0]), cut(s->items[1]), {{"Hof", s->lines[1]->points}, {"Kai", s->lines[2]->points}},
            measure::DifferenceOptions{0.03, {}, {}});
        REQUIRE(t.rows.size() == 4);
        REQUIRE(t.rows[0][3].value);
        CHECK(*t.rows[0][3].value == Approx(a.rows[0].change.fill).epsilon(1e-9));
        CHECK(*t.rows[1][2].value == Approx(a.rows[1].change.cut).epsilon(1e-9));
        CHECK(*t.rows[2][4].value == Approx(a.rest.net()).epsilon(1e-9));
        CHECK(*t.rows[3][4].value == Approx(a.whole.net()).epsilon(1e-9));
        CHECK(t.rows[3][4].unit.find("³") != std::string::npos);
    }
}

TEST_CASE("FiguresOfAReportAreInTheUnitOfTheSite") {
    const site::SitePtr feet = test::report_site({}, "ft");
    const site::SitePtr shown = site::set_unit(*feet, "m");
    const Setup setup = with_parts(proposed(*feet), {"surfaces"});
    const Table a = table(compose(material(feet, false), setup), "surfaces"),
                b = table(compose(material(shown, false), setup), "surfaces");
    CHECK(a.rows[0][3].unit == "ft²");
    CHECK(b.rows[0][3].unit == "m²");
    CHECK(*b.rows[0][3].value == Approx(*a.rows[0][3].value * 0.3048 * 0.3048));
    CHECK(b.columns[3].title.find("m²") != std::string::npos);
}

TEST_CASE("AReportWithoutAUnitSaysSo") {
    const site::SitePtr s = test::report_site({}, "");
    const Report r = compose(material(s, false), with_parts(proposed(*s), {"site", "limits"}));
    REQUIRE_FALSE(r.warnings.empty());
    CHECK(r.warnings[0].find("No unit is stated") != std::string::npos);
    CHECK(table(r, "site").rows[6][1].text == "not stated");
}

TEST_CASE("CountsBeforeAndAfterAddUpAndShareNoElement") {
    const site::SitePtr s = test::report_site();
    const Table t = table(compose(material(s, false), with_parts(proposed(*s), {"removed"})), "removed");
    double before = 0, gone = 0, after = 0;
    for (const auto& row : t.rows) {
        if (row[0].text != "Kammer / 1") continue;
        if (row[1].text == "points before")
            before = *row[2].value;
        else if (row[1].text == "points after")
            after = *row[2].value;
        else
            gone += *row[2].value;
    }
    CHECK(before == 4000);
    CHECK(after == static_cast<double>(s->items[2]->shown()));
    CHECK(before - gone == after);
}

TEST_CASE("ASiteWithoutDecisionsIsCountedToo") {
    const site::SitePtr s =
        site::add_cloud(site::Site(), test::random_cloud(1234, test::Shape::Terrain, 4), "Kammer", "");
    const Report r = compose(material(s, false), proposed(*s));
    const Table t = table(r, "removed");
    REQUIRE(t.rows.size() == 2);
    CHECK(*t.rows[0][2].value == 1234);
    CHECK(*t.rows[1][2].value == 1234);
    CHECK(json_of(r).find("nothing was removed") != std::string::npos);
    // What was removed is not "nothing", even where a repair made as much again.
    CHECK(json_of(compose(material(test::report_site(), false), proposed(*test::report_site())))
              .find("nothing was removed") == std::string::npos);
}

TEST_CASE("WhatWasNotCheckedCannotBeLeftOut") {
    const site::SitePtr s = test::report_site();
    Setup setup = proposed(*s);
    for (PartSetup& p : setup.parts) p.on = false;
    const Setup read = setup_from_json(json_of(setup));
    const auto limits = std::find_if(read.parts.begin(), read.parts.end(),
                                     [](const PartSetup& p) { return p.kind == "limits"; });
    REQUIRE(limits != read.parts.end());
    CHECK(limits->on);
    const Setup few = with_parts(setup, {"surfaces"});
    CHECK(std::any_of(few.parts.begin(), few.parts.end(),
                      [](const PartSetup& p) { return p.kind == "limits" && p.on; }));
}

TEST_CASE("ASetupComesBackTheSame") {
    const site::SitePtr s = test::report_site();
    Setup setup = whole_setup(*s);
    setup.logo = std::string("\x89PNG\0\1\2", 7);
    setup.page = {"A3", true, 11, 12, 13, 14};
    setup.parts[1].title = "Quellen \u201c1\u201d";
    setup.parts[1].note = "two\nlines";
    setup.parts[2].numbers["band"] = 0.1;
    setup.parts[2].words["pictures"] = "none";
    CHECK(setup_from_json(json_of(setup)) == setup);
    for (const char* broken :
         {"", "{", "[]", R"({"parts":[{"kind":"nonsense"}]})", R"({"parts":[{}]})", R"({"parts":{}})",
          R"({"version":9,"parts":[]})", R"({"parts":[],"page":{"left":300}})"})
        CHECK_THROWS_AS(setup_from_json(broken), Error);
}

TEST_CASE("ATemplateBringsOrderAndSettingsToAnotherSite") {
    const site::SitePtr s = test::report_site();
    Setup mine = with_parts(proposed(*s), {"change", "site"});
    mine.parts[0].numbers["band"] = 0.25;
    // Another site, on which everything has other numbers.
    const site::SitePtr other = test::report_site();
    const site::SitePtr fewer = site::drop_item(*other, other->items[2]->id);
    const Setup got = by_template(setup_from_json(json_of(mine)), *fewer);
    REQUIRE(got.parts.size() >= 2);
    CHECK(got.parts[0].kind == "change");
    CHECK(got.parts[0].on);
    CHECK(got.parts[0].numbers.at("band") == 0.25);
    CHECK(got.parts[1].kind == "site");
    CHECK(std::none_of(got.parts.begin(), got.parts.end(),
                       [](const PartSetup& p) { return p.kind == "rules"; }));
    CHECK_NOTHROW(compose(material(fewer, false), got));
    CHECK_THROWS_AS(with_parts(proposed(*fewer), {"ledger"}), Error);
    CHECK_THROWS_AS(with_parts(proposed(*fewer), {"weather"}), Error);
}

TEST_CASE("SectionsAreProposedOnlyWhereTheLineMeetsTheSurface") {
    const site::SitePtr s = test::report_site();
    const auto sections = [](const site::Site& of) {
        const Setup setup = proposed(of);
        return std::count_if(setup.parts.begin(), setup.parts.end(),
                             [](const PartSetup& p) { return p.kind == "sections"; });
    };
    CHECK(sections(*s) == 1);
    const site::SitePtr more = site::put_lines(
        *s,
        {test::line_of("far", {test::on_site(500, 500), test::on_site(600, 500)}, false, LineRole::Axis)});
    CHECK(sections(*more) == 1);
}

TEST_CASE("APartWhoseItemIsGoneIsLeftOut") {
    const site::SitePtr s = test::report_site();
    const Setup setup = proposed(*s);
    const site::SitePtr fewer = site::drop_item(*s, s->items[0]->id);
    const Setup now = on_site(setup, *fewer);
    CHECK(std::none_of(now.parts.begin(), now.parts.end(),
                       [](const PartSetup& p) { return p.kind == "change"; }));
    CHECK_NOTHROW(compose(material(fewer, false), now));
}

TEST_CASE("PartsThatDidNotChangeAreTakenFromTheCache") {
    const site::SitePtr s = test::report_site();
    Setup setup = whole_setup(*s);
    PartCache cache;
    const Report first = compose(material(s), setup, Progress::none(), &cache);
    const std::size_t known = cache.parts.size();
    CHECK(known > 3);
    Material blind = material(s);
    int drawn = 0;
    blind.draw = [&](const Shot& shot) {
        ++drawn;
        return render::picture_of(shot);
    };
    setup.client = "Another";
    const Report second = compose(blind, setup, Progress::none(), &cache);
    CHECK(drawn == 0);
    CHECK(json_of(second).find("Another") != std::string::npos);
    CHECK(json_of(first).find("Another") == std::string::npos);
    // A change of the site makes all anew.
    const site::SitePtr edited = site::rename_item(*s, s->items[0]->id, "Renamed");
    blind.site = edited;
    const Report third = compose(blind, setup, Progress::none(), &cache);
    CHECK(json_of(third).find("Renamed") != std::string::npos);
    CHECK(drawn > 0);
}

TEST_CASE("AReportCanBeCancelled") {
    const site::SitePtr s = test::report_site();
    Progress p;
    p.cancel();
    CHECK_THROWS_AS(compose(material(s), whole_setup(*s), p), Cancelled);
}

TEST_CASE("EmptyAndOddSitesMakeReportsToo") {
    auto one = std::make_shared<site::Site>();
    for (const std::uint64_t points : {std::uint64_t{0}, std::uint64_t{1}, std::uint64_t{2}}) {
        site::SitePtr s =
            site::add_cloud(*one, test::random_cloud(points, test::Shape::OnePlace, 3), "a", "x");
        if (points > 0) s = test::taken_out(s, s->items[0]->id, ElementSet::all(points), "all");
        Setup setup = proposed(*s);
        for (PartSetup& p : setup.parts) p.on = p.kind != "plan" && p.kind != "view";
        const Report r = compose(material(s), setup);
        CHECK(pages_of(r, setup.page).sheets.size() >= 1);
        CHECK_FALSE(html_of(r).empty());
    }
}
