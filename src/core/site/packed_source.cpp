// What a surface was built from, as it stands in the project file.

#include <algorithm>
#include <array>
#include <nlohmann/json.hpp>

#include "core/base/compress.h"
#include "core/base/error.h"
#include "core/site/surface_source.h"

namespace pristine::site {
namespace {

using nlohmann::json;

json places(const std::vector<Vec3>& points) {
    json j = json::array();
    for (const Vec3& p : points)
        for (int a = 0; a < 3; ++a) j.push_back(p[a]);
    return j;
}

std::vector<Vec3> points_from(const json& j) {
    std::vector<Vec3> p(j.size() / 3);
    for (std::size_t i = 0; i < p.size(); ++i)
        for (std::size_t a = 0; a < 3; ++a) p[i][static_cast<int>(a)] = j[3 * i + a].get<double>();
    return p;
}

json rings_json(const surface::Rings& rings) {
    json j = json::array();
    for (const auto& r : rings) j.push_back(places(r));
    return j;
}

surface::Rings rings_from(const json& j) {
    surface::Rings rings;
    for (const json& r : j) rings.push_back(points_from(r));
    return rings;
}

json lines_json(const std::vector<surface::Breakline>& lines) {
    json j = json::array();
    for (const surface::Breakline& l : lines) j.push_back({l.name, places(l.points), l.closed});
    return j;
}

std::vector<surface::Breakline> lines_from(const json& j) {
    std::vector<surface::Breakline> lines;
    for (const json& l : j) lines.push_back({l.at(0), points_from(l.at(1)), l.at(2)});
    return lines;
}

json limits_json(const surface::Limits& l) {
    return {l.longest_edge, l.rim_edge, l.rim_angle};
}

surface::Limits limits_from(const json& j) {
    return {j.at(0), j.at(1), j.at(2)};
}

constexpr std::array<const char*, 5> kEditKinds{"drop_points", "replace_part", "limits", "thinning",
                                                "heights"};

json edit_json(std::uint32_t number, const SurfaceEdit& e) {
    json j{{"number", number},
           {"kind", kEditKinds[static_cast<std::size_t>(e.kind)]},
           {"active", e.active},
           {"points", places(e.points)},
           {"held", places(e.held)},
           {"outline", places(e.patch.outline)},
           {"lines", lines_json(e.patch.lines)},
           {"ids", e.patch_ids},
           {"limits", limits_json(e.limits)},
           {"tolerance", e.tolerance},
           {"item", e.item}};
    if (e.part) {
        const std::string part = e.part->packed();
        j["part"] = json::binary({part.begin(), part.end()});
    }
    return j;
}

SurfaceEdit edit_from(const json& j) {
    SurfaceEdit e;
    const std::string kind = j.at("kind");
    const auto known = std::find(kEditKinds.begin(), kEditKinds.end(), kind);
    if (known == kEditKinds.end())
        throw Error(ErrorCode::Format, "'" + kind + "' is no known change of a surface");
    e.kind = static_cast<SurfaceEdit::Kind>(known - kEditKinds.begin());
    e.active = j.at("active");
    e.points = points_from(j.at("points"));
    e.held = points_from(j.at("held"));
    e.patch = {points_from(j.at("outline")), lines_from(j.at("lines"))};
    e.patch_ids = j.at("ids").get<std::vector<std::uint64_t>>();
    e.limits = limits_from(j.at("limits"));
    e.tolerance = j.at("tolerance");
    e.item = j.at("item");
    if (j.contains("part")) {
        const json::binary_t& part = j.at("part").get_binary();
        e.part = std::make_shared<const ElementSet>(
            ElementSet::unpacked(std::string_view(reinterpret_cast<const char*>(part.data()), part.size())));
    }
    return e;
}

// What projects of before version 7 do not have.
void take_edits(const json& j, SurfaceSource& s) {
    for (const json& e : j.at("edits")) s.edits[e.at("number").get<std::uint32_t>()] = edit_from(e);
    s.patch_edits = j.at("patch_edits").get<std::vector<std::uint32_t>>();
}

// What projects of earlier versions do not have.
void take_patches(const json& j, SurfaceSource& s) {
    surface::Definition& d = s.definition;
    for (const json& p : j.at("patches")) d.patches.push_back({points_from(p.at(0)), lines_from(p.at(1))});
    s.patch_ids = j.at("patch_ids").get<std::vector<std::vector<std::uint64_t>>>();
    s.patch_ids.resize(d.patches.size());
    d.given.vertices = points_from(j.at("given_places"));
    const json& given = j.at("given");
    for (std::size_t i = 0; i + 3 <= given.size(); i += 3) {
        std::array<std::uint32_t, 3> t{given[i], given[i + 1], given[i + 2]};
        for (const std::uint32_t v : t)
            if (v >= d.given.vertices.size())
                throw Error(ErrorCode::Format, "What a surface was built from names places that it lacks");
        d.given.triangles.push_back(t);
    }
}

}  // namespace

std::string packed(const SurfaceSource& s) {
    const surface::Definition& d = s.definition;
    json areas = json::array(), edits = json::array(), patches = json::array(), given = json::array();
    for (const surface::Patch& p : d.patches) patches.push_back({places(p.outline), lines_json(p.lines)});
    for (const auto& t : d.given.triangles)
        for (const std::uint32_t v : t) given.push_back(v);
    for (const auto& [id, rings] : s.areas) areas.push_back({id, rings_json(rings)});
    for (const auto& [number, e] : s.edits) edits.push_back(edit_json(number, e));
    const json j{{"version", 1},
                 {"points", places(d.points)},
                 {"breaklines", lines_json(d.breaklines)},
                 {"boundary", rings_json(d.boundary)},
                 {"whole", d.boundary_edges == surface::Edges::Whole},
                 {"duplicates", static_cast<int>(d.duplicates)},
                 {"crossings", static_cast<int>(d.crossings)},
                 {"limits", limits_json(d.limits)},
                 {"breakline_ids", s.breakline_ids},
                 {"boundary_ids", s.boundary_ids},
                 {"areas", areas},
                 {"patches", patches},
                 {"patch_ids", s.patch_ids},
                 {"given_places", places(d.given.vertices)},
                 {"given", given},
                 {"edits", edits},
                 {"patch_edits", s.patch_edits}};
    const std::vector<std::uint8_t> bytes = json::to_cbor(j);
    return pack(std::string(bytes.begin(), bytes.end()));
}

SurfaceSource unpacked_source(const std::string& text) {
    try {
        const std::string bytes = unpack(text, std::uint64_t{1} << 36);
        const json j = json::from_cbor(bytes);
        SurfaceSource s;
        surface::Definition& d = s.definition;
        d.points = points_from(j.at("points"));
        d.breaklines = lines_from(j.at("breaklines"));
        d.boundary = rings_from(j.at("boundary"));
        d.boundary_edges = j.at("whole").get<bool>() ? surface::Edges::Whole : surface::Edges::Exact;
        d.duplicates = static_cast<surface::Duplicates>(j.at("duplicates").get<int>());
        d.crossings = static_cast<surface::Crossings>(j.at("crossings").get<int>());
        d.limits = limits_from(j.at("limits"));
        s.breakline_ids = j.at("breakline_ids").get<std::vector<std::uint64_t>>();
        s.boundary_ids = j.at("boundary_ids").get<std::vector<std::uint64_t>>();
        for (const json& a : j.at("areas")) s.areas[a.at(0)] = rings_from(a.at(1));
        if (j.contains("patches")) take_patches(j, s);
        if (j.contains("edits")) take_edits(j, s);
        s.patch_edits.resize(d.patches.size());
        return s;
    } catch (const json::exception& e) {
        throw Error(ErrorCode::Format, std::string("What a surface was built from is damaged: ") + e.what());
    }
}

}  // namespace pristine::site
