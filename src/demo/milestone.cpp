#include "demo/milestone.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <nlohmann/json.hpp>
#include <numbers>

#include "core/base/output.h"
#include "core/io/mesh/mesh_io.h"
#include "demo/solids.h"

namespace pristine::demo {
namespace {

constexpr Vec3 kHalf{0.2, 0.12, 0};
constexpr double kHeight = 0.6, kRound = 0.05, kDepth = 0.006;

// How deep the carving is at a place of the front, 0 to 1: a ring, and two strokes below.
double carving(double x, double z) {
    const auto groove = [](double off, double width) {
        const double t = std::clamp(1 - std::fabs(off) / width, 0.0, 1.0);
        return t * t * (3 - 2 * t);
    };
    double deep = groove(std::hypot(x, z - 0.42) - 0.075, 0.022);
    for (const double at : {-0.05, 0.05})
        if (z > 0.12 && z < 0.3)
            deep = std::max(deep,
                            groove(x - at, 0.022) * groove(std::max(0.0, std::fabs(z - 0.21) - 0.06), 0.03));
    return deep;
}

// Edges rounded off, but those at the foot.
Vec3 shaped(const Vec3& p) {
    Vec3 core = p;
    for (int a = 0; a < 2; ++a) core[a] = std::clamp(p[a], -kHalf[a] + kRound, kHalf[a] - kRound);
    core.z = std::min(p.z, kHeight - kRound);
    const Vec3 off = p - core;
    // The squares round the core become spheres.
    const double reach = std::max({std::fabs(off.x), std::fabs(off.y), std::fabs(off.z)});
    Vec3 q = reach > 0 ? core + normalized(off) * reach : p;
    if (p.y == -kHalf.y) q.y += kDepth * carving(p.x, p.z);
    return q;
}

std::uint32_t nearest_vertex(const mesh::TriMesh& m, const Vec3& at) {
    std::uint32_t best = 0;
    for (std::uint32_t v = 1; v < m.vertices.size(); ++v)
        if (norm(m.vertices[v] - at) < norm(m.vertices[best] - at)) best = v;
    return best;
}

template <class Test>
void bite(mesh::TriMesh& m, Test&& gone) {
    std::erase_if(m.triangles, [&](const std::array<std::uint32_t, 3>& t) {
        return gone((m.vertices[t[0]] + m.vertices[t[1]] + m.vertices[t[2]]) * (1 / 3.0));
    });
}

void join(mesh::TriMesh& m, const mesh::TriMesh& other) {
    const auto n = static_cast<std::uint32_t>(m.vertices.size());
    m.vertices.insert(m.vertices.end(), other.vertices.begin(), other.vertices.end());
    for (const auto& t : other.triangles) m.triangles.push_back({t[0] + n, t[1] + n, t[2] + n});
}

// Two opposite triangles at one corner: the holes touch there.
void pinch(mesh::TriMesh& m, const Vec3& at) {
    const std::uint32_t v = nearest_vertex(m, at);
    std::vector<std::pair<double, std::size_t>> round;
    for (std::size_t t = 0; t < m.triangles.size(); ++t) {
        const auto& c = m.triangles[t];
        if (c[0] != v && c[1] != v && c[2] != v) continue;
        const Vec3 d = (m.vertices[c[0]] + m.vertices[c[1]] + m.vertices[c[2]]) * (1 / 3.0) - m.vertices[v];
        round.push_back({std::atan2(d.z, d.y), t});
    }
    std::sort(round.begin(), round.end());
    std::array<std::size_t, 2> gone{round[0].second, round[round.size() / 2].second};
    std::sort(gone.begin(), gone.end());
    for (const std::size_t t : {gone[1], gone[0]})
        m.triangles.erase(m.triangles.begin() + static_cast<std::ptrdiff_t>(t));
}

// A corner on an edge of two triangles, of which one stays whole: the gap between is a triangle without area.
void sliver(mesh::TriMesh& m, const Vec3& at) {
    const std::uint32_t v = nearest_vertex(m, at);
    for (auto& t : m.triangles) {
        if (t[0] != v) continue;
        const auto c = t;
        m.vertices.push_back(m.vertices[c[0]] * 0.4 + m.vertices[c[1]] * 0.6);
        const auto n = static_cast<std::uint32_t>(m.vertices.size() - 1);
        t = {n, c[1], c[2]};
        m.triangles.push_back({c[0], n, c[2]});
        m.triangles.push_back({c[1], n, c[0]});
        return;
    }
}

mesh::TriMesh turntable() {
    mesh::TriMesh m;
    constexpr int kRound_ = 96;
    constexpr double kRadius = 0.34, kTop = -0.002, kFoot = -0.03;
    m.vertices = {{0, 0, kTop}, {0, 0, kFoot}};
    for (int i = 0; i < kRound_; ++i) {
        const double a = 2 * std::numbers::pi * i / kRound_;
        for (const double z : {kTop, kFoot})
            m.vertices.push_back({kRadius * std::cos(a), kRadius * std::sin(a), z});
    }
    for (std::uint32_t i = 0; i < kRound_; ++i) {
        const std::uint32_t a = 2 + 2 * i, b = 2 + 2 * ((i + 1) % kRound_);
        m.triangles.push_back({0, a, b});
        m.triangles.push_back({1, b + 1, a + 1});
        m.triangles.push_back({a, a + 1, b + 1});
        m.triangles.push_back({a, b + 1, b});
    }
    return m;
}

// Even patches between -1 and 1 of about `size`, the same on every machine.
double patches(const Vec3& p, double size) {
    const Vec3 q = p * (2 * std::numbers::pi / size);
    return std::sin(q.x + 1.3 * std::sin(0.7 * q.z)) * std::sin(q.y + 0.4 + std::sin(0.6 * q.x)) *
           std::sin(1.1 * q.z + 0.8 * std::sin(q.y));
}

std::uint32_t shade_of(std::uint32_t rgb, double light) {
    std::uint32_t c = 0;
    for (const int shift : {16, 8, 0})
        c |= static_cast<std::uint32_t>(std::clamp(((rgb >> shift) & 255u) * light, 0.0, 255.0)) << shift;
    return c;
}

std::uint32_t colour_of(const Vec3& p) {
    constexpr std::uint32_t kTable = 0x33373D, kClamp = 0x9FA8B2, kTarget = 0xF2F1EA, kStone = 0xB7A88F,
                            kLichen = 0x8F9A52;
    if (p.z < -1e-9) return kTable;
    if (p.x > 0.2025) return kClamp;
    for (const Marker& m : milestone_markers())
        if (norm(p - m.place) < m.radius) return kTarget;
    const double grain = 0.04 * patches(p, 0.011) + 0.06 * patches(p, 0.05);
    const double foot = 0.75 + 0.25 * std::clamp(p.z / 0.12, 0.0, 1.0);  // damp from the ground
    return shade_of(patches(p + Vec3{0.03, 0.01, 0.02}, 0.17) > 0.42 ? kLichen : kStone, foot + grain);
}

}  // namespace

mesh::Attributes milestone_colours(const mesh::TriMesh& m) {
    std::vector<std::uint32_t> colour;
    for (const Vec3& v : m.vertices) colour.push_back(colour_of(v));
    mesh::Attributes a;
    for (const auto& t : m.triangles) a.colours.push_back({colour[t[0]], colour[t[1]], colour[t[2]]});
    return a;
}

mesh::TriMesh milestone(int n) {
    mesh::TriMesh m = block(n, {-kHalf.x, -kHalf.y, 0}, {kHalf.x, kHalf.y, kHeight});
    for (Vec3& v : m.vertices) v = shaped(v);
    return m;
}

mesh::TriMesh milestone_scan(int n) {
    mesh::TriMesh m = milestone(n);
    bite(m, [](const Vec3& p) { return p.z < 1e-9; });  // it stands on the table
    bite(m, [](const Vec3& p) { return norm(p - Vec3{-0.05, 0.12, 0.35}) < 0.03; });  // flat
    bite(m, [](const Vec3& p) { return norm(p - Vec3{0.16, 0.0, 0.585}) < 0.04; });   // round
    bite(m, [](const Vec3& p) { return norm(p - Vec3{0.19, 0.11, 0.2}) < 0.035; });   // round an edge
    pinch(m, {-0.2, 0, 0.25});
    for (const double z : {0.15, 0.33}) sliver(m, {-0.2, 0.03, z});
    sliver(m, {0.05, 0.12, 0.5});
    // A corner of the right side pushed aside and under: its triangles pass through their neighbours.
    const std::uint32_t pushed = nearest_vertex(m, {0.2, 0, 0.4});
    m.vertices[pushed] = m.vertices[pushed] + Vec3{-0.012, 0.02, 0.03};
    join(m, ball(14, 0.04, {0.02, 0.01, 0.3}));  // what the software made of a reflection
    for (int k = 0; k < 9; ++k) {
        const double a = 0.7 * k;
        const Vec3 at{0.28 * std::cos(a), 0.22 * std::sin(a), 0.05 + 0.06 * k};
        join(m, block(1, at, at + Vec3{0.004, 0.005, 0.003}));
    }
    join(m, block(14, {0.203, -0.02, 0.25}, {0.25, 0.02, 0.29}));  // the clamp
    join(m, turntable());
    return m;
}

std::vector<Marker> milestone_markers() {
    std::vector<Marker> all;
    const Vec3 at[] = {{-0.12, -0.12, 0.5}, {0.12, -0.12, 0.5},  {-0.12, -0.12, 0.08},
                       {0.12, 0.12, 0.45},  {-0.12, 0.12, 0.15}, {0, 0, 0.6}};
    for (std::size_t k = 0; k < std::size(at); ++k)
        all.push_back({fmt::format("M{}", k + 1), at[k], 0.012, k < 5 ? "target" : "sphere"});
    return all;
}

void write_milestone(const std::filesystem::path& folder, bool replace) {
    const mesh::TriMesh stone = milestone();
    const mesh::TriMesh scan = milestone_scan();
    io::write_mesh(scan, folder / "milestone-scan.ply", replace, "m", milestone_colours(scan));
    std::string csv = "name,x,y,z,radius,kind\n";
    for (const Marker& m : milestone_markers())
        csv += fmt::format("{},{},{},{},{},{}\n", m.name, m.place.x, m.place.y, m.place.z, m.radius, m.kind);
    OutputFile markers(folder / "milestone-markers.csv", replace);
    markers.write(csv);
    markers.finish();
    OutputFile truth(folder / "milestone-truth.json", replace);
    truth.write(nlohmann::json{{"volume", mesh::signed_volume(stone)},
                               {"unit", "m"},
                               {"triangles_of_the_stone", stone.triangles.size()},
                               {"markers", milestone_markers().size()}}
                    .dump(2) +
                "\n");
    truth.finish();
}

}  // namespace pristine::demo
