// What a file will be, found out by writing a few elements of it and reading them again.

#pragma once

#include "core/io/cloud_io.h"

namespace pristine::io {

/// Of a file that is to be written.
struct Trial {
    std::uint64_t elements = 0;  ///< points or triangles that go in
    std::uint64_t bytes = 0;     ///< its size, from that of the trial: right for records of one length
    std::string format;          ///< "LAS 1.4, point format 7"
    double moved = 0;            ///< largest change of a coordinate, data unit; NaN: could not be told
    std::string unit;            ///< of the file, where it is not that of the source; else empty
    std::vector<std::string> columns{};  ///< of the source that do not come back
    /// Likewise, but zero in every record of the trial.
    std::vector<std::string> empty_columns{};
    std::vector<std::string> lost{};    ///< as of lost_in
    std::vector<std::string> beside{};  ///< names of the files that it is written with
};

/// Writes at most so many elements into a folder that is removed again, and reads them. What the writer would
/// refuse, this refuses. O(elements) bits, O(most) otherwise. Throws as write_cloud; Cancelled.
Trial try_write(const std::vector<WriteItem>&, const std::filesystem::path&, const WriteOptions& = {},
                Progress& = Progress::none(), std::uint64_t most = 20'000);

}  // namespace pristine::io
