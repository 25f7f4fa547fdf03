// LAS 1.0 to 1.4, point formats 0 to 10 (ASPRS LAS Specification 1.4-R15), read and written.
//
// What is not removed comes out bit for bit, in the order it had: records, VLRs, EVLRs and the bytes between
// them are copied; only counts, bounds and offsets in the header are brought up to date, and only if
// something was removed.

#pragma once

#include "core/io/cloud_io.h"
#include "core/io/las/las_header.h"

namespace pristine::io {

/// Its row of the register.
CloudFormat las_format();
/// LAZ: the same with compressed points (core/io/laz).
CloudFormat laz_format();

/// Plain or compressed, as the header says.
ReadResult read_las(const std::filesystem::path&, const ReadOptions&, Progress&);
std::uint64_t write_las(const std::vector<WriteItem>&, OutputFile&, bool compress, const LasOptions&,
                        Progress&);
/// Whether records are made anew instead of copied.
bool las_is_converted(const std::vector<WriteItem>&, const LasOptions&);

}  // namespace pristine::io
