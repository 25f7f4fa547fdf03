// Cut and fill of work areas as a table for others.

#pragma once

#include <string>

#include "core/cloud/point_cloud.h"
#include "core/measure/areas.h"

namespace pristine::io {

/// Comma-separated (RFC 4180, UTF-8), a header with units, one line for each area, then "all areas" (unless
/// some overlap), "outside of them" and "everything". Standard deviations stand behind their volumes.
std::string area_table(const measure::AreaTable&, double band, const cloud::Reference&);

}  // namespace pristine::io
