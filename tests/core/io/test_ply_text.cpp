#include <catch2/catch.hpp>

#include <algorithm>

#include "core/base/bytes.h"
#include "core/io/fence_file.h"
#include "core/io/keep.h"
#include "core/io/ply/ply_header.h"
#include "core/io/text/text.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

std::string header(const std::string& format, int count, const std::string& properties,
                   const std::string& eol = "\n") {
    std::string s = "ply\nformat " + format +
                    " 1.0\ncomment made at Ashmere Lock\nobj_info odd line\nelement vertex " +
                    std::to_string(count) + "\n" + properties + "end_header\n";
    if (eol == "\n") return s;
    std::string t;
    for (const char c : s) t += c == '\n' ? eol : std::string(1, c);
    return t;
}

template <class T>
void add(std::string& s, T v, bool big) {
    append_le(s, big ? byte_swapped(v) : v);
}

std::string binary_ply(bool big, int n) {
    std::string s = header(big ? "binary_big_endian" : "binary_little_endian", n,
                           "property uchar red\nproperty uchar green\nproperty uchar blue\nproperty double "
                           "x\nproperty float quality\nproperty double y\nproperty double z\n");
    for (int i = 0; i < n; ++i) {
        add(s, static_cast<std::uint8_t>(i), big);
        add(s, static_cast<std::uint8_t>(2 * i), big);
        add(s, static_cast<std::uint8_t>(3 * i), big);
        add(s, 412300.0 + i * 0.125, big);
        add(s, static_cast<float>(i) * 0.5f, big);
        add(s, 5218930.0 + i, big);
        add(s, 58.0 - i * 0.25, big);
    }
    return s;
}

std::shared_ptr<const cloud::PointCloud> read_ply_text(const test::TemporaryFolder& f,
                                                       const std::string& name, const std::string& content) {
    test::write_file(f / name, content);
    return io::read_cloud(f / name).cloud;
}

std::uint64_t element_of_record(const cloud::PointCloud& c, std::uint32_t record) {
    for (std::size_t p = 0; p < c.page_count(); ++p) {
        const auto order = c.order()->page(p);
        if (const auto it = std::find(order.begin(), order.end(), record); it != order.end())
            return p * kPageSize + static_cast<std::size_t>(it - order.begin());
    }
    return UINT64_MAX;
}

double field(const cloud::PointCloud& c, std::uint64_t record, const std::string& name) {
    const auto r = c.records();
    std::vector<std::byte> raw(r->layout().record_bytes);
    r->read(record, raw);
    const cloud::Field* f = r->layout().find(name);
    REQUIRE(f);
    return value(*f, raw.data());
}

}  // namespace

TEST_CASE("PlyInEitherByteOrderAndAnyPropertyOrderGivesTheSamePoints") {
    const test::TemporaryFolder f;
    for (const bool big : {false, true}) {
        CAPTURE(big);
        const auto c = read_ply_text(f, "a.ply", binary_ply(big, 80));
        REQUIRE(c->size() == 80);
        const auto e = element_of_record(*c, 40);
        CHECK(c->position(e).x == Approx(412305.0).margin(1e-7));
        CHECK(c->position(e).y == Approx(5218970.0).margin(1e-7));
        CHECK(c->position(e).z == Approx(48.0).margin(1e-7));
        CHECK((*c->colour())[e] == (40u << 16 | 80u << 8 | 120u));
        CHECK(field(*c, 40, "quality") == 20.0);
    }
}

TEST_CASE("PlyIsWrittenBackByteForByteApartFromTheCount") {
    const test::TemporaryFolder f;
    for (const bool big : {false, true}) {
        const std::string in = binary_ply(big, 80);
        const auto c = read_ply_text(f, "a.ply", in);
        io::write_cloud({{c, nullptr}}, f / "b.ply", {true});
        CHECK((test::read_file(f / "b.ply") == in));
        ElementSet out(c->size());
        for (std::uint32_t r = 0; r < 79; ++r) out.insert(element_of_record(*c, r));
        io::write_cloud({{c, io::keep_all_but(*c, out)}}, f / "c.ply", {true});
        const std::string one = test::read_file(f / "c.ply");
        CHECK(one.find("element vertex 1\n") != std::string::npos);
        CHECK((one.substr(one.size() - 31) == in.substr(in.size() - 31)));
    }
}

TEST_CASE("AsciiPlyWithOddLineEndsAndBlanksOpens") {
    const test::TemporaryFolder f;
    for (const std::string eol : {"\n", "\r\n", "\r"}) {
        const std::string body = eol == "\r" ? "\n" : eol;  // lone CR only in the header, as some writers do
        const std::string s =
            header("ascii", 3,
                   "property  float x\nproperty float y \nproperty float z\nproperty uchar intensity\n",
                   eol) +
            "1 2 3 9" + body + "  4\t5 6 8" + body + "7 8 9 7";
        const auto c = read_ply_text(f, "odd.ply", s);
        REQUIRE(c->size() == 3);
        CHECK(c->position(element_of_record(*c, 1)).y == 5.0);
        CHECK(c->position(element_of_record(*c, 2)).z == 9.0);
        CHECK((*c->intensity())[element_of_record(*c, 0)] == 9);
    }
}

TEST_CASE("ElementsBeforeTheVerticesAreSteppedOver") {
    const test::TemporaryFolder f;
    std::string s =
        "ply\nformat binary_little_endian 1.0\nelement camera 2\nproperty float a\nproperty list uchar int "
        "ids\nelement vertex 1\nproperty float x\nproperty float y\nproperty float z\nend_header\n";
    for (int k = 0; k < 2; ++k) {
        add(s, 1.5f, false);
        add(s, static_cast<std::uint8_t>(k + 1), false);
        for (int i = 0; i <= k; ++i) add(s, std::int32_t{7}, false);
    }
    for (const float v : {1.f, 2.f, 3.f}) add(s, v, false);
    const auto c = read_ply_text(f, "c.ply", s);
    CHECK(c->position(0).z == 3.0);
}

TEST_CASE("BrokenPlyIsRefusedWithThePlace") {
    const test::TemporaryFolder f;
    const auto message = [&](const std::string& s) -> std::string {
        try {
            read_ply_text(f, "bad.ply", s);
        } catch (const Error& e) {
            return e.what();
        }
        return "opened";
    };
    const std::string xyz = "property float x\nproperty float y\nproperty float z\n";
    CHECK(message("ply\nformat ascii 1.0\n").find("end_header") != std::string::npos);
    CHECK(message(header("ascii", 2, "property flot x\n")).find("line 6") != std::string::npos);
    CHECK(message(header("binary_little_endian", 1000000000, xyz)).find("announces 1000000000") !=
          std::string::npos);
    CHECK(message(header("ascii", 3, xyz) + "1 2 3\n4 5\n6 7 8\n").find("line 11") != std::string::npos);
    CHECK(message(header("ascii", 3, xyz) + "1 2 3\n4 five 5\n6 7 8\n").find("'five' in column 2") !=
          std::string::npos);
    CHECK(message(header("ascii", 1, "property float x\nproperty float y\n") + "1 2\n")
              .find("no property 'z'") != std::string::npos);
    CHECK(message("ply\nformat ascii 1.0\nelement face 0\nend_header\n").find("no element 'vertex'") !=
          std::string::npos);
    std::string lists =
        "ply\nformat binary_little_endian 1.0\nelement a 1\nproperty list uint int i\nelement vertex 1\n" +
        xyz + "end_header\n";
    add(lists, std::uint32_t{4000000000u}, false);
    CHECK(message(lists).find("impossible length") != std::string::npos);
}

TEST_CASE("PointsWithoutCoordinatesStayInTheFileButAreNotShown") {
    const test::TemporaryFolder f;
    const std::string s = header("ascii", 4, "property float x\nproperty float y\nproperty float z\n") +
                          "1 2 3\nnan nan nan\n4 5 6\n7 8 inf\n";
    test::write_file(f / "nan.ply", s);
    const auto r = io::read_cloud(f / "nan.ply");
    CHECK(r.cloud->size() == 2);
    CHECK(r.warnings.size() == 1);
    CHECK(r.cloud->position(element_of_record(*r.cloud, 2)).x == 4.0);
    ElementSet out(2);
    out.insert(element_of_record(*r.cloud, 0));
    CHECK(io::write_cloud({{r.cloud, io::keep_all_but(*r.cloud, out)}}, f / "o.ply") == 3);
}

TEST_CASE("TextColumnsAreRecognised") {
    struct Case {
        std::string text;
        std::vector<std::string> names;
    };
    const Case cases[] = {
        {"1.5 2.5 3.5\n4 5 6\n", {"x", "y", "z"}},
        {"1,2,3,200\n4,5,6,100\n", {"x", "y", "z", "intensity"}},
        {"1;2;3;10;20;30\r\n4;5;6;1;2;3", {"x", "y", "z", "red", "green", "blue"}},
        {"1\t2\t3\t5\t10\t20\t30\n", {"x", "y", "z", "intensity", "red", "green", "blue"}},
        {"Northing;Easting;Height;Reflectance\n1;2;3;4\n", {"y", "x", "z", "intensity"}},
        {"# survey of the lock\n# x y z class\n1 2 3 4\n", {"x", "y", "z", "class"}},
        {"//X,Y,Z,R,G,B,Time\n1,2,3,4,5,6,7.25\n", {"x", "y", "z", "red", "green", "blue", "time"}},
        {"\xEF\xBB\xBFx,y,z\n1,2,3\n", {"x", "y", "z"}},
        {"\"X [m]\",\"Y [m]\",\"Z [m]\"\n1,2,3\n", {"x", "y", "z"}}};
    for (const Case& c : cases) {
        CAPTURE(c.text);
        CHECK(io::guess_text(c.text, "t").names == c.names);
    }
    CHECK_THROWS_AS(io::guess_text("hello\nworld\n", "t"), Error);
}

TEST_CASE("DecimalCommasAndACountLineAreUnderstood") {
    const test::TemporaryFolder f;
    const auto c = read_ply_text(f, "a.txt", "2\n412300,125;5218930,5;58,25\n412301,125;5218931,5;59,25\n");
    REQUIRE(c->size() == 2);
    CHECK(c->position(element_of_record(*c, 0)).x == Approx(412300.125).margin(1e-9));
    io::write_cloud({{c, nullptr}}, f / "b.txt");
    CHECK(test::read_file(f / "b.txt") == "2\n412300,125;5218930,5;58,25\n412301,125;5218931,5;59,25\n");
}

TEST_CASE("TextComesBackWithTheDigitsThatItHad") {
    const test::TemporaryFolder f;
    const std::string s =
        "x,y,z,intensity,note\n412306.184,5218940.627,61.442,12,0.5\n412306.185,5218940.628,61.443,65535,1."
        "5\n";
    const auto c = read_ply_text(f, "a.csv", s);
    io::write_cloud({{c, nullptr}}, f / "b.csv");
    CHECK(test::read_file(f / "b.csv") == s);
}

TEST_CASE("ABadLineIsNamedAndEverythingElseIsRead") {
    const test::TemporaryFolder f;
    std::string s;
    for (int i = 0; i < 70000; ++i) s += std::to_string(i) + " 1 2\n";
    s += "oops 1 2\n5 6 7\n";
    test::write_file(f / "a.xyz", s);
    const io::ReadResult r = io::read_cloud(f / "a.xyz");
    CHECK(r.cloud->size() == 70001);
    REQUIRE(r.warnings.size() == 1);
    CHECK(r.warnings[0].find("line 70001") != std::string::npos);
    // What was left out is not in what is written, and the rest is as it was.
    io::write_cloud({{r.cloud, nullptr}}, f / "b.xyz");
    CHECK(test::read_file(f / "b.xyz") == s.substr(0, s.size() - 15) + "5 6 7\n");
}

TEST_CASE("CloudsMoveBetweenFormatsWithTheirColumns") {
    const test::TemporaryFolder f;
    test::write_file(f / "a.las", test::las_file({4, 7, 3000, 0, "", 5}));
    const auto las = io::read_cloud(f / "a.las").cloud;
    for (const char* name : {"b.ply", "b.csv", "b.xyz"}) {
        CAPTURE(name);
        io::write_cloud({{las, nullptr}}, f / name);
        const auto other = io::read_cloud(f / name).cloud;
        REQUIRE(other->size() == 3000);
        for (const std::uint32_t r : {0u, 1234u, 2999u}) {
            for (const char* column : {"x", "y", "z"})
                CHECK(field(*other, r, column) == Approx(field(*las, r, column)).margin(1e-9));
            for (const char* column : {"intensity", "class", "return", "user_data", "scan"})
                CHECK(field(*other, r, column) == field(*las, r, column));
        }
        io::write_cloud({{other, nullptr}}, f / "back.las", {true});
        const auto back = io::read_cloud(f / "back.las").cloud;
        for (const std::uint32_t r : {0u, 1234u, 2999u})
            for (const char* column : {"x", "intensity", "class", "return", "returns", "scan"})
                CHECK(field(*back, r, column) == Approx(field(*las, r, column)).margin(1e-9));
    }
}

TEST_CASE("SeveralCloudsGoIntoOneFile") {
    const test::TemporaryFolder f;
    const auto a = read_ply_text(f, "a.xyz", "1 2 3\n4 5 6\n"),
               b = read_ply_text(f, "b.xyz", "500000000 2 3\n");
    CHECK(io::write_cloud({{a, nullptr}, {b, nullptr}}, f / "c.las") == 3);
    const auto c = io::read_cloud(f / "c.las").cloud;
    CHECK(c->position(element_of_record(*c, 2)).x == Approx(500000000).margin(0.5));
    CHECK(c->position(element_of_record(*c, 1)).x == Approx(4).margin(0.5));
}

TEST_CASE("ExistingFilesAreReplacedOnlyOnRequestAndNeverHalf") {
    const test::TemporaryFolder f;
    const auto a = read_ply_text(f, "a.xyz", "1 2 3\n4 5 6\n");
    test::write_file(f / "there.las", "precious");
    CHECK_THROWS_AS(io::write_cloud({{a, nullptr}}, f / "there.las"), Error);
    Progress p;
    p.cancel();
    CHECK_THROWS_AS(io::write_cloud({{a, nullptr}}, f / "there.las", {true}, p), Cancelled);
    CHECK(test::read_file(f / "there.las") == "precious");
    int files = 0;
    for ([[maybe_unused]] const auto& e : std::filesystem::directory_iterator(f.path())) ++files;
    CHECK(files == 2);  // nothing half-written is left beside it
    io::write_cloud({{a, nullptr}}, f / "there.las", {true});
    CHECK(io::read_cloud(f / "there.las").cloud->size() == 2);
}

TEST_CASE("FenceFilesAreReadAndOpenLinesRefused") {
    const test::TemporaryFolder f;
    test::write_file(f / "a.geojson",
                     R"({"type":"FeatureCollection","features":[{"type":"Feature","properties":{},"geometry":
        {"type":"Polygon","coordinates":[[[0,0,1],[4,0,1],[4,4,1],[0,0,1]],[[1,1],[2,1],[2,2],[1,1]]]}}]})");
    const auto rings = io::read_rings(f / "a.geojson");
    REQUIRE(rings.size() == 2);
    CHECK(rings[0].size() == 3);
    test::write_file(f / "b.txt", "# yard\n0 0\n1 0\n1 1\n\n5,5\n6,5\n6,6\n5,5\n");
    REQUIRE(io::read_rings(f / "b.txt").size() == 2);
    CHECK(io::read_rings(f / "b.txt")[1].size() == 3);
    test::write_file(f / "remark.txt", "0 0\n1 0\n# the corner by the gate\n1 1\n");
    CHECK(io::read_rings(f / "remark.txt").size() == 1);
    // Whatever a file is called, its first character tells text from GeoJSON.
    test::write_file(f / "yard.fence", "  0 0\n1 0\n1 1\n");
    CHECK(io::read_rings(f / "yard.fence").size() == 1);
    test::write_file(f / "yard", R"({"type":"Polygon","coordinates":[[[0,0],[1,0],[1,1],[0,0]]]})");
    CHECK(io::read_rings(f / "yard").size() == 1);
    test::write_file(f / "two.txt", "0 0\n1 0\n\n5 5\n6 5\n6 6\n");
    CHECK_THROWS_WITH(io::read_rings(f / "two.txt"), Catch::Contains("Ring 1") && Catch::Contains("two.txt"));
    test::write_file(f / "words.txt", "this is no fence\n");
    CHECK_THROWS_AS(io::read_rings(f / "words.txt"), Error);
    test::write_file(f / "open.geojson", R"({"type":"LineString","coordinates":[[0,0],[1,0],[1,1]]})");
    CHECK_THROWS_AS(io::read_rings(f / "open.geojson"), Error);
    test::write_file(f / "bad.geojson", "{\"type\":");
    CHECK_THROWS_AS(io::read_rings(f / "bad.geojson"), Error);
}
