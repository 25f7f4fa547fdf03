#include "demo/world.h"

#include <cmath>
#include <optional>

#include "core/base/parallel.h"

namespace pristine::demo {
namespace {

constexpr std::size_t kBeamsAtOnce = 4096;

// Marches along the beam until it is below the land, then halves the step.
std::optional<double> meet_land(const World& w, Vec3 o, Vec3 d, double most) {
    double before = 0, over = o.z - w.height(o.x, o.y);
    if (over < 0) return std::nullopt;
    if (d.x == 0 && d.y == 0) return d.z < 0 ? std::optional(over) : std::nullopt;
    for (double t = 0; t < most;) {
        // The land rises at most about as fast as this lets the beam come near, faces apart.
        t += std::clamp(0.35 * over, 0.03, 2.0);
        const Vec3 p = o + d * t;
        if (p.x < -5 || p.y < -5 || p.x > w.size + 5 || p.y > w.size + 5) {
            if (d.z >= 0 || over > 400) return std::nullopt;
        }
        over = p.z - w.height(p.x, p.y);
        if (over < 0) {
            double lo = before, hi = t;
            for (int k = 0; k < 24; ++k) {
                const double middle = (lo + hi) / 2;
                const Vec3 q = o + d * middle;
                (q.z < w.height(q.x, q.y) ? hi : lo) = middle;
            }
            return hi;
        }
        before = t;
    }
    return std::nullopt;
}

std::optional<double> meet_crown(const Crown& c, Vec3 o, Vec3 d, Dice& dice) {
    const Vec3 v = o - c.centre;
    const double b = dot(v, d), q = dot(v, v) - c.radius * c.radius, disc = b * b - q;
    if (disc <= 0) return std::nullopt;
    const double in = std::max(0.0, -b - std::sqrt(disc)), out = -b + std::sqrt(disc);
    const double run = -c.free_path * std::log(std::max(1e-12, dice.uniform()));
    return out > 0 && in + run < out ? std::optional(in + run) : std::nullopt;
}

template <class Beam>
std::vector<TrialPoint> measure(std::uint64_t beams, std::uint64_t seed, Beam&& beam) {
    const auto runs = static_cast<std::size_t>((beams + kBeamsAtOnce - 1) / kBeamsAtOnce);
    const auto parts = parallel::map<std::vector<TrialPoint>>(runs, [&](std::size_t r) {
        Dice dice(seed * 1'000'003 + r * 0x9E3779B9u);
        std::vector<TrialPoint> out;
        for (std::uint64_t i = r * kBeamsAtOnce; i < std::min(beams, (r + 1) * kBeamsAtOnce); ++i)
            beam(i, dice, out);
        return out;
    });
    std::vector<TrialPoint> all;
    for (const auto& part : parts) all.insert(all.end(), part.begin(), part.end());
    return all;
}

Truth truth_of(Kind kind) {
    return kind == Kind::Ladder                         ? Truth::Thin
           : kind == Kind::Worker || kind == Kind::Cart ? Truth::Object
                                                        : Truth::Ground;
}

double bumps(double x, double y, std::uint64_t seed) {
    const double s = static_cast<double>(seed % 97);
    return std::sin(1.7 * x + s) * std::sin(1.3 * y - s) + 0.6 * std::sin(3.9 * x - 2 * s + 0.8 * y);
}

}  // namespace

bool cast(const World& w, Vec3 o, Vec3 d, double most, Dice& dice, WorldHit& hit) {
    double nearest = most;
    bool any = false;
    if (const auto land = meet_land(w, o, d, most); land && *land < nearest) {
        nearest = *land;
        hit.truth = Truth::Ground;
        any = true;
    }
    if (const auto solid = cast(w.solids, o, d); solid && solid->range < nearest) {
        nearest = solid->range;
        hit.truth = truth_of(solid->solid->kind);
        any = true;
    }
    for (const Crown& c : w.crowns)
        if (const auto leaf = meet_crown(c, o, d, dice); leaf && *leaf < nearest) {
            nearest = *leaf;
            hit.truth = Truth::Object;
            any = true;
        }
    hit.at = o + d * nearest;
    if (any && hit.truth == Truth::Object && hit.at.z - w.height(hit.at.x, hit.at.y) < kTouching)
        hit.truth = Truth::Either;
    return any;
}

std::vector<TrialPoint> fly_over(const World& w, std::uint64_t pulses, double noise, std::uint64_t seed) {
    return measure(pulses, seed, [&](std::uint64_t, Dice& dice, std::vector<TrialPoint>& out) {
        const double x = dice.between(0, w.size), y = dice.between(0, w.size), z = w.height(x, y) + 60;
        const double tilt = dice.between(-0.26, 0.26), side = std::sin(tilt);
        const Vec3 d{side, 0, -std::cos(tilt)};
        WorldHit hit;
        if (!cast(w, Vec3{x, y, z} - Vec3{side * 60, 0, 0}, d, 200, dice, hit)) return;
        if (hit.at.x < 0 || hit.at.x > w.size || hit.at.y < 0 || hit.at.y > w.size) return;
        out.push_back({hit.at + d * (noise * dice.normal()), {}, 0, hit.truth});
    });
}

std::vector<TrialPoint> scan_from(const World& w, const std::vector<Vec3>& stations, std::uint64_t beams_each,
                                  double noise, std::uint64_t seed) {
    std::vector<TrialPoint> all;
    const auto rows = static_cast<std::uint64_t>(std::sqrt(static_cast<double>(beams_each) * 0.35)) + 1;
    const std::uint64_t columns = beams_each / rows + 1;
    for (std::size_t s = 0; s < stations.size(); ++s) {
        const auto one = measure(
            rows * columns, seed * 31 + s, [&](std::uint64_t i, Dice& dice, std::vector<TrialPoint>& out) {
                const double azimuth = 2 * std::numbers::pi *
                                       (static_cast<double>(i / rows) + 0.3 * dice.uniform()) /
                                       static_cast<double>(columns);
                const double elevation = -1.1 + 2.2 * (static_cast<double>(i % rows) + 0.3 * dice.uniform()) /
                                                    static_cast<double>(rows);
                const Vec3 d{std::cos(elevation) * std::sin(azimuth), std::cos(elevation) * std::cos(azimuth),
                             std::sin(elevation)};
                WorldHit hit;
                if (!cast(w, stations[s], d, 90, dice, hit)) return;
                if (hit.at.x < 0 || hit.at.x > w.size || hit.at.y < 0 || hit.at.y > w.size) return;
                out.push_back(
                    {hit.at + d * (noise * dice.normal()), {}, static_cast<std::uint16_t>(s), hit.truth});
            });
        all.insert(all.end(), one.begin(), one.end());
    }
    return all;
}

std::vector<TrialPoint> from_pictures(const World& w, std::uint64_t points, double blur, double noise,
                                      std::uint64_t seed) {
    return measure(points, seed, [&](std::uint64_t, Dice& dice, std::vector<TrialPoint>& out) {
        const double x = dice.between(0, w.size), y = dice.between(0, w.size);
        double sum = 0;
        int n = 0;
        bool object = false;
        for (int v = -1; v <= 1; ++v)
            for (int u = -1; u <= 1; ++u) {
                WorldHit hit;
                const double px = x + u * blur, py = y + v * blur;
                if (!cast(w, {px, py, w.height(px, py) + 60}, {0, 0, -1}, 200, dice, hit)) continue;
                sum += hit.at.z;
                object |= hit.truth == Truth::Object;
                ++n;
            }
        if (n == 0) return;
        const double z = sum / n;
        const double over = z - w.height(x, y);
        out.push_back({{x, y, z + noise * dice.normal() + 0.6 * noise * bumps(x, y, seed)},
                       {},
                       0,
                       !object            ? Truth::Ground
                       : over > kTouching ? Truth::Object
                                          : Truth::Either});
    });
}

void add_noise(std::vector<TrialPoint>& points, const World& w, double share, std::uint64_t seed) {
    Dice dice(seed * 77 + 5);
    const auto n = static_cast<std::uint64_t>(share * static_cast<double>(points.size()));
    for (std::uint64_t i = 0; i < n;) {
        const double x = dice.between(0, w.size), y = dice.between(0, w.size);
        const double off = dice.uniform() < 0.6 ? -dice.between(0.6, 9) : dice.between(3, 30);
        const int clump = dice.uniform() < 0.15 ? 4 : 1;
        for (int k = 0; k < clump; ++k, ++i)
            points.push_back({{x + 0.05 * dice.normal(), y + 0.05 * dice.normal(),
                               w.height(x, y) + off + 0.05 * dice.normal()},
                              {},
                              0,
                              Truth::Noise});
    }
}

}  // namespace pristine::demo
