// Every file of the folders of odd and broken files is read, or refused with a reason, as it must be.

#include <catch2/catch.hpp>

#include "core/io/cloud_io.h"
#include "core/io/lines/lines.h"
#include "odd/odd_files.h"
#include "support/cloud_makers.h"

using namespace pristine;

TEST_CASE("OddFilesAreReadAndBrokenOnesRefusedWithAReason") {
    const test::TemporaryFolder folder;
    const auto files = test::write_odd_files(folder.path());
    REQUIRE(files.size() > 80);
    for (const test::OddFile& f : files) {
        CAPTURE(f.path.string());
        std::string said;
        std::uint64_t points = 0;
        try {
            const io::ReadResult r = io::read_cloud(f.path);
            points = r.cloud->size();
            for (const std::string& warning : r.warnings) said += warning;
            CHECK(f.valid);
        } catch (const Error& e) {
            said = e.what();
            CHECK_FALSE(f.valid);
            CHECK_FALSE(said.empty());
        }
        CAPTURE(said);
        CHECK(said.find(f.says) != std::string::npos);
        if (f.valid) {
            CHECK(points == f.points);
            // Read once more through a file and written again, it holds the same points.
            const auto c = io::read_cloud(f.path).cloud;
            CHECK(io::write_cloud({{c, nullptr}}, folder / "again.las", {true}) == f.points);
            continue;
        }
        io::ReadOptions partial;
        partial.accept_partial = true;
        std::uint64_t whole = 0;
        try {
            whole = io::read_cloud(f.path, partial).cloud->size();
        } catch (const Error&) {
        }
        CHECK(whole >= f.points);
    }
}

TEST_CASE("OddLineFilesAreReadAndBrokenOnesRefusedWithAReason") {
    const test::TemporaryFolder folder;
    for (const test::OddFile& f : test::write_odd_lines(folder.path())) {
        CAPTURE(f.path.string());
        std::string said;
        std::uint64_t lines = 0;
        bool read = true;
        try {
            lines = io::read_lines(f.path).size();
        } catch (const Error& e) {
            said = e.what();
            read = false;
        }
        CAPTURE(said);
        CHECK(read == f.valid);
        CHECK(lines == f.points);
        CHECK(said.find(f.says) != std::string::npos);
        CHECK(said.empty() == f.valid);
    }
}
