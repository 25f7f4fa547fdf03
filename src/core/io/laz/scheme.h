// What the compressed records of a LAZ file consist of, as its "laszip encoded" VLR (record 22204) says.

#pragma once

#include <cstdint>
#include <string>

#include "core/base/error.h"

namespace pristine::io::laz {

/// Parts of a record in the order in which they stand in it. Bytes of a part that is absent: 0.
struct Scheme {
    bool layered = false;  ///< point formats 6-10
    bool has_time = false, has_rgb = false, has_nir = false, has_wave = false;
    std::size_t extra_bytes = 0;
    bool has_table = true;                ///< false: one chunk, and no table of chunks
    std::uint32_t chunk_points = 50'000;  ///< UINT32_MAX: each chunk has its own number of points

    /// Bytes of a record by these parts.
    std::size_t record_bytes() const {
        return (layered ? 30u : 20u) + (has_time && !layered ? 8u : 0u) + (has_rgb ? 6u : 0u) +
               (has_nir ? 2u : 0u) + (has_wave ? 29u : 0u) + extra_bytes;
    }
};

/// For records of a point format, whatever their extra bytes.
Scheme scheme_for(int point_format, std::size_t record_bytes);

/// The data of the VLR.
std::string scheme_bytes(const Scheme&);

/// Reads the data of the VLR and checks it against the record of the header. Throws Error(Format) where they
/// disagree, Error(Unsupported) for compressors that nobody writes any more.
Scheme parse_scheme(const std::string& vlr, int point_format, std::size_t record_bytes);

}  // namespace pristine::io::laz
