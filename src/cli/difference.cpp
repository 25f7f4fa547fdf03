// `pristine difference`: cut and fill between two surfaces, in several work areas, and how well they are
// known.

#include <fmt/format.h>

#include "cli/command.h"
#include "cli/surface_input.h"
#include "core/base/output.h"
#include "core/base/units.h"
#include "core/io/area_table.h"
#include "core/io/grid/grid_io.h"
#include "core/io/mesh/mesh_io.h"
#include "core/measure/areas.h"
#include "core/measure/change_map.h"
#include "core/measure/classes.h"
#include "core/measure/noise.h"

namespace pristine::cli {
namespace {

using nlohmann::json;

struct DifferenceRequest {
    std::string before, after, map, areas, table;
    Bounds bounds;
    double band = 0, cell = 0;
    bool propose_band = false;
    std::vector<double> sigma, systematic, thinning, classes;
    Common common;
};

// Of the earlier and the later; one number is that of both.
std::pair<double, double> of_both(const std::vector<double>& given) {
    return given.empty() ? std::pair{0.0, 0.0} : std::pair{given.front(), given.back()};
}

measure::DifferenceOptions options_of(const DifferenceRequest& r, const mesh::TriMesh& before,
                                      const mesh::TriMesh& after) {
    measure::DifferenceOptions o;
    std::tie(o.before.noise, o.after.noise) =
        r.sigma.empty() ? std::pair{measure::noise_of(before), measure::noise_of(after)} : of_both(r.sigma);
    std::tie(o.before.systematic, o.after.systematic) = of_both(r.systematic);
    std::tie(o.before.thinning, o.after.thinning) = of_both(r.thinning);
    o.band = r.propose_band ? measure::proposed_band(o.before, o.after) : r.band;
    return o;
}

json json_of(const measure::Difference& d) {
    return {{"cut", d.cut},
            {"fill", d.fill},
            {"net", d.net()},
            {"cut_area", d.cut_area},
            {"fill_area", d.fill_area},
            {"unchanged_area", d.unchanged_area},
            {"uncovered_area", d.uncovered_area},
            {"overlap_area", d.overlap_area},
            {"uncertainty", d.sigma_net},
            {"sigma_cut", d.sigma_cut},
            {"sigma_fill", d.sigma_fill},
            {"sigma_net", d.sigma_net},
            {"excess_cut", d.excess_cut},
            {"excess_fill", d.excess_fill},
            {"least", d.least},
            {"greatest", d.greatest}};
}

std::string told_difference(const measure::Difference& d, const std::string& a, const std::string& v) {
    std::string text = fmt::format(
        "cut {:.3f} +/- {:.3f}{v} on {:.3f}{a}, fill {:.3f} +/- {:.3f}{v} on {:.3f}{a}, net {:.3f} +/- "
        "{:.3f}{v} (one standard deviation)\n"
        "unchanged {:.3f}{a}, covered by one survey only {:.3f}{a}\n",
        d.cut, d.sigma_cut, d.cut_area, d.fill, d.sigma_fill, d.fill_area, d.net(), d.sigma_net,
        d.unchanged_area, d.uncovered_area, fmt::arg("v", v), fmt::arg("a", a));
    if (d.excess_cut + d.excess_fill > 0.1 * (d.sigma_cut + d.sigma_fill))
        text += fmt::format(
            "Noise alone makes cut and fill too large by about {:.3f} and {:.3f}{}: a band (--band, or "
            "--propose-band) leaves it out.\n",
            d.excess_cut, d.excess_fill, v);
    return text;
}

// The table of work areas, in the report and as a file.
std::string tell_areas(const DifferenceRequest& r, const mesh::TriMesh& before, const mesh::TriMesh& after,
                       const measure::DifferenceOptions& o, const cloud::Reference& reference, json& j,
                       Progress& progress) {
    std::vector<measure::WorkArea> areas;
    for (auto& [name, ring] : named_rings(r.areas, reference, "Area")) areas.push_back({name, ring});
    const measure::AreaTable table = measure::difference_by_area(before, after, areas, o, progress);
    const std::string v = after_number(reference.unit, 3);
    std::string text;
    const auto line = [&](const std::string& name, const measure::Difference& d) {
        text += fmt::format(
            "{:<20} cut {:>12.3f} +/- {:.3f}{v}, fill {:>12.3f} +/- {:.3f}{v}, net {:>12.3f} "
            "+/- {:.3f}{v}\n",
            name, d.cut, d.sigma_cut, d.fill, d.sigma_fill, d.net(), d.sigma_net, fmt::arg("v", v));
    };
    j["areas"] = json::array();
    for (const auto& row : table.rows) {
        line(row.name, row.change);
        json one = json_of(row.change);
        one["name"] = row.name;
        one["area"] = row.area;
        j["areas"].push_back(std::move(one));
    }
    if (table.together) {
        line("all areas", *table.together);
        j["all_areas"] = json_of(*table.together);
        j["mismatch"] = table.mismatch;
    }
    j["outside"] = json_of(table.rest);
    line("outside of them", table.rest);
    j["overlapping"] = json::array();
    for (const auto& [a, b] : table.overlapping) {
        text += fmt::format("{} and {} overlap: a sum would count what lies in both twice.\n", areas[a].name,
                            areas[b].name);
        j["overlapping"].push_back({areas[a].name, areas[b].name});
    }
    if (!r.table.empty()) {
        OutputFile out(r.table, r.common.force);
        out.write(io::area_table(table, o.band, reference));
        out.finish();
    }
    return text;
}

std::string tell_classes(const DifferenceRequest& r, const mesh::TriMesh& before, const mesh::TriMesh& after,
                         const cloud::Reference& reference, json& j, Progress& progress) {
    const measure::ChangeMap map = measure::change_map(before, after, progress);
    std::string text;
    const std::string u = after_number(reference.unit, 1), a = after_number(reference.unit, 2),
                      v = after_number(reference.unit, 3);
    const auto limit = [](double x) { return std::isfinite(x) ? json(x) : json(); };
    const auto word = [&](double x, const char* none) {
        return std::isfinite(x) ? fmt::format("{:.3f}{}", x, u) : std::string(none);
    };
    for (const measure::ClassFigures& c : measure::figures_by_class(map.mesh, map.change, r.classes)) {
        j["classes"].push_back(
            {{"from", limit(c.from)}, {"to", limit(c.to)}, {"area", c.area}, {"volume", c.volume}});
        text += fmt::format("change {} to {}: {:.3f}{}, {:.3f}{}\n", word(c.from, "any below"),
                            word(c.to, "any above"), c.area, a, c.volume, v);
    }
    return text;
}

std::pair<json, std::string> run_difference(const DifferenceRequest& r, Progress& progress) {
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
    const measure::DifferenceOptions o = options_of(r, before, after);
    const measure::Difference d = measure::difference(before, after, o, progress);
    if (!r.map.empty())
        write_surface(measure::difference_map(before, after, progress), r.map, r.cell, r.common.force,
                      reference, progress);
    json j = json_of(d);
    j["sigma"] = {o.before.noise, o.after.noise};
    j["systematic"] = {o.before.systematic, o.after.systematic};
    j["thinning"] = {o.before.thinning, o.after.thinning};
    j["band"] = o.band;
    j["unit"] = reference.unit;
    j["crs"] = reference.crs;
    std::string text = "Later minus earlier: fill is material added.\n";
    if (o.band > 0)
        text += fmt::format("Changes of up to {:.4f}{} count as unchanged.\n", o.band,
                            after_number(reference.unit, 1));
    text += told_difference(d, after_number(reference.unit, 2), after_number(reference.unit, 3));
    if (!r.areas.empty()) text += tell_areas(r, before, after, o, reference, j, progress);
    if (!r.classes.empty()) text += tell_classes(r, before, after, reference, j, progress);
    return {std::move(j), std::move(text)};
}

void add_sigma(CLI::App& app, const char* name, std::vector<double>& values, const char* help) {
    app.add_option(name, values, help)->delimiter(',')->expected(1, 2)->check(CLI::NonNegativeNumber);
}

}  // namespace

void add_difference(CLI::App& app) {
    auto* sub = app.add_subcommand("difference", "Cut and fill between two surfaces");
    auto r = std::make_shared<DifferenceRequest>();
    reads(sub->add_option("BEFORE", r->before, "The earlier surface"), r->common)->required();
    reads(sub->add_option("AFTER", r->after, "The later surface"), r->common)->required();
    add_bounds(*sub, r->bounds, r->common);
    auto* band = length_option(*sub, "--band", r->band, "What changed by no more than this is unchanged",
                               Least::Zero, r->common);
    sub->add_flag("--propose-band", r->propose_band,
                  "Take three standard deviations of the change of a vertex as the band")
        ->excludes(band);
    writes(sub->add_option(
               "--map", r->map,
               "Write the change of height: tif, asc (with --cell), or a mesh whose z is the change"),
           r->common);
    length_option(*sub, "--cell", r->cell, "Side of a cell of the map; usual: the spacing of the surface",
                  Least::AboveZero, r->common);
    add_sigma(*sub, "--sigma", r->sigma, "Noise of the heights of both, S1,S2; estimated when not given");
    add_sigma(*sub, "--systematic", r->systematic,
              "Standard deviation that all heights of a surface share (datum, placement), S1,S2");
    add_sigma(*sub, "--thinning", r->thinning, "Largest error of height of points that were left out, T1,T2");
    auto* areas = reads(sub->add_option("--areas", r->areas,
                                        "File with closed lines: a row for each, their "
                                        "sum, and what lies outside"),
                        r->common);
    writes(sub->add_option("--table", r->table, "Write the rows as a table (csv)"), r->common)->needs(areas);
    sub->add_option("--classes", r->classes,
                    "Limits of change, ascending: area and volume of each class, each piece by its mean")
        ->delimiter(',');
    add_common(*sub, r->common, true, true);
    sub->callback([=] {
        if (!std::is_sorted(r->classes.begin(), r->classes.end()))
            throw Error(ErrorCode::Usage, "The limits of classes do not ascend", {}, "Sort them.");
        std::pair<json, std::string> told;
        with_progress(r->common, [&](Progress& progress) { told = run_difference(*r, progress); });
        print(r->common, told.first, told.second);
    });
}

}  // namespace pristine::cli
