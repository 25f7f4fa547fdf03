#include "core/io/mesh/mesh_cloud.h"

#include <algorithm>

#include "core/base/error.h"
#include "core/base/units.h"
#include "core/cloud/triangles.h"
#include "core/io/grid/grid_io.h"
#include "core/io/mesh/mesh_io.h"
#include "core/mesh/joined.h"
#include "core/surface/definition.h"

namespace pristine::io {
namespace {

constexpr double kGridCell = 0.5;  // metres

bool faces_up(const mesh::TriMesh& m) {
    return std::all_of(m.triangles.begin(), m.triangles.end(), [&](const auto& t) {
        const Vec3 p = m.vertices[t[1]] - m.vertices[t[0]], q = m.vertices[t[2]] - m.vertices[t[0]];
        return p.x * q.y - p.y * q.x > 0;
    });
}

}  // namespace

ReadResult read_mesh_cloud(const std::filesystem::path& path, Progress& progress) {
    progress.stretch(0, 0.6, "Reading triangles");
    MeshFile file;
    if (is_grid_file(path)) {
        surface::Definition d;
        d.points = read_grid(path, progress);
        file.mesh = surface::build(d, progress).mesh;
        file.format = "grid of heights";
        file.surface = true;
    } else {
        file = read_mesh(path, progress);
    }
    cloud::TriangleParts parts;
    parts.unit = file.unit;
    parts.surface = file.surface || faces_up(file.mesh);
    progress.stretch(0.6, 1, "Ordering triangles");
    return {cloud::cloud_of_triangles(file.mesh, parts, progress), file.format, file.warnings};
}

std::uint64_t write_mesh_clouds(const std::vector<WriteItem>& items, const std::filesystem::path& path,
                                const WriteOptions& options, Progress& progress) {
    std::vector<Vec3> corners;
    std::string unit;
    for (const WriteItem& item : items) {
        const mesh::TriMesh* m = item.cloud->triangles().get();
        if (!m)
            throw Error(ErrorCode::Unsupported, "Points and triangles cannot go into one file", path.string(),
                        "Hide the one or the other.");
        unit = item.cloud->unit();
        // In the order of the file that they came from.
        std::vector<std::uint32_t> element(item.cloud->size());
        const auto order = item.cloud->order();
        for (std::size_t p = 0; p < item.cloud->page_count(); ++p) {
            const auto page = order->page(p);
            for (std::size_t i = 0; i < page.size(); ++i)
                element[page[i]] = static_cast<std::uint32_t>(p * kPageSize + i);
        }
        for (std::size_t r = 0; r < element.size(); ++r)
            if (!item.keep || (*item.keep)[r])
                for (const std::uint32_t v : m->triangles[element[r]]) corners.push_back(m->vertices[v]);
        progress.check();
    }
    const mesh::TriMesh out = mesh::joined(corners);
    if (is_grid_file(path))
        write_grid(out, kGridCell / length_unit(unit).metres, path, options.replace, progress);
    else
        write_mesh(out, path, options.replace, unit);
    return out.triangles.size();
}

mesh::TriMesh mesh_of(const cloud::PointCloud& c, const ElementSet& set) {
    std::vector<Vec3> corners;
    const mesh::TriMesh& m = *c.triangles();
    set.for_each([&](std::uint64_t e) {
        for (const std::uint32_t v : m.triangles[e]) corners.push_back(m.vertices[v]);
    });
    return mesh::joined(corners);
}

}  // namespace pristine::io
