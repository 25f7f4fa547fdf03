// Unpacked records in a file without a name.

#include "core/io/spill.h"

#include <catch2/catch.hpp>

#include <random>

#include "core/base/error.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

cloud::RecordLayout layout_of(std::size_t bytes) {
    cloud::RecordLayout l;
    l.format = "text";
    l.record_bytes = bytes;
    l.fields.push_back({"x", cloud::FieldType::U8, 0});
    return l;
}

std::vector<std::byte> bytes_of_length(std::size_t n, std::mt19937_64& dice) {
    std::vector<std::byte> b(n);
    for (std::byte& one : b) one = static_cast<std::byte>(dice());
    return b;
}

}  // namespace

TEST_CASE("SpilledRecordsComeBackFromAnyPlace") {
    std::mt19937_64 dice(test::seed_for("SpilledRecordsComeBackFromAnyPlace"));
    constexpr std::size_t kBytes = 13;
    std::vector<std::byte> all;
    io::SpillWriter writer(kBytes);
    for (int turn = 0; turn < 40; ++turn) {
        const auto some = bytes_of_length(kBytes * (dice() % 5000), dice);
        writer.write(some);
        all.insert(all.end(), some.begin(), some.end());
        CHECK(writer.count() == all.size() / kBytes);
    }
    const auto records = writer.finish(layout_of(kBytes));
    REQUIRE(records->count() == all.size() / kBytes);
    CHECK(records->layout().format == "text");
    for (int turn = 0; turn < 200; ++turn) {
        const std::uint64_t first = dice() % records->count(), n = dice() % (records->count() - first + 1);
        std::vector<std::byte> out(n * kBytes);
        records->read(first, out);
        CHECK(std::equal(out.begin(), out.end(), all.begin() + static_cast<std::ptrdiff_t>(first * kBytes)));
    }
}

TEST_CASE("SpilledRecordsBeyondTheEndAreRefused") {
    std::mt19937_64 dice(1);
    io::SpillWriter writer(8);
    writer.write(bytes_of_length(80, dice));
    const auto records = writer.finish(layout_of(8));
    std::vector<std::byte> out(16);
    CHECK_THROWS_AS(records->read(9, out), Error);
    CHECK_NOTHROW(records->read(8, out));
    io::SpillWriter none(8);
    CHECK(none.finish(layout_of(8))->count() == 0);
}
