#include "core/io/lines/lines.h"

#include <algorithm>
#include <array>
#include <cctype>
#include <cmath>

#include "core/base/file.h"
#include "core/base/units.h"
#include "core/io/landxml.h"
#include "core/io/lines/line_sources.h"
#include "core/io/reference/placing.h"
#include "core/io/reference/remark.h"

namespace pristine::io {
namespace {

std::string extension_of(const std::filesystem::path& path) {
    std::string e = path.extension().string();
    std::transform(e.begin(), e.end(), e.begin(), [](unsigned char c) { return std::tolower(c); });
    return e;
}

}  // namespace

const std::vector<LineFormat>& line_formats() {
    static const std::vector<LineFormat> all{{"LandXML", {"xml"}},
                                             {"DXF", {"dxf"}},
                                             {"GeoPackage", {"gpkg"}},
                                             {"Shapefile", {"shp"}},
                                             {"GeoJSON", {"geojson", "json"}}};
    return all;
}

bool is_line_file(const std::filesystem::path& path) {
    static constexpr std::array<const char*, 4> known{".shp", ".gpkg", ".dxf", ".xml"};
    const std::string e = extension_of(path);
    return std::find(known.begin(), known.end(), e) != known.end();
}

bool is_text_of_lines(const std::filesystem::path& path) {
    const std::string e = extension_of(path);
    if (e == ".txt") return true;
    if (is_line_file(path) || e == ".geojson" || e == ".json") return false;
    // Whoever names a file as he likes may mean GeoJSON all the same.
    const InputFile file(path);
    const std::string head = file.read_string(0, std::min<std::uint64_t>(file.size(), 4096));
    const std::size_t first = head.find_first_not_of(" \t\r\n\xef\xbb\xbf");
    return first != std::string::npos &&
           std::string_view("+-.0123456789#").find(head[first]) != std::string_view::npos;
}

cloud::Reference reference_of_lines(const std::filesystem::path& path) {
    const std::string e = extension_of(path);
    if (e == ".xml") {
        const InputFile file(path);
        pugi::xml_document doc;
        return landxml_reference(
            landxml_root(doc, file.read_string(0, file.size()), path.filename().string()));
    }
    if (e == ".dxf" || is_text_of_lines(path)) return sidecar_reference(path);
    return reference_of_ogr_lines(path);
}

std::vector<MapLine> read_lines(const std::filesystem::path& path, double sagitta) {
    if (!(sagitta > 0)) throw Error(ErrorCode::Usage, "A sagitta is larger than 0");
    const InputFile there(path);  // a clear word when it is missing
    std::vector<MapLine> lines = extension_of(path) == ".xml" ? read_landxml_lines(path, sagitta)
                                 : is_text_of_lines(path)     ? read_text_lines(path)
                                                              : read_ogr_lines(path, sagitta);
    for (MapLine& l : lines) {
        for (const Vec3& p : l.points)
            if (!std::isfinite(p.x) || !std::isfinite(p.y) || !std::isfinite(p.z))
                throw Error(ErrorCode::Format, "A line has a place that is no number",
                            path.filename().string());
        if (l.points.size() > 2 && l.points.front().x == l.points.back().x &&
            l.points.front().y == l.points.back().y) {
            l.points.pop_back();
            l.closed = true;
        }
        if (!l.role) l.role = role_in_name(l.layer.empty() ? path.stem().string() : l.layer, l.closed);
    }
    std::erase_if(lines, [](const MapLine& l) { return l.points.size() < 2; });
    if (lines.empty()) throw Error(ErrorCode::Format, "The file holds no lines", path.filename().string());
    return lines;
}

PlacedLines read_lines_in(const std::filesystem::path& path, const cloud::Reference& wanted, double sagitta) {
    const cloud::Reference from = reference_of_lines(path);
    Placing placing(from, wanted);
    const bool lengths = is_length(from.unit) && is_length(wanted.unit);
    const double factor = lengths ? length_unit(wanted.unit).metres / length_unit(from.unit).metres : 1;
    PlacedLines out{read_lines(path, sagitta * factor), {}};
    for (MapLine& l : out.lines) placing.apply(l.points);
    out.note = placing.note();
    return out;
}

}  // namespace pristine::io
