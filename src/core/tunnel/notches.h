// Radii along a ring or a row of cells: what is missing in them, and what hides them.
//
// `delta`: angle of a cell of a ring, radians; 0: cells of a row. Not-a-number: nothing was measured. A
// straight line in a ring is one in its section.

#pragma once

#include <cstddef>
#include <vector>

namespace pristine::tunnel {

/// Inward notches and gaps of up to 2 reach cells are closed, as far out as a straight line over them. O(n
/// reach^2).
std::vector<float> closed_notches(const std::vector<float>&, std::size_t reach, double delta);

/// 1 in strips no wider than `most` cells with nothing measured on either side. O(n).
std::vector<char> strips_between_gaps(const std::vector<float>&, std::size_t most, bool ring);

/// For each cell of `over` the straight line over it, from the nearest others that were measured on both
/// sides; not-a-number elsewhere, and where there are none. O(n gap).
std::vector<float> lines_over(std::vector<float>, const std::vector<char>& over, double delta);

}  // namespace pristine::tunnel
