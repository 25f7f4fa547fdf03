#include "demo/culvert.h"

#include <fmt/format.h>

#include "core/base/output.h"
#include "core/io/cloud_io.h"
#include "demo/ashmere.h"
#include "demo/trials.h"

namespace pristine::demo {

void write_culvert(const std::filesystem::path& folder, std::uint64_t points, std::uint64_t seed,
                   bool replace, Progress& progress) {
    const Trial whole = make_tunnel(seed, 0.05);
    const double size = 0.05 * static_cast<double>(points) / static_cast<double>(whole.points.size());
    std::vector<Truth> truth;
    const auto cloud = cloud_of(make_tunnel(seed, size), truth);
    io::WriteOptions options;
    options.replace = replace;
    io::write_cloud({{cloud}}, folder / "culvert.las", options, progress);
    OutputFile line(folder / "culvert-line.geojson", replace);
    line.write(fmt::format(R"({{"type":"FeatureCollection","features":[{{"type":"Feature",
"properties":{{"name":"Culvert axis"}},"geometry":{{"type":"LineString","coordinates":
[[{},{},{}],[{},{},{}]]}}}}]}}
)",
                           kSiteOrigin.x, kSiteOrigin.y, kSiteOrigin.z, kSiteOrigin.x,
                           kSiteOrigin.y + kTunnelLength, kSiteOrigin.z));
    line.finish();
}

}  // namespace pristine::demo
