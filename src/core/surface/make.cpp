#include "core/surface/make.h"

#include "core/base/error.h"
#include "core/surface/thin.h"

namespace pristine::surface {

std::vector<Vec3> places_of(const cloud::PointCloud& cloud, const ElementSet& set) {
    std::vector<Vec3> places;
    places.reserve(set.count());
    for (std::size_t p = 0; p < cloud.page_count(); ++p) {
        if (set.kind(p) == ElementSet::Kind::None) continue;
        const cloud::PositionPage page = cloud.positions(p);
        set.for_each_in_page(
            p, [&](std::size_t i) { places.push_back(cloud.grid().world(page.x[i], page.y[i], page.z[i])); });
    }
    return places;
}

Made make(Definition d, double thin, Progress& progress) {
    Made m;
    m.given = d.points.size();
    if (thin > 0) {
        const Progress::Part part(progress, 0, 0.5, "Thinning");
        std::vector<Vec3> kept;
        for (const std::uint32_t i : thinned(d.points, thin, progress)) kept.push_back(d.points[i]);
        d.points = std::move(kept);
    }
    const Progress::Part part(progress, thin > 0 ? 0.5 : 0, 1, "Building a surface");
    m.built = build(d, progress);
    if (m.built.mesh.triangles.empty())
        throw Error(ErrorCode::Empty, "Nothing is left of the surface", {},
                    "Allow longer edges, or look at the boundary.");
    m.definition = std::move(d);
    return m;
}

}  // namespace pristine::surface
