// A small cloud of which some points are members, and scores of it.

#pragma once

#include <catch2/catch.hpp>

#include <algorithm>
#include <cmath>

#include "core/score/score.h"
#include "support/cloud_makers.h"

namespace pristine::test {

struct Small {
    std::shared_ptr<const cloud::PointCloud> cloud;
    ElementSet eligible;
    std::vector<std::uint64_t> members;
    std::vector<Vec3> at;  // of the members

    Small(Shape shape, std::uint64_t n, std::uint64_t seed) : cloud(random_cloud(n, shape, seed)) {
        eligible = ElementSet(n);
        for (std::uint64_t i = 0; i < n; ++i)
            if (i % 5 != 3) eligible.insert(i);  // not all of it
        eligible.for_each([&](std::uint64_t i) {
            members.push_back(i);
            at.push_back(cloud->position(i));
        });
    }
    score::Column of(const char* id, const score::Parameters& p = {}) const {
        return score::compute(score::find(id), {*cloud, eligible}, p);
    }
    // Distances to all others, nearest first, with their numbers.
    std::vector<std::pair<double, std::size_t>> others(std::size_t m) const {
        std::vector<std::pair<double, std::size_t>> d;
        for (std::size_t j = 0; j < at.size(); ++j) {
            const Vec3 v = at[j] - at[m];
            if (j != m) d.push_back({std::sqrt(dot(v, v)), j});
        }
        std::sort(d.begin(), d.end());
        return d;
    }
    double spacing(std::size_t m, std::size_t k) const {
        const auto d = others(m);
        double sum = 0;
        for (std::size_t j = 0; j < k; ++j) sum += d[j].first;
        return sum / static_cast<double>(k);
    }
};

inline double value(const score::Column& c, std::uint64_t element) {
    return c.base + static_cast<double>(c.values[element]);
}

// Others have no value.
inline void only_members(const Small& s, const score::Column& c) {
    REQUIRE(c.values.size() == s.cloud->size());
    for (std::uint64_t i = 0; i < s.cloud->size(); ++i)
        if (!s.eligible.contains(i)) REQUIRE(std::isnan(c.values[i]));
}

}  // namespace pristine::test
