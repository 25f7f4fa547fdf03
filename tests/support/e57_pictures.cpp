#include "support/e57_pictures.h"

#include <cpl_vsi.h>
#include <fmt/format.h>
#include <gdal_priv.h>

#include <cmath>
#include <numbers>
#include <random>

#include "core/base/bytes.h"
#include "core/cloud/builder.h"
#include "core/io/cloud_io.h"
#include "core/io/e57/head.h"
#include "core/io/e57/scan.h"
#include "support/cloud_makers.h"

namespace pristine::test {
namespace {

constexpr double kDegrees = 180 / std::numbers::pi;
constexpr std::uint32_t kQuarters[4] = {0xC02020, 0x20C020, 0x2020C0, 0xC0C020};  // above left, right; below
constexpr std::uint32_t kHalves[2] = {0x20C0C0, 0xC020C0};                        // left, right

template <class Colour>
std::string png(int width, int height, const Colour& colour) {
    GDALAllRegister();
    GDALDataset* made =
        GetGDALDriverManager()->GetDriverByName("MEM")->Create("", width, height, 3, GDT_Byte, nullptr);
    std::vector<unsigned char> row(static_cast<std::size_t>(width));
    for (int band = 0; band < 3; ++band)
        for (int y = 0; y < height; ++y) {
            for (int x = 0; x < width; ++x)
                row[static_cast<std::size_t>(x)] =
                    static_cast<unsigned char>(colour(x, y) >> (16 - 8 * band) & 255u);
            if (made->GetRasterBand(band + 1)->RasterIO(GF_Write, 0, y, width, 1, row.data(), width, 1,
                                                        GDT_Byte, 0, 0) != CE_None)
                throw std::runtime_error("no picture was made");
        }
    const char* path = "/vsimem/pictured.png";
    GDALClose(
        GetGDALDriverManager()->GetDriverByName("PNG")->CreateCopy(path, made, 0, nullptr, nullptr, nullptr));
    GDALClose(made);
    vsi_l_offset length = 0;
    GByte* bytes = VSIGetMemFileBuffer(path, &length, TRUE);
    std::string out(reinterpret_cast<const char*>(bytes), length);
    VSIFree(bytes);
    return out;
}

io::WriteItem scan(const Vec3& station, const std::vector<Vec3>& around, const char* name) {
    cloud::PointBatch b;
    for (const Vec3& p : around) {
        b.x.push_back(static_cast<std::int32_t>(std::lround(1e4 * p.x)));
        b.y.push_back(static_cast<std::int32_t>(std::lround(1e4 * p.y)));
        b.z.push_back(static_cast<std::int32_t>(std::lround(1e4 * p.z)));
        b.intensity.push_back(static_cast<std::uint16_t>(b.x.size()));
    }
    cloud::PointCloud::Parts parts;
    parts.grid = {{1e-4, 1e-4, 1e-4}, station};
    parts.unit = "m";
    parts.stations = {{name, station}};
    cloud::RecordLayout layout{"test",
                               14,
                               {{"x", cloud::FieldType::I32, 0, 0, 0, 1e-4, station.x},
                                {"y", cloud::FieldType::I32, 4, 0, 0, 1e-4, station.y},
                                {"z", cloud::FieldType::I32, 8, 0, 0, 1e-4, station.z},
                                {"intensity", cloud::FieldType::U16, 12}},
                               {}};
    std::string bytes;
    for (std::size_t i = 0; i < b.size(); ++i) {
        append_le(bytes, b.x[i]);
        append_le(bytes, b.y[i]);
        append_le(bytes, b.z[i]);
        append_le(bytes, b.intensity[i]);
    }
    parts.records = std::make_shared<cloud::MemoryRecords>(std::move(layout), std::move(bytes));
    return {cloud::build({b}, std::move(parts))};
}

// Well inside of the parts of the pictures, which are blended where they meet.
std::vector<Vec3> all_round(std::mt19937_64& dice) {
    std::vector<Vec3> out;
    std::uniform_real_distribution<double> u(0, 1);
    for (int k = 0; k < 4000; ++k) {
        const double azimuth = (k % 2 * 180 + 5 + 170 * u(dice)) / kDegrees;
        const double elevation = (k % 4 < 2 ? 5 + 70 * u(dice) : -5 - 70 * u(dice)) / kDegrees;
        const double range = 2 + 3 * u(dice), plan = range * std::cos(elevation);
        out.push_back({plan * std::cos(azimuth), plan * std::sin(azimuth), range * std::sin(elevation)});
    }
    return out;
}

// North of the second station: within 30 degrees of the middle of its picture, or far outside.
std::vector<Vec3> ahead(std::mt19937_64& dice) {
    std::vector<Vec3> out;
    std::uniform_real_distribution<double> u(0, 1);
    for (int k = 0; k < 2000; ++k) {
        const double off = k % 4 == 0 ? 70 + 40 * u(dice) : 4 + 24 * u(dice);
        const double side = (k % 2 ? off : -off) / kDegrees, range = 2 + 3 * u(dice);
        out.push_back({range * std::sin(side), range * std::cos(side), range * (u(dice) - 0.5) * 0.4});
    }
    return out;
}

std::string pose_xml(const Vec3& p, double w, double x, double y, double z) {
    return fmt::format(
        "<pose type=\"Structure\"><rotation type=\"Structure\"><w type=\"Float\">{}</w><x "
        "type=\"Float\">{}</x>"
        "<y type=\"Float\">{}</y><z type=\"Float\">{}</z></rotation><translation type=\"Structure\">"
        "<x type=\"Float\">{}</x><y type=\"Float\">{}</y><z type=\"Float\">{}</z></translation></pose>",
        w, x, y, z, p.x, p.y, p.z);
}

struct Section {
    std::uint64_t at = 0, length = 0;
};

}  // namespace

std::uint32_t PicturedTruth::colour(const Vec3& point) const {
    if (point.x < 0.5 * (kFirst.x + kSecond.x)) {
        const Vec3 v = point - kFirst;
        // The middle is east; the angle grows to the left.
        return kQuarters[(v.z < 0 ? 2 : 0) + (v.y < 0 ? 1 : 0)];
    }
    const Vec3 v = point - kSecond;
    if (v.y <= 0 || std::fabs(v.x) > v.y * std::tan(35 / kDegrees)) return 0x808080;
    return kHalves[v.x < 0 ? 0 : 1];
}

namespace {

Section write_blob(io::e57::PagedWriter& out, const std::string& bytes) {
    const Section s{out.physical(), bytes.size()};
    std::string head(8, '\0');
    append_le(head, static_cast<std::uint64_t>(16 + bytes.size()));
    out.write(head);
    out.write(bytes);
    out.write(std::string((4 - out.logical() % 4) % 4, '\0'));
    return s;
}

std::string image_xml(const std::string& name, const std::string& guid, const std::string& pose,
                      const std::string& projection) {
    return "<vectorChild type=\"Structure\"><name type=\"String\">" + name +
           "</name><associatedData3DGuid type=\"String\">" + guid + "</associatedData3DGuid>" + pose +
           projection + "</vectorChild>";
}

std::string projection_xml(const char* kind, const Section& s, int width, int height,
                           const std::string& more) {
    return fmt::format(
        "<{0} type=\"Structure\"><pngImage type=\"Blob\" fileOffset=\"{1}\" length=\"{2}\"/>"
        "<imageWidth type=\"Integer\">{3}</imageWidth><imageHeight "
        "type=\"Integer\">{4}</imageHeight>{5}</{0}>",
        kind, s.at, s.length, width, height, more);
}

std::string number_xml(const char* name, double v) {
    return fmt::format("<{0} type=\"Float\">{1}</{0}>", name, v);
}

std::string images_xml(io::e57::PagedWriter& out, const std::vector<io::e57::Scan>& scans,
                       PicturedFault fault) {
    const std::string dome =
        png(360, 180, [](int x, int y) { return kQuarters[(y < 90 ? 0 : 2) + (x < 180 ? 0 : 1)]; });
    const std::string window = png(300, 200, [](int x, int) { return kHalves[x < 150 ? 0 : 1]; });
    const std::string drum = png(100, 50, [](int, int) { return std::uint32_t{0xFFFFFF}; });
    Section of_dome = write_blob(out, fault == PicturedFault::NoPicture ? "no picture at all" : dome);
    const Section of_window = write_blob(out, window), of_drum = write_blob(out, drum);
    if (fault == PicturedFault::OffsetOutside) of_dome.at = 1'000'000'000;
    const double degree = std::numbers::pi / 180, h = std::sqrt(0.5);
    const std::string upright = pose_xml(PicturedTruth::kFirst, 1, 0, 0, 0);
    std::string xml =
        image_xml("dome", scans[0].guid, upright,
                  projection_xml("sphericalRepresentation", of_dome, fault == PicturedFault::NoSize ? 0 : 360,
                                 180, number_xml("pixelWidth", degree) + number_xml("pixelHeight", degree)));
    // Looks north: -z of the camera is +y of the world, its y is up.
    xml += image_xml(
        "window", scans[1].guid, pose_xml(PicturedTruth::kSecond, h, h, 0, 0),
        projection_xml("pinholeRepresentation", of_window, 300, 200,
                       number_xml("focalLength", 0.02) +
                           number_xml("pixelWidth", 0.02 * std::tan(35 * degree) / 150) +
                           number_xml("pixelHeight", 0.02 * std::tan(35 * degree) / 150) +
                           number_xml("principalPointX", 150) + number_xml("principalPointY", 100)));
    xml += image_xml("drum", scans[0].guid, upright,
                     projection_xml("cylindricalRepresentation", of_drum, 100, 50,
                                    number_xml("pixelWidth", 3.6 * degree) + number_xml("pixelHeight", 0.1) +
                                        number_xml("radius", 1) + number_xml("principalPointY", 25)));
    const std::string seen = projection_xml("visualReferenceRepresentation", of_drum, 100, 50, "");
    return xml + image_xml("overview", "", "", seen);
}

}  // namespace

void write_pictured_e57(const std::filesystem::path& path, PicturedFault fault) {
    std::mt19937_64 dice(57);
    const std::filesystem::path plain = path.string() + ".plain.e57";
    io::write_cloud(
        {scan(PicturedTruth::kFirst, all_round(dice), "S1"), scan(PicturedTruth::kSecond, ahead(dice), "S2")},
        plain);
    const InputFile file(plain);
    io::e57::PagedReader pages(file);
    std::string xml = io::e57::read_xml(file, pages);
    const auto scans = io::e57::parse_xml(xml, "test").scans;
    std::string head = file.read_string(0, 48);
    const auto xml_at = load_le<std::uint64_t>(reinterpret_cast<const std::byte*>(head.data()) + 24);
    std::string before(io::e57::to_logical(xml_at), '\0');
    pages.read(0, std::as_writable_bytes(std::span(before)));
    OutputFile output(path, true);
    io::e57::PagedWriter out(output);
    out.write(before);
    const std::string images = images_xml(out, scans, fault);
    const std::size_t at = xml.find("<images2D"), end = xml.find('>', at);
    xml = xml.substr(0, at) + "<images2D type=\"Vector\" allowHeterogeneousChildren=\"1\">" + images +
          "</images2D>" + xml.substr(end + 1);
    const std::uint64_t begins = out.physical();
    out.write(xml);
    const std::uint64_t size =
        (out.logical() + io::e57::kPayload - 1) / io::e57::kPayload * io::e57::kPageBytes;
    std::string fresh = head.substr(0, 16);
    append_le(fresh, size);
    append_le(fresh, begins);
    append_le(fresh, static_cast<std::uint64_t>(xml.size()));
    fresh += head.substr(40, 8);
    out.finish(fresh);
    output.finish();
    std::filesystem::remove(plain);
}

}  // namespace pristine::test
