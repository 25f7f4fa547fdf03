// E57 (ASTM E2807-11), read and written: all scans of a file with pose and grid, cartesian or spherical
// coordinates, integers of any bit width, scaled integers, floats of both sizes, intensity, colour, time, row
// and column, invalid states. Images are left out, with a word. Every page's checksum (CRC-32C) is verified.

#pragma once

#include "core/io/cloud_io.h"

namespace pristine::io {

/// Its row of the register.
CloudFormat e57_format();

/// All scans as one cloud.
ReadResult read_e57(const std::filesystem::path&, const ReadOptions&, Progress&);
/// Each scan by itself, with its name and its station.
std::vector<ReadResult> read_e57_apart(const std::filesystem::path&, const ReadOptions&, Progress&);
std::uint64_t write_e57(const std::vector<WriteItem>&, OutputFile&, const WriteOptions&, Progress&);

}  // namespace pristine::io
