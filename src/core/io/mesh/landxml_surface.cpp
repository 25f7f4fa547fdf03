// Surfaces of LandXML 1.2: points northing first, faces by the numbers of points.

#include <fmt/chrono.h>
#include <fmt/format.h>

#include <pugixml.hpp>
#include <unordered_map>

#include "core/base/error.h"
#include "core/geometry/predicates.h"
#include "core/io/lines/line_sources.h"
#include "core/io/mesh/mesh_io.h"

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

MeshFile read_landxml_surface(const std::string& text, const std::string& place) {
    pugi::xml_document doc;
    const auto parsed = doc.load_buffer(text.data(), text.size());
    if (!parsed)
        throw Error(ErrorCode::Format, std::string("The XML is broken: ") + parsed.description(),
                    fmt::format("{}, byte {}", place, parsed.offset));
    MeshFile m;
    m.format = "LandXML surface";
    m.surface = true;
    const pugi::xml_node root = doc.child("LandXML");
    const std::string unit = root.child("Units").first_child().attribute("linearUnit").as_string();
    m.unit = unit == "meter" ? "m" : unit == "foot" ? "ft" : unit == "USSurveyFoot" ? "usft" : "";
    std::size_t upright = 0, surfaces = 0;
    for (const auto& found : doc.select_nodes("/LandXML/Surfaces/Surface")) {
        const pugi::xml_node definition = found.node().child("Definition");
        if (!definition.child("Faces")) continue;
        ++surfaces;
        std::unordered_map<std::int64_t, std::uint32_t> number;
        for (const pugi::xml_node& p : definition.child("Pnts").children("P")) {
            const std::vector<double> v = numbers_in(p.text().as_string(), "point", place);
            if (v.size() < 3)
                throw Error(ErrorCode::Format, "A point has fewer than three coordinates", place);
            number[p.attribute("id").as_llong()] = static_cast<std::uint32_t>(m.mesh.vertices.size());
            m.mesh.vertices.push_back({v[1], v[0], v[2]});
        }
        for (const pugi::xml_node& f : definition.child("Faces").children("F")) {
            if (f.attribute("i").as_int() == 1) continue;  // invisible: outside of the surface
            const std::vector<double> v = numbers_in(f.text().as_string(), "face", place);
            std::array<std::uint32_t, 3> t{};
            if (v.size() < 3) throw Error(ErrorCode::Format, "A face has fewer than three corners", place);
            for (std::size_t k = 0; k < 3; ++k) {
                const auto it = number.find(static_cast<std::int64_t>(v[k]));
                if (it == number.end())
                    throw Error(ErrorCode::Format,
                                fmt::format("A face names point {} that is not there", v[k]), place);
                t[k] = it->second;
            }
            if (face_up(m.mesh, t))
                m.mesh.triangles.push_back(t);
            else
                ++upright;
        }
    }
    if (surfaces == 0) throw Error(ErrorCode::Format, "There is no surface with faces in the file", place);
    if (upright > 0)
        m.warnings.push_back(
            fmt::format("{} faces stand upright or have no area and were left out", upright));
    return m;
}

std::string landxml_of(const mesh::TriMesh& m, const std::string& name, const std::string& unit) {
    const char* linear = unit == "ft" ? "foot" : unit == "usft" ? "USSurveyFoot" : "meter";
    const char *area = unit == "ft" || unit == "usft" ? "squareFoot" : "squareMeter",
               *volume = unit == "ft" || unit == "usft" ? "cubicFeet" : "cubicMeter";
    const char* kind = unit == "ft" || unit == "usft" ? "Imperial" : "Metric";
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
        "version=\"1.2\" date=\"{:%Y-%m-%d}\" time=\"{:%H:%M:%S}\">\n<Units><{} linearUnit=\"{}\" "
        "areaUnit=\"{}\" "
        "volumeUnit=\"{}\" temperatureUnit=\"celsius\" pressureUnit=\"HPA\"/></Units>\n"
        "<Surfaces>\n{}\n<Definition surfType=\"TIN\">\n<Pnts>\n",
        now, now, kind, linear, area, volume, tag);
    for (std::size_t i = 0; i < m.vertices.size(); ++i)
        fmt::format_to(std::back_inserter(s), "<P id=\"{}\">{} {} {}</P>\n", i + 1, m.vertices[i].y,
                       m.vertices[i].x, m.vertices[i].z);
    s += "</Pnts>\n<Faces>\n";
    for (const auto& t : m.triangles)
        fmt::format_to(std::back_inserter(s), "<F>{} {} {}</F>\n", t[0] + 1, t[1] + 1, t[2] + 1);
    return s + "</Faces>\n</Definition>\n</Surface>\n</Surfaces>\n</LandXML>\n";
}

}  // namespace pristine::io
