#include "core/io/marks_file.h"

#include <fmt/format.h>

#include <algorithm>

#include "core/base/error.h"
#include "core/base/output.h"
#include "core/base/units.h"
#include "core/io/csv.h"
#include "core/io/ending.h"
#include "core/io/lines/ogr_writer.h"

namespace pristine::io {
namespace {

int decimals_of(MarkQuantity q, const cloud::Reference& r) {
    const int length = length_unit(r.unit).decimals + 2;
    return q == MarkQuantity::Angle || q == MarkQuantity::Slope ? 4 : length;
}

// "plan_area [m2]"; without a unit it says so.
std::string heading(const MarkFigure& f, const cloud::Reference& r) {
    const std::string unit = is_length(r.unit) ? length_unit(r.unit).symbol : "unit not set";
    switch (f.quantity) {
        case MarkQuantity::Coordinate:
        case MarkQuantity::Length:
            return std::string(f.id) == "run_per_rise" ? f.id : fmt::format("{} [{}]", f.id, unit);
        case MarkQuantity::Area:
            return fmt::format("{} [{}{}]", f.id, unit, is_length(r.unit) ? "2" : "");
        case MarkQuantity::Angle:
            return fmt::format("{} [deg]", f.id);
        case MarkQuantity::Slope:
            return fmt::format("{} [%]", f.id);
    }
    return f.id;
}

std::string places(const WrittenMark& m, const cloud::Reference& r) {
    std::string out;
    const int d = decimals_of(MarkQuantity::Coordinate, r);
    for (const Vec3& p : m.points)
        out += fmt::format("{}{} {} {}", out.empty() ? "" : "; ", csv_number(p.x, d), csv_number(p.y, d),
                           csv_number(p.z, d));
    return out;
}

std::string table_of(const std::vector<WrittenMark>& marks, const cloud::Reference& r) {
    std::vector<std::string> columns;
    std::vector<std::vector<MarkFigure>> figures;
    for (const WrittenMark& m : marks) {
        figures.push_back(mark_figures(m.kind, m.points));
        for (const MarkFigure& f : figures.back())
            if (const std::string h = heading(f, r);
                std::find(columns.begin(), columns.end(), h) == columns.end())
                columns.push_back(h);
    }
    std::string out = "name,kind,note";
    for (const std::string& c : columns) out += "," + c;
    out += ",over,out of date,places E N H\n";
    for (std::size_t k = 0; k < marks.size(); ++k) {
        const WrittenMark& m = marks[k];
        out += fmt::format("{},{},{}", csv_text(m.name), id_of(m.kind), csv_text(m.note));
        for (const std::string& c : columns) {
            out += ",";
            for (const MarkFigure& f : figures[k])
                if (heading(f, r) == c) out += csv_number(f.value, decimals_of(f.quantity, r));
        }
        out += fmt::format(",{},{},{}\n", csv_text(m.over), csv_text(m.stale), csv_text(places(m, r)));
    }
    return out;
}

std::string first_figure(const WrittenMark& m, const cloud::Reference& r) {
    const std::vector<MarkFigure> all = mark_figures(m.kind, m.points);
    const MarkFigure& f = m.kind == MarkKind::Point ? all.back() : all.front();
    const std::string h = heading(f, r);
    return fmt::format("{} {}", figure(f.value, decimals_of(f.quantity, r) - 1),
                       h.substr(h.find('[') + 1, h.find(']') - h.find('[') - 1));
}

MapFeature feature_of(const WrittenMark& m, const cloud::Reference& r) {
    MapFeature f;
    f.shape = m.kind == MarkKind::Point  ? MapFeature::Shape::Point
              : m.kind == MarkKind::Area ? MapFeature::Shape::Area
                                         : MapFeature::Shape::Line;
    f.points = m.points;
    f.layer = fmt::format("marks-{}", id_of(m.kind));
    f.label = fmt::format("{}: {}", m.name, first_figure(m, r));
    f.fields = {{"name", m.name}, {"kind", std::string(id_of(m.kind))}, {"note", m.note}};
    for (const MarkFigure& one : mark_figures(m.kind, m.points)) f.fields.emplace_back(one.id, one.value);
    f.fields.emplace_back("unit", is_length(r.unit) ? r.unit : std::string("not set"));
    if (!m.over.empty()) f.fields.emplace_back("over", m.over);
    if (!m.stale.empty()) f.fields.emplace_back("out_of_date", m.stale);
    return f;
}

}  // namespace

void write_marks(const std::vector<WrittenMark>& marks, const std::filesystem::path& path, bool replace,
                 const cloud::Reference& r) {
    const std::string ending = ending_of(path);
    if (ending == ".csv") {
        OutputFile out(path, replace);
        out.write(table_of(marks, r));
        return out.finish();
    }
    if (ending != ".geojson" && ending != ".json" && ending != ".dxf" && ending != ".gpkg")
        throw Error(ErrorCode::Unsupported, "Marks cannot be written into a file of this ending",
                    path.string(), "There are .csv, .geojson, .dxf and .gpkg.");
    std::vector<MapFeature> all;
    for (const WrittenMark& m : marks) all.push_back(feature_of(m, r));
    const double metre = 1 / length_unit(r.unit).metres;
    write_features(all, {"marks"}, path, replace, r, 0.25 * metre);
}

}  // namespace pristine::io
