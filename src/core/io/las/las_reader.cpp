#include <fmt/format.h>

#include <algorithm>
#include <atomic>
#include <cstring>

#include "core/base/bytes.h"
#include "core/base/file.h"
#include "core/base/parallel.h"
#include "core/cloud/builder.h"
#include "core/io/las/las.h"
#include "core/io/laz/laz.h"
#include "core/io/reference/system.h"

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

bool within_8_bits(const std::byte* record, std::size_t n, std::size_t record_bytes, std::size_t at) {
    for (std::size_t i = 0; i < n; ++i, record += record_bytes)
        for (std::size_t c = 0; c < 3; ++c)
            if (load_le<std::uint16_t>(record + at + 2 * c) > 255) return false;
    return true;
}

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
        if (!within_8_bits(buffer.data(), n, bytes, at)) return false;
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
                    fmt::format("The first {} points can be read.", room), Remedy::ReadPart);
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

namespace {

// What both kinds of file share once their records can be read.
struct Reading {
    std::shared_ptr<const InputFile> file;
    LasHeader header;
    std::vector<LasVlr> vlrs;
    cloud::RecordLayout layout(std::string head) const {
        return {"las", header.record_bytes, las_fields(header, vlrs), std::move(head)};
    }
    cloud::PointCloud::Parts parts(std::shared_ptr<const cloud::RecordSource> records) const {
        cloud::PointCloud::Parts p;
        p.grid = {header.scale, header.offset};
        p.records = std::move(records);
        p.crs = las_crs(vlrs);
        const System system = system_of(p.crs);
        p.unit = system.unit;
        p.height_unit = system.height_unit;
        return p;
    }
};

std::shared_ptr<const cloud::PointCloud> read_plain(const Reading& r, std::uint64_t count,
                                                    Progress& progress) {
    const LasHeader& h = r.header;
    cloud::RecordLayout layout = r.layout(las_head(*r.file, h, count));
    const cloud::Field* red = layout.find("red");
    const std::size_t colour_at = red ? red->offset : 0;
    const auto records = std::make_shared<LasRecords>(r.file, std::move(layout), h.points_offset, count);
    const Decoder decode{h.point_format, h.record_bytes, colour_at,
                         colour_at && !colours_are_8_bit(*records, colour_at) ? 8 : 0};
    cloud::PointSource source;
    for (std::size_t p = 0; p < pages_for(count); ++p)
        source.sizes.push_back(static_cast<std::uint32_t>(page_length(count, p)));
    source.columns = {true, colour_at != 0, true};
    source.batch = [&](std::size_t p) {
        const std::size_t n = page_length(count, p);
        std::vector<std::byte> raw(n * h.record_bytes);
        records->read(std::uint64_t{p} * kPageSize, raw);
        return decode(raw.data(), n);
    };
    return cloud::build(source, r.parts(records), progress);
}

// The head of the LAS file that a LAZ file stands for.
std::string head_behind_laz(const Reading& r, std::uint64_t count) {
    const InputFile& file = *r.file;
    const LasHeader& h = r.header;
    LasHead head{plain_las_head(file.read_string(0, h.points_offset)), {}};
    std::uint64_t after = file.size();
    for (const std::uint64_t at : {h.evlr_offset, h.waveform_offset})
        if (at > h.points_offset) after = std::min(after, at);
    head.after = file.read_string(after, file.size() - after);
    const std::uint64_t end = head.before.size() + count * h.record_bytes;
    move_las_offsets(head.before, static_cast<std::int64_t>(end) - static_cast<std::int64_t>(after));
    return join_las_head(head);
}

const LasVlr& compression_of(const Reading& r) {
    for (const LasVlr& v : r.vlrs)
        if (v.user == "laszip encoded" && v.id == 22204) return v;
    throw Error(ErrorCode::Format, "The points are marked as compressed, but nothing says how",
                r.file->path().filename().string());
}

// Chunk after chunk of a LAZ file. Two things are only known when all chunks were decoded once: which are
// damaged, and whether all colours are within 0..255, that is, of 8 bits. In a file of 16 bits, colours of a
// chunk that looked like 8 bits are then known to be darker than 1/255: black.
class ChunkSource {
  public:
    ChunkSource(laz::LazRecords& records, const LasHeader& h, bool accept_partial)
        : records_(records),
          header_(h),
          accept_partial_(accept_partial),
          chunks_(records.chunks()),
          red_(records.layout().find("red")),
          dark_(chunks_.size(), 0),
          damaged_(chunks_.size(), 0) {}

    cloud::PointSource source() {
        cloud::PointSource s;
        for (const laz::Chunk& c : chunks_) s.sizes.push_back(static_cast<std::uint32_t>(c.count));
        s.columns = {true, red_ != nullptr, true};
        s.batch = [this](std::size_t k) { return batch(k); };
        s.settle = [this](std::span<PointBatch> kept) { settle(kept); };
        s.read_share = 0.6;
        return s;
    }
    std::size_t damaged() const {
        return static_cast<std::size_t>(std::count(damaged_.begin(), damaged_.end(), 1));
    }

  private:
    PointBatch batch(std::size_t k) {
        if (damaged_[k]) return {};
        std::vector<std::byte> raw;
        try {
            raw = records_.decode(chunks_[k]);
        } catch (const Error&) {
            if (!accept_partial_) throw;
            damaged_[k] = 1;
            return {};
        }
        const std::size_t n = raw.size() / header_.record_bytes;
        if (red_ && !settled_) dark_[k] = within_8_bits(raw.data(), n, header_.record_bytes, red_->offset);
        const bool as_8_bit = settled_ ? all_dark_ : dark_[k] != 0;
        return Decoder{header_.point_format, header_.record_bytes, red_ ? red_->offset : 0,
                       red_ && !as_8_bit ? 8 : 0}(raw.data(), n);
    }

    void settle(std::span<PointBatch> kept) {
        for (std::size_t k = 0; k < chunks_.size(); ++k)
            if (!damaged_[k]) all_dark_ &= dark_[k] != 0;
        settled_ = true;
        if (damaged() > 0) records_.drop(damaged_);
        if (!all_dark_)
            for (std::size_t k = 0; k < kept.size(); ++k)
                if (dark_[k]) std::fill(kept[k].colour.begin(), kept[k].colour.end(), 0u);
    }

    laz::LazRecords& records_;
    const LasHeader& header_;
    bool accept_partial_;
    std::vector<laz::Chunk> chunks_;
    const cloud::Field* red_;
    std::vector<char> dark_, damaged_;
    bool settled_ = false, all_dark_ = true;
};

std::shared_ptr<const cloud::PointCloud> read_compressed(const Reading& r, const ReadOptions& options,
                                                         std::vector<std::string>& warnings,
                                                         Progress& progress) {
    const LasHeader& h = r.header;
    const laz::Scheme scheme = laz::parse_scheme(compression_of(r).data, h.point_format, h.record_bytes);
    auto chunks = laz::find_chunks(*r.file, h, scheme, options.accept_partial, warnings);
    const std::uint64_t count = chunks.empty() ? 0 : chunks.back().first + chunks.back().count;
    const auto records = std::make_shared<laz::LazRecords>(r.file, r.layout(head_behind_laz(r, count)),
                                                           scheme, std::move(chunks));
    ChunkSource points(*records, h, options.accept_partial);
    const std::size_t n_chunks = records->chunks().size();
    auto built = cloud::build(points.source(), r.parts(records), progress);
    if (points.damaged() > 0)
        warnings.push_back(fmt::format("{} of {} chunks of points are damaged and were left out.",
                                       points.damaged(), n_chunks));
    return built;
}

}  // namespace

ReadResult read_las(const std::filesystem::path& path, const ReadOptions& options, Progress& progress) {
    ReadResult result;
    Reading r;
    r.file = std::make_shared<const InputFile>(path);
    r.header = read_las_header(*r.file);
    r.vlrs = read_las_vlrs(*r.file, r.header, result.warnings);
    const LasHeader& h = r.header;
    result.format = fmt::format("{} {}.{}, point format {}", h.compressed ? "LAZ" : "LAS", h.major, h.minor,
                                h.point_format);
    if (h.compressed)
        result.cloud = read_compressed(r, options, result.warnings, progress);
    else
        result.cloud = read_plain(r, checked_count(*r.file, h, options, result.warnings), progress);
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
            [](const std::vector<WriteItem>& items, OutputFile& out, const WriteOptions& options,
               Progress& progress) { return write_las(items, out, false, options.las, progress); }};
}

CloudFormat laz_format() {
    return {"laz",
            "LAZ point cloud (compressed LAS)",
            {"laz"},
            [](std::span<const std::byte> head) {
                return head.size() > 104 && std::memcmp(head.data(), "LASF", 4) == 0 &&
                       (head[104] & std::byte{0xC0}) != std::byte{0};
            },
            read_las,
            [](const std::vector<WriteItem>& items, OutputFile& out, const WriteOptions& options,
               Progress& progress) { return write_las(items, out, true, options.las, progress); }};
}

}  // namespace pristine::io
