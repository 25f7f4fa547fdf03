// What is usual round a place, on any scale: means over cubes of the world and their neighbours.

#pragma once

#include <array>
#include <cstdint>
#include <vector>

#include "core/base/spill_vector.h"
#include "core/geometry/vec.h"

namespace pristine::score {

/// Cubes have sides finest * 2^level and corners at multiples of their side, so that the same places give the
/// same cubes whatever else there is.
class Surroundings {
  public:
    static constexpr int kLevels = 14;
    /// values[i] belongs to places[i] (data unit, world). O(n log n).
    Surroundings(const SpillVector<Vec3>& places, const SpillVector<float>& values, double finest);
    /// Mean over the cube of place i at this level and the 26 round it.
    double mean(std::size_t i, int level) const;
    /// The level whose cubes are at least so large, at most kLevels - 1.
    int level_for(double side) const;

  private:
    using Cube = std::array<std::int32_t, 3>;
    struct Level {
        SpillVector<std::uint64_t> key;  // ascending
        SpillVector<double> n, sum, mean;
        std::size_t find(std::uint64_t key) const;  // SIZE_MAX: no such cube
        void finish();
    };
    static std::uint64_t key_of(const Cube&);
    static Cube cube_of(std::uint64_t key);

    double finest_ = 1;
    SpillVector<std::uint64_t> own_;  // finest cube of each place
    std::vector<Level> levels_;
};

}  // namespace pristine::score
