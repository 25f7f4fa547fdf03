// Counts of values as a drawing, with axis, unit and limits.

#pragma once

#include <string>

#include "core/report/drawing.h"
#include "core/score/limits.h"

namespace pristine::report {

struct HistogramSpec {
    score::Profile profile;
    score::Limits limits;
    bool keeps = false;  ///< what lies in the limits stays
    std::string unit, title;
    double factor = 1;  ///< values are shown times this
    double width = 150, height = 45;
};

/// Bins that the rule took are dark; heights go by the logarithm of the count where few stand beside many,
/// and the drawing says so.
Drawing histogram(const HistogramSpec&);

/// Places for numbers along an axis from lo to hi: about `count` round ones.
std::vector<double> round_places(double lo, double hi, int count);

}  // namespace pristine::report
