// `pristine measure` and `difference`: areas and volumes without a window.

#include <fmt/format.h>

#include "cli/command.h"
#include "cli/surface_input.h"
#include "core/base/units.h"
#include "core/io/grid/grid_io.h"
#include "core/io/mesh/mesh_io.h"
#include "core/measure/difference.h"
#include "core/measure/figures.h"
#include "core/measure/noise.h"
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

struct DifferenceRequest {
    std::string before, after, map;
    Bounds bounds;
    double band = 0, cell = 0;
    std::vector<double> sigma;
    Common common;
};

void run_difference(const DifferenceRequest& r) {
    json j;
    std::string text;
    with_progress(r.common, [&](Progress& progress) {
        io::MeshFile first = read_surface(r.before, r.common, progress),
                     second = read_surface(r.after, r.common, progress);
        const cloud::Reference reference = common_reference(first, second);
        mesh::TriMesh before = std::move(first.mesh), after = std::move(second.mesh);
        require_surface(before, r.before);
        require_surface(after, r.after);
        if (r.bounds.any()) {
            before = r.bounds.apply(before, reference, progress);
            after = r.bounds.apply(after, reference, progress);
        }
        measure::DifferenceOptions o;
        o.band = r.band;
        o.sigma_before = !r.sigma.empty() ? r.sigma[0] : measure::noise_of(before);
        o.sigma_after = !r.sigma.empty() ? r.sigma.back() : measure::noise_of(after);
        const measure::Difference d = measure::difference(before, after, o, progress);
        if (!r.map.empty())
            write_surface(measure::difference_map(before, after, progress), r.map, r.cell, r.common.force,
                          reference, progress);
        j = {{"cut", d.cut},
             {"fill", d.fill},
             {"net", d.net()},
             {"cut_area", d.cut_area},
             {"fill_area", d.fill_area},
             {"unchanged_area", d.unchanged_area},
             {"uncovered_area", d.uncovered_area},
             {"overlap_area", d.overlap_area},
             {"uncertainty", d.uncertainty},
             {"sigma", {o.sigma_before, o.sigma_after}},
             {"least", d.least},
             {"greatest", d.greatest},
             {"unit", reference.unit},
             {"crs", reference.crs}};
        const std::string a = after_number(reference.unit, 2), v = after_number(reference.unit, 3);
        text = fmt::format(
            "Later minus earlier: fill is material added.\ncut {:.3f}{v} on {:.3f}{a}, fill {:.3f}{v} on "
            "{:.3f}{a}, net "
            "{:.3f} +/- {:.3f}{v} (one standard deviation)\n"
            "unchanged {:.3f}{a}, covered by one survey only {:.3f}{a}\n",
            d.cut, d.cut_area, d.fill, d.fill_area, d.net(), d.uncertainty, d.unchanged_area,
            d.uncovered_area, fmt::arg("v", v), fmt::arg("a", a));
    });
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

void add_difference(CLI::App& app) {
    auto* sub = app.add_subcommand("difference", "Cut and fill between two surfaces");
    auto r = std::make_shared<DifferenceRequest>();
    reads(sub->add_option("BEFORE", r->before, "The earlier surface"), r->common)->required();
    reads(sub->add_option("AFTER", r->after, "The later surface"), r->common)->required();
    add_bounds(*sub, r->bounds, r->common);
    length_option(*sub, "--band", r->band, "What changed by no more than this is unchanged", Least::Zero,
                  r->common);
    writes(sub->add_option(
               "--map", r->map,
               "Write the change of height: tif, asc (with --cell), or a mesh whose z is the change"),
           r->common);
    length_option(*sub, "--cell", r->cell, "Side of a cell of the map; usual: the spacing of the surface",
                  Least::AboveZero, r->common);
    sub->add_option("--sigma", r->sigma, "Noise of the heights of both, S1,S2; estimated when not given")
        ->delimiter(',')
        ->expected(1, 2);
    add_common(*sub, r->common, true, true);
    sub->callback([=] { run_difference(*r); });
}

}  // namespace pristine::cli
