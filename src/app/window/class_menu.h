// A menu of the classes that points can be given: what was given last, then all of them.

#pragma once

#include <cstdint>
#include <functional>

#include "core/site/site.h"

class QMenu;

namespace pristine::app {

/// A digit alone chooses its class while the menu is open.
void fill_class_menu(QMenu*, const site::Site&, const std::function<void(std::uint8_t)>& chosen);

}  // namespace pristine::app
