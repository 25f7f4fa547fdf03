#include "core/io/text_encoding.h"

#include <cstdint>
#include <string_view>

namespace pristine::io {
namespace {

void append(std::string& out, std::uint32_t c) {
    const auto byte = [&](std::uint32_t v) { out += static_cast<char>(v); };
    if (c < 0x80) return byte(c);
    if (c < 0x800) {
        byte(0xC0 | c >> 6);
    } else {
        if (c < 0x10000) {
            byte(0xE0 | c >> 12);
        } else {
            byte(0xF0 | c >> 18);
            byte(0x80 | (c >> 12 & 0x3F));
        }
        byte(0x80 | (c >> 6 & 0x3F));
    }
    byte(0x80 | (c & 0x3F));
}

std::string from_utf16(std::string_view text, bool big) {
    const auto unit = [&](std::size_t i) {
        const auto a = static_cast<unsigned char>(text[i]), b = static_cast<unsigned char>(text[i + 1]);
        return static_cast<std::uint32_t>(big ? a << 8 | b : b << 8 | a);
    };
    std::string out;
    out.reserve(text.size() / 2);
    for (std::size_t i = 0; i + 1 < text.size(); i += 2) {
        std::uint32_t c = unit(i);
        if (c >= 0xD800 && c < 0xE000) {
            const bool pair = c < 0xDC00 && i + 3 < text.size() && (unit(i + 2) & 0xFC00u) == 0xDC00u;
            if (pair) {
                c = 0x10000 + ((c & 0x3FFu) << 10 | (unit(i + 2) & 0x3FFu));
                i += 2;
            } else {
                c = 0xFFFD;
            }
        }
        append(out, c);
    }
    return out;
}

}  // namespace

std::string as_utf8(std::string text) {
    if (text.rfind("\xEF\xBB\xBF", 0) == 0) return text.substr(3);
    if (text.rfind("\xFF\xFE", 0) == 0) return from_utf16(std::string_view(text).substr(2), false);
    if (text.rfind("\xFE\xFF", 0) == 0) return from_utf16(std::string_view(text).substr(2), true);
    return text;
}

}  // namespace pristine::io
