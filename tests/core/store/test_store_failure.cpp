// What happens when the disk says no: a limit on the size of files stands in for a full disk.

#include <catch2/catch.hpp>

#include <sys/resource.h>

#include <csignal>

#include "core/store/journal.h"
#include "support/cloud_makers.h"

using namespace pristine;
using namespace pristine::site;
using store::Project;

namespace {

/// No file may grow beyond `bytes` while it lives.
class FileLimit {
  public:
    explicit FileLimit(std::uint64_t bytes) {
        ::signal(SIGXFSZ, SIG_IGN);
        ::getrlimit(RLIMIT_FSIZE, &before_);
        const rlimit now{bytes, before_.rlim_max};
        ::setrlimit(RLIMIT_FSIZE, &now);
    }
    ~FileLimit() { ::setrlimit(RLIMIT_FSIZE, &before_); }

  private:
    rlimit before_{};
};

ElementSet some_members(std::uint64_t size, std::uint64_t n, std::mt19937_64& dice) {
    ElementSet s(size);
    for (std::uint64_t i = 0; i < n; ++i) s.insert(dice() % size);
    return s;
}

}  // namespace

TEST_CASE("AFullDiskLosesNothingThatWasReported") {
    const test::TemporaryFolder f;
    std::mt19937_64 dice(7);
    constexpr std::uint64_t n = 300'000;
    History h(add_cloud(Site{}, test::random_cloud(n, test::Shape::Terrain, 1), "Chamber", ""));
    {
        auto p = Project::create(f / "a.pristine");
        p->write(h.current());
    }
    int refused = 0;
    for (std::uint64_t room = 0; room < 12; ++room) {
        CAPTURE(room);
        auto p = Project::open(f / "a.pristine");
        h = p->load();
        const std::uint64_t before = h.current().number;
        h.commit(site::select(*h.now(), some_members(n, 40'000, dice), Combine::New), "Select");
        bool written = false;
        {
            const FileLimit limit(room * 60'000 + 1000);
            try {
                p->write(h.current());
                written = true;
            } catch (const Error& e) {
                CHECK(std::string(e.what()).find("a.pristine") != std::string::npos);
                ++refused;
            }
        }
        const ElementSet wanted = *h.now()->selection_in_work();
        if (!written) p->write(h.current());  // the same commit again, once there is room
        p.reset();
        const History back = Project::open(f / "a.pristine")->load();
        REQUIRE(back.current().number == before + 1);
        REQUIRE(*back.now()->selection_in_work() == wanted);
    }
    CHECK(refused > 2);
}

TEST_CASE("TheJournalStopsReportsAndTriesAgain") {
    const test::TemporaryFolder f;
    std::mt19937_64 dice(8);
    constexpr std::uint64_t n = 300'000;
    History h(add_cloud(Site{}, test::random_cloud(n, test::Shape::Terrain, 1), "Chamber", ""));
    store::Journal j(Project::create(f / "a.pristine"));
    j.commit(h.current());
    REQUIRE(j.flush());
    {
        const FileLimit limit(1000);
        j.commit(h.commit(site::select(*h.now(), some_members(n, 40'000, dice), Combine::New), "One"));
        j.commit(h.commit(site::select(*h.now(), some_members(n, 40'000, dice), Combine::New), "Two"));
        CHECK_FALSE(j.flush());
        CHECK(j.status().safe == 1);
        CHECK(j.status().waiting == 2);
        CHECK_FALSE(j.status().error.empty());
    }
    j.retry();
    REQUIRE(j.flush());
    CHECK(j.status().safe == 3);
    CHECK(j.status().error.empty());
}
