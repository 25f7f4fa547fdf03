// A score over several scans: the same values as one by one, one spread for all, and words counted.

#include "core/score/over_scans.h"

#include <catch2/catch.hpp>

#include <cmath>

#include "core/base/error.h"
#include "core/io/cloud_io.h"
#include "core/score/suggest.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

score::Scan scan_of(std::uint64_t id, const std::shared_ptr<const cloud::PointCloud>& c) {
    return {id, "scan " + std::to_string(id), c,
            std::make_shared<const ElementSet>(ElementSet::all(c->size()))};
}

std::vector<float> flat(const score::Column& c) {
    std::vector<float> all;
    for (std::size_t p = 0; p < c.values.page_count(); ++p)
        for (const float v : c.values.page(p)) all.push_back(v);
    return all;
}

bool same(const score::Column& a, const score::Column& b) {
    const auto x = flat(a), y = flat(b);
    if (x.size() != y.size()) return false;
    for (std::size_t i = 0; i < x.size(); ++i)
        if (!(x[i] == y[i] || (std::isnan(x[i]) && std::isnan(y[i])))) return false;
    return true;
}

}  // namespace

TEST_CASE("SeveralScansGetTheValuesOfEach") {
    score::OverScansRequest r;
    r.score = &score::find("stray");
    for (std::uint64_t k = 0; k < 3; ++k) {
        const auto c =
            test::random_cloud(2'000 + 500 * k, test::Shape::WithFarStrays, test::seed_for("several") + k);
        (k == 0 ? r.first : r.others.emplace_back()) = scan_of(k + 1, c);
    }
    const auto alone = [&](const score::Scan& s) {
        return score::compute(*r.score, {*s.cloud, *s.eligible}, {});
    };
    score::OverScans o = score::over_scans(r);
    CHECK(same(o.first, alone(r.first)));
    CHECK(o.others.empty());
    CHECK(o.profile.count <= 2'000);
    r.judge_others = true;
    o = score::over_scans(r);
    REQUIRE(o.others.size() == 2);
    std::uint64_t values = 0;
    for (const float v : flat(o.first)) values += !std::isnan(v);
    for (std::size_t k = 0; k < 2; ++k) {
        CHECK(o.others[k].scan.id == k + 2);
        CHECK(same(o.others[k].column, alone(r.others[k])));
        for (const float v : flat(o.others[k].column)) values += !std::isnan(v);
    }
    CHECK(o.profile.count == values);
}

TEST_CASE("ScansThatCannotBeJudgedAreLeftOutButNotTheFirst") {
    const test::TemporaryFolder f;
    io::write_cloud({{test::e57_scans(500, 5), nullptr}}, f / "two.e57");
    const auto with = io::read_cloud(f / "two.e57").cloud;  // two stations
    const auto without = test::random_cloud(500, test::Shape::Terrain, 6);
    score::OverScansRequest r;
    r.score = &score::find("range");
    r.judge_others = true;
    r.first = scan_of(1, with);
    r.others = {scan_of(2, without), scan_of(3, with)};
    const score::OverScans o = score::over_scans(r);
    REQUIRE(o.others.size() == 1);
    CHECK(o.others[0].scan.id == 3);
    r.first = scan_of(2, without);
    CHECK_THROWS_AS(score::over_scans(r), Error);
}

TEST_CASE("WordsOfAColumnAreCounted") {
    const test::TemporaryFolder f;
    test::write_file(f / "list.csv",
                     "name,x,y,z,code\n1,0,0,0,TOE\n2,1,0,0,BANK\n3,2,0,0,TOE\n4,3,1,0,\n5,4,1,0,TOE\n");
    const auto c = io::read_cloud(f / "list.csv").cloud;
    CHECK(score::columns_to_judge_by(c->records()->layout()).front() == "code");
    const ElementSet all = ElementSet::all(c->size());
    score::Input in{*c, all};
    in.column = "code";
    const score::Column column = score::compute(score::find("column"), in, {});
    const auto counts = score::word_counts(column, *c, "code");
    CHECK(counts == std::map<std::string, std::uint64_t>{{"BANK", 1}, {"TOE", 3}});
    CHECK(score::word_counts(column, *c, "nothing").empty());
}

TEST_CASE("WhatIsFarFromTheUsualLiesOnTheSideOfTheTail") {
    score::Profile p;
    p.count = 1000;
    p.min = 0, p.max = 100, p.median = 10, p.mad = 1;
    p.bin_lo = 0, p.bin_hi = 100;
    score::Limits l = score::far_from_usual(p, NAN, 0);
    CHECK(l.lo == Approx(10 + 6 * 1.4826));
    CHECK(l.hi == 100);
    l = score::far_from_usual(p, 40, 0);
    CHECK(l.lo == 40);
    l = score::far_from_usual(p, 400, 0);  // begins beyond everything: as if it were not known
    CHECK(l.lo < 20);
    p.median = 90;
    l = score::far_from_usual(p, NAN, 20);
    CHECK(l.lo == 0);
    CHECK(l.hi == Approx(70));
}
