// The log: what was done, and no value of anybody's data.

#include <catch2/catch.hpp>

#include <thread>

#include "core/base/error.h"
#include "core/base/log.h"
#include "support/cloud_makers.h"

using namespace pristine;

TEST_CASE("TheLogSaysWhatWasDoneAndNoCoordinates", "[log]") {
    const test::TemporaryFolder f;
    log::info("before there is a log");
    log::open(f / "state" / "log.txt");
    CHECK(log::file() == f / "state" / "log.txt");
    log::info("Opening bank-20261130.las", 1.25);
    log::error("A boundary is open (yard.geojson, ends at 412300.125 5218930.000). Close it.");
    log::info("The line has 7 corners, EPSG:25832, 1,234,567 points, from 58930 to 2.5");
    log::close();
    log::info("after it");
    const std::string text = test::read_file(f / "state" / "log.txt");
    CHECK(text.find("before there") == std::string::npos);
    CHECK(text.find("after it") == std::string::npos);
    CHECK(text.find("I Opening bank-20261130.las (1.25 s)") != std::string::npos);
    CHECK(text.find("E A boundary is open (yard.geojson, ends at # #). Close it.") != std::string::npos);
    CHECK(text.find("7 corners, EPSG:25832, # points, from # to #") != std::string::npos);
    // It goes on where it was.
    log::open(f / "state" / "log.txt");
    log::info("once more");
    log::close();
    CHECK(test::read_file(f / "state" / "log.txt").find("Opening") != std::string::npos);
    CHECK(test::read_file(f / "state" / "log.txt").find("once more") != std::string::npos);
}

TEST_CASE("TheLogTouchesNoOtherFileAndStaysSmall", "[log]") {
    const test::TemporaryFolder f;
    test::write_file(f / "scan.las", "LASF and the rest of a scan");
    CHECK_THROWS_AS(log::open(f / "scan.las"), Error);
    CHECK(test::read_file(f / "scan.las") == "LASF and the rest of a scan");
    CHECK(log::file().empty());
    CHECK_THROWS_AS(log::open(f / "scan.las" / "log.txt"), Error);  // its folder is a file
    log::open(f / "log.txt");
    std::vector<std::thread> threads;
    for (int t = 0; t < 4; ++t)
        threads.emplace_back([t] {
            for (int i = 0; i < 30'000; ++i)
                log::info("thread " + std::to_string(t) + " says that a file of some length was opened");
        });
    for (std::thread& t : threads) t.join();
    log::close();
    std::uintmax_t all = 0;
    int files = 0;
    for (const auto& e : std::filesystem::directory_iterator(f.path()))
        if (e.path().filename().string().starts_with("log")) {
            all += e.file_size();
            ++files;
        }
    CHECK(files == 4);
    CHECK(all <= 4u << 20);
}
