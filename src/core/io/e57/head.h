// The head of an E57 file: where its XML part lies.

#pragma once

#include <string>

#include "core/base/file.h"
#include "core/io/e57/pages.h"

namespace pristine::io::e57 {

/// The XML part, its pages checked. Throws Error(Format, Unsupported, Io).
std::string read_xml(const InputFile&, PagedReader&);

}  // namespace pristine::io::e57
