// The rail of tools and the menus: both show commands, and know nothing of what they do.

#pragma once

#include "app/model/commands.h"

class QMainWindow;
class QWidget;

namespace pristine::app {

/// Buttons of the tools, one above the other.
QWidget* make_rail(const CommandTable&, QWidget* parent);
/// Menus of all commands, in the order in which they were added, and the button that finds one.
void make_menus(const CommandTable&, QMainWindow*);

}  // namespace pristine::app
