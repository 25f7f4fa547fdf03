#include "core/place/mesh_feature.h"

#include <limits>

namespace pristine::place {

Feature feature_of(const cloud::PointCloud& c, const ElementSet& triangles, Feature::Kind kind) {
    const mesh::TriMesh& m = *c.triangles();
    constexpr auto kNone = std::numeric_limits<std::uint32_t>::max();
    std::vector<std::uint32_t> at(m.vertices.size(), kNone);  // of each corner among those of the set
    std::vector<Vec3> places, normals;
    Vec3 out;
    triangles.for_each([&](std::uint64_t e) {
        const auto& t = m.triangles[e];
        const Vec3 n = cross(m.vertices[t[1]] - m.vertices[t[0]], m.vertices[t[2]] - m.vertices[t[0]]);
        for (const std::uint32_t v : t) {
            if (at[v] == kNone) {
                at[v] = static_cast<std::uint32_t>(places.size());
                places.push_back(m.vertices[v]);
                normals.emplace_back();
            }
            normals[at[v]] = normals[at[v]] + n;
        }
    });
    for (Vec3& n : normals) {
        n = normalized(n);
        out = out + n;
    }
    switch (kind) {
        case Feature::Kind::Point:
            return fit_point(places);
        case Feature::Kind::Line:
            return fit_line(places);
        case Feature::Kind::Sphere:
            return fit_sphere(places);
        case Feature::Kind::Cylinder:
            return fit_cylinder(places, normals);
        case Feature::Kind::Plane:
            break;
    }
    Feature plane = fit_plane_feature(places);
    // Of a surface it is known which side is outside.
    if (dot(out, plane.direction) < 0) plane.direction = plane.direction * -1.0;
    return plane;
}

}  // namespace pristine::place
