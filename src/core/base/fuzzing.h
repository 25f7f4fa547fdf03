// The one switch that fuzz targets turn, and nobody else.

#pragma once

namespace pristine {

/// True in a fuzz target: checksums are not compared (a fuzzer would never get past one), and readers that
/// are not ours run in this process (one process for each input would be too slow).
inline bool fuzzing = false;

}  // namespace pristine
