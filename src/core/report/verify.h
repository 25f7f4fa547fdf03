// Checks a deliverable: is every file the one that was written, and are cleaned and removed together the
// source?

#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "core/base/progress.h"

namespace pristine::report {

struct Verified {
    std::vector<std::string> problems;  ///< one sentence each; none: all that was checked is right
    std::vector<std::string> notes;     ///< what could not be checked, and why
    std::size_t files = 0;              ///< whose checksum was compared
    std::size_t items = 0;              ///< whose records were counted
    std::size_t against_source = 0;     ///< whose records were compared with their source
    std::string manifest_sha256;
    bool sound() const { return problems.empty(); }
};

/// A folder, or a zip of one (unpacked beside the system's temporary files). `sources`: a folder with the
/// files that it all came from; empty: those inside the deliverable. Checked are: each file's size and
/// SHA-256; files that are not listed; counts of each item against the files and the ledger; and, where the
/// source is at hand and has the same record layout, that cleaned and removed are together the source, record
/// for record (multisets by a keyed hash of 128 bits, with a key drawn anew). Throws Error(Io, Format) when
/// there is no manifest that can be read; Cancelled.
Verified verify(const std::filesystem::path&, const std::filesystem::path& sources = {},
                Progress& = Progress::none());

}  // namespace pristine::report
