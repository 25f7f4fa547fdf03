#include <fmt/format.h>

#include "cli/command.h"
#include "demo/ashmere.h"
#include "demo/culvert.h"
#include "demo/milestone.h"
#include "demo/spoil.h"

namespace pristine::cli {
namespace {

constexpr std::uint64_t kMostInCulvert = 2'000'000, kMostOnSpoil = 200'000, kMostInE57 = 500'000;

void run(const std::string& folder, demo::Options options, const Common& common) {
    options.replace = common.force;
    std::vector<demo::Scan> scans;
    with_progress([&](Progress& p) {
        scans = demo::write_site(folder, options, p);
        demo::Options fewer = options;
        fewer.points = std::min<std::uint64_t>(options.points / 4, kMostInE57);
        p.stretch(1, 1, "Writing both stations into one file");
        demo::write_chamber_with_stations(folder, fewer, p);
        p.stretch(1, 1, "Scanning the culvert");
        demo::write_culvert(folder, std::min<std::uint64_t>(options.points / 2, kMostInCulvert), options.seed,
                            options.replace, p);
        p.stretch(1, 1, "Measuring the spoil bank");
        demo::write_spoil(folder, std::min<std::uint64_t>(options.points / 10, kMostOnSpoil), options.seed,
                          options.replace, p);
        demo::write_milestone(folder, options.replace);
    });
    nlohmann::json files = nlohmann::json::array();
    std::string text;
    for (const demo::Scan& s : scans) {
        nlohmann::json truth = nlohmann::json::object();
        for (std::size_t k = 1; k < demo::kKinds; ++k)
            truth[demo::name_of(static_cast<demo::Kind>(k))] = s.of_kind[k];
        files.push_back({{"file", s.file}, {"points", s.points}, {"truth", truth}});
        text += fmt::format("{}: {} points\n", (std::filesystem::path(folder) / s.file).string(), s.points);
    }
    files.push_back({{"file", "chamber.e57"}});
    files.push_back({{"file", "culvert.las"}, {"line", "culvert-line.geojson"}});
    for (const char* file : {"spoil-bank-1.las", "spoil-bank-2.las"}) files.push_back({{"file", file}});
    files.back()["truth"] = {{"fill", demo::spoil_fill()}, {"cut", demo::spoil_cut()}};
    files.push_back({{"file", "milestone-scan.ply"},
                     {"markers", "milestone-markers.csv"},
                     {"truth", {{"volume", mesh::signed_volume(demo::milestone())}}}});
    text +=
        "chamber.e57: both scans with their stations, thinner\n"
        "culvert.las, culvert-line.geojson: a culvert and its axis\n"
        "spoil-bank-1.las, -2.las, spoil-breaklines-1.geojson, -2, spoil-outline.geojson: a bank on two "
        "dates\n"
        "milestone-scan.ply, milestone-markers.csv: a carved stone on a turntable\n";
    print(common, {{"site", "Ashmere Lock"}, {"files", files}}, text);
}

}  // namespace

void add_demo(CLI::App& app) {
    auto* sub = app.add_subcommand("demo", "Write the demo site, Ashmere Lock, into a folder");
    auto common = std::make_shared<Common>();
    auto folder = std::make_shared<std::string>();
    auto options = std::make_shared<demo::Options>();
    sub->add_option("DIR", *folder, "Folder; made if missing")->required();
    sub->add_option("--size", options->points, "At least so many points in the first scan")
        ->check(CLI::Range(std::uint64_t{1000}, std::uint64_t{1'000'000'000}))
        ->capture_default_str();
    sub->add_option("--seed", options->seed, "Same seed, same bytes")->capture_default_str();
    add_common(*sub, *common, false, true);
    sub->callback([=] { run(*folder, *options, *common); });
}

}  // namespace pristine::cli
