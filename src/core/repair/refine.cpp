#include "core/repair/refine.h"

#include <algorithm>
#include <cmath>
#include <queue>
#include <unordered_map>

#include "core/base/error.h"

namespace pristine::repair {
namespace {

constexpr double kMost = 20e6;
using Triangle = std::array<std::uint32_t, 3>;

std::uint64_t side_key(std::uint32_t a, std::uint32_t b) {
    return std::uint64_t{std::min(a, b)} << 32 | std::max(a, b);
}

class Refiner {
  public:
    Refiner(const mesh::TriMesh& m, const std::vector<char>& chosen, double edge)
        : m_(m), chosen_(chosen), edge_(edge) {
        for (std::uint32_t t = 0; t < m_.triangles.size(); ++t) enter(t);
    }

    mesh::TriMesh run(Progress& progress) {
        refuse_too_many(least_made());
        std::size_t done = 0;
        while (!long_.empty()) {
            if ((++done & 0x3FFu) == 0) progress.check();
            const std::uint64_t e = long_.top().second;
            long_.pop();
            refuse_too_many(static_cast<double>(m_.triangles.size()));
            const auto at = triangles_.find(e);
            // Cut already, or by now no edge of a chosen triangle.
            if (at != triangles_.end() && wanted(at->second)) cut(e);
        }
        return std::move(m_);
    }

  private:
    // No triangle with edges up to that length is larger than an even one.
    double least_made() const {
        double area = 0;
        for (std::size_t t = 0; t < chosen_.size(); ++t) {
            const Triangle& c = m_.triangles[t];
            if (chosen_[t])
                area += 0.5 * norm(cross(m_.vertices[c[1]] - m_.vertices[c[0]],
                                         m_.vertices[c[2]] - m_.vertices[c[0]]));
        }
        return area / (0.25 * std::sqrt(3.0) * edge_ * edge_);
    }
    static void refuse_too_many(double triangles) {
        if (triangles > kMost)
            throw Error(ErrorCode::Usage, "More than 20 million triangles would come of it", {},
                        "Take a longer edge, or a smaller part.");
    }
    double length(std::uint64_t e) const { return norm(m_.vertices[e >> 32] - m_.vertices[e & 0xFFFFFFFFu]); }
    bool wanted(const std::vector<std::uint32_t>& triangles) const {
        return std::any_of(triangles.begin(), triangles.end(),
                           [&](std::uint32_t t) { return chosen_[t] != 0; });
    }

    void enter(std::uint32_t t) {
        std::uint64_t longest = 0;
        double most = -1;
        for (std::size_t k = 0; k < 3; ++k) {
            const std::uint64_t e = side_key(m_.triangles[t][k], m_.triangles[t][(k + 1) % 3]);
            triangles_[e].push_back(t);
            if (const double l = length(e); l > most) most = l, longest = e;
        }
        if (chosen_[t] && most > edge_) long_.push({most, longest});
    }

    void leave(std::uint32_t t, std::uint64_t except) {
        for (std::size_t k = 0; k < 3; ++k) {
            const std::uint64_t e = side_key(m_.triangles[t][k], m_.triangles[t][(k + 1) % 3]);
            if (e != except) std::erase(triangles_[e], t);
        }
    }

    void cut(std::uint64_t e) {
        const auto a = static_cast<std::uint32_t>(e >> 32), b = static_cast<std::uint32_t>(e & 0xFFFFFFFFu);
        const auto middle = static_cast<std::uint32_t>(m_.vertices.size());
        m_.vertices.push_back(m_.vertices[a] + (m_.vertices[b] - m_.vertices[a]) * 0.5);
        const std::vector<std::uint32_t> both = std::move(triangles_[e]);
        triangles_.erase(e);
        for (const std::uint32_t t : both) {
            leave(t, e);
            Triangle first = m_.triangles[t], second = first;
            std::replace(first.begin(), first.end(), b, middle);
            std::replace(second.begin(), second.end(), a, middle);
            m_.triangles[t] = first;
            m_.triangles.push_back(second);
            chosen_.push_back(chosen_[t]);
            enter(t);
            enter(static_cast<std::uint32_t>(m_.triangles.size() - 1));
        }
    }

    mesh::TriMesh m_;
    std::vector<char> chosen_;
    double edge_;
    std::unordered_map<std::uint64_t, std::vector<std::uint32_t>> triangles_;  // at each edge
    std::priority_queue<std::pair<double, std::uint64_t>> long_;
};

}  // namespace

mesh::TriMesh refine(const mesh::TriMesh& m, const std::vector<char>& chosen, double edge,
                     Progress& progress) {
    if (!(edge > 0)) throw Error(ErrorCode::Usage, "The longest edge is a positive length");
    return Refiner(m, chosen, edge).run(progress);
}

}  // namespace pristine::repair
