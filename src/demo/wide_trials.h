// Trial sites unlike a building site: surveys from the air, shores, far strays, water in photogrammetry.

#pragma once

#include "demo/trials.h"

namespace pristine::demo {

/// air05, air1, air4: 0.5, 1 and 4 points a square metre over a hall with a courtyard, houses and trees;
/// air1_ft: the same in feet; beach, cliff: a shore of 0.25 and a cliff of 4 points a square metre; birds:
/// over ponds without points; strays_far: single points at 10^3 to 10^6 m; pond: wrong heights of water.
const std::vector<std::string>& wide_trial_names();
/// `size`: 1 for what is reported, less for tests. Throws Error(Usage) for an unknown name.
Trial make_wide_trial(const std::string& name, std::uint64_t seed, double size = 1);

}  // namespace pristine::demo
