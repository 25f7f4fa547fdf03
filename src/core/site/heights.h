// How well the heights of a surface of the site are known.

#pragma once

#include "core/measure/difference.h"
#include "core/site/site.h"

namespace pristine::site {

/// What its survey states, and its thinning. Data unit; a noise of 0 is to be estimated.
measure::HeightSigma heights_of(const Site&, const Item&);

}  // namespace pristine::site
