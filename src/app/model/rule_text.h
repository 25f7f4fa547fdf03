// What is said of rules.

#pragma once

#include <QString>

#include "app/look/lengths.h"
#include "core/score/limits.h"
#include "core/score/score.h"

namespace pristine::app {

/// "High: … Low: …"
QString meaning_of(const score::Score&);
/// Data units of one shown unit of the values, for lengths; else 1.
double per_shown(const score::Score&, const Lengths&);
/// "1.2 m and more", in the unit that is shown.
QString range_text(const score::Score&, const score::Limits&, const Lengths&);

}  // namespace pristine::app
