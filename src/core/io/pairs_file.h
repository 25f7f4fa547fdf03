// Pairs of places in a text table: where they are, and where they should be.

#pragma once

#include <filesystem>
#include <vector>

#include "core/base/progress.h"
#include "core/place/pairs.h"

namespace pristine::io {

/// Lines of "name E N H E N H" or "E N H E N H", first where a place is, then where it should be; separated
/// as text clouds are. A name that begins with '-' marks a pair that is not used. Throws Error(Io, Format).
std::vector<place::Pair> read_pairs(const std::filesystem::path&, Progress& = Progress::none());

/// Sixteen numbers by rows, with blanks, commas, semicolons or brackets between. Throws Error(Io, Format);
/// Error(Usage) for what is no placement.
Similarity read_matrix(const std::filesystem::path&);

}  // namespace pristine::io
