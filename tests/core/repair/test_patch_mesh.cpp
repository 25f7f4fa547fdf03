// A patch refined: its rim stays, its triangles get the size that is wanted, and nothing is lost or doubled.

#include "core/repair/patch_mesh.h"

#include <catch2/catch.hpp>

#include <cmath>
#include <map>
#include <numbers>

#include "core/mesh/tri_mesh.h"
#include "support/cloud_makers.h"

using namespace pristine;
using repair::PatchMesh;

namespace {

// A round hole of n corners, closed by a fan from its first.
PatchMesh fan(unsigned n, double radius) {
    PatchMesh p;
    p.rim = n;
    for (unsigned k = 0; k < n; ++k) {
        const double a = 2 * std::numbers::pi * k / n;
        p.vertices.push_back({radius * std::cos(a), radius * std::sin(a), 0});
    }
    const double edge = norm(p.vertices[1] - p.vertices[0]);
    p.scale.assign(n, edge);
    for (std::uint32_t k = 1; k + 1 < n; ++k) p.triangles.push_back({0, k, k + 1});
    return p;
}

using Edges = std::map<std::pair<std::uint32_t, std::uint32_t>, int>;
Edges directed(const PatchMesh& p) {
    Edges e;
    for (const auto& t : p.triangles)
        for (std::size_t k = 0; k < 3; ++k) ++e[{t[k], t[(k + 1) % 3]}];
    return e;
}

}  // namespace

TEST_CASE("ARefinedPatchHasTheSizeOfWhatIsRoundIt") {
    for (const unsigned n : {3u, 4u, 12u, 60u, 150u}) {
        PatchMesh p = fan(n, 5);
        const PatchMesh before = p;
        repair::refine(p, Progress::none());
        CAPTURE(n, p.vertices.size(), p.triangles.size());
        CHECK(p.rim == n);
        for (std::size_t k = 0; k < n; ++k) CHECK(p.vertices[k] == before.vertices[k]);
        CHECK(p.scale.size() == p.vertices.size());
        // Still one disc with the same rim: every edge once each way, but those of the rim once.
        const Edges e = directed(p);
        std::size_t rim = 0;
        for (const auto& [edge, count] : e) {
            CHECK(count == 1);
            const bool back = e.contains({edge.second, edge.first});
            rim += !back;
            if (!back) CHECK((edge.first + 1) % n == edge.second);
        }
        CHECK(rim == n);
        CHECK(p.triangles.size() == 2 * p.vertices.size() - n - 2);  // Euler
        CHECK(mesh::surface_area({p.vertices, p.triangles}) ==
              Approx(mesh::surface_area({before.vertices, before.triangles})));
        if (n < 12) continue;
        double longest = 0;
        for (const auto& [edge, count] : e)
            longest = std::max(longest, norm(p.vertices[edge.first] - p.vertices[edge.second]));
        CHECK(longest < 2.5 * p.scale[0]);
    }
}

TEST_CASE("APatchThatIsFineEnoughStaysAsItIs") {
    PatchMesh p = fan(6, 1);
    p.scale.assign(6, 10);
    repair::refine(p, Progress::none());
    CHECK(p.vertices.size() == 6);
    CHECK(p.triangles.size() == 4);
}
