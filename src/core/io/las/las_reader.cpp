#include <fmt/format.h>

#include <algorithm>
#include <atomic>
#include <cstring>

#include "core/base/bytes.h"
#include "core/base/parallel.h"
#include "core/cloud/builder.h"
#include "core/io/las/las.h"

namespace pristine::io {
namespace {

using cloud::PointBatch;

// Records straight from the opened file. The descriptor stays open, so a file deleted meanwhile can still be
// exported.
class LasRecords : public cloud::RecordSource {
  public:
    LasRecords(std::shared_ptr<const InputFile> file, cloud::RecordLayout layout, std::uint64_t offset,
               std::uint64_t count)
        : file_(std::move(file)), layout_(std::move(layout)), offset_(offset), count_(count) {}
    const cloud::RecordLayout& layout() const override { return layout_; }
    std::uint64_t count() const override { return count_; }
    void read(std::uint64_t first, std::span<std::byte> out) const override {
        file_->read_at(offset_ + first * layout_.record_bytes, out);
    }

  private:
    std::shared_ptr<const InputFile> file_;
    cloud::RecordLayout layout_;
    std::uint64_t offset_, count_;
};

// Many programs write 0..255 where the specification wants 0..65535. Looks at 64 stretches spread over the
// file.
bool colours_are_8_bit(const cloud::RecordSource& records, std::size_t at) {
    const std::size_t bytes = records.layout().record_bytes;
    constexpr std::uint64_t looks = 64, stretch = 512;
    std::vector<std::byte> buffer(stretch * bytes);
    const std::uint64_t count = records.count();
    for (std::uint64_t k = 0; k < looks; ++k) {
        const std::uint64_t first = count / looks * k;
        const auto n = static_cast<std::size_t>(std::min<std::uint64_t>(stretch, count - first));
        records.read(first, std::span(buffer.data(), n * bytes));
        for (std::size_t i = 0; i < n; ++i)
            for (std::size_t c = 0; c < 3; ++c)
                if (load_le<std::uint16_t>(buffer.data() + i * bytes + at + 2 * c) > 255) return false;
    }
    return true;
}

struct Decoder {
    int point_format;
    std::size_t record_bytes;
    std::size_t colour_at;  // 0: none
    int colour_shift;

    PointBatch operator()(const std::byte* r, std::size_t n) const {
        PointBatch b;
        b.x.resize(n);
        b.y.resize(n);
        b.z.resize(n);
        b.intensity.resize(n);
        b.classification.resize(n);
        if (colour_at) b.colour.resize(n);
        for (std::size_t i = 0; i < n; ++i, r += record_bytes) {
            b.x[i] = load_le<std::int32_t>(r);
            b.y[i] = load_le<std::int32_t>(r + 4);
            b.z[i] = load_le<std::int32_t>(r + 8);
            b.intensity[i] = load_le<std::uint16_t>(r + 12);
            b.classification[i] = static_cast<std::uint8_t>(
                point_format < 6 ? static_cast<unsigned>(r[15]) & 31u : static_cast<unsigned>(r[16]));
            if (!colour_at) continue;
            std::uint32_t rgb = 0;
            for (std::size_t c = 0; c < 3; ++c)
                rgb = rgb << 8 | ((load_le<std::uint16_t>(r + colour_at + 2 * c) >> colour_shift) & 255u);
            b.colour[i] = rgb;
        }
        return b;
    }
};

std::string unit_of(const std::string& crs) {
    if (crs.find("US survey foot") != std::string::npos) return "usft";
    if (crs.find("UNIT[\"foot\"") != std::string::npos) return "ft";
    return crs.find("UNIT[\"metre\"") != std::string::npos ? "m" : "";
}

// How many records there really are; a header that promises more is an error, or a warning when part is
// welcome.
std::uint64_t checked_count(const InputFile& file, const LasHeader& h, const ReadOptions& options,
                            std::vector<std::string>& warnings) {
    const std::uint64_t room = (file.size() - h.points_offset) / h.record_bytes;
    if (h.point_count <= room) return h.point_count;
    const std::string what =
        fmt::format("The header announces {} points of {} bytes, but the file ends after {}", h.point_count,
                    h.record_bytes, room);
    if (!options.accept_partial)
        throw Error(ErrorCode::Format, what, file.place(h.points_offset + room * h.record_bytes),
                    fmt::format("The first {} points can be read (--partial).", room));
    warnings.push_back(what + ". These were read.");
    return room;
}

std::string las_head(const InputFile& file, const LasHeader& h, std::uint64_t count) {
    const std::uint64_t end = h.points_offset + count * h.record_bytes;
    LasHead head{file.read_string(0, h.points_offset), {}};
    // What follows the points: EVLRs, waveforms, or bytes that nobody understands. They are kept as they are.
    head.after = file.read_string(end, file.size() - end);
    return join_las_head(head);
}

}  // namespace

ReadResult read_las(const std::filesystem::path& path, const ReadOptions& options, Progress& progress) {
    const auto file = std::make_shared<const InputFile>(path);
    ReadResult result;
    const LasHeader h = read_las_header(*file);
    if (h.compressed)
        throw Error(ErrorCode::Unsupported, "The points of this file are compressed (LAZ)",
                    path.filename().string(), "Uncompressed LAS can be read in this version.");
    const std::vector<LasVlr> vlrs = read_las_vlrs(*file, h, result.warnings);
    const std::uint64_t count = checked_count(*file, h, options, result.warnings);
    result.format = fmt::format("LAS {}.{}, point format {}", h.major, h.minor, h.point_format);

    cloud::RecordLayout layout{"las", h.record_bytes, las_fields(h, vlrs), las_head(*file, h, count)};
    const cloud::Field* red = layout.find("red");
    const std::size_t colour_at = red ? red->offset : 0;
    const auto records = std::make_shared<LasRecords>(file, std::move(layout), h.points_offset, count);
    const Decoder decode{h.point_format, h.record_bytes, colour_at,
                         colour_at && !colours_are_8_bit(*records, colour_at) ? 8 : 0};

    std::vector<PointBatch> batches(pages_for(count));
    std::atomic<std::size_t> done{0};
    parallel::for_each(batches.size(), [&](std::size_t p) {
        const std::size_t n = page_length(count, p);
        std::vector<std::byte> raw(n * h.record_bytes);
        records->read(std::uint64_t{p} * kPageSize, raw);
        batches[p] = decode(raw.data(), n);
        progress.advance(0.5 * static_cast<double>(++done) / static_cast<double>(batches.size()));
    });
    cloud::PointCloud::Parts parts;
    parts.grid = {h.scale, h.offset};
    parts.records = records;
    parts.crs = las_crs(vlrs);
    parts.unit = unit_of(parts.crs);
    progress.stretch(0.5, 1.0, "Sorting points");
    result.cloud = cloud::build(std::move(batches), std::move(parts), progress);
    return result;
}

CloudFormat las_format() {
    return {"las",
            "LAS point cloud",
            {"las"},
            [](std::span<const std::byte> head) {
                return head.size() >= 4 && std::memcmp(head.data(), "LASF", 4) == 0;
            },
            read_las,
            write_las};
}

}  // namespace pristine::io
