#include <fmt/format.h>

#include "cli/command.h"

namespace pristine::cli {
namespace {

void run(const std::vector<std::string>& inputs, const std::string& output, const Common& common) {
    refuse_overwriting_input(inputs, output);
    std::uint64_t points = 0, vertices = 0;
    bool triangles = false;
    with_progress([&](Progress& p) {
        std::vector<io::WriteItem> items;
        for (const std::string& in : inputs) items.push_back({read_input(in, common, p).cloud, nullptr});
        for (const io::WriteItem& i : items)
            if (const mesh::TriMesh* m = i.cloud->triangles().get()) {
                triangles = true;
                vertices += m->vertices.size();
            }
        points = io::write_cloud(items, output, {common.force}, p);
    });
    // Of triangles what is written is triangles.
    const std::string kind = triangles ? std::filesystem::path(output).extension().string().substr(1)
                                       : io::format_for_writing(output).id;
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
    auto common = std::make_shared<Common>();
    auto inputs = std::make_shared<std::vector<std::string>>();
    auto output = std::make_shared<std::string>();
    sub->add_option("IN", *inputs, "Input files")->required();
    sub->add_option("-o,--output", *output, "Output file")->required();
    add_common(*sub, *common, true, true);
    sub->callback([=] { run(*inputs, *output, *common); });
}

}  // namespace pristine::cli
