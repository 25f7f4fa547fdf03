// Classes of points, as they are shown.

#pragma once

#include <QString>
#include <vector>

#include "core/site/item_classes.h"

namespace pristine::app {

/// "6 Building"; of a class that nobody has named the number alone.
QString class_text(const site::Site&, std::uint8_t code);
/// Classes that can be chosen: those of the standard that have a name, and the site's own; ascending.
std::vector<std::uint8_t> classes_to_choose(const site::Site&);
/// What was given last, the newest first, at most six.
std::vector<std::uint8_t> recent_classes();
void remember_class(std::uint8_t code);

}  // namespace pristine::app
