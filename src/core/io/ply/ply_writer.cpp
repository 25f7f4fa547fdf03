#include <fmt/format.h>

#include <algorithm>

#include "core/io/full_scale.h"
#include "core/io/keep.h"
#include "core/io/ply/ply.h"
#include "core/io/reference/remark.h"

namespace pristine::io {
namespace {

using cloud::Field;
using cloud::FieldType;
using cloud::RecordLayout;

struct Target {
    PlyEncoding encoding = PlyEncoding::BinaryLittle;
    std::vector<std::string> remarks;
    PlyElement vertex{"vertex", 0, {}};
    RecordLayout layout;  // of a little-endian record as it is written
};

// A word of its own: blanks end a name in PLY, and no two are the same.
std::string property_name(const std::string& field, const PlyElement& vertex) {
    std::string name;
    for (const char c : field) name += static_cast<unsigned char>(c) <= ' ' ? '_' : c;
    const auto taken = [&](const std::string& n) {
        return std::any_of(vertex.properties.begin(), vertex.properties.end(),
                           [&](const PlyProperty& p) { return p.name == n; });
    };
    std::string out = name.empty() ? "column" : name;
    for (int k = 2; taken(out); ++k) out = name + "_" + std::to_string(k);
    return out;
}

// A PLY cloud keeps its own header; of others every field becomes a property, coordinates as doubles.
Target target_for(const RecordLayout& from, const Scales& scales) {
    Target t;
    if (from.format == "ply") {
        PlyHeader h = parse_ply_header(from.head, "stored header");
        t.encoding = h.encoding;
        t.remarks = h.remarks;
        t.vertex = h.elements.at(0);
        t.layout = from;
        return t;
    }
    for (const Field& f : from.fields) {
        if (f.words) continue;  // numbers of words would say nothing there
        const bool axis = f.name == "x" || f.name == "y" || f.name == "z";
        const bool colour = f.name == "red" || f.name == "green" || f.name == "blue";
        const bool plain = f.scale == 1 && f.shift == 0;
        FieldType type = colour           ? scales.bytes ? FieldType::U8 : FieldType::U16
                         : axis || !plain ? FieldType::F64
                                          : f.type;
        if (type == FieldType::U64 || type == FieldType::I64) type = FieldType::F64;
        t.layout.fields.push_back({f.name, type, t.layout.record_bytes});
        t.layout.record_bytes += bytes_of(type);
        t.vertex.properties.push_back({property_name(f.name, t.vertex), type});
    }
    return t;
}

// A value as the file has it: colours by their scale, all else as it is.
double written_value(const Field& from, const Field& to, const std::byte* record, const Scales& scales) {
    const double v = value(from, record);
    if (to.name != "red" && to.name != "green" && to.name != "blue") return v;
    if (to.type == FieldType::U16) return scales.colour.share(v) * 65535;
    // Bytes moved up by 8 bits come back as they were.
    if (to.type == FieldType::U8) return std::min(std::floor(scales.colour.share(v) * 255.999), 255.0);
    return v;
}

void append_ascii(std::string& text, const RecordLayout& layout, const std::byte* record) {
    for (std::size_t c = 0; c < layout.fields.size(); ++c) {
        if (c) text += ' ';
        const double v = value(layout.fields[c], record);
        if (layout.fields[c].type == FieldType::F32)
            fmt::format_to(std::back_inserter(text), "{}", static_cast<float>(v));
        else
            fmt::format_to(std::back_inserter(text), "{}", v);
    }
    text += '\n';
}

void append_record(std::string& out, const Target& t, std::byte* record) {
    if (t.encoding == PlyEncoding::Ascii) return append_ascii(out, t.layout, record);
    if (t.encoding == PlyEncoding::BinaryBig)
        for (const Field& f : t.layout.fields)
            std::reverse(record + f.offset, record + f.offset + bytes_of(f.type));
    out.append(reinterpret_cast<const char*>(record), t.layout.record_bytes);
}

}  // namespace

std::uint64_t write_ply(const std::vector<WriteItem>& items, OutputFile& out, const WriteOptions&,
                        Progress& progress) {
    if (items.empty()) throw Error(ErrorCode::Usage, "There is nothing to write");
    progress.stretch(0, 1, "Writing points");
    const bool own = std::all_of(items.begin(), items.end(), [&](const WriteItem& item) {
        const RecordLayout a = layout_of(item), b = layout_of(items.front());
        return a.format == "ply" && a.head == b.head;
    });
    const Scales scales = [&] {
        const Progress::Part part(progress, 0, 0.1, "Looking at colours");
        return own ? Scales() : scales_of(items, progress);
    }();
    Target t = target_for(layout_of(items.front()), scales);
    // A cloud keeps its remarks; what they say of unit and system is what holds now.
    std::erase_if(t.remarks, [](const std::string& line) {
        cloud::Reference ignored;
        return take_remark(line, ignored);
    });
    for (const std::string& line : reference_remarks(items.front().cloud->reference()))
        t.remarks.push_back("comment " + line);
    t.vertex.count = 0;
    for (const WriteItem& item : items)
        t.vertex.count += item.keep ? item.keep->count() : item.cloud->records()->count();
    out.write(format_ply_header(t.encoding, t.remarks, t.vertex));
    const double share = 1.0 / static_cast<double>(items.size());
    std::vector<std::byte> record(t.layout.record_bytes);
    std::string text;
    for (std::size_t k = 0; k < items.size(); ++k) {
        const RecordLayout from = layout_of(items[k]);
        const bool same =
            from.format == "ply" && from.record_bytes == t.layout.record_bytes && from.head == t.layout.head;
        for_kept_records(items[k], progress, static_cast<double>(k) * share,
                         static_cast<double>(k + 1) * share, [&](const std::byte* records, std::size_t n) {
                             text.clear();
                             for (std::size_t i = 0; i < n; ++i) {
                                 const std::byte* source = records + i * from.record_bytes;
                                 if (same) {
                                     std::copy(source, source + from.record_bytes, record.begin());
                                 } else {
                                     std::fill(record.begin(), record.end(), std::byte{0});
                                     for (const Field& to : t.layout.fields)
                                         if (const Field* f = from.find(to.name))
                                             put(to, record.data(), written_value(*f, to, source, scales));
                                 }
                                 append_record(text, t, record.data());
                             }
                             out.write(text);
                         });
    }
    return t.vertex.count;
}

}  // namespace pristine::io
