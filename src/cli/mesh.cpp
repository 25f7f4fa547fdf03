// `pristine mesh check|repair|smooth|flatten|skin|reduce`: scan meshes without a window.

#include <fmt/format.h>

#include <map>
#include <set>

#include "cli/command.h"
#include "core/io/format.h"
#include "core/io/lines/lines.h"
#include "core/io/mesh/mesh_io.h"
#include "core/io/text/table.h"
#include "core/mesh/carry.h"
#include "core/mesh/weld.h"
#include "core/repair/cost.h"
#include "core/repair/crossings.h"
#include "core/repair/reduce.h"
#include "core/repair/repair.h"
#include "core/repair/smooth.h"
#include "core/repair/wrap.h"

namespace pristine::cli {
namespace {

using nlohmann::json;

// Corners in the same place are one, as in the window.
io::MeshFile read_joined(const std::string& path, const Common& common, Progress& progress) {
    io::MeshFile f = read_triangles(path, common, progress);
    if (f.mesh.triangles.empty()) throw Error(ErrorCode::Empty, "The file holds no triangles", path);
    std::vector<Vec3> corners;
    corners.reserve(3 * f.mesh.triangles.size());
    for (const auto& t : f.mesh.triangles)
        for (const std::uint32_t v : t) corners.push_back(f.mesh.vertices[v]);
    f.mesh = mesh::weld(corners);
    return f;
}

// With the colours, texture and groups of what it was made from.
void write_made(const mesh::TriMesh& made, const io::MeshFile& from, const std::string& output,
                const Common& common, Progress& progress) {
    io::write_mesh(made, output, common.force, from.unit,
                   mesh::carried(from.mesh, from.attributes, made, progress), from.crs);
}

json place_json(const Vec3& p) {
    return {p.x, p.y, p.z};
}

using Costs = std::array<repair::Cost, repair::kFaults>;

json check_json(const repair::Check& c, bool list, const Costs* costs = nullptr) {
    json j;
    for (std::size_t k = 0; k < repair::kFaults; ++k) {
        const auto f = static_cast<repair::Fault>(k);
        j[repair::id_of(f)] = c.count(f);
        if (!list) continue;
        json places = json::array();
        for (const repair::Finding& finding : c.of(f)) places.push_back(place_json(finding.where));
        j["list"][repair::id_of(f)] = places;
    }
    for (std::size_t k = 0; k < repair::kFaults; ++k) {
        const auto f = static_cast<repair::Fault>(k);
        if (!costs || c.count(f) == 0) continue;
        j["cost"][repair::id_of(f)] = {{"harm", repair::id_of(repair::harm_of(f))},
                                       {"length", (*costs)[k].length},
                                       {"area", (*costs)[k].area},
                                       {"volume", (*costs)[k].volume}};
    }
    j["components"] = c.components;
    j["genus"] = c.genus < 0 && c.count(repair::Fault::NonManifoldEdge) > 0 ? json() : json(c.genus);
    j["outer_rims"] = c.outer.size();
    j["closed"] = c.closed;
    j["sound"] = c.sound();
    j["tiny_edge"] = c.tiny_edge;
    j["small_piece"] = c.small_piece;
    return j;
}

std::string check_text(const repair::Check& c) {
    std::string text;
    for (std::size_t k = 0; k < repair::kFaults; ++k)
        text += fmt::format("{:<22} {}\n", repair::id_of(static_cast<repair::Fault>(k)),
                            c.count(static_cast<repair::Fault>(k)));
    text += fmt::format("{:<22} {}\n", "outer_rims", c.outer.size());
    return text + fmt::format("{:<22} {}\n{:<22} {}\n{:<22} {}\n", "components", c.components, "genus",
                              c.genus, "closed", c.closed ? "yes" : "no");
}

struct CheckRequest {
    std::string input, lines;
    repair::CheckOptions options;
    bool list = false;
    Common common;
};

// Holes and the edges of open scans as rims, crossings as the stretches that triangles share.
void write_findings(const mesh::TriMesh& m, const repair::Check& c, const std::string& path, bool force) {
    std::vector<io::MapLine> lines;
    for (std::size_t k = 0; k < repair::kFaults; ++k)
        for (const repair::Finding& f : c.findings[k]) {
            io::MapLine l{repair::id_of(f.fault), {}, f.fault == repair::Fault::Hole};
            for (const std::uint32_t v : f.vertices) l.points.push_back(m.vertices[v]);
            if (f.fault == repair::Fault::SelfIntersection)
                l.points = repair::intersection_segment(m, f.triangles[0], f.triangles[1]);
            if (l.points.size() >= 2) lines.push_back(std::move(l));
        }
    for (const repair::Finding& f : c.outer) {
        io::MapLine l{"outer_rims", {}, true};
        for (const std::uint32_t v : f.vertices) l.points.push_back(m.vertices[v]);
        lines.push_back(std::move(l));
    }
    if (lines.empty())
        throw Error(ErrorCode::Empty, "There is nothing to write: no rims, no open edges, no crossings");
    io::write_lines(lines, path, force);
}

void run_check(const CheckRequest& r) {
    repair::Check c;
    Costs costs;
    with_progress(r.common, [&](Progress& progress) {
        const mesh::TriMesh m = read_joined(r.input, r.common, progress).mesh;
        c = repair::check(m, r.options, progress);
        costs = repair::costs_of(m, c);
        if (!r.lines.empty()) write_findings(m, c, r.lines, r.common.force);
    });
    print(r.common, check_json(c, r.list, &costs), check_text(c));
}

struct RepairRequest {
    std::string input, output, fill = "rounded";
    std::vector<std::string> only;
    repair::RepairOptions options;
    Common common;
};

json steps_json(const repair::Repaired& r) {
    json steps = json::array();
    for (const repair::RepairStep& s : r.steps)
        steps.push_back({{"category", repair::id_of(s.fault)},
                         {"found", s.found},
                         {"removed", s.removed},
                         {"made", s.made}});
    return steps;
}

json deviation_json(const repair::Deviation& d) {
    return {{"mean", d.mean}, {"p95", d.p95}, {"max", d.max}};
}

// The words of before the second release are understood for one release more.
const std::map<std::string, repair::FillKind>& fill_words() {
    static const std::map<std::string, repair::FillKind> all{
        {"taut", repair::FillKind::Flat},         {"level", repair::FillKind::Tangent},
        {"rounded", repair::FillKind::Curvature}, {"flat", repair::FillKind::Flat},
        {"tangent", repair::FillKind::Tangent},   {"curvature", repair::FillKind::Curvature}};
    return all;
}

void run_repair(const RepairRequest& r) {
    json j;
    std::string text;
    with_progress(r.common, [&](Progress& progress) {
        const io::MeshFile in = read_joined(r.input, r.common, progress);
        repair::RepairOptions options = r.options;
        options.fill.kind = fill_words().at(r.fill);
        for (const std::string& id : r.only) options.only.insert(repair::fault_of(id));
        const repair::Repaired done = repair::repair(in.mesh, options, progress);
        if (done.mesh.triangles.empty())
            throw Error(ErrorCode::Empty, "Nothing would be left of the mesh", r.input,
                        "Repair less: --only.");
        write_made(done.mesh, in, r.output, r.common, progress);
        json left = json::array();
        for (const repair::Unrepaired& u : done.unrepaired)
            left.push_back(
                {{"category", repair::id_of(u.fault)}, {"where", place_json(u.where)}, {"why", u.why}});
        j = {{"before", check_json(done.before, false)},
             {"after", check_json(done.after, false)},
             {"steps", steps_json(done)},
             {"unrepaired", left},
             {"deviation", deviation_json(done.deviation)},
             {"area_before", done.area_before},
             {"area_after", done.area_after},
             {"area_taken", done.area_taken},
             {"area_made", done.area_made},
             {"left_alone", done.left_alone},
             {"triangles_before", in.mesh.triangles.size()},
             {"triangles_after", done.mesh.triangles.size()}};
        for (const repair::RepairStep& s : done.steps)
            text += fmt::format("{}: {} found, {} triangles taken, {} made\n", repair::id_of(s.fault),
                                s.found, s.removed, s.made);
        for (const repair::Unrepaired& u : done.unrepaired)
            text += fmt::format("left: {} at {:.3f} {:.3f} {:.3f}: {}\n", repair::id_of(u.fault), u.where.x,
                                u.where.y, u.where.z, u.why);
        text +=
            fmt::format("what was made lies {0:.2g}{2} from what was there in the mean, {1:.2g}{2} at most\n",
                        done.deviation.mean, done.deviation.max, after_number(in.unit));
        text += fmt::format("{} of {} triangles before; {}\n", done.mesh.triangles.size(),
                            in.mesh.triangles.size(),
                            done.after.sound()  ? "sound"
                            : done.after.closed ? "closed, but not sound"
                                                : "not closed");
        text += fmt::format("{0:.6g} of {1:.6g}{3} of surface taken, {2:.6g}{3} made; {4} {5} left as {6}\n",
                            done.area_taken, done.area_before, done.area_made, after_number(in.unit, 2),
                            done.left_alone, done.left_alone == 1 ? "place" : "places",
                            done.left_alone == 1 ? "it was" : "they were");
    });
    print(r.common, j, text);
}

struct WrapRequest {
    std::string input, output;
    repair::WrapOptions options;
    Common common;
};

void run_wrap(const WrapRequest& r) {
    json j;
    std::string text;
    with_progress(r.common, [&](Progress& progress) {
        const io::MeshFile in = read_joined(r.input, r.common, progress);
        repair::WrapOptions options = r.options;
        if (options.detail == 0) options.detail = repair::suggested_detail(in.mesh);
        const repair::Wrapped w = repair::wrap(in.mesh, options, progress);
        write_made(w.mesh, in, r.output, r.common, progress);
        repair::CheckOptions quick;
        quick.crossings = false;
        j = {{"triangles", w.mesh.triangles.size()},
             {"closed", repair::check(w.mesh, quick).closed},
             {"volume", mesh::signed_volume(w.mesh)},
             {"detail", options.detail},
             {"unit", in.unit},
             {"deviation", deviation_json(w.deviation)}};
        text = fmt::format(
            "{0} triangles, detail {1:g}{5}; deviation {2:.2g}{5} in the mean, {3:.2g}{5} for 95 %, "
            "{4:.2g}{5} "
            "at most\n",
            w.mesh.triangles.size(), options.detail, w.deviation.mean, w.deviation.p95, w.deviation.max,
            after_number(in.unit));
    });
    print(r.common, j, text);
}

struct ReduceRequest {
    std::string input, output;
    std::size_t to = 0;
    Common common;
};

void run_reduce(const ReduceRequest& r) {
    json j;
    std::string text;
    with_progress(r.common, [&](Progress& progress) {
        const io::MeshFile in = read_joined(r.input, r.common, progress);
        const repair::Reduced done = repair::reduce(in.mesh, {r.to, true, {}}, progress);
        write_made(done.mesh, in, r.output, r.common, progress);
        j = {{"triangles", done.mesh.triangles.size()},
             {"triangles_before", in.mesh.triangles.size()},
             {"unit", in.unit},
             {"deviation", deviation_json(done.deviation)}};
        text =
            fmt::format("{0} triangles (before: {1}); deviation {2:.2g}{4} in the mean, {3:.2g}{4} at most\n",
                        done.mesh.triangles.size(), in.mesh.triangles.size(), done.deviation.mean,
                        done.deviation.max, after_number(in.unit));
    });
    print(r.common, j, text);
}

struct SmoothRequest {
    std::string input, output;
    std::vector<std::string> balls;
    int rounds = 10;
    double strength = 1;
    bool flatten = false, dry_run = false;
    Common common;
};

// Triangles with all corners in one of the balls; none given: all.
std::vector<char> chosen_by(const SmoothRequest& r, const io::MeshFile& in) {
    if (r.balls.empty()) return {};
    struct Ball {
        Vec3 middle;
        double radius;
    };
    std::vector<Ball> balls;
    for (const std::string& text : r.balls) {
        const std::size_t last = text.rfind(',');
        double radius = 0;
        if (last == std::string::npos || !io::parse_number(text.substr(last + 1), false, radius) ||
            !(radius > 0))
            throw Error(ErrorCode::Usage, "'" + text + "' is no ball", {}, "Write E,N,H,RADIUS.");
        balls.push_back({place_typed(text.substr(0, last)), radius});
    }
    std::vector<char> chosen(in.mesh.triangles.size(), 0);
    for (std::size_t t = 0; t < chosen.size(); ++t)
        for (const Ball& b : balls) {
            bool in_it = true;
            for (const std::uint32_t v : in.mesh.triangles[t])
                in_it = in_it && norm(in.mesh.vertices[v] - b.middle) <= b.radius;
            if (in_it) chosen[t] = 1;
        }
    return chosen;
}

void run_smooth(const SmoothRequest& r) {
    if (r.output.empty() && !r.dry_run)
        throw Error(ErrorCode::Usage, "There is no output", {}, "Give -o, or --dry-run.");
    json j;
    std::string text;
    with_progress(r.common, [&](Progress& progress) {
        const io::MeshFile in = read_joined(r.input, r.common, progress);
        const std::vector<char> chosen = chosen_by(r, in);
        const repair::Moved m = r.flatten ? repair::flattened(in.mesh, chosen, progress)
                                          : repair::smoothed(in.mesh, chosen, r.rounds, r.strength, progress);
        if (m.corners == 0)
            throw Error(ErrorCode::Empty, "Nothing could be moved: only corners inside of what is chosen are",
                        r.input);
        if (!r.dry_run) write_made(m.mesh, in, r.output, r.common, progress);
        j = {{"triangles", m.mesh.triangles.size()},
             {"corners", m.corners},
             {"farthest", m.farthest},
             {"unit", in.unit}};
        j["output"] = r.dry_run ? json() : json(r.output);
        text = fmt::format("{} corners {}, by {:.3g}{} at most\n", m.corners,
                           r.dry_run ? "would be moved" : "moved", m.farthest, after_number(in.unit));
    });
    print(r.common, j, text);
}

void add_smooth(CLI::App& mesh, bool flatten) {
    auto* sub = flatten ? mesh.add_subcommand("flatten", "Bring a part of a mesh onto its plane")
                        : mesh.add_subcommand("smooth", "Even out a mesh or a part of it");
    auto r = std::make_shared<SmoothRequest>();
    r->flatten = flatten;
    reads(sub->add_option("IN", r->input, "Mesh"), r->common)->required();
    auto* ball = sub->add_option("--ball", r->balls,
                                 "E,N,H,RADIUS: only triangles inside; may be given several times");
    if (flatten) ball->required();
    if (!flatten) {
        sub->add_option("--rounds", r->rounds, "More of them smooth more (10)")->check(CLI::Range(1, 10'000));
        sub->add_option("--strength", r->strength, "Above 0, at most 1 (1)")->check(CLI::Range(0.001, 1.0));
    }
    auto* output = writes(sub->add_option("-o,--output", r->output, "Mesh"), r->common);
    sub->add_flag("--dry-run", r->dry_run, "Say what would be moved, and write nothing")->excludes(output);
    add_common(*sub, r->common, true, true);
    sub->callback([=] { run_smooth(*r); });
}

void add_check_options(CLI::App& sub, repair::CheckOptions& o, Common& c) {
    length_option(sub, "--min-edge", o.tiny_edge,
                  "Edges shorter than this are tiny; usual: a hundredth of the median edge", Least::AboveZero,
                  c);
    sub.add_option("--min-piece", o.small_piece,
                   "Pieces of fewer triangles are small; usual: a fiftieth of the largest piece")
        ->check(CLI::PositiveNumber);
    sub.add_option("--spike-angle", o.spike_deg,
                   "Degrees: corners whose angles sum up to less are spikes (80)")
        ->check(CLI::Range(0.0, 360.0));
}

void add_check(CLI::App& mesh) {
    auto* sub = mesh.add_subcommand("check", "What is wrong with a mesh");
    auto r = std::make_shared<CheckRequest>();
    reads(sub->add_option("IN", r->input, "Mesh"), r->common)->required();
    add_check_options(*sub, r->options, r->common);
    sub->add_flag("--list", r->list, "With --json: the place of each finding");
    writes(sub->add_option("--lines", r->lines,
                           "Write rims, open edges and crossings as lines: " +
                               io::ending_list(io::Format::Holds::Lines, true)),
           r->common);
    add_common(*sub, r->common, true, true);
    sub->callback([=] { run_check(*r); });
}

void add_repair(CLI::App& mesh) {
    auto* sub = mesh.add_subcommand("repair", "Make a mesh sound and fill its holes");
    auto r = std::make_shared<RepairRequest>();
    reads(sub->add_option("IN", r->input, "Mesh"), r->common)->required();
    writes(sub->add_option("-o,--output", r->output,
                           "Mesh: " + io::ending_list(io::Format::Holds::Triangles, true)),
           r->common)
        ->required();
    sub->add_option("--only", r->only, "Categories to repair, as 'mesh check' names them")->delimiter(',');
    sub->add_option("--fill", r->fill,
                    "How holes are filled: taut (as short as can be), level (with the rim), rounded (usual)")
        ->check([](const std::string& word) {
            return fill_words().contains(word) ? std::string() : word + " is none of taut, level, rounded";
        });
    sub->add_option("--max-hole", r->options.max_hole, "Holes of more edges stay open")
        ->check(CLI::PositiveNumber);
    sub->add_flag("--outer", r->options.fill_outer, "Fill the edges of open scans too");
    add_check_options(*sub, r->options.check, r->common);
    add_common(*sub, r->common, true, true);
    sub->callback([=] { run_repair(*r); });
}

void add_skin(CLI::App& mesh, const char* name, bool hidden) {
    auto w = std::make_shared<WrapRequest>();
    auto* wrap = mesh.add_subcommand(name, "A closed skin round a mesh");
    if (hidden) wrap->group("");
    reads(wrap->add_option("IN", w->input, "Mesh"), w->common)->required();
    length_option(*wrap, "--detail", w->options.detail,
                  "Smaller things are rounded off; usual: by the mesh's own edges", Least::AboveZero,
                  w->common);
    length_option(*wrap, "--close-gap", w->options.close_gap,
                  "Openings up to this wide are closed over; usual: twice the detail", Least::AboveZero,
                  w->common);
    writes(wrap->add_option("-o,--output", w->output, "Mesh"), w->common)->required();
    add_common(*wrap, w->common, true, true);
    wrap->callback([=] { run_wrap(*w); });
}

}  // namespace

void add_mesh(CLI::App& app) {
    auto* mesh =
        app.add_subcommand("mesh", "Scan meshes: check, repair, smooth, flatten, closed skin, reduce");
    mesh->require_subcommand(1);
    add_check(*mesh);
    add_repair(*mesh);
    add_smooth(*mesh, false);
    add_smooth(*mesh, true);
    add_skin(*mesh, "skin", false);
    add_skin(*mesh, "wrap", true);  // its name of before, for one release more
    auto r = std::make_shared<ReduceRequest>();
    auto* reduce = mesh->add_subcommand("reduce", "Fewer triangles; rims stay");
    reads(reduce->add_option("IN", r->input, "Mesh"), r->common)->required();
    reduce->add_option("--to", r->to, "How many triangles")->required()->check(CLI::PositiveNumber);
    writes(reduce->add_option("-o,--output", r->output, "Mesh"), r->common)->required();
    add_common(*reduce, r->common, true, true);
    reduce->callback([=] { run_reduce(*r); });
}

}  // namespace pristine::cli
