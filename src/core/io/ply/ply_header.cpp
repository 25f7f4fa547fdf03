#include "core/io/ply/ply_header.h"

#include <fmt/format.h>

#include <array>
#include <charconv>
#include <utility>

#include "core/base/error.h"
#include "core/io/text/table.h"

namespace pristine::io {
namespace {

using cloud::FieldType;

constexpr std::array<std::pair<const char*, FieldType>, 16> kTypes{{{"char", FieldType::I8},
                                                                    {"uchar", FieldType::U8},
                                                                    {"short", FieldType::I16},
                                                                    {"ushort", FieldType::U16},
                                                                    {"int", FieldType::I32},
                                                                    {"uint", FieldType::U32},
                                                                    {"float", FieldType::F32},
                                                                    {"double", FieldType::F64},
                                                                    {"int8", FieldType::I8},
                                                                    {"uint8", FieldType::U8},
                                                                    {"int16", FieldType::I16},
                                                                    {"uint16", FieldType::U16},
                                                                    {"int32", FieldType::I32},
                                                                    {"uint32", FieldType::U32},
                                                                    {"float32", FieldType::F32},
                                                                    {"float64", FieldType::F64}}};

// One line from `at` on, without its end; moves `at` behind it. False when the text ends before a line end.
bool next_line(std::string_view text, std::size_t& at, std::string_view& line) {
    const std::size_t end = text.find_first_of("\r\n", at);
    if (end == std::string_view::npos) return false;
    line = text.substr(at, end - at);
    at = end + 1;
    if (text[end] == '\r' && at < text.size() && text[at] == '\n') ++at;
    return true;
}

class HeaderParser {
  public:
    explicit HeaderParser(std::string place) : place_(std::move(place)) {}

    PlyHeader parse(std::string_view text) {
        std::size_t at = 0;
        std::string_view line;
        if (!next_line(text, at, line) || line.substr(0, 3) != "ply")
            throw fail("The word 'ply' is missing on the first line");
        for (header_.lines = 1;;) {
            if (!next_line(text, at, line)) throw fail("The header does not end: 'end_header' is missing");
            ++header_.lines;
            const auto words = split_line(line, 0);
            if (words.empty()) continue;
            if (words[0] == "end_header") break;
            take(line, words);
        }
        header_.bytes = at;
        if (!format_seen_) throw fail("The line 'format' is missing");
        return std::move(header_);
    }

  private:
    Error fail(const std::string& what) const {
        return Error(ErrorCode::Format, what, fmt::format("{}, line {}", place_, header_.lines));
    }

    FieldType type(std::string_view name) const {
        for (const auto& [known, t] : kTypes)
            if (name == known) return t;
        throw fail(fmt::format("'{}' is no type of a PLY property", name));
    }

    void take(std::string_view line, const std::vector<std::string_view>& w) {
        if (w[0] == "format") {
            if (w.size() < 2) throw fail("The line 'format' is cut short");
            if (w[1] == "ascii")
                header_.encoding = PlyEncoding::Ascii;
            else if (w[1] == "binary_little_endian")
                header_.encoding = PlyEncoding::BinaryLittle;
            else if (w[1] == "binary_big_endian")
                header_.encoding = PlyEncoding::BinaryBig;
            else
                throw fail(fmt::format("'{}' is no known encoding", w[1]));
            format_seen_ = true;
        } else if (w[0] == "comment" || w[0] == "obj_info") {
            header_.remarks.emplace_back(line);
        } else if (w[0] == "element") {
            PlyElement e;
            if (w.size() < 3 || std::from_chars(w[2].data(), w[2].data() + w[2].size(), e.count).ptr !=
                                    w[2].data() + w[2].size())
                throw fail("An element needs a name and a count");
            e.name = w[1];
            header_.elements.push_back(std::move(e));
        } else if (w[0] == "property") {
            if (header_.elements.empty()) throw fail("A property stands before any element");
            PlyProperty p;
            if (w.size() >= 5 && w[1] == "list")
                p = {std::string(w[4]), type(w[3]), true, type(w[2])};
            else if (w.size() >= 3 && w[1] != "list")
                p = {std::string(w[2]), type(w[1])};
            else
                throw fail("A property needs a type and a name");
            header_.elements.back().properties.push_back(std::move(p));
        }
        // Anything else is left alone: some writers add lines of their own.
    }

    std::string place_;
    PlyHeader header_;
    bool format_seen_ = false;
};

}  // namespace

bool PlyElement::has_list() const {
    for (const PlyProperty& p : properties)
        if (p.list) return true;
    return false;
}

std::size_t PlyElement::bytes() const {
    std::size_t n = 0;
    for (const PlyProperty& p : properties) n += bytes_of(p.type);
    return n;
}

const PlyElement* PlyHeader::find(std::string_view element) const {
    for (const PlyElement& e : elements)
        if (e.name == element) return &e;
    return nullptr;
}

PlyHeader parse_ply_header(std::string_view text, const std::string& place) {
    return HeaderParser(place).parse(text);
}

const char* ply_type_name(FieldType t) {
    for (const auto& [name, type] : kTypes)
        if (type == t) return name;
    return "double";  // PLY has no 64-bit integers
}

std::string format_ply_header(PlyEncoding encoding, const std::vector<std::string>& remarks,
                              const PlyElement& element) {
    std::string s = "ply\nformat ";
    s += encoding == PlyEncoding::Ascii          ? "ascii"
         : encoding == PlyEncoding::BinaryLittle ? "binary_little_endian"
                                                 : "binary_big_endian";
    s += " 1.0\n";
    for (const std::string& r : remarks) s += r + "\n";
    s += fmt::format("element {} {}\n", element.name, element.count);
    for (const PlyProperty& p : element.properties)
        s += fmt::format("property {} {}\n", ply_type_name(p.type), p.name);
    return s + "end_header\n";
}

}  // namespace pristine::io
