// Marks that people leave in a site, and the figures that each kind has.
//
// Figures follow from the places alone. Lengths are in the unit of the places, areas in its square; angles
// are degrees; a slope is in percent.

#pragma once

#include <cstdint>
#include <span>
#include <string>
#include <vector>

#include "core/geometry/vec.h"

namespace pristine {

/// What is measured. Fall: the slope from one place to another, as across a road or along a pipe.
enum class MarkKind : std::uint8_t { Point, Distance, Path, Angle, Area, Above, Fall };
inline constexpr int kMarkKinds = 7;

/// "point", "distance", "path", "angle", "area", "above", "fall".
const char* id_of(MarkKind);
/// The kind of that id; Point for any other word.
MarkKind mark_kind_of(const std::string& id);

/// How many places a kind has: at least `least`; at most `most`, 0 for any number.
struct MarkPlaces {
    std::size_t least = 1, most = 1;
};
MarkPlaces places_of(MarkKind);

/// What a figure is a number of, and so its unit.
enum class MarkQuantity : std::uint8_t { Coordinate, Length, Area, Angle, Slope };

/// One figure: `id` is a stable word ("plan_distance"), the same in files, on the command line and in tests.
struct MarkFigure {
    const char* id;
    MarkQuantity quantity;
    double value;
};

/// The figures of a mark, the most important first. Point: east, north, height. Distance: distance,
/// plan_distance, height_difference, slope (not of an upright one). Path: length, plan_length,
/// height_difference. Angle: angle at the second place, plan_angle. Area, its places the corners of a ring
/// that is closed by itself: plan_area, true_area (in the plane that suits the corners best, Newell's),
/// perimeter, out_of_plane (the farthest corner from that plane). Above, from its foot: above. Fall: slope,
/// run_per_rise (not of a level one), plan_distance, height_difference, direction (degrees from north,
/// clockwise, in which it goes down). Throws Error(Usage) for too few or too many places, for an angle or a
/// slope whose places coincide, and for an area whose sides cross. O(places); areas O(places squared).
std::vector<MarkFigure> mark_figures(MarkKind, std::span<const Vec3> places);

}  // namespace pristine
