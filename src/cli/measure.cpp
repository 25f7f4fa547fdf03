// `pristine measure`: areas and volumes without a window.

#include <fmt/format.h>

#include "cli/command.h"
#include "cli/surface_input.h"
#include "core/base/units.h"
#include "core/io/mesh/mesh_io.h"
#include "core/measure/difference.h"
#include "core/measure/figures.h"
#include "core/measure/solid.h"
#include "core/mesh/weld.h"
#include "core/repair/crossings.h"

namespace pristine::cli {
namespace {

using nlohmann::json;

struct MeasureRequest {
    std::string input;
    std::optional<double> level, density;
    std::string base;
    Bounds bounds;
    Common common;
};

json measure_surface(const mesh::TriMesh& m, const MeasureRequest& r) {
    json j = figures_json(m);
    j["kind"] = "surface";
    j["triangles"] = m.triangles.size();
    measure::Volumes v;
    if (r.base == "triangulated") {
        const measure::Difference d = measure::difference(measure::triangulated_rim(m), m);
        v = {d.fill, d.cut, d.fill_area, d.cut_area};
    } else if (r.base == "lowest" || r.base == "mean") {
        const measure::Base base = r.base == "lowest" ? measure::lowest_of_rim(m) : measure::mean_of_rim(m);
        j["level"] = base.foot.z;
        v = measure::volumes(m, base);
    } else if (r.level) {
        j["level"] = *r.level;
        v = measure::volumes(m, measure::level(*r.level));
    } else {
        j["above"] = j["below"] = nullptr;
        return j;
    }
    j["above"] = v.above;
    j["below"] = v.below;
    j["area_above"] = v.area_above;
    j["area_below"] = v.area_below;
    return j;
}

json measure_mesh(const mesh::TriMesh& read, const MeasureRequest& r, Progress& progress) {
    // Corners in the same place are one, as in the window: STL and scanners' OBJ repeat them.
    std::vector<Vec3> corners;
    for (const auto& t : read.triangles)
        for (const std::uint32_t v : t) corners.push_back(read.vertices[v]);
    const mesh::TriMesh m = mesh::weld(corners);
    const measure::SolidFigures f = measure::solid(m, progress);
    json warnings = json::array();
    if (f.boundary_edges > 0)
        warnings.push_back(
            fmt::format("The mesh is open: {} edges belong to one triangle only", f.boundary_edges));
    if (f.non_manifold_edges > 0)
        warnings.push_back(fmt::format("{} edges belong to more than two triangles", f.non_manifold_edges));
    if (f.inconsistent_edges > 0)
        warnings.push_back(
            fmt::format("{} edges have triangles that face opposite ways", f.inconsistent_edges));
    if (f.crossings > 0)
        warnings.push_back(
            fmt::format("{} pairs of triangles cross: the volume counts some places twice", f.crossings));
    if (f.inwards) warnings.push_back("The mesh faces inwards; its volume is counted positive");
    json volume, mass;
    if (f.closed) volume = f.volume;
    if (f.closed && r.density) mass = f.volume * *r.density;
    return {{"kind", "mesh"},      {"triangles", m.triangles.size()},
            {"closed", f.closed},  {"volume", volume},
            {"area", f.area},      {"mass", mass},
            {"warnings", warnings}};
}

bool faces_up(const mesh::TriMesh& m) {
    for (const auto& t : m.triangles) {
        const Vec3 p = m.vertices[t[1]] - m.vertices[t[0]], q = m.vertices[t[2]] - m.vertices[t[0]];
        if (!(p.x * q.y - p.y * q.x > 0)) return false;
    }
    return !m.triangles.empty();
}

void run_measure(const MeasureRequest& r) {
    json j;
    with_progress(r.common, [&](Progress& progress) {
        const io::MeshFile in = read_surface(r.input, r.common, progress);
        const bool surface = in.surface || r.level || !r.base.empty() || r.bounds.any() || faces_up(in.mesh);
        if (surface) require_surface(in.mesh, r.input);
        j = surface ? measure_surface(r.bounds.apply(in.mesh, in.reference(), progress), r)
                    : measure_mesh(in.mesh, r, progress);
        j["unit"] = in.unit;
        j["crs"] = in.crs;
    });
    std::string text;
    const std::string unit = j["unit"];
    for (const auto& [key, value] : j.items()) {
        if (key == "unit" || key == "crs") continue;
        const int power = key == "above" || key == "below" || key == "volume" ? 3
                          : key == "perimeter" || key == "level"              ? 1
                          : key.find("area") != std::string::npos             ? 2
                                                                              : 0;
        text +=
            fmt::format("{:<14} {}{}\n", key,
                        value.is_number_float() ? fmt::format("{:.6f}", value.get<double>()) : value.dump(),
                        power && value.is_number() ? after_number(unit, power) : std::string());
    }
    text += fmt::format("{:<14} {}\n", "unit", unit.empty() ? "not set" : length_unit(unit).title);
    print(r.common, j, text);
}

}  // namespace

void add_measure(CLI::App& app) {
    auto* sub = app.add_subcommand("measure", "Areas and volumes of a surface or a closed mesh");
    auto r = std::make_shared<MeasureRequest>();
    reads(sub->add_option("IN", r->input, "Surface, grid or mesh"), r->common)->required();
    sub->add_option("--level", r->level, "Volumes above and below this height");
    sub->add_option("--base", r->base, "Volumes over a base through the rim: lowest, mean, triangulated")
        ->check(CLI::IsMember({"lowest", "mean", "triangulated"}));
    sub->add_option("--density", r->density, "Mass of a unit of volume, for closed meshes");
    add_bounds(*sub, r->bounds, r->common);
    add_common(*sub, r->common, true, false);
    sub->callback([=] { run_measure(*r); });
}

}  // namespace pristine::cli
