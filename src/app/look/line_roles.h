// What a line is for, in the words of the reader.

#pragma once

#include <QString>

#include "core/geometry/line_role.h"

namespace pristine::app {

QString title_of(LineRole);

}  // namespace pristine::app
