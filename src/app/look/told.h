// Causes as sentences, in the words and units of the reader.

#pragma once

#include <QString>

#include "app/look/lengths.h"
#include "core/site/cause.h"

namespace pristine::app {

QString told(const site::Cause&, const Lengths&);

}  // namespace pristine::app
