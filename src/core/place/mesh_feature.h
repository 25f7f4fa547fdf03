// A feature fitted to triangles of a mesh.

#pragma once

#include "core/cloud/point_cloud.h"
#include "core/elements/element_set.h"
#include "core/geometry/features.h"

namespace pristine::place {

/// Fitted to the corners of the triangles, each once; for an axis with the normals there. A plane faces the
/// way that the triangles do. Throws Error(Usage) as the fits of geometry/features.h. O(triangles).
Feature feature_of(const cloud::PointCloud&, const ElementSet& triangles, Feature::Kind);

}  // namespace pristine::place
