// `pristine merge`: several clouds, or several meshes or surfaces, in one file.

#include <fmt/format.h>

#include "cli/cleaning.h"
#include "core/io/mesh/merge_clouds.h"

namespace pristine::cli {
namespace {

using nlohmann::json;

struct MergeRequest {
    std::vector<std::string> inputs;
    std::string output;
    double tolerance = 0;
    bool dry_run = false;
    Common common;
};

json merge_meshes(const std::vector<io::ReadResult>& all, const MergeRequest& r, Progress& progress) {
    std::vector<io::MergePart> parts;
    for (const io::ReadResult& one : all) parts.push_back({one.cloud, ElementSet::all(one.cloud->size())});
    const io::MergedClouds m = io::merged_clouds(parts, r.tolerance, progress);
    if (!r.dry_run) {
        io::WriteOptions options;
        options.replace = r.common.force;
        io::write_cloud({{m.cloud}}, r.output, options, progress);
    }
    if (m.overlapping > 0)
        fmt::print(stderr,
                   "{} triangles lie over or under another surface: the result is a mesh, no terrain.\n",
                   m.overlapping);
    return {{"triangles", m.cloud->size()},   {"joined_vertices", m.joined}, {"split_edges", m.split},
            {"dropped_triangles", m.dropped}, {"farthest", m.farthest},      {"tolerance", r.tolerance},
            {"surface", m.surface},           {"overlapping", m.overlapping}};
}

json merge_points(const std::vector<io::ReadResult>& all, const MergeRequest& r, Progress& progress) {
    std::vector<io::WriteItem> items;
    for (const io::ReadResult& one : all) {
        if (!(one.cloud->reference() == all.front().cloud->reference()))
            throw Error(ErrorCode::Usage, "The inputs are in different units or reference systems", {},
                        "Say --unit and --crs if the files do not, or convert them first.");
        items.push_back({one.cloud});
    }
    std::uint64_t n = 0;
    for (const io::WriteItem& item : items) n += item.cloud->size();
    if (r.dry_run) return {{"points", n}};
    io::WriteOptions options;
    options.replace = r.common.force;
    n = io::write_cloud(items, r.output, options, progress);
    for (const std::string& sentence : io::lost_in(items, r.output)) fmt::print(stderr, "{}\n", sentence);
    return {{"points", n}};
}

json merge(const MergeRequest& r, Progress& progress) {
    std::vector<io::ReadResult> all;
    for (const std::string& input : r.inputs)
        for (io::ReadResult& one : read_inputs(input, r.common, progress)) all.push_back(std::move(one));
    std::size_t meshes = 0;
    for (const io::ReadResult& one : all) meshes += one.cloud->triangles() != nullptr;
    if (meshes > 0 && meshes < all.size())
        throw Error(ErrorCode::Usage, "Some inputs hold points and some triangles: they cannot become one");
    json j = meshes > 0 ? merge_meshes(all, r, progress) : merge_points(all, r, progress);
    j["inputs"] = r.inputs;
    j["output"] = r.dry_run ? json() : json(r.output);
    j["unit"] = all.front().cloud->unit();
    j["crs"] = all.front().cloud->crs();
    return j;
}

std::string told_merge(const json& j) {
    const std::string where =
        j["output"].is_null() ? "would be merged" : "in " + j["output"].get<std::string>();
    if (j.contains("points")) return fmt::format("{} points {}\n", j["points"].get<std::uint64_t>(), where);
    return fmt::format(
        "{} triangles {}: {} vertices joined, {} put into edges, none moved farther than {:.6g}{}\n",
        j["triangles"].get<std::uint64_t>(), where, j["joined_vertices"].get<std::uint64_t>(),
        j["split_edges"].get<std::uint64_t>(), j["farthest"].get<double>(),
        after_number(j["unit"].get<std::string>()));
}

}  // namespace

void add_merge(CLI::App& app) {
    auto* sub = app.add_subcommand("merge", "Several clouds, meshes or surfaces in one file");
    auto r = std::make_shared<MergeRequest>();
    reads(sub->add_option("IN", r->inputs, "Input files"), r->common)->required();
    auto* output = writes(sub->add_option("-o,--output", r->output, "Output file"), r->common);
    length_option(
        *sub, "--weld", r->tolerance,
        "Open edges of meshes that lie within this of each other are joined; 0: only what is the same",
        Least::Zero, r->common);
    sub->add_flag("--dry-run", r->dry_run, "Say what would become of the inputs, and write nothing")
        ->excludes(output);
    add_common(*sub, r->common, true, true);
    sub->callback([=] {
        if (r->output.empty() && !r->dry_run)
            throw Error(ErrorCode::Usage, "There is no output", {}, "Give -o, or --dry-run.");
        expand_folders(r->inputs);
        json j;
        with_progress(r->common, [&](Progress& p) { j = merge(*r, p); });
        print(r->common, j, told_merge(j));
    });
}

}  // namespace pristine::cli
