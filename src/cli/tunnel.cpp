#include <fmt/format.h>

#include "cli/command.h"
#include "core/base/output.h"
#include "core/base/units.h"
#include "core/io/keep.h"
#include "core/io/lines/lines.h"
#include "core/io/mesh/mesh_ply.h"
#include "core/io/profile_file.h"
#include "core/tunnel/design.h"
#include "core/tunnel/inside.h"

namespace pristine::cli {
namespace {

using nlohmann::json;

struct TunnelRequest {
    std::string input, line, output, inside, lining, report, design;
    double spacing = 0.2, lift = 0, fitting = 0, tolerance = 0, interval = 10;
    bool open_ends = false, open_holes = false;
    Common common;
};

json holes_json(const tunnel::Lining& lining) {
    json holes = json::array();
    for (const tunnel::Hole& h : lining.holes())
        holes.push_back({{"chainage", h.chainage}, {"angle", h.angle_deg}, {"area", h.area}});
    return holes;
}

// Volume and area by chainage, and over- and underbreak where there is a design.
json table_of(const tunnel::Lining& lining, const TunnelRequest& r, std::string& csv) {
    std::vector<tunnel::BreakInterval> breaks;
    if (!r.design.empty())
        breaks = tunnel::against_design(lining, io::read_design_profile(r.design), r.interval);
    csv = breaks.empty() ? "from,to,volume,area\n"
                         : "from,to,volume,area,overbreak,underbreak,largest_over,largest_under,measured\n";
    json table = json::array();
    const auto all = lining.volumes(r.interval);
    for (std::size_t k = 0; k < all.size(); ++k) {
        const tunnel::Lining::Interval& i = all[k];
        table.push_back({{"from", i.from}, {"to", i.to}, {"volume", i.volume}, {"area", i.area}});
        csv += fmt::format("{:.3f},{:.3f},{:.6f},{:.6f}", i.from, i.to, i.volume, i.area);
        if (!breaks.empty()) {
            const tunnel::BreakInterval& b = breaks[k];
            table.back().update({{"overbreak", b.over},
                                 {"underbreak", b.under},
                                 {"largest_over", b.most_over},
                                 {"largest_under", b.most_under},
                                 {"measured", b.measured}});
            csv += fmt::format(",{:.4f},{:.4f},{:.4f},{:.4f},{:.4f}", b.over, b.under, b.most_over,
                               b.most_under, b.measured);
        }
        csv += '\n';
    }
    return table;
}

void run(const TunnelRequest& r) {
    json j;
    std::string text;
    with_progress(r.common, [&](Progress& progress) {
        const auto c = read_input(r.input, r.common, progress).cloud;
        const auto lines = read_lines_in(r.line, c->reference());
        if (lines.empty()) throw Error(ErrorCode::Format, "There is no line in the file", r.line);
        const double metre = 1 / length_unit(c->unit()).metres;
        tunnel::Options options;
        options.spacing = r.spacing;
        options.lift = r.lift;
        options.metres_per_unit = 1 / metre;
        if (r.fitting > 0) options.widest_fitting = r.fitting / metre;
        const tunnel::Lining lining(*c, ElementSet::all(c->size()), lines.front().points, options, progress);
        const ElementSet inside = tunnel::inside(*c, ElementSet::all(c->size()), lining,
                                                 r.tolerance > 0 ? r.tolerance : 0.05 * metre, progress)
                                      .points;
        const mesh::TriMesh mesh = lining.mesh(!r.open_holes, !r.open_ends);
        io::write_mesh_ply(mesh, r.output, r.common.force);
        io::WriteOptions options_out;
        options_out.replace = r.common.force;
        if (!r.inside.empty())
            io::write_cloud({{c, io::keep_only(*c, inside, progress)}}, r.inside, options_out, progress);
        if (!r.lining.empty())
            io::write_cloud({{c, io::keep_all_but(*c, inside, progress)}}, r.lining, options_out, progress);
        const bool closed = mesh::open_edges(mesh) == 0;
        std::string csv;
        const json table = table_of(lining, r, csv);
        if (!r.report.empty()) {
            OutputFile out(r.report, r.common.force);
            out.write(csv);
            out.finish();
        }
        j = {{"lining_points", c->size() - inside.count()},
             {"inside_points", inside.count()},
             {"triangles", mesh.triangles.size()},
             {"holes", holes_json(lining)},
             {"closed", closed},
             {"volume", closed ? json(mesh::signed_volume(mesh)) : json()},
             {"intervals", table}};
        text =
            fmt::format("{} points inside, {} of the lining; {} triangles, {} holes{}\n{}", inside.count(),
                        c->size() - inside.count(), mesh.triangles.size(), j["holes"].size(),
                        closed ? fmt::format(", volume {:.3f}", mesh::signed_volume(mesh)) : ", open", csv);
    });
    print(r.common, j, text);
}

}  // namespace

void add_tunnel(CLI::App& app) {
    auto* sub = app.add_subcommand("tunnel", "The lining of a tunnel, what is inside it, and its volume");
    auto r = std::make_shared<TunnelRequest>();
    reads(sub->add_option("CLOUD", r->input, "Point cloud"), r->common)->required();
    reads(sub->add_option("--centreline", r->line, "File with a line that runs inside the tunnel"), r->common)
        ->required();
    length_option(*sub, "--spacing", r->spacing, "Side of a cell on the lining", Least::AboveZero, r->common)
        ->required();
    writes(sub->add_option("-o,--output", r->output, "Mesh of the lining, PLY"), r->common)->required();
    writes(sub->add_option("--inside", r->inside, "Write what is inside to this file"), r->common);
    writes(sub->add_option("--lining", r->lining, "Write the points of the lining to this file"), r->common);
    writes(sub->add_option("--report", r->report, "Write volume and area by chainage, CSV"), r->common);
    reads(sub->add_option("--design", r->design,
                          "Profile that was designed, as text: offset to the right of the line and height "
                          "above it on each line; over- and underbreak by chainage"),
          r->common);
    length_option(*sub, "--interval", r->interval, "Of the report", Least::AboveZero, r->common);
    length_option(*sub, "--lift", r->lift, "Raises the line first", Least::Any, r->common);
    length_option(*sub, "--fitting", r->fitting, "What is wider belongs to the lining (usually 0.8 m)",
                  Least::AboveZero, r->common);
    length_option(*sub, "--tolerance", r->tolerance, "Less far inside is lining (usually 0.05 m)",
                  Least::AboveZero, r->common);
    sub->add_flag("--open-ends", r->open_ends, "Do not cap the ends");
    sub->add_flag("--open-holes", r->open_holes, "Do not close holes over");
    add_common(*sub, r->common, true, true);
    sub->callback([=] { run(*r); });
}

}  // namespace pristine::cli
