// A mark from the places that were clicked.

#pragma once

#include "core/site/marks.h"

namespace pristine::app {

/// The foot of a height above an item, and its stamp: in place of those of before. Throws Error(Usage) when
/// nothing lies below its first place, and when the item is gone.
site::Mark measured_above(const site::Site&, site::Mark);

/// A new mark with a name of its own ("Distance 3"). Of a height above `over` one place is given. Throws
/// Error(Usage) as mark_figures and measured_above, and for lengths in degrees.
site::Mark new_mark(const site::Site&, MarkKind, std::vector<Vec3> places, std::uint64_t over);

}  // namespace pristine::app
