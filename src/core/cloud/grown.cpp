#include "core/cloud/grown.h"

#include <algorithm>
#include <cmath>
#include <limits>

#include "core/base/parallel.h"
#include "core/cloud/builder.h"
#include "core/cloud/triangle_records.h"
#include "core/mesh/weld.h"

namespace pristine::cloud {
namespace {

bool alike(const RecordLayout& a, const RecordLayout& b) {
    const auto same = [](const Field& f, const Field& g) {
        return f.name == g.name && f.type == g.type && f.offset == g.offset;
    };
    return a.format == b.format && a.record_bytes == b.record_bytes && a.head == b.head &&
           std::equal(a.fields.begin(), a.fields.end(), b.fields.begin(), b.fields.end(), same);
}

bool on_grid(double v) {
    return std::fabs(v) < std::numeric_limits<std::int32_t>::max() - 1.0;
}

PointBatch batch_of(const PointCloud& c, std::size_t page) {
    const PositionPage p = c.positions(page);
    PointBatch b;
    b.x.assign(p.x.begin(), p.x.end());
    b.y.assign(p.y.begin(), p.y.end());
    b.z.assign(p.z.begin(), p.z.end());
    if (c.colour()) {
        const auto colours = c.colour()->page(page);
        b.colour.assign(colours.begin(), colours.end());
    }
    b.record = c.order()->page(page);
    return b;
}

// Those that were made; empty when one of them is off the grid.
PointBatch batch_of(const mesh::TriMesh& made, const TriangleParts& parts, const Grid& grid,
                    std::size_t first) {
    PointBatch b;
    for (std::size_t t = 0; t < made.triangles.size(); ++t) {
        const Vec3 middle = middle_of(made, t, grid);
        if (!on_grid(middle.x) || !on_grid(middle.y) || !on_grid(middle.z)) return {};
        b.x.push_back(static_cast<std::int32_t>(std::lround(middle.x)));
        b.y.push_back(static_cast<std::int32_t>(std::lround(middle.y)));
        b.z.push_back(static_cast<std::int32_t>(std::lround(middle.z)));
        if (parts.attributes.coloured()) b.colour.push_back(mean_colour(parts.attributes, t));
        b.record.push_back(static_cast<std::uint32_t>(first + t));
    }
    return b;
}

}  // namespace

GrownRecords::GrownRecords(std::shared_ptr<const PointCloud> base, std::shared_ptr<const RecordSource> more)
    : base_(std::move(base)), more_(std::move(more)), first_(base_->records()->count()) {}

void GrownRecords::read(std::uint64_t first, std::span<std::byte> out) const {
    const std::size_t bytes = layout().record_bytes;
    const std::uint64_t own =
        first < first_ ? std::min<std::uint64_t>(first_ - first, out.size() / bytes) : 0;
    if (own > 0) base_->records()->read(first, out.first(own * bytes));
    if (own * bytes < out.size()) more_->read(first + own - first_, out.subspan(own * bytes));
}

std::shared_ptr<const PointCloud> grown(const std::shared_ptr<const PointCloud>& old,
                                        const mesh::TriMesh& made, const TriangleParts& parts,
                                        Progress& progress) {
    auto more = records_of(made, parts);
    const std::size_t n = old->size();
    if (!alike(old->records()->layout(), more->layout()) || old->records()->count() != n) return nullptr;
    std::vector<PointBatch> batches(old->page_count());
    parallel::for_each(batches.size(), [&](std::size_t p) {
        progress.check();
        batches[p] = batch_of(*old, p);
    });
    // The triangle of each record.
    std::vector<std::uint32_t> source(n + made.triangles.size());
    std::uint32_t e = 0;
    for (const PointBatch& b : batches)
        for (const std::uint32_t r : b.record) source[r] = e++;
    for (std::size_t t = 0; t < made.triangles.size(); ++t) source[n + t] = static_cast<std::uint32_t>(n + t);
    batches.push_back(batch_of(made, parts, old->grid(), n));
    if (batches.back().size() != made.triangles.size()) return nullptr;
    PointCloud::Parts own;
    own.grid = old->grid();
    own.unit = old->unit();
    own.height_unit = old->height_unit();
    own.crs = old->crs();
    own.records = std::make_shared<GrownRecords>(old, std::move(more));
    own = sorted_parts(std::move(batches), std::move(own), progress);
    std::vector<std::uint32_t> order = records_in_order(own);
    for (std::uint32_t& r : order) r = source[r];
    own.triangles =
        std::make_shared<const mesh::TriMesh>(mesh::part_of(mesh::extended(*old->triangles(), made), order));
    if (old->attributes()) {
        mesh::Attributes all = *old->attributes();
        mesh::append(all, n, parts.attributes, made.triangles.size());
        own.attributes = std::make_shared<mesh::Attributes>(mesh::part_of(all, order));
    }
    return std::make_shared<const PointCloud>(std::move(own));
}

}  // namespace pristine::cloud
