#include "core/place/mesh_feature.h"

#include "core/io/mesh/mesh_cloud.h"

namespace pristine::place {

Feature feature_of(const cloud::PointCloud& c, const ElementSet& triangles, Feature::Kind kind) {
    const mesh::TriMesh m = io::mesh_of(c, triangles);
    std::vector<Vec3> normals(m.vertices.size());
    Vec3 out;
    for (const auto& t : m.triangles) {
        const Vec3 n = cross(m.vertices[t[1]] - m.vertices[t[0]], m.vertices[t[2]] - m.vertices[t[0]]);
        for (const std::uint32_t v : t) normals[v] = normals[v] + n;
    }
    for (Vec3& n : normals) {
        n = normalized(n);
        out = out + n;
    }
    switch (kind) {
        case Feature::Kind::Point:
            return fit_point(m.vertices);
        case Feature::Kind::Line:
            return fit_line(m.vertices);
        case Feature::Kind::Sphere:
            return fit_sphere(m.vertices);
        case Feature::Kind::Cylinder:
            return fit_cylinder(m.vertices, normals);
        case Feature::Kind::Plane:
            break;
    }
    Feature plane = fit_plane_feature(m.vertices);
    // Of a surface it is known which side is outside.
    if (dot(out, plane.direction) < 0) plane.direction = plane.direction * -1.0;
    return plane;
}

}  // namespace pristine::place
