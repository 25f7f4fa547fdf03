// What triangles are judged by: shape, slope, pieces, rims. Only where elements stand for triangles.

#include <cmath>

#include "core/cloud/triangles.h"
#include "core/score/score.h"
#include "core/surface/definition.h"
#include "core/surface/triangle_values.h"

namespace pristine::score {
namespace {

using surface::TriangleValue;

std::string no_triangles(const Input& in) {
    return in.cloud.triangles() ? std::string() : std::string("These are points, not triangles");
}

// Of the eligible triangles by themselves: pieces and rims are those of what is left.
Column values_of(const Input& in, TriangleValue value, Progress& progress) {
    std::vector<std::uint32_t> members;
    members.reserve(in.eligible.count());
    in.eligible.for_each([&](std::uint64_t e) { members.push_back(static_cast<std::uint32_t>(e)); });
    progress.check();
    const std::vector<double> values =
        surface::triangle_values(surface::only(*in.cloud.triangles(), members), value);
    Column c;
    c.base = values.empty() || !std::isfinite(values[0]) || value != TriangleValue::Elevation ? 0 : values[0];
    std::vector<std::size_t> first(in.cloud.page_count() + 1, 0);
    for (std::size_t p = 0; p < in.cloud.page_count(); ++p)
        first[p + 1] = first[p] + in.eligible.page_members(p);
    c.values = for_members(in, progress, [&](std::size_t p, std::vector<float>& page) {
        std::size_t at = first[p];
        in.eligible.for_each_in_page(
            p, [&](std::size_t i) { page[i] = static_cast<float>(values[at++] - c.base); });
    });
    return c;
}

Score entry(const char* id, const char* title, const char* unit, const char* high, const char* low,
            const char* wrong, TriangleValue value, bool logarithmic = false) {
    Score s{id,
            title,
            unit,
            high,
            low,
            wrong,
            {},
            no_triangles,
            [value](const Input& in, const Parameters&, Progress& progress) {
                return values_of(in, value, progress);
            },
            logarithmic};
    s.applies = Score::Applies::Triangles;
    return s;
}

}  // namespace

void add_triangles(std::vector<Score>& s) {
    s.push_back(entry("edge", "Longest edge", "length",
                      "spans places where nothing was measured: rims, gaps, water", "densely measured",
                      "Breaklines and flat ground make long edges that are right.",
                      TriangleValue::LongestEdge, true));
    s.push_back(entry("area", "Area", "area", "large triangles: thinly measured, or spanning a gap",
                      "small ones", "Flat ground needs few points.", TriangleValue::Area, true));
    s.push_back(entry("ratio", "Edge ratio", "times", "slivers: one edge much shorter than another",
                      "near to even", "Scan lines that are closer along than across make slivers everywhere.",
                      TriangleValue::EdgeRatio, true));
    s.push_back(entry("min_angle", "Smallest angle", "angle", "near to even (60)", "slivers",
                      "As with the edge ratio.", TriangleValue::SmallestAngle));
    s.push_back(entry("max_angle", "Largest angle", "angle", "flat triangles, mostly at the rim (near 180)",
                      "near to even (60)", "Points on one line, such as breaklines, make flat triangles.",
                      TriangleValue::LargestAngle));
    s.push_back(
        entry("elevation", "Elevation", "length", "high ground", "low ground", "", TriangleValue::Elevation));
    s.push_back(
        entry("slope", "Slope", "angle", "steep: faces, walls, spikes", "level", "", TriangleValue::Slope));
    s.push_back(entry("facing", "Facing", "angle", "degrees clockwise from north towards which it falls",
                      "0 and 360 are north", "Level triangles have no value.", TriangleValue::Facing));
    s.push_back(entry("piece", "Piece size", "points", "part of something large", "loose bits", "",
                      TriangleValue::PieceSize, true));
    s.push_back(entry("rim", "Distance to the rim", "length", "inside", "at the rim", "",
                      TriangleValue::RimDistance));
    s.push_back(entry("rim_edge", "Rim edge", "length",
                      "long triangles that are peeled off the rim from outside in, so that the rim follows "
                      "what was measured",
                      "at the rim of what was densely measured, or behind it",
                      "A bay between two far points may be meant; breaklines do not hold it back.",
                      TriangleValue::RimEdge, true));
    s.push_back(entry("rim_angle", "Angle opposite the rim", "angle",
                      "flat triangles that are peeled off the rim from outside in (near 180)",
                      "near to even (60), or behind such", "As with the rim edge.", TriangleValue::RimAngle));
}

}  // namespace pristine::score
