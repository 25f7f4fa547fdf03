#include "core/io/section_files.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/base/units.h"
#include "core/io/csv.h"
#include "core/io/lines/ogr_writer.h"

namespace pristine::io {
namespace {

using measure::CrossSection;

std::string symbol_of(const cloud::Reference& r) {
    return is_length(r.unit) ? length_unit(r.unit).symbol : "unit not set";
}

struct Range {
    double lo = INFINITY, hi = -INFINITY;
};

Range heights_of(const CrossSection& s) {
    Range r;
    for (const auto& surface : s.surfaces)
        for (const auto& stretch : surface)
            for (const measure::OffsetHeight& p : stretch) {
                r.lo = std::min(r.lo, p.height);
                r.hi = std::max(r.hi, p.height);
            }
    return r;
}

}  // namespace

std::string section_table(const measure::Sections& s, const cloud::Reference& r) {
    const std::string u = symbol_of(r), two = is_length(r.unit) ? "2" : "";
    const int d = length_unit(r.unit).decimals;
    std::string out = fmt::format(
        "chainage [{0}],east [{0}],north [{0}],cut area [{0}{1}],fill area [{0}{1}],width of both [{0}]\n", u,
        two);
    for (const CrossSection& one : s.all)
        out +=
            fmt::format("{},{},{},{},{},{}\n", csv_number(one.chainage, d + 1), csv_number(one.at.x, d + 1),
                        csv_number(one.at.y, d + 1), csv_number(one.cut, d + 1), csv_number(one.fill, d + 1),
                        csv_number(one.both, d + 1));
    return out;
}

std::string section_places(const measure::Sections& s, const std::vector<std::string>& surfaces,
                           const cloud::Reference& r) {
    const std::string u = symbol_of(r);
    const int d = length_unit(r.unit).decimals + 1;
    std::string out = fmt::format("chainage [{0}],surface,stretch,offset [{0}],height [{0}]\n", u);
    for (const CrossSection& one : s.all)
        for (std::size_t k = 0; k < one.surfaces.size(); ++k)
            for (std::size_t i = 0; i < one.surfaces[k].size(); ++i)
                for (const measure::OffsetHeight& p : one.surfaces[k][i])
                    out +=
                        fmt::format("{},{},{},{},{}\n", csv_number(one.chainage, d), csv_text(surfaces.at(k)),
                                    i + 1, csv_number(p.offset, d), csv_number(p.height, d));
    return out;
}

void write_section_drawing(const measure::Sections& s, const std::vector<std::string>& surfaces,
                           const SectionDrawing& how, const std::filesystem::path& path, bool replace,
                           const cloud::Reference& r) {
    double tallest = 0, width = 0;
    for (const CrossSection& one : s.all) {
        const Range h = heights_of(one);
        if (h.hi > h.lo) tallest = std::max(tallest, h.hi - h.lo);
        width = std::max(width, norm(one.right - one.left));
    }
    const double text = std::max(0.012 * width, 1e-6);
    const double row = how.row > 0 ? how.row : 1.3 * tallest * how.exaggeration + 8 * text;
    std::vector<MapFeature> all;
    for (std::size_t k = 0; k < s.all.size(); ++k) {
        const CrossSection& one = s.all[k];
        const Range h = heights_of(one);
        if (!(h.lo <= h.hi)) continue;
        const double datum = std::floor(h.lo), foot = static_cast<double>(k) * row;
        const auto on_sheet = [&](double offset, double height) {
            return Vec3{offset, foot + (height - datum) * how.exaggeration, 0};
        };
        const double half = 0.5 * norm(one.right - one.left);
        const auto add = [&](MapFeature::Shape shape, std::vector<Vec3> points, std::string layer,
                             std::string label = {}) {
            MapFeature f;
            f.shape = shape;
            f.points = std::move(points);
            f.layer = std::move(layer);
            f.label = std::move(label);
            f.fields = {{"chainage", one.chainage}, {"name", f.layer}, {"datum", datum}};
            all.push_back(std::move(f));
        };
        add(MapFeature::Shape::Line, {on_sheet(-half, datum), on_sheet(half, datum)}, "datum");
        add(MapFeature::Shape::Line, {on_sheet(0, datum), on_sheet(0, h.hi)}, "axis");
        const int d = length_unit(r.unit).decimals;
        add(MapFeature::Shape::Point, {on_sheet(-half, datum) - Vec3{0, 2 * text, 0}}, "text",
            fmt::format("{}  datum {}  cut {}  fill {}", csv_number(one.chainage, d), csv_number(datum, d),
                        csv_number(one.cut, d), csv_number(one.fill, d)));
        for (std::size_t n = 0; n < one.surfaces.size(); ++n)
            for (const auto& stretch : one.surfaces[n]) {
                std::vector<Vec3> points;
                for (const measure::OffsetHeight& p : stretch) points.push_back(on_sheet(p.offset, p.height));
                if (points.size() > 1) add(MapFeature::Shape::Line, std::move(points), surfaces.at(n));
            }
    }
    // A sheet has no reference system.
    write_features(all, {"sections"}, path, replace, {{}, r.unit, {}}, text);
}

}  // namespace pristine::io
