#include "core/io/landxml_writer.h"

#include <fmt/chrono.h>
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <ctime>

#include "core/base/error.h"
#include "core/base/output.h"
#include "core/geometry/polygon.h"
#include "core/io/keep.h"
#include "core/io/landxml.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/io/reference/remark.h"
#include "core/io/reference/system.h"

namespace pristine::io {
namespace {

// The file's own spelling of a unit, and the kind of system that it belongs to.
struct UnitWords {
    const char *id, *kind, *linear, *area, *volume;
};
constexpr UnitWords kUnitWords[] = {{"m", "Metric", "meter", "squareMeter", "cubicMeter"},
                                    {"mm", "Metric", "millimeter", "squareMillimeter", "cubicMillimeter"},
                                    {"cm", "Metric", "centimeter", "squareCentimeter", "cubicCentimeter"},
                                    {"km", "Metric", "kilometer", "squareMeter", "cubicMeter"},
                                    {"ft", "Imperial", "foot", "squareFoot", "cubicFeet"},
                                    {"usft", "Imperial", "USSurveyFoot", "squareFoot", "cubicFeet"},
                                    {"in", "Imperial", "inch", "squareFoot", "cubicInch"}};

std::string units_element(const std::string& unit) {
    for (const UnitWords& w : kUnitWords)
        if (unit == w.id)
            return fmt::format(
                "<Units><{} linearUnit=\"{}\" areaUnit=\"{}\" volumeUnit=\"{}\" temperatureUnit=\"celsius\" "
                "pressureUnit=\"HPA\"/></Units>\n",
                w.kind, w.linear, w.area, w.volume);
    return {};  // not stated
}

std::string escaped(const std::string& text) {
    std::string out;
    for (const char c : text)
        out += c == '&' ? "&amp;" : c == '<' ? "&lt;" : c == '"' ? "&quot;" : std::string(1, c);
    return out;
}

std::string system_element(const cloud::Reference& r) {
    const System s = system_of(r.crs);
    if (s.name.empty()) return {};
    const bool plain = s.code.find('+') == std::string::npos && !s.code.empty();
    return fmt::format("<CoordinateSystem name=\"{}\"{} ogcWktCode=\"{}\"/>\n", escaped(s.name),
                       plain ? " epsgCode=\"" + s.code.substr(5) + "\"" : std::string(),
                       escaped(wkt_with_unit(r.crs, r.unit, r.height_unit)));
}

void append_places(std::string& s, const std::vector<Vec3>& places, bool close) {
    for (std::size_t i = 0; i < places.size() + (close ? 1 : 0); ++i) {
        const Vec3& p = places[i % places.size()];
        fmt::format_to(std::back_inserter(s), "{}{} {} {}", i > 0 ? " " : "", p.y, p.x, p.z);
    }
}

// A ring inside an odd number of others bounds a hole.
bool is_hole(const std::vector<MapLine>& rings, std::size_t which) {
    std::size_t round = 0;
    const Vec3& p = rings[which].points.front();
    for (std::size_t k = 0; k < rings.size(); ++k) {
        Polygon ring;
        for (const Vec3& c : rings[k].points) ring.push_back({c.x, c.y});
        round += k != which && contains(ring, {p.x, p.y});
    }
    return round % 2 == 1;
}

void append_source(std::string& s, const LandXmlSurface& surface) {
    if (surface.breaklines.empty() && surface.boundaries.empty()) return;
    s += "<SourceData>\n";
    if (!surface.boundaries.empty()) s += "<Boundaries>\n";
    for (std::size_t i = 0; i < surface.boundaries.size(); ++i) {
        const MapLine& l = surface.boundaries[i];
        fmt::format_to(std::back_inserter(s),
                       "<Boundary bndType=\"{}\" edgeTrim=\"true\" name=\"{}\"><PntList3D>",
                       is_hole(surface.boundaries, i) ? "void" : "outer", escaped(l.layer));
        append_places(s, l.points, true);
        s += "</PntList3D></Boundary>\n";
    }
    if (!surface.boundaries.empty()) s += "</Boundaries>\n";
    if (!surface.breaklines.empty()) s += "<Breaklines>\n";
    for (const MapLine& l : surface.breaklines) {
        fmt::format_to(std::back_inserter(s), "<Breakline brkType=\"standard\" name=\"{}\"><PntList3D>",
                       escaped(l.layer));
        append_places(s, l.points, l.closed);
        s += "</PntList3D></Breakline>\n";
    }
    if (!surface.breaklines.empty()) s += "</Breaklines>\n";
    s += "</SourceData>\n";
}

void append_surface(std::string& s, const LandXmlSurface& surface) {
    const mesh::TriMesh& m = surface.mesh;
    fmt::format_to(std::back_inserter(s), "<Surface name=\"{}\">\n", escaped(surface.name));
    append_source(s, surface);
    s += "<Definition surfType=\"TIN\">\n<Pnts>\n";
    for (std::size_t i = 0; i < m.vertices.size(); ++i)
        fmt::format_to(std::back_inserter(s), "<P id=\"{}\">{} {} {}</P>\n", i + 1, m.vertices[i].y,
                       m.vertices[i].x, m.vertices[i].z);
    s += "</Pnts>\n<Faces>\n";
    std::size_t down = 0;
    double area = 0, area_down = 0;
    for (const auto& t : m.triangles) {
        const Vec3 p = m.vertices[t[1]] - m.vertices[t[0]], q = m.vertices[t[2]] - m.vertices[t[0]];
        const double turn = p.x * q.y - p.y * q.x;
        area += std::fabs(turn);
        area_down += std::max(0.0, -turn);
        down += turn < 0;
        fmt::format_to(std::back_inserter(s), "<F>{} {} {}</F>\n", t[0] + 1, t[1] + 1, t[2] + 1);
    }
    // Rounding turns slivers over; they are read back as they are meant.
    constexpr double kRounding = 1e-6;
    if (area_down > kRounding * area)
        throw Error(ErrorCode::Unsupported,
                    fmt::format("{} of {} triangles of '{}' face downwards: LandXML holds terrain, no meshes",
                                down, m.triangles.size(), surface.name),
                    {}, "Write PLY, OBJ, STL or OFF.");
    s += "</Faces>\n</Definition>\n</Surface>\n";
}

double length_of(const MapLine& l) {
    double length = 0;
    for (std::size_t i = 1; i < l.points.size(); ++i) length += norm(l.points[i] - l.points[i - 1]);
    return length;
}

void append_geometry(std::string& s, const MapLine& l) {
    s += "<CoordGeom>\n";
    for (std::size_t i = 0; i + (l.closed ? 0 : 1) < l.points.size(); ++i) {
        const Vec3 &p = l.points[i], &q = l.points[(i + 1) % l.points.size()];
        fmt::format_to(std::back_inserter(s), "<Line><Start>{} {} {}</Start><End>{} {} {}</End></Line>\n",
                       p.y, p.x, p.z, q.y, q.x, q.z);
    }
    s += "</CoordGeom>";
}

void append_lines(std::string& s, const std::vector<MapLine>& lines, bool closed) {
    if (std::none_of(lines.begin(), lines.end(), [&](const MapLine& l) { return l.closed == closed; }))
        return;
    s += closed ? "<PlanFeatures>\n" : "<Alignments>\n";
    for (const MapLine& l : lines) {
        if (l.closed != closed) continue;
        if (closed)
            fmt::format_to(std::back_inserter(s), "<PlanFeature name=\"{}\" desc=\"{}\">", escaped(l.layer),
                           l.role ? name_of(*l.role) : "");
        else
            fmt::format_to(std::back_inserter(s),
                           "<Alignment name=\"{}\" desc=\"{}\" length=\"{}\" staStart=\"0\">",
                           escaped(l.layer), l.role ? name_of(*l.role) : "", length_of(l));
        append_geometry(s, l);
        s += closed ? "</PlanFeature>\n" : "</Alignment>\n";
    }
    s += closed ? "</PlanFeatures>\n" : "</Alignments>\n";
}

void append_points(std::string& s, const PointList& list) {
    fmt::format_to(std::back_inserter(s), "<CgPoints name=\"{}\">\n", escaped(list.name));
    for (std::size_t i = 0; i < list.points.size(); ++i) {
        const Vec3& p = list.points[i];
        const bool named = i < list.names.size() && !list.names[i].empty();
        fmt::format_to(std::back_inserter(s), "<CgPoint name=\"{}\"",
                       named ? escaped(list.names[i]) : std::to_string(i + 1));
        if (i < list.codes.size() && !list.codes[i].empty())
            fmt::format_to(std::back_inserter(s), " code=\"{}\"", escaped(list.codes[i]));
        fmt::format_to(std::back_inserter(s), ">{} {} {}</CgPoint>\n", p.y, p.x, p.z);
    }
    s += "</CgPoints>\n";
}

// The kept records of a cloud in file order, with their names and codes.
PointList points_of(const WriteItem& item, Progress& progress) {
    const auto keep = keep_points(item, progress);
    const auto records = item.cloud->records();
    const cloud::RecordLayout& layout = records->layout();
    const cloud::Field &x = *layout.find("x"), &y = *layout.find("y"), &z = *layout.find("z");
    const cloud::Field *name = layout.find("point"), *code = layout.find("code");
    const auto text = [](const cloud::Field& f, const std::byte* r) {
        return f.words ? word_of(f, value(f, r)) : fmt::format("{}", value(f, r));
    };
    PointList list;
    list.name = item.name;
    std::vector<std::byte> raw;
    for (std::uint64_t first = 0; first < records->count(); first += kPageSize) {
        progress.check();
        const std::uint64_t n = std::min<std::uint64_t>(kPageSize, records->count() - first);
        raw.resize(n * layout.record_bytes);
        records->read(first, raw);
        for (std::uint64_t i = 0; i < n; ++i) {
            if (keep && !(*keep)[first + i]) continue;
            const std::byte* r = raw.data() + i * layout.record_bytes;
            list.points.push_back({value(x, r), value(y, r), value(z, r)});
            if (name) list.names.push_back(text(*name, r));
            if (code) list.codes.push_back(text(*code, r));
        }
    }
    return list;
}

constexpr std::uint64_t kMostPoints = 5'000'000;  // 400 MB of text, that no reader of lists is made for

}  // namespace

std::string landxml_unit(const std::string& linear) {
    for (const UnitWords& w : kUnitWords)
        if (linear == w.linear) return w.id;
    return {};
}

std::string text_of(const LandXml& d) {
    const std::tm now = fmt::localtime(std::time(nullptr));
    std::string s = fmt::format(
        "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<LandXML "
        "xmlns=\"http://www.landxml.org/schema/LandXML-1.2\" "
        "version=\"1.2\" date=\"{:%Y-%m-%d}\" time=\"{:%H:%M:%S}\">\n{}{}",
        now, now, units_element(d.reference.unit), system_element(d.reference));
    append_lines(s, d.lines, false);
    for (const PointList& list : d.points) append_points(s, list);
    append_lines(s, d.lines, true);
    if (!d.surfaces.empty()) s += "<Surfaces>\n";
    for (const LandXmlSurface& surface : d.surfaces) append_surface(s, surface);
    if (!d.surfaces.empty()) s += "</Surfaces>\n";
    return s + "</LandXML>\n";
}

std::uint64_t write_landxml(const std::vector<WriteItem>& items, const std::filesystem::path& path,
                            bool replace, Progress& progress) {
    LandXml d;
    d.reference = items.front().cloud->reference();
    std::uint64_t triangles = 0, points = 0;
    for (std::size_t i = 0; i < items.size(); ++i) {
        const WriteItem& item = items[i];
        const std::string name = !item.name.empty()  ? item.name
                                 : items.size() == 1 ? path.stem().string()
                                                     : fmt::format("{} {}", path.stem().string(), i + 1);
        if (item.cloud->triangles()) {
            d.surfaces.push_back({name, kept_triangles(item), item.breaklines, item.boundaries});
            triangles += d.surfaces.back().mesh.triangles.size();
            continue;
        }
        if (item.cloud->size() > kMostPoints)
            throw Error(ErrorCode::Unsupported,
                        fmt::format("'{}' has {} points: LandXML is for lists of at most {}", name,
                                    item.cloud->size(), kMostPoints),
                        path.string(), "Write LAZ or E57.");
        d.points.push_back(points_of(item, progress));
        d.points.back().name = name;
        points += d.points.back().points.size();
    }
    OutputFile out(path, replace);
    out.write(text_of(d));
    progress.check();
    out.finish();
    return triangles > 0 ? triangles : points;
}

}  // namespace pristine::io
