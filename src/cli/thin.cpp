// `pristine thin`: fewer points, no two of which are closer than a spacing.

#include <fmt/format.h>

#include <algorithm>

#include "cli/batch.h"
#include "cli/cleaning.h"
#include "core/cloud/classes.h"
#include "core/io/keep.h"

namespace pristine::cli {
namespace {

using nlohmann::json;

struct ThinRequest {
    Batch files;
    std::string input, output;  // of files, the ones that are worked on
    double spacing = 0, height = 0;
    bool each_class = false;
    std::vector<int> only;
    Common common;
};

json thin(const ThinRequest& r, Progress& progress) {
    const CloudPtr cloud = read_input(r.input, r.common, progress).cloud;
    if (cloud->triangles())
        throw Error(ErrorCode::Usage, "Only points can be thinned; the file holds triangles", r.input,
                    "'pristine mesh reduce' makes fewer triangles.");
    ElementSet among = ElementSet::all(cloud->size());
    if (!r.only.empty()) {
        ElementSet wanted(cloud->size());
        for (const auto& [code, set] : *cloud::class_sets(cloud))
            if (std::find(r.only.begin(), r.only.end(), static_cast<int>(code)) != r.only.end())
                wanted = wanted | set;
        among = among & wanted;
    }
    const score::Parameters how{
        {"spacing", r.spacing}, {"height", r.height}, {"classes", r.each_class ? 1.0 : 0.0}};
    const ElementSet gone = score::within(score::compute(score::find("thin"), {*cloud, among}, how, progress),
                                          among, score::parse_limits(">=1"));
    json j{{"input", r.input},     {"before", cloud->size()}, {"after", cloud->size() - gone.count()},
           {"spacing", r.spacing}, {"unit", cloud->unit()},   {"crs", cloud->crs()}};
    if (r.output.empty()) return j;
    progress.stretch(0.9, 1, "Writing");
    const io::WriteItem stays{cloud, io::keep_all_but(*cloud, gone, progress)};
    io::WriteOptions options;
    options.replace = r.common.force;
    io::write_cloud({stays}, r.output, options, progress);
    for (const std::string& sentence : io::lost_in({stays}, r.output)) fmt::print(stderr, "{}\n", sentence);
    j["output"] = r.output;
    return j;
}

}  // namespace

void add_thin(CLI::App& app) {
    auto* sub = app.add_subcommand("thin", "Keep points no two of which are closer than a spacing");
    auto r = std::make_shared<ThinRequest>();
    add_batch(*sub, r->files, r->common, "Say how many would stay, and write nothing");
    length_option(*sub, "--spacing", r->spacing, "No two points that stay are closer", Least::AboveZero,
                  r->common)
        ->required();
    length_option(*sub, "--height-tolerance", r->height,
                  "Only points within this height of one that stays go: edges and steps stay",
                  Least::AboveZero, r->common);
    sub->add_flag("--each-class", r->each_class, "A point goes only for one of its own class");
    sub->add_option("--only", r->only, "Thin only points of these classes, e.g. 2,6; all others stay")
        ->delimiter(',')
        ->check(CLI::Range(0, 255));
    add_common(*sub, r->common, true, true);
    sub->callback([=] {
        run_batch(
            r->files, r->common,
            [&](const std::string& input, const std::string& output, Progress& p) {
                r->input = input, r->output = output;
                return thin(*r, p);
            },
            [&](const json& j) {
                return fmt::format("{}: {} of {} points {}\n", j["input"].get<std::string>(),
                                   j["after"].get<std::uint64_t>(), j["before"].get<std::uint64_t>(),
                                   r->files.dry_run ? "would stay" : "stay");
            });
    });
}

}  // namespace pristine::cli
