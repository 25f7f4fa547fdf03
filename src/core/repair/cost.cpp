#include "core/repair/cost.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "core/repair/crossings.h"

namespace pristine::repair {
namespace {

double length_of(const mesh::TriMesh& m, const std::vector<std::uint32_t>& vertices, bool closed) {
    double sum = 0;
    const std::size_t n = vertices.size();
    for (std::size_t i = 0; i + (closed ? 0 : 1) < n; ++i)
        sum += norm(m.vertices[vertices[(i + 1) % n]] - m.vertices[vertices[i]]);
    return sum;
}

double area_of(const mesh::TriMesh& m, const std::vector<std::uint32_t>& triangles) {
    double sum = 0;
    for (const std::uint32_t t : triangles) {
        const auto& c = m.triangles[t];
        sum += 0.5 * norm(cross(m.vertices[c[1]] - m.vertices[c[0]], m.vertices[c[2]] - m.vertices[c[0]]));
    }
    return sum;
}

// Of a closed piece; 0 for one that is open.
double volume_of(const mesh::TriMesh& m, const std::vector<std::uint32_t>& triangles) {
    std::map<std::pair<std::uint32_t, std::uint32_t>, int> open;
    double sum = 0;
    const Vec3 origin = m.vertices[m.triangles[triangles.front()][0]];
    for (const std::uint32_t t : triangles) {
        const auto& c = m.triangles[t];
        const Vec3 a = m.vertices[c[0]] - origin, b = m.vertices[c[1]] - origin,
                   d = m.vertices[c[2]] - origin;
        sum += dot(a, cross(b, d)) / 6;
        for (std::size_t k = 0; k < 3; ++k) {
            const std::uint32_t from = c[k], to = c[(k + 1) % 3];
            open[std::minmax(from, to)] += from < to ? 1 : -1;
        }
    }
    const bool closed = std::all_of(open.begin(), open.end(), [](const auto& e) { return e.second == 0; });
    return closed ? std::fabs(sum) : 0;
}

// Triangles of all findings of a kind, each once.
std::vector<std::uint32_t> triangles_of(const std::vector<Finding>& all) {
    std::vector<std::uint32_t> out;
    for (const Finding& f : all) out.insert(out.end(), f.triangles.begin(), f.triangles.end());
    std::sort(out.begin(), out.end());
    out.erase(std::unique(out.begin(), out.end()), out.end());
    return out;
}

Cost cost_of(const mesh::TriMesh& m, const std::vector<Finding>& all, Fault fault) {
    Cost c;
    for (const Finding& f : all) switch (fault) {
            case Fault::Hole:
                c.length += length_of(m, f.vertices, true);
                c.area += area_across(m, f.vertices);
                break;
            case Fault::NonManifoldEdge:
            case Fault::InconsistentEdge:
            case Fault::TinyEdge:
                c.length += length_of(m, f.vertices, false);
                break;
            case Fault::SelfIntersection:
                if (const auto ends = intersection_segment(m, f.triangles[0], f.triangles[1]);
                    ends.size() == 2)
                    c.length += norm(ends[1] - ends[0]);
                break;
            case Fault::DuplicateFace:  // it names both; one is there without need
                c.area += area_of(m, {f.triangles.front()});
                break;
            case Fault::SmallPiece:
            case Fault::InnerShell:
                c.volume += volume_of(m, f.triangles);
                break;
            default:
                break;
        }
    constexpr std::array kOfTriangles{Fault::SelfIntersection, Fault::Degenerate, Fault::Spike,
                                      Fault::SmallPiece, Fault::InnerShell};
    if (std::find(kOfTriangles.begin(), kOfTriangles.end(), fault) != kOfTriangles.end())
        c.area = area_of(m, triangles_of(all));
    return c;
}

}  // namespace

const char* id_of(Harm h) {
    constexpr std::array<const char*, kHarms> kIds{"keeps_open", "wrong_volume", "only_ugly"};
    return kIds[static_cast<std::size_t>(h)];
}

Harm harm_of(Fault f) {
    switch (f) {
        case Fault::NonManifoldEdge:
        case Fault::InconsistentEdge:
        case Fault::Hole:
            return Harm::KeepsOpen;
        case Fault::SelfIntersection:
        case Fault::DuplicateFace:
        case Fault::SmallPiece:
        case Fault::InnerShell:
            return Harm::WrongVolume;
        case Fault::NonManifoldVertex:
        case Fault::Degenerate:
        case Fault::TinyEdge:
        case Fault::Spike:
            break;
    }
    return Harm::OnlyUgly;
}

std::array<Cost, kFaults> costs_of(const mesh::TriMesh& m, const Check& check) {
    std::array<Cost, kFaults> out;
    for (std::size_t k = 0; k < kFaults; ++k) out[k] = cost_of(m, check.findings[k], static_cast<Fault>(k));
    return out;
}

double area_across(const mesh::TriMesh& m, const std::vector<std::uint32_t>& rim) {
    Vec3 sum;
    for (std::size_t i = 1; i + 1 < rim.size(); ++i)
        sum =
            sum + cross(m.vertices[rim[i]] - m.vertices[rim[0]], m.vertices[rim[i + 1]] - m.vertices[rim[0]]);
    return 0.5 * norm(sum);
}

}  // namespace pristine::repair
