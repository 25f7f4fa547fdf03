// Where an item came from.

#pragma once

#include <filesystem>

#include "core/site/site.h"

namespace pristine::site {

/// The file that an item was opened from, as it was named then; empty when it was made here. It may be gone.
std::filesystem::path origin_file(const Item&);

}  // namespace pristine::site
