#include "demo/wide_trials.h"

#include <cmath>

#include "core/base/error.h"
#include "demo/dice.h"

namespace pristine::demo {
namespace {

constexpr Rgb kGrass{120, 140, 90}, kRoof{150, 90, 80}, kLeaves{70, 110, 60}, kWater{60, 80, 100};

// Points seen from above, one after the other at places by chance.
struct Field {
    Trial trial;
    Dice dice;
    double side, scatter;

    Field(const std::string& name, std::uint64_t seed, double metres, double noise)
        : trial{name, {}, {}}, dice(seed * 31 + 7), side(metres), scatter(noise) {}

    void add(Vec3 p, Truth truth, Rgb colour) {
        p.z += scatter * dice.normal();
        trial.points.push_back({p, colour, 0, truth});
    }
    /// Calls shot(x, y) at so many places a square metre.
    template <class Shot>
    void survey(double a_square_metre, Shot&& shot) {
        const auto n = static_cast<std::size_t>(side * side * a_square_metre);
        trial.points.reserve(n);
        for (std::size_t i = 0; i < n; ++i) {
            const double x = dice.between(0, side), y = dice.between(0, side);
            shot(x, y);
        }
    }
};

double rolling(double x, double y) {
    return 2 * std::sin(x / 40) + 1.2 * std::cos(y / 55) + 0.01 * x;
}

struct Building {
    double x, y, long_side, short_side, high, yard;  // yard: width of the border round a courtyard, 0: none
    bool under_roof(double px, double py) const {
        const double u = px - x, v = py - y;
        if (u < 0 || v < 0 || u > long_side || v > short_side) return false;
        const bool in_yard =
            yard > 0 && u > yard && v > yard && u < long_side - yard && v < short_side - yard;
        return !in_yard;
    }
};

struct Tree {
    double x, y, radius, high;
};

// A hall with a courtyard in the middle, houses and trees in two strips beside it.
Trial from_the_air(const std::string& name, std::uint64_t seed, double density, double size) {
    Field f(name, seed, 300 * std::sqrt(std::max(size, 0.25)), 0.04);
    const double s = f.side;
    std::vector<Building> buildings;
    const double wide = f.dice.between(0.2, 0.33) * s, deep = f.dice.between(0.2, 0.3) * s;
    buildings.push_back(
        {0.35 * s, 0.4 * s, wide, deep, f.dice.between(6, 14), f.dice.between(0.25, 0.4) * deep});
    for (double x = 8; x + 16 < s; x += 24)
        buildings.push_back({x, 0.82 * s + f.dice.between(0, 0.06 * s), f.dice.between(8, 14),
                             f.dice.between(6, 10), f.dice.between(3, 7), 0});
    std::vector<Tree> trees;
    for (int k = 0; k < 40; ++k)
        trees.push_back({f.dice.between(0, s), f.dice.between(0, 0.3 * s), f.dice.between(1.5, 3.5),
                         f.dice.between(4, 12)});
    f.survey(density, [&](double x, double y) {
        for (const Building& b : buildings)
            if (b.under_roof(x, y)) return f.add({x, y, rolling(b.x, b.y) + b.high}, Truth::Object, kRoof);
        for (const Tree& t : trees)
            if (std::hypot(x - t.x, y - t.y) < t.radius && f.dice.uniform() < 0.7)
                return f.add({x, y, rolling(x, y) + t.high * f.dice.between(0.4, 1)}, Truth::Object, kLeaves);
        f.add({x, y, rolling(x, y)}, Truth::Ground, kGrass);
    });
    return std::move(f.trial);
}

// Flat sand with ripples, a survey that scatters by 8 cm, a few huts and boats.
Trial beach(std::uint64_t seed, double size) {
    Field f("beach", seed, 500 * std::sqrt(std::max(size, 0.25)), 0.08);
    std::vector<Building> things;
    for (int k = 0; k < 14; ++k)
        things.push_back({f.dice.between(0, f.side), f.dice.between(0, f.side), f.dice.between(5, 12),
                          f.dice.between(3, 6), f.dice.between(1, 3), 0});
    f.survey(0.25, [&](double x, double y) {
        const double z = 0.02 * y + 0.15 * std::sin(x / 9 + y / 31);
        for (const Building& b : things)
            if (b.under_roof(x, y)) return f.add({x, y, z + b.high}, Truth::Object, kRoof);
        f.add({x, y, z}, Truth::Ground, kGrass);
    });
    return std::move(f.trial);
}

// Land at two heights, between them a face that was measured from the air: steep, with ledges.
Trial cliff(std::uint64_t seed, double size) {
    Field f("cliff", seed, 160 * std::sqrt(std::max(size, 0.25)), 0.03);
    const double high = f.dice.between(18, 30), run = f.dice.between(2, 5), at = 0.5 * f.side;
    const auto edge = [&](double x) { return at + 6 * std::sin(x / 14) + 3 * std::sin(x / 5); };
    const auto land = [&](double x, double y) {
        const double share = std::clamp((y - edge(x)) / run, 0.0, 1.0);
        return high * share + 0.3 * std::sin(x / 6) + 0.02 * y;
    };
    std::vector<Tree> trees;
    for (int k = 0; k < 25; ++k)
        trees.push_back({f.dice.between(0, f.side), f.dice.between(0, f.side), f.dice.between(1, 3),
                         f.dice.between(3, 9)});
    f.survey(4, [&](double x, double y) {
        for (const Tree& t : trees)
            if (std::fabs(t.y - edge(t.x)) > 8 && std::hypot(x - t.x, y - t.y) < t.radius &&
                f.dice.uniform() < 0.7)
                return f.add({x, y, land(x, y) + t.high * f.dice.between(0.4, 1)}, Truth::Object, kLeaves);
        f.add({x, y, land(x, y)}, Truth::Ground, kGrass);
    });
    // An oblique view of the face: as many points a square metre of it.
    const auto more = static_cast<int>(4 * f.side * high);
    for (int i = 0; i < more; ++i) {
        const double x = f.dice.between(0, f.side), y = edge(x) + f.dice.uniform() * run;
        f.add({x, y, land(x, y)}, Truth::Ground, kGrass);
    }
    return std::move(f.trial);
}

bool in_any(const std::vector<Tree>& discs, double x, double y) {
    for (const Tree& d : discs)
        if (std::hypot(x - d.x, y - d.y) < d.radius) return true;
    return false;
}

std::vector<Tree> ponds_of(Field& f) {
    std::vector<Tree> ponds;
    for (int k = 0; k < 4; ++k)
        ponds.push_back({f.side * (0.25 + 0.5 * (k % 2)) + f.dice.between(-5, 5),
                         f.side * (0.25 + 0.5 * (k / 2)) + f.dice.between(-5, 5), f.dice.between(7, 15), 0});
    return ponds;
}

// Water gives no points; birds do.
Trial birds(std::uint64_t seed, double size) {
    Field f("birds", seed, 160 * std::sqrt(std::max(size, 0.25)), 0.02);
    const std::vector<Tree> ponds = ponds_of(f);
    f.survey(12, [&](double x, double y) {
        if (!in_any(ponds, x, y)) f.add({x, y, rolling(x, y)}, Truth::Ground, kGrass);
    });
    for (const Tree& p : ponds)
        for (int k = 0; k < 25; ++k) {
            const double r = 0.85 * p.radius * std::sqrt(f.dice.uniform()), a = f.dice.between(0, 6.283);
            f.add({p.x + r * std::cos(a), p.y + r * std::sin(a), f.dice.between(8, 57)}, Truth::Object,
                  kRoof);
        }
    return std::move(f.trial);
}

Trial strays_far(std::uint64_t seed, double size) {
    Field f("strays_far", seed, 120 * std::sqrt(std::max(size, 0.25)), 0.02);
    f.survey(20, [&](double x, double y) { f.add({x, y, rolling(x, y)}, Truth::Ground, kGrass); });
    for (int k = 0; k < 200; ++k) {
        const double far = std::pow(10, f.dice.between(3, 6));
        const Vec3 d = normalized(Vec3{f.dice.normal(), f.dice.normal(), f.dice.normal()});
        f.add(Vec3{f.side / 2, f.side / 2, 0} + d * far, Truth::Noise, kRoof);
    }
    return std::move(f.trial);
}

// A photogrammetric surface: sparse, rough, and wrong where water mirrors the sky.
Trial pond(std::uint64_t seed, double size) {
    Field f("pond", seed, 160 * std::sqrt(std::max(size, 0.25)), 0.05);
    const std::vector<Tree> ponds = ponds_of(f);
    f.survey(3, [&](double x, double y) {
        if (!in_any(ponds, x, y)) return f.add({x, y, rolling(x, y)}, Truth::Ground, kGrass);
        if (f.dice.uniform() > 0.15) return;
        const double off = f.dice.between(-3, 3);
        f.add({x, y, rolling(x, y) + off}, std::fabs(off) > 0.3 ? Truth::Noise : Truth::Either, kWater);
    });
    return std::move(f.trial);
}

// The same site as an office that counts in international feet delivers it.
Trial in_feet(Trial t) {
    constexpr double kFoot = 0.3048;
    for (TrialPoint& p : t.points) p.at = p.at * (1 / kFoot);
    t.unit = "ft";
    return t;
}

}  // namespace

const std::vector<std::string>& wide_trial_names() {
    static const std::vector<std::string> names{"air05", "air1",  "air4",       "air1_ft", "beach",
                                                "cliff", "birds", "strays_far", "pond"};
    return names;
}

Trial make_wide_trial(const std::string& name, std::uint64_t seed, double size) {
    if (name == "air05") return from_the_air(name, seed, 0.5, size);
    if (name == "air1") return from_the_air(name, seed, 1, size);
    if (name == "air4") return from_the_air(name, seed, 4, size);
    if (name == "air1_ft") return in_feet(from_the_air(name, seed, 1, size));
    if (name == "beach") return beach(seed, size);
    if (name == "cliff") return cliff(seed, size);
    if (name == "birds") return birds(seed, size);
    if (name == "strays_far") return strays_far(seed, size);
    if (name == "pond") return pond(seed, size);
    throw Error(ErrorCode::Usage, "There is no trial '" + name + "'");
}

}  // namespace pristine::demo
