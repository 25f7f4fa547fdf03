// Meshes and surfaces that lie side by side, as one.

#pragma once

#include <memory>
#include <span>

#include "core/base/progress.h"
#include "core/cloud/point_cloud.h"
#include "core/elements/element_set.h"
#include "core/mesh/merge.h"

namespace pristine::io {

/// One of those that are merged.
struct MergePart {
    std::shared_ptr<const cloud::PointCloud> cloud;
    ElementSet triangles;  ///< those that count
};
/// What merging made, and what it cost.
struct MergedClouds {
    std::shared_ptr<const cloud::PointCloud> cloud;
    std::uint64_t joined = 0, split = 0, dropped = 0;  ///< as of mesh::Merged
    double farthest = 0;
    bool surface = false;           ///< all were terrain, and none lies over another
    std::uint64_t overlapping = 0;  ///< triangles of terrain that do
};
/// Joined within a tolerance (mesh/merge.h); colours, textures and groups come along. Throws Error(Usage) for
/// points, for other units or systems than those of the first, and as mesh::merged; Cancelled.
MergedClouds merged_clouds(std::span<const MergePart>, double tolerance, Progress& = Progress::none());

}  // namespace pristine::io
