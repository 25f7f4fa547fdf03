// `pristine align`: a mesh brought to the axes by features that are fitted to parts of it.

#include <fmt/format.h>

#include <algorithm>

#include "cli/command.h"
#include "core/base/output.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/place/mesh_feature.h"
#include "core/select/triangle_solid.h"

namespace pristine::cli {
namespace {

using nlohmann::json;
using Kind = Feature::Kind;

struct AlignRequest {
    std::string input, output, matrix;
    std::array<std::vector<std::string>, 5> fits;  // by kind: "name@x,y,z,radius"
    std::vector<std::string> meets;                // "name=one,other"
    std::string origin, direction, to = "z", clocking, clock_to = "x";
    bool dry_run = false;
    Common common;
};

constexpr std::array<std::pair<const char*, const char*>, 5> kKinds{{{"--point", "point"},
                                                                     {"--line", "line"},
                                                                     {"--plane", "plane"},
                                                                     {"--axis", "axis"},
                                                                     {"--sphere", "sphere"}}};

std::vector<std::string> parts_of(const std::string& text, char by) {
    std::vector<std::string> parts;
    std::size_t from = 0;
    for (std::size_t to = 0; to != std::string::npos; from = to + 1) {
        to = text.find(by, from);
        parts.push_back(text.substr(from, to == std::string::npos ? to : to - from));
    }
    return parts;
}

Feature fitted(const cloud::PointCloud& c, const std::string& text, Kind kind) {
    const auto at = text.find('@');
    const std::vector<std::string> numbers =
        at == std::string::npos ? std::vector<std::string>() : parts_of(text.substr(at + 1), ',');
    std::array<double, 4> v{};
    bool whole = numbers.size() == 4 && at > 0;
    for (std::size_t k = 0; k < 4 && whole; ++k) {
        char* end = nullptr;
        v[k] = std::strtod(numbers[k].c_str(), &end);
        whole = !numbers[k].empty() && *end == 0 && std::isfinite(v[k]);
    }
    if (!whole || !(v[3] > 0))
        throw Error(ErrorCode::Usage, "'" + text + "' does not say where a feature is", {},
                    "Write name@x,y,z,radius: it is fitted to the triangles that reach into that ball.");
    const ElementSet set =
        select::in_ball(c, {v[0], v[1], v[2]}, v[3], ElementSet::all(c.size()), select::Reach::Touches);
    if (set.empty())
        throw Error(ErrorCode::Empty, "No triangle lies in the ball of '" + text.substr(0, at) + "'");
    Feature f = place::feature_of(c, set, kind);
    f.name = text.substr(0, at);
    return f;
}

const Feature& named(const std::vector<Feature>& all, const std::string& name) {
    const auto it = std::find_if(all.begin(), all.end(), [&](const Feature& f) { return f.name == name; });
    if (it == all.end()) throw Error(ErrorCode::Usage, "There is no feature '" + name + "'");
    return *it;
}

void add(std::vector<Feature>& all, Feature f) {
    if (std::any_of(all.begin(), all.end(), [&](const Feature& o) { return o.name == f.name; }))
        throw Error(ErrorCode::Usage, "Two features are called '" + f.name + "'");
    all.push_back(std::move(f));
}

std::vector<Feature> features_of(const cloud::PointCloud& c, const AlignRequest& r) {
    std::vector<Feature> all;
    for (std::size_t k = 0; k < r.fits.size(); ++k)
        for (const std::string& text : r.fits[k]) add(all, fitted(c, text, static_cast<Kind>(k)));
    for (const std::string& text : r.meets) {
        const std::vector<std::string> sides = parts_of(text, '=');
        const std::vector<std::string> two =
            sides.size() == 2 ? parts_of(sides[1], ',') : std::vector<std::string>();
        if (two.size() != 2)
            throw Error(ErrorCode::Usage, "'" + text + "' does not say what meets", {},
                        "Write name=one,other.");
        Feature f = meet(named(all, two[0]), named(all, two[1]));
        f.name = sides[0];
        add(all, std::move(f));
    }
    return all;
}

// "x", "-x": which axis, and to which side of it.
std::pair<int, double> axis_of(const std::string& word) {
    return {word.back() - 'x', word.front() == '-' ? -1.0 : 1.0};
}

Alignment wanted(const AlignRequest& r, const std::vector<Feature>& all) {
    Alignment a;
    const auto direction = [&](const std::string& name, double side) {
        const Feature& f = named(all, name);
        if (norm(f.direction) == 0) throw Error(ErrorCode::Usage, "'" + name + "' has no direction");
        return f.direction * side;
    };
    if (!r.origin.empty()) a.origin = named(all, r.origin).point;
    const auto [axis, side] = axis_of(r.to);
    a.axis = axis;
    if (!r.direction.empty()) a.direction = direction(r.direction, side);
    const auto [clock_axis, clock_side] = axis_of(r.clock_to);
    a.clock_axis = clock_axis;
    if (!r.clocking.empty()) a.clocking = direction(r.clocking, clock_side);
    return a;
}

json feature_json(const Feature& f) {
    json j{{"name", f.name},
           {"kind", kKinds[static_cast<std::size_t>(f.kind)].second},
           {"point", {f.point.x, f.point.y, f.point.z}},
           {"rms", f.rms},
           {"corners", f.places}};
    if (norm(f.direction) > 0) j["direction"] = {f.direction.x, f.direction.y, f.direction.z};
    if (f.radius > 0) j["radius"] = f.radius;
    return j;
}

std::string rows_of(const std::array<double, 16>& m) {
    std::string text;
    for (std::size_t row = 0; row < 4; ++row)
        text += fmt::format("{:.12f} {:.12f} {:.12f} {:.9f}\n", m[4 * row], m[4 * row + 1], m[4 * row + 2],
                            m[4 * row + 3]);
    return text;
}

json run(const AlignRequest& r, Progress& progress) {
    const auto cloud = read_input(r.input, r.common, progress).cloud;
    if (!cloud->triangles())
        throw Error(ErrorCode::Usage, "Features are fitted to the triangles of a mesh", r.input);
    const std::vector<Feature> all = features_of(*cloud, r);
    const Alignment a = wanted(r, all);
    const RigidMove move = align(a);
    json j{{"input", r.input},
           {"unit", cloud->unit()},
           {"matrix", move.matrix()},
           {"freedoms_left", freedoms_left(a)},
           {"features", json::array()}};
    for (const Feature& f : all) j["features"].push_back(feature_json(f));
    if (r.dry_run) return j;
    if (!r.output.empty()) {
        const auto moved = io::moved(*cloud, ElementSet::all(cloud->size()), move, progress);
        io::WriteOptions options;
        options.replace = r.common.force;
        io::write_cloud({io::WriteItem{moved}}, r.output, options, progress);
        j["output"] = r.output;
    }
    if (!r.matrix.empty()) {
        OutputFile out(r.matrix, r.common.force);
        out.write(rows_of(move.matrix()));
        out.finish();
    }
    return j;
}

std::string told(const json& j) {
    const std::string unit = after_number(j["unit"].get<std::string>(), 1);
    std::string text;
    for (const json& f : j["features"])
        text += fmt::format("{:<16} {:<7} rms {:.3g}{}, {} corners\n", f["name"].get<std::string>(),
                            f["kind"].get<std::string>(), f["rms"].get<double>(), unit,
                            f["corners"].get<std::size_t>());
    text += rows_of(j["matrix"].get<std::array<double, 16>>());
    const int left = j["freedoms_left"].get<int>();
    return text +
           (left == 0 ? "all six freedoms are fixed\n" : fmt::format("{} of six freedoms are left\n", left));
}

void add_features(CLI::App& sub, AlignRequest& r) {
    for (std::size_t k = 0; k < kKinds.size(); ++k)
        sub.add_option(kKinds[k].first, r.fits[k],
                       fmt::format("name@x,y,z,radius: a {} fitted to the triangles in that ball; several",
                                   kKinds[k].second))
            ->allow_extra_args(false);
    sub.add_option("--meet", r.meets,
                   "name=one,other: where two features meet (a line and a plane, two planes; two points span "
                   "a line)")
        ->allow_extra_args(false);
}

}  // namespace

void add_align(CLI::App& app) {
    auto* sub = app.add_subcommand("align", "Bring a mesh to the axes by features fitted to parts of it");
    auto r = std::make_shared<AlignRequest>();
    reads(sub->add_option("IN", r->input, "Mesh"), r->common)->required();
    writes(sub->add_option("-o,--output", r->output, "The mesh, moved"), r->common);
    writes(sub->add_option("--matrix", r->matrix, "Write the move as sixteen numbers, by rows"), r->common);
    add_features(*sub, *r);
    const CLI::IsMember axes({"x", "y", "z", "-x", "-y", "-z"});
    sub->add_option("--origin", r->origin, "The feature that goes to 0, 0, 0");
    auto* direction = sub->add_option("--direction", r->direction, "The feature that goes along an axis");
    sub->add_option("--to", r->to, "Which: x, y, z, or against it: -x, -y, -z (usual: z)")
        ->check(axes)
        ->needs(direction);
    auto* clocking = sub->add_option("--clocking", r->clocking, "The feature that turns it about that axis")
                         ->needs(direction);
    sub->add_option("--clock-to", r->clock_to, "To which axis it turns (usual: x)")
        ->check(axes)
        ->needs(clocking);
    sub->add_flag("--dry-run", r->dry_run, "Say the features and the move; nothing is written");
    add_common(*sub, r->common, true, true);
    sub->callback([=] {
        if (r->origin.empty() && r->direction.empty())
            throw Error(ErrorCode::Usage, "It is not said what goes where", {},
                        "Give --origin, --direction or both.");
        if (r->output.empty() && r->matrix.empty() && !r->dry_run)
            throw Error(ErrorCode::Usage, "Nothing says where the result goes", {},
                        "Give --output, --matrix, or --dry-run.");
        json j;
        with_progress(r->common, [&](Progress& p) { j = run(*r, p); });
        print(r->common, j, told(j));
    });
}

}  // namespace pristine::cli
