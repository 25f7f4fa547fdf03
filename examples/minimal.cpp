// The shortest way through the core: open a scan, fence something in plan, take it out, write what is left.
//   minimal IN.las OUT.las   removes a square of 2 m round the middle of the scan

#include <cstdio>

#include "core/io/keep.h"
#include "core/select/fence.h"
#include "core/site/site.h"

int main(int argc, char** argv) try {
    using namespace pristine;
    if (argc != 3) {
        std::fprintf(stderr, "usage: minimal IN OUT\n");
        return 2;
    }
    const io::ReadResult scan = io::read_cloud(argv[1]);
    site::SitePtr site = site::add_cloud({}, scan.cloud, "Scan", argv[1]);

    const Vec3 c = scan.cloud->robust_bounds().centre();
    const Polygon square{{c.x - 1, c.y - 1}, {c.x + 1, c.y - 1}, {c.x + 1, c.y + 1}, {c.x - 1, c.y + 1}};
    const ElementSet inside = select::plan_fence(*scan.cloud, {square}, site::eligible(*site->active_item()));

    site = site::select(*site, inside, site::Combine::New);
    if (site->selected() > 0)
        site = site::remove_selection(
            *site, {"Artifact", site::said("a square of 2 m"), site::Signature::now(), nullptr});

    const site::Item& item = *site->active_item();
    const auto written =
        io::write_cloud({{item.cloud, io::keep_all_but(*item.cloud, *item.removed)}}, argv[2]);
    std::printf("%llu of %llu points written\n", static_cast<unsigned long long>(written),
                static_cast<unsigned long long>(item.cloud->size()));
    return 0;
} catch (const std::exception& e) {
    std::fprintf(stderr, "%s\n", e.what());
    return 1;
}
