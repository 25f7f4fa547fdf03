// The pictures of reports and plan sheets, by the renderer of the stage, without a display.

#pragma once

#include "core/report/picture.h"

namespace pristine::render {

/// Clear where nothing is seen. Of very many points an even sample is drawn (8 million).
report::Image picture_of(const report::Shot&);

}  // namespace pristine::render
