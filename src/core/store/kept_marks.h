// The marks of a project, read without opening it for work.

#pragma once

#include <filesystem>
#include <vector>

#include "core/io/marks_file.h"

namespace pristine::store {

/// The marks of a project, and the system of their places.
struct KeptMarks {
    std::vector<io::WrittenMark> marks;
    cloud::Reference reference;  ///< of the site, which the places are in
};

/// As they are after the last step that is not undone. Takes no lock and changes nothing. Throws Error(Io,
/// Format).
KeptMarks kept_marks(const std::filesystem::path&);

}  // namespace pristine::store
