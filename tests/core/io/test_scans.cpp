// E57, PTX and PTS: scans with pose and grid.

#include <catch2/catch.hpp>

#include <array>
#include <cctype>
#include <cmath>
#include <map>
#include <random>

#include "core/base/bytes.h"
#include "core/cloud/column.h"
#include "core/io/cloud_io.h"
#include "core/io/e57/pages.h"
#include "demo/trials.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

std::string all_records(const cloud::PointCloud& c) {
    const auto r = c.records();
    std::string bytes(r->count() * r->layout().record_bytes, '\0');
    r->read(0, std::as_writable_bytes(std::span(bytes)));
    return bytes;
}

std::string error_of(const std::filesystem::path& file) {
    try {
        io::read_cloud(file);
    } catch (const Error& e) {
        return e.what();
    }
    return {};
}

io::ReadOptions partial() {
    io::ReadOptions o;
    o.accept_partial = true;
    return o;
}

double number(const cloud::PointCloud& c, const char* field, std::uint64_t record) {
    const auto r = c.records();
    std::vector<std::byte> raw(r->layout().record_bytes);
    r->read(record, raw);
    REQUIRE(r->layout().find(field));
    return value(*r->layout().find(field), raw.data());
}

}  // namespace

TEST_CASE("ChecksumIsCrc32C") {
    // RFC 3720, B.4: 32 bytes of zeros, and the bytes 0..31.
    std::vector<std::byte> zeros(32), counting(32);
    for (std::size_t i = 0; i < 32; ++i) counting[i] = static_cast<std::byte>(i);
    CHECK(io::e57::crc32c(zeros) == 0x8A9136AAu);
    CHECK(io::e57::crc32c(counting) == 0x46DD794Eu);
}

TEST_CASE("E57ScansComeBackBitForBitWithPoseGridAndStates") {
    const test::TemporaryFolder folder;
    const std::uint64_t n = GENERATE(1u, 13u, 30'000u);
    const auto cloud = test::e57_scans(n, n);
    CHECK(io::write_cloud({{cloud, nullptr}}, folder / "a.e57") == 2 * n);
    const auto back = io::read_cloud(folder / "a.e57");
    CHECK(back.warnings.empty());
    CHECK(back.format == "E57, 2 scans");
    CHECK(all_records(*back.cloud) == all_records(*cloud));
    REQUIRE(back.cloud->stations().size() == 2);
    CHECK(back.cloud->stations()[1].name == "Chamber west");
    CHECK(back.cloud->stations()[1].position.x == 412310);
    CHECK(back.cloud->crs() == "Ashmere local grid");
    CHECK(back.cloud->size() == cloud->size());  // invalid ones have a record, but no point
    // Writing it again changes nothing.
    io::write_cloud({{back.cloud, nullptr}}, folder / "b.e57");
    CHECK(all_records(*io::read_cloud(folder / "b.e57").cloud) == all_records(*cloud));
}

TEST_CASE("PartOfTheScansIsWrittenWithoutTheRest") {
    const test::TemporaryFolder folder;
    const auto cloud = test::e57_scans(5000, 3);
    auto keep = std::make_shared<io::KeepBits>(10'000);
    for (std::uint64_t i = 0; i < 10'000; i += 3) keep->drop(i);
    CHECK(io::write_cloud({{cloud, keep}}, folder / "a.e57") == keep->count());
    const std::string all = all_records(*cloud), left = all_records(*io::read_cloud(folder / "a.e57").cloud);
    const std::size_t step = cloud->records()->layout().record_bytes;
    std::string expected;
    for (std::uint64_t i = 0; i < 10'000; ++i)
        if (i % 3) expected += all.substr(i * step, step);
    CHECK(left == expected);
}

TEST_CASE("LasToE57AndBackKeepsEveryNumber") {
    const test::TemporaryFolder folder;
    test::LasSpec spec{4, 7, 3000, 0, "", 8};
    spec.scan_like = true;
    test::write_file(folder / "a.las", test::las_file(spec));
    const auto las = io::read_cloud(folder / "a.las").cloud;
    io::write_cloud({{las, nullptr}}, folder / "a.e57");
    const auto e57 = io::read_cloud(folder / "a.e57").cloud;
    for (const std::uint64_t i : {0u, 1u, 1500u, 2999u}) {
        CHECK(number(*e57, "x", i) == number(*las, "x", i));
        CHECK(number(*e57, "z", i) == number(*las, "z", i));
        CHECK(number(*e57, "intensity", i) == Approx(number(*las, "intensity", i)).margin(1e-9));
        CHECK(number(*e57, "green", i) == Approx(number(*las, "green", i)).margin(1e-9));
        for (const char* same : {"class", "time", "user_data", "return", "scan_angle"})
            CHECK(number(*e57, same, i) == Approx(number(*las, same, i)).epsilon(1e-14));
    }
}

TEST_CASE("EveryStationOutlivesE57AndPtx") {
    // Points of stations that follow each other, and in any order; some of them left out.
    demo::Trial t = demo::make_trial("passers", 2, 0.003);
    REQUIRE(t.stations.size() == 4);
    const test::TemporaryFolder folder;
    for (const auto& [mixed, ending] :
         {std::pair{false, ".e57"}, {true, ".e57"}, {false, ".ptx"}, {true, ".ptx"}}) {
        CAPTURE(mixed, ending);
        if (mixed) std::shuffle(t.points.begin(), t.points.end(), std::mt19937_64(4));
        std::vector<demo::Truth> ignored;
        const auto cloud = demo::cloud_of(t, ignored);
        auto keep = std::make_shared<io::KeepBits>(t.points.size());
        std::map<std::pair<std::uint16_t, std::array<long long, 3>>, int> places;
        // To the millimetre, from a place off the raster of the points.
        const auto key = [](std::size_t scan, const Vec3& p) {
            const auto mm = [](double v) { return std::llround(v * 1e3 + 0.0317); };
            return std::pair{static_cast<std::uint16_t>(scan), std::array{mm(p.x), mm(p.y), mm(p.z)}};
        };
        std::vector<Vec3> was(cloud->size());
        for (std::size_t p = 0, e = 0; p < cloud->page_count(); ++p)
            for (const std::uint32_t r : cloud->order()->page(p)) was[r] = cloud->position(e++);
        for (std::size_t i = 0; i < was.size(); ++i) {
            if (i % 3 == 0 || t.points[i].scan == 2)
                keep->drop(i);
            else
                ++places[key(t.points[i].scan, was[i])];
        }
        const auto file = folder / ((mixed ? "mixed" : "in_turn") + std::string(ending));
        io::write_cloud({{cloud, keep}}, file);
        auto back = io::read_cloud(file).cloud;
        if (ending == std::string(".ptx")) {  // whose numbers are not integers with a scale
            io::write_cloud({{back}}, folder / "again.e57", {true});
            back = io::read_cloud(folder / "again.e57").cloud;
        }
        // The third kept nothing.
        REQUIRE(back->stations().size() == 3);
        std::map<std::size_t, std::size_t> was_number;  // by the number that each has now
        for (std::size_t k = 0; k < 3; ++k)
            for (const std::size_t s : {0, 1, 3}) {
                if (norm(back->stations()[k].position - cloud->stations()[s].position) > 1e-6) continue;
                was_number[k] = s;
                if (ending == std::string(".e57"))
                    CHECK(back->stations()[k].name == cloud->stations()[s].name);
            }
        REQUIRE(was_number.size() == 3);
        const auto scan = cloud::fetch_column(*back, "scan");
        int unknown = 0;
        for (std::size_t p = 0, e = 0; p < back->page_count(); ++p) {
            const std::size_t n = page_length(back->size(), p);
            for (std::size_t i = 0; i < n; ++i, ++e) {
                const auto s =
                    static_cast<std::size_t>(scan->base + static_cast<double>(scan->values.page(p)[i]));
                unknown += --places[key(was_number.at(s), back->position(e))] < 0;
            }
        }
        CHECK(unknown == 0);
        for (const auto& [k, n] : places) unknown += n != 0;
        CHECK(unknown == 0);
    }
}

TEST_CASE("AStationOutlivesE57AndNoneIsMadeUp") {
    // From a cloud of another kind: with the place of its station, and without any.
    demo::Trial t = demo::make_trial("passers", 2, 0.003);
    std::erase_if(t.points, [](const demo::TrialPoint& p) { return p.scan != 0; });
    t.stations.resize(1);
    const test::TemporaryFolder folder;
    for (const bool posed : {true, false}) {
        CAPTURE(posed);
        if (!posed) t.stations.clear();
        std::vector<demo::Truth> ignored;
        const auto cloud = demo::cloud_of(t, ignored);
        const auto file = folder / (posed ? "posed.e57" : "plain.e57");
        io::write_cloud({{cloud}}, file);
        const auto back = io::read_cloud(file).cloud;
        REQUIRE(back->size() == cloud->size());
        REQUIRE(back->stations().size() == t.stations.size());
        if (posed) CHECK(norm(back->stations()[0].position - cloud->stations()[0].position) < 1e-9);
        // The same places, whichever way they are counted.
        double worst = 0;
        std::vector<Vec3> was(cloud->size()), is(cloud->size());
        for (const auto& [c, places] : {std::pair{cloud, &was}, std::pair{back, &is}})
            for (std::size_t p = 0, e = 0; p < c->page_count(); ++p)
                for (const std::uint32_t r : c->order()->page(p)) (*places)[r] = c->position(e++);
        for (std::size_t i = 0; i < was.size(); ++i) worst = std::max(worst, norm(was[i] - is[i]));
        CHECK(worst < 1e-4);
    }
}

TEST_CASE("ADamagedPageOfAnE57IsNamedAndWhatStandsBeforeItCanBeRead") {
    const test::TemporaryFolder folder;
    io::write_cloud({{test::e57_scans(30'000, 1), nullptr}}, folder / "a.e57");
    std::string bytes = test::read_file(folder / "a.e57");
    bytes[200 * 1024 + 77] = static_cast<char>(bytes[200 * 1024 + 77] ^ 1);
    test::write_file(folder / "bad.e57", bytes);
    const std::string what = error_of(folder / "bad.e57");
    CHECK(what.find("Page 200 is damaged") != std::string::npos);
    CHECK(what.find("'Chamber east'") != std::string::npos);
    const auto rest = io::read_cloud(folder / "bad.e57", partial());
    const auto whole = io::read_cloud(folder / "a.e57").cloud;
    REQUIRE(rest.warnings.size() == 1);
    const std::uint64_t count = rest.cloud->records()->count();
    CHECK(count > 30'000);  // all of the second scan, and the beginning of the first
    CHECK(count < 60'000);
    const std::string all = all_records(*whole), got = all_records(*rest.cloud);
    const std::size_t step = whole->records()->layout().record_bytes, first = (count - 30'000) * step;
    CHECK(got.substr(0, first) == all.substr(0, first));
    CHECK(got.substr(first) == all.substr(30'000 * step));
}

TEST_CASE("LyingE57HeadersAreErrors") {
    const test::TemporaryFolder folder;
    io::write_cloud({{test::e57_scans(40, 1), nullptr}}, folder / "a.e57");
    const std::string good = test::read_file(folder / "a.e57");
    const auto refused = [&](const std::string& s, const char* word) {
        test::write_file(folder / "bad.e57", s);
        const std::string e = error_of(folder / "bad.e57");
        CAPTURE(e);
        CHECK(e.find(word) != std::string::npos);
    };
    // Changes a text of the XML part and makes the checksums right again.
    const auto with = [&](const std::string& from, const std::string& to) {
        std::string s = good;
        const std::size_t at = s.find(from);
        REQUIRE(at != std::string::npos);
        s.replace(at, from.size(), to);
        for (std::size_t p = 0; p + 1024 <= s.size(); p += 1024)
            store_le(s.data() + p + 1020,
                     byte_swapped(io::e57::crc32c(std::as_bytes(std::span(s)).subspan(p, 1020))));
        return s;
    };
    refused(good.substr(0, 30), "ASTM-E57");
    refused(good.substr(0, 1024), "outside the file");
    refused(with("recordCount=\"40\"", "recordCount=\"99\""), "points are missing");
    refused(with("<sphericalRange type=\"Float\"", "<sphericalRange type=\"Flaot\""), "is not known");
    refused(with("minimum=\"-500000\"", "minimum=\"9500000\""), "makes no sense");
    refused(with("<cartesianX ", "<cartesianW "), "neither cartesian nor spherical");
    refused(with("</e57Root>", "</e57Rood>"), "cannot be read");
    for (std::size_t cut = 0; cut < good.size(); cut += 333) {
        test::write_file(folder / "cut.e57", good.substr(0, cut));
        CHECK_FALSE(error_of(folder / "cut.e57").empty());
    }
}

TEST_CASE("PtxKeepsGridPoseAndEmptyCells") {
    const test::TemporaryFolder folder;
    const bool colour = GENERATE(false, true), crlf = GENERATE(false, true);
    const std::string text = test::ptx_text(5, 7, colour);
    std::string file = text;
    if (crlf)
        for (std::size_t at = 0; (at = file.find('\n', at)) != std::string::npos; at += 2)
            file.insert(at, "\r");
    test::write_file(folder / "a.ptx", file);
    const auto c = io::read_cloud(folder / "a.ptx").cloud;
    CHECK(c->size() == 60);  // of 70 cells
    CHECK(c->records()->count() == 70);
    REQUIRE(c->stations().size() == 2);
    CHECK(c->stations()[1].position.x == 412310);
    CHECK(number(*c, "row", 9) == 2);
    CHECK(number(*c, "column", 9) == 1);
    CHECK(number(*c, "scan", 36) == 1);
    // The first scan is turned by 90 degrees: local (0.5, 2, 0) is 2 m west and 0.5 m north of the station.
    CHECK(number(*c, "x", 0) == Approx(412300 - 2).margin(1e-9));
    CHECK(number(*c, "y", 0) == Approx(5218930 + 0.5).margin(1e-9));
    io::write_cloud({{c, nullptr}}, folder / "b.ptx");
    CHECK(test::read_file(folder / "b.ptx") == text);
    // What is removed becomes an empty cell; the grid stays.
    auto keep = std::make_shared<io::KeepBits>(70);
    keep->drop(0);
    CHECK(io::write_cloud({{c, keep}}, folder / "c.ptx") == 59);
    const auto less = io::read_cloud(folder / "c.ptx").cloud;
    CHECK(less->size() == 59);
    CHECK(less->records()->count() == 70);
    CHECK(number(*less, "row", 9) == 2);
}

TEST_CASE("BrokenPtxSaysTheLineAndGivesWhatIsWhole") {
    const test::TemporaryFolder folder;
    const std::string text = test::ptx_text(5, 7, true);
    const auto put = [&](const std::string& s) { test::write_file(folder / "a.ptx", s); };
    put(text.substr(0, text.size() * 3 / 4));
    CHECK(error_of(folder / "a.ptx").find("line") != std::string::npos);
    CHECK(io::read_cloud(folder / "a.ptx", partial()).cloud->records()->count() == 70);
    put("4000000000\n" + text.substr(2));
    CHECK(error_of(folder / "a.ptx").find("more than the file can hold") != std::string::npos);
    put("5\nseven\n");
    CHECK(error_of(folder / "a.ptx").find("a.ptx, line 2") != std::string::npos);
    put("");
    CHECK(error_of(folder / "a.ptx").find("no scan") != std::string::npos);
    for (std::size_t cut = 0; cut < text.size(); cut += 17) {
        put(text.substr(0, cut));
        for (const io::ReadOptions& o : {io::ReadOptions{}, partial()}) try {
                const auto size = io::read_cloud(folder / "a.ptx", o).cloud->size();
                CHECK(size <= 60);
            } catch (const Error&) {
            }
    }
}

TEST_CASE("PtsBlocksAreReadAndWritten") {
    const test::TemporaryFolder folder;
    test::write_file(folder / "a.pts",
                     "2\n1.5 2.5 3.25 -200 10 20 30\n1.5 2.75 3.25 100 11 21 31\n\n1\r\n9.5 2.5 3.0 0 1 2 3");
    const auto c = io::read_cloud(folder / "a.pts").cloud;
    CHECK(c->size() == 3);
    CHECK(number(*c, "scan", 2) == 1);
    CHECK(number(*c, "green", 1) == 21);
    io::write_cloud({{c, nullptr}}, folder / "b.pts");
    CHECK(test::read_file(folder / "b.pts") ==
          "3\n1.50 2.50 3.25 -200 10 20 30\n1.50 2.75 3.25 100 11 21 31\n9.50 2.50 3.00 0 1 2 3\n");
    test::write_file(folder / "bad.pts", "5\n1 2 3 4 5 6 7\n");
    CHECK(error_of(folder / "bad.pts").find("5 points were announced, but there are 1") != std::string::npos);
    CHECK(io::read_cloud(folder / "bad.pts", partial()).cloud->size() == 1);
    test::write_file(folder / "odd.pts", "1\n1 2 3 4 5\n");
    CHECK(error_of(folder / "odd.pts").find("line 2") != std::string::npos);
    test::write_file(folder / "bare.pts", "1 2 3\n4 5 6\n");
    CHECK(io::read_cloud(folder / "bare.pts").cloud->size() == 2);
}

TEST_CASE("AnyCloudCanBeWrittenAsPtx") {
    const test::TemporaryFolder folder;
    test::write_file(folder / "a.las", test::las_file({4, 7, 500, 0, "", 4}));
    const auto las = io::read_cloud(folder / "a.las").cloud;
    CHECK(io::write_cloud({{las, nullptr}}, folder / "a.ptx") == 500);
    const auto ptx = io::read_cloud(folder / "a.ptx").cloud;
    CHECK(ptx->size() == 500);
    for (const std::uint64_t i : {0u, 250u, 499u})
        CHECK(number(*ptx, "x", i) == Approx(number(*las, "x", i)).margin(1e-6));
}

TEST_CASE("PrefixesOfChannelsAreDeclaredWhateverTheirFileSaid", "[e57]") {
    // A column of another file is called nor:normalX; nobody said what the prefix stands for.
    const test::TemporaryFolder f;
    test::write_file(f / "n.txt", "x y z nor:normalX 1st\n0 0 0 0.5 7\n1 0 0 0.25 8\n0 1 0 -1 9\n");
    io::ReadOptions options;
    options.text = io::TextReading{};
    options.text->separator = ' ';
    options.text->skip = 1;
    options.text->columns = {"x", "y", "z", "nor:normalX", "1st"};
    const auto read = io::read_cloud(f / "n.txt", options);
    REQUIRE(read.cloud->records()->layout().find("nor:normalX"));
    io::write_cloud({{read.cloud}}, f / "n.e57");
    const std::string bytes = test::read_file(f / "n.e57");
    std::size_t elements = 0;
    for (std::size_t at = bytes.find('<'); at != std::string::npos; at = bytes.find('<', at + 1)) {
        const std::size_t end = bytes.find_first_of(" />\n", at + 1);
        const std::string name = bytes.substr(at + 1, std::min<std::size_t>(end - at - 1, 60));
        if (name.empty() || !std::isalnum(static_cast<unsigned char>(name[0]))) continue;
        const std::size_t colon = name.find(':');
        CAPTURE(name);
        ++elements;
        CHECK_FALSE(std::isdigit(static_cast<unsigned char>(name[0])));  // no name in XML begins with one
        if (colon != std::string::npos)
            CHECK(bytes.find("xmlns:" + name.substr(0, colon) + "=") != std::string::npos);
    }
    CHECK(elements > 20);
    // The values are there under the name that they have in this file.
    const auto back = io::read_cloud(f / "n.e57");
    REQUIRE(back.cloud->size() == 3);
    double sum = 0;
    for (const cloud::Field& field : back.cloud->records()->layout().fields)
        if (field.name.find("normal") != std::string::npos) {
            const auto column = cloud::fetch_column(*back.cloud, field.name);
            for (const float v : column->values.page(0)) sum += column->base + static_cast<double>(v);
        }
    CHECK(sum == Approx(-0.25));
}
