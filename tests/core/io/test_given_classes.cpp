// Classes that decisions gave, written into files that can hold them and read back.

#include <catch2/catch.hpp>

#include <random>

#include "core/base/error.h"
#include "core/cloud/column.h"
#include "core/io/cloud_io.h"
#include "core/io/keep.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

std::shared_ptr<const std::vector<std::uint8_t>> random_classes(std::uint64_t n, int most,
                                                                std::mt19937_64& dice) {
    auto out = std::make_shared<std::vector<std::uint8_t>>();
    for (std::uint64_t i = 0; i < n; ++i)
        out->push_back(static_cast<std::uint8_t>(dice() % static_cast<std::uint64_t>(most + 1)));
    return out;
}

// By record, as a file says them.
std::vector<int> classes_in(const cloud::PointCloud& c) {
    const auto records = c.records();
    const cloud::Field* f = records->layout().find("class");
    REQUIRE(f);
    std::vector<std::byte> bytes(records->count() * records->layout().record_bytes);
    records->read(0, bytes);
    std::vector<int> out;
    for (std::uint64_t i = 0; i < records->count(); ++i)
        out.push_back(static_cast<int>(value(*f, bytes.data() + i * records->layout().record_bytes)));
    return out;
}

std::shared_ptr<const cloud::PointCloud> las(const test::TemporaryFolder& f, int point_format,
                                             std::uint64_t n) {
    test::LasSpec spec;
    spec.point_format = point_format;
    spec.minor = point_format < 6 ? 2 : 4;
    spec.points = n;
    test::write_file(f / "in.las", test::las_file(spec));
    return io::read_cloud(f / "in.las").cloud;
}

}  // namespace

TEST_CASE("GivenClassesComeBackFromEveryFormatThatHoldsThem") {
    const std::uint64_t seed = test::seed_for("given classes");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    const test::TemporaryFolder f;
    const auto from_las = las(f, 7, 20'000);
    const auto from_e57 = test::e57_scans(3000, 5);
    const auto plain = test::random_cloud(9000, test::Shape::Terrain, 3);
    io::write_cloud({{plain}}, f / "plain.ply");
    const auto from_ply = io::read_cloud(f / "plain.ply").cloud;
    for (const auto& [name, cloud] : {std::pair{"las", from_las}, {"e57", from_e57}, {"ply", from_ply}}) {
        const std::uint64_t n = cloud->records()->count();
        for (const char* ending : {"las", "laz", "ply", "xyz", "csv"}) {
            CAPTURE(name, ending);
            io::WriteItem item{cloud};
            item.classes = random_classes(n, 22, dice);
            const auto keep = std::make_shared<io::KeepBits>(n);
            for (std::uint64_t i = 0; i < n; i += 7) keep->drop(i);
            item.keep = keep;
            const auto file = f / (std::string("out.") + ending);
            io::WriteOptions replace;
            replace.replace = true;
            io::write_cloud({item}, file, replace);
            const auto back = io::read_cloud(file).cloud;
            // Cells of a grid without a point are in no such file.
            const auto kept = cloud->size() == n ? item.keep : io::keep_points(item);
            std::vector<int> expected;
            for (std::uint64_t i = 0; i < n; ++i)
                if ((*kept)[i]) expected.push_back((*item.classes)[i]);
            CHECK(classes_in(*back) == expected);
        }
    }
}

TEST_CASE("NothingButTheClassChangesInALasRecord") {
    std::mt19937_64 dice(11);
    for (const int point_format : {0, 1, 3, 6, 7, 8}) {
        CAPTURE(point_format);
        const test::TemporaryFolder f;
        const auto c = las(f, point_format, 2000);
        io::WriteItem item{c};
        item.classes = random_classes(2000, point_format < 6 ? 31 : 255, dice);
        io::write_cloud({item}, f / "out.las");
        const auto back = io::read_cloud(f / "out.las").cloud;
        const cloud::RecordLayout& l = c->records()->layout();
        CHECK(back->records()->layout().head == l.head);
        std::vector<std::byte> a(2000 * l.record_bytes), b(a.size());
        c->records()->read(0, a);
        back->records()->read(0, b);
        for (std::size_t i = 0; i < 2000; ++i)
            put(*l.find("class"), a.data() + i * l.record_bytes, (*item.classes)[i]);
        CHECK(a == b);
    }
}

TEST_CASE("AClassThatARecordHasNoRoomForIsRefused") {
    const test::TemporaryFolder f;
    const auto c = las(f, 3, 100);
    io::WriteItem item{c};
    item.classes = std::make_shared<const std::vector<std::uint8_t>>(100, std::uint8_t{40});
    CHECK_THROWS_WITH(io::write_cloud({item}, f / "out.las"), Catch::Contains("Class 40 does not fit"));
    CHECK_FALSE(std::filesystem::exists(f / "out.las"));
    item.classes = std::make_shared<const std::vector<std::uint8_t>>(99, std::uint8_t{4});
    CHECK_THROWS_AS(io::write_cloud({item}, f / "out.las"), Error);
}

TEST_CASE("AFormatWithoutClassesSaysThatTheyAreLeftOut") {
    const test::TemporaryFolder f;
    const auto c = las(f, 7, 500);
    io::WriteItem item{c};
    CHECK(io::lost_in({item}, f / "out.e57").empty());
    item.classes = std::make_shared<const std::vector<std::uint8_t>>(500, std::uint8_t{6});
    for (const char* ending : {"e57", "ptx", "pts"}) {
        CAPTURE(ending);
        const auto file = f / (std::string("out.") + ending);
        io::write_cloud({item}, file);
        CHECK(io::read_cloud(file).cloud->size() == 500);
        const auto said = io::lost_in({item}, file);
        CHECK(std::any_of(said.begin(), said.end(),
                          [](const std::string& s) { return s.find("no place for classes") != s.npos; }));
    }
}

TEST_CASE("WhereOneItemHasClassesAllHave") {
    std::mt19937_64 dice(12);
    const test::TemporaryFolder f;
    const auto a = test::e57_scans(500, 5), b = test::e57_scans(400, 6);
    io::WriteItem first{a}, second{b};
    second.classes = random_classes(b->records()->count(), 9, dice);
    for (const char* ending : {"las", "ply", "xyz"}) {
        CAPTURE(ending);
        const auto file = f / (std::string("out.") + ending);
        io::write_cloud({first, second}, file);
        const std::vector<int> back = classes_in(*io::read_cloud(file).cloud);
        REQUIRE(back.size() == a->size() + b->size());
        CHECK(std::all_of(back.begin(), back.begin() + static_cast<std::ptrdiff_t>(a->size()),
                          [](int k) { return k == 0; }));
        std::vector<int> expected;
        const auto kept = io::keep_points(second);
        for (std::uint64_t i = 0; i < b->records()->count(); ++i)
            if (!kept || (*kept)[i]) expected.push_back((*second.classes)[i]);
        CHECK(std::vector<int>(back.begin() + static_cast<std::ptrdiff_t>(a->size()), back.end()) ==
              expected);
    }
}
