#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstring>
#include <functional>
#include <map>
#include <optional>

#include "core/io/full_scale.h"
#include "core/io/keep.h"
#include "core/io/las/las.h"
#include "core/io/laz/laz.h"
#include "core/io/reference/system.h"

namespace pristine::io {
namespace {

using cloud::Field;
using cloud::RecordLayout;

// Where records go: plain, or compressed on the way.
class Sink {
  public:
    Sink(OutputFile& out, const std::string& before, int point_format, std::size_t record_bytes,
         bool compress)
        : out_(out), before_(before), record_bytes_(record_bytes) {
        if (compress)
            laz_.emplace(out, before, point_format, record_bytes);
        else
            out.write(before);
    }
    void write(const std::byte* records, std::size_t n) {
        if (laz_)
            laz_->write(records, n);
        else
            out_.write(records, n * record_bytes_);
    }
    /// Ends the points; returns where what follows them begins.
    std::uint64_t finish() { return laz_ ? laz_->finish() : out_.written(); }
    void rewrite_head(const std::function<void(std::string&)>& change) {
        std::string& head = laz_ ? laz_->head() : before_;
        change(head);
        out_.write_at(0, head.data(), head.size());
    }

  private:
    OutputFile& out_;
    std::string before_;
    std::size_t record_bytes_;
    std::optional<laz::Writer> laz_;
};

// One LAS cloud into a LAS file: everything is copied, the header brought up to date if anything is left out.
std::uint64_t copy_las(const WriteItem& item, OutputFile& out, bool compress, Progress& progress) {
    const RecordLayout layout = layout_of(item);
    LasHead head = split_las_head(layout.head);
    const std::int64_t said_before = static_cast<std::int64_t>(head.before.size());
    // The head says what it always said, unless a person stated something else.
    if (item.cloud->base() && item.cloud->base()->reference() != item.cloud->reference())
        head.before = las_head_with_system(
            head.before, wkt_with_unit(item.cloud->crs(), item.cloud->unit(), item.cloud->height_unit()));
    const int point_format = head.before[104] & 0x3F;
    if (point_format > 10 || layout.record_bytes < las_base_bytes(point_format))
        throw Error(ErrorCode::Format, "The stored header of a LAS file is damaged");
    Sink sink(out, head.before, point_format, layout.record_bytes, compress);
    LasCounts counts;
    for_kept_records(item, progress, 0, 1, [&](const std::byte* records, std::size_t n) {
        for (std::size_t i = 0; i < n; ++i) counts.add(records + i * layout.record_bytes, point_format);
        sink.write(records, n);
    });
    const auto end = static_cast<std::int64_t>(sink.finish());
    if (!compress || unreachable_tail(head) == 0) out.write(head.after);
    const std::uint64_t before =
        static_cast<std::uint64_t>(said_before) + item.cloud->records()->count() * layout.record_bytes;
    const std::int64_t shift = end - static_cast<std::int64_t>(before);
    // Of a file that was cut off fewer points came in than its header says.
    const bool other_count = counts.points != las_points_said(head.before);
    if (!other_count && shift == 0) return counts.points;
    sink.rewrite_head([&](std::string& h) {
        move_las_offsets(h, shift);
        if (other_count) update_las_header(h, counts);
    });
    return counts.points;
}

// How fields of a source become fields of a new LAS record.
struct Mapping {
    std::vector<std::pair<Field, Field>> copy;      // from, to
    std::vector<std::pair<Field, Field>> narrow{};  // of these: where the target has fewer bits
    RecordLayout to;
    int point_format = 6;
    std::map<std::string, std::string> own_name{};  // of fields that are called otherwise in the file
    /// Whether a field of the source has its place already.
    bool holds(const std::string& name) const {
        for (const auto& [in_file, own] : own_name)
            if (own == name) return true;
        return to.find(name) != nullptr && !own_name.contains(name);
    }
};

constexpr const char* kOwnIntensity = "intensity as measured";

// The grid of the first cloud, or of the step that is wanted, if all fit on it, else one that holds them all.
cloud::Grid common_grid(const std::vector<WriteItem>& items, double step) {
    cloud::Grid grid = items.front().cloud->grid();
    if (step != 0) grid.scale = {step, step, step};
    Box3 box;
    for (const WriteItem& item : items) box.add(item.cloud->bounds());
    if (box.empty()) return grid;
    for (int a = 0; a < 3; ++a) {
        const auto fits = [&](double v) {
            return std::fabs((v - grid.offset[a]) / grid.scale[a]) < 2147483647.0;
        };
        if (fits(box.lo[a]) && fits(box.hi[a])) continue;
        grid.offset[a] = std::floor((box.lo[a] + box.hi[a]) / 2);
        if (step != 0 && (!fits(box.lo[a]) || !fits(box.hi[a])))
            throw Error(
                ErrorCode::Usage,
                fmt::format("A step of {} is too fine for LAS here: its coordinates have four billion "
                            "steps, and these lie {} apart",
                            step, box.hi[a] - box.lo[a]),
                {}, "Take a coarser step.");
        while (!fits(box.lo[a]) || !fits(box.hi[a])) grid.scale[a] *= 10;
    }
    return grid;
}

// The first 31 bytes of a name, cut between characters, told apart from those taken already.
std::string las_name(const std::string& name, const RecordLayout& taken) {
    constexpr std::size_t kLongest = 31;
    const auto cut = [&](std::size_t room) {
        std::size_t n = std::min(name.size(), room);
        while (n > 0 && n < name.size() && (static_cast<unsigned char>(name[n]) & 0xC0u) == 0x80u) --n;
        return name.substr(0, n);
    };
    std::string out = cut(kLongest);
    for (int k = 2; taken.find(out); ++k) {
        const std::string end = "_" + std::to_string(k);
        out = cut(kLongest - end.size()) + end;
    }
    return out;
}

// Clouds of LAS have the ranges of LAS.
bool needs_scales(const std::vector<WriteItem>& items) {
    return std::any_of(items.begin(), items.end(),
                       [](const WriteItem& item) { return item.cloud->records()->layout().format != "las"; });
}

Mapping plan(const std::vector<WriteItem>& items, const Scales& scales, const LasOptions& options) {
    Mapping m;
    bool colour = false;
    for (const WriteItem& item : items) colour |= layout_of(item).find("red") != nullptr;
    m.point_format = options.point_format >= 0 ? options.point_format : colour ? 7 : 6;
    LasHeader h;
    h.point_format = m.point_format;
    h.record_bytes = static_cast<std::uint16_t>(las_base_bytes(m.point_format));
    const cloud::Grid grid = common_grid(items, options.step);
    h.scale = grid.scale;
    h.offset = grid.offset;
    m.to.format = "las";
    m.to.fields = las_fields(h, {});
    m.to.record_bytes = h.record_bytes;
    std::vector<Field> extra;
    for (const WriteItem& item : items) {
        const RecordLayout from = layout_of(item);
        for (const Field& f : from.fields) {
            if (f.words) continue;  // numbers of words would say nothing there
            // Intensities that LAS has no room for are kept as they were, beside those that it has.
            const bool kept = f.name == "intensity" && scales.las.stretched;
            const std::string source = kept ? "intensity" : f.name;
            if (kept ? m.to.find(kOwnIntensity) != nullptr : m.holds(f.name)) continue;
            Field e{kept ? kOwnIntensity : las_name(f.name, m.to),
                    f.bits ? cloud::FieldType::U8 : f.type,
                    m.to.record_bytes,
                    0,
                    0,
                    f.scale,
                    f.shift};
            m.to.record_bytes += bytes_of(e.type);
            if (e.name != source) m.own_name[e.name] = source;
            extra.push_back(e);
            m.to.fields.push_back(e);
        }
    }
    const cloud::PointCloud& first = *items.front().cloud;
    m.to.head = new_las_head(m.point_format, grid, extra,
                             wkt_with_unit(first.crs(), first.unit(), first.height_unit()));
    return m;
}

// Intensity and colours of other formats come in other ranges; LAS wants 0..65535.
void to_16_bit(Field& f, const Scales& scales) {
    const bool colour = f.name == "red" || f.name == "green" || f.name == "blue";
    if (!colour && f.name != "intensity") return;
    const double factor = colour ? 65535 / (scales.colour.hi - scales.colour.lo) : scales.las.factor,
                 shift = colour ? -scales.colour.lo * factor : scales.las.shift;
    f.scale *= factor;
    f.shift = f.shift * factor + shift;
}

void pair_fields(const RecordLayout& from, const Scales& scales, Mapping& m) {
    m.copy.clear();
    m.narrow.clear();
    for (const Field& to : m.to.fields) {
        const auto own = m.own_name.find(to.name);
        const Field* f = from.find(own == m.own_name.end() ? to.name : own->second);
        if (!f) continue;
        Field source = *f;
        if (from.format != "las" && own == m.own_name.end()) to_16_bit(source, scales);
        m.copy.emplace_back(source, to);
        if (to.bits > 1 && (source.bits == 0 || source.bits > to.bits)) m.narrow.emplace_back(source, to);
    }
}

// What has too few bits in a field would come out as another value: that is refused.
void require_room(const Mapping& m, const std::byte* source) {
    for (const auto& [from, to] : m.narrow) {
        const double v = value(from, source);
        if ((v >= 0 && v < 1 << to.bits) || std::isnan(v)) continue;  // not stated is zero
        throw Error(
            ErrorCode::Usage,
            fmt::format("{} {} has no place in point format {} of LAS, which has up to {} there",
                        to.name == "class" ? "Class" : "'" + to.name + "'", v, m.point_format,
                        (1 << to.bits) - 1),
            {}, m.point_format < 6 ? "Take point format 6, 7 or 8." : "Write PLY or text, which hold it.");
    }
}

constexpr std::size_t kGlobalEncoding = 6;

// Whether the times of LAS clouds count from one origin ("adjusted standard") or within a week. Throws
// Error(Usage) when they differ: one file cannot hold both.
bool gps_time_is_adjusted(const std::vector<WriteItem>& items) {
    std::optional<bool> adjusted;
    for (const WriteItem& item : items) {
        const RecordLayout& l = item.cloud->records()->layout();
        if (l.format != "las" || !l.find("time")) continue;
        const bool own = (split_las_head(l.head).before[kGlobalEncoding] & 1) != 0;
        if (adjusted && *adjusted != own)
            throw Error(ErrorCode::Usage,
                        "The times of some clouds count within a week, of others from one origin", {},
                        "Write them into files of their own.");
        adjusted = own;
    }
    return adjusted.value_or(false);
}

std::uint64_t convert_to_las(const std::vector<WriteItem>& items, OutputFile& out, bool compress,
                             const LasOptions& options, Progress& progress) {
    const Scales scales = [&] {
        const Progress::Part part(progress, 0, 0.1, "Looking at intensities and colours");
        return needs_scales(items) ? scales_of(items, progress) : Scales();
    }();
    Mapping m = plan(items, scales, options);
    // Return 1 of 1.
    const std::byte only_return{static_cast<unsigned char>(m.point_format < 6 ? 0x09 : 0x11)};
    if (gps_time_is_adjusted(items))
        m.to.head[kGlobalEncoding] = static_cast<char>(m.to.head[kGlobalEncoding] | 1);
    Sink sink(out, m.to.head, m.point_format, m.to.record_bytes, compress);
    LasCounts counts;
    std::vector<std::byte> record(m.to.record_bytes);
    for (std::size_t k = 0; k < items.size(); ++k) {
        const RecordLayout from = layout_of(items[k]);
        pair_fields(from, scales, m);
        const double share = 1.0 / static_cast<double>(items.size());
        for_kept_records(items[k], progress, static_cast<double>(k) * share,
                         static_cast<double>(k + 1) * share, [&](const std::byte* records, std::size_t n) {
                             for (std::size_t i = 0; i < n; ++i) {
                                 std::fill(record.begin(), record.end(), std::byte{0});
                                 if (!from.find("return")) record[14] = only_return;
                                 require_room(m, records + i * from.record_bytes);
                                 for (const auto& [source, to] : m.copy)
                                     put(to, record.data(), value(source, records + i * from.record_bytes));
                                 counts.add(record.data(), m.point_format);
                                 sink.write(record.data(), 1);
                             }
                         });
    }
    sink.finish();
    sink.rewrite_head([&](std::string& h) { update_las_header(h, counts); });
    return counts.points;
}

}  // namespace

bool las_is_converted(const std::vector<WriteItem>& items, const LasOptions& options) {
    if (items.size() != 1) return true;
    const cloud::PointCloud& c = *items.front().cloud;
    const RecordLayout& l = c.records()->layout();
    if (l.format != "las" || l.head.empty()) return true;
    const auto other_step = [&] {
        return std::any_of(l.fields.begin(), l.fields.end(), [&](const Field& f) {
            return (f.name == "x" || f.name == "y" || f.name == "z") && f.scale != options.step;
        });
    };
    return (options.step != 0 && other_step()) ||
           (options.point_format >= 0 && (split_las_head(l.head).before[104] & 0x3F) != options.point_format);
}

std::uint64_t write_las(const std::vector<WriteItem>& items, OutputFile& out, bool compress,
                        const LasOptions& options, Progress& progress) {
    if (items.empty()) throw Error(ErrorCode::Usage, "There is nothing to write");
    if (options.point_format >= 0 && std::find(kLasPointFormats.begin(), kLasPointFormats.end(),
                                               options.point_format) == kLasPointFormats.end())
        throw Error(ErrorCode::Usage, fmt::format("Point format {} cannot be written", options.point_format),
                    {}, "0 to 3 are LAS 1.2, 6 to 8 are LAS 1.4.");
    if (!(options.step >= 0) || std::isinf(options.step))
        throw Error(ErrorCode::Usage, "The step of coordinates must be larger than zero");
    progress.stretch(0, 1, "Writing points");
    if (las_is_converted(items, options)) return convert_to_las(items, out, compress, options, progress);
    return copy_las(items.front(), out, compress, progress);
}

}  // namespace pristine::io
