// How far from the instrument a point was measured.

#include <algorithm>
#include <cmath>

#include "core/score/score.h"

namespace pristine::score {

void add_range(std::vector<Score>& s) {
    s.push_back({"range",
                 "Range from the nearest station",
                 "length",
                 "far from every station: thin, noisy, beyond the job",
                 "right at an instrument: tripod, bag, operator",
                 "The station that measured a point need not be the nearest.",
                 {},
                 [](const Input& in) {
                     return in.cloud.stations().empty()
                                ? std::string("The cloud does not say where its stations stood")
                                : std::string();
                 },
                 [](const Input& in, const Parameters&, Progress& progress) {
                     Column c;
                     const auto& stations = in.cloud.stations();
                     c.values = for_members(in, progress, [&](std::size_t p, std::vector<float>& values) {
                         const cloud::PositionPage page = in.cloud.positions(p);
                         in.eligible.for_each_in_page(p, [&](std::size_t i) {
                             const Vec3 w = in.cloud.grid().world(page.x[i], page.y[i], page.z[i]);
                             double nearest = INFINITY;
                             for (const cloud::Station& station : stations) {
                                 const Vec3 d = w - station.position;
                                 nearest = std::min(nearest, dot(d, d));
                             }
                             values[i] = static_cast<float>(std::sqrt(nearest));
                         });
                     });
                     return c;
                 }});
}

}  // namespace pristine::score
