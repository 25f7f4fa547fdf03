// What the benchmarks share: a clock, medians, and a cloud as a scanner would deliver it.

#pragma once

#include <algorithm>
#include <array>
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

/// Ground in strips, seven points of ten; the others on boxes, balls and poles all over the site, one after
/// another in no order, as where many scans or pictures were put together; one in a hundred a stray.
inline std::vector<cloud::PointBatch> put_together_like(std::uint64_t points, std::uint64_t seed = 1) {
    constexpr double kGround = 0.7, kStrays = 0.01, kPerSquareMetre = 400, kPerThing = 60;  // square metres
    const double side = std::sqrt(static_cast<double>(points) * kGround / kPerSquareMetre);
    const auto height = [](double x, double y) {
        return 2 * std::sin(x * 0.15) * std::cos(y * 0.11) + 0.3 * std::sin(x * 1.3 + y * 0.7);
    };
    struct Thing {
        double x, y, half, tall;
    };
    std::mt19937_64 dice(seed);
    std::uniform_real_distribution<double> unit(0, 1);
    std::normal_distribution<double> normal(0, 1);
    std::vector<Thing> things(std::max<std::size_t>(12, static_cast<std::size_t>(side * side / kPerThing)));
    for (Thing& t : things)
        t = {unit(dice) * side, unit(dice) * side, 0.3 + 1.5 * unit(dice), 1 + 3 * unit(dice)};
    // On the surface of a thing, from its foot.
    const auto on = [&](const Thing& t, std::size_t kind) -> std::array<double, 3> {
        if (kind == 0) {  // a box: its lid, or one of four walls
            const double a = t.half * (2 * unit(dice) - 1), wall = unit(dice) < 0.5 ? t.half : -t.half;
            if (unit(dice) < 0.2) return {a, t.half * (2 * unit(dice) - 1), t.tall};
            const double z = t.tall * unit(dice);
            return unit(dice) < 0.5 ? std::array{a, wall, z} : std::array{wall, a, z};
        }
        const double turn = 6.283185307 * unit(dice);
        if (kind == 1) {  // a ball
            const double up = 2 * unit(dice) - 1, out = std::sqrt(1 - up * up) * t.half;
            return {out * std::cos(turn), out * std::sin(turn), t.half * (1 + up)};
        }
        return {0.1 * std::cos(turn), 0.1 * std::sin(turn), 2 * t.tall * unit(dice)};
    };
    std::vector<cloud::PointBatch> batches(pages_for(points));
    for (std::uint64_t i = 0; i < points; ++i) {
        double x = unit(dice) * side, y = unit(dice) * side, z = 12 * unit(dice) - 4;
        const double kind = unit(dice);
        if (kind < kGround) {
            x = std::fabs(static_cast<double>(i) / static_cast<double>(points) * side + 0.5 * normal(dice));
            z = height(x, y) + 0.008 * normal(dice);
        } else if (kind < 1 - kStrays) {
            const std::size_t k = dice() % things.size();
            const auto at = on(things[k], k % 3);
            x = things[k].x + at[0] + 0.004 * normal(dice);
            y = things[k].y + at[1] + 0.004 * normal(dice);
            z = height(things[k].x, things[k].y) + at[2] + 0.004 * normal(dice);
        }
        cloud::PointBatch& out = batches[i / kPageSize];
        out.x.push_back(static_cast<std::int32_t>(x * 1000));
        out.y.push_back(static_cast<std::int32_t>(y * 1000));
        out.z.push_back(static_cast<std::int32_t>(z * 1000));
    }
    return batches;
}

}  // namespace pristine::bench
