#include "core/tunnel/inside.h"

#include <algorithm>
#include <atomic>
#include <cmath>

#include "core/base/parallel.h"

namespace pristine::tunnel {

Inside inside(const cloud::PointCloud& c, const ElementSet& eligible, const Lining& lining, double tolerance,
              Progress& progress) {
    Inside result{ElementSet(c.size()), {}};
    const std::size_t cells = lining.rows() * lining.columns();
    std::vector<std::atomic<float>> deepest(cells);
    for (auto& d : deepest) d = -INFINITY;
    parallel::for_each(c.page_count(), [&](std::size_t p) {
        if (eligible.kind(p) == ElementSet::Kind::None) return;
        progress.check();
        const auto stretches = lining.axis().near(world_box(c.info(p).bounds, c.grid()));
        const cloud::PositionPage page = c.positions(p);
        PageBits bits;
        eligible.for_each_in_page(p, [&](std::size_t i) {
            const Vec3 w = c.grid().world(page.x[i], page.y[i], page.z[i]);
            const auto depth = lining.depth(w, &stretches);
            if (!depth) return;
            if (*depth > tolerance) bits.set(i);
            std::atomic<float>& most = deepest[*lining.cell_at(lining.axis().place(w, &stretches))];
            const auto d = static_cast<float>(*depth);
            for (float now = most; now < d && !most.compare_exchange_weak(now, d);) {
            }
        });
        result.points.set_page(p, bits);
    });
    result.deepest.resize(cells);
    for (std::size_t k = 0; k < cells; ++k)
        result.deepest[k] = std::isfinite(deepest[k].load()) ? deepest[k].load() : NAN;
    return result;
}

}  // namespace pristine::tunnel
