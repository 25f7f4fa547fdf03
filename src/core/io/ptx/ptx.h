// PTX and PTS: scans as text.
//
// PTX holds one or more gridded scans: columns, rows, the station with its axes, a 4x4 matrix, then a line
// for each cell, column by column; cells without a point are "0 0 0 0.5". Grid, pose and empty cells are
// kept. PTS holds blocks of points, each after its count.

#pragma once

#include "core/io/cloud_io.h"

namespace pristine::io {

/// Their rows of the register.
CloudFormat ptx_format();
CloudFormat pts_format();

/// What a PTX layout carries to be written again: the ten head lines of each scan as they were.
struct PtxScan {
    std::uint32_t columns = 0, rows = 0;
    std::string head;        ///< the ten lines, each with its end
    double matrix[16] = {};  ///< row vectors: world = local * matrix
    Vec3 position() const { return {matrix[12], matrix[13], matrix[14]}; }
    Vec3 world(const Vec3& local) const;
    Vec3 local(const Vec3& world) const;  ///< the matrix is taken to be a rotation and a shift
    std::uint64_t cells() const { return std::uint64_t{columns} * rows; }
};
std::string join_ptx_head(const std::vector<PtxScan>&, int decimals);
/// Throws Error(Format) if damaged.
std::vector<PtxScan> split_ptx_head(const std::string&, int& decimals);

/// All scans as one cloud.
ReadResult read_ptx(const std::filesystem::path&, const ReadOptions&, Progress&);
/// Each scan by itself, with its station.
std::vector<ReadResult> read_ptx_apart(const std::filesystem::path&, const ReadOptions&, Progress&);
ReadResult read_pts(const std::filesystem::path&, const ReadOptions&, Progress&);
std::uint64_t write_ptx(const std::vector<WriteItem>&, OutputFile&, const WriteOptions&, Progress&);
std::uint64_t write_pts(const std::vector<WriteItem>&, OutputFile&, const WriteOptions&, Progress&);

}  // namespace pristine::io
