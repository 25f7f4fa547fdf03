#include <fmt/format.h>

#include <algorithm>
#include <atomic>
#include <cmath>

#include "cli/command.h"
#include "core/base/file.h"
#include "core/base/memory.h"
#include "core/base/parallel.h"
#include "core/base/units.h"
#include "core/cloud/join.h"
#include "core/io/keep.h"
#include "core/io/lines/lines.h"
#include "core/score/recipe.h"
#include "core/terrain/terrain.h"

namespace pristine::cli {
namespace {

using nlohmann::json;
namespace fs = std::filesystem;

struct Request {
    std::vector<std::string> rules, inputs;
    std::string recipe, output, mark, removed, ledger, reference, centreline;
    bool keep = false;
    unsigned jobs = 0;  // 0: as many as the cores and the memory allow
    double buffer = 0;  // of tiles, data unit; 0: each input stands alone
    Common common;
};

score::Recipe recipe_of(const Request& r) {
    score::Recipe recipe;
    if (!r.recipe.empty()) {
        const InputFile file(r.recipe);
        recipe = score::recipe_from_json(file.read_string(0, file.size()));
    }
    for (const std::string& rule : r.rules) recipe.push_back(score::parse_step(rule));
    if (recipe.empty()) throw Error(ErrorCode::Usage, "There is no rule", {}, "Give --rule or --recipe.");
    if (r.keep) recipe.back().keep = !recipe.back().keep;
    return recipe;
}

io::Dropped dropped_of(const std::string& mark) {
    return mark == "withheld"  ? io::Dropped::Withheld
           : mark == "class"   ? io::Dropped::Noise
           : mark == "class18" ? io::Dropped::HighNoise
                               : io::Dropped::LeftOut;
}

using CloudPtr = std::shared_ptr<const cloud::PointCloud>;

// What rules compare with, or go by, whatever its name.
class Given {
  public:
    Given(const Request& r, Progress& progress) {
        if (!r.reference.empty()) {
            other_ = read_input(r.reference, r.common, progress).cloud;
            members_ = ElementSet::all(other_->size());
        }
        centreline_ = r.centreline;
        if (!centreline_.empty()) (void)io::read_lines(centreline_);  // a broken one is no file's own fault
    }
    /// For data of that reference: the line is brought to it.
    score::Company company(const cloud::Reference& of) const {
        score::Company c;
        if (other_) c.other = [this](const std::string&) { return score::Beside{other_.get(), &members_}; };
        if (!centreline_.empty())
            c.line = [lines = std::make_shared<std::vector<io::MapLine>>(read_lines_in(centreline_, of))](
                         const std::string&) { return &lines->front().points; };
        return c;
    }

  private:
    CloudPtr other_;
    ElementSet members_;
    std::string centreline_;
};

// What a recipe takes of a cloud, seen together with what lies within the buffer round it.
std::vector<score::Removal> removals_of(const score::Recipe& recipe, const CloudPtr& cloud,
                                        const std::vector<CloudPtr>& others, const Given& given,
                                        double buffer, Progress& progress) {
    const score::Company company = given.company(cloud->reference());
    if (others.empty()) return score::run(recipe, *cloud, ElementSet::all(cloud->size()), progress, company);
    const cloud::WithNeighbours joined(cloud, others, buffer, progress);
    auto removals =
        score::run(recipe, joined.cloud(), ElementSet::all(joined.cloud().size()), progress, company);
    for (score::Removal& r : removals) r.elements = joined.own_part(r.elements);
    return removals;
}

// Cleans one file; what is printed of it.
json clean(const score::Recipe& recipe, const std::string& input, const std::string& output, const Request& r,
           const std::vector<CloudPtr>& others, const Given& given, Progress& progress) {
    const auto cloud = read_input(input, r.common, progress).cloud;
    const auto removals = removals_of(recipe, cloud, others, given, r.buffer, progress);
    ElementSet gone(cloud->size());
    json entries = json::array();
    for (const score::Removal& e : removals) {
        gone = gone | e.elements;
        entries.push_back({{"rule", e.rule}, {"reason", e.reason}, {"count", e.elements.count()}});
    }
    progress.stretch(0.9, 1, "Writing");
    io::WriteOptions options;
    options.replace = r.common.force;
    io::write_cloud({{cloud, io::keep_all_but(*cloud, gone, progress), dropped_of(r.mark)}}, output, options,
                    progress);
    if (!r.removed.empty())
        io::write_cloud({{cloud, io::keep_only(*cloud, gone, progress)}}, r.removed, options, progress);
    const json j{{"input", input},          {"output", output},
                 {"before", cloud->size()}, {"after", cloud->size() - gone.count()},
                 {"unit", cloud->unit()},   {"crs", cloud->crs()},
                 {"entries", entries}};
    for (const std::string& sentence : io::lost_in({{cloud}}, output)) fmt::print(stderr, "{}\n", sentence);
    if (!r.ledger.empty()) {
        OutputFile out(r.ledger, r.common.force);
        out.write(j.dump(2) + "\n");
        out.finish();
    }
    return j;
}

std::string text_of(const json& j) {
    std::string text = fmt::format("{}: {} of {} points stay\n", j["input"].get<std::string>(),
                                   j["after"].get<std::uint64_t>(), j["before"].get<std::uint64_t>());
    for (const json& e : j["entries"])
        text += fmt::format("  {:>12} by {} ({})\n", e["count"].get<std::uint64_t>(),
                            e["rule"].get<std::string>(), e["reason"].get<std::string>());
    return text;
}

void run_one(const Request& r) {
    refuse_overwriting_input(r.inputs, r.output);
    if (!r.removed.empty()) refuse_overwriting_input(r.inputs, r.removed);
    json j;
    const score::Recipe recipe = recipe_of(r);
    with_progress([&](Progress& p) { j = clean(recipe, r.inputs[0], r.output, r, {}, Given(r, p), p); });
    print(r.common, j, text_of(j));
}

// So many inputs at once as the cores and the memory allow; a point takes about 60 bytes while neighbours are
// looked for.
std::size_t jobs_for(const Request& r) {
    if (r.jobs > 0) return r.jobs;
    std::uint64_t largest = 1;
    for (const std::string& input : r.inputs) {
        std::error_code unknown;
        const auto bytes = fs::file_size(input, unknown);
        if (!unknown) largest = std::max<std::uint64_t>(largest, bytes);
    }
    return std::clamp<std::size_t>(static_cast<std::size_t>(memory_budget() / (3 * largest)), 1,
                                   parallel::workers());
}

// The other inputs, for buffers; what cannot be read is reported where it is cleaned.
std::vector<CloudPtr> read_all(const Request& r, Progress& progress) {
    std::vector<CloudPtr> clouds;
    for (const std::string& input : r.inputs) {
        try {
            clouds.push_back(read_input(input, r.common, progress).cloud);
        } catch (const Error&) {
            clouds.push_back(nullptr);
        }
    }
    return clouds;
}

// The ground is found in squares, whose side comes from the density of the points: tiles agree on one, which
// the rule then names. Two digits, so that it hardly depends on how the site was cut.
score::Recipe with_one_ground(score::Recipe recipe, const std::vector<CloudPtr>& tiles) {
    for (score::Step& step : recipe) {
        if (step.score != "ground" || (step.parameters.contains("cell") && step.parameters.at("cell") > 0))
            continue;
        std::vector<double> cells;
        for (const CloudPtr& tile : tiles)
            if (tile) {
                const double metres = length_unit(tile->unit()).metres;
                cells.push_back(terrain::cell_for(*tile, ElementSet::all(tile->size()), metres) / metres);
            }
        if (cells.empty()) continue;
        const auto middle = cells.begin() + static_cast<std::ptrdiff_t>(cells.size() / 2);
        std::nth_element(cells.begin(), middle, cells.end());
        const double digit = std::pow(10.0, std::floor(std::log10(*middle)) - 1);
        step.parameters["cell"] = std::round(*middle / digit) * digit;
    }
    return recipe;
}

// One bad input does not stop the rest.
void run_all(const Request& r, const std::string& folder) {
    score::Recipe recipe = recipe_of(r);
    fs::create_directories(folder);
    std::vector<json> results(r.inputs.size());
    with_progress([&](Progress& progress) {
        const Given given(r, progress);
        const std::vector<CloudPtr> tiles = r.buffer > 0 ? read_all(r, progress) : std::vector<CloudPtr>();
        recipe = with_one_ground(std::move(recipe), tiles);
        std::atomic<std::size_t> next{0}, done{0};
        const auto work = [&](std::size_t) {
            for (std::size_t i = next++; i < r.inputs.size(); i = next++) {
                const std::string& input = r.inputs[i];
                const std::string output = (fs::path(folder) / fs::path(input).filename()).string();
                std::vector<CloudPtr> others;
                for (std::size_t k = 0; k < tiles.size(); ++k)
                    if (k != i && tiles[k]) others.push_back(tiles[k]);
                Progress own;
                try {
                    progress.check();
                    refuse_overwriting_input({input}, output);
                    results[i] = clean(recipe, input, output, r, others, given, own);
                } catch (const Cancelled&) {
                    throw;
                } catch (const std::exception& e) {
                    results[i] = {{"input", input}, {"error", e.what()}};
                }
                progress.advance(static_cast<double>(++done) / static_cast<double>(r.inputs.size()));
            }
        };
        parallel::for_each(std::min(jobs_for(r), r.inputs.size()), work);
    });
    std::string text;
    std::size_t failed = 0;
    for (const json& j : results) {
        failed += j.contains("error");
        text += j.contains("error")
                    ? fmt::format("{}: {}\n", j["input"].get<std::string>(), j["error"].get<std::string>())
                    : text_of(j);
    }
    print(r.common, {{"results", results}, {"failed", failed}}, text);
    if (failed > 0)
        throw Error(ErrorCode::Format,
                    fmt::format("{} of {} files could not be cleaned", failed, r.inputs.size()));
}

void add_given(CLI::App& sub, Request& r) {
    sub.add_option("--reference", r.reference, "The other cloud, for rules that compare");
    sub.add_option("--centreline", r.centreline, "File with a line, for rules that go by one");
}

}  // namespace

void add_clean(CLI::App& app) {
    auto* sub = app.add_subcommand("clean", "Take away what rules find");
    auto r = std::make_shared<Request>();
    r->inputs.resize(1);
    sub->add_option("IN", r->inputs[0], "Input file")->required();
    sub->add_option("-o,--output", r->output, "Output file")->required();
    sub->add_option("--rule", r->rules,
                    "'ID[name=value,…] RANGE', e.g. 'stray[neighbours=16] >3'; in the order given");
    sub->add_option("--recipe", r->recipe, "File of rules; they come before those of --rule");
    sub->add_flag("--keep", r->keep, "The last rule keeps what lies in its range");
    sub->add_option("--mark", r->mark, "Write removed points too, marked (LAS, LAZ)")
        ->check(CLI::IsMember({"withheld", "class", "class18"}));
    sub->add_option("--removed", r->removed, "Write what was removed to this file");
    sub->add_option("--ledger", r->ledger, "Write what was removed by which rule, as JSON");
    add_given(*sub, *r);
    add_common(*sub, r->common, true, true);
    sub->callback([=] { run_one(*r); });
}

void add_run(CLI::App& app) {
    auto* sub = app.add_subcommand("run", "Run a recipe on many files");
    auto r = std::make_shared<Request>();
    auto folder = std::make_shared<std::string>();
    sub->add_option("RECIPE", r->recipe, "File of rules")->required();
    sub->add_option("IN", r->inputs, "Input files")->required();
    sub->add_option("--out-dir", *folder, "Folder for the results, under the names of the inputs")
        ->required();
    sub->add_option("--jobs", r->jobs, "So many files at once; usually as many as cores and memory allow");
    sub->add_option("--buffer", r->buffer,
                    "The inputs are tiles of one site: each is judged together with what others hold within "
                    "this distance of it (unit of the data)")
        ->check(CLI::NonNegativeNumber);
    add_given(*sub, *r);
    add_common(*sub, r->common, true, true);
    sub->callback([=] { run_all(*r, *folder); });
}

}  // namespace pristine::cli
