// Scores that know how a point was measured: incidence, the scan's grid; and distance to another cloud.

#include <catch2/catch.hpp>

#include <cmath>
#include <random>

#include "core/base/bytes.h"
#include "core/base/error.h"
#include "core/cloud/builder.h"
#include "core/cloud/triangles.h"
#include "core/mesh/tri_mesh.h"
#include "core/score/range_image.h"
#include "core/score/score.h"
#include "demo/trials.h"
#include "support/cloud_makers.h"

using namespace pristine;

namespace {

// One scan of 60 x 80 cells from the origin, of a wall at y = 10 with a board at y = 6 before its middle; the
// cells at the left rim of the board lie between the two.
struct GridScan {
    static constexpr int kRows = 60, kColumns = 80, kFirst = 30, kLast = 50;
    std::shared_ptr<const cloud::PointCloud> cloud;
    std::vector<std::uint32_t> number;  // row * kColumns + column of each element

    static Vec3 cell(int row, int column) {
        const Vec3 d = normalized({-0.4 + 0.01 * column, 1, -0.3 + 0.01 * row});
        const bool board = column >= kFirst && column < kLast;
        const double y = board ? 6 : column == kFirst - 1 ? 8 : 10;
        return d * (y / d.y);
    }
    GridScan() {
        using cloud::FieldType;
        cloud::RecordLayout layout{"test",
                                   20,
                                   {{"x", FieldType::I32, 0, 0, 0, 0.0001, 0},
                                    {"y", FieldType::I32, 4, 0, 0, 0.0001, 0},
                                    {"z", FieldType::I32, 8, 0, 0, 0.0001, 0},
                                    {"row", FieldType::U32, 12},
                                    {"column", FieldType::U32, 16}},
                                   {}};
        std::string bytes;
        cloud::PointBatch b;
        for (int r = 0; r < kRows; ++r)
            for (int c = 0; c < kColumns; ++c) {
                const Vec3 p = cell(r, c);
                b.x.push_back(static_cast<std::int32_t>(std::lround(p.x * 1e4)));
                b.y.push_back(static_cast<std::int32_t>(std::lround(p.y * 1e4)));
                b.z.push_back(static_cast<std::int32_t>(std::lround(p.z * 1e4)));
                append_le(bytes, b.x.back());
                append_le(bytes, b.y.back());
                append_le(bytes, b.z.back());
                append_le(bytes, static_cast<std::uint32_t>(r));
                append_le(bytes, static_cast<std::uint32_t>(c));
            }
        cloud::PointCloud::Parts parts;
        parts.grid = {{1e-4, 1e-4, 1e-4}, {}};
        parts.stations = {{"Station 1", {}}};
        parts.records = std::make_shared<cloud::MemoryRecords>(std::move(layout), std::move(bytes));
        cloud = cloud::build({b}, std::move(parts));
        for (std::size_t p = 0; p < cloud->page_count(); ++p)
            for (const std::uint32_t n : cloud->order()->page(p)) number.push_back(n);
    }
    std::vector<double> of(const char* id) const {
        const ElementSet all = ElementSet::all(cloud->size());
        const auto c = score::compute(score::find(id), {*cloud, all}, {});
        std::vector<double> v(number.size());
        for (std::size_t i = 0; i < v.size(); ++i) v[number[i]] = c.base + static_cast<double>(c.values[i]);
        return v;
    }
};

}  // namespace

TEST_CASE("MixedPixelsStandOutOfTheGrid") {
    const GridScan scan;
    const auto mixed = scan.of("mixed");
    for (int r = 3; r < GridScan::kRows - 3; ++r)
        for (int c = 3; c < GridScan::kColumns - 3; ++c) {
            CAPTURE(r, c);
            const double v = mixed[static_cast<std::size_t>(r * GridScan::kColumns + c)];
            if (c == GridScan::kFirst - 1)
                CHECK(v > 3);
            else if (std::abs(c - GridScan::kFirst) > 3 && std::abs(c - GridScan::kLast) > 3)
                CHECK(v < 1.5);
        }
}

TEST_CASE("CellsOfTheGridAreStretchedWhereTheyJump") {
    const GridScan scan;
    const auto ratio = scan.of("stretch"), longest = scan.of("cell");
    for (int r = 1; r + 1 < GridScan::kRows; r += 7)
        for (int c = 1; c + 1 < GridScan::kColumns; ++c) {
            CAPTURE(r, c);
            // The slow way: all four triangles at the cell.
            double most = 0, worst = 0;
            const Vec3 here = GridScan::cell(r, c);
            for (const int dr : {-1, 1})
                for (const int dc : {-1, 1}) {
                    const Vec3 a = GridScan::cell(r + dr, c), b = GridScan::cell(r, c + dc);
                    const double e[3] = {norm(a - here), norm(b - here), norm(a - b)};
                    most = std::max({most, e[0], e[1], e[2]});
                    worst = std::max(worst, std::max({e[0], e[1], e[2]}) / std::min({e[0], e[1], e[2]}));
                }
            const auto k = static_cast<std::size_t>(r * GridScan::kColumns + c);
            CHECK(longest[k] == Approx(most).margin(3e-4));
            CHECK(ratio[k] == Approx(worst).epsilon(0.01));
        }
    // Corners of the grid have one triangle.
    CHECK(std::isfinite(longest[0]));
    CHECK_THROWS_AS(
        score::compute(score::find("mixed"),
                       {*test::random_cloud(50, test::Shape::Terrain, 1), ElementSet::all(50)}, {}),
        Error);
}

TEST_CASE("IncidenceIsTheAngleBetweenBeamAndSurface") {
    const GridScan scan;
    const auto angle = scan.of("incidence");
    for (int r = 5; r < GridScan::kRows - 5; r += 3)
        for (const int c : {5, 15, 38, 42, 60, 70}) {
            CAPTURE(r, c);
            const Vec3 p = GridScan::cell(r, c);
            CHECK(angle[static_cast<std::size_t>(r * GridScan::kColumns + c)] ==
                  Approx(std::acos(p.y / norm(p)) * 180 / 3.14159265358979).margin(0.5));
        }
}

TEST_CASE("DistanceToAnotherCloudEqualsTheSlowWay") {
    const std::uint64_t seed = test::seed_for("Other");
    CAPTURE(seed);
    const auto a = test::random_cloud(900, test::Shape::Clusters, seed),
               b = test::random_cloud(1100, test::Shape::Clusters, seed + 1);
    ElementSet some(b->size());
    for (std::uint64_t i = 0; i < b->size(); i += 3) some.insert(i);
    const ElementSet all = ElementSet::all(a->size());
    for (const double reach : {0.02, 0.5, 40.0}) {
        const auto c = score::compute(score::find("other"), {*a, all, b.get(), &some}, {{"reach", reach}});
        for (std::uint64_t i = 0; i < a->size(); i += 3) {
            double least = reach;
            some.for_each(
                [&](std::uint64_t k) { least = std::min(least, norm(a->position(i) - b->position(k))); });
            CHECK(static_cast<double>(c.values[i]) == Approx(least).epsilon(1e-4).margin(1e-4));
        }
    }
    CHECK_THROWS_AS(score::compute(score::find("other"), {*a, all}, {}), Error);
}

// Scans of several stations in one file, and each in an item of its own: the same is seen.
TEST_CASE("ScansInItemsOfTheirOwnSeeThroughThingsAsScansInOneFileDo") {
    const demo::Trial trial = demo::make_trial("passers", 3, 0.12);
    std::vector<demo::Truth> truth;
    const auto together = demo::cloud_of(trial, truth);
    const score::Score& through = score::find("through");
    const ElementSet whole = ElementSet::all(together->size());
    const score::Column one = score::compute(through, {*together, whole}, {});
    std::vector<float> wanted(trial.points.size());
    std::vector<std::string> witness(trial.points.size());
    for (std::size_t p = 0; p < together->page_count(); ++p) {
        const auto original = together->order()->page(p);
        for (std::size_t i = 0; i < original.size(); ++i) {
            wanted[original[i]] = one.values.page(p)[i];
            witness[original[i]] = one.names.at(one.by.page(p)[i]);
        }
    }
    std::vector<std::shared_ptr<const cloud::PointCloud>> clouds;
    std::vector<ElementSet> sets;
    std::vector<std::vector<std::size_t>> numbers(trial.stations.size());
    for (std::size_t s = 0; s < trial.stations.size(); ++s) {
        demo::Trial part{"part", {}, {trial.stations[s]}};
        for (std::size_t i = 0; i < trial.points.size(); ++i)
            if (trial.points[i].scan == s) {
                // It keeps the number that it had among the scans of its file.
                part.points.push_back(trial.points[i]);
                numbers[s].push_back(i);
            }
        clouds.push_back(demo::cloud_of(part, truth));
        sets.push_back(ElementSet::all(clouds.back()->size()));
    }
    std::size_t moving = 0, different = 0;
    for (std::size_t s = 0; s < clouds.size(); ++s) {
        score::Input in{*clouds[s], sets[s]};
        CHECK_THROWS_AS(score::compute(through, in, {}), Error);
        for (std::size_t k = 0; k < clouds.size(); ++k)
            if (k != s) in.beside.push_back({clouds[k].get(), &sets[k]});
        const score::Column own = score::compute(through, in, {});
        for (std::size_t p = 0; p < clouds[s]->page_count(); ++p) {
            const auto original = clouds[s]->order()->page(p);
            for (std::size_t i = 0; i < original.size(); ++i) {
                const float a = own.values.page(p)[i], b = wanted[numbers[s][original[i]]];
                moving += b > 0;
                different += !(a == b || (std::isnan(a) && std::isnan(b)));
                if (!(b > 0)) continue;
                // The stations that look: its own, then those of the others.
                const std::size_t by = own.by.page(p)[i];
                const std::size_t station = by == 0 ? s : by <= s ? by - 1 : by;
                different += witness[numbers[s][original[i]]] != "Station " + std::to_string(station + 1);
            }
        }
    }
    CHECK(moving > 100);
    CHECK(different == 0);
}

TEST_CASE("TheSurfaceRoundADirectionIsThePlaneThatWasMeasured") {
    const std::uint64_t seed = test::seed_for("Surfaces round a station");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::uniform_real_distribution<double> u(-1, 1);
    std::normal_distribution<double> noise(0, 0.002);
    for (int plane = 0; plane < 6; ++plane) {
        // A floor below the station, or a wall that leans, far larger than a cell.
        const Vec3 away =
            plane == 0 ? Vec3{0, 0, -1} : normalized(Vec3{u(dice), u(dice), -0.4 + 0.3 * u(dice)});
        const double distance = 1.6 + 2 * (1 + u(dice));
        SpillVector<std::array<float, 3>> points;
        std::vector<Vec3> on_it;
        while (on_it.size() < 60'000) {
            const Vec3 d = normalized({u(dice), u(dice), u(dice)});
            const double slant = dot(d, away);
            if (slant < 0.1) continue;
            const Vec3 p = d * ((distance + noise(dice)) / slant);
            on_it.push_back(p);
            points.push_back({static_cast<float>(p.x), static_cast<float>(p.y), static_cast<float>(p.z)});
        }
        const score::RangeImage image(points);
        SpillVector<std::array<float, 3>> other_way;
        for (std::size_t i = points.size(); i-- > 0;) other_way.push_back(points[i]);
        const score::RangeImage again(other_way);
        std::size_t seen = 0;
        for (int k = 0; k < 300; ++k) {
            const Vec3 p = on_it[static_cast<std::size_t>(k) * 199];
            if (dot(normalized(p), away) < 0.15) continue;  // at the rim the neighbours are empty
            const auto surface = image.surface(p);
            if (!surface) continue;
            ++seen;
            CHECK(surface->rough < 0.01);
            const double lift = 0.05 * u(dice);
            CHECK(surface->in_front(p - away * lift) == Approx(lift).margin(0.02));
            CHECK(surface->in_front(p) == again.surface(p)->in_front(p));  // whatever the order
        }
        CHECK(seen > 150);
        CHECK_FALSE(image.surface(away * -5.0));
    }
}

TEST_CASE("AnImageFromFarAwayHasNoMoreCellsThanItsPointsAreWorth") {
    // All points in a fraction of a degree.
    std::mt19937_64 dice(3);
    std::uniform_real_distribution<double> u(-10, 10);
    SpillVector<std::array<float, 3>> points;
    for (int i = 0; i < 20'000; ++i)
        points.push_back(
            {static_cast<float>(5e6 + u(dice)), static_cast<float>(u(dice)), static_cast<float>(u(dice))});
    const score::RangeImage image(points);
    CHECK(image.size() < 10 * points.size());
    CHECK(image.size() > points.size());
}

TEST_CASE("HeightOverASurfaceIsThatOfThePlaneBelow") {
    const Vec3 at{4'412'300, 5'218'930, 58};
    const auto z = [](double x, double y) { return 0.3 * x - 0.2 * y; };
    mesh::TriMesh m;
    for (int y = 0; y <= 10; ++y)
        for (int x = 0; x <= 10; ++x) m.vertices.push_back(at + Vec3{double(x), double(y), z(x, y)});
    const auto v = [](int x, int y) { return static_cast<std::uint32_t>(11 * y + x); };
    for (int y = 0; y < 10; ++y)
        for (int x = 0; x < 10; ++x) {
            m.triangles.push_back({v(x, y), v(x + 1, y), v(x + 1, y + 1)});
            m.triangles.push_back({v(x, y), v(x + 1, y + 1), v(x, y + 1)});
        }
    const auto surface = cloud::cloud_of_triangles(m, {"m", "", true, {}, {}});
    std::mt19937_64 dice(2);
    std::uniform_real_distribution<double> u(-3, 13);
    std::vector<Vec3> points;
    for (int i = 0; i < 500; ++i) points.push_back(at + Vec3{u(dice), u(dice), u(dice)});
    cloud::PointBatch batch;
    cloud::PointCloud::Parts parts;
    parts.grid = {{1e-6, 1e-6, 1e-6}, at};
    for (const Vec3& p : points) {
        batch.x.push_back(static_cast<std::int32_t>(std::lround((p.x - at.x) * 1e6)));
        batch.y.push_back(static_cast<std::int32_t>(std::lround((p.y - at.y) * 1e6)));
        batch.z.push_back(static_cast<std::int32_t>(std::lround((p.z - at.z) * 1e6)));
    }
    parts.records = std::make_shared<cloud::MemoryRecords>(cloud::RecordLayout{"text", 1, {}, {}},
                                                           std::string(points.size(), ' '));
    std::vector<cloud::PointBatch> batches;
    batches.push_back(std::move(batch));
    const auto c = cloud::build(std::move(batches), std::move(parts));
    const ElementSet all = ElementSet::all(c->size()), every = ElementSet::all(surface->size());
    const auto column = score::compute(score::find("over"), {*c, all, surface.get(), &every}, {});
    int known = 0;
    for (std::uint64_t e = 0; e < c->size(); ++e) {
        const Vec3 p = c->position(e) - at;
        const float h = column.values.value(e / kPageSize, e % kPageSize);
        const bool over = p.x >= 0 && p.x <= 10 && p.y >= 0 && p.y <= 10;
        CHECK((h == h) == over);
        if (over) CHECK(h == Approx(p.z - z(p.x, p.y)).margin(1e-5));
        known += over;
    }
    CHECK(known > 100);
    CHECK_THROWS_AS(score::compute(score::find("over"), {*c, all, c.get(), &all}, {}), Error);
}
