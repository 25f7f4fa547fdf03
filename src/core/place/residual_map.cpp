#include "core/place/residual_map.h"

#include <algorithm>
#include <cmath>
#include <cstring>

#include "core/base/bytes.h"
#include "core/base/error.h"
#include "core/cloud/builder.h"
#include "core/place/surfels.h"

namespace pristine::place {
namespace {

struct Off {
    Vec3 place;
    float off;
    bool stable;
};

Vec3 upward(const Vec3& n) {
    const double up = std::fabs(n.z) > 1e-3 ? n.z : std::fabs(n.x) > 1e-3 ? n.x : n.y;
    return up < 0 ? n * -1.0 : n;
}

// The same limit as in the fit: what is farther had no weight.
double limit_of(std::vector<Off>& all) {
    constexpr double kTukey = 4.685, kMedianToSigma = 1.4826;
    std::vector<float> off;
    off.reserve(all.size());
    for (const Off& o : all) off.push_back(std::fabs(o.off));
    std::nth_element(off.begin(), off.begin() + static_cast<std::ptrdiff_t>(off.size() / 2), off.end());
    return kTukey * kMedianToSigma * static_cast<double>(off[off.size() / 2]);
}

// A grid a thousand times finer than the cubes that fits into 32 bits.
cloud::Grid grid_of(const std::vector<Off>& all, double cube) {
    Box3 box;
    for (const Off& o : all) box.add(o.place);
    const Vec3 size = box.hi - box.lo;
    const double step = std::max(1e-3 * cube, std::max({size.x, size.y, size.z}) / 2e9);
    return {{step, step, step}, box.lo};
}

std::shared_ptr<const cloud::PointCloud> cloud_of(const std::vector<Off>& all, double cube,
                                                  const cloud::Reference& reference) {
    using cloud::FieldType;
    cloud::PointCloud::Parts parts;
    parts.grid = grid_of(all, cube);
    parts.unit = reference.unit;
    parts.crs = reference.crs;
    parts.height_unit = reference.height_unit;
    const cloud::Grid& g = parts.grid;
    cloud::RecordLayout layout{"residuals",
                               17,
                               {{"x", FieldType::I32, 0, 0, 0, g.scale.x, g.offset.x},
                                {"y", FieldType::I32, 4, 0, 0, g.scale.y, g.offset.y},
                                {"z", FieldType::I32, 8, 0, 0, g.scale.z, g.offset.z},
                                {kResidualColumn, FieldType::F32, 12},
                                {"stable", FieldType::U8, 16}},
                               {}};
    cloud::PointBatch batch;
    std::string bytes;
    bytes.reserve(all.size() * layout.record_bytes);
    const auto raw = [&](double v, int a) {
        return static_cast<std::int32_t>(std::llround((v - g.offset[a]) / g.scale[a]));
    };
    for (const Off& o : all) {
        batch.x.push_back(raw(o.place.x, 0));
        batch.y.push_back(raw(o.place.y, 1));
        batch.z.push_back(raw(o.place.z, 2));
        append_le(bytes, batch.x.back());
        append_le(bytes, batch.y.back());
        append_le(bytes, batch.z.back());
        append_le(bytes, o.off);
        bytes.push_back(o.stable ? 1 : 0);
    }
    parts.records = std::make_shared<cloud::MemoryRecords>(std::move(layout), std::move(bytes));
    std::vector<cloud::PointBatch> batches;
    batches.push_back(std::move(batch));
    return cloud::build(std::move(batches), std::move(parts));
}

}  // namespace

std::shared_ptr<const cloud::PointCloud> residual_map(const cloud::PointCloud& moving,
                                                      const ElementSet& moving_eligible,
                                                      const cloud::PointCloud& still,
                                                      const ElementSet& still_eligible, const Fit& fit,
                                                      const FitOptions& options, Progress& progress) {
    const Vec3 origin = still.robust_bounds().centre();
    progress.stretch(0, 0.4, "Reading points");
    const std::vector<Vec3> target = places_of(still, still_eligible, origin, options.most_points, progress);
    const std::vector<Vec3> places = one_in_each(
        places_of(moving, moving_eligible, moving.robust_bounds().centre(), options.most_points, progress),
        0.5 * fit.cube);
    progress.stretch(0.4, 0.9, "Looking for planes");
    const SurfelMap map(target, fit.cube, progress);
    std::vector<Off> all;
    const Vec3 from = moving.robust_bounds().centre();
    for (const Vec3& p : places) {
        const Vec3 there = fit.placement(p + from), q = there - origin;
        const Surfel* s = map.nearest(q);
        if (!s) continue;
        const Vec3 d = q - s->middle;
        if (dot(d, d) > fit.cube * fit.cube) continue;
        all.push_back({there, static_cast<float>(dot(d, upward(s->normal))), false});
    }
    if (all.empty()) throw Error(ErrorCode::Empty, "The two clouds have no surface in common");
    const double limit = limit_of(all);
    for (Off& o : all) o.stable = static_cast<double>(std::fabs(o.off)) < limit;
    progress.stretch(0.9, 1, "Making the map");
    return cloud_of(all, fit.cube, still.reference());
}

}  // namespace pristine::place
