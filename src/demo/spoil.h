// The spoil bank beside the cut at Ashmere Lock on two dates: points, breaklines, outline, pond with an
// island; on the second date an excavator and a truck stand there, and one rod height was typed wrongly.

#pragma once

#include <filesystem>
#include <vector>

#include "core/base/progress.h"
#include "core/geometry/vec.h"

namespace pristine::demo {

struct Spoil {
    std::vector<Vec3> ground;                   ///< points on the surface, world
    std::vector<Vec3> machines;                 ///< points of excavator and truck; none on the first date
    std::vector<Vec3> spike;                    ///< the mis-typed point; none on the first date
    std::vector<std::vector<Vec3>> breaklines;  ///< closed: toe and crest of bank and pit; open: their hips
};
/// `date`: 0 or 1. Points lie exactly on the surface, rounded to a tenth of a millimetre.
Spoil make_spoil(int date, std::uint64_t points, std::uint64_t seed);

/// Corners of the site's outline, not convex; of the pond in it; of the island in that.
std::vector<Vec3> spoil_outline();
std::vector<Vec3> spoil_pond();
std::vector<Vec3> spoil_island();

/// From the first date to the second, cubic metres, in closed form: what was put on the bank, and what was
/// taken out of the pit.
double spoil_fill();
double spoil_cut();

/// Writes spoil-bank-1.las, spoil-bank-2.las, spoil-breaklines-1.geojson and -2, spoil-outline.geojson (with
/// pond and island), spoil-truth.json. Throws Error, Cancelled.
void write_spoil(const std::filesystem::path& folder, std::uint64_t points, std::uint64_t seed, bool replace,
                 Progress& = Progress::none());

}  // namespace pristine::demo
