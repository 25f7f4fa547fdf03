#include <catch2/catch.hpp>

#include <cmath>

#include "core/base/bytes.h"
#include "core/io/cloud_io.h"
#include "core/io/full_scale.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

std::vector<double> column(const io::ReadResult& r, const std::string& name) {
    const auto records = r.cloud->records();
    const cloud::Field* f = records->layout().find(name);
    REQUIRE(f);
    std::vector<std::byte> raw(records->count() * records->layout().record_bytes);
    records->read(0, raw);
    std::vector<double> out;
    for (std::uint64_t i = 0; i < records->count(); ++i)
        out.push_back(value(*f, raw.data() + i * records->layout().record_bytes));
    return out;
}

io::ReadResult converted(const std::filesystem::path& from, const std::filesystem::path& to) {
    io::write_cloud({{io::read_cloud(from).cloud}}, to, {true});
    return io::read_cloud(to);
}

std::string text_of(const std::vector<double>& intensity) {
    std::string s = "x y z intensity\n";
    for (std::size_t i = 0; i < intensity.size(); ++i)
        s += std::to_string(i) + " 0 0 " + std::to_string(intensity[i]) + "\n";
    return s;
}

}  // namespace

TEST_CASE("IntensitiesKeepTheirMeaningInLas") {
    const test::TemporaryFolder f;
    const std::uint64_t seed = test::seed_for("intensities");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    const std::pair<double, double> ranges[] = {{0, 1},        {0, 255},       {0, 4095}, {0, 65535},
                                                {-2048, 2047}, {-60.5, -1.25}, {0, 1e6},  {0.25, 3.75}};
    for (const auto& [lo, hi] : ranges)
        for (int round = 0; round < 5; ++round) {
            CAPTURE(lo, hi, round);
            const bool whole = hi - lo > 4 && round % 2 == 0 && lo == std::floor(lo);
            std::vector<double> given{lo, hi};
            for (int i = 0; i < 50; ++i) {
                const double v = std::uniform_real_distribution(lo, hi)(dice);
                given.push_back(whole ? std::floor(v) : std::round(v * 64) / 64);
            }
            test::write_file(f / "a.txt", text_of(given));
            const auto las = converted(f / "a.txt", f / "a.las");
            const auto got = column(las, "intensity");
            const bool fits = whole && lo >= 0 && hi <= 65535 && hi > 1;
            const bool beside = las.cloud->records()->layout().find("intensity as measured") != nullptr;
            for (std::size_t i = 0; i < given.size(); ++i) {
                const double share = fits                 ? given[i]
                                     : lo >= 0 && hi <= 1 ? given[i] * 65535
                                                          : (given[i] - lo) / (hi - lo) * 65535;
                CHECK(std::fabs(got[i] - share) <= 0.5001);
            }
            // What changes its meaning is kept as it was, and comes back.
            CHECK(beside == !(fits || (lo >= 0 && hi <= 1)));
            const std::string kept = beside ? "intensity as measured" : "intensity";
            const auto back = column(converted(f / "a.las", f / "back.txt"), "x");
            CHECK(back.size() == given.size());
            if (beside)
                for (std::size_t i = 0; i < given.size(); ++i)
                    CHECK(column(las, kept)[i] == Approx(given[i]).epsilon(1e-6));
        }
}

TEST_CASE("ColoursOfAnyTypeLookTheSameEverywhere") {
    const test::TemporaryFolder f;
    const std::uint64_t seed = test::seed_for("colours");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    for (const std::string type : {"uchar", "ushort", "float", "double", "int"})
        for (const double top : {1.0, 255.0, 65535.0}) {
            if ((type == "uchar" && top != 255) || (type == "ushort" && top == 1) ||
                (type == "int" && top == 1))
                continue;
            CAPTURE(type, top);
            std::string s =
                "ply\nformat ascii 1.0\nelement vertex 40\nproperty float x\nproperty float y\nproperty "
                "float z\n";
            for (const char* c : {"red", "green", "blue"}) s += "property " + type + " " + c + "\n";
            s += "end_header\n";
            std::vector<std::array<int, 3>> bytes;
            for (int i = 0; i < 40; ++i) {
                s += std::to_string(i) + " 0 0";
                auto& rgb = bytes.emplace_back();
                for (int& c : rgb) {
                    c = i == 0 ? 255 : static_cast<int>(dice() % 256);
                    const double v = top == 1 ? c / 255.0 : top == 255 ? c : c * 257;
                    s += " " + (top == 1 ? std::to_string(v) : std::to_string(static_cast<int>(v)));
                }
                s += "\n";
            }
            test::write_file(f / "a.ply", s);
            for (const char* ending : {"las", "laz", "e57", "ptx", "pts", "ply"}) {
                CAPTURE(ending);
                test::write_file(f / "b.txt", "");
                const auto r = converted(f / "a.ply", f / (std::string("b.") + ending));
                const auto& colours = *r.cloud->colour();
                REQUIRE(r.cloud->size() == 40);
                const auto order = r.cloud->order()->page(0);
                for (std::size_t k = 0; k < 40; ++k)
                    for (std::size_t c = 0; c < 3; ++c)
                        CHECK(std::abs(static_cast<int>(colours.page(0)[k] >> (16 - 8 * c) & 255u) -
                                       bytes[order[k]][c]) <= 1);
            }
        }
}

TEST_CASE("ColoursOf16BitsStay16BitsInPly") {
    const test::TemporaryFolder f;
    for (const bool deep : {true, false}) {
        std::string s = "x y z red green blue\n0 0 0 65535 65535 65535\n";
        std::mt19937_64 dice(7);
        for (int i = 1; i < 50; ++i) {
            s += std::to_string(i) + " 0 0";
            for (int c = 0; c < 3; ++c) s += " " + std::to_string(deep ? dice() % 65536 : dice() % 256 * 257);
            s += "\n";
        }
        test::write_file(f / "a.txt", s);
        (void)converted(f / "a.txt", f / "a.las");
        const auto ply = converted(f / "a.las", f / "a.ply");
        CHECK(ply.cloud->records()->layout().find("red")->type ==
              (deep ? cloud::FieldType::U16 : cloud::FieldType::U8));
        if (deep) CHECK(column(ply, "red") == column(io::read_cloud(f / "a.las"), "red"));
    }
}

TEST_CASE("ColumnsWithLongOrTakenNamesKeepTheirNumbers") {
    const test::TemporaryFolder f;
    const std::string a(31, 'a');
    test::write_file(f / "a.txt", "x y z " + a + "bbb " + a + "ccc " + a +
                                      " 1st class\n1 2 3 4 5 6 7 8\n9 8 7 6 5 4 3 2\n");
    const auto las = converted(f / "a.txt", f / "a.las");
    CHECK(column(las, a.substr(0, 31)) == std::vector<double>{4, 6});
    CHECK(column(las, a.substr(0, 29) + "_2") == std::vector<double>{5, 5});
    CHECK(column(las, a.substr(0, 29) + "_3") == std::vector<double>{6, 4});
    CHECK(column(las, "1st") == std::vector<double>{7, 3});
    CHECK(column(las, "class") == std::vector<double>{8, 2});
    // E57: names in XML begin with a letter; none is lost for being like another.
    test::write_file(f / "b.txt", "x y z a-b a+b 1st\n1 2 3 4 5 6\n2 3 4 5 6 7\n");
    const auto e57 = converted(f / "b.txt", f / "b.e57");
    CHECK(column(e57, "a_b") == std::vector<double>{4, 5});
    CHECK(column(e57, "a_b_2") == std::vector<double>{5, 6});
    CHECK(column(e57, "_1st") == std::vector<double>{6, 7});
    // Extra bytes called like a field of the standard.
    test::write_file(f / "c.txt", "x y z class_2 withheld_2\n1 2 3 4 5\n2 3 4 5 6\n");
    auto twice = converted(f / "c.txt", f / "c.las");
    std::string bytes = test::read_file(f / "c.las");
    for (const std::string name : {"class_2", "withheld_2"}) {
        const std::size_t at = bytes.find(name);
        REQUIRE(at != std::string::npos);
        std::fill_n(bytes.begin() + static_cast<std::ptrdiff_t>(at + name.size() - 2), 2, '\0');
    }
    test::write_file(f / "d.las", bytes);
    const auto ply = converted(f / "d.las", f / "d.ply");
    CHECK(column(ply, "class_2") == std::vector<double>{4, 5});
    CHECK(column(ply, "withheld_2") == std::vector<double>{5, 6});
    CHECK(column(ply, "class") == std::vector<double>{0, 0});
}

TEST_CASE("APartOfACutLasFileSaysHowMuchThereIs") {
    const test::TemporaryFolder f;
    for (const char* ending : {"las", "laz"}) {
        CAPTURE(ending);
        test::write_file(f / "whole.las", test::las_file({4, 7, 120'000, 0, "", 5}));
        const auto path = f / (std::string("whole.") + ending);
        if (path != f / "whole.las") (void)converted(f / "whole.las", path);
        const std::string whole = test::read_file(path);
        test::write_file(f / (std::string("cut.") + ending), whole.substr(0, whole.size() * 3 / 4));
        io::ReadOptions partial;
        partial.accept_partial = true;
        const auto part = io::read_cloud(f / (std::string("cut.") + ending), partial);
        REQUIRE(part.cloud->size() > 0);
        REQUIRE(part.cloud->size() < 120'000);
        io::write_cloud({{part.cloud}}, f / (std::string("part.") + ending), {true});
        CHECK(io::read_cloud(f / (std::string("part.") + ending)).cloud->records()->count() ==
              part.cloud->records()->count());
    }
}

TEST_CASE("MergedLasKeepsTheOriginOfTimesOrRefuses") {
    const test::TemporaryFolder f;
    std::string a = test::las_file({4, 7, 100, 0, "", 1}), b = test::las_file({4, 7, 100, 0, "", 2});
    a[6] = static_cast<char>(a[6] | 1);
    b[6] = static_cast<char>(b[6] | 1);
    test::write_file(f / "a.las", a);
    test::write_file(f / "b.las", b);
    const auto clouds = [&] {
        return std::vector<io::WriteItem>{{io::read_cloud(f / "a.las").cloud},
                                          {io::read_cloud(f / "b.las").cloud}};
    };
    io::write_cloud(clouds(), f / "both.las", {true});
    CHECK((test::read_file(f / "both.las")[6] & 1) == 1);
    b[6] = static_cast<char>(b[6] & ~1);
    test::write_file(f / "b.las", b);
    CHECK_THROWS_WITH(io::write_cloud(clouds(), f / "both.las", {true}), Catch::Contains("within a week"));
}
