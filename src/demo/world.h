// Invented pieces of land round Ashmere Lock, with things on them, and instruments that measure them: what
// rules are tried on. The truth of each point is known.

#pragma once

#include <cstdint>
#include <functional>
#include <string>
#include <vector>

#include "core/geometry/vec.h"
#include "demo/dice.h"
#include "demo/scene.h"

namespace pristine::demo {

enum class Truth : std::uint8_t {
    Ground = 1,  ///< or another surface that belongs there
    Object = 2,
    Noise = 3,
    Thin = 4,    ///< rails, wires: belong there
    Either = 5,  ///< of an object, but within kTouching of the ground: nobody could tell
};

inline constexpr double kTouching = 0.1;  // metres

struct TrialPoint {
    Vec3 at;  ///< from Trial::origin
    Rgb colour;
    std::uint16_t scan = 0;
    Truth truth = Truth::Ground;
};

/// A ball of leaves: a beam runs on average `free_path` through it.
struct Crown {
    Vec3 centre;
    double radius = 1, free_path = 1;
};

/// What stands on the land, as a person would call it.
struct Thing {
    std::string kind;  ///< "person", "vehicle", "machine", "building", "vegetation", "pole"
    Vec3 middle;       ///< at its foot
    double reach = 0;  ///< in plan, metres
};

/// Land as a height over plan, and what stands on it.
struct World {
    double size = 80;  ///< side of the square that matters, metres, from 0
    std::function<double(double x, double y)> height;
    std::vector<Solid> solids;
    std::vector<Crown> crowns;
    std::vector<Thing> things{};  ///< made of those
};

struct WorldHit {
    Vec3 at;
    Truth truth = Truth::Ground;
};
/// What a beam meets first within `most` metres; false: nothing.
bool cast(const World&, Vec3 origin, Vec3 direction, double most, Dice&, WorldHit&);

/// Beams from above, tilted up to 15 degrees.
std::vector<TrialPoint> fly_over(const World&, std::uint64_t pulses, double noise, std::uint64_t seed);
/// All round from tripods on the land.
std::vector<TrialPoint> scan_from(const World&, const std::vector<Vec3>& stations, std::uint64_t beams_each,
                                  double noise, std::uint64_t seed);
/// The surface that pictures give: seen from above, steps smeared over `blur` metres, bumps and noise.
std::vector<TrialPoint> from_pictures(const World&, std::uint64_t points, double blur, double noise,
                                      std::uint64_t seed);
/// Clumps and single points far below and above.
void add_noise(std::vector<TrialPoint>&, const World&, double share, std::uint64_t seed);

}  // namespace pristine::demo
