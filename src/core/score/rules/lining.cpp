// How far inside the lining of a tunnel.

#include "core/tunnel/lining.h"
#include "core/base/units.h"
#include "core/score/score.h"

namespace pristine::score {
namespace {

Column depth(const Input& in, const Parameters& p, Progress& progress) {
    if (!in.line)
        throw Error(ErrorCode::Usage, "It is not said where the centreline of the tunnel runs", {},
                    "Draw or add a line and choose it, or give --line on the command line.");
    tunnel::Options options;
    options.spacing = p.at("spacing");
    options.lift = p.at("lift");
    options.metres_per_unit = length_unit(in.cloud.unit()).metres;
    options.widest_fitting = p.at("fitting") * options.metres_per_unit;
    const tunnel::Lining lining(in.cloud, in.eligible, *in.line, options, progress);
    Column c;
    c.values = for_members(in, progress, [&](std::size_t page, std::vector<float>& values) {
        const auto stretches = lining.axis().near(world_box(in.cloud.info(page).bounds, in.cloud.grid()));
        const cloud::PositionPage points = in.cloud.positions(page);
        in.eligible.for_each_in_page(page, [&](std::size_t i) {
            if (const auto d =
                    lining.depth(in.cloud.grid().world(points.x[i], points.y[i], points.z[i]), &stretches))
                values[i] = static_cast<float>(*d);
        });
    });
    return c;
}

}  // namespace

void add_lining(std::vector<Score>& s) {
    Score score{
        "lining",
        "Depth inside the lining",
        "length",
        "inside the tunnel: people, pipes, ducts",
        "lining (about 0), or noise behind it (negative)",
        "Fittings wider than said are taken for lining; at openings and beyond the ends there is no value.",
        {{"spacing", "Spacing", "length", "Side of a cell on the lining", 0.2, 0.005, 100, false},
         {"lift", "Lift of the line", "length", "The line is raised by this first", 0, -100, 100, false},
         {"fitting", "Widest fitting", "length", "What is wider belongs to the lining", 0.8, 0.02, 100,
          false}},
        {},
        depth};
    score.needs_line = true;
    score.line_title = "Line inside the tunnel";
    score.reason = "%1 inside the lining";
    score.begins = 0.05;
    s.push_back(score);
}

}  // namespace pristine::score
