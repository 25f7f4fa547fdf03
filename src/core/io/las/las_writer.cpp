#include <algorithm>
#include <cmath>
#include <cstring>
#include <functional>
#include <optional>

#include "core/io/keep.h"
#include "core/io/las/las.h"
#include "core/io/laz/laz.h"
#include "core/io/reference/system.h"

namespace pristine::io {
namespace {

using cloud::Field;
using cloud::RecordLayout;

bool drops_nothing(const WriteItem& item) {
    return !item.keep || item.keep->count() == item.keep->size();
}

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
    const RecordLayout& layout = item.cloud->records()->layout();
    LasHead head = split_las_head(layout.head);
    const std::int64_t said_before = static_cast<std::int64_t>(head.before.size());
    // The head says what it always said, unless a person stated something else.
    if (item.cloud->base())
        head.before = las_head_with_system(
            head.before, wkt_with_unit(item.cloud->crs(), item.cloud->unit(), item.cloud->height_unit()));
    const int point_format = head.before[104] & 0x3F;
    Sink sink(out, head.before, point_format, layout.record_bytes, compress);
    LasCounts counts;
    for_kept_records(item, progress, 0, 1, [&](const std::byte* records, std::size_t n) {
        for (std::size_t i = 0; i < n; ++i) counts.add(records + i * layout.record_bytes, point_format);
        sink.write(records, n);
    });
    const auto end = static_cast<std::int64_t>(sink.finish());
    out.write(head.after);
    const std::uint64_t before =
        static_cast<std::uint64_t>(said_before) + item.cloud->records()->count() * layout.record_bytes;
    const std::int64_t shift = end - static_cast<std::int64_t>(before);
    if (drops_nothing(item) && shift == 0) return counts.points;
    sink.rewrite_head([&](std::string& h) {
        move_las_offsets(h, shift);
        if (!drops_nothing(item)) update_las_header(h, counts);
    });
    return counts.points;
}

// How fields of a source become fields of a new LAS record.
struct Mapping {
    std::vector<std::pair<Field, Field>> copy;  // from, to
    RecordLayout to;
    int point_format = 6;
};

// The grid of the first cloud if all of them fit on it, else one that holds them all.
cloud::Grid common_grid(const std::vector<WriteItem>& items) {
    cloud::Grid grid = items.front().cloud->grid();
    Box3 box;
    for (const WriteItem& item : items) box.add(item.cloud->bounds());
    if (box.empty()) return grid;
    for (int a = 0; a < 3; ++a) {
        const auto fits = [&](double v) {
            return std::fabs((v - grid.offset[a]) / grid.scale[a]) < 2147483647.0;
        };
        if (fits(box.lo[a]) && fits(box.hi[a])) continue;
        grid.offset[a] = std::floor((box.lo[a] + box.hi[a]) / 2);
        while (!fits(box.lo[a]) || !fits(box.hi[a])) grid.scale[a] *= 10;
    }
    return grid;
}

Mapping plan(const std::vector<WriteItem>& items) {
    Mapping m;
    bool colour = false;
    for (const WriteItem& item : items) colour |= item.cloud->records()->layout().find("red") != nullptr;
    m.point_format = colour ? 7 : 6;
    LasHeader h;
    h.point_format = m.point_format;
    h.record_bytes = static_cast<std::uint16_t>(las_base_bytes(m.point_format));
    const cloud::Grid grid = common_grid(items);
    h.scale = grid.scale;
    h.offset = grid.offset;
    m.to.format = "las";
    m.to.fields = las_fields(h, {});
    m.to.record_bytes = h.record_bytes;
    std::vector<Field> extra;
    for (const WriteItem& item : items)
        for (const Field& f : item.cloud->records()->layout().fields) {
            if (m.to.find(f.name) || f.words) continue;  // numbers of words would say nothing there
            Field e{f.name.substr(0, 31),
                    f.bits ? cloud::FieldType::U8 : f.type,
                    m.to.record_bytes,
                    0,
                    0,
                    f.scale,
                    f.shift};
            m.to.record_bytes += bytes_of(e.type);
            extra.push_back(e);
            m.to.fields.push_back(e);
        }
    const cloud::PointCloud& first = *items.front().cloud;
    m.to.head = new_las_head(m.point_format, grid, extra,
                             wkt_with_unit(first.crs(), first.unit(), first.height_unit()));
    return m;
}

// Intensity and colours of other formats come in other ranges; the factor brings them to 0..65535.
double factor_to_16_bit(const Field& from) {
    const bool colour = from.name == "red" || from.name == "green" || from.name == "blue";
    if (from.type == cloud::FieldType::U8 && colour) return 257;
    if (from.type == cloud::FieldType::F32 && (colour || from.name == "intensity"))
        return 65535;  // by our convention 0..1
    return 1;
}

void pair_fields(const RecordLayout& from, Mapping& m) {
    m.copy.clear();
    for (const Field& to : m.to.fields) {
        const Field* f = from.find(to.name);
        if (!f) continue;
        Field source = *f;
        if (from.format != "las") {
            const double k = factor_to_16_bit(*f);
            source.scale *= k;
            source.shift *= k;
        }
        m.copy.emplace_back(source, to);
    }
}

std::uint64_t convert_to_las(const std::vector<WriteItem>& items, OutputFile& out, bool compress,
                             Progress& progress) {
    Mapping m = plan(items);
    Sink sink(out, m.to.head, m.point_format, m.to.record_bytes, compress);
    LasCounts counts;
    std::vector<std::byte> record(m.to.record_bytes);
    for (std::size_t k = 0; k < items.size(); ++k) {
        const RecordLayout& from = items[k].cloud->records()->layout();
        pair_fields(from, m);
        const double share = 1.0 / static_cast<double>(items.size());
        for_kept_records(items[k], progress, static_cast<double>(k) * share,
                         static_cast<double>(k + 1) * share, [&](const std::byte* records, std::size_t n) {
                             for (std::size_t i = 0; i < n; ++i) {
                                 std::fill(record.begin(), record.end(), std::byte{0});
                                 if (!from.find("return")) record[14] = std::byte{0x11};  // return 1 of 1
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

std::uint64_t write_las(const std::vector<WriteItem>& items, OutputFile& out, bool compress,
                        Progress& progress) {
    if (items.empty()) throw Error(ErrorCode::Usage, "There is nothing to write");
    progress.stretch(0, 1, "Writing points");
    if (items.size() == 1 && items.front().cloud->records()->layout().format == "las")
        return copy_las(items.front(), out, compress, progress);
    return convert_to_las(items, out, compress, progress);
}

}  // namespace pristine::io
