#include <fmt/format.h>
#include <fmt/ranges.h>

#include <cmath>
#include <optional>

#include "cli/command.h"
#include "core/io/reference/reproject.h"
#include "core/io/reference/system.h"
#include "core/io/scans.h"
#include "core/io/trial.h"

namespace pristine::cli {
namespace {

struct ConvertRequest {
    std::vector<std::string> inputs;
    std::string output, to_crs;
    double cell = 0, no_data = -9999;
    io::LasOptions las;
    bool by_scan = false, plan_only = false;
    Common common;
};

// Each scan of each input, in a file of its own.
void run_by_scan(const ConvertRequest& r) {
    nlohmann::json files = nlohmann::json::array();
    std::string text;
    with_progress(r.common, [&](Progress& p) {
        std::vector<io::WriteItem> items;
        std::vector<std::string> names;
        for (const std::string& in : r.inputs)
            for (io::ReadResult& read : read_inputs(in, r.common, p)) {
                names.push_back(read.name.empty() ? std::filesystem::path(in).stem().string() : read.name);
                if (!r.to_crs.empty())
                    read.cloud = io::reprojected(read.cloud, io::system_typed(r.to_crs), p);
                items.push_back({std::move(read.cloud), nullptr});
                items.back().name = names.back();
            }
        const auto paths = io::files_by_scan(r.output, names);
        const io::WriteOptions how{r.common.force, r.cell, r.no_data, r.las};
        for (std::size_t k = 0; k < items.size(); ++k) {
            const std::uint64_t count = io::write_cloud({items[k]}, paths[k], how, p);
            for (const std::string& s : io::lost_in({items[k]}, paths[k], how)) fmt::print(stderr, "{}\n", s);
            const char* kind = items[k].cloud->triangles() ? "triangles" : "points";
            files.push_back({{"scan", names[k]}, {kind, count}, {"output", paths[k].string()}});
            text += fmt::format("{} {} written to {}\n", count, kind, paths[k].string());
        }
    });
    print(r.common, {{"outputs", files}}, text);
}

// What the file would be, found out by a trial of a few thousand elements.
void print_trial(const ConvertRequest& r, const io::Trial& t) {
    const nlohmann::json moved = std::isnan(t.moved) ? nlohmann::json() : nlohmann::json(t.moved);
    std::string text = fmt::format("Would be written: {}, {}, {} elements, about {} bytes\n", r.output,
                                   t.format, t.elements, t.bytes);
    text += std::isnan(t.moved) ? "How far coordinates move could not be told.\n"
                                : fmt::format("Coordinates move by up to {:.2g} of their unit.\n", t.moved);
    if (!t.unit.empty()) text += fmt::format("Unit of the file: {}\n", t.unit);
    if (!t.columns.empty()) text += fmt::format("Not held: {}\n", fmt::join(t.columns, ", "));
    if (!t.empty_columns.empty())
        text +=
            fmt::format("Not held, and without a value in the trial: {}\n", fmt::join(t.empty_columns, ", "));
    for (const std::string& b : t.beside) text += fmt::format("Beside it: {}\n", b);
    for (const std::string& l : t.lost) text += l + "\n";
    print(r.common,
          {{"output", r.output},
           {"written", false},
           {"format", t.format},
           {"elements", t.elements},
           {"bytes", t.bytes},
           {"moved", moved},
           {"unit", t.unit},
           {"not_held", t.columns},
           {"not_held_without_value", t.empty_columns},
           {"beside", t.beside},
           {"lost", t.lost}},
          text);
}

void run(const ConvertRequest& r) {
    const std::vector<std::string>& inputs = r.inputs;
    const std::string& output = r.output;
    const Common& common = r.common;
    std::uint64_t points = 0, vertices = 0;
    bool triangles = false;
    std::optional<io::Trial> trial;
    with_progress(r.common, [&](Progress& p) {
        std::vector<io::WriteItem> items;
        for (const std::string& in : inputs) {
            io::ReadResult read = read_input(in, r.common, p);
            if (!r.to_crs.empty()) read.cloud = io::reprojected(read.cloud, io::system_typed(r.to_crs), p);
            items.push_back({std::move(read.cloud), nullptr});
            items.back().name = read.name.empty() ? std::filesystem::path(in).stem().string() : read.name;
        }
        for (const io::WriteItem& i : items)
            if (const mesh::TriMesh* m = i.cloud->triangles().get()) {
                triangles = true;
                vertices += m->vertices.size();
            }
        const io::WriteOptions options{r.common.force, r.cell, r.no_data, r.las};
        if (r.plan_only) {
            trial = io::try_write(items, r.output, options, p);
            return;
        }
        points = io::write_cloud(items, r.output, options, p);
        for (const std::string& sentence : io::lost_in(items, r.output, options))
            fmt::print(stderr, "{}\n", sentence);
    });
    if (trial) return print_trial(r, *trial);
    // Of triangles what is written is triangles.
    const std::string ending = std::filesystem::path(output).extension().string();
    const std::string kind =
        triangles || ending == ".xml" ? ending.substr(1) : io::format_for_writing(output).id;
    print(
        common,
        {{"points", triangles ? vertices : points},
         {"triangles", triangles ? points : 0},
         {"format", kind},
         {"output", output}},
        fmt::format("{} {} written to {} ({})\n", points, triangles ? "triangles" : "points", output, kind));
}

}  // namespace

void add_convert(CLI::App& app) {
    auto* sub = app.add_subcommand(
        "convert", "Write one or more files as one file, in the format that the name's ending says");
    auto r = std::make_shared<ConvertRequest>();
    reads(sub->add_option("IN", r->inputs, "Input files"), r->common)->required();
    writes(sub->add_option("-o,--output", r->output, "Output file"), r->common)->required();
    sub->add_option("--to-crs", r->to_crs, "Convert the coordinates to this reference system: EPSG:n or WKT");
    length_option(*sub, "--cell", r->cell, "Of a grid: side of a cell; usual: the spacing of the surface",
                  Least::AboveZero, r->common);
    sub->add_option("--no-data", r->no_data, "Of a grid: what cells without a height hold (-9999)");
    add_las_options(*sub, r->las, r->common);
    add_common(*sub, r->common, true, true);
    auto* plan = sub->add_flag("--plan", r->plan_only,
                               "Say what would be written, found out by a trial, and write nothing");
    sub->add_flag("--by-scan", r->by_scan,
                  "Each scan in a file of its own: OUT.e57 becomes 'OUT - NAME.e57' for each name")
        ->excludes(plan);
    sub->callback([=] {
        r->common.scans_apart = r->by_scan;
        r->by_scan ? run_by_scan(*r) : run(*r);
    });
}

}  // namespace pristine::cli
