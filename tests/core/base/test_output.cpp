#include <catch2/catch.hpp>

#include <fcntl.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

#include <csignal>
#include <fstream>
#include <optional>
#include <random>
#include <thread>

#include "core/base/output.h"
#include "support/cloud_makers.h"

using namespace pristine;
namespace fs = std::filesystem;

namespace {

void write(const fs::path& path, const std::string& text, bool replace = true) {
    OutputFile out(path, replace);
    out.write(text);
    out.finish();
}

ErrorCode code_of(const std::function<void()>& work) {
    try {
        work();
    } catch (const Error& e) {
        return e.code();
    }
    FAIL("no error was thrown");
    return ErrorCode::Io;
}

std::size_t files_in(const fs::path& folder) {
    return static_cast<std::size_t>(std::distance(fs::directory_iterator(folder), fs::directory_iterator()));
}

mode_t rights(const fs::path& path) {
    struct stat st {};
    REQUIRE(::stat(path.c_str(), &st) == 0);
    return st.st_mode & 07777;
}

}  // namespace

TEST_CASE("AnOutputIsNeverAnInput") {
    const test::TemporaryFolder f;
    test::write_file(f / "in.las", "input");
    fs::create_directory(f / "sub");
    fs::create_symlink(f / "in.las", f / "link.las");
    fs::create_hard_link(f / "in.las", f / "hard.las");
    test::write_file(f / "in.prj", "its system");
    OutputGroup group({f / "in.las"});
    for (const char* name : {"in.las", "sub/../in.las", "link.las", "hard.las", "in.prj"}) {
        INFO(name);
        CHECK(code_of([&] { group.expect(f / name, true); }) == ErrorCode::Usage);
        CHECK(code_of([&] { OutputFile out(f / name, true); }) == ErrorCode::Usage);
        CHECK(code_of([&] { OutputFolder out(f / name, true); }) == ErrorCode::Usage);
    }
    CHECK(test::read_file(f / "in.las") == "input");
    CHECK(test::read_file(f / "in.prj") == "its system");
}

TEST_CASE("TwoOutputsHaveTwoNames") {
    const test::TemporaryFolder f;
    fs::create_directory(f / "sub");
    test::write_file(f / "there", "old");
    fs::create_hard_link(f / "there", f / "same");
    OutputGroup group;
    group.expect(f / "a", false);
    CHECK(code_of([&] { group.expect(f / "sub/../a", false); }) == ErrorCode::Usage);
    group.expect(f / "there", true);
    CHECK(code_of([&] { group.expect(f / "same", true); }) == ErrorCode::Usage);
    write(f / "b", "one");
    CHECK(code_of([&] { write(f / "sub/../b", "two"); }) == ErrorCode::Usage);
}

TEST_CASE("FilesOfOneResultAppearTogetherOrNotAtAll") {
    const test::TemporaryFolder f;
    const std::uint64_t seed = test::seed_for("together");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    for (int round = 0; round < 200; ++round) {
        const fs::path folder = f / std::to_string(round);
        fs::create_directory(folder);
        // Some targets are there already; one of them gets in the way just before the end.
        std::vector<std::string> before;
        const int n = 1 + static_cast<int>(dice() % 5), bad = static_cast<int>(dice() % 8);
        for (int k = 0; k < n; ++k)
            if (dice() % 2) test::write_file(folder / std::to_string(k), "old " + std::to_string(k));
        for (int k = 0; k < n; ++k)
            before.push_back(fs::exists(folder / std::to_string(k))
                                 ? test::read_file(folder / std::to_string(k))
                                 : "absent");
        bool thrown = false;
        {
            OutputGroup group;
            for (int k = 0; k < n; ++k) write(folder / std::to_string(k), "new " + std::to_string(k));
            CHECK(std::all_of(before.begin(), before.end(), [&, k = 0](const std::string& b) mutable {
                const fs::path p = folder / std::to_string(k++);
                return b == "absent" ? !fs::exists(p) : test::read_file(p) == b;
            }));
            if (bad < n) {  // a folder that is not empty cannot be replaced
                fs::remove(folder / std::to_string(bad));
                fs::create_directories(folder / std::to_string(bad) / "in the way");
            }
            try {
                group.commit();
            } catch (const Error&) {
                thrown = true;
            }
        }
        CHECK((thrown || bad >= n));
        for (int k = 0; k < n; ++k) {
            const fs::path p = folder / std::to_string(k);
            if (!thrown) {
                if (bad >= n) CHECK(test::read_file(p) == "new " + std::to_string(k));
                continue;
            }
            if (k == bad) {
                CHECK(fs::exists(p / "in the way"));
                continue;
            }
            const std::string& b = before[static_cast<std::size_t>(k)];
            CHECK((b == "absent" ? !fs::exists(p) : test::read_file(p) == b));
        }
        // Nothing is left beside them.
        for (const auto& e : fs::directory_iterator(folder))
            CHECK(e.path().filename().string().rfind(".pristine", 0) != 0);
    }
}

TEST_CASE("AGroupInAGroupWaitsForIt") {
    const test::TemporaryFolder f;
    {
        OutputGroup outer;
        {
            OutputGroup inner;
            write(f / "a", "a");
            inner.commit();
        }
        CHECK_FALSE(fs::exists(f / "a"));
        outer.commit();
        CHECK(test::read_file(f / "a") == "a");
    }
    {
        OutputGroup dropped;
        write(f / "b", "b");
    }
    CHECK(files_in(f.path()) == 1);
}

TEST_CASE("ReplacedFilesKeepTheirRightsAndLinksStay") {
    const test::TemporaryFolder f;
    write(f / "own", "x");
    const mode_t usual = rights(f / "own");
    CHECK((usual & 0600) == 0600);
    ::chmod((f / "own").c_str(), 0600);
    write(f / "own", "y");
    CHECK(rights(f / "own") == 0600);
    fs::create_symlink("own", f / "link");
    write(f / "link", "z");
    CHECK(fs::is_symlink(f / "link"));
    CHECK(test::read_file(f / "own") == "z");
    fs::create_symlink("nowhere", f / "dangling");
    CHECK(code_of([&] { write(f / "dangling", "z"); }) == ErrorCode::Io);
    REQUIRE(::mkfifo((f / "pipe").c_str(), 0600) == 0);
    CHECK(code_of([&] { write(f / "pipe", "z"); }) == ErrorCode::Io);
    CHECK(code_of([&] { write("/dev/null", "z"); }) == ErrorCode::Io);
    CHECK(code_of([&] { write(f / "no folder" / "a", "z"); }) == ErrorCode::Io);
    CHECK(code_of([&] { write(f.path(), "z"); }) == ErrorCode::Io);
    // As long as a name can be.
    write(f / std::string(255, 'n'), "long");
    CHECK(test::read_file(f / std::string(255, 'n')) == "long");
}

TEST_CASE("OfTwoThatWriteOneNameOneSucceeds") {
    const test::TemporaryFolder f;
    for (int round = 0; round < 50; ++round) {
        const fs::path target = f / std::to_string(round);
        std::atomic<int> ready{0}, done{0};
        const auto work = [&](const std::string& text) {
            try {
                OutputFile out(target, false);
                out.write(text);
                ++ready;
                while (ready < 2) std::this_thread::yield();
                out.finish();
                ++done;
            } catch (const Error& e) {
                CHECK(e.code() == ErrorCode::Conflict);
                ++ready;
            }
        };
        std::thread a(work, "first"), b(work, "other");
        a.join();
        b.join();
        CHECK(done == 1);
        CHECK(test::read_file(target).size() == 5);
    }
}

TEST_CASE("AnEndedProcessLeavesNoParts", "[kill]") {
    for (const int signal : {SIGINT, SIGTERM, SIGHUP}) {
        const test::TemporaryFolder f;
        test::write_file(f / "old", "old");
        int ready[2];
        REQUIRE(::pipe(ready) == 0);
        const pid_t child = ::fork();
        if (child == 0) {
            std::signal(signal, SIG_DFL);  // whoever starts the tests in the background has it ignored
            remove_unfinished_on_signals();
            OutputGroup group;
            write(f / "staged", "whole");
            OutputFile part(f / "old", true);
            part.write(std::string(9u << 20, 'x'));
            OutputFolder folder(f / "folder.shp", false);
            test::write_file(folder.path(), "half");
            (void)!::write(ready[1], "r", 1);
            for (;;) ::pause();
        }
        char c = 0;
        REQUIRE(::read(ready[0], &c, 1) == 1);
        REQUIRE(files_in(f.path()) == 4);
        ::kill(child, signal);
        int status = 0;
        REQUIRE(::waitpid(child, &status, 0) == child);
        CHECK((WIFSIGNALED(status) && WTERMSIG(status) == signal));
        CHECK(files_in(f.path()) == 1);
        CHECK(test::read_file(f / "old") == "old");
        ::close(ready[0]);
        ::close(ready[1]);
    }
}

TEST_CASE("FilesThatALibraryWroteAppearTogether") {
    const test::TemporaryFolder f;
    test::write_file(f / "lines.prj", "of the lines before");
    test::write_file(f / "lines.shp", "before");
    {
        OutputFolder folder(f / "lines.shp", true);
        CHECK(rights(folder.path().parent_path()) == 0700);
        test::write_file(folder.path(), "shapes");
        test::write_file(fs::path(folder.path()).replace_extension(".dbf"), "fields");
        CHECK(test::read_file(f / "lines.shp") == "before");
        folder.finish({".prj", ".qix"});
    }
    CHECK(test::read_file(f / "lines.shp") == "shapes");
    CHECK(test::read_file(f / "lines.dbf") == "fields");
    CHECK(files_in(f.path()) == 2);
}
