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

}  // namespace pristine::app
