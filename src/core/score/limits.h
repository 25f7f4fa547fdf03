// From a score to a set: a range, inside or outside; and what a column looks like as a whole.

#pragma once

#include <cmath>
#include <cstdint>
#include <span>
#include <string>
#include <vector>

#include "core/score/score.h"

namespace pristine::score {

/// Values between lo and hi; an open end does not belong. `outside`: the others.
struct Limits {
    double lo = 0, hi = 0;
    bool lo_open = false, hi_open = false, outside = false;
    bool operator==(const Limits&) const = default;
};
/// ">3", ">=3", "<0.5", "<=0.5", "3..35", "!3..35". Throws Error(Usage).
Limits parse_limits(const std::string& text);
/// As parse_limits reads it.
std::string text_of(const Limits&);

/// The eligible points whose value lies in the limits; points without a value never do. O(n), 8 points at a
/// time.
ElementSet within(const Column&, const ElementSet& eligible, const Limits&);

/// What can be said of a column at a glance. Values beyond the 0.5 % and 99.5 % quantiles of an even sample
/// are in the end bins.
struct Profile {
    std::uint64_t count = 0;  ///< points with a finite value
    double min = 0, max = 0, median = 0;
    double mad = 0;            ///< median absolute deviation from the median
    double low = 0, high = 0;  ///< 0.5 % and 99.5 % quantiles; least and greatest where these are the same
    double bin_lo = 0, bin_hi = 0;
    std::vector<std::uint64_t> bins;
    bool logarithmic = false;  ///< bins are equal in the logarithm of the value, from least to greatest

    /// Where a value lies between bin_lo (0) and bin_hi (1), and the value that lies there.
    double place(double value) const;
    double value_at(double place) const;
};
inline constexpr std::size_t kUsualBins = 128;
/// Median and MAD are exact up to 4 million points, of an even sample beyond. `logarithmic` is for positive
/// values; others go into the first bin. What lies round `begins`, if that is a number, has bins of its own.
Profile profile(const Column&, bool logarithmic = false, std::size_t bins = kUsualBins, double begins = NAN);
/// The same of several columns at once, such as those of all scans of a site.
Profile profile(std::span<const Column>, bool logarithmic = false, std::size_t bins = kUsualBins,
                double begins = NAN);

}  // namespace pristine::score
