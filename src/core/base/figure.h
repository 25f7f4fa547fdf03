// Numbers as people write them: one function for every figure that is shown or reported.
//
// Laws (tested over random figures): 1. The text reads back as the value to within half of its last digit. 2.
// Between 1e-4 and 1e12 there is no exponent. 3. What rounds to nothing has no sign. 4. Groups of three are
// parted left of the decimal mark only.

#pragma once

#include <string>

namespace pristine {

/// The marks of the reader's language.
struct NumberMarks {
    std::string group = ",", decimal = ".";
};

/// With this many digits after the decimal mark (0 to 12); not-a-number and infinities as "none".
std::string figure(double value, int decimals, const NumberMarks& = {});

/// Digits after the mark that show `digits` significant ones, and no fewer than `least` (1.50, 0.00123,
/// 1,234.57).
int decimals_for(double value, int digits, int least = 0);

/// A positive value rounded to two digits, as settings are proposed; 0 for what is not positive.
double two_digits(double value);

/// A mass: kilograms, and tonnes from 10,000 kg on, with the unit.
std::string mass_text(double kilograms, const NumberMarks& = {});

/// The largest of 1, 2 and 5 times a power of ten that is not greater: steps of boxes and scales. 0 for what
/// is not a positive finite number.
double round_step(double);

}  // namespace pristine
