// `pristine stockpiles`: a table of volumes inside closed lines.

#include <fmt/format.h>

#include <cmath>

#include "cli/surface_input.h"
#include "core/base/output.h"
#include "core/base/units.h"
#include "core/io/format.h"
#include "core/io/pile_table.h"
#include "core/measure/pile_outlines.h"

namespace pristine::cli {
namespace {

using nlohmann::json;

struct PilesRequest {
    std::string input, lines, before, output, base = "rim", outlines;
    double level = 0, density = 0, noise = 0, least = 0;
    bool propose = false, has_level = false;
    Common common;
};

std::vector<std::pair<std::string, std::vector<Vec3>>> outlines_of(const PilesRequest& r,
                                                                   const io::MeshFile& in,
                                                                   Progress& progress) {
    std::vector<std::pair<std::string, std::vector<Vec3>>> out;
    if (r.propose) {
        measure::PileSearch search;
        search.least_height = r.least;
        for (auto& line : measure::pile_outlines(in.mesh, search, progress))
            out.emplace_back(fmt::format("Pile {}", out.size() + 1), std::move(line));
        if (out.empty()) throw Error(ErrorCode::Empty, "Nothing rises from the surface like a pile", r.input);
        return out;
    }
    return named_rings(r.lines, in.reference(), "Pile");
}

json pile_json(const io::NamedPile& n, const PilesRequest& r, const cloud::Reference& reference) {
    json j{{"name", n.name}, {"base", r.base}};
    if (!n.problem.empty()) {
        j["volume"] = j["mass"] = j["sigma"] = nullptr;
        j["problem"] = n.problem;
        return j;
    }
    const measure::Pile& p = n.pile;
    j["volume"] = p.volume;
    j["below"] = p.below;
    j["sigma"] = p.sigma;
    j["mass"] = r.density > 0 ? json(io::tonnes(p.volume, r.density, reference)) : json();
    j["plan_area"] = p.plan_area;
    j["surface_area"] = p.surface_area;
    j["outline_area"] = p.outline_area;
    j["base_low"] = p.base_low;
    j["base_high"] = p.base_high;
    j["highest"] = p.highest;
    j["noise"] = p.noise;
    return j;
}

json measure_piles(const PilesRequest& r, Progress& progress) {
    const io::MeshFile in = read_surface(r.input, r.common, progress);
    require_surface(in.mesh, r.input);
    measure::PileOptions options;
    options.base = measure::pile_base_of(r.base);
    options.level = r.level;
    options.noise = r.noise;
    if (options.base == measure::PileBase::Level && !r.has_level)
        throw Error(ErrorCode::Usage, "The level is not said", {}, "Give --level.");
    mesh::TriMesh before;
    if (options.base == measure::PileBase::OtherSurface) {
        if (r.before.empty())
            throw Error(ErrorCode::Usage, "The other surface is not said", {}, "Give --before.");
        io::MeshFile other = read_surface(r.before, r.common, progress);
        common_reference(other, in);
        before = std::move(other.mesh);
        require_surface(before, r.before);
        options.other = &before;
    }
    const auto lines = outlines_of(r, in, progress);
    std::vector<io::NamedPile> piles;
    std::vector<std::vector<Vec3>> rings;
    for (const auto& [name, ring] : lines) {
        io::NamedPile n{name, {}};
        try {
            n.pile = measure::stockpile(in.mesh, ring, options, progress);
            rings.push_back(ring);
        } catch (const Error& e) {
            n.problem = e.what();
            rings.emplace_back();
        }
        piles.push_back(std::move(n));
    }
    json j{{"unit", in.unit}, {"crs", in.crs}, {"piles", json::array()}, {"overlapping", json::array()}};
    double volume = 0, variance = 0;
    for (const io::NamedPile& n : piles) {
        j["piles"].push_back(pile_json(n, r, in.reference()));
        if (!n.problem.empty()) continue;
        volume += n.pile.volume;
        variance += n.pile.sigma * n.pile.sigma;
    }
    j["volume"] = volume;
    j["sigma"] = std::sqrt(variance);
    j["mass"] = r.density > 0 ? json(io::tonnes(volume, r.density, in.reference())) : json();
    std::vector<std::vector<Vec3>> sound;
    std::vector<std::size_t> number;
    for (std::size_t k = 0; k < rings.size(); ++k)
        if (!rings[k].empty()) sound.push_back(rings[k]), number.push_back(k);
    for (const auto& [a, b] : measure::overlapping_outlines(sound))
        j["overlapping"].push_back({piles[number[a]].name, piles[number[b]].name});
    if (!r.output.empty()) {
        OutputFile out(r.output, r.common.force);
        out.write(io::pile_table(piles, options.base, r.density, in.reference()));
        out.finish();
        j["output"] = r.output;
    }
    if (!r.outlines.empty()) {
        std::vector<io::MapLine> drawn;
        for (const auto& [name, ring] : lines) drawn.push_back({name, ring, true, {}});
        io::write_lines(drawn, r.outlines, r.common.force, in.reference());
    }
    return j;
}

std::string told_stockpiles(const json& j) {
    const std::string v = after_number(j["unit"].get<std::string>(), 3);
    std::string text;
    const auto mass = [](const json& m) {
        return m.is_null() ? std::string() : fmt::format(", {:.1f} t", m.get<double>());
    };
    for (const json& p : j["piles"]) {
        if (p.contains("problem")) {
            text += fmt::format("{:<20} {}\n", p["name"].get<std::string>(), p["problem"].get<std::string>());
            continue;
        }
        text += fmt::format("{:<20} {:>12.2f} +/- {:.2f}{}{}\n", p["name"].get<std::string>(),
                            p["volume"].get<double>(), p["sigma"].get<double>(), v, mass(p["mass"]));
    }
    text += fmt::format("{:<20} {:>12.2f} +/- {:.2f}{}{} (one standard deviation)\n", "all",
                        j["volume"].get<double>(), j["sigma"].get<double>(), v, mass(j["mass"]));
    for (const json& pair : j["overlapping"])
        text += fmt::format("{} and {} overlap: what lies in both counts twice\n", pair[0].get<std::string>(),
                            pair[1].get<std::string>());
    return text;
}

}  // namespace

void add_stockpiles(CLI::App& app) {
    auto* sub = app.add_subcommand("stockpiles", "Volumes and tonnes inside closed lines");
    auto r = std::make_shared<PilesRequest>();
    reads(sub->add_option("IN", r->input, "Surface"), r->common)->required();
    auto* lines =
        reads(sub->add_option("--lines", r->lines, "File with a closed line round each pile"), r->common);
    auto* propose = sub->add_flag("--propose", r->propose, "Find the piles on the surface instead");
    propose->excludes(lines);
    length_option(*sub, "--min-height", r->least, "With --propose: lower ones are none; usual: by the extent",
                  Least::AboveZero, r->common)
        ->needs(propose);
    sub->add_option("--base", r->base,
                    "What a pile stands on: rim (its foot, triangulated), lowest or mean height "
                    "of the foot, plane through the foot, level, surface")
        ->check(CLI::IsMember({"rim", "lowest", "mean", "plane", "level", "surface"}));
    auto* level = length_option(*sub, "--level", r->level, "The level", Least::Any, r->common);
    reads(sub->add_option("--before", r->before, "The other surface"), r->common);
    sub->add_option("--density", r->density, "Tonnes a cubic metre")->check(CLI::PositiveNumber);
    length_option(*sub, "--noise", r->noise, "Of the heights, one standard deviation; usual: estimated",
                  Least::AboveZero, r->common);
    writes(sub->add_option("-o,--output", r->output, "Table: .csv"), r->common);
    writes(sub->add_option("--outlines", r->outlines,
                           "Write the lines: " + io::ending_list(io::Format::Holds::Lines, true)),
           r->common);
    add_common(*sub, r->common, true, true);
    sub->callback([=] {
        if (r->lines.empty() && !r->propose)
            throw Error(ErrorCode::Usage, "It is not said where the piles are", {},
                        "Give --lines or --propose.");
        r->has_level = level->count() > 0;
        json j;
        with_progress(r->common, [&](Progress& p) { j = measure_piles(*r, p); });
        print(r->common, j, told_stockpiles(j));
    });
}

}  // namespace pristine::cli
