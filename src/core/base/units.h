// Units of length: what a file's coordinates are in, and what people read and type.

#pragma once

#include <span>
#include <string>

namespace pristine {

struct LengthUnit {
    const char* id;  ///< as stored: "m", "mm", "ft", "usft"
    double metres;   ///< exact: the international foot is 0.3048 m, the US survey foot 1200/3937 m
    int decimals;    ///< that show about a centimetre (a millimetre has none to show)
};

/// Those that can be chosen, metres first.
std::span<const LengthUnit> length_units();
/// The unit of this id; metres for an empty or unknown one: what states no unit is taken for metres.
const LengthUnit& length_unit(const std::string& id);

}  // namespace pristine
