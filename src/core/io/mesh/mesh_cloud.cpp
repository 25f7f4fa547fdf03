#include "core/io/mesh/mesh_cloud.h"

#include <algorithm>

#include "core/base/error.h"
#include "core/base/units.h"
#include "core/cloud/triangles.h"
#include "core/io/grid/grid_io.h"
#include "core/io/mesh/mesh_io.h"
#include "core/mesh/carry.h"
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

std::vector<std::uint32_t> numbers_of(const ElementSet& set) {
    std::vector<std::uint32_t> out;
    out.reserve(set.count());
    set.for_each([&](std::uint64_t e) { out.push_back(static_cast<std::uint32_t>(e)); });
    return out;
}

mesh::Attributes attributes_of(const cloud::PointCloud& c, const std::vector<std::uint32_t>& triangles) {
    return c.attributes() ? mesh::part_of(*c.attributes(), triangles) : mesh::Attributes();
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
    parts.attributes = std::move(file.attributes);
    progress.stretch(0.6, 1, "Ordering triangles");
    return {cloud::cloud_of_triangles(file.mesh, parts, progress), file.format, file.warnings};
}

std::uint64_t write_mesh_clouds(const std::vector<WriteItem>& items, const std::filesystem::path& path,
                                const WriteOptions& options, Progress& progress) {
    std::vector<Vec3> corners;
    mesh::Attributes attributes;
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
        std::vector<std::uint32_t> kept;
        for (std::size_t r = 0; r < element.size(); ++r)
            if (!item.keep || (*item.keep)[r]) kept.push_back(element[r]);
        mesh::append(attributes, corners.size() / 3, attributes_of(*item.cloud, kept), kept.size());
        for (const std::uint32_t e : kept)
            for (const std::uint32_t v : m->triangles[e]) corners.push_back(m->vertices[v]);
        progress.check();
    }
    const mesh::TriMesh out = mesh::joined(corners);
    if (is_grid_file(path))
        write_grid(out, kGridCell / length_unit(unit).metres, path, options.replace, progress);
    else
        write_mesh(out, path, options.replace, unit, attributes);
    return out.triangles.size();
}

mesh::TriMesh mesh_of(const cloud::PointCloud& c, const ElementSet& set) {
    return mesh::part_of(*c.triangles(), numbers_of(set));
}

mesh::Attributes attributes_of(const cloud::PointCloud& c, const ElementSet& set) {
    return attributes_of(c, numbers_of(set));
}

std::shared_ptr<const cloud::PointCloud> made_from(const cloud::PointCloud& c, const ElementSet& set,
                                                   const mesh::TriMesh& made, Progress& progress,
                                                   std::string value_name, std::vector<double> values) {
    cloud::TriangleParts parts{c.unit(), c.crs(), false, std::move(value_name), std::move(values)};
    if (c.attributes())
        parts.attributes = mesh::carried(mesh_of(c, set), attributes_of(c, set), made, progress);
    return cloud::cloud_of_triangles(made, parts, progress);
}

std::shared_ptr<const cloud::PointCloud> moved(const cloud::PointCloud& c, const ElementSet& set,
                                               const RigidMove& move, Progress& progress) {
    mesh::TriMesh m = mesh_of(c, set);
    for (Vec3& v : m.vertices) v = move(v);
    cloud::TriangleParts parts{c.unit(), {}, false, {}, {}, attributes_of(c, set)};
    for (auto& corners : parts.attributes.normals)
        for (auto& n : corners) {
            const Vec3 d = move.turned(
                {static_cast<double>(n[0]), static_cast<double>(n[1]), static_cast<double>(n[2])});
            for (std::size_t k = 0; k < 3; ++k) n[k] = static_cast<float>(d[static_cast<int>(k)]);
        }
    return cloud::cloud_of_triangles(m, parts, progress);
}

}  // namespace pristine::io
