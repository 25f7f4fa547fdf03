#include "core/cloud/stations.h"

#include "core/base/error.h"
#include "core/base/parallel.h"
#include "core/cloud/column.h"

namespace pristine::cloud {

bool knows_stations(const PointCloud& c) {
    return c.stations().size() == 1 ||
           (!c.stations().empty() && c.records()->layout().find("scan") != nullptr);
}

ElementSet of_station(const PointCloud& c, const ElementSet& eligible, std::size_t station,
                      Progress& progress) {
    if (!knows_stations(c))
        throw Error(ErrorCode::Usage, "The cloud does not say which points are of which station");
    if (station >= c.stations().size()) return ElementSet(c.size());
    if (c.stations().size() == 1) return eligible;
    const auto scan = fetch_column(c, "scan", progress);
    ElementSet out(c.size());
    parallel::for_each(c.page_count(), [&](std::size_t page) {
        PageBits bits;
        const auto values = scan->values.page(page);
        eligible.for_each_in_page(page, [&](std::size_t i) {
            if (scan->base + static_cast<double>(values[i]) == static_cast<double>(station)) bits.set(i);
        });
        out.set_page(page, bits);
    });
    return out;
}

}  // namespace pristine::cloud
