// `pristine classify`: gives classes to points by rules, and writes them all.

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <map>

#include "cli/batch.h"
#include "cli/cleaning.h"
#include "core/base/units.h"
#include "core/cloud/classes.h"
#include "core/recipe/ready.h"

namespace pristine::cli {
namespace {

using nlohmann::json;

struct ClassifyRequest : CleanRequest {
    Batch files;
    std::vector<int> only;
    bool terrain = false;
};

// "height 2..5=5" is "height 2..5 -> class 5". A list of words ends in a word.
std::string with_arrow(const std::string& rule) {
    const std::size_t at = rule.rfind('=');
    if (at == std::string::npos || rule.find("->") != std::string::npos) return rule;
    const std::string code = rule.substr(at + 1);
    int number = 0;
    const auto [last, problem] = std::from_chars(code.data(), code.data() + code.size(), number);
    const std::string before = rule.substr(0, at);
    if (problem != std::errc{} || last != code.data() + code.size() || before.empty() ||
        before.back() == '<' || before.back() == '>' || before.back() == '!' || before.back() == ' ')
        return rule;
    return before + " -> class " + code;
}

score::Recipe classes_of(ClassifyRequest& r) {
    if (r.terrain && r.rules.empty() && r.recipe.empty()) return {};
    for (std::string& rule : r.rules) rule = with_arrow(rule);
    const score::Recipe recipe = recipe_of(r);
    for (const score::Step& step : recipe)
        if (!step.to_class)
            throw Error(ErrorCode::Usage, "The rule '" + score::text_of(step) + "' gives no class", {},
                        "Write for example 'height 2..5 -> class 4'; 'pristine clean' takes points away.");
    return recipe;
}

json counts_of(const std::map<int, std::uint64_t>& counts) {
    json out = json::object();
    for (const auto& [code, count] : counts) out[std::to_string(code)] = count;
    return out;
}

std::map<int, std::uint64_t> counts_before(const CloudPtr& cloud) {
    std::map<int, std::uint64_t> out;
    for (const auto& [code, set] : *cloud::class_sets(cloud)) out[code] = set.count();
    return out;
}

// By element: cells of a grid without a point are none.
std::map<int, std::uint64_t> counts_after(const std::vector<score::Removal>& steps, const CloudPtr& cloud) {
    std::map<int, ElementSet> now;
    for (const auto& [code, set] : *cloud::class_sets(cloud)) now.emplace(code, set);
    for (const score::Removal& s : steps) {
        for (auto& [code, set] : now) set = set - s.elements;
        const auto [own, fresh] = now.emplace(*s.step.to_class, s.elements);
        if (!fresh) own->second = own->second | s.elements;
    }
    std::map<int, std::uint64_t> out;
    for (const auto& [code, set] : now)
        if (!set.empty()) out[code] = set.count();
    return out;
}

ElementSet of_classes(const std::vector<int>& codes, const CloudPtr& cloud) {
    ElementSet out(cloud->size());
    for (const auto& [code, set] : *cloud::class_sets(cloud))
        if (std::find(codes.begin(), codes.end(), static_cast<int>(code)) != codes.end()) out = out | set;
    return out;
}

json classify(score::Recipe recipe, const ClassifyRequest& r, Progress& progress) {
    const std::string& input = r.inputs[0];
    const CloudPtr cloud = read_input(input, r.common, progress).cloud;
    if (cloud->triangles())
        throw Error(ErrorCode::Usage, "Only points have classes; the file holds triangles", input);
    if (r.terrain) {
        const Progress::Part part(progress, 0.2, 0.5, progress.label());
        score::Recipe ready = score::terrain_classes(*cloud, ElementSet::all(cloud->size()),
                                                     1 / length_unit(cloud->unit()).metres, progress);
        recipe.insert(recipe.begin(), ready.begin(), ready.end());
    }
    std::vector<score::Removal> steps =
        removals_of(recipe, cloud, {}, Given(r, progress), r.buffer, progress);
    if (!r.only.empty()) {
        const ElementSet may = of_classes(r.only, cloud);
        for (score::Removal& s : steps) s.elements = s.elements & may;
    }
    json entries = json::array();
    for (const score::Removal& s : steps)
        entries.push_back({{"rule", s.rule}, {"class", *s.step.to_class}, {"count", s.elements.count()}});
    json j{{"input", input},
           {"points", cloud->size()},
           {"unit", cloud->unit()},
           {"crs", cloud->crs()},
           {"entries", entries},
           {"before", counts_of(counts_before(cloud))},
           {"after", counts_of(counts_after(steps, cloud))}};
    if (r.output.empty()) return j;
    progress.stretch(0.9, 1, "Writing");
    io::WriteItem all{cloud};
    all.classes = classes_after(steps, cloud, progress);
    io::WriteOptions options;
    options.replace = r.common.force;
    io::write_cloud({all}, r.output, options, progress);
    for (const std::string& sentence : io::lost_in({all}, r.output)) fmt::print(stderr, "{}\n", sentence);
    j["output"] = r.output;
    return j;
}

std::string told_classes(const json& j) {
    std::string text =
        fmt::format("{}: {} points\n", j["input"].get<std::string>(), j["points"].get<std::uint64_t>());
    for (const json& e : j["entries"])
        text +=
            fmt::format("  {:>12} by {}\n", e["count"].get<std::uint64_t>(), e["rule"].get<std::string>());
    text += j.contains("output") ? "now\n" : "would be\n";
    for (const auto& [code, count] : j["after"].items()) {
        const std::string name = cloud::class_name(std::stoi(code));
        text += fmt::format("  {:>12} {}{}\n", count.get<std::uint64_t>(), code,
                            name.empty() ? name : " " + name);
    }
    return text;
}

}  // namespace

void add_classify(CLI::App& app) {
    auto* sub = app.add_subcommand("classify", "Give points a class by rules");
    auto r = std::make_shared<ClassifyRequest>();
    r->inputs.resize(1);
    add_batch(*sub, r->files, r->common, "Say what would become of the points, and write nothing");
    sub->add_option("--rule", r->rules,
                    "'ID[name=value,…] RANGE -> class N', e.g. 'height 2..5 -> class 4', or 'height 2..5=4'; "
                    "of several the last one holds");
    reads(sub->add_option("--recipe", r->recipe, "File of rules that give classes; they come first"),
          r->common);
    sub->add_flag(
        "--terrain", r->terrain,
        "Ground, vegetation by height and noise, by what the cloud says of itself; rules come after");
    sub->add_option("--only", r->only, "Only points that have one of these classes now, e.g. 0,1")
        ->delimiter(',')
        ->check(CLI::Range(0, 255));
    add_given(*sub, *r);
    add_common(*sub, r->common, true, true);
    sub->callback([=] {
        const score::Recipe recipe = classes_of(*r);
        run_batch(
            r->files, r->common,
            [&](const std::string& input, const std::string& output, Progress& p) {
                r->inputs[0] = input, r->output = output;
                return classify(recipe, *r, p);
            },
            told_classes);
    });
}

}  // namespace pristine::cli
