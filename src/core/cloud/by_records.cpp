#include "core/cloud/by_records.h"

#include <vector>

namespace pristine::cloud {

ElementSet moved_by_records(const ElementSet& set, const PointCloud& from, const PointCloud& to,
                            std::int64_t by) {
    std::vector<bool> in(to.records()->count());
    const auto from_order = from.order(), to_order = to.order();
    for (std::size_t p = 0; p < from.page_count(); ++p) {
        if (set.kind(p) == ElementSet::Kind::None) continue;
        const auto records = from_order->page(p);
        set.for_each_in_page(p, [&](std::size_t i) {
            const std::int64_t r = static_cast<std::int64_t>(records[i]) + by;
            if (r >= 0 && r < static_cast<std::int64_t>(in.size())) in[static_cast<std::size_t>(r)] = true;
        });
    }
    ElementSet out(to.size());
    for (std::size_t p = 0; p < to.page_count(); ++p) {
        const auto records = to_order->page(p);
        PageBits bits;
        for (std::size_t i = 0; i < records.size(); ++i)
            if (in[records[i]]) bits.set(i);
        out.set_page(p, bits);
    }
    return out;
}

}  // namespace pristine::cloud
