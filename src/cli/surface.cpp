// `pristine surface build|trim|replace|smooth|boundary|contours`: terrain surfaces without a window.

#include <fmt/format.h>

#include "cli/command.h"
#include "cli/surface_input.h"
#include "core/base/units.h"
#include "core/io/format.h"
#include "core/io/grid/grid_io.h"
#include "core/io/lines/lines.h"
#include "core/io/mesh/mesh_io.h"
#include "core/measure/figures.h"
#include "core/measure/smooth_contours.h"
#include "core/repair/crossings.h"
#include "core/surface/make.h"
#include "core/surface/triangle_values.h"

namespace pristine::cli {
namespace {

using nlohmann::json;

struct BuildRequest {
    Paths inputs;
    std::string output, duplicates = "first", crossings = "mean";
    Paths breaklines;
    Bounds bounds;
    double max_edge = 0, max_angle = 0, rim_edge = 0, cell = 0, thin = 0;
    Common common;
};

// What the points of one file count in.
cloud::Reference add_points(const std::string& path, surface::Definition& d, const Common& common,
                            Progress& progress) {
    if (io::is_grid_file(path) || io::is_mesh_file(path)) {
        const io::MeshFile f = read_surface(path, common, progress);
        const mesh::TriMesh& m = f.mesh;
        d.points.insert(d.points.end(), m.vertices.begin(), m.vertices.end());
        return f.reference();
    } else {
        const auto c = read_input(path, common, progress).cloud;
        measure::require_lengths(c->reference());
        const std::vector<Vec3> places = surface::places_of(*c, ElementSet::all(c->size()));
        d.points.insert(d.points.end(), places.begin(), places.end());
        return c->reference();
    }
}

template <class Rule>
Rule rule_of(const std::string& word, std::initializer_list<std::pair<const char*, Rule>> known) {
    for (const auto& [name, rule] : known)
        if (word == name) return rule;
    throw Error(ErrorCode::Usage, "'" + word + "' is no rule");
}

void run_build(const BuildRequest& r) {
    json j;
    std::string text;
    with_progress(r.common, [&](Progress& progress) {
        surface::Definition d;
        using surface::Crossings;
        using surface::Duplicates;
        d.duplicates = rule_of<Duplicates>(r.duplicates, {{"first", Duplicates::First},
                                                          {"mean", Duplicates::Mean},
                                                          {"highest", Duplicates::Highest},
                                                          {"lowest", Duplicates::Lowest}});
        d.crossings = rule_of<Crossings>(r.crossings, {{"mean", Crossings::Mean},
                                                       {"earlier", Crossings::Earlier},
                                                       {"later", Crossings::Later},
                                                       {"highest", Crossings::Highest},
                                                       {"lowest", Crossings::Lowest}});
        cloud::Reference reference;
        for (const std::string& in : r.inputs) {
            const cloud::Reference own = add_points(in, d, r.common, progress);
            if (!reference.unit.empty() && !own.unit.empty() && own.unit != reference.unit)
                throw Error(ErrorCode::Usage,
                            fmt::format("Points in {} and in {} make no surface",
                                        length_unit(reference.unit).title, length_unit(own.unit).title),
                            in, "Convert one of them first.");
            if (reference.unit.empty()) reference = own;
        }
        Along along;
        for (const std::string& in : r.breaklines)
            for (io::MapLine& l : read_lines_in(in, reference, r.bounds.sagitta)) {
                d.breaklines.push_back({l.layer, l.points, l.closed});
                along.breaklines.push_back(std::move(l));
            }
        d.limits = {r.max_edge, r.rim_edge, r.max_angle};
        if (!r.bounds.boundary.empty()) {
            if (r.rim_edge > 0 || r.max_angle > 0)
                fmt::print(
                    stderr,
                    "The surface ends at the boundary, so nothing is taken off from the rim: --rim-edge "
                    "and --max-angle do nothing.\n");
            d.boundary = rings_of(r.bounds.boundary, reference, r.bounds.sagitta);
            d.boundary_edges = r.bounds.whole ? surface::Edges::Whole : surface::Edges::Exact;
            for (const auto& ring : d.boundary) along.boundaries.push_back({"boundary", ring, true});
        }
        const surface::Made made = surface::make(std::move(d), r.thin, progress);
        const surface::Built& b = made.built;
        const mesh::TriMesh m = r.bounds.without_holes(b.mesh, reference, progress);
        write_surface(m, r.output, r.cell, r.common.force, reference, progress, along);
        const std::string a = after_number(reference.unit, 2);
        json duplicates = json::array(), crossings = json::array();
        for (const auto& k : b.report.duplicates)
            duplicates.push_back({{"place", {k.place.x, k.place.y, k.place.z}},
                                  {"lowest", k.lowest},
                                  {"highest", k.highest},
                                  {"count", k.count}});
        for (const auto& k : b.report.crossings)
            crossings.push_back(
                {{"place", {k.place.x, k.place.y, k.place.z}}, {"earlier", k.earlier}, {"later", k.later}});
        j = figures_json(m);
        j["unit"] = reference.unit;
        j["crs"] = reference.crs;
        j["points"] = b.report.points;
        j["points_given"] = made.given;
        j["duplicates"] = b.report.duplicates.size();
        j["breakline_segments"] = b.report.breakline_segments;
        j["crossings_resolved"] = b.report.crossings.size();
        j["triangles"] = m.triangles.size();
        j["duplicate_list"] = duplicates;
        j["crossing_list"] = crossings;
        j["beyond_limits"] = b.report.beyond_limits;
        text = fmt::format(
            "{}{} points, {} in the same place as others, {} breakline edges, {} crossings resolved\n"
            "{} triangles, {:.3f}{} in plan, {:.3f}{} on the surface\n",
            r.thin > 0 ? fmt::format("Thinned from {} to {}: ", made.given, made.definition.points.size())
                       : "",
            b.report.points, b.report.duplicates.size(), b.report.breakline_segments,
            b.report.crossings.size(), m.triangles.size(), j["plan_area"].get<double>(), a,
            j["surface_area"].get<double>(), a);
    });
    print(r.common, j, text);
}

struct TrimRequest {
    std::string input, output;
    double max_edge = 0, min_angle = 0, max_angle = 0, rim_edge = 0, min_piece = 0, cell = 0;
    Bounds bounds;
    Common common;
};

// Triangles whose every value is within what was asked.
mesh::TriMesh trimmed(const mesh::TriMesh& m, const TrimRequest& r) {
    using surface::TriangleValue;
    std::vector<std::uint32_t> stay;
    const auto longest = surface::triangle_values(m, TriangleValue::LongestEdge),
               least = surface::triangle_values(m, TriangleValue::SmallestAngle),
               greatest = surface::triangle_values(m, TriangleValue::LargestAngle),
               piece = surface::triangle_values(m, TriangleValue::PieceSize);
    for (std::uint32_t t = 0; t < m.triangles.size(); ++t)
        if ((r.max_edge <= 0 || longest[t] <= r.max_edge) && (r.min_angle <= 0 || least[t] >= r.min_angle) &&
            (r.max_angle <= 0 || greatest[t] <= r.max_angle) && (r.min_piece <= 0 || piece[t] >= r.min_piece))
            stay.push_back(t);
    mesh::TriMesh out = surface::only(m, stay);
    if (r.rim_edge > 0) out = surface::only(out, surface::within_limits(out, {0, r.rim_edge, 0}));
    return out;
}

void run_trim(const TrimRequest& r) {
    json j;
    std::string text;
    with_progress(r.common, [&](Progress& progress) {
        const io::MeshFile in = read_surface(r.input, r.common, progress);
        const mesh::TriMesh m = r.bounds.apply(trimmed(in.mesh, r), in.reference(), progress);
        write_surface(m, r.output, r.cell, r.common.force, in.reference(), progress);
        const json before = figures_json(in.mesh);
        j = figures_json(m);
        j["unit"] = in.unit;
        j["triangles_before"] = in.mesh.triangles.size();
        j["triangles_after"] = m.triangles.size();
        j["plan_area_before"] = before["plan_area"];
        j["surface_area_before"] = before["surface_area"];
        text =
            fmt::format("{} of {} triangles stay; {:.3f} in plan (before: {:.3f}), {:.3f} on the surface\n",
                        m.triangles.size(), in.mesh.triangles.size(), j["plan_area"].get<double>(),
                        before["plan_area"].get<double>(), j["surface_area"].get<double>());
    });
    print(r.common, j, text);
}

struct ReplaceRequest {
    std::string input, output, outline;
    Paths lines;
    double cell = 0;
    Common common;
};

void run_replace(const ReplaceRequest& r) {
    json j;
    with_progress(r.common, [&](Progress& progress) {
        const io::MeshFile in = read_surface(r.input, r.common, progress);
        require_surface(in.mesh, r.input);
        std::vector<surface::Breakline> lines;
        for (const std::string& path : r.lines)
            for (const io::MapLine& l : read_lines_in(path, in.reference()))
                lines.push_back({l.layer, l.points, l.closed});
        mesh::TriMesh m = in.mesh;
        for (const auto& ring : rings_of(r.outline, in.reference()))
            m = surface::replace_part(m, {ring, lines}, progress);
        write_surface(m, r.output, r.cell, r.common.force, in.reference(), progress);
        j = figures_json(m);
        j["unit"] = in.unit;
        j["triangles_before"] = in.mesh.triangles.size();
        j["triangles_after"] = m.triangles.size();
    });
    print(r.common, j,
          fmt::format("{} triangles (before: {}), {:.3f} in plan, {:.3f} on the surface\n",
                      j["triangles_after"].get<std::size_t>(), j["triangles_before"].get<std::size_t>(),
                      j["plan_area"].get<double>(), j["surface_area"].get<double>()));
}

struct LinesRequest {
    std::string input, output;
    double interval = 1, smooth = 0;
    int index_every = 5;
    Common common;
};

void run_boundary(const LinesRequest& r) {
    json j;
    with_progress(r.common, [&](Progress& progress) {
        const io::MeshFile in = read_surface(r.input, r.common, progress);
        const surface::Rings rings = surface::boundary_of(in.mesh);
        std::vector<io::MapLine> lines;
        double length = 0;
        std::size_t holes = 0;
        for (const auto& ring : rings) {
            double area = 0;
            for (std::size_t i = 0; i < ring.size(); ++i) {
                const Vec3 p = ring[i] - ring[0], q = ring[(i + 1) % ring.size()] - ring[0];
                area += p.x * q.y - p.y * q.x;
                length += norm(q - p);
            }
            holes += area < 0;
            lines.push_back(
                {area < 0 ? "hole" : "boundary", ring, true, area < 0 ? LineRole::Hole : LineRole::Boundary});
        }
        io::write_lines(lines, r.output, r.common.force, in.reference());
        j = {{"loops", rings.size()}, {"length", length}, {"holes", holes}, {"unit", in.unit}};
    });
    print(r.common, j,
          fmt::format("{} lines, {} of them round holes, {:.3f}{} long\n", j["loops"].get<std::size_t>(),
                      j["holes"].get<std::size_t>(), j["length"].get<double>(),
                      after_number(j["unit"].get<std::string>())));
}

void run_contours(const LinesRequest& r) {
    json j;
    with_progress(r.common, [&](Progress& progress) {
        const io::MeshFile in = read_surface(r.input, r.common, progress);
        auto contours = measure::contours(in.mesh, r.interval, progress);
        measure::SmoothContours smooth;
        if (r.smooth > 0) {
            smooth = measure::smoothed(in.mesh, contours, r.interval, r.smooth, progress);
            contours = std::move(smooth.contours);
        }
        std::vector<io::MapLine> lines;
        std::size_t levels = 0;
        for (std::size_t i = 0; i < contours.size(); ++i) {
            levels += i == 0 || contours[i].level != contours[i - 1].level;
            const bool index =
                r.index_every > 0 && std::llround(contours[i].level / r.interval) % r.index_every == 0;
            lines.push_back({fmt::format("{}{:g}", index ? "index " : "", contours[i].level),
                             contours[i].points, contours[i].closed});
        }
        io::write_lines(lines, r.output, r.common.force, in.reference());
        j = {{"levels", levels}, {"lines", lines.size()}, {"unit", in.unit}};
        if (r.smooth > 0)
            j["smoothed"] = {{"plan", smooth.plan}, {"height", smooth.height}, {"held", smooth.held}};
    });
    std::string text =
        fmt::format("{} lines at {} levels\n", j["lines"].get<std::size_t>(), j["levels"].get<std::size_t>());
    if (j.contains("smoothed")) {
        const std::string u = after_number(j["unit"].get<std::string>());
        text += fmt::format(
            "smoothed: no place moved by more than {:.3f}{}; the surface is within {:.3f}{} of their "
            "levels; {} places held so that nothing crosses\n",
            j["smoothed"]["plan"].get<double>(), u, j["smoothed"]["height"].get<double>(), u,
            j["smoothed"]["held"].get<std::uint64_t>());
    }
    print(r.common, j, text);
}

void add_build(CLI::App& surface) {
    auto* sub = surface.add_subcommand("build", "A surface from points, breaklines and boundaries");
    auto r = std::make_shared<BuildRequest>();
    reads(sub->add_option("IN", r->inputs, "Points: clouds, text, surfaces (their vertices), grids"),
          r->common)
        ->required();
    writes(sub->add_option("-o,--output", r->output,
                           "Surface: " + io::ending_list(io::Format::Holds::Triangles, true) +
                               "; grid: " + io::ending_list(io::Format::Holds::Heights, true)),
           r->common)
        ->required();
    reads(sub->add_option("--breaklines", r->breaklines,
                          "Lines that triangles must follow; may be given several times"),
          r->common);
    add_bounds(*sub, r->bounds, r->common);
    length_option(*sub, "--thin", r->thin,
                  "Points nearer to the surface of the others than this, in height, are left out; usual: all "
                  "points are used",
                  Least::AboveZero, r->common);
    length_option(*sub, "--max-edge", r->max_edge, "Triangles with a longer edge in plan go",
                  Least::AboveZero, r->common);
    sub->add_option("--max-angle", r->max_angle,
                    "Degrees: from the rim inwards, triangles with a larger angle opposite go")
        ->check(CLI::Range(0.0, 180.0));
    length_option(*sub, "--rim-edge", r->rim_edge,
                  "From the rim inwards, triangles with a longer rim edge go", Least::AboveZero, r->common);
    sub->add_option("--duplicates", r->duplicates,
                    "Height of points in one place: first, mean, highest, lowest");
    sub->add_option("--crossings", r->crossings,
                    "Height where breaklines cross: mean, earlier, later, highest, lowest");
    length_option(*sub, "--cell", r->cell, "Side of a cell, for grids; usual: the spacing of the surface",
                  Least::AboveZero, r->common);
    add_common(*sub, r->common, true, true);
    sub->callback([=] {
        expand_folders(r->inputs);
        run_build(*r);
    });
}

void add_trim(CLI::App& surface) {
    auto* sub = surface.add_subcommand("trim", "Take triangles off a surface");
    auto r = std::make_shared<TrimRequest>();
    reads(sub->add_option("IN", r->input, "Surface"), r->common)->required();
    writes(sub->add_option("-o,--output", r->output, "Surface or grid"), r->common)->required();
    length_option(*sub, "--max-edge", r->max_edge, "Triangles with a longer edge in plan go",
                  Least::AboveZero, r->common);
    sub->add_option("--min-angle", r->min_angle, "Degrees in plan: triangles with a smaller angle go")
        ->check(CLI::Range(0.0, 60.0));
    sub->add_option("--max-angle", r->max_angle, "Degrees in plan: triangles with a larger angle go")
        ->check(CLI::Range(60.0, 180.0));
    length_option(*sub, "--rim-edge", r->rim_edge,
                  "From the rim inwards, triangles with a longer rim edge go", Least::AboveZero, r->common);
    sub->add_option("--min-piece", r->min_piece, "Pieces of fewer triangles go")->check(CLI::PositiveNumber);
    add_bounds(*sub, r->bounds, r->common);
    length_option(*sub, "--cell", r->cell, "Side of a cell, for grids; usual: the spacing of the surface",
                  Least::AboveZero, r->common);
    add_common(*sub, r->common, true, true);
    sub->callback([=] { run_trim(*r); });
}

void add_replace(CLI::App& surface) {
    auto* sub = surface.add_subcommand("replace", "Make parts of a surface anew, inside outlines");
    auto r = std::make_shared<ReplaceRequest>();
    reads(sub->add_option("IN", r->input, "Surface"), r->common)->required();
    reads(sub->add_option("--outline", r->outline, "File with closed lines: what lies inside is made anew"),
          r->common)
        ->required();
    reads(sub->add_option("--lines", r->lines, "Lines that the new triangles follow, inside the outlines"),
          r->common);
    writes(sub->add_option("-o,--output", r->output, "Surface or grid"), r->common)->required();
    length_option(*sub, "--cell", r->cell, "Side of a cell, for grids; usual: the spacing of the surface",
                  Least::AboveZero, r->common);
    add_common(*sub, r->common, true, true);
    sub->callback([=] { run_replace(*r); });
}

}  // namespace

void add_surface(CLI::App& app) {
    auto* surface =
        app.add_subcommand("surface", "Terrain surfaces: build, trim, replace, smooth, boundary, contours");
    surface->require_subcommand(1);
    add_build(*surface);
    add_trim(*surface);
    add_replace(*surface);
    auto r = std::make_shared<LinesRequest>();
    add_surface_smooth(*surface);
    auto* boundary = surface->add_subcommand("boundary", "The line round a surface as it is, with holes");
    reads(boundary->add_option("IN", r->input, "Surface"), r->common)->required();
    writes(boundary->add_option("-o,--output", r->output,
                                "Lines: " + io::ending_list(io::Format::Holds::Lines, true)),
           r->common)
        ->required();
    add_common(*boundary, r->common, true, true);
    boundary->callback([=] { run_boundary(*r); });
    auto c = std::make_shared<LinesRequest>();
    auto* contours = surface->add_subcommand("contours", "Lines of equal height");
    reads(contours->add_option("IN", c->input, "Surface"), c->common)->required();
    length_option(*contours, "--interval", c->interval, "Between levels", Least::AboveZero, c->common)
        ->required();
    contours->add_option("--index-every", c->index_every, "Every so many is an index contour; 0: none");
    writes(contours->add_option("-o,--output", c->output,
                                "Lines: " + io::ending_list(io::Format::Holds::Lines, true)),
           c->common)
        ->required();
    add_common(*contours, c->common, true, true);
    length_option(*contours, "--smooth", c->smooth,
                  "Smooth the lines, moving no place farther than this; lines never cross", Least::AboveZero,
                  c->common);
    contours->callback([=] { run_contours(*c); });
}

}  // namespace pristine::cli
