#include "core/io/mesh/mesh_cloud.h"

#include <algorithm>

#include "core/base/error.h"
#include "core/base/file.h"
#include "core/cloud/triangles.h"
#include "core/io/ending.h"
#include "core/io/grid/grid_io.h"
#include "core/io/mesh/mesh_io.h"
#include "core/mesh/carry.h"
#include "core/mesh/weld.h"
#include "core/surface/definition.h"

namespace pristine::io {

bool faces_up(const mesh::TriMesh& m) {
    return std::all_of(m.triangles.begin(), m.triangles.end(), [&](const auto& t) {
        const Vec3 p = m.vertices[t[1]] - m.vertices[t[0]], q = m.vertices[t[2]] - m.vertices[t[0]];
        return p.x * q.y - p.y * q.x > 0;
    });
}

namespace {

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

namespace {

ReadResult cloud_of(MeshFile file, Progress& progress) {
    cloud::TriangleParts parts;
    parts.unit = file.unit;
    parts.crs = file.crs;
    parts.height_unit = file.height_unit;
    parts.surface = file.surface || faces_up(file.mesh);
    parts.attributes = std::move(file.attributes);
    return {cloud::cloud_of_triangles(file.mesh, parts, progress), file.format, file.warnings, file.name};
}

}  // namespace

std::vector<ReadResult> read_mesh_clouds(const std::filesystem::path& path, const ReadOptions& options,
                                         Progress& progress) {
    progress.stretch(0, 0.6, "Reading triangles");
    std::vector<MeshFile> files;
    double thinned = 0;
    if (is_grid_file(path)) {
        HeightGrid grid = read_height_grid(path, {options.most_cells, options.grid_error}, progress);
        MeshFile& file = files.emplace_back();
        file.mesh = std::move(grid.mesh);
        file.format = grid.format;
        file.surface = true;
        file.unit = grid.reference.unit;
        file.height_unit = grid.reference.height_unit;
        file.crs = grid.reference.crs;
        file.warnings = std::move(grid.warnings);
        thinned = grid.error;
        if (file.mesh.triangles.empty())
            throw Error(ErrorCode::Format, "No four neighbouring cells of the grid hold heights",
                        path.filename().string());
    } else if (ending_of(path) != ".xml" || is_mesh_file(path)) {
        files = read_meshes(path, progress);
    }
    std::vector<ReadResult> out;
    for (std::size_t k = 0; k < files.size(); ++k) {
        const auto n = static_cast<double>(files.size());
        progress.stretch(0.6 + 0.4 * static_cast<double>(k) / n, 0.6 + 0.4 * static_cast<double>(k + 1) / n,
                         "Ordering triangles");
        out.push_back(cloud_of(std::move(files[k]), progress));
        out.back().thinned = thinned;
    }
    if (ending_of(path) == ".xml") {
        const InputFile file(path);
        for (ReadResult& r : read_landxml_points(file.read_string(0, file.size()), path.string(), progress))
            out.push_back(std::move(r));
        if (out.empty())
            throw Error(ErrorCode::Format, "There is no surface and no point with a height in the file",
                        path.filename().string());
    }
    return out;
}

namespace {

// The elements of the kept records, in the order of the file that they came from.
std::vector<std::uint32_t> kept_elements(const WriteItem& item) {
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
    return kept;
}

}  // namespace

mesh::TriMesh kept_triangles(const WriteItem& item) {
    return mesh::part_of(*item.cloud->triangles(), kept_elements(item));
}

std::uint64_t write_mesh_clouds(const std::vector<WriteItem>& items, const std::filesystem::path& path,
                                const WriteOptions& options, Progress& progress) {
    std::vector<Vec3> corners;
    mesh::Attributes attributes;
    const cloud::Reference reference = items.front().cloud->reference();
    for (const WriteItem& item : items) {
        const mesh::TriMesh* m = item.cloud->triangles().get();
        if (!m)
            throw Error(ErrorCode::Unsupported, "Points and triangles cannot go into one file", path.string(),
                        "Hide the one or the other.");
        const std::vector<std::uint32_t> kept = kept_elements(item);
        mesh::append(attributes, corners.size() / 3, attributes_of(*item.cloud, kept), kept.size());
        for (const std::uint32_t e : kept)
            for (const std::uint32_t v : m->triangles[e]) corners.push_back(m->vertices[v]);
        progress.check();
    }
    const mesh::TriMesh out = mesh::weld(corners);
    if (is_grid_ending(path))
        write_grid(out, {options.cell, options.no_data, reference}, path, options.replace, progress);
    else
        write_mesh(out, path, options.replace, reference.unit, attributes, reference.crs);
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
    parts.height_unit = c.height_unit();
    if (c.attributes())
        parts.attributes = mesh::carried(mesh_of(c, set), attributes_of(c, set), made, progress);
    return cloud::cloud_of_triangles(made, parts, progress);
}

std::shared_ptr<const cloud::PointCloud> moved(const cloud::PointCloud& c, const ElementSet& set,
                                               const RigidMove& move, Progress& progress) {
    mesh::TriMesh m = mesh_of(c, set);
    for (Vec3& v : m.vertices) v = move(v);
    // Turned or shifted it is no longer in its reference system; its unit stays.
    cloud::TriangleParts parts{c.unit(), {}, false, {}, {}, attributes_of(c, set)};
    parts.height_unit = c.height_unit();
    for (auto& corners : parts.attributes.normals)
        for (auto& n : corners) {
            const Vec3 d = move.turned(
                {static_cast<double>(n[0]), static_cast<double>(n[1]), static_cast<double>(n[2])});
            for (std::size_t k = 0; k < 3; ++k) n[k] = static_cast<float>(d[static_cast<int>(k)]);
        }
    return cloud::cloud_of_triangles(m, parts, progress);
}

}  // namespace pristine::io
