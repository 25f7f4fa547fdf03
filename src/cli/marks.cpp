// `pristine marks`: what was measured and kept in a project.

#include <fmt/format.h>

#include "cli/command.h"
#include "core/base/figure.h"
#include "core/base/units.h"
#include "core/store/kept_marks.h"

namespace pristine::cli {
namespace {

using nlohmann::json;

json mark_json(const io::WrittenMark& m) {
    json j{{"name", m.name}, {"kind", id_of(m.kind)}, {"places", json::array()}};
    for (const Vec3& p : m.points) j["places"].push_back({p.x, p.y, p.z});
    for (const MarkFigure& f : mark_figures(m.kind, m.points)) j["figures"][f.id] = f.value;
    if (!m.note.empty()) j["note"] = m.note;
    if (!m.over.empty()) j["over"] = m.over;
    if (!m.stale.empty()) j["out_of_date"] = m.stale;
    return j;
}

std::string shown(const MarkFigure& f, const std::string& unit) {
    const int more = f.quantity == MarkQuantity::Coordinate || f.quantity == MarkQuantity::Length ? 1 : 0;
    const std::string number = figure(f.value, length_unit(unit).decimals + more);
    switch (f.quantity) {
        case MarkQuantity::Coordinate:
        case MarkQuantity::Length:
            return std::string(f.id) == "run_per_rise" ? figure(f.value, 2) : number + after_number(unit);
        case MarkQuantity::Area:
            return number + after_number(unit, 2);
        case MarkQuantity::Angle:
            return figure(f.value, 2) + " deg";
        case MarkQuantity::Slope:
            return figure(f.value, 2) + " %";
    }
    return number;
}

std::string told(const store::KeptMarks& kept) {
    std::string out;
    for (const io::WrittenMark& m : kept.marks) {
        out += fmt::format("{} ({})\n", m.name, id_of(m.kind));
        for (const MarkFigure& f : mark_figures(m.kind, m.points))
            out += fmt::format("  {:18} {}\n", f.id, shown(f, kept.reference.unit));
        if (!m.over.empty()) out += fmt::format("  {:18} {}\n", "over", m.over);
        if (!m.stale.empty()) out += fmt::format("  {:18} {}\n", "out of date", m.stale);
        if (!m.note.empty()) out += fmt::format("  {:18} {}\n", "note", m.note);
    }
    return out.empty() ? "The project holds no marks.\n" : out;
}

}  // namespace

void add_marks(CLI::App& app) {
    auto* sub = app.add_subcommand("marks", "What was measured and kept in a project");
    struct Request {
        std::string input, output;
        Common common;
    };
    auto r = std::make_shared<Request>();
    reads(sub->add_option("PROJECT", r->input, "Project file"), r->common)->required();
    writes(sub->add_option("-o,--output", r->output,
                           "Write them as a table (.csv) or a map (.geojson, .gpkg, .dxf)"),
           r->common);
    add_common(*sub, r->common, false, true);
    sub->callback([=] {
        store::KeptMarks kept;
        with_progress(r->common, [&](Progress&) {
            kept = store::kept_marks(r->input);
            if (!r->output.empty()) io::write_marks(kept.marks, r->output, r->common.force, kept.reference);
        });
        json j{{"input", r->input}, {"unit", kept.reference.unit}, {"crs", kept.reference.crs}};
        j["marks"] = json::array();
        for (const io::WrittenMark& m : kept.marks) j["marks"].push_back(mark_json(m));
        if (!r->output.empty()) j["output"] = r->output;
        print(r->common, j, told(kept));
    });
}

}  // namespace pristine::cli
