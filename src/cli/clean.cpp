#include "cli/cleaning.h"

#include <fmt/format.h>

#include <algorithm>

#include "core/base/file.h"
#include "core/base/output.h"
#include "core/cloud/join.h"
#include "core/io/keep.h"
#include "core/io/lines/lines.h"
#include "core/site/item_classes.h"

namespace pristine::cli {
namespace {

using nlohmann::json;

io::Dropped dropped_of(const std::string& mark) {
    return mark == "withheld"  ? io::Dropped::Withheld
           : mark == "class"   ? io::Dropped::Noise
           : mark == "class18" ? io::Dropped::HighNoise
                               : io::Dropped::LeftOut;
}

}  // namespace

std::vector<score::Removal> removals_of(const score::Recipe& recipe, const CloudPtr& cloud,
                                        const std::vector<CloudPtr>& others, const Given& given,
                                        double buffer, Progress& progress) {
    const score::ScanContext company = given.company(cloud->reference());
    if (others.empty()) return score::run(recipe, *cloud, ElementSet::all(cloud->size()), progress, company);
    const cloud::WithNeighbours joined(cloud, others, buffer, progress);
    auto removals =
        score::run(recipe, joined.cloud(), ElementSet::all(joined.cloud().size()), progress, company);
    for (score::Removal& r : removals) r.elements = joined.own_part(r.elements);
    return removals;
}

std::shared_ptr<const std::vector<std::uint8_t>> classes_after(const std::vector<score::Removal>& removals,
                                                               const CloudPtr& cloud, Progress& progress) {
    site::SitePtr s = site::add_cloud({}, cloud, "input", "");
    for (const score::Removal& r : removals)
        if (r.step.to_class && !r.elements.empty())
            s = site::class_parts(*s, {{s->active, std::make_shared<const ElementSet>(r.elements)}},
                                  *r.step.to_class, {r.reason, site::by_rule(r.step), {}, nullptr});
    return site::classes_by_record(*s->active_item(), progress);
}

ElementSet taken_out(const std::vector<score::Removal>& removals, std::uint64_t size) {
    ElementSet gone(size);
    for (const score::Removal& r : removals)
        if (!r.step.to_class) gone = gone | r.elements;
    return gone;
}

score::Recipe recipe_of(const CleanRequest& r) {
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

Given::Given(const CleanRequest& r, Progress& progress) {
    if (!r.reference.empty()) {
        other_ = read_input(r.reference, r.common, progress).cloud;
        members_ = ElementSet::all(other_->size());
    }
    centreline_ = r.centreline;
    if (!centreline_.empty()) (void)io::read_lines(centreline_);  // a broken one is no file's own fault
}

score::ScanContext Given::company(const cloud::Reference& of) const {
    score::ScanContext c;
    if (other_) c.other = [this](const std::string&) { return score::OtherScan{other_.get(), &members_}; };
    if (!centreline_.empty())
        c.line = [lines = std::make_shared<std::vector<io::MapLine>>(read_lines_in(centreline_, of))](
                     const std::string&) { return &lines->front().points; };
    return c;
}

// Cleans one file; what is printed of it.
json clean(const score::Recipe& recipe, const std::string& input, const std::string& output,
           const CleanRequest& r, const std::vector<CloudPtr>& others, const Given& given,
           Progress& progress) {
    const auto cloud = read_input(input, r.common, progress).cloud;
    const auto removals = removals_of(recipe, cloud, others, given, r.buffer, progress);
    const ElementSet gone = taken_out(removals, cloud->size());
    json entries = json::array();
    for (const score::Removal& e : removals) {
        entries.push_back({{"rule", e.rule}, {"reason", e.reason}, {"count", e.elements.count()}});
        if (e.step.to_class) entries.back()["class"] = *e.step.to_class;
    }
    const auto classes = classes_after(removals, cloud, progress);
    json j{{"input", input},        {"before", cloud->size()}, {"after", cloud->size() - gone.count()},
           {"unit", cloud->unit()}, {"crs", cloud->crs()},     {"entries", entries}};
    if (r.dry_run) return j;
    j["output"] = output;
    progress.stretch(0.9, 1, "Writing");
    io::WriteOptions options;
    options.replace = r.common.force;
    io::WriteItem stays{cloud, io::keep_all_but(*cloud, gone, progress), dropped_of(r.mark)};
    stays.classes = classes;
    io::write_cloud({stays}, output, options, progress);
    if (!r.removed.empty())
        io::write_cloud({{cloud, io::keep_only(*cloud, gone, progress)}}, r.removed, options, progress);
    for (const std::string& sentence : io::lost_in({stays}, output)) fmt::print(stderr, "{}\n", sentence);
    if (!r.ledger.empty()) {
        OutputFile out(r.ledger, r.common.force);
        out.write(j.dump(2) + "\n");
        out.finish();
    }
    return j;
}

std::string text_of(const json& j) {
    std::string text = fmt::format("{}: {} of {} points {}\n", j["input"].get<std::string>(),
                                   j["after"].get<std::uint64_t>(), j["before"].get<std::uint64_t>(),
                                   j.contains("output") ? "stay" : "would stay");
    for (const json& e : j["entries"])
        text += fmt::format("  {:>12} by {} ({})\n", e["count"].get<std::uint64_t>(),
                            e["rule"].get<std::string>(), e["reason"].get<std::string>());
    return text;
}

namespace {

void run_one(const CleanRequest& r) {
    json j;
    if (r.output.empty() && !r.dry_run)
        throw Error(ErrorCode::Usage, "There is no output", {}, "Give -o, or --dry-run.");
    const score::Recipe recipe = recipe_of(r);
    with_progress(r.common,
                  [&](Progress& p) { j = clean(recipe, r.inputs[0], r.output, r, {}, Given(r, p), p); });
    print(r.common, j, text_of(j));
}

}  // namespace

void add_given(CLI::App& sub, CleanRequest& r) {
    reads(sub.add_option("--reference", r.reference, "The other cloud, for rules that compare"), r.common);
    reads(sub.add_option("--line,--centreline", r.centreline, "File with a line, for rules that go by one"),
          r.common);
}

void add_clean(CLI::App& app) {
    auto* sub = app.add_subcommand("clean", "Take away what rules find");
    auto r = std::make_shared<CleanRequest>();
    r->inputs.resize(1);
    reads(sub->add_option("IN", r->inputs[0], "Input file"), r->common)->required();
    auto* output = writes(sub->add_option("-o,--output", r->output, "Output file"), r->common);
    sub->add_option("--rule", r->rules,
                    "'ID[name=value,…] RANGE', e.g. 'stray[neighbours=16] >3'; in the order given");
    reads(sub->add_option("--recipe", r->recipe, "File of rules; they come before those of --rule"),
          r->common);
    sub->add_flag("--keep", r->keep, "The last rule keeps what lies in its range");
    sub->add_option("--mark", r->mark, "Write removed points too, marked (LAS, LAZ)")
        ->check(CLI::IsMember({"withheld", "class", "class18"}));
    auto* removed =
        writes(sub->add_option("--removed", r->removed, "Write what was removed to this file"), r->common);
    auto* ledger = writes(
        sub->add_option("--ledger", r->ledger, "Write what was removed by which rule, as JSON"), r->common);
    sub->add_flag("--dry-run", r->dry_run, "Say what would go by which rule, and write nothing")
        ->excludes(output)
        ->excludes(removed)
        ->excludes(ledger);
    add_given(*sub, *r);
    add_common(*sub, r->common, true, true);
    sub->callback([=] { run_one(*r); });
}

}  // namespace pristine::cli
