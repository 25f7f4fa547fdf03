#include "core/cloud/triangles.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <mutex>

#include "core/base/bytes.h"
#include "core/base/parallel.h"
#include "core/cloud/builder.h"
#include "core/mesh/joined.h"

namespace pristine::cloud {
namespace {

constexpr std::size_t kBytes = 73;

RecordLayout layout_of(const TriangleParts& parts) {
    RecordLayout l{kTriangleFormat, kBytes, {}, parts.surface ? "surface" : "mesh"};
    const char* names[] = {"x1", "y1", "z1", "x2", "y2", "z2", "x3", "y3", "z3"};
    for (std::size_t k = 0; k < 9; ++k) l.fields.push_back({names[k], FieldType::F64, 8 * k});
    if (!parts.value_name.empty()) {
        l.fields.push_back({parts.value_name, FieldType::F64, kBytes});
        l.record_bytes += 8;
    }
    return l;
}

}  // namespace

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
    parts.crs = options.crs;
    const RecordLayout layout = layout_of(options);
    const std::size_t stride = layout.record_bytes;
    std::string bytes(m.triangles.size() * stride, '\0');
    std::vector<PointBatch> batches((m.triangles.size() + kPageSize - 1) / kPageSize);
    parallel::for_each(batches.size(), [&](std::size_t b) {
        progress.check();
        PointBatch& batch = batches[b];
        for (std::size_t t = b * kPageSize; t < std::min(m.triangles.size(), (b + 1) * kPageSize); ++t) {
            Vec3 middle;
            char* at = bytes.data() + t * stride;
            for (const std::uint32_t v : m.triangles[t]) {
                const Vec3& p = m.vertices[v];
                middle = middle + (p - parts.grid.offset) * (1 / 3.0);
                for (int a = 0; a < 3; ++a, at += 8) store_le(at, p[a]);
            }
            *at = options.surface ? 1 : 0;
            if (stride > kBytes) store_le(at + 1, options.values[t]);
            batch.x.push_back(static_cast<std::int32_t>(std::lround(middle.x / step)));
            batch.y.push_back(static_cast<std::int32_t>(std::lround(middle.y / step)));
            batch.z.push_back(static_cast<std::int32_t>(std::lround(middle.z / step)));
        }
    });
    parts.records = std::make_shared<MemoryRecords>(layout, std::move(bytes));
    const auto points = build(std::move(batches), std::move(parts), progress);
    return points->with_triangles(triangles_of(*points->records(), *points->order(), points->page_count()));
}

std::shared_ptr<const mesh::TriMesh> triangles_of(const RecordSource& records, const OrderSource& order,
                                                  std::size_t pages) {
    if (records.layout().format != kTriangleFormat || records.layout().record_bytes < kBytes) return nullptr;
    const std::size_t stride = records.layout().record_bytes;
    std::vector<std::uint32_t> original;
    for (std::size_t p = 0; p < pages; ++p) {
        const auto page = order.page(p);
        original.insert(original.end(), page.begin(), page.end());
    }
    // Read in file order, put where the elements are.
    std::vector<std::uint32_t> element(records.count());
    for (std::uint32_t e = 0; e < original.size(); ++e) element[original[e]] = e;
    std::vector<Vec3> corners(3 * records.count());
    std::vector<std::byte> raw;
    constexpr std::uint64_t kAtOnce = 65536;
    for (std::uint64_t first = 0; first < records.count(); first += kAtOnce) {
        const std::uint64_t n = std::min(kAtOnce, records.count() - first);
        raw.resize(n * stride);
        records.read(first, raw);
        for (std::uint64_t i = 0; i < n; ++i)
            for (std::size_t k = 0; k < 3; ++k)
                for (int a = 0; a < 3; ++a)
                    corners[3 * std::size_t{element[first + i]} + k][a] =
                        load_le<double>(raw.data() + i * stride + 8 * (3 * k + static_cast<std::size_t>(a)));
    }
    return std::make_shared<const mesh::TriMesh>(mesh::joined(corners));
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
    return c.triangles() && c.records()->layout().head == "surface";
}

}  // namespace pristine::cloud
