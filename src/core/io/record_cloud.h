// Builds a cloud from records whose fields have known names: what PLY and text have in common.
//
// What the numbers of intensity and colour mean is found from their values (full_scale.h); class is 0..255.

#pragma once

#include <cmath>

#include "core/io/cloud_io.h"

namespace pristine::io {

/// Least and greatest finite value of each field over all records.
struct FieldRange {
    double lo = INFINITY, hi = -INFINITY;
    bool integers = true;  ///< every finite value is whole
    bool finite = true;    ///< every value is a number
    /// Of columns of 16 bits: every value is a multiple of 256 (or 257), that is, a byte moved up.
    bool by_256 = true, by_257 = true;
};
void merge(FieldRange& into, const FieldRange&);

/// Reads all records once, in parallel; with names, only the ranges of these fields are found. Progress runs
/// over the present stretch.
std::vector<FieldRange> field_ranges(const cloud::RecordSource&, Progress&,
                                     const std::vector<std::string>& names = {});

/// A grid for these coordinates: as fine as `decimals` digits, or 0.1 mm and finer where 32 bits allow it;
/// 0.1 mm holds up to an extent of 429 km, beyond that it gets coarser.
cloud::Grid grid_for(const FieldRange& x, const FieldRange& y, const FieldRange& z, int decimals);

/// Builds the cloud. Records without finite coordinates have no point, but stay in the file; a warning counts
/// them. `known` brings stations, CRS and unit.
std::shared_ptr<const cloud::PointCloud> cloud_from_records(std::shared_ptr<const cloud::RecordSource>,
                                                            const std::vector<FieldRange>&, int decimals,
                                                            std::vector<std::string>& warnings, Progress&,
                                                            cloud::PointCloud::Parts known = {});

}  // namespace pristine::io
