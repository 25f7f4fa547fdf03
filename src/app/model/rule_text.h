// What is said of rules.

#pragma once

#include <QString>

#include "app/look/lengths.h"
#include "core/score/limits.h"
#include "core/score/score.h"

namespace pristine::app {

/// "High: … Low: …"
QString meaning_of(const score::Score&);
/// Data units of one shown unit of the values, for lengths and areas; else 1.
double per_shown(const score::Score&, const Lengths&);
/// " m", " m²", "°", " points": the unit of the values as they are shown; may be empty.
QString unit_text(const score::Score&, const Lengths&);
/// "1.2 m and more", in the unit that is shown; of what lies outside "less than 1 or more than 2 m".
QString range_text(const score::Score&, const score::Limits&, const Lengths&);

}  // namespace pristine::app
