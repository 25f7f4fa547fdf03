// Lines and references as bytes, between pristine-reader and who called it.

#pragma once

#include <string>
#include <vector>

#include "core/io/lines/lines.h"

namespace pristine::io {

/// For the other process.
std::string bytes_of(const std::vector<MapLine>&);
std::string bytes_of(const cloud::Reference&);
/// The opposite. Throws Error(Format) for bytes that are none.
std::vector<MapLine> lines_from(const std::string& bytes);
cloud::Reference reference_from(const std::string& bytes);

}  // namespace pristine::io
