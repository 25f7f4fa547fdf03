// Surveys: what is of which, their dates and deviations, and how they are kept.

#include <catch2/catch.hpp>

#include "core/base/error.h"
#include "core/site/site.h"
#include "core/store/project.h"
#include "support/cloud_makers.h"

using namespace pristine;
using namespace pristine::site;

namespace {

SitePtr dated(std::initializer_list<const char*> names) {
    SitePtr s = std::make_shared<Site>();
    for (const char* n : names) s = add_cloud(*s, test::random_cloud(10, test::Shape::Terrain, 1), n, "");
    return s;
}

}  // namespace

TEST_CASE("ASurveyHasADateAndHoldsItemsAndLines") {
    SitePtr s = dated({"bank 2026-03-02", "crane", "bank later"});
    s = put_lines(*s, {{0, "toe", {{0, 0, 0}, {1, 0, 0}}}});
    CHECK(date_of(*s, *s->items[0]) == "2026-03-02");
    s = put_survey(*s, {0, "Frühjahr", "2026-03-04", "laser scanner, 6 stations", 0.004, 0.006});
    REQUIRE(s->surveys.size() == 1);
    const std::uint64_t spring = s->surveys[0].id;
    REQUIRE(spring != 0);
    s = set_survey(*s, spring, {s->items[0]->id, s->items[2]->id}, {s->lines[0]->id});
    CHECK(date_of(*s, *s->items[0]) == "2026-03-04");
    CHECK(date_of(*s, *s->items[2]) == "2026-03-04");
    CHECK(date_of(*s, *s->items[1]).empty());
    CHECK(s->lines[0]->survey == spring);
    // Its date is changed in one place.
    CHECK_THROWS_AS(set_date(*s, s->items[0]->id, "2026-05-01"), Error);
    Survey changed = s->surveys[0];
    changed.date = "";
    s = put_survey(*s, changed);
    CHECK(date_of(*s, *s->items[0]) == "2026-03-02");
    CHECK(set_date(*s, s->items[0]->id, "2026-05-01")->items[0]->date == "2026-05-01");
    // A copy is of the same survey.
    CHECK(duplicate_item(*s, s->items[0]->id)->items.back()->survey == spring);
    const SitePtr gone = drop_survey(*s, spring);
    CHECK(gone->surveys.empty());
    CHECK(gone->items[0]->survey == 0);
    CHECK(gone->lines[0]->survey == 0);
    CHECK_THROWS_AS(drop_survey(*gone, spring), Error);
    CHECK_THROWS_AS(set_survey(*gone, spring, {gone->items[0]->id}), Error);
    CHECK_THROWS_AS(set_survey(*s, spring, {99999}), Error);
}

TEST_CASE("SurveysWithoutSenseAreRefused") {
    const SitePtr s = put_survey(*dated({"bank"}), {0, "May", "2026-05-11", "", 0, 0});
    for (const Survey& bad : {Survey{0, "", "", "", 0, 0}, Survey{0, "June", "11.6.2026", "", 0, 0},
                              Survey{0, "June", "2026-13-11", "", 0, 0}, Survey{0, "June", "", "", -1, 0},
                              Survey{0, "June", "", "", 0, NAN}, Survey{0, "May", "", "", 0, 0},
                              Survey{77, "June", "", "", 0, 0}}) {
        CAPTURE(bad.name, bad.date, bad.noise);
        CHECK_THROWS_AS(put_survey(*s, bad), Error);
    }
}

TEST_CASE("SurveysAreMadeOfTheDatesThatItemsHave") {
    SitePtr s = dated({"bank 2026-03-02", "pit 20260511", "crane", "road 2026-03-02"});
    s = put_survey(*s, {0, "Spring", "2026-05-11", "", 0.01, 0});
    s = surveys_of_dates(*s);
    REQUIRE(s->surveys.size() == 2);
    CHECK(s->surveys[1].name == "2026-03-02");
    CHECK(s->items[0]->survey == s->surveys[1].id);
    CHECK(s->items[3]->survey == s->surveys[1].id);
    CHECK(s->items[1]->survey == s->surveys[0].id);
    CHECK(s->items[2]->survey == 0);
    CHECK_THROWS_AS(surveys_of_dates(*s), Error);
}

TEST_CASE("SurveysAreInTheProject") {
    const test::TemporaryFolder folder;
    SitePtr s = dated({"bank 2026-03-02", "crane"});
    s = put_lines(*s, {{0, "toe", {{0, 0, 0}, {1, 0, 0}}}});
    s = put_survey(*s, {0, "Frühjahr", "2026-03-04", "Laser \"scanner\"", 0.004, 0.006});
    s = set_survey(*s, s->surveys[0].id, {s->items[0]->id}, {s->lines[0]->id});
    store::Project::create(folder / "a.pristine")->write({1, "start", s}, Progress::none());
    const History h = store::Project::open(folder / "a.pristine")->load();
    const SitePtr back = h.now();
    CHECK(back->surveys == s->surveys);
    CHECK(back->items[0]->survey == s->surveys[0].id);
    CHECK(back->items[1]->survey == 0);
    CHECK(back->lines[0]->survey == s->surveys[0].id);
}
