// Units of length: what a file's coordinates are in, and what people read and type.

#pragma once

#include <span>
#include <string>

namespace pristine {

/// A unit of length.
struct LengthUnit {
    const char* id;      ///< as stored: "m", "mm", "ft", "usft", …
    double metres;       ///< exact: the international foot is 0.3048 m, the US survey foot 1200/3937 m
    int decimals;        ///< that show about a centimetre (a millimetre has none to show)
    const char* symbol;  ///< as it stands behind a number: "US ft"
    const char* title;   ///< "US survey feet"
};

/// Those that a person can choose, metres first.
std::span<const LengthUnit> length_units();
/// Those and the rarer ones that files may state: centimetres, kilometres, feet of Clarke, Sears, India, …
std::span<const LengthUnit> known_units();
/// The unit of this id; metres for an empty or unknown one, and for degrees. Callers that turn the result
/// into a figure ask `is_length` first, and say when nothing is stated.
const LengthUnit& length_unit(const std::string& id);
/// Whether the id names a unit of length. False for "" (not stated) and for "deg".
bool is_length(const std::string& id);
/// Coordinates in degrees of longitude and latitude: they have no areas and no volumes.
inline constexpr const char* kDegrees = "deg";
/// The id of the unit of this many metres, to one part in 10^8; empty: none is known.
std::string unit_of_metres(double metres);

}  // namespace pristine
