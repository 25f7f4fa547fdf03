// Builds a cloud from records whose fields have known names: what PLY and text have in common.
//
// Conventions for the fields of a RecordLayout: red, green, blue are 0..255 as U8, 0..65535 as U16, 0..1 as
// F32; intensity is 0..65535 as U16, 0..1 as F32, anything in other types; class is 0..255.

#pragma once

#include <cmath>

#include "core/io/cloud_io.h"

namespace pristine::io {

/// Least and greatest finite value of each field over all records.
struct FieldRange {
    double lo = INFINITY, hi = -INFINITY;
    bool integers = true;  ///< every finite value is whole
    bool finite = true;    ///< every value is a number
};

/// Reads all records once, in parallel. Progress runs over the present stretch.
std::vector<FieldRange> field_ranges(const cloud::RecordSource&, Progress&);

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
