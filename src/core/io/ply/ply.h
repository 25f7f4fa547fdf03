// PLY point clouds: ascii and both binary orders, any order of properties, unknown ones kept as columns.

#pragma once

#include "core/io/cloud_io.h"
#include "core/io/ply/ply_header.h"

namespace pristine::io {

/// Its row of the register.
CloudFormat ply_format();

/// As the register calls them (cloud_io.h).
ReadResult read_ply(const std::filesystem::path&, const ReadOptions&, Progress&);
std::uint64_t write_ply(const std::vector<WriteItem>&, OutputFile&, const WriteOptions&, Progress&);

}  // namespace pristine::io
