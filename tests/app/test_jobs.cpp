#include <catch2/catch.hpp>

#include <QAction>
#include <QApplication>
#include <QElapsedTimer>
#include <atomic>
#include <thread>

#include "app/shell/commands.h"
#include "app/shell/jobs.h"
#include "app/shell/theme.h"

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
        [] {}, {}, true);
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
