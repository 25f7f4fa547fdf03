// How noisy the heights of a surface are, from the surface alone.

#pragma once

#include "core/mesh/tri_mesh.h"

namespace pristine::measure {

/// One standard deviation of the heights, data unit: the residuals of quadrics through the vertices within
/// two rings of a vertex, of an even sample of vertices. A quadric takes the bend of the ground with it;
/// where edges and steps of the ground are left, they count as noise: hence the lower quartile over the
/// sample by area (points crowd where the ground is rough), made good for by what it would be of noise alone.
/// Of a surface of thinned points it is still too large: the points that were left are those at which the
/// ground departs from its surroundings. 0 for fewer than twelve vertices in all neighbourhoods. O(n) and
/// 20,000 fits, in parallel.
double noise_of(const mesh::TriMesh&);

}  // namespace pristine::measure
