#include "support/wkt.h"

#include <fmt/format.h>
#include <ogr_geometry.h>

#include <memory>
#include <stdexcept>

#include "core/mesh/weld.h"

namespace pristine::test {
namespace {

std::unique_ptr<OGRGeometry> parsed(const std::string& wkt) {
    OGRGeometry* g = nullptr;
    if (OGRGeometryFactory::createFromWkt(wkt.c_str(), nullptr, &g) != OGRERR_NONE || !g)
        throw std::invalid_argument("no WKT: " + wkt);
    return std::unique_ptr<OGRGeometry>(g);
}

std::vector<Vec3> of_curve(const OGRSimpleCurve& c) {
    std::vector<Vec3> places;
    for (int i = 0; i < c.getNumPoints(); ++i) places.push_back({c.getX(i), c.getY(i), c.getZ(i)});
    return places;
}

std::vector<Vec3> of_ring(const OGRLinearRing& ring) {
    std::vector<Vec3> places = of_curve(ring);
    if (places.size() > 1) places.pop_back();
    return places;
}

}  // namespace

std::vector<Vec3> places_of(const std::string& wkt) {
    const auto g = parsed(wkt);
    std::vector<Vec3> places;
    switch (wkbFlatten(g->getGeometryType())) {
        case wkbPoint:
            places.push_back({g->toPoint()->getX(), g->toPoint()->getY(), g->toPoint()->getZ()});
            break;
        case wkbMultiPoint:
            for (const OGRPoint* p : *g->toMultiPoint()) places.push_back({p->getX(), p->getY(), p->getZ()});
            break;
        case wkbLineString:
            return of_curve(*g->toLineString());
        case wkbPolygon:
            return of_ring(*g->toPolygon()->getExteriorRing());
        default:
            throw std::invalid_argument("not a list of places: " + wkt);
    }
    return places;
}

std::vector<Polygon> rings_of_wkt(const std::string& wkt) {
    const auto g = parsed(wkt);
    std::vector<Polygon> rings;
    for (const OGRLinearRing* ring : *g->toPolygon()) {
        rings.emplace_back();
        for (const Vec3& p : of_ring(*ring)) rings.back().push_back({p.x, p.y});
    }
    return rings;
}

mesh::TriMesh mesh_of_wkt(const std::string& wkt) {
    const auto g = parsed(wkt);
    std::vector<Vec3> corners;
    for (const OGRPolygon* t : *g->toTriangulatedSurface())
        for (const Vec3& p : of_ring(*t->getExteriorRing())) corners.push_back(p);
    return mesh::weld(corners);
}

std::string wkt_of(const mesh::TriMesh& m) {
    std::string text;
    for (const auto& t : m.triangles) {
        text += text.empty() ? "((" : ", ((";
        for (const std::size_t k : {0u, 1u, 2u, 0u}) {
            const Vec3& v = m.vertices[t[k]];
            text += fmt::format("{} {} {}, ", v.x, v.y, v.z);
        }
        text.resize(text.size() - 2);
        text += "))";
    }
    return text.empty() ? "TIN EMPTY" : "TIN Z (" + text + ")";
}

}  // namespace pristine::test
