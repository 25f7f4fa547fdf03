// Surfaces of LandXML 1.2: points northing first, faces by the numbers of points.

#include <fmt/chrono.h>
#include <fmt/format.h>

#include <pugixml.hpp>
#include <unordered_map>

#include "core/base/error.h"
#include "core/geometry/predicates.h"
#include "core/io/landxml.h"
#include "core/io/lines/line_sources.h"
#include "core/io/mesh/mesh_io.h"
#include "core/io/reference/remark.h"
#include "core/io/reference/system.h"

namespace pristine::io {
namespace {

// Turned so that it faces upwards; false for one that stands upright.
bool face_up(const mesh::TriMesh& m, std::array<std::uint32_t, 3>& t) {
    const Vec3 &a = m.vertices[t[0]], &b = m.vertices[t[1]], &c = m.vertices[t[2]];
    const int turn = orientation(a.x, a.y, b.x, b.y, c.x, c.y);
    if (turn < 0) std::swap(t[1], t[2]);
    return turn != 0;
}

}  // namespace

namespace {

MeshFile surface_of(const pugi::xml_node& surface, const std::string& place) {
    MeshFile m;
    m.format = "LandXML surface";
    m.surface = true;
    m.name = surface.attribute("name").as_string();
    const pugi::xml_node definition = local_child(surface, "Definition");
    std::size_t upright = 0;
    std::unordered_map<std::int64_t, std::uint32_t> number;
    for (const pugi::xml_node& p : local_child(definition, "Pnts").children()) {
        if (local_name(p) != "P") continue;
        const std::vector<double> v = numbers_in(p.text().as_string(), "point", place);
        if (v.size() < 3) throw Error(ErrorCode::Format, "A point has fewer than three coordinates", place);
        number[p.attribute("id").as_llong()] = static_cast<std::uint32_t>(m.mesh.vertices.size());
        m.mesh.vertices.push_back({v[1], v[0], v[2]});
    }
    for (const pugi::xml_node& f : local_child(definition, "Faces").children()) {
        if (local_name(f) != "F" || f.attribute("i").as_int() == 1)
            continue;  // invisible: outside of the surface
        const std::vector<double> v = numbers_in(f.text().as_string(), "face", place);
        std::array<std::uint32_t, 3> t{};
        if (v.size() < 3) throw Error(ErrorCode::Format, "A face has fewer than three corners", place);
        for (std::size_t k = 0; k < 3; ++k) {
            const auto it = number.find(static_cast<std::int64_t>(v[k]));
            if (it == number.end())
                throw Error(ErrorCode::Format, fmt::format("A face names point {} that is not there", v[k]),
                            place);
            t[k] = it->second;
        }
        if (face_up(m.mesh, t))
            m.mesh.triangles.push_back(t);
        else
            ++upright;
    }
    if (upright > 0)
        m.warnings.push_back(
            fmt::format("{} faces stand upright or have no area and were left out", upright));
    return m;
}

}  // namespace

std::vector<MeshFile> read_landxml_surfaces(const std::string& text, const std::string& place) {
    pugi::xml_document doc;
    const pugi::xml_node root = landxml_root(doc, text, place);
    const cloud::Reference reference = landxml_reference(root);
    std::vector<MeshFile> found;
    for (const pugi::xml_node& group : root.children()) {
        if (local_name(group) != "Surfaces") continue;
        for (const pugi::xml_node& surface : group.children()) {
            if (local_name(surface) != "Surface" || !local_child(local_child(surface, "Definition"), "Faces"))
                continue;
            MeshFile m = surface_of(surface, place);
            m.unit = reference.unit;
            m.height_unit = reference.height_unit;
            m.crs = reference.crs;
            found.push_back(std::move(m));
        }
    }
    if (found.empty()) throw Error(ErrorCode::Format, "There is no surface with faces in the file", place);
    return found;
}

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

}  // namespace

std::string landxml_unit(const std::string& linear) {
    for (const UnitWords& w : kUnitWords)
        if (linear == w.linear) return w.id;
    return {};
}

std::string landxml_of(const mesh::TriMesh& m, const std::string& name, const cloud::Reference& reference) {
    const std::tm now = fmt::localtime(std::time(nullptr));
    pugi::xml_document names;
    names.append_child("Surface").append_attribute("name").set_value(name.c_str());
    struct Writer : pugi::xml_writer {
        std::string text;
        void write(const void* data, std::size_t n) override {
            text.append(static_cast<const char*>(data), n);
        }
    } start;
    names.print(start, "", pugi::format_raw | pugi::format_no_declaration);
    const std::string tag = start.text.substr(0, start.text.rfind("/>")) + ">";
    std::string s = fmt::format(
        "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<LandXML "
        "xmlns=\"http://www.landxml.org/schema/LandXML-1.2\" "
        "version=\"1.2\" date=\"{:%Y-%m-%d}\" time=\"{:%H:%M:%S}\">\n{}{}"
        "<Surfaces>\n{}\n<Definition surfType=\"TIN\">\n<Pnts>\n",
        now, now, units_element(reference.unit), system_element(reference), tag);
    for (std::size_t i = 0; i < m.vertices.size(); ++i)
        fmt::format_to(std::back_inserter(s), "<P id=\"{}\">{} {} {}</P>\n", i + 1, m.vertices[i].y,
                       m.vertices[i].x, m.vertices[i].z);
    s += "</Pnts>\n<Faces>\n";
    for (const auto& t : m.triangles)
        fmt::format_to(std::back_inserter(s), "<F>{} {} {}</F>\n", t[0] + 1, t[1] + 1, t[2] + 1);
    return s + "</Faces>\n</Definition>\n</Surface>\n</Surfaces>\n</LandXML>\n";
}

}  // namespace pristine::io
