#include "core/io/mesh/merge_clouds.h"

#include <algorithm>

#include "core/base/error.h"
#include "core/cloud/triangles.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/mesh/carry.h"

namespace pristine::io {

MergedClouds merged_clouds(std::span<const MergePart> parts, double tolerance, Progress& progress) {
    if (parts.empty()) throw Error(ErrorCode::Usage, "There is nothing to merge");
    const cloud::Reference first = parts.front().cloud->reference();
    std::vector<mesh::TriMesh> meshes;
    mesh::TriMesh together;
    mesh::Attributes attributes;
    bool terrain = true, carries = false;
    for (const MergePart& part : parts) {
        if (!part.cloud->triangles())
            throw Error(ErrorCode::Usage, "Points and triangles cannot become one item");
        if (!(part.cloud->reference() == first))
            throw Error(ErrorCode::Usage, "They are in different units or reference systems", {},
                        "Convert one to the other's system first.");
        meshes.push_back(mesh_of(*part.cloud, part.triangles));
        const mesh::Attributes own = attributes_of(*part.cloud, part.triangles);
        carries |= !own.empty();
        mesh::append(attributes, together.triangles.size(), own, meshes.back().triangles.size());
        const auto at = static_cast<std::uint32_t>(together.vertices.size());
        together.vertices.insert(together.vertices.end(), meshes.back().vertices.begin(),
                                 meshes.back().vertices.end());
        for (const auto& t : meshes.back().triangles)
            together.triangles.push_back({t[0] + at, t[1] + at, t[2] + at});
        terrain &= cloud::is_surface(*part.cloud);
    }
    progress.stretch(0, 0.4, "Joining");
    mesh::Merged m = mesh::merged(meshes, tolerance);
    MergedClouds out;
    out.joined = m.joined;
    out.split = m.split;
    out.dropped = m.dropped;
    out.farthest = m.farthest;
    if (terrain) out.overlapping = mesh::overlapping(meshes);
    out.surface = terrain && out.overlapping == 0 && faces_up(m.mesh);
    cloud::TriangleParts made;
    made.unit = first.unit;
    made.crs = first.crs;
    made.height_unit = first.height_unit;
    made.surface = out.surface;
    progress.stretch(0.4, 0.7, "Joining");
    if (carries) made.attributes = mesh::carried(together, attributes, m.mesh, progress);
    progress.stretch(0.7, 1, "Joining");
    out.cloud = cloud::cloud_of_triangles(m.mesh, made, progress);
    return out;
}

}  // namespace pristine::io
