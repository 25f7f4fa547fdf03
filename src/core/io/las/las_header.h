// The public header block of a LAS file, its variable length records, and the layout of its point records.

#pragma once

#include <array>
#include <cstdint>
#include <string>
#include <vector>

#include "core/base/file.h"
#include "core/cloud/point_cloud.h"

namespace pristine::io {

/// The public header block (LAS 1.0 to 1.4), numbers as they are in the file.
struct LasHeader {
    int major = 1, minor = 2;
    std::uint16_t header_bytes = 227;
    std::uint32_t points_offset = 227;
    std::uint32_t vlr_count = 0;
    int point_format = 0;
    bool compressed = false;  ///< the LAZ bits of the point format
    std::uint16_t record_bytes = 20;
    std::uint64_t point_count = 0;
    Vec3 scale{0.001, 0.001, 0.001}, offset{};
    Vec3 lo{}, hi{};
    std::uint64_t waveform_offset = 0;  ///< 1.3 and later, else 0
    std::uint64_t evlr_offset = 0;      ///< 1.4, else 0
    std::uint32_t evlr_count = 0;
};

/// A variable length record.
struct LasVlr {
    std::string user, description;
    std::uint16_t id = 0;
    std::string data;
};

/// The number of points that a header states; `head` begins with it, and was checked.
std::uint64_t las_points_said(const std::string& head);

/// Smallest record of a point format 0..10, in bytes.
std::size_t las_base_bytes(int point_format);

/// Parses and checks the header against the file's size; every number is checked before it is believed. A
/// point count too large for the file is left as it stands: the reader decides. Throws Error(Format,
/// Unsupported) with the byte.
LasHeader read_las_header(const InputFile&);

/// The VLRs, and in 1.4 the EVLRs (of at most 16 MiB each; larger ones are waveforms and left out). Broken
/// ones end the list with a warning.
std::vector<LasVlr> read_las_vlrs(const InputFile&, const LasHeader&, std::vector<std::string>& warnings);

/// The fields of a record, extra bytes included where a VLR describes them (undescribed ones are kept,
/// without a name).
std::vector<cloud::Field> las_fields(const LasHeader&, const std::vector<LasVlr>&);

/// WKT, or "EPSG:n" from GeoTIFF keys; empty if the file does not say.
std::string las_crs(const std::vector<LasVlr>&);

/// What a RecordLayout of a LAS file carries to write it again: the bytes before the points, and those after.
struct LasHead {
    std::string before, after;
};
std::string join_las_head(const LasHead&);
/// Throws Error(Format) if damaged.
LasHead split_las_head(const std::string&);

/// How many bytes follow the points that nothing in the header points at. LAS keeps them at its end; in LAZ,
/// where the table of chunks follows the points, nobody would find them.
std::size_t unreachable_tail(const LasHead&);

/// Counters of what is written, by the rules of the header.
struct LasCounts {
    std::uint64_t points = 0;
    std::array<std::uint64_t, 15> by_return{};
    std::array<std::int32_t, 3> lo{INT32_MAX, INT32_MAX, INT32_MAX}, hi{INT32_MIN, INT32_MIN, INT32_MIN};

    void add(const std::byte* record, int point_format);
};

/// Brings counts and bounds up to date in the bytes before the points.
void update_las_header(std::string& before, const LasCounts&);

/// Moves the offsets of what follows the points by so many bytes.
void move_las_offsets(std::string& before, std::int64_t shift);

/// From the head of a LAS file to that of a LAZ file: marks the point format and adds the VLR that describes
/// the compression, as the first.
std::string compressed_las_head(std::string before, const std::string& scheme);
/// And back. Without that VLR the head stays as long as it was.
std::string plain_las_head(std::string before);

/// How many records of the header (VLR, EVLR) are neither system, extra bytes nor compression.
std::size_t makers_records(const std::string& before);

/// The same bytes with another reference system (OGC WKT; empty: none) in place of the one they state.
std::string las_head_with_system(std::string before, const std::string& wkt);

/// The bytes before the points of a new file, with an extra-bytes VLR for `extra` fields and the system if
/// any. Point formats 0 to 5: LAS 1.2, whose systems are keys of GeoTIFF (none where the system has no
/// number); others: LAS 1.4, whose systems are WKT.
std::string new_las_head(int point_format, const cloud::Grid&, const std::vector<cloud::Field>& extra,
                         const std::string& crs_wkt);

}  // namespace pristine::io
