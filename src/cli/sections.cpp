// `pristine sections` and `profile`: surfaces across and along a line.

#include <fmt/format.h>

#include "cli/surface_input.h"
#include "core/base/output.h"
#include "core/base/units.h"
#include "core/io/ending.h"
#include "core/io/format.h"
#include "core/io/section_files.h"

namespace pristine::cli {
namespace {

using nlohmann::json;

struct AlongRequest {
    std::vector<std::string> inputs;
    std::string axis, output, places, drawing;
    double every = 0, width = 0;
    io::SectionDrawing how;
    Common common;
};

struct Surfaces {
    std::vector<io::MeshFile> files;
    std::vector<std::string> names;
    std::vector<Vec3> axis;
    cloud::Reference reference;
};

// All in the unit and system of the first.
Surfaces read_all(const AlongRequest& r, Progress& progress) {
    Surfaces s;
    for (const std::string& input : r.inputs) {
        s.files.push_back(read_surface(input, r.common, progress));
        require_surface(s.files.back().mesh, input);
        s.names.push_back(std::filesystem::path(input).stem().string());
        s.reference = common_reference(s.files.front(), s.files.back());
    }
    const auto lines = read_lines_in(r.axis, s.reference);
    if (lines.empty()) throw Error(ErrorCode::Empty, "There is no line in the file", r.axis);
    s.axis = lines.front().points;
    if (lines.front().closed) s.axis.push_back(s.axis.front());
    return s;
}

json volumes_json(const measure::SectionVolumes& v) {
    json j{{"by_end_areas", {{"cut", v.cut_ends}, {"fill", v.fill_ends}}},
           {"by_prisms", {{"cut", v.cut_prisms}, {"fill", v.fill_prisms}}}};
    if (v.cut_exact)
        j["exact"] = {{"cut", *v.cut_exact}, {"fill", *v.fill_exact}};
    else
        j["exact"] = nullptr;
    if (!v.why_not_exact.empty()) j["why_not_exact"] = v.why_not_exact;
    return j;
}

void write_text(const std::string& path, const std::string& text, bool force) {
    OutputFile out(path, force);
    out.write(text);
    out.finish();
}

json cut_sections(const AlongRequest& r, Progress& progress) {
    const Surfaces s = read_all(r, progress);
    std::vector<const mesh::TriMesh*> meshes;
    for (const io::MeshFile& f : s.files) meshes.push_back(&f.mesh);
    measure::SectionPlan plan;
    plan.every = r.every;
    plan.half_width = 0.5 * (r.width > 0 ? r.width : 40 / length_unit(s.reference.unit).metres);
    const measure::Sections all = measure::sections(meshes, s.axis, plan, progress);
    if (!r.output.empty()) write_text(r.output, io::section_table(all, s.reference), r.common.force);
    if (!r.places.empty())
        write_text(r.places, io::section_places(all, s.names, s.reference), r.common.force);
    if (!r.drawing.empty())
        io::write_section_drawing(all, s.names, r.how, r.drawing, r.common.force, s.reference);
    json j{{"unit", s.reference.unit}, {"crs", s.reference.crs}, {"sections", json::array()}};
    for (const measure::CrossSection& one : all.all)
        j["sections"].push_back({{"chainage", one.chainage},
                                 {"cut_area", one.cut},
                                 {"fill_area", one.fill},
                                 {"width", one.both}});
    if (meshes.size() > 1) j["volumes"] = volumes_json(all.volumes);
    return j;
}

std::string told_sections(const json& j) {
    const std::string u = after_number(j["unit"].get<std::string>()),
                      a = after_number(j["unit"].get<std::string>(), 2),
                      v = after_number(j["unit"].get<std::string>(), 3);
    std::string text;
    for (const json& s : j["sections"])
        text += fmt::format("{:>10.2f}{}  cut {:.3f}{}  fill {:.3f}{}\n", s["chainage"].get<double>(), u,
                            s["cut_area"].get<double>(), a, s["fill_area"].get<double>(), a);
    if (!j.contains("volumes")) return text;
    for (const char* way : {"by_end_areas", "by_prisms", "exact"}) {
        const json& w = j["volumes"][way];
        if (!w.is_null())
            text += fmt::format("{:<14} cut {:.3f}{}, fill {:.3f}{}\n", way, w["cut"].get<double>(), v,
                                w["fill"].get<double>(), v);
    }
    if (j["volumes"].contains("why_not_exact"))
        text += j["volumes"]["why_not_exact"].get<std::string>() + ".\n";
    return text;
}

json cut_profile(const AlongRequest& r, Progress& progress) {
    const Surfaces s = read_all(r, progress);
    std::vector<io::MapLine> lines;
    const int d = length_unit(s.reference.unit).decimals + 1;
    const std::string u = is_length(s.reference.unit) ? length_unit(s.reference.unit).symbol : "unit not set";
    std::string table =
        fmt::format("surface,stretch,chainage [{0}],east [{0}],north [{0}],height [{0}]\n", u);
    json j{{"unit", s.reference.unit}, {"crs", s.reference.crs}, {"surfaces", json::array()}};
    for (std::size_t k = 0; k < s.files.size(); ++k) {
        progress.check();
        const auto stretches = measure::profile(s.files[k].mesh, s.axis);
        double length = 0, lowest = INFINITY, highest = -INFINITY;
        for (std::size_t i = 0; i < stretches.size(); ++i) {
            io::MapLine line{s.names[k], {}, false};
            for (const measure::ProfilePoint& p : stretches[i]) {
                line.points.push_back(p.place);
                lowest = std::min(lowest, p.place.z);
                highest = std::max(highest, p.place.z);
                table += fmt::format("{},{},{:.{}f},{:.{}f},{:.{}f},{:.{}f}\n", s.names[k], i + 1, p.chainage,
                                     d, p.place.x, d, p.place.y, d, p.place.z, d);
            }
            length += stretches[i].back().chainage - stretches[i].front().chainage;
            lines.push_back(std::move(line));
        }
        json one{{"name", s.names[k]}, {"stretches", stretches.size()}, {"length", length}};
        one["lowest"] = stretches.empty() ? json() : json(lowest);
        one["highest"] = stretches.empty() ? json() : json(highest);
        j["surfaces"].push_back(one);
    }
    if (lines.empty()) throw Error(ErrorCode::Empty, "The line does not lie over a surface", r.axis);
    if (io::ending_of(r.output) == ".csv")
        write_text(r.output, table, r.common.force);
    else
        io::write_lines(lines, r.output, r.common.force, s.reference);
    j["output"] = r.output;
    return j;
}

std::string told_of_profile(const json& j) {
    const std::string u = after_number(j["unit"].get<std::string>());
    std::string text;
    for (const json& s : j["surfaces"])
        text += s["lowest"].is_null()
                    ? fmt::format("{}: not below the line\n", s["name"].get<std::string>())
                    : fmt::format("{}: {:.3f}{} long, {:.3f} to {:.3f}{}\n", s["name"].get<std::string>(),
                                  s["length"].get<double>(), u, s["lowest"].get<double>(),
                                  s["highest"].get<double>(), u);
    return text;
}

void add_inputs(CLI::App& sub, AlongRequest& r) {
    reads(sub.add_option("IN", r.inputs, "Surfaces, the earlier first"), r.common)->required();
    reads(sub.add_option("--along", r.axis, "File with the line; its first line counts"), r.common)
        ->required();
}

}  // namespace

void add_sections(CLI::App& app) {
    auto* sub = app.add_subcommand("sections", "Sections across a line at an interval");
    auto r = std::make_shared<AlongRequest>();
    add_inputs(*sub, *r);
    length_option(*sub, "--every", r->every, "Between sections, along the line in plan", Least::AboveZero,
                  r->common)
        ->required();
    length_option(*sub, "--width", r->width, "Of a section, from end to end (40 m)", Least::AboveZero,
                  r->common);
    writes(sub->add_option("-o,--output", r->output, "Table of areas: .csv"), r->common);
    writes(sub->add_option("--places", r->places, "Table of offsets and heights: .csv"), r->common);
    writes(sub->add_option("--drawing", r->drawing, "The sections above each other: .dxf, .gpkg, .geojson"),
           r->common);
    sub->add_option("--exaggeration", r->how.exaggeration, "Of heights on the drawing (1)")
        ->check(CLI::PositiveNumber);
    add_common(*sub, r->common, true, true);
    sub->callback([=] {
        json j;
        with_progress(r->common, [&](Progress& p) { j = cut_sections(*r, p); });
        print(r->common, j, told_sections(j));
    });
    auto* along = app.add_subcommand("profile", "Heights of surfaces along a line");
    auto p = std::make_shared<AlongRequest>();
    add_inputs(*along, *p);
    writes(along->add_option("-o,--output", p->output,
                             "Table: .csv; lines: " + io::ending_list(io::Format::Holds::Lines, true)),
           p->common)
        ->required();
    add_common(*along, p->common, true, true);
    along->callback([=] {
        json j;
        with_progress(p->common, [&](Progress& progress) { j = cut_profile(*p, progress); });
        print(p->common, j, told_of_profile(j));
    });
}

}  // namespace pristine::cli
