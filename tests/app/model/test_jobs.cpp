#include <catch2/catch.hpp>

#include <QAction>
#include <QApplication>
#include <QElapsedTimer>
#include <atomic>
#include <thread>

#include "app/look/theme.h"
#include "app/model/commands.h"
#include "app/model/jobs.h"
#include "app/model/latest_job.h"
#include "core/base/parallel.h"

using namespace pristine;
using namespace pristine::app;

namespace {

bool wait(const std::function<bool()>& condition) {
    QElapsedTimer t;
    t.start();
    while (!condition() && t.elapsed() < 10'000) QApplication::processEvents(QEventLoop::AllEvents, 10);
    return condition();
}

}  // namespace

TEST_CASE("AJobEndsInExactlyOneOfDoneAndFailed") {
    Jobs jobs;
    int done = 0, failed = 0, signalled = 0;
    QString said;
    QObject::connect(&jobs, &Jobs::failed, [&](const QString&) { ++signalled; });
    jobs.start(
        "Good", [](Progress&) {}, [&] { ++done; }, [&](const QString&) { ++failed; });
    jobs.start(
        "Bad", [](Progress&) { throw Error(ErrorCode::Io, "No room"); }, [&] { ++done; },
        [&](const QString& e) {
            ++failed;
            said = e;
        });
    jobs.start(
        "Bad, without an ear", [](Progress&) { throw Error(ErrorCode::Io, "No room"); }, [&] { ++done; });
    REQUIRE(wait([&] { return !jobs.busy(); }));
    CHECK(done == 1);
    CHECK(failed == 1);
    CHECK(signalled == 1);
    CHECK(said == "No room.");
}

TEST_CASE("ACancelledJobFailsSilently") {
    Jobs jobs;
    QString said = "nothing yet";
    jobs.start(
        "Long",
        [](Progress& p) {
            for (;;) {
                p.advance(0.3);
                std::this_thread::sleep_for(std::chrono::milliseconds(1));
            }
        },
        [] { FAIL("it cannot be done"); }, [&](const QString& e) { said = e; });
    REQUIRE(wait([&] { return jobs.shown().fraction > 0.2; }));
    CHECK(jobs.shown().title == "Long");
    CHECK(jobs.shown().seconds_left >= 0);
    jobs.cancel_shown();
    REQUIRE(wait([&] { return !jobs.busy(); }));
    CHECK(said.isEmpty());
}

TEST_CASE("QuietJobsShowOnlyWhenTheyTakeLong") {
    Jobs jobs;
    std::atomic<bool> stop{false};
    jobs.start(
        "Quiet",
        [&](Progress&) {
            while (!stop) std::this_thread::sleep_for(std::chrono::milliseconds(1));
        },
        [] {}, {}, Jobs::Show::IfLong);
    CHECK(jobs.shown().title.isEmpty());
    CHECK(wait([&] { return jobs.shown().title == "Quiet"; }));
    stop = true;
    CHECK(wait([&] { return !jobs.busy(); }));
}

TEST_CASE("ADisabledCommandIsNotRunAndSaysWhy") {
    CommandTable table;
    QString refused;
    int ran = 0;
    bool ready = false;
    QObject::connect(&table, &CommandTable::refused, [&](const QString& why) { refused = why; });
    table.add({"a.b",
               "Do it",
               "Does what it says",
               "",
               {},
               "Menu",
               [&] { ++ran; },
               [&] { return ready ? QString() : QString("Not ready yet."); },
               {},
               {}});
    table.trigger("a.b");
    CHECK(ran == 0);
    CHECK(refused == "Not ready yet.");
    CHECK_FALSE(table.action("a.b")->isEnabled());
    ready = true;
    table.trigger("a.b");
    CHECK(ran == 1);
    CHECK(table.action("a.b")->isEnabled());
    table.trigger("no.such");
    CHECK(table.find("no.such") == nullptr);
    CHECK(commands_as_markdown(table).contains("| Do it | Menu |"));
}

TEST_CASE("NumbersForPeopleAreGroupedAndRounded") {
    CHECK(grouped(1234567) == "1,234,567");
    CHECK(rounded(9999) == "9,999");
    CHECK(rounded(48'213) == "48.2 k");
    CHECK(rounded(812'345) == "812 k");
    CHECK(rounded(4'184'310) == "4.18 M");
    for (const char* name : {"rectangle", "polygon", "eye", "remove", "keep"})
        CHECK_FALSE(icon(name).isNull());
    CHECK(icon("no such drawing").isNull());
}

TEST_CASE("OnlyTheNewestOfManyStartsIsSeenAndThreadsStayFew", "[jobs]") {
    Jobs jobs;
    std::vector<int> seen;
    std::atomic<int> cancelled{0};
    {
        LatestJob latest(&jobs);
        // Ten changes of a parameter, each faster than the work.
        for (int k = 0; k < 10; ++k) {
            latest.start<int>(
                "Work",
                [k, &cancelled](Progress& p, int& result) {
                    try {
                        for (int i = 0; i < 50; ++i) {
                            p.check();
                            std::this_thread::sleep_for(std::chrono::milliseconds(1));
                        }
                    } catch (const Cancelled&) {
                        ++cancelled;
                        throw;
                    }
                    result = k;
                },
                [&](int& result) { seen.push_back(result); }, [](const QString&) { FAIL("of an old one"); });
            CHECK(jobs.running() <= std::max<std::size_t>(2, parallel::workers()));
        }
        REQUIRE(wait([&] { return !jobs.busy(); }));
        CHECK(seen == std::vector<int>{9});
        CHECK(cancelled <= 9);
        // Dropped: nothing is seen, not even the failure.
        latest.start<int>(
            "Dropped", [](Progress&, int&) { throw Error(ErrorCode::Io, "No room"); },
            [&](int&) { seen.push_back(-1); }, [](const QString&) { FAIL("dropped"); });
        latest.drop();
        REQUIRE(wait([&] { return !jobs.busy(); }));
        CHECK(seen.size() == 1);
        // An error without an ear goes to the signal.
        QString said;
        QObject::connect(&jobs, &Jobs::failed, [&](const QString& why) { said = why; });
        latest.start<int>(
            "Bad", [](Progress&, int&) { throw Error(ErrorCode::Io, "No room"); }, [](int&) {});
        REQUIRE(wait([&] { return !jobs.busy(); }));
        CHECK(said == "No room.");
        latest.start<int>(
            "Left behind", [](Progress&, int& r) { r = 7; }, [&](int& r) { seen.push_back(r); });
    }
    // What asked is gone: the result comes to nobody.
    REQUIRE(wait([&] { return !jobs.busy(); }));
    CHECK(seen.size() == 1);
}

TEST_CASE("JobsBeyondTheCoresWaitAndAllAreDone", "[jobs]") {
    Jobs jobs;
    std::atomic<bool> go{false};
    int done = 0, failed = 0;
    for (int k = 0; k < 20; ++k)
        jobs.start(
            "Job",
            [&](Progress& p) {
                while (!go) {
                    p.check();
                    std::this_thread::sleep_for(std::chrono::milliseconds(1));
                }
            },
            [&] { ++done; },
            [&](const QString& why) {
                ++failed;
                CHECK(why.isEmpty());
            });
    CHECK(jobs.running() == std::max<std::size_t>(2, parallel::workers()));
    CHECK(jobs.shown().title.contains("waits"));
    jobs.cancel_shown();  // one that waits
    // What is nearly always short does not wait for them.
    bool short_one = false;
    jobs.start(
        "Short", [](Progress&) {}, [&] { short_one = true; }, {}, Jobs::Show::IfLong);
    REQUIRE(wait([&] { return short_one; }));
    go = true;
    REQUIRE(wait([&] { return !jobs.busy(); }));
    CHECK(done == 19);
    CHECK(failed == 1);
}

TEST_CASE("AFailureCarriesItsRemedy", "[jobs]") {
    Jobs jobs;
    Remedy remedy = Remedy::None;
    jobs.start(
        "Bad", [](Progress&) { throw Error(ErrorCode::Format, "Cut off", "a.las", "", Remedy::ReadPart); },
        [] {}, [&](const Jobs::Failure& f) { remedy = f.remedy; });
    REQUIRE(wait([&] { return !jobs.busy(); }));
    CHECK(remedy == Remedy::ReadPart);
}
