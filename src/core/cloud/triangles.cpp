#include "core/cloud/triangles.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <mutex>

#include "core/base/parallel.h"
#include "core/cloud/builder.h"
#include "core/cloud/triangle_records.h"
#include "core/mesh/weld.h"

namespace pristine::cloud {
std::shared_ptr<const PointCloud> cloud_of_triangles(const mesh::TriMesh& m, const TriangleParts& options,
                                                     Progress& progress) {
    Box3 box;
    for (const Vec3& v : m.vertices) box.add(v);
    const double extent =
        box.empty() ? 1 : std::max({box.hi.x - box.lo.x, box.hi.y - box.lo.y, box.hi.z - box.lo.z, 1e-9});
    PointCloud::Parts parts;
    const double step = std::exp2(std::ceil(std::log2(extent / 1e9)));
    const Vec3 origin = box.empty() ? Vec3{} : box.centre();
    parts.grid = {{step, step, step}, {std::round(origin.x), std::round(origin.y), std::round(origin.z)}};
    parts.unit = options.unit;
    parts.height_unit = options.height_unit;
    parts.crs = options.crs;
    const bool coloured = options.attributes.coloured();
    std::vector<PointBatch> batches((m.triangles.size() + kPageSize - 1) / kPageSize);
    parallel::for_each(batches.size(), [&](std::size_t b) {
        progress.check();
        PointBatch& batch = batches[b];
        const std::size_t end = std::min(m.triangles.size(), (b + 1) * kPageSize);
        for (auto* column : {&batch.x, &batch.y, &batch.z}) column->reserve(end - b * kPageSize);
        for (std::size_t t = b * kPageSize; t < end; ++t) {
            const Vec3 middle = middle_of(m, t, parts.grid);
            batch.x.push_back(static_cast<std::int32_t>(std::lround(middle.x)));
            batch.y.push_back(static_cast<std::int32_t>(std::lround(middle.y)));
            batch.z.push_back(static_cast<std::int32_t>(std::lround(middle.z)));
            if (coloured) batch.colour.push_back(mean_colour(options.attributes, t));
        }
    });
    parts.records = records_of(m, options);
    parts = sorted_parts(std::move(batches), std::move(parts), progress);
    const std::vector<std::uint32_t> order = records_in_order(parts);
    parts.triangles = std::make_shared<const mesh::TriMesh>(options.joined ? mesh::part_of(m, order)
                                                                           : mesh::weld_part(m, order));
    if (!options.attributes.empty())
        parts.attributes = std::make_shared<mesh::Attributes>(mesh::part_of(options.attributes, order));
    return std::make_shared<const PointCloud>(std::move(parts));
}

std::shared_ptr<const topology::Adjacency> adjacency_of(const PointCloud& c) {
    struct Known {
        std::weak_ptr<const mesh::TriMesh> mesh;
        std::shared_ptr<const topology::Adjacency> adjacency;
    };
    static std::mutex guard;
    static std::array<Known, 2> known;
    {
        const std::lock_guard lock(guard);
        for (std::size_t k = 0; k < known.size(); ++k)
            if (known[k].adjacency && known[k].mesh.lock() == c.triangles()) {
                std::swap(known[0], known[k]);
                return known[0].adjacency;
            }
    }
    auto fresh = std::make_shared<const topology::Adjacency>(topology::adjacency(c.triangles()->triangles));
    const std::lock_guard lock(guard);
    known[1] = std::move(known[0]);
    known[0] = {c.triangles(), fresh};
    return fresh;
}

bool is_surface(const PointCloud& c) {
    return c.triangles() && c.records()->layout().head.rfind("surface", 0) == 0;
}

}  // namespace pristine::cloud
