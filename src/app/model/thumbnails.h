// Small pictures of a selection, for the ledger.

#pragma once

#include <memory>

#include "core/site/site.h"
#include "render/camera.h"

namespace pristine::app {

/// The selection alone, from the direction of the camera. Runs on any thread; at most some tens of
/// milliseconds, since only a sample of the points is drawn.
std::shared_ptr<const site::Thumbnail> selection_thumbnail(const site::Site&, const Box3& of_selection,
                                                           render::Camera);

/// The same of any elements of a cloud, in a style. `whole`: a box that holds them.
std::shared_ptr<const site::Thumbnail> thumbnail_of(const std::shared_ptr<const cloud::PointCloud>&,
                                                    const ElementSet&, const site::Style&, const Box3& whole,
                                                    render::Camera);

/// The box is worked out from the elements. O(n).
std::shared_ptr<const site::Thumbnail> thumbnail_of(const std::shared_ptr<const cloud::PointCloud>&,
                                                    const ElementSet&, const site::Style&, render::Camera);

}  // namespace pristine::app
