// What the numbers of intensity and colour mean: which of them is dark and which is full.
//
// Formats differ: 8 or 16 bits, 0..1, -2048..2047, or whatever an instrument gave. The type of a column does
// not say which; its values do. Every reader and writer asks here, so that a number means the same
// everywhere.

#pragma once

#include <array>

#include "core/io/record_cloud.h"

namespace pristine::io {

/// Dark and full of one column, or of three colours together.
struct FullScale {
    double lo = 0, hi = 1;
    bool stretched = false;  ///< no usual range fits: these are the least and the greatest value
    /// 0 dark, 1 full; what is not a number is dark.
    double share(double v) const {
        return std::isfinite(v) && hi > lo ? std::clamp((v - lo) / (hi - lo), 0.0, 1.0) : 0;
    }
};

/// Unsigned integers: the range of their type. Others: 0..1, 0..255 or 0..65535, the first that holds all
/// values (the last two: whole ones only), else from the least to the greatest.
FullScale intensity_scale(const cloud::Field&, const FieldRange&);
/// Likewise for red, green and blue together; columns of 16 bits whose values are all below 256 hold 8 bits.
FullScale colour_scale(const std::array<const cloud::Field*, 3>&, const std::array<FieldRange, 3>&);

/// How intensities become those of LAS, whole numbers from 0 to 65535: such numbers stay what they are.
struct LasIntensity {
    double factor = 1, shift = 0;  ///< of the value
    bool stretched = false;        ///< the numbers change their meaning: the file's own are kept beside them
};
LasIntensity las_intensity(const cloud::Field&, const FieldRange&);

/// The scales of clouds that go into one file, from all of their records.
struct Scales {
    FullScale intensity, colour;
    LasIntensity las;
    double least = 0, greatest = 0;  ///< of the intensities; 0, 0: there are none
    bool bytes = true;  ///< every colour is a whole number of 8 bits, and is written as such without loss
};
/// Reads the columns in question once. Progress runs over the present stretch. Throws Error(Io, Format),
/// Cancelled.
Scales scales_of(const std::vector<WriteItem>&, Progress&);

}  // namespace pristine::io
