// What the benchmarks share: a clock, medians, and a cloud as a scanner would deliver it.

#pragma once

#include <algorithm>
#include <chrono>
#include <cmath>
#include <functional>
#include <random>
#include <vector>

#include "core/cloud/builder.h"

namespace pristine::bench {

inline double seconds(const std::function<void()>& work) {
    const auto t = std::chrono::steady_clock::now();
    work();
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - t).count();
}

inline double median_seconds(int runs, const std::function<void()>& work) {
    std::vector<double> t;
    for (int i = 0; i < runs; ++i) t.push_back(seconds(work));
    std::nth_element(t.begin(), t.begin() + runs / 2, t.end());
    return t[static_cast<std::size_t>(runs / 2)];
}

/// Rolling ground with boxes on it and one stray in a hundred, in strips as a scanner walks; about 400 points
/// a square metre, so the extent grows with the number. Integers are millimetres.
inline std::vector<cloud::PointBatch> scan_like(std::uint64_t points, std::uint64_t seed = 1) {
    const double side = std::sqrt(static_cast<double>(points) / 400);
    std::vector<cloud::PointBatch> batches(pages_for(points));
    for (std::size_t b = 0; b < batches.size(); ++b) {
        std::mt19937_64 dice(seed * 1000003 + b);
        std::uniform_real_distribution<double> unit(0, 1);
        for (std::size_t i = 0; i < page_length(points, b); ++i) {
            const double along =
                (static_cast<double>(b) * kPageSize + static_cast<double>(i)) / static_cast<double>(points);
            const double x = along * side + unit(dice), y = unit(dice) * side;
            double z = 2 * std::sin(x * 0.15) * std::cos(y * 0.11) + 0.3 * std::sin(x * 1.3 + y * 0.7) +
                       0.01 * unit(dice);
            if (std::fmod(x, 17) < 4 && std::fmod(y, 13) < 3) z += unit(dice) < 0.5 ? 3 : 3 * unit(dice);
            if (unit(dice) < 0.01) z += 12 * unit(dice) - 4;
            cloud::PointBatch& out = batches[b];
            out.x.push_back(static_cast<std::int32_t>(x * 1000));
            out.y.push_back(static_cast<std::int32_t>(y * 1000));
            out.z.push_back(static_cast<std::int32_t>(z * 1000));
            out.intensity.push_back(static_cast<std::uint16_t>(20000 + 500 * z));
            out.colour.push_back(0x808080u + static_cast<std::uint32_t>(20 * z));
            out.classification.push_back(2);
        }
    }
    return batches;
}

}  // namespace pristine::bench
