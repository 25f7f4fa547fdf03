// The header of a PLY file.

#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

#include "core/cloud/record.h"

namespace pristine::io {

/// A column of an element, or a list.
struct PlyProperty {
    std::string name;
    cloud::FieldType type = cloud::FieldType::F32;
    bool list = false;
    cloud::FieldType count_type = cloud::FieldType::U8;
};

/// "vertex", "face" or another.
struct PlyElement {
    std::string name;
    std::uint64_t count = 0;
    std::vector<PlyProperty> properties;

    bool has_list() const;
    /// Bytes of one element in a binary file; only without lists.
    std::size_t bytes() const;
};

/// How the values behind the header are written.
enum class PlyEncoding { Ascii, BinaryLittle, BinaryBig };

/// What stands before the values.
struct PlyHeader {
    PlyEncoding encoding = PlyEncoding::Ascii;
    std::vector<std::string> remarks;  ///< comment and obj_info lines, whole
    std::vector<PlyElement> elements;
    std::size_t bytes = 0;  ///< up to and with the line end after end_header
    std::size_t lines = 0;

    const PlyElement* find(std::string_view element) const;
};

/// Parses the header at the start of `text`; CR, LF and CRLF line ends, extra blanks and unknown keywords are
/// fine. Throws Error(Format) with the line.
PlyHeader parse_ply_header(std::string_view text, const std::string& place);

/// A header with only these remarks and this one element.
std::string format_ply_header(PlyEncoding, const std::vector<std::string>& remarks, const PlyElement&);

/// As PLY names it; "double" for what PLY has no type for.
const char* ply_type_name(cloud::FieldType);

}  // namespace pristine::io
