// Progress of calls inside calls.

#include <catch2/catch.hpp>

#include "core/base/progress.h"

using namespace pristine;

namespace {

// A computation with stretches of its own, as every reader and every check is.
void work(Progress& p) {
    p.stretch(0, 0.5, "first");
    p.advance(1);
    p.stretch(0.5, 1, "second");
    p.advance(0.5);
}

}  // namespace

TEST_CASE("StretchesOfACallLieInThePartOfItsCaller") {
    Progress p;
    {
        const Progress::Part outer(p, 0.2, 0.6, "outer");
        CHECK(p.fraction() == Approx(0.2));
        work(p);
        CHECK(p.fraction() == Approx(0.2 + 0.4 * 0.75));
        CHECK(p.label() == "second");
        {
            const Progress::Part inner(p, 0.75, 1, "inner");
            work(p);
            CHECK(p.fraction() == Approx(0.5 + 0.1 * 0.75));
        }
        // Done again inside a part: it stands still, and does not run backwards.
        work(p);
        CHECK(p.fraction() == Approx(0.5 + 0.1 * 0.75));
    }
    // After it the whole is the whole again.
    p.stretch(0.6, 1, "rest");
    p.advance(1);
    CHECK(p.fraction() == Approx(1));
    p.stretch(0, 1, "another job");
    CHECK(p.fraction() == 0);
}

TEST_CASE("APartIsClosedWhenItsCallIsCancelled") {
    Progress p;
    p.cancel();
    try {
        const Progress::Part part(p, 0.5, 1, "part");
        p.advance(0.5);
    } catch (const Cancelled&) {
    }
    p.stretch(0, 1, "whole");
    CHECK(p.fraction() == 0);
}
