// What a line is for and what an item stands for, in the words of the reader.

#pragma once

#include <QString>

#include "core/geometry/line_role.h"
#include "core/site/item_role.h"

namespace pristine::app {

QString title_of(LineRole);
QString title_of(site::ItemRole);

}  // namespace pristine::app
