// Reports on pages: what is cut, what stays together, and what is repeated.

#include "core/report/pages.h"

#include <catch2/catch.hpp>

#include <random>

#include "core/base/error.h"
#include "support/cloud_makers.h"

using namespace pristine;
using namespace pristine::report;

namespace {

std::string words(std::mt19937_64& dice, int most) {
    static const char* const kWords[] = {"bank",     "chamber wall",
                                         "Böschung", "2,310 points",
                                         "±",        "a-very-long-word-without-any-space-in-it-at-all",
                                         "of"};
    std::string out;
    for (int k = std::uniform_int_distribution<int>(1, most)(dice); k > 0; --k)
        out += (out.empty() ? "" : " ") +
               std::string(kWords[std::uniform_int_distribution<std::size_t>(0, 6)(dice)]);
    return out;
}

// Each row carries its number in the first column, so that it is found on the pages again.
Report random_report(std::mt19937_64& dice, std::vector<int>& rows) {
    Report r;
    r.title = words(dice, 6);
    r.site = "Ashmere Lock";
    int number = 1000;
    for (int p = 0; p < 5; ++p) {
        Part part{"surfaces", "Part " + words(dice, 4), {}};
        for (int b = std::uniform_int_distribution<int>(0, 4)(dice); b > 0; --b) {
            const int kind = std::uniform_int_distribution<int>(0, 2)(dice);
            if (kind == 0) part.blocks.emplace_back(Paragraph{{{words(dice, 60), false}}});
            if (kind == 1) {
                Figure f{"f", words(dice, 10), "", {}};
                f.drawings.emplace_back();
                f.drawings[0].width = 150;
                f.drawings[0].height = std::uniform_real_distribution<double>(10, 150)(dice);
                f.drawings[0].frame(0, 0, 150, f.drawings[0].height, 0.777);
                part.blocks.emplace_back(std::move(f));
            }
            if (kind == 2) {
                Table t{"t",
                        words(dice, 5),
                        {{"n", "No.", true}, {"a", "HEADOFTABLE"}, {"b", "What", false, 3}},
                        {}};
                for (int k = std::uniform_int_distribution<int>(0, 40)(dice); k > 0; --k) {
                    rows.push_back(++number);
                    t.rows.push_back({{"#" + std::to_string(number)}, {words(dice, 3)}, {words(dice, 25)}});
                }
                part.blocks.emplace_back(std::move(t));
            }
        }
        r.parts.push_back(std::move(part));
    }
    return r;
}

std::string text_of(const Text& t) {
    std::string out;
    for (const Run& r : t.runs) out += r.text;
    return out;
}

template <class T>
std::vector<T> all_of(const Drawing& d) {
    std::vector<T> out;
    for (const Shape& s : d.shapes)
        if (const auto* t = std::get_if<T>(&s)) out.push_back(*t);
    return out;
}

bool is_heading(const Text& t) {
    return t.size == 14;
}

}  // namespace

TEST_CASE("PagesCutNoRowAndNoFigureAndRepeatTheHead", "[property]") {
    const auto seed = test::seed_for("pages");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    for (int round = 0; round < 25; ++round) {
        std::vector<int> rows;
        const Report r = random_report(dice, rows);
        PageForm form;
        form.size = round % 3 == 0 ? "A5" : round % 3 == 1 ? "A4" : "Letter";
        form.landscape = round % 2 == 1;
        if (form.size == std::string("A5")) form.left = form.right = 8;
        const Spot sheet = sheet_of(form), room = room_of(form);
        const double bottom = form.top + 11 + room.y;
        const Pages pages = pages_of(r, form);
        REQUIRE(pages.first_page.size() == r.parts.size());
        std::vector<int> found;
        for (std::size_t p = 0; p < pages.sheets.size(); ++p) {
            const Drawing& d = pages.sheets[p];
            CHECK(d.width == sheet.x);
            const std::vector<Text> texts = all_of<Text>(d);
            bool head = false;
            double last = 0, last_heading = 0;
            for (const Text& t : texts) {
                const std::string text = text_of(t);
                if (text == "HEADOFTABLE") head = true;
                if (!text.empty() && text[0] == '#') {
                    found.push_back(std::stoi(text.substr(1)));
                    CHECK(head);  // rows stand under a head of their page
                }
                const bool foot = t.size == 8 && t.at.y > bottom;
                if (!foot) CHECK(t.at.y <= bottom + 1e-6);
                if (!foot) last = std::max(last, t.at.y);
                if (is_heading(t)) last_heading = t.at.y;
                CHECK(t.at.x >= form.left - 1e-6);
            }
            for (const Path& f : all_of<Path>(d)) {
                if (f.width == 0.777) {
                    for (const Spot& s : f.rings[0]) CHECK(s.y <= bottom + 1e-6);
                    last = 1e9;
                }
            }
            // An empty part has a heading and nothing below it.
            const bool empty_part = [&] {
                for (std::size_t k = 0; k < r.parts.size(); ++k)
                    if (pages.first_page[k] == static_cast<int>(p) + 1 && r.parts[k].blocks.empty())
                        return true;
                return false;
            }();
            if (!empty_part && last_heading > 0) CHECK(last > last_heading);
        }
        CHECK(found == rows);  // each row once, in order, none twice
    }
}

TEST_CASE("ARowHigherThanAPageGoesOnOnTheNext") {
    Report r;
    std::string longest;
    for (int k = 0; k < 1500; ++k) longest += "word" + std::to_string(k) + " ";
    r.parts = {{"ledger", "Entries", {Table{"t", "long", {{"a", "What"}}, {{{longest}}, {{"after"}}}}}}};
    const Pages pages = pages_of(r, {});
    CHECK(pages.sheets.size() > 2);
    std::string all;
    for (const Drawing& d : pages.sheets)
        for (const Text& t : all_of<Text>(d)) all += text_of(t) + " ";
    for (const char* word : {"word0 ", "word700 ", "word1499 ", "after "})
        CHECK(all.find(word) != std::string::npos);
}

TEST_CASE("PagesRefuseMarginsThatLeaveNothing") {
    PageForm form;
    form.left = 100;
    form.right = 90;
    CHECK_THROWS_AS(sheet_of(form), Error);
    form = {};
    form.size = "B7";
    CHECK_THROWS_AS(sheet_of(form), Error);
}

TEST_CASE("TextIsWrappedWithoutLosingAnything", "[property]") {
    const auto seed = test::seed_for("wrapped");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    for (int round = 0; round < 60; ++round) {
        const std::vector<Run> runs{
            {words(dice, 20) + " ", false}, {words(dice, 5), true}, {" " + words(dice, 9), false}};
        const double width = std::uniform_real_distribution<double>(12, 120)(dice);
        std::string given, got;
        for (const Run& r : runs) given += r.text;
        for (const auto& line : wrapped(runs, 9, width)) {
            CHECK(width_of(line, 9) <= width + 0.5);
            for (const Run& r : line) got += r.text;
        }
        std::erase(given, ' ');
        std::erase(got, ' ');
        CHECK(got == given);
    }
}
