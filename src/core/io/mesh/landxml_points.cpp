// Points of LandXML without faces: survey points (CgPoints), and surfaces of which only the points are given.

#include <cstring>
#include <pugixml.hpp>

#include "core/base/error.h"
#include "core/base/file.h"
#include "core/io/landxml.h"
#include "core/io/lines/line_sources.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/io/points.h"

namespace pristine::io {
namespace {

// Northing first, as LandXML writes places.
void add_place(const std::string& text, const std::string& place, PointList& list) {
    const std::vector<double> v = numbers_in(text.c_str(), "point", place);
    if (v.size() >= 3) list.points.push_back({v[1], v[0], v[2]});
}

void add_list(const pugi::xml_node& node, const std::string& place, PointList& list) {
    const std::vector<double> v = numbers_in(node.text().as_string(), "list of points", place);
    if (v.size() % 3 != 0)
        throw Error(ErrorCode::Format, "A list of points has a point without three numbers", place);
    for (std::size_t i = 0; i + 3 <= v.size(); i += 3) list.points.push_back({v[i + 1], v[i], v[i + 2]});
}

PointList points_of_surface(const pugi::xml_node& surface, const std::string& place) {
    PointList list;
    list.name = surface.attribute("name").as_string();
    const pugi::xml_node definition = local_child(surface, "Definition");
    if (local_child(definition, "Faces")) return list;  // its points are the corners of its faces
    for (const pugi::xml_node& p : local_child(definition, "Pnts").children())
        add_place(p.text().as_string(), place, list);
    for (const pugi::xml_node& data : local_child(surface, "SourceData").children()) {
        if (local_name(data) != "DataPoints") continue;
        for (const pugi::xml_node& points : data.children())
            if (local_name(points) == "PntList3D") add_list(points, place, list);
    }
    return list;
}

// Groups may lie in groups.
void add_survey_points(const pugi::xml_node& group, const std::string& place, PointList& list) {
    for (const pugi::xml_node& n : group.children()) {
        if (local_name(n) == "CgPoints") add_survey_points(n, place, list);
        if (local_name(n) != "CgPoint") continue;
        const std::size_t before = list.points.size();
        add_place(n.text().as_string(), place, list);
        if (list.points.size() == before) continue;  // a reference to another point, or one without a height
        list.names.push_back(n.attribute("name").as_string());
        const std::string code = n.attribute("code").as_string(), says = n.attribute("desc").as_string();
        list.codes.push_back(code.empty() ? says : code);
    }
}

}  // namespace

bool landxml_has_items(const std::filesystem::path& path) {
    const InputFile file(path);
    const std::string all = file.read_string(0, file.size());
    if (all.rfind("\xFF\xFE", 0) == 0 || all.rfind("\xFE\xFF", 0) == 0) return true;  // two bytes a letter
    for (const char* what : {"Faces", "CgPoint ", "CgPoint>", "DataPoints", "Pnts"})
        if (all.find(what) != std::string::npos) return true;
    return false;
}

std::vector<ReadResult> read_landxml_points(const std::string& text, const std::string& place,
                                            Progress& progress) {
    pugi::xml_document doc;
    const pugi::xml_node root = landxml_root(doc, text, place);
    const cloud::Reference reference = landxml_reference(root);
    std::vector<PointList> lists;
    PointList survey;
    survey.name = "Survey points";
    for (const pugi::xml_node& group : root.children()) {
        if (local_name(group) == "CgPoints") add_survey_points(group, place, survey);
        if (local_name(group) != "Surfaces") continue;
        for (const pugi::xml_node& surface : group.children())
            if (local_name(surface) == "Surface") lists.push_back(points_of_surface(surface, place));
    }
    lists.push_back(std::move(survey));
    std::vector<ReadResult> out;
    for (const PointList& list : lists)
        if (!list.points.empty())
            out.push_back({cloud_of_points(list, reference, progress), "LandXML points", {}, list.name});
    return out;
}

}  // namespace pristine::io
