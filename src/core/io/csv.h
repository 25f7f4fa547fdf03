// Cells of comma-separated tables (RFC 4180), with a full stop in numbers whatever the language is.

#pragma once

#include <string>

#include "core/base/figure.h"

namespace pristine::io {

inline std::string csv_text(const std::string& text) {
    std::string out = "\"";
    for (const char c : text) out += c == '"' ? std::string("\"\"") : std::string(1, c);
    return out + "\"";
}

inline std::string csv_number(double v, int decimals) {
    return figure(v, decimals, {"", "."});
}

}  // namespace pristine::io
