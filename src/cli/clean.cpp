#include <fmt/format.h>

#include "cli/command.h"
#include "core/base/file.h"
#include "core/io/keep.h"
#include "core/score/recipe.h"

namespace pristine::cli {
namespace {

using nlohmann::json;
namespace fs = std::filesystem;

struct Request {
    std::vector<std::string> rules, inputs;
    std::string recipe, output, mark, removed, ledger;
    bool keep = false;
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

// Cleans one file; what is printed of it.
json clean(const score::Recipe& recipe, const std::string& input, const std::string& output, const Request& r,
           Progress& progress) {
    const auto cloud = read_input(input, r.common, progress).cloud;
    const auto removals = score::run(recipe, *cloud, ElementSet::all(cloud->size()), progress);
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
    const json j{{"input", input},
                 {"output", output},
                 {"before", cloud->size()},
                 {"after", cloud->size() - gone.count()},
                 {"entries", entries}};
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
    with_progress([&](Progress& p) { j = clean(recipe, r.inputs[0], r.output, r, p); });
    print(r.common, j, text_of(j));
}

// One bad input does not stop the rest.
void run_all(const Request& r, const std::string& folder) {
    const score::Recipe recipe = recipe_of(r);
    fs::create_directories(folder);
    json results = json::array();
    std::string text;
    std::size_t failed = 0;
    with_progress([&](Progress& p) {
        for (const std::string& input : r.inputs) {
            const std::string output = (fs::path(folder) / fs::path(input).filename()).string();
            try {
                refuse_overwriting_input({input}, output);
                results.push_back(clean(recipe, input, output, r, p));
                text += text_of(results.back());
            } catch (const Error& e) {
                ++failed;
                results.push_back({{"input", input}, {"error", e.what()}});
                text += fmt::format("{}: {}\n", input, e.what());
            }
        }
    });
    print(r.common, {{"results", results}, {"failed", failed}}, text);
    if (failed > 0)
        throw Error(ErrorCode::Format,
                    fmt::format("{} of {} files could not be cleaned", failed, r.inputs.size()));
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
    add_common(*sub, r->common, true, true);
    sub->callback([=] { run_all(*r, *folder); });
}

}  // namespace pristine::cli
