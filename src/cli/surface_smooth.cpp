// `pristine surface smooth`: heights of a surface evened out, all of it or inside closed lines.

#include <fmt/format.h>

#include "cli/command.h"
#include "cli/surface_input.h"
#include "core/repair/smooth_heights.h"
#include "core/topology/adjacency.h"

namespace pristine::cli {
namespace {

using nlohmann::json;

struct SmoothSurfaceRequest {
    std::string input, output, within;
    double most = 0, cell = 0;
    bool dry_run = false;
    Common common;
};

// Vertices inside the lines whose triangles all lie inside; none on a rim.
std::vector<char> free_vertices(const mesh::TriMesh& m, const surface::Rings& rings) {
    std::vector<char> may(m.vertices.size(), 1);
    if (!rings.empty()) {
        const surface::Inside inside(rings);
        std::vector<char> in;
        for (const Vec3& p : m.vertices) in.push_back(inside(p.x, p.y));
        for (const auto& t : m.triangles)
            for (const std::uint32_t v : t)
                if (!in[t[0]] || !in[t[1]] || !in[t[2]]) may[v] = 0;
    }
    for (const auto& rim : topology::boundary_loops(m.triangles, topology::adjacency(m.triangles)))
        for (const std::uint32_t v : rim) may[v] = 0;
    return may;
}

json smooth(const SmoothSurfaceRequest& r, Progress& progress) {
    const io::MeshFile in = read_surface(r.input, r.common, progress);
    require_surface(in.mesh, r.input);
    const surface::Rings rings = r.within.empty() ? surface::Rings() : rings_of(r.within, in.reference());
    const repair::SmoothHeights made =
        repair::smoothed_heights(in.mesh, free_vertices(in.mesh, rings), r.most, 3, progress);
    mesh::TriMesh m = in.mesh;
    for (std::size_t v = 0; v < m.vertices.size(); ++v) m.vertices[v].z = made.heights[v];
    if (!r.dry_run) write_surface(m, r.output, r.cell, r.common.force, in.reference(), progress);
    json j = figures_json(m);
    j["unit"] = in.unit;
    j["moved"] = made.moved;
    j["largest_change"] = made.largest;
    j["vertices"] = m.vertices.size();
    j["written"] = !r.dry_run;
    return j;
}

}  // namespace

void add_surface_smooth(CLI::App& surface) {
    auto* sub = surface.add_subcommand("smooth", "Even out heights, none by more than is allowed");
    auto r = std::make_shared<SmoothSurfaceRequest>();
    reads(sub->add_option("IN", r->input, "Surface"), r->common)->required();
    auto* out = writes(sub->add_option("-o,--output", r->output, "Surface or grid"), r->common);
    length_option(*sub, "--most", r->most, "No height changes by more than this", Least::AboveZero, r->common)
        ->required();
    reads(sub->add_option("--within", r->within, "Only inside the closed lines of this file"), r->common);
    length_option(*sub, "--cell", r->cell, "Side of a cell, for grids; usual: the spacing of the surface",
                  Least::AboveZero, r->common);
    auto* dry = sub->add_flag("--dry-run", r->dry_run, "Say what would change; nothing is written");
    out->excludes(dry);
    add_common(*sub, r->common, true, true);
    sub->callback([=] {
        if (r->output.empty() && !r->dry_run)
            throw Error(ErrorCode::Usage, "Nothing says where the result goes", {},
                        "Give --output, or --dry-run.");
        json j;
        with_progress(r->common, [&](Progress& p) { j = smooth(*r, p); });
        print(r->common, j,
              fmt::format("{} of {} heights {}, by {:.3g}{} at most\n", j["moved"].get<std::size_t>(),
                          j["vertices"].get<std::size_t>(), r->dry_run ? "would change" : "changed",
                          j["largest_change"].get<double>(), after_number(j["unit"].get<std::string>())));
    });
}

}  // namespace pristine::cli
