#include "core/cloud/point_cloud.h"

#include <algorithm>
#include <cassert>

#include "core/base/compress.h"
#include "core/base/parallel.h"
#include "core/cloud/curve.h"

namespace pristine::cloud {
namespace {

// The quantiles 1 % and 99 % of an even sample, half as much again on either side, then the tightest box of
// what the sample has inside: a far stray cannot move it, a long thin site is not cut.
Box3 find_robust_bounds(const PointCloud::Parts& parts) {
    std::array<std::vector<double>, 3> sample;
    // A few of each block of a large cloud, all of a small one: a single stray among a few would be a
    // quantile.
    const std::size_t blocks = parts.info.size() * kBlocksPerPage;
    const std::size_t per_block =
        std::clamp<std::size_t>(65536 / std::max<std::size_t>(1, blocks), 32, kBlockSize);
    for (std::size_t p = 0; p < parts.info.size(); ++p)
        for (std::size_t b = 0, n = page_length(parts.size, p); b * kBlockSize < n; ++b) {
            const std::size_t count = std::min(per_block, n - b * kBlockSize);
            const std::int32_t *x = parts.x.block(p, b, count), *y = parts.y.block(p, b, count),
                               *z = parts.z.block(p, b, count);
            for (std::size_t i = 0; i < count; ++i) {
                const Vec3 w = parts.grid.world(x[i], y[i], z[i]);
                for (int a = 0; a < 3; ++a) sample[static_cast<std::size_t>(a)].push_back(w[a]);
            }
        }
    Box3 box;
    if (sample[0].empty()) return box;
    parallel::for_each(3, [&](std::size_t axis) {
        const auto a = static_cast<int>(axis);
        auto& s = sample[axis];
        const auto quantile = [&](std::size_t k) {
            const auto at = s.begin() + static_cast<std::ptrdiff_t>(k);
            std::nth_element(s.begin(), at, s.end());
            return *at;
        };
        const double q1 = quantile(s.size() / 100), q99 = quantile(s.size() - 1 - s.size() / 100);
        const double margin = (q99 - q1) / 2;
        double lo = q1, hi = q99;
        for (const double v : s) {
            if (v >= q1 - margin) lo = std::min(lo, v);
            if (v <= q99 + margin) hi = std::max(hi, v);
        }
        box.lo[a] = lo;
        box.hi[a] = hi;
    });
    return box;
}

std::pair<double, double> find_intensity_span(const PagedArray<std::uint16_t>& intensity) {
    std::vector<std::uint16_t> sample;
    constexpr std::size_t per_block = 32;
    for (std::size_t p = 0; p < intensity.page_count(); ++p)
        for (std::size_t b = 0, n = page_length(intensity.size(), p); b * kBlockSize < n; ++b) {
            const std::size_t count = std::min(per_block, n - b * kBlockSize);
            const std::uint16_t* first = intensity.block(p, b, count);
            sample.insert(sample.end(), first, first + count);
        }
    if (sample.empty()) return {0, 1};
    std::sort(sample.begin(), sample.end());
    const double lo = sample[sample.size() / 100], hi = sample[sample.size() - 1 - sample.size() / 100];
    return {lo, std::max(hi, lo + 1)};
}

}  // namespace

Box3 world_box(const IntBox& b, const Grid& grid) {
    Box3 box;
    box.add(grid.world(b.lo[0], b.lo[1], b.lo[2]));
    box.add(grid.world(b.hi[0], b.hi[1], b.hi[2]));
    return box;
}

namespace {

bool holds(const Box3& b, const Vec3& p) {
    return b.lo.x <= p.x && p.x <= b.hi.x && b.lo.y <= p.y && p.y <= b.hi.y && b.lo.z <= p.z && p.z <= b.hi.z;
}

// The corners of the triangles of each page, and of those among them whose middles lie in a box.
struct Corners {
    Box3 all, inside;
};
std::vector<Corners> corners_of(const mesh::TriMesh& m, std::size_t pages, const Box3& middles) {
    return parallel::map<Corners>(pages, [&](std::size_t p) {
        Corners own;
        for (std::size_t t = p * kPageSize; t < std::min(m.triangles.size(), (p + 1) * kPageSize); ++t) {
            const auto& corner = m.triangles[t];
            const Vec3 &a = m.vertices[corner[0]], &b = m.vertices[corner[1]], &c = m.vertices[corner[2]];
            const bool in = holds(middles, a + ((b - a) + (c - a)) * (1 / 3.0));
            for (const Vec3* v : {&a, &b, &c}) {
                own.all.add(*v);
                if (in) own.inside.add(*v);
            }
        }
        return own;
    });
}

}  // namespace

PointCloud::PointCloud(const std::shared_ptr<const PointCloud>& base, const Reference& reference,
                       std::optional<std::vector<Station>> stations)
    : p_(base->p_),
      base_(base),
      stations_given_(stations.has_value()),
      page_boxes_(base->page_boxes_),
      bounds_(base->bounds_),
      robust_bounds_(base->robust_bounds_),
      intensity_range_(base->intensity_range_),
      intensity_span_(base->intensity_span_) {
    assert(!base->base_);
    p_.crs = reference.crs;
    p_.unit = reference.unit;
    p_.height_unit = reference.height_unit;
    if (stations) p_.stations = std::move(*stations);
}

std::shared_ptr<const PointCloud> with_reference(const std::shared_ptr<const PointCloud>& cloud,
                                                 const Reference& reference) {
    if (cloud->reference() == reference) return cloud;
    const auto& base = cloud->base() ? cloud->base() : cloud;
    if (cloud->stations_given())
        return std::make_shared<const PointCloud>(base, reference, cloud->stations());
    if (base->reference() == reference) return base;
    return std::make_shared<const PointCloud>(base, reference);
}

std::shared_ptr<const PointCloud> with_stations(const std::shared_ptr<const PointCloud>& cloud,
                                                const std::optional<std::vector<Station>>& stations) {
    const auto& base = cloud->base() ? cloud->base() : cloud;
    if (!stations) {
        if (!cloud->stations_given()) return cloud;
        return cloud->reference() == base->reference()
                   ? base
                   : std::make_shared<const PointCloud>(base, cloud->reference());
    }
    if (cloud->stations_given() && cloud->stations() == *stations) return cloud;
    return std::make_shared<const PointCloud>(base, cloud->reference(), stations);
}

PointCloud::PointCloud(Parts parts) : p_(std::move(parts)) {
    assert(p_.info.size() == pages_for(p_.size) && p_.x.page_count() == p_.info.size());
    order_.store(std::move(p_.order));
    records_.store(std::move(p_.records));
    for (const PageInfo& info : p_.info) bounds_.add(world_box(info.bounds, p_.grid));
    robust_bounds_ = find_robust_bounds(p_);
    for (const PageInfo& info : p_.info) page_boxes_.push_back(world_box(info.bounds, p_.grid));
    if (p_.triangles) {  // boxes hold them whole, so that a few large ones are seen
        const double hair = 1e-6 * robust_bounds_.diagonal() + 1e-9;
        const Vec3 around{hair, hair, hair};
        const auto corners = corners_of(*p_.triangles, p_.info.size(),
                                        {robust_bounds_.lo - around, robust_bounds_.hi + around});
        for (std::size_t p = 0; p < corners.size(); ++p) {
            page_boxes_[p].add(corners[p].all);
            bounds_.add(page_boxes_[p]);
            robust_bounds_.add(corners[p].inside);
        }
    }
    if (p_.intensity) intensity_span_ = find_intensity_span(*p_.intensity);
    if (p_.intensity && !p_.info.empty()) {
        intensity_range_ = {p_.info[0].intensity_lo, p_.info[0].intensity_hi};
        for (const PageInfo& info : p_.info) {
            intensity_range_.first = std::min(intensity_range_.first, info.intensity_lo);
            intensity_range_.second = std::max(intensity_range_.second, info.intensity_hi);
        }
    }
}

void PointCloud::move_sources(std::shared_ptr<const OrderSource> order,
                              std::shared_ptr<const RecordSource> records) const {
    if (base_) return base_->move_sources(std::move(order), std::move(records));
    order_.store(std::move(order));
    records_.store(std::move(records));
}

Vec3 PointCloud::position(std::uint64_t element) const {
    return p_.grid.world(p_.x[element], p_.y[element], p_.z[element]);
}

std::vector<std::uint32_t> unpack_order(std::string_view packed, std::size_t length) {
    const std::vector<std::uint32_t> curve = unpack_deltas(packed, length);
    std::vector<std::uint32_t> order(length);
    for (std::size_t b = 0; b < length; b += kBlockSize) {
        const std::size_t n = std::min(kBlockSize, length - b);
        const auto& shuffle = block_shuffle(n);
        for (std::size_t i = 0; i < n; ++i) order[b + i] = curve[b + shuffle[i]];
    }
    return order;
}

std::vector<std::uint32_t> PackedOrder::page(std::size_t page) const {
    return unpack_order(pages_[page], page_length(size_, page));
}

}  // namespace pristine::cloud
