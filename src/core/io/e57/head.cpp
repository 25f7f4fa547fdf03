#include "core/io/e57/head.h"

#include <fmt/format.h>

#include <array>
#include <cstring>
#include <span>

#include "core/base/bytes.h"
#include "core/base/error.h"

namespace pristine::io::e57 {
namespace {

struct FileHeader {
    std::uint64_t xml_at = 0, xml_length = 0;
};

FileHeader read_header(const InputFile& file) {
    std::array<std::byte, 48> raw{};
    if (file.read_some(0, raw) < raw.size() || std::memcmp(raw.data(), "ASTM-E57", 8) != 0)
        throw Error(ErrorCode::Format, "The letters ASTM-E57 are missing at the start", file.place(0));
    const auto major = load_le<std::uint32_t>(raw.data() + 8);
    if (major != 1)
        throw Error(ErrorCode::Unsupported, fmt::format("E57 version {} is not known", major), file.place(8));
    const auto page = load_le<std::uint64_t>(raw.data() + 40);
    if (page != kPageBytes)
        throw Error(ErrorCode::Unsupported,
                    fmt::format("Pages of {} bytes are not known; the standard has 1024", page),
                    file.place(40));
    const FileHeader h{load_le<std::uint64_t>(raw.data() + 24), load_le<std::uint64_t>(raw.data() + 32)};
    if (h.xml_at >= file.size() || h.xml_length > file.size() - h.xml_at)
        throw Error(ErrorCode::Format, "The XML part is said to lie outside the file", file.place(24),
                    "The file was not finished or is cut off.");
    return h;
}

}  // namespace

std::string read_xml(const InputFile& file, PagedReader& pages) {
    const FileHeader h = read_header(file);
    std::string xml(h.xml_length, '\0');
    pages.read(to_logical(h.xml_at), std::as_writable_bytes(std::span(xml)));
    return xml;
}

}  // namespace pristine::io::e57
