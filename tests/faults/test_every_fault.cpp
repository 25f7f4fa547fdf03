// The n-th write and the n-th allocation fail, for each n until the work succeeds: what was there before is
// whole, and what is new is there as a whole or not at all.

#include <catch2/catch.hpp>

#include <filesystem>
#include <functional>
#include <map>

#include "core/base/error.h"
#include "core/base/parallel.h"
#include "core/io/cloud_io.h"
#include "core/io/mesh/mesh_io.h"
#include "core/site/history.h"
#include "core/store/project.h"
#include "faults/faults.h"
#include "support/cloud_makers.h"
#include "support/wkt.h"

using namespace pristine;
namespace fs = std::filesystem;

namespace {

// Large ones: the library for JSON ends the program when it cannot allocate a few bytes to give memory back,
// and so does the standard library when it begins to list a folder.
enum class Fault { Write, WriteOn, Allocation, LargeAllocation };
constexpr std::size_t kLarge = 1024;

void order(Fault kind, long n) {
    if (kind == Fault::Allocation || kind == Fault::LargeAllocation)
        test::fail_allocation(n, kind == Fault::Allocation ? 0 : kLarge);
    else
        test::fail_write(n, kind == Fault::WriteOn);
}

long count(Fault kind) {
    return kind == Fault::Allocation || kind == Fault::LargeAllocation ? test::allocations() : test::writes();
}

struct Tried {
    long faults = 0;   // that were ordered
    long refused = 0;  // of them: the work ended with an error
};

// Does `work` with its n-th call failing, n = 1, 2, … until it makes fewer calls than that; after each,
// `check` says whether all is well, given whether the work said that it was done.
Tried each_fault(Fault kind, const std::function<void()>& prepare, const std::function<void()>& work,
                 const std::function<bool(bool done)>& check) {
    Tried tried;
    for (long n = 1;; ++n) {
        prepare();
        bool done = false;
        long calls = 0;
        order(kind, n);
        try {
            work();
            done = true;
        } catch (const Error&) {
        } catch (const std::bad_alloc&) {
        } catch (const std::ios_base::failure&) {
        }
        calls = count(kind);
        order(kind, 0);
        CAPTURE(n, calls, done, static_cast<int>(kind));
        REQUIRE(check(done));
        ++tried.faults;
        tried.refused += !done;
        if (calls < n) {
            REQUIRE(done);
            return tried;
        }
        REQUIRE(n < 200'000);
    }
}

// Every file of a folder with its bytes.
std::map<std::string, std::string> picture(const fs::path& folder) {
    std::map<std::string, std::string> files;
    for (const auto& entry : fs::recursive_directory_iterator(folder))
        if (entry.is_regular_file())
            files[fs::relative(entry.path(), folder).string()] = test::read_file(entry.path());
    return files;
}

std::shared_ptr<const cloud::PointCloud> small_cloud() {
    return test::random_cloud(60, test::Shape::Terrain, 5);
}

// One worker: the same calls in the same order every time.
struct Setting {
    parallel::WorkerLimit one{1};
    test::TemporaryFolder folder;
};

void check_export(Fault kind, const std::string& ending, const io::WriteItem& item) {
    const Setting s;
    const fs::path out = s.folder / "out", file = out / ("points." + ending);
    fs::create_directories(out);
    const auto write = [&](bool replace) { io::write_cloud({item}, file, {replace}); };
    write(false);
    const auto whole = picture(out);
    // Where nothing was, and over an older file.
    for (const bool older : {false, true}) {
        std::map<std::string, std::string> before;
        if (older) before = {{file.filename().string(), "what was there before"}};
        const Tried t = each_fault(
            kind,
            [&] {
                fs::remove_all(out);
                fs::create_directories(out);
                for (const auto& [name, bytes] : before) test::write_file(out / name, bytes);
            },
            [&] { write(older); }, [&](bool done) { return picture(out) == (done ? whole : before); });
        CAPTURE(ending, older, t.faults, t.refused);
        CHECK(t.refused > (kind == Fault::LargeAllocation ? 0 : 3));
    }
}

}  // namespace

TEST_CASE("AnExportIsWholeOrAbsentWhicheverWriteFails") {
    for (const char* ending : {"las", "laz", "ply", "txt", "pts", "ptx"})
        for (const Fault kind : {Fault::Write, Fault::WriteOn})
            check_export(kind, ending, {small_cloud(), nullptr});
}

TEST_CASE("AnExportIsWholeOrAbsentWhicheverAllocationFails") {
    for (const char* ending : {"las", "laz", "ply", "txt", "pts"})
        check_export(Fault::Allocation, ending, {small_cloud(), nullptr});
    check_export(Fault::LargeAllocation, "ptx", {small_cloud(), nullptr});
}

TEST_CASE("AMeshIsWrittenWholeOrNotAtAll") {
    const mesh::TriMesh m = test::mesh_of_wkt(
        "TIN Z (((0 0 0, 4 0 1, 4 3 2, 0 0 0)), ((0 0 0, 4 3 2, 0 3 1, 0 0 0)), ((4 0 1, 9 1 0, 4 3 2, 4 0 "
        "1)))");
    for (const char* ending : {"ply", "stl", "obj", "off"})
        for (const Fault kind : {Fault::Write, Fault::WriteOn, Fault::Allocation}) {
            const Setting s;
            const fs::path out = s.folder / "out", file = out / (std::string("mesh.") + ending);
            fs::create_directories(out);
            const auto write = [&] { io::write_mesh(m, file, false, "m"); };
            write();
            const auto whole = picture(out);
            each_fault(
                kind,
                [&] {
                    fs::remove_all(out);
                    fs::create_directories(out);
                },
                write,
                [&](bool done) {
                    return picture(out) == (done ? whole : std::map<std::string, std::string>());
                });
        }
}

TEST_CASE("AnImportEndsWithAWholeCloudOrAnError") {
    const Setting s;
    const auto cloud = small_cloud();
    for (const char* ending : {"las", "laz", "ply", "txt", "pts", "ptx"}) {
        const fs::path file = s.folder / (std::string("in.") + ending);
        io::write_cloud({{cloud, nullptr}}, file);
        const std::string bytes = test::read_file(file);
        const auto first = io::read_cloud(file).cloud;
        std::vector<Vec3> places;
        for (std::uint64_t e = 0; e < first->size(); ++e) places.push_back(first->position(e));
        const bool json = std::string(ending) == "ptx";
        for (const Fault kind : {json ? Fault::LargeAllocation : Fault::Allocation, Fault::Write}) {
            std::shared_ptr<const cloud::PointCloud> read;
            CAPTURE(ending);
            each_fault(
                kind, [&] { read = nullptr; }, [&] { read = io::read_cloud(file).cloud; },
                [&](bool done) {
                    if (test::read_file(file) != bytes) return false;
                    if (!done) return read == nullptr;
                    if (read->size() != places.size()) return false;
                    for (std::uint64_t e = 0; e < read->size(); ++e)
                        if (!(read->position(e) == places[e])) return false;
                    return true;
                });
        }
    }
}

namespace {

site::History two_steps() {
    site::History h(site::add_cloud(site::Site{}, small_cloud(), "Chamber", "chamber.las"));
    ElementSet some(h.now()->items[0]->cloud->size());
    for (std::uint64_t e = 0; e < 20; ++e) some.insert(e);
    h.commit(site::select(*h.now(), some, site::Combine::New), "Select");
    return h;
}

// What a project holds, as far as people see it.
std::string told(store::Project& p) {
    const site::SitePtr s = p.load().now();
    std::string text;
    for (const site::ItemPtr& i : s->items)
        text += i->name + " " + std::to_string(i->cloud->size()) + " " + std::to_string(i->removed->count()) +
                "; ";
    return text + std::to_string(s->selected());
}

std::string told(const fs::path& file) {
    return told(*store::Project::open(file));
}

}  // namespace

TEST_CASE("ACommitIsInTheProjectOrIsNot") {
    const Setting s;
    const fs::path made = s.folder / "made.pristine", file = s.folder / "p.pristine";
    store::Project::create(made)->write(two_steps().current());
    const std::string before = told(made);
    std::string after;
    {
        fs::copy_file(made, file);
        auto p = store::Project::open(file);
        site::History h = p->load();
        h.commit(site::remove_selection(*h.now(), {}), "Remove");
        p->write(h.current());
        p.reset();
        after = told(file);
    }
    REQUIRE(before != after);
    for (const Fault kind : {Fault::Write, Fault::WriteOn, Fault::LargeAllocation}) {
        std::unique_ptr<store::Project> p;
        std::unique_ptr<site::History> h;
        each_fault(
            kind,
            [&] {
                p.reset();
                for (const char* rest : {"", "-wal", "-shm", "-journal"}) fs::remove(file.string() + rest);
                fs::copy_file(made, file);
                p = store::Project::open(file);
                h = std::make_unique<site::History>(p->load());
                h->commit(site::remove_selection(*h->now(), {}), "Remove");
            },
            [&] { p->write(h->current()); },
            [&](bool done) {
                p.reset();  // as after the program ended
                const std::string now = told(file);
                return done ? now == after : now == before || now == after;
            });
    }
}

TEST_CASE("ACopyOfAProjectIsWholeOrAbsent") {
    const Setting s;
    const fs::path made = s.folder / "made.pristine", out = s.folder / "out", copy = out / "copy.pristine";
    store::Project::create(made)->write(two_steps().current());
    auto p = store::Project::open(made);
    const std::string whole = told(*p);
    for (const Fault kind : {Fault::Write, Fault::WriteOn, Fault::LargeAllocation})
        for (const bool older : {false, true}) {
            const Tried t = each_fault(
                kind,
                [&] {
                    fs::remove_all(out);
                    fs::create_directories(out);
                    if (older) test::write_file(copy, "what was there before");
                },
                [&] { p->copy_to(copy, older); },
                [&](bool done) {
                    if (done) return told(copy) == whole && picture(out).size() == 1;
                    for (const auto& [name, bytes] : picture(out))
                        UNSCOPED_INFO(name << ", " << bytes.size() << " bytes");
                    return picture(out) ==
                           (older ? std::map<std::string, std::string>{{"copy.pristine",
                                                                        "what was there before"}}
                                  : std::map<std::string, std::string>());
                });
            CHECK((t.refused > 0 || kind == Fault::LargeAllocation));
            CHECK(told(*p) == whole);
        }
}
