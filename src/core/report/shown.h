// Figures as a report shows them: in the unit of the site, with the digits that the data bear.

#pragma once

#include <string>

#include "core/report/report.h"
#include "core/site/site.h"

namespace pristine::report {

/// The unit of an item's data, and that which is shown.
class Shown {
  public:
    Shown(const site::Site&, const cloud::Reference&);

    bool known() const { return known_; }
    /// Metres in a data unit; of data without a unit 1.
    double data_metres() const { return data_metres_; }
    double factor() const { return data_metres_ / metres_; }
    /// "m", "m²", "m³"; "unit not set".
    std::string unit(int power = 1) const;
    /// ", m²" behind the title of a column.
    std::string behind(int power = 1) const { return ", " + unit(power); }

    // Figures of data units, without their unit, for columns that say it; `text_of` has it.
    Cell length(double data, int more = 0) const;
    Cell area(double data) const { return powered(data, 2); }
    Cell volume(double data) const { return powered(data, 3); }
    /// "4,042 ± 26": both with the digits that the deviation bears; without one as powered().
    Cell spread(double data, double sigma, int power) const;
    /// Two significant digits: deviations.
    Cell deviation(double data, int power = 1) const;
    Cell coordinate(double data) const;
    /// With the unit behind it.
    std::string text_of(const Cell&) const;

  private:
    Cell powered(double data, int power) const;
    double shown(double data, int power) const;
    bool known_ = false;
    double data_metres_ = 1, metres_ = 1;
    int decimals_ = 2;
    std::string symbol_;
};

Cell count_cell(std::uint64_t n);
/// "1 point", "2,310 points"; "1 triangle", …
std::string counted(std::uint64_t n, const char* one, const char* many);
/// "points" or "triangles" of an item, with their number.
std::string counted_elements(const site::Item&, std::uint64_t n);
std::string percent(double share);

}  // namespace pristine::report
