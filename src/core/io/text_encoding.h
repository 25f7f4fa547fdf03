// Texts as UTF-8, whatever a file has them in.

#pragma once

#include <string>

namespace pristine::io {

/// A text that begins with a byte-order mark (UTF-8, UTF-16 of both orders) as UTF-8 without it; others stay
/// as they are. What UTF-16 has no characters for becomes U+FFFD.
std::string as_utf8(std::string text);

}  // namespace pristine::io
