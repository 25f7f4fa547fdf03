// Fence selection: which points of a cloud a polygon drawn in a view encloses.
//
// Method: pages, then blocks, are judged by their bounds; only those that an edge of the fence crosses are
// looked into, with single-precision positions against a raster mask, and exactly (double precision, exact
// predicate) near the edges.
//
// Law: the result equals that of testing every point exactly: depth(p) >= near_depth and contains(corners,
// project(p)). The tests hold it against that slow loop.

#pragma once

#include <memory>
#include <span>

#include "core/base/progress.h"
#include "core/cloud/point_cloud.h"
#include "core/elements/element_set.h"
#include "core/geometry/polygon.h"
#include "core/geometry/view_frame.h"
#include "core/select/reach.h"

namespace pristine::select {

/// A polygon in pixels of a view; it may reach beyond the viewport.
struct Fence {
    ViewFrame view;
    Polygon corners;  ///< fewer than 3: nothing is selected
};

/// The depth of what is seen at each pixel of a view, row by row; infinity where there is nothing.
struct DepthPicture {
    int width = 0, height = 0;
    std::span<const float> depth;
};

/// How a fence takes.
struct FenceOptions {
    /// Given: only what can be seen is selected. A point counts as seen when it lies no deeper behind the
    /// picture at its pixel than twice its block's spacing plus twice the size of a pixel there, and not in a
    /// pinhole of what is in front.
    const DepthPicture* seen = nullptr;
    Reach reach = Reach::Middle;  ///< of triangles; points are taken by their places
    bool towards_only = false;    ///< of triangles: only those that face the eye
};

/// A fence whose raster mask is painted. The mask costs about 5 ms, as much as a million points: one is
/// prepared for all clouds that the same fence is laid over. Never changes; a copy shares the mask.
class PreparedFence {
  public:
    explicit PreparedFence(Fence);
    const Fence& shape() const { return shape_; }
    /// Null: the fence has fewer than 3 corners.
    const PolygonMask* mask() const { return mask_.get(); }

  private:
    Fence shape_;
    std::shared_ptr<const PolygonMask> mask_;
};

/// The points inside the fence that are also in `eligible`; of triangles as `options` say
/// (triangle_fence.h). Deterministic. Throws Cancelled.
/// O(points in blocks that the fence's edges cross).
ElementSet fence(const cloud::PointCloud&, const PreparedFence&, const ElementSet& eligible,
                 const FenceOptions& = {}, Progress& = Progress::none());
/// For one cloud.
inline ElementSet fence(const cloud::PointCloud& cloud, const Fence& shape, const ElementSet& eligible,
                        const FenceOptions& options = {}, Progress& progress = Progress::none()) {
    return fence(cloud, PreparedFence(shape), eligible, options, progress);
}

/// A fence in plan, prepared for any number of clouds: `rings` are closed lines in world x, y (even-odd, so
/// that a ring inside another is a hole). Never changes; a copy shares what was prepared.
class PlanFence {
  public:
    explicit PlanFence(std::vector<Polygon> rings);
    const std::vector<Polygon>& rings() const { return rings_; }
    /// One for each ring.
    const std::vector<PreparedFence>& prepared() const { return prepared_; }

  private:
    std::vector<Polygon> rings_;
    std::vector<PreparedFence> prepared_;
};

/// The points inside the rings that are also in `eligible`; without rings none. Throws Cancelled.
ElementSet plan_fence(const cloud::PointCloud&, const PlanFence&, const ElementSet& eligible,
                      Progress& = Progress::none(), Reach = Reach::Middle);
/// For one cloud.
inline ElementSet plan_fence(const cloud::PointCloud& cloud, const std::vector<Polygon>& rings,
                             const ElementSet& eligible, Progress& progress = Progress::none(),
                             Reach reach = Reach::Middle) {
    return plan_fence(cloud, PlanFence(rings), eligible, progress, reach);
}

}  // namespace pristine::select
