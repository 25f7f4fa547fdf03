#include "odd/odd_files.h"

#include <fmt/format.h>

#include "core/base/bytes.h"
#include "core/io/cloud_io.h"
#include "support/cloud_makers.h"

namespace pristine::test {
namespace {

namespace fs = std::filesystem;

class Writer {
  public:
    explicit Writer(fs::path folder) : folder_(std::move(folder)) {}

    void odd(const std::string& reader, const std::string& name, const std::string& bytes,
             std::uint64_t points, const std::string& warning = {}) {
        put(reader, "odd", name, bytes, {{}, true, points, warning});
    }
    void broken(const std::string& reader, const std::string& name, const std::string& bytes,
                const std::string& says, std::uint64_t whole = 0) {
        put(reader, "broken", name, bytes, {{}, false, whole, says});
    }
    /// The bytes of a cloud written in a format.
    std::string written(const std::shared_ptr<const cloud::PointCloud>& c, const std::string& extension) {
        const fs::path at = folder_ / ("scratch." + extension);
        io::write_cloud({{c, nullptr}}, at, {true});
        std::string bytes = read_file(at);
        fs::remove(at);
        return bytes;
    }
    std::shared_ptr<const cloud::PointCloud> read(const std::string& bytes, const std::string& extension) {
        const fs::path at = folder_ / ("scratch-in." + extension);
        write_file(at, bytes);
        return io::read_cloud(at).cloud;  // its file stays open, though it goes with the folder
    }
    std::vector<OddFile> files;

  private:
    void put(const std::string& reader, const char* kind, const std::string& name, const std::string& bytes,
             OddFile file) {
        file.path = folder_ / reader / kind / name;
        fs::create_directories(file.path.parent_path());
        write_file(file.path, bytes);
        files.push_back(std::move(file));
    }
    fs::path folder_;
};

template <class T>
std::string with(std::string bytes, std::size_t at, T value) {
    store_le(bytes.data() + at, value);
    return bytes;
}

std::string replaced(std::string text, const std::string& from, const std::string& to) {
    const std::size_t at = text.find(from);
    if (at != std::string::npos) text.replace(at, from.size(), to);
    return text;
}

constexpr std::size_t kHeaderSize = 94, kPointsOffset = 96, kVlrCount = 100, kFormat = 104,
                      kRecordBytes = 105, kLegacyCount = 107, kScale = 131, kBounds = 179, kCount14 = 247;

void las(Writer& w) {
    const auto file = [](int minor, int format, std::uint64_t points, std::size_t extra = 0) {
        return las_file({minor, format, points, extra, "", 3});
    };
    const std::string plain = file(4, 7, 100);
    w.odd("las", "no-points.las", file(2, 1, 0), 0);
    w.odd("las", "one-point.las", file(4, 6, 1), 1);
    for (int format = 0; format <= 10; ++format)
        w.odd("las", fmt::format("format-{}.las", format), file(format < 6 ? 3 : 4, format, 77), 77);
    w.odd("las", "extra-bytes.LAS", file(4, 6, 50, 11), 50);
    w.odd("las", "bounds-are-nonsense.las", with(plain, kBounds, -1e300), 100);
    w.odd("las", "old-count-is-zero.las", with(plain, kLegacyCount, std::uint32_t{0}), 100);
    w.odd("las", "bytes-after-the-points.las", plain + std::string(777, '\x5a'), 100);
    w.odd("las", "more-vlrs-announced.las", with(file(2, 0, 10), kVlrCount, std::uint32_t{5}), 10,
          "not understood");
    {  // a longer header, as a later program may write it: everything behind it moves
        const std::size_t header = load_le<std::uint16_t>(plain.data() + kHeaderSize);
        std::string s = plain;
        s.insert(header, 21, '\0');
        s = with(s, kHeaderSize, static_cast<std::uint16_t>(header + 21));
        w.odd("las", "longer-header.las",
              with(s, kPointsOffset, load_le<std::uint32_t>(plain.data() + kPointsOffset) + 21), 100);
        // Bytes between the VLRs and the points.
        const auto points = load_le<std::uint32_t>(plain.data() + kPointsOffset);
        s = plain;
        s.insert(points, 13, '\x11');
        w.odd("las", "gap-before-points.las", with(s, kPointsOffset, points + 13), 100);
    }
    w.broken("las", "empty.las", "", "");
    w.broken("las", "cut-in-the-header.las", plain.substr(0, 150), "cut off");
    w.broken("las", "cut-in-a-point.las", plain.substr(0, plain.size() - 36 * 10 - 5), "announces 100 points",
             89);
    w.broken("las", "lying-count.las", with(plain, kCount14, std::uint64_t{1} << 60), "announces", 100);
    w.broken("las", "points-outside.las", with(plain, kPointsOffset, std::uint32_t{4'000'000'000}),
             "start at byte");
    w.broken("las", "points-in-the-header.las", with(plain, kPointsOffset, std::uint32_t{10}),
             "start at byte");
    w.broken("las", "short-records.las", with(plain, kRecordBytes, std::uint16_t{5}), "Records are said");
    w.broken("las", "unknown-format.las", with(plain, kFormat, std::uint8_t{11}), "Point format 11");
    w.broken("las", "no-scale.las", with(plain, kScale, 0.0), "scale factor");
    w.broken("las", "not-a-number-scale.las", with(plain, kScale, std::uint64_t{0x7FF8000000000000}),
             "scale factor");
    w.broken("las", "later-version.las", with(plain, std::size_t{25}, std::uint8_t{9}), "version 1.9");
}

void laz(Writer& w) {
    LasSpec spec;
    spec.points = 120'000;
    spec.scan_like = true;
    spec.point_format = 1;
    spec.minor = 3;
    const std::string large = w.written(w.read(las_file(spec), "las"), "laz");
    for (int format = 0; format <= 10; ++format) {
        const std::string las = las_file({format < 6 ? 3 : 4, format, 77, format % 3u, "", 5});
        w.odd("laz", fmt::format("format-{}.laz", format), w.written(w.read(las, "las"), "laz"), 77);
    }
    w.odd("laz", "no-points.laz", w.written(w.read(las_file({4, 7, 0, 0, "", 1}), "las"), "laz"), 0);
    w.odd("laz", "one-point.laz", w.written(w.read(las_file({2, 0, 1, 0, "", 1}), "las"), "laz"), 1);
    w.odd("laz", "called-las.las", large, 120'000);
    w.broken("laz", "table-cut.laz", large.substr(0, large.size() - 30), "table-cut.laz", 100'000);
    w.broken("laz", "half.laz", large.substr(0, large.size() / 2), "table of compressed chunks", 50'000);
    w.broken("laz", "lying-count.laz", with(large, kLegacyCount, std::uint32_t{4'000'000'000}),
             "announces 4000000000 points", 100'000);
    w.broken("laz", "unknown-compressor.laz", with(large, std::size_t{235 + 54}, std::uint8_t{9}),
             "Compressor 9");
    w.broken("laz", "nothing-says-how.laz", with(large, std::size_t{235 + 18}, std::uint16_t{1}),
             "nothing says how");
}

void e57(Writer& w) {
    const std::string small = w.written(e57_scans(40, 1), "e57"),
                      large = w.written(e57_scans(40'000, 2), "e57");
    w.odd("e57", "one-point-a-scan.e57", w.written(e57_scans(1, 4), "e57"), e57_scans(1, 4)->size());
    w.odd("e57", "uppercase.E57", small, e57_scans(40, 1)->size());
    w.odd("e57", "bytes-after-the-end.e57", small + std::string(1024, '\0'), e57_scans(40, 1)->size());
    w.broken("e57", "empty.e57", "", "");
    w.broken("e57", "cut-in-the-header.e57", small.substr(0, 30), "ASTM-E57");
    w.broken("e57", "one-page.e57", small.substr(0, 1024), "outside the file");
    w.broken("e57", "half.e57", large.substr(0, large.size() / 2), "");
    std::string flipped = small;  // in the first page of points; its checksum is then wrong
    flipped[1024 + 300] = static_cast<char>(flipped[1024 + 300] ^ 4);
    w.broken("e57", "flipped-bit.e57", flipped, "checksum");
}

void texts(Writer& w) {
    const std::string ptx = ptx_text(5, 7, true);
    std::string crlf = ptx;
    for (std::size_t at = 0; (at = crlf.find('\n', at)) != std::string::npos; at += 2) crlf.insert(at, "\r");
    w.odd("ptx", "windows-line-ends.ptx", crlf, 60);
    w.odd("ptx", "no-last-line-end.ptx", ptx.substr(0, ptx.size() - 1), 60);
    w.odd("ptx", "without-colour.ptx", ptx_text(5, 7, false), 60);
    w.odd("ptx", "one-cell.ptx", ptx_text(1, 1, false), w.read(ptx_text(1, 1, false), "ptx")->size());
    w.broken("ptx", "empty.ptx", "", "no scan");
    w.broken("ptx", "lying-size.ptx", "4000000000\n" + ptx.substr(2), "more than the file can hold");
    w.broken("ptx", "word-for-a-number.ptx", "5\nseven\n", "line 2");
    w.broken("ptx", "cut.ptx", ptx.substr(0, ptx.size() * 3 / 4), "line");

    w.odd("pts", "several-blocks.pts", "2\n1 2 3 -200 1 2 3\n1 2 4 100 1 2 3\n\n1\r\n9 2 3 0 1 2 3", 3);
    w.odd("pts", "without-a-count.pts", "1 2 3\n4 5 6\n", 2);
    w.odd("pts", "coordinates-only.pts", "2\n1 2 3\n4 5 6\n", 2);
    w.broken("pts", "too-few.pts", "5\n1 2 3 4 5 6 7\n", "5 points were announced, but there are 1", 1);
    w.broken("pts", "five-columns.pts", "1\n1 2 3 4 5\n", "line 2");

    const std::string head =
        "ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\n"
        "property float z\nend_header\n";
    w.odd("ply", "odd-blanks.ply", head + "  1\t2   3 \r\n4 5 6\r\n\n7 8 9", 3);
    w.odd("ply", "comments.ply",
          replaced(head, "element", "comment made by hand\nobj_info none\nelement") + "1 2 3\n4 5 6\n7 8 9\n",
          3);
    w.odd("ply", "no-points.ply", replaced(head, "vertex 3", "vertex 0"), 0);
    // With faces it would be a mesh (test_meshes.cpp).
    w.odd("ply", "lists-after.ply",
          replaced(head, "end_header", "element strip 1\nproperty list uchar int vertex_index\nend_header") +
              "1 2 3\n4 5 6\n7 8 9\n3 0 1 2\n",
          3);
    w.odd("ply", "one-is-no-number.ply", head + "1 2 3\nnan 5 6\n7 8 9\n", 2, "no finite coordinates");
    w.odd("ply", "far-from-zero.ply",
          replaced(replaced(replaced(head, "float x", "double x"), "float y", "double y"), "float z",
                   "double z") +
              "412300.0001 5218930.0002 58\n412300 5218930 58\n412301 5218931 59\n",
          3);
    w.broken("ply", "head-only.ply", "ply\nformat ascii 1.0\n", "end_header");
    w.broken("ply", "unknown-type.ply", replaced(head, "float x", "flot x"), "line 4");
    w.broken(
        "ply", "lying-count.ply",
        replaced(replaced(head, "ascii", "binary_little_endian"), "vertex 3", "vertex 1000000000") + "abc",
        "announces 1000000000");
    w.broken("ply", "short-line.ply", head + "1 2 3\n4 5\n7 8 9\n", "line 9", 1);
    w.broken("ply", "word.ply", head + "1 2 3\n4 five 6\n7 8 9\n", "'five'", 1);
    w.broken("ply", "no-height.ply", replaced(head, "property float z\n", "") + "1 2\n3 4\n5 6\n",
             "no property 'z'");

    w.odd("text", "decimal-commas.txt", "1,5;2,5;3,25\n2,5;3,5;4,25\n", 2);
    w.odd("text", "windows-line-ends.xyz", "1 2 3\r\n4 5 6\r\n", 2);
    w.odd("text", "named-columns.csv", "x,y,z,intensity\n1,2,3,100\n4,5,6,200\n", 2);
    w.odd("text", "comments.txt", "# made by hand\n1 2 3\n# in between\n4 5 6\n", 2);
    w.odd("text", "exponents.xyz", "1e2 -2.5E+1 +3\n4.0e0 5 .5\n", 2);
    w.broken("text", "empty.xyz", "", "");
    w.odd("text", "word.xyz", "1 2 3\n4 5 6\n7 eight 9\n10 11 12\n", 3,
          "line 3 ('eight' in column 2 is no number)");
    w.broken("text", "two-columns.xyz", "1 2\n3 4\n", "");
    w.broken("text", "binary.xyz", std::string("\0\1\2\3\4\5\377\376", 8), "");
}

}  // namespace

std::vector<OddFile> write_odd_files(const fs::path& folder) {
    fs::create_directories(folder);
    Writer w(folder);
    las(w);
    laz(w);
    e57(w);
    texts(w);
    for (const char* name : {"scratch-in.las", "scratch-in.ptx"}) fs::remove(folder / name);
    return std::move(w.files);
}

std::vector<OddFile> write_odd_lines(const fs::path& folder) {
    fs::create_directories(folder);
    Writer w(folder);
    const auto xml = [](const std::string& inside) {
        return "<?xml version=\"1.0\"?><LandXML version=\"1.2\">" + inside + "</LandXML>";
    };
    const auto breakline = [](const std::string& points) {
        return "<Breakline><PntList3D>" + points + "</PntList3D></Breakline>";
    };
    w.odd("landxml", "line-ends-between-numbers.xml", xml(breakline("1 1 58\r\n\t4 9\n60")), 1);
    w.odd("landxml", "unknown-parts.xml", xml("<Later a=\"b\"><More/></Later>" + breakline("1 1 58 4 9 60")),
          1);
    w.odd("landxml", "one-point-beside-a-line.xml", xml(breakline("1 1 58") + breakline("1 1 58 4 9 60")), 1);
    w.odd("landxml", "far-from-zero.xml", xml(breakline("5218930.0001 412300.0002 58 5218931 412301 59")), 1);
    w.broken("landxml", "four-numbers.xml", xml(breakline("1 2 3 4")), "4 numbers");
    w.broken("landxml", "no-lines.xml", xml(""), "no lines");
    w.broken("landxml", "something-else.xml", "<Other/>", "no LandXML");
    w.broken("landxml", "cut.xml", "<LandXML><Break", "cannot be read");
    w.broken("landxml", "word.xml", xml(breakline("1 2 three 4 5 6")), "");
    w.broken("landxml", "empty.xml", "", "");

    const std::string dxf =
        "0\nSECTION\n2\nENTITIES\n0\nLINE\n8\nedge\n10\n0\n20\n-5\n30\n3\n11\n30\n21\n-5\n31\n4\n";
    w.odd(
        "dxf", "windows-line-ends.dxf",
        [&] {
            std::string s = dxf + "0\nENDSEC\n0\nEOF\n";
            for (std::size_t at = 0; (at = s.find('\n', at)) != std::string::npos; at += 2)
                s.insert(at, "\r");
            return s;
        }(),
        1);
    w.odd("dxf", "points-and-text-beside-a-line.dxf",
          dxf +
              "0\nPOINT\n8\nx\n10\n1\n20\n1\n0\nTEXT\n8\nx\n10\n1\n20\n1\n40\n1\n1\nlock\n"
              "0\nENDSEC\n0\nEOF\n",
          1);
    w.broken("dxf", "no-lines.dxf", "0\nSECTION\n2\nENTITIES\n0\nENDSEC\n0\nEOF\n", "no lines");
    w.broken("dxf", "empty.dxf", "", "");
    w.broken("dxf", "noise.dxf", "nothing of the kind", "noise.dxf");
    w.broken("shp", "noise.shp", "nothing of the kind", "noise.shp");
    w.broken("shp", "empty.shp", "", "");
    w.broken("gpkg", "noise.gpkg", "nothing of the kind", "noise.gpkg");
    return std::move(w.files);
}

}  // namespace pristine::test
