// The script of the client's page, as it was bundled when the program was built (web/viewer.js).

#pragma once

#include <string_view>

namespace pristine::report {

/// Empty when the program was built without npm.
std::string_view viewer_script();

}  // namespace pristine::report
