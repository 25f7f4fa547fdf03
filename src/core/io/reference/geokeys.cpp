// Systems as GeoTIFF keys. GDAL understands them inside a TIFF only, so a TIFF of one cell in memory carries
// them to it and back (OGC 19-008; TIFF 6.0, section 2).

#include <cpl_conv.h>
#include <cpl_vsi.h>
#include <gdal_priv.h>
#include <ogr_spatialref.h>

#include <atomic>
#include <cstring>
#include <memory>

#include "core/base/bytes.h"
#include "core/io/gdal_quiet.h"
#include "core/io/reference/system.h"

namespace pristine::io {
namespace {

enum Tag : std::uint16_t { kDirectory = 34735, kNumbers = 34736, kText = 34737 };
enum Type : std::uint16_t { kAscii = 2, kShort = 3, kLong = 4, kDouble = 12 };

struct Entry {
    std::uint16_t tag, type;
    std::uint32_t count;
    std::string data;
};

template <class T>
std::string bytes_of_all(const std::vector<T>& values) {
    std::string s;
    for (const T v : values) append_le(s, v);
    return s;
}

Entry number(std::uint16_t tag, std::uint16_t value) {
    return {tag, kShort, 1, bytes_of_all(std::vector<std::uint16_t>{value})};
}

std::string tiff_of(const std::vector<Entry>& entries) {
    std::string head = "II", values;
    append_le(head, std::uint16_t{42});
    append_le(head, std::uint32_t{8});
    append_le(head, static_cast<std::uint16_t>(entries.size()));
    const std::size_t after = head.size() + entries.size() * 12 + 4;
    for (const Entry& e : entries) {
        append_le(head, e.tag);
        append_le(head, e.type);
        append_le(head, e.count);
        if (e.data.size() <= 4) {
            head += e.data + std::string(4 - e.data.size(), '\0');
        } else {
            append_le(head, static_cast<std::uint32_t>(after + values.size()));
            values += e.data + std::string(e.data.size() % 2, '\0');
        }
    }
    append_le(head, std::uint32_t{0});
    return head + values + std::string(8, '\0');  // the cell itself lies in the last bytes
}

std::string fresh_name() {
    static std::atomic<std::uint64_t> count{0};
    return "/vsimem/pristine-keys-" + std::to_string(count++) + ".tif";
}

struct Gone {
    std::string path;
    ~Gone() { VSIUnlink(path.c_str()); }
};

// The data of one tag in a little-endian TIFF; empty: not there.
std::string tag_data(const std::string& tiff, std::uint16_t tag) {
    const auto fits = [&](std::size_t at, std::size_t n) {
        return at <= tiff.size() && n <= tiff.size() - at;
    };
    if (!fits(0, 8)) return {};
    const std::size_t ifd = load_le<std::uint32_t>(tiff.data() + 4);
    if (!fits(ifd, 2)) return {};
    for (std::size_t k = 0, n = load_le<std::uint16_t>(tiff.data() + ifd); k < n; ++k) {
        const std::size_t at = ifd + 2 + 12 * k;
        if (!fits(at, 12)) return {};
        if (load_le<std::uint16_t>(tiff.data() + at) != tag) continue;
        const auto type = load_le<std::uint16_t>(tiff.data() + at + 2);
        const std::size_t one = type == kDouble ? 8 : type == kLong ? 4 : type == kShort ? 2 : 1;
        const std::size_t bytes = one * load_le<std::uint32_t>(tiff.data() + at + 4);
        const std::size_t from = bytes <= 4 ? at + 8 : load_le<std::uint32_t>(tiff.data() + at + 8);
        return fits(from, bytes) ? tiff.substr(from, bytes) : std::string();
    }
    return {};
}

}  // namespace

std::string definition_of(const GeoKeys& keys) {
    if (keys.directory.size() < 8) return {};
    const GdalQuiet quiet;
    std::vector<Entry> entries{number(256, 1), number(257, 1), number(258, 8), number(259, 1),
                               number(262, 1)};
    entries.push_back({273, kLong, 1, bytes_of_all(std::vector<std::uint32_t>{8})});
    entries.push_back(number(277, 1));
    entries.push_back(number(278, 1));
    entries.push_back({279, kLong, 1, bytes_of_all(std::vector<std::uint32_t>{1})});
    // Without a scale and a tie point the keys are not looked at.
    entries.push_back({33550, kDouble, 3, bytes_of_all(std::vector<double>{1, 1, 0})});
    entries.push_back({33922, kDouble, 6, bytes_of_all(std::vector<double>{0, 0, 0, 0, 0, 0})});
    entries.push_back({kDirectory, kShort, static_cast<std::uint32_t>(keys.directory.size()),
                       bytes_of_all(keys.directory)});
    if (!keys.numbers.empty())
        entries.push_back(
            {kNumbers, kDouble, static_cast<std::uint32_t>(keys.numbers.size()), bytes_of_all(keys.numbers)});
    if (!keys.text.empty())
        entries.push_back(
            {kText, kAscii, static_cast<std::uint32_t>(keys.text.size() + 1), keys.text + '\0'});
    std::string tiff = tiff_of(entries);
    const Gone file{fresh_name()};
    VSILFILE* f =
        VSIFileFromMemBuffer(file.path.c_str(), reinterpret_cast<GByte*>(tiff.data()), tiff.size(), FALSE);
    if (!f) return {};
    VSIFCloseL(f);
    CPLSetThreadLocalConfigOption("GTIFF_REPORT_COMPD_CS", "YES");
    const char* const drivers[] = {"GTiff", nullptr};
    const std::unique_ptr<GDALDataset> data(
        GDALDataset::Open(file.path.c_str(), GDAL_OF_RASTER | GDAL_OF_READONLY, drivers, nullptr, nullptr));
    const OGRSpatialReference* srs = data ? data->GetSpatialRef() : nullptr;
    std::string out;
    if (srs) {
        char* wkt = nullptr;
        if (srs->exportToWkt(&wkt) == OGRERR_NONE && wkt) out = wkt;
        CPLFree(wkt);
    }
    CPLSetThreadLocalConfigOption("GTIFF_REPORT_COMPD_CS", nullptr);
    const System s = system_of(out);
    // A plain code says it shorter, if it really means the same.
    if (!s.code.empty() && system_of(s.code) == s) return s.code;
    return s.unit.empty() ? std::string() : out;
}

std::optional<GeoKeys> geokeys_of(const std::string& wkt) {
    const GdalQuiet quiet;
    OGRSpatialReference srs;
    if (srs.importFromWkt(wkt.c_str()) != OGRERR_NONE) return std::nullopt;
    srs.SetAxisMappingStrategy(OAMS_TRADITIONAL_GIS_ORDER);
    GDALDriver* driver = GetGDALDriverManager()->GetDriverByName("GTiff");
    if (!driver) return std::nullopt;
    const Gone file{fresh_name()};
    {
        const std::unique_ptr<GDALDataset> data(
            driver->Create(file.path.c_str(), 1, 1, 1, GDT_Byte, nullptr));
        if (!data) return std::nullopt;
        double place[6] = {0, 1, 0, 0, 0, -1};
        data->SetGeoTransform(place);
        if (data->SetSpatialRef(&srs) != CE_None) return std::nullopt;
    }
    vsi_l_offset size = 0;
    const GByte* bytes = VSIGetMemFileBuffer(file.path.c_str(), &size, FALSE);
    if (!bytes) return std::nullopt;
    const std::string tiff(reinterpret_cast<const char*>(bytes), size);
    GeoKeys keys;
    const std::string directory = tag_data(tiff, kDirectory), numbers = tag_data(tiff, kNumbers);
    for (std::size_t i = 0; i + 2 <= directory.size(); i += 2)
        keys.directory.push_back(load_le<std::uint16_t>(directory.data() + i));
    for (std::size_t i = 0; i + 8 <= numbers.size(); i += 8)
        keys.numbers.push_back(load_le<double>(numbers.data() + i));
    keys.text = tag_data(tiff, kText);
    while (!keys.text.empty() && keys.text.back() == '\0') keys.text.pop_back();
    if (keys.directory.size() < 8) return std::nullopt;
    return keys;
}

}  // namespace pristine::io
