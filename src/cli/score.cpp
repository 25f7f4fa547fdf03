#include <fmt/format.h>

#include <fstream>

#include "cli/command.h"
#include "core/base/output.h"
#include "core/io/lines/lines.h"
#include "core/score/limits.h"
#include "core/score/score.h"

namespace pristine::cli {
namespace {

using nlohmann::json;
using CloudPtr = std::shared_ptr<const cloud::PointCloud>;

json parameter_json(const score::Parameter& p) {
    return {{"name", p.name}, {"title", p.title}, {"unit", p.unit}, {"default", p.usual},
            {"min", p.least}, {"max", p.most},    {"help", p.help}, {"whole", p.whole}};
}

void list(const Common& common) {
    json all = json::array();
    std::string text;
    for (const score::Score& s : score::scores()) {
        json parameters = json::array();
        text += fmt::format("{:<12} {} [{}]\n             high: {}\n             low: {}\n", s.id, s.title,
                            s.unit, s.high, s.low);
        for (const score::Parameter& p : s.parameters) {
            parameters.push_back(parameter_json(p));
            text += fmt::format("             {} = {} ({} to {} {}): {}\n", p.name, p.usual, p.least, p.most,
                                p.unit, p.help);
        }
        if (!s.wrong.empty()) text += fmt::format("             when it is wrong: {}\n", s.wrong);
        all.push_back(
            {{"id", s.id},
             {"title", s.title},
             {"applies_to", s.applies == score::Score::Applies::Points      ? "cloud"
                            : s.applies == score::Score::Applies::Triangles ? "surface, mesh"
                                                                            : "cloud, surface, mesh"},
             {"unit", s.unit},
             {"high", s.high},
             {"low", s.low},
             {"wrong", s.wrong},
             {"parameters", parameters}});
    }
    print(common, {{"scores", all}}, text);
}

// One little-endian float for each record, in file order; not-a-number where there is no value.
void write_values(const score::Column& column, const cloud::PointCloud& c, const std::string& path,
                  bool replace) {
    std::vector<float> values(c.records()->count(), NAN);
    const auto order = c.order();
    for (std::size_t p = 0; p < c.page_count(); ++p) {
        const auto original = order->page(p);
        const auto page = column.values.page(p);
        for (std::size_t i = 0; i < page.size(); ++i)
            values[original[i]] = static_cast<float>(column.base + static_cast<double>(page[i]));
    }
    OutputFile out(path, replace);
    out.write(values.data(), values.size() * sizeof(float));
    out.finish();
}

// Only lengths take a unit.
void require_length(const score::Score& s, const std::string& name, const std::string& typed) {
    for (const score::Parameter& p : s.parameters)
        if (p.name == name && p.unit != "length")
            throw Error(ErrorCode::Usage, "'" + typed + "' has a unit, but '" + name + "' is no length");
}

struct ScoreRequest {
    std::string id, input, values, reference, centreline, column;
    std::vector<std::string> parameters;
    Common common;
};

void run(const ScoreRequest& r) {
    const score::Score& s = score::find(r.id);
    score::Parameters given;
    std::vector<std::tuple<std::string, std::string, std::string>> lengths;  // name, unit, as typed
    for (const std::string& p : r.parameters) {
        const std::size_t equals = p.find('=');
        try {
            if (equals == std::string::npos) throw std::invalid_argument(p);
            const std::string name = p.substr(0, equals), typed = p.substr(equals + 1);
            std::string of;
            if (!split_length(typed, given[name], of)) throw std::invalid_argument(p);
            if (!of.empty()) lengths.emplace_back(name, of, typed);
        } catch (const std::exception&) {
            throw Error(ErrorCode::Usage, "'" + p + "' is no name=number");
        }
    }
    score::Profile profile;
    std::string unit = s.unit;
    with_progress(r.common, [&](Progress& progress) {
        const auto c = read_input(r.input, r.common, progress).cloud;
        for (const auto& [name, of, typed] : lengths) {
            require_length(s, name, typed);
            given[name] = in_unit_of(c->reference(), given[name], of, typed);
        }
        const Progress::Part part(progress, 0.5, 1, s.title);
        const ElementSet all = ElementSet::all(c->size());
        CloudPtr other;
        if (!r.reference.empty()) other = read_input(r.reference, r.common, progress).cloud;
        const ElementSet members = ElementSet::all(other ? other->size() : 0);
        std::vector<io::MapLine> lines;
        if (!r.centreline.empty()) lines = read_lines_in(r.centreline, c->reference());
        if (s.needs_column && r.column.empty())
            throw Error(ErrorCode::Usage, "'" + s.title + "' needs --column with the name of one");
        const score::Column column = score::compute(s,
                                                    {*c,
                                                     all,
                                                     other.get(),
                                                     other ? &members : nullptr,
                                                     lines.empty() ? nullptr : &lines.front().points,
                                                     {},
                                                     r.column},
                                                    given, progress);
        profile = score::profile(column);
        if (!column.note.empty()) fmt::print(stderr, "{}.\n", column.note);
        if (s.unit == "area") unit = (c->unit().empty() ? "unit of the data" : c->unit()) + "²";
        if (s.unit == "length") unit = c->unit().empty() ? "unit of the data" : c->unit();
        if (!r.values.empty()) write_values(column, *c, r.values, r.common.force);
    });
    json edges = json::array();
    for (std::size_t b = 0; b <= profile.bins.size(); ++b)
        edges.push_back(profile.bin_lo + (profile.bin_hi - profile.bin_lo) * static_cast<double>(b) /
                                             static_cast<double>(profile.bins.size()));
    print(r.common,
          {{"score", s.id},
           {"count", profile.count},
           {"min", profile.min},
           {"median", profile.median},
           {"mad", profile.mad},
           {"max", profile.max},
           {"unit", unit},
           {"histogram", {{"edges", edges}, {"counts", profile.bins}}}},
          fmt::format("{}: {} points, {:.6g} to {:.6g}, median {:.6g}, MAD {:.6g} {}\n", s.title,
                      profile.count, profile.min, profile.max, profile.median, profile.mad, unit));
}

}  // namespace

void add_scores(CLI::App& app) {
    auto* sub = app.add_subcommand("scores", "What points can be judged by");
    auto common = std::make_shared<Common>();
    add_common(*sub, *common, false, false);
    sub->callback([=] { list(*common); });
}

void add_score(CLI::App& app) {
    auto* sub = app.add_subcommand("score", "One number for each point, and how the numbers are spread");
    auto r = std::make_shared<ScoreRequest>();
    sub->add_option("ID", r->id, "Which score; 'pristine scores' lists them")->required();
    reads(sub->add_option("IN", r->input, "Input file"), r->common)->required();
    sub->add_option("-p,--parameter", r->parameters, "name=number; may be given several times");
    writes(sub->add_option("--values", r->values,
                           "Write one little-endian float32 for each record, in file order"),
           r->common);
    reads(sub->add_option("--reference", r->reference, "The other cloud, for scores that compare"),
          r->common);
    reads(
        sub->add_option("--line,--centreline", r->centreline, "File with a line, for scores that go by one"),
        r->common);
    sub->add_option("--column", r->column, "Name of a column of the file, for the score 'column'");
    add_common(*sub, r->common, true, true);
    sub->callback([=] { run(*r); });
}

}  // namespace pristine::cli
