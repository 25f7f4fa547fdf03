// A view on paper: the picture with a frame, a scale bar and a north arrow. Views are parallel, so the bar
// holds for whatever lies across the line of sight.

#pragma once

#include <string>

#include "core/report/picture.h"

namespace pristine::report {

struct ViewLook {
    double width = 80, height = 60;  ///< mm
    std::string title{};             ///< in its corner
    double shown_factor = 1;         ///< shown units in a data unit
    std::string unit;                ///< that is shown
    bool framed = true;
};

/// The shot is drawn at `dpi`; its size in pixels is set here.
Drawing view(Shot, const ViewLook&, const Drawer&, double dpi);

}  // namespace pristine::report
