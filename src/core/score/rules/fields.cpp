// Scores that are there already: coordinates, and what the instrument or the file says of each point.

#include <cmath>

#include "core/cloud/column.h"
#include "core/score/score.h"

namespace pristine::score {
namespace {

Score position(const char* id, const char* title, int axis, const char* high, const char* low) {
    return {id,
            title,
            "length",
            high,
            low,
            "Strays are high and low as well.",
            {},
            {},
            [axis](const Input& in, const Parameters&, Progress& progress) {
                Column c;
                const cloud::Grid& grid = in.cloud.grid();
                const Box3 box = in.cloud.robust_bounds();
                c.base = box.empty() ? 0 : box.lo[axis];
                c.values = for_members(in, progress, [&](std::size_t p, std::vector<float>& values) {
                    const cloud::PositionPage page = in.cloud.positions(p);
                    const auto& v = axis == 0 ? page.x : axis == 1 ? page.y : page.z;
                    in.eligible.for_each_in_page(p, [&](std::size_t i) {
                        values[i] = static_cast<float>(v[i] * grid.scale[axis] + grid.offset[axis] - c.base);
                    });
                });
                return c;
            }};
}

std::string why_no_column(const Input& in, const std::string& name) {
    return in.cloud.records()->layout().find(name) ? std::string() : "The cloud has no column '" + name + "'";
}

Column read_column(const Input& in, const std::string& name, Progress& progress) {
    const auto fetched = cloud::fetch_column(in.cloud, name, progress);
    Column c;
    c.base = fetched->base;
    c.values = for_members(in, Progress::none(), [&](std::size_t p, std::vector<float>& values) {
        const auto page = fetched->values.page(p);
        in.eligible.for_each_in_page(p, [&](std::size_t i) { values[i] = page[i]; });
    });
    return c;
}

Score field(const char* id, const char* title, const char* column, const char* high, const char* low,
            const char* wrong) {
    const std::string name = column;
    return {id,
            title,
            "",
            high,
            low,
            wrong,
            {},
            [name](const Input& in) { return why_no_column(in, name); },
            [name](const Input& in, const Parameters&, Progress& progress) {
                return read_column(in, name, progress);
            }};
}

// Whatever column the file has: codes and names of a survey list, amplitudes, times.
Score any_column() {
    Score s{"column",
            "Column of the file",
            "",
            "a large number in the column",
            "a small one",
            "The file may be wrong.",
            {},
            [](const Input& in) { return why_no_column(in, in.column); },
            [](const Input& in, const Parameters&, Progress& progress) {
                return read_column(in, in.column, progress);
            }};
    s.needs_column = true;
    return s;
}

}  // namespace

void add_fields(std::vector<Score>& s) {
    s.push_back(position("east", "East", 0, "far east", "far west"));
    s.push_back(position("north", "North", 1, "far north", "far south"));
    s.push_back(position("height", "Height", 2, "high up", "low down"));
    s.push_back(field("intensity", "Intensity", "intensity", "bright or retroreflecting",
                      "dark, wet, far away, or "
                      "barely hit",
                      "It falls with range and slant unless the instrument corrects it."));
    s.push_back(field("class", "Class", "class", "as the file's classes are numbered", "as above",
                      "Whoever classified the file may have been wrong."));
    s.push_back(field("return", "Return", "return", "the pulse had hit something before", "first thing hit",
                      "Files without returns say 0 or 1 everywhere."));
    s.push_back(field("returns", "Number of returns", "returns", "the pulse was split: edges, vegetation",
                      "one clean hit", "Files without returns say 0 or 1 everywhere."));
    s.push_back(field("time", "Time", "time", "measured late", "measured early",
                      "Some files count from the start of the week, some of the scan."));
    s.push_back(field("scan", "Scan", "scan", "a later scan of the file", "an earlier one", ""));
    s.push_back(any_column());
}

}  // namespace pristine::score
