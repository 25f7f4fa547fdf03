#include <fmt/format.h>

#include "cli/command.h"
#include "core/base/units.h"
#include "core/cloud/classes.h"
#include "core/cloud/triangles.h"
#include "core/io/lines/lines.h"
#include "core/io/lines/map_points.h"
#include "core/io/mesh/mesh_io.h"
#include "core/io/reference/system.h"
#include "core/io/scans.h"
#include "core/topology/adjacency.h"

namespace pristine::cli {
namespace {

using nlohmann::json;

json box_json(const Box3& b) {
    if (b.empty()) return nullptr;
    return {{"min", {b.lo.x, b.lo.y, b.lo.z}}, {"max", {b.hi.x, b.hi.y, b.hi.z}}};
}

std::string box_text(const Box3& b, const std::string& unit) {
    if (b.empty()) return "none";
    return fmt::format("{:.3f} {:.3f} {:.3f}  to  {:.3f} {:.3f} {:.3f}{}", b.lo.x, b.lo.y, b.lo.z, b.hi.x,
                       b.hi.y, b.hi.z, unit);
}

json counts_of_classes(const cloud::PointCloud& c) {
    json out = json::object();
    for (const auto& [code, count] : cloud::class_counts(c)) out[std::to_string(code)] = count;
    return out;
}

void add_topology(const mesh::TriMesh& m, json& j) {
    const topology::Adjacency a = topology::adjacency(m.triangles);
    j["components"] = topology::pieces(m.triangles, a).size.size();
    j["rims"] = topology::boundary_loops(m.triangles, a).size();
    j["closed"] = a.boundary_edges == 0 && a.non_manifold_edges == 0 && a.inconsistent_edges == 0;
}

std::string unit_after_number(const cloud::Reference& r) {
    return r.unit.empty() ? "" : r.unit == kDegrees ? "°" : std::string(" ") + length_unit(r.unit).symbol;
}

void add_reference(const cloud::Reference& r, json& j) {
    const io::System s = io::system_of(r.crs);
    j["crs"] = r.crs;
    j["system"] = s.name;
    j["code"] = s.code;
    j["vertical"] = s.heights;
    j["unit"] = r.unit;
    j["height_unit"] = r.height_unit.empty() ? r.unit : r.height_unit;
}

std::string reference_text(const cloud::Reference& r) {
    const io::System s = io::system_of(r.crs);
    const std::string unit = r.unit.empty()       ? "not set"
                             : r.unit == kDegrees ? "degrees"
                                                  : length_unit(r.unit).title;
    return fmt::format(
        "  coordinates    {}\n  unit           {}{}\n",
        !s.name.empty()  ? s.title()
        : !r.crs.empty() ? "a reference system that is not understood"
                         : "no reference system stated",
        unit, r.height_unit.empty() ? "" : fmt::format(", heights in {}", length_unit(r.height_unit).title));
}

// Lines have no points to count classes of.
bool info_of_lines(const std::string& path, const Common& common) {
    const std::string ending = std::filesystem::path(path).extension().string();
    if (io::is_mesh_file(path) || !(io::is_line_file(path) || ending == ".geojson" || ending == ".json"))
        return false;
    std::vector<io::MapLine> lines;
    try {
        lines = io::read_lines(path);
    } catch (const Error&) {
        // A map of points only is told as points.
        if (!io::can_hold_map_points(path) || io::read_map_points(path).empty()) throw;
        return false;
    }
    Box3 box;
    std::size_t points = 0, closed = 0;
    for (const io::MapLine& l : lines) {
        points += l.points.size();
        closed += l.closed;
        for (const Vec3& p : l.points) box.add(p);
    }
    json j = {{"kind", "lines"},           {"format", ending.substr(1)}, {"lines", lines.size()},
              {"closed", closed},          {"points", points},           {"triangles", 0},
              {"classes", json::object()}, {"bounds", box_json(box)}};
    const cloud::Reference reference = stated(io::reference_of_lines(path), common);
    add_reference(reference, j);
    print(common, j,
          fmt::format("Lines\n  lines          {} ({} closed)\n  points         {}\n  bounds         {}\n{}",
                      lines.size(), closed, points, box_text(box, unit_after_number(reference)),
                      reference_text(reference)));
    return true;
}

// What the head of the file says of its scans: those without a point are among them.
std::string add_scans(const cloud::PointCloud& c, json& j) {
    j["scans"] = json::array();
    std::string text;
    for (const io::ScanHead& s : io::scan_heads(c.records()->layout())) {
        j["scans"].push_back({{"name", s.name}, {"points", s.records}});
        text += fmt::format("    '{}'  {} {}\n", s.name, s.records, s.records == 1 ? "point" : "points");
    }
    return text.empty() ? "" : fmt::format("  scans          {}\n{}", j["scans"].size(), text);
}

struct Told {
    json j;
    std::string text;
};

Told info_of(const io::ReadResult& r) {
    const cloud::PointCloud& c = *r.cloud;
    json columns = json::array(), stations = json::array();
    std::string names;
    for (const cloud::Field& f : c.records()->layout().fields) {
        columns.push_back(f.name);
        names += (names.empty() ? "" : " ") + f.name;
    }
    for (const cloud::Station& s : c.stations())
        stations.push_back({{"name", s.name}, {"position", {s.position.x, s.position.y, s.position.z}}});
    const bool triangles = c.triangles() != nullptr;
    json j{{"kind", !triangles             ? "cloud"
                    : cloud::is_surface(c) ? "surface"
                                           : "mesh"},
           {"format", r.format},
           {"points", triangles ? c.triangles()->vertices.size() : c.size()},
           {"without_a_place", c.records()->count() - c.size()},
           {"triangles", triangles ? c.size() : 0},
           {"bounds", box_json(c.bounds())},
           {"robust_bounds", box_json(c.robust_bounds())},
           {"columns", columns},
           {"stations", stations},
           {"name", r.name},
           {"classes", counts_of_classes(c)},
           {"warnings", r.warnings}};
    add_reference(c.reference(), j);
    const std::string unit = unit_after_number(c.reference()), reference = reference_text(c.reference());
    if (triangles) {
        add_topology(*c.triangles(), j);
        Box3 box;
        for (const Vec3& v : c.triangles()->vertices) box.add(v);
        j["bounds"] = j["robust_bounds"] = box_json(box);
        j["columns"] = json::array({"x", "y", "z"});
        return {j, fmt::format("{}, {}\n  vertices       {}\n  triangles      {}\n  bounds         {}\n  "
                               "pieces         {}\n  "
                               "rims           {}\n  closed         {}\n{}",
                               j["kind"] == "surface" ? "Terrain surface" : "Mesh", r.format,
                               c.triangles()->vertices.size(), c.size(), box_text(box, unit),
                               j["components"].get<std::size_t>(), j["rims"].get<std::size_t>(),
                               j["closed"].get<bool>() ? "yes" : "no", reference)};
    }
    const std::string scans = add_scans(c, j);
    return {j,
            fmt::format("Point cloud, {}\n  points         {}\n  bounds         {}\n  without strays {}\n  "
                        "columns        {}\n"
                        "{}{}",
                        r.format, c.size(), box_text(c.bounds(), unit), box_text(c.robust_bounds(), unit),
                        names, reference, scans)};
}

void run(const std::string& path, const Common& common) {
    if (info_of_lines(path, common)) return;
    std::vector<io::ReadResult> items;
    with_progress([&](Progress& p) { items = read_inputs(path, common, p); });
    if (items.size() == 1) {
        const Told one = info_of(items.front());
        return print(common, one.j, one.text);
    }
    json all = {{"kind", "several"}, {"format", items.front().format}, {"items", json::array()}};
    std::string text;
    for (const io::ReadResult& r : items) {
        const Told one = info_of(r);
        all["items"].push_back(one.j);
        text += "'" + r.name + "': " + one.text;
    }
    print(common, all, text);
}

}  // namespace

void add_info(CLI::App& app) {
    auto* sub = app.add_subcommand("info", "What is in a file");
    auto common = std::make_shared<Common>();
    auto file = std::make_shared<std::string>();
    sub->add_option("FILE", *file, "The file")->required();
    add_common(*sub, *common, true, false);
    sub->callback([=] { run(*file, *common); });
}

}  // namespace pristine::cli
