// `pristine place` and `pristine fit`: a cloud, mesh or surface somewhere else.

#include <fmt/format.h>

#include <cmath>
#include <map>

#include "cli/batch.h"
#include "cli/command.h"
#include "core/base/units.h"
#include "core/io/mapped_cloud.h"
#include "core/io/pairs_file.h"
#include "core/place/fit.h"
#include "core/place/residual_map.h"
#include "core/select/fence.h"

namespace pristine::cli {
namespace {

using nlohmann::json;
using place::Freedom;

constexpr double kReach = 0.5;  // metres

const std::map<std::string, Freedom> kFreedoms{{"shift", Freedom::Shift},
                                               {"level", Freedom::Level},
                                               {"rigid", Freedom::Rigid},
                                               {"similarity", Freedom::Similarity}};

struct PlaceRequest {
    Batch files;
    std::string input, output;  // of files, the ones that are worked on
    std::string residuals, shift, about, matrix, pairs, freedom = "rigid", reference, where;
    double turn = 0, scale = 1, reach = 0;
    Common common;
};

json residuals_of(const std::vector<place::Pair>& pairs, const place::Placed& p) {
    json each = json::array();
    for (std::size_t k = 0; k < pairs.size(); ++k) {
        const place::Residual& r = p.residuals[k];
        each.push_back({{"name", pairs[k].name},
                        {"size", r.size},
                        {"x", r.off.x},
                        {"y", r.off.y},
                        {"z", r.off.z},
                        {"used", r.used},
                        {"outlier", r.outlier}});
    }
    json j{{"rms", p.rms}, {"max", p.worst}, {"pairs", each}};
    j["sigma"] = std::isfinite(p.sigma) ? json(p.sigma) : json();
    return j;
}

// What was asked for: pairs, a matrix, or turn, scale and shift.
Similarity wanted(const PlaceRequest& r, const cloud::PointCloud& c, json& j, Progress& progress) {
    if (!r.pairs.empty()) {
        const std::vector<place::Pair> pairs = io::read_pairs(r.pairs, progress);
        const place::Placed p = place::by_pairs(pairs, kFreedoms.at(r.freedom));
        j["residuals"] = residuals_of(pairs, p);
        j["parameters"] = r.freedom;
        return p.placement;
    }
    if (!r.matrix.empty()) return io::read_matrix(r.matrix);
    const Box3 box = c.robust_bounds();
    const Vec3 about = r.about.empty() ? box.empty() ? Vec3{} : box.centre() : place_typed(r.about);
    return Similarity::about(about, {0, 0, 1}, -r.turn, r.scale,
                             r.shift.empty() ? Vec3{} : place_typed(r.shift));
}

void write_placed(const PlaceRequest& r, const std::shared_ptr<const cloud::PointCloud>& cloud,
                  const Similarity& s, const cloud::Reference& reference, Progress& progress) {
    const Progress::Part part(progress, 0.6, 1, "Writing");
    const io::WriteItem placed{io::placed(cloud, s, reference, progress)};
    io::WriteOptions options;
    options.replace = r.common.force;
    io::write_cloud({placed}, r.output, options, progress);
    for (const std::string& sentence : io::lost_in({placed}, r.output)) fmt::print(stderr, "{}\n", sentence);
}

json started(const PlaceRequest& r, const cloud::PointCloud& c) {
    return {{"input", r.input}, {"unit", c.unit()}, {"crs", c.crs()}};
}

// What it does at the middle of the cloud: numbers that a person can judge.
void tell_move(const Similarity& s, const cloud::PointCloud& c, json& j) {
    j["matrix"] = s.matrix();
    j["scale"] = s.scale;
    j["turn_deg"] = s.turn_deg();
    const Box3 box = c.robust_bounds();
    if (box.empty()) return;
    const Vec3 middle = box.centre(), shift = s(middle) - middle;
    j["middle"] = {middle.x, middle.y, middle.z};
    j["shift_at_middle"] = {shift.x, shift.y, shift.z};
}

json place_one(const PlaceRequest& r, Progress& progress) {
    const auto cloud = read_input(r.input, r.common, progress).cloud;
    json j = started(r, *cloud);
    const Similarity s = wanted(r, *cloud, j, progress);
    tell_move(s, *cloud, j);
    if (r.output.empty()) return j;
    write_placed(r, cloud, s, cloud->reference(), progress);
    j["output"] = r.output;
    return j;
}

json fit_one(const PlaceRequest& r, Progress& progress) {
    const auto cloud = read_input(r.input, r.common, progress).cloud;
    const auto still = read_input(r.reference, r.common, progress).cloud;
    ElementSet stable = ElementSet::all(still->size());
    if (!r.where.empty())
        stable = select::plan_fence(*still, read_rings_in(r.where, still->reference()), stable, progress);
    place::FitOptions options;
    options.freedom = kFreedoms.at(r.freedom);
    options.reach = r.reach > 0 ? r.reach : kReach / length_unit(cloud->unit()).metres;
    place::Fit f;
    {
        const Progress::Part part(progress, 0.2, 0.6, "Fitting");
        f = place::fit(*cloud, ElementSet::all(cloud->size()), *still, stable, options, progress);
    }
    json j = started(r, *cloud);
    j["to"] = r.reference;
    tell_move(f.placement, *cloud, j);
    j["residuals"] = {{"rms", f.rms}};
    j["overlap"] = f.overlap;
    j["stable"] = f.stable;
    j["sigma_shift"] = f.sigma_shift;
    j["sigma_turn_deg"] = f.sigma_turn_deg;
    j["cube"] = f.cube;
    j["settled"] = f.settled;
    j["open"] = f.open;
    for (const std::string& o : f.open)
        fmt::print(stderr, "The surfaces do not say anything of the {}: it stays as it was.\n", o);
    if (!f.settled)
        fmt::print(stderr, "The fit did not come to rest; look at the result before it is used.\n");
    if (!r.residuals.empty()) {
        io::WriteOptions how;
        how.replace = r.common.force;
        const io::WriteItem map{place::residual_map(*cloud, ElementSet::all(cloud->size()), *still, stable, f,
                                                    options, progress)};
        io::write_cloud({map}, r.residuals, how, progress);
        j["residual_map"] = r.residuals;
    }
    if (r.output.empty()) return j;
    write_placed(r, cloud, f.placement, still->reference(), progress);
    j["output"] = r.output;
    return j;
}

std::string told_place(const json& j) {
    std::string text;
    const auto m = j["matrix"].get<std::vector<double>>();
    for (std::size_t row = 0; row < 4; ++row)
        text += fmt::format("{:>16.9f} {:>16.9f} {:>16.9f} {:>18.6f}\n", m[4 * row], m[4 * row + 1],
                            m[4 * row + 2], m[4 * row + 3]);
    const std::string unit = after_number(j["unit"].get<std::string>(), 1);
    if (j.contains("shift_at_middle")) {
        const auto shift = j["shift_at_middle"].get<std::vector<double>>();
        text += fmt::format("moves the middle by E {:.4f} N {:.4f} H {:.4f}{}, turns by {:.5f} degrees\n",
                            shift[0], shift[1], shift[2], unit, j["turn_deg"].get<double>());
    }
    if (j.contains("residuals"))
        text += fmt::format("rms {:.4f}{}\n", j["residuals"]["rms"].get<double>(), unit);
    if (j.contains("overlap"))
        text += fmt::format("overlap {:.1f} %, of it stable {:.1f} %\n", 100 * j["overlap"].get<double>(),
                            100 * j["stable"].get<double>());
    if (j.contains("residuals") && j["residuals"].contains("pairs"))
        for (const json& p : j["residuals"]["pairs"])
            text += fmt::format("  {:<16} {:.4f}{}{}{}\n", p["name"].get<std::string>(),
                                p["size"].get<double>(), unit, p["used"].get<bool>() ? "" : ", not used",
                                p["outlier"].get<bool>() ? ", an outlier" : "");
    return text;
}

void run(PlaceRequest& r, json (*work)(const PlaceRequest&, Progress&)) {
    run_batch(
        r.files, r.common,
        [&](const std::string& input, const std::string& output, Progress& p) {
            r.input = input, r.output = output;
            return work(r, p);
        },
        [&](const json& j) {
            return (r.files.inputs.size() > 1 || !r.files.folder.empty()
                        ? j["input"].get<std::string>() + ":\n"
                        : "") +
                   told_place(j);
        });
}

}  // namespace

void add_place(CLI::App& app) {
    auto* sub = app.add_subcommand("place", "Shift, turn and scale a cloud, mesh or surface");
    auto r = std::make_shared<PlaceRequest>();
    add_batch(*sub, r->files, r->common, "Say the placement and the residuals, and write nothing");
    auto* shift = sub->add_option("--shift", r->shift, "E,N,H to add, in the unit of the data");
    auto* turn =
        sub->add_option("--turn", r->turn, "Degrees to turn about the vertical, clockwise from above");
    auto* scale = sub->add_option("--scale", r->scale, "Factor")->check(CLI::PositiveNumber);
    sub->add_option("--about", r->about, "E,N,H that turn and scale leave in place; else the middle");
    auto* matrix =
        reads(sub->add_option("--matrix", r->matrix, "File of sixteen numbers, by rows"), r->common);
    auto* pairs = reads(sub->add_option("--pairs", r->pairs,
                                        "File of lines 'name E N H E N H': where places are, and should be"),
                        r->common);
    sub->add_option("--parameters", r->freedom, "Of pairs: shift (3), level (4), rigid (6), similarity (7)")
        ->check(CLI::IsMember({"shift", "level", "rigid", "similarity"}))
        ->needs(pairs);
    for (CLI::Option* one : {shift, turn, scale}) {
        matrix->excludes(one);
        pairs->excludes(one);
    }
    matrix->excludes(pairs);
    add_common(*sub, r->common, true, true);
    sub->callback([=] {
        if (r->shift.empty() && r->turn == 0 && r->scale == 1 && r->matrix.empty() && r->pairs.empty())
            throw Error(ErrorCode::Usage, "It is not said where to", {},
                        "Give --shift, --turn, --scale, --matrix or --pairs.");
        run(*r, place_one);
    });
}

void add_fit(CLI::App& app) {
    auto* sub = app.add_subcommand("fit", "Fit a cloud to another one on surfaces that both have");
    auto r = std::make_shared<PlaceRequest>();
    add_batch(*sub, r->files, r->common, "Say the placement, and write nothing");
    reads(sub->add_option("--to", r->reference, "The cloud that stays"), r->common)->required();
    length_option(*sub, "--reach", r->reach, "How far apart the two may be now (0.5 m)", Least::AboveZero,
                  r->common);
    sub->add_option("--parameters", r->freedom,
                    "shift (3), level (4: shift and turn about the vertical), rigid (6)")
        ->check(CLI::IsMember({"shift", "level", "rigid"}));
    reads(sub->add_option("--where", r->where, "File of closed lines: only there nothing has changed"),
          r->common);
    auto* map = writes(sub->add_option("--residuals", r->residuals,
                                       "Write how far each place lies from the other cloud after the fit, as "
                                       "points with a column"),
                       r->common);
    map->excludes("--dry-run")->excludes("--out-dir");  // one map, of one input
    add_common(*sub, r->common, true, true);
    sub->callback([=] { run(*r, fit_one); });
}

}  // namespace pristine::cli
