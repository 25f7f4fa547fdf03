// LandXML 1.2: boundaries and breaklines of surfaces, parcels and plan features of straight parts and arcs.
// Places are written northing first.

#include <fmt/format.h>

#include <cctype>
#include <charconv>
#include <pugixml.hpp>

#include "core/base/error.h"
#include "core/base/file.h"
#include "core/geometry/arc.h"
#include "core/io/landxml.h"
#include "core/io/lines/line_sources.h"

namespace pristine::io {
std::vector<double> numbers_in(const char* text, const std::string& what, const std::string& place) {
    std::vector<double> v;
    const char *p = text, *end = text + std::char_traits<char>::length(text);
    for (;;) {
        while (p != end && std::isspace(static_cast<unsigned char>(*p))) ++p;
        if (p == end) return v;
        double d = 0;
        const auto r = std::from_chars(*p == '+' ? p + 1 : p, end, d);
        if (r.ec != std::errc())
            throw Error(ErrorCode::Format, fmt::format("A place of a {} is no number", what), place);
        v.push_back(d);
        p = r.ptr;
    }
}

namespace {

// A list of places with `n` numbers each.
MapLine list_of(const pugi::xml_node& list, std::size_t n, const std::string& layer,
                const std::string& place) {
    const std::vector<double> v = numbers_in(list.text().as_string(), layer, place);
    if (v.size() % n != 0)
        throw Error(ErrorCode::Format,
                    fmt::format("A {} has {} numbers, not a multiple of {}", layer, v.size(), n), place);
    MapLine l;
    l.layer = layer;
    for (std::size_t i = 0; i + n <= v.size(); i += n)
        l.points.push_back({v[i + 1], v[i], n == 3 ? v[i + 2] : 0});
    return l;
}

Vec3 place_of(const pugi::xml_node& n, const std::string& layer, const std::string& place) {
    const std::vector<double> v = numbers_in(n.text().as_string(), layer, place);
    if (v.size() < 2)
        throw Error(ErrorCode::Format, fmt::format("A {} has a place without two numbers", layer), place);
    return {v[1], v[0], v.size() > 2 ? v[2] : 0};
}

// Straight parts and arcs one after the other; the ends of other curves are joined by their chord.
void add_geometry(const pugi::xml_node& geometry, const std::string& layer, const std::string& place,
                  double sagitta, std::vector<MapLine>& out) {
    MapLine l;
    l.layer = layer;
    for (const pugi::xml_node& part : geometry.children()) {
        if (!local_child(part, "Start") || !local_child(part, "End")) continue;
        const Vec3 from = place_of(local_child(part, "Start"), layer, place),
                   to = place_of(local_child(part, "End"), layer, place);
        if (l.points.empty()) l.points.push_back(from);
        const std::string kind = local_name(part);
        if (kind == "IrregularLine") {
            for (const std::size_t n : {std::size_t{3}, std::size_t{2}})
                if (const auto list = local_child(part, n == 3 ? "PntList3D" : "PntList2D"))
                    for (const Vec3& p : list_of(list, n, layer, place).points)
                        if (l.points.empty() || !(l.points.back() == p)) l.points.push_back(p);
            if (!(l.points.back() == to)) l.points.push_back(to);
        } else if (kind == "Curve" && local_child(part, "Center")) {
            Vec3 centre = place_of(local_child(part, "Center"), layer, place);
            const bool clockwise = std::string(part.attribute("rot").as_string("cw")) != "ccw";
            const auto arc = arc_points(from, centre, to, clockwise, sagitta);
            l.points.insert(l.points.end(), arc.begin(), arc.end());
        } else {
            l.points.push_back(to);
        }
    }
    out.push_back(std::move(l));
}

// What a line is, then whose it is and what it is called: "breakline of EG, toe".
std::string name_of(const pugi::xml_node& n, const std::string& kind) {
    std::string s = kind;
    for (pugi::xml_node up = n.parent(); up; up = up.parent())
        if (local_name(up) == "Surface" && up.attribute("name"))
            s += std::string(" of ") + up.attribute("name").value();
    if (const auto own = n.attribute("name"); own && *own.value()) s += std::string(", ") + own.value();
    return s;
}

struct Walker : pugi::xml_tree_walker {
    std::vector<MapLine> lines;
    std::string place;
    double sagitta = kSagitta;
    bool for_each(pugi::xml_node& n) override {
        const std::string name = local_name(n);
        if (name == "Boundary" || name == "Breakline") {
            const std::string layer = name_of(n, name == "Boundary" ? "boundary" : "breakline");
            bool closed = name == "Boundary";
            const std::string type = n.attribute("bndType").value();
            const LineRole role = !closed          ? LineRole::Breakline
                                  : type == "void" ? LineRole::Hole
                                                   : LineRole::Boundary;
            for (const pugi::xml_node& list : n.children()) {
                const std::string kind = local_name(list);
                if (kind != "PntList2D" && kind != "PntList3D") continue;
                MapLine l = list_of(list, kind == "PntList3D" ? 3 : 2, layer, place);
                // A boundary is closed whether its first place is repeated or not.
                if (closed && l.points.size() > 2) l.points.push_back(l.points.front());
                if (closed && l.points.size() > 3 && l.points[l.points.size() - 2].x == l.points.front().x &&
                    l.points[l.points.size() - 2].y == l.points.front().y)
                    l.points.pop_back();
                l.role = role;
                lines.push_back(std::move(l));
            }
        } else if (name == "CoordGeom") {
            const std::string parent = local_name(n.parent());
            const char* kind = parent == "Parcel"      ? "parcel"
                               : parent == "Alignment" ? "alignment"
                                                       : "plan feature";
            const std::size_t before = lines.size();
            add_geometry(n, name_of(n.parent(), kind), place, sagitta, lines);
            // Our own files say it in the description; else an alignment is an axis.
            const std::string word = n.parent().attribute("desc").value();
            const LineRole said = role_of_word(word);
            const bool stated = word == pristine::name_of(said);
            for (std::size_t k = before; k < lines.size(); ++k)
                if (stated)
                    lines[k].role = said;
                else if (parent == "Alignment")
                    lines[k].role = LineRole::Axis;
        }
        return true;
    }
};

}  // namespace

std::vector<MapLine> read_landxml_lines(const std::filesystem::path& path, double sagitta) {
    pugi::xml_document doc;
    const std::string name = path.filename().string();
    const InputFile file(path);
    landxml_root(doc, file.read_string(0, file.size()), name);
    Walker walker;
    walker.place = name;
    walker.sagitta = sagitta;
    doc.traverse(walker);
    return std::move(walker.lines);
}

}  // namespace pristine::io
