// The repair of a single finding.

#pragma once

#include "core/repair/steps.h"

namespace pristine::repair {

/// Repairs one finding of a check of this mesh; triangles farther than six rings from it are not looked at. A
/// hole is filled as it is; of the other kinds the surroundings are repaired for that kind alone. What could
/// not be done is in `unrepaired`, and the mesh is then as it was. Throws Cancelled.
Step repair_one(const mesh::TriMesh&, const Finding&, const RepairOptions&, Progress& = Progress::none());

}  // namespace pristine::repair
