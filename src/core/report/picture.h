// What a picture of the site is to show. Who draws it is not known here: render/report_pictures.h does.

#pragma once

#include <functional>
#include <memory>
#include <vector>

#include "core/geometry/view_frame.h"
#include "core/report/drawing.h"
#include "core/site/item_classes.h"
#include "core/site/site.h"

namespace pristine::report {

/// One thing in a picture.
struct Seen {
    std::shared_ptr<const cloud::PointCloud> cloud;
    site::SetPtr hidden, marked;  ///< not drawn; drawn in the colour of what is picked. May be null.
    site::Style style{};
    std::shared_ptr<const surface::Orthophoto> drape{};
    std::shared_ptr<const site::DecidedClasses> decided{};
};

/// From where. A plan shows exactly the box; a view fits it in.
struct Shot {
    std::vector<Seen> things;
    Box3 box;
    bool plan = false;
    double yaw_deg = 0, pitch_deg = -35;  ///< as render/camera.h
    int width = 0, height = 0;            ///< pixels
    bool shading = true;
};

/// Draws one; where nothing is seen the picture is clear.
using Drawer = std::function<Image(const Shot&)>;

/// How the shot maps the world to pixels, so that a scale bar and a north arrow can be put over it. `all`: a
/// box round everything in it.
ViewFrame frame_of(const Shot&, const Box3& all);

/// An item as it is shown.
Seen seen(const site::Item&);
/// "From the south-west, 35° down, parallel".
std::string told_view(double yaw_deg, double pitch_deg);

}  // namespace pristine::report
