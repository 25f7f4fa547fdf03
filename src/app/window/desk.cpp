#include "app/window/desk.h"
