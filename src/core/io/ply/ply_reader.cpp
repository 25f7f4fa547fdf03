#include <fmt/format.h>

#include <algorithm>
#include <cstring>
#include <set>

#include "core/base/bytes.h"
#include "core/base/file.h"
#include "core/io/ply/ply.h"
#include "core/io/record_cloud.h"
#include "core/io/reference/remark.h"
#include "core/io/text/text.h"

namespace pristine::io {
namespace {

using cloud::Field;
using cloud::FieldType;

constexpr std::uint64_t kLongestHeader = 1u << 20;

// Binary vertices straight from the file, in either byte order.
class PlyRecords : public cloud::RecordSource {
  public:
    PlyRecords(std::shared_ptr<const InputFile> file, cloud::RecordLayout layout, std::uint64_t offset,
               std::uint64_t count, bool big_endian)
        : file_(std::move(file)),
          layout_(std::move(layout)),
          offset_(offset),
          count_(count),
          big_endian_(big_endian) {}
    const cloud::RecordLayout& layout() const override { return layout_; }
    std::uint64_t count() const override { return count_; }
    void read(std::uint64_t first, std::span<std::byte> out) const override {
        file_->read_at(offset_ + first * layout_.record_bytes, out);
        if (!big_endian_) return;
        for (std::size_t r = 0; r < out.size(); r += layout_.record_bytes)
            for (const Field& f : layout_.fields)
                std::reverse(out.data() + r + f.offset, out.data() + r + f.offset + bytes_of(f.type));
    }

  private:
    std::shared_ptr<const InputFile> file_;
    cloud::RecordLayout layout_;
    std::uint64_t offset_, count_;
    bool big_endian_;
};

std::string ply_column_name(const std::string& property) {
    static const std::vector<std::pair<std::string, std::string>> known{{"diffuse_red", "red"},
                                                                        {"diffuse_green", "green"},
                                                                        {"diffuse_blue", "blue"},
                                                                        {"scalar_intensity", "intensity"},
                                                                        {"scalar_classification", "class"}};
    std::string lower = property;
    std::transform(lower.begin(), lower.end(), lower.begin(),
                   [](unsigned char c) { return std::tolower(c); });
    for (const auto& [from, to] : known)
        if (lower == from) return to;
    return column_name(property);
}

cloud::RecordLayout layout_of(const PlyHeader& h, const PlyElement& vertex) {
    PlyElement kept = vertex;
    std::erase_if(kept.properties, [](const PlyProperty& p) { return p.list; });
    cloud::RecordLayout layout{"ply", 0, {}, format_ply_header(h.encoding, h.remarks, kept)};
    std::set<std::string> seen;
    for (const PlyProperty& p : kept.properties) {
        std::string name = ply_column_name(p.name);
        while (!seen.insert(name).second) name += "_";
        layout.fields.push_back({name, p.type, layout.record_bytes});
        layout.record_bytes += bytes_of(p.type);
    }
    return layout;
}

void require_coordinates(const cloud::RecordLayout& layout, const std::string& place) {
    for (const char* axis : {"x", "y", "z"})
        if (!layout.find(axis))
            throw Error(ErrorCode::Format, fmt::format("The vertices have no property '{}'", axis), place);
}

// Number of bytes of `count` elements that may have lists, by walking them.
std::uint64_t walk(const InputFile& file, std::uint64_t at, const PlyElement& e, bool big) {
    if (!e.has_list()) {
        if (e.bytes() != 0 && e.count > (file.size() - at) / e.bytes())
            throw Error(
                ErrorCode::Format,
                fmt::format("{} elements '{}' are announced, more than the file holds", e.count, e.name),
                file.place(at));
        return at + e.count * e.bytes();
    }
    for (std::uint64_t i = 0; i < e.count; ++i)
        for (const PlyProperty& p : e.properties) {
            if (!p.list) {
                at += bytes_of(p.type);
                continue;
            }
            std::byte raw[8];
            file.read_at(at, std::span(raw, bytes_of(p.count_type)));
            if (big) std::reverse(raw, raw + bytes_of(p.count_type));
            const double n = value(Field{"", p.count_type, 0}, raw);
            if (n < 0 || n > static_cast<double>(file.size()))
                throw Error(ErrorCode::Format, "A list has an impossible length", file.place(at));
            at += bytes_of(p.count_type) + static_cast<std::uint64_t>(n) * bytes_of(p.type);
        }
    return at;
}

std::uint64_t checked(std::uint64_t announced, std::uint64_t there, const std::string& place,
                      const ReadOptions& options, std::vector<std::string>& warnings) {
    if (announced <= there) return announced;
    const std::string what = fmt::format("The header announces {} points, the file has {}", announced, there);
    if (!options.accept_partial)
        throw Error(ErrorCode::Format, what, place, fmt::format("The first {} points can be read.", there),
                    Remedy::ReadPart);
    warnings.push_back(what + ". These were read.");
    return there;
}

std::shared_ptr<const cloud::RecordSource> binary_records(std::shared_ptr<const InputFile> file,
                                                          const PlyHeader& h, const PlyElement& vertex,
                                                          const ReadOptions& options,
                                                          std::vector<std::string>& warnings) {
    const bool big = h.encoding == PlyEncoding::BinaryBig;
    std::uint64_t at = h.bytes;
    for (const PlyElement& e : h.elements) {
        if (&e == &vertex) break;
        at = walk(*file, at, e, big);
    }
    if (vertex.has_list())
        throw Error(ErrorCode::Unsupported, "The vertices of this binary PLY file carry lists",
                    file->place(0), "Write them without lists, or as ascii.");
    const std::uint64_t there =
        at > file->size() || vertex.bytes() == 0 ? 0 : (file->size() - at) / vertex.bytes();
    const std::uint64_t count = checked(vertex.count, there, file->place(at), options, warnings);
    return std::make_shared<PlyRecords>(std::move(file), layout_of(h, vertex), at, count, big);
}

std::shared_ptr<const cloud::RecordSource> ascii_records(std::shared_ptr<const InputFile> file,
                                                         const PlyHeader& h, const PlyElement& vertex,
                                                         const ReadOptions& options,
                                                         std::vector<std::string>& warnings,
                                                         Progress& progress) {
    TableShape shape{h.bytes, 0, false};
    shape.first_line_number = h.lines + 1;
    for (const PlyElement& e : h.elements) {
        if (&e == &vertex) break;
        shape.line_limit = e.count;
        const TextTable skipped(file, shape, {"", 0, {}, ""}, progress);
        shape.begin = skipped.end_of_data();
    }
    if (vertex.has_list() && !vertex.properties.back().list)
        throw Error(ErrorCode::Unsupported,
                    "The vertices of this PLY file carry lists between other properties", file->place(0));
    shape.line_limit = vertex.count;
    auto table = std::make_shared<TextTable>(file, shape, layout_of(h, vertex), progress);
    std::uint64_t there = table->count();
    if (options.accept_partial) {
        std::string error;
        there = table->readable(error, progress);
        if (!error.empty()) warnings.push_back(error);
    }
    table->limit(checked(vertex.count, there, file->place(table->end_of_data()), options, warnings));
    return table;
}

}  // namespace

ReadResult read_ply(const std::filesystem::path& path, const ReadOptions& options, Progress& progress) {
    const auto file = std::make_shared<const InputFile>(path);
    const std::string name = path.filename().string();
    const PlyHeader h = parse_ply_header(file->read_string(0, std::min(file->size(), kLongestHeader)), name);
    const PlyElement* vertex = h.find("vertex");
    if (!vertex) throw Error(ErrorCode::Format, "The file has no element 'vertex'", name);
    ReadResult result;
    progress.stretch(0, 0.1, "Finding points");
    const auto records = h.encoding == PlyEncoding::Ascii
                             ? ascii_records(file, h, *vertex, options, result.warnings, progress)
                             : binary_records(file, h, *vertex, options, result.warnings);
    require_coordinates(records->layout(), name);
    for (const PlyElement& e : h.elements)
        if (&e != vertex && e.count > 0)
            result.warnings.push_back(
                fmt::format("{} elements '{}' were left out: only points are read.", e.count, e.name));
    progress.stretch(0.1, 0.3, "Looking at columns");
    const auto ranges = field_ranges(*records, progress);
    const Progress::Part part(progress, 0.3, 1, "Reading points");
    cloud::Reference reference;
    for (const std::string& line : h.remarks) take_remark(line, reference);
    cloud::PointCloud::Parts known;
    known.crs = reference.crs;
    known.unit = reference.unit;
    known.height_unit = reference.height_unit;
    result.cloud = cloud_from_records(records, ranges, -1, result.warnings, progress, std::move(known));
    const char* encoding[] = {"ascii", "binary little endian", "binary big endian"};
    result.format = fmt::format("PLY, {}", encoding[static_cast<int>(h.encoding)]);
    return result;
}

CloudFormat ply_format() {
    return {
        "ply",
        "PLY point cloud",
        {"ply"},
        [](std::span<const std::byte> head) {
            return head.size() >= 4 && std::memcmp(head.data(), "ply", 3) == 0 &&
                   (head[3] == std::byte{'\n'} || head[3] == std::byte{'\r'} || head[3] == std::byte{' '});
        },
        read_ply,
        write_ply};
}

}  // namespace pristine::io
