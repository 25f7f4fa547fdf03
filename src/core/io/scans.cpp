#include "core/io/scans.h"

#include <fmt/format.h>

#include <algorithm>
#include <cstring>
#include <optional>
#include <set>

#include "core/base/bytes.h"
#include "core/base/error.h"
#include "core/io/e57/scan.h"
#include "core/io/ptx/ptx.h"

namespace pristine::io {
namespace {

// Several sources one after the other; the column "scan" counts on.
class JoinedRecords : public cloud::RecordSource {
  public:
    JoinedRecords(std::vector<std::shared_ptr<const cloud::RecordSource>> parts, std::vector<int> scans,
                  std::string head)
        : parts_(std::move(parts)), scans_(std::move(scans)), layout_(parts_.front()->layout()) {
        layout_.head = std::move(head);
        for (const auto& p : parts_) ends_.push_back((ends_.empty() ? 0 : ends_.back()) + p->count());
        if (const cloud::Field* f = layout_.find("scan"); f && f->type == cloud::FieldType::U16)
            scan_at_ = f->offset;
    }
    const cloud::RecordLayout& layout() const override { return layout_; }
    std::uint64_t count() const override { return ends_.back(); }
    void read(std::uint64_t first, std::span<std::byte> out) const override {
        std::uint64_t left = out.size() / layout_.record_bytes, at = first;
        for (std::size_t k = 0; k < parts_.size() && left > 0; ++k) {
            if (at >= ends_[k]) continue;
            const std::uint64_t begin = k == 0 ? 0 : ends_[k - 1], n = std::min(left, ends_[k] - at);
            const std::span<std::byte> own = out.first(n * layout_.record_bytes);
            parts_[k]->read(at - begin, own);
            if (scan_at_) number(own, k);
            out = out.subspan(own.size());
            at += n;
            left -= n;
        }
        if (left > 0) throw Error(ErrorCode::Io, "Records beyond the last one were asked for");
    }

  private:
    // A part of one scan gets its number; in one that held several itself they are moved.
    void number(std::span<std::byte> records, std::size_t k) const {
        for (std::size_t at = 0; at < records.size(); at += layout_.record_bytes) {
            std::byte* field = records.data() + at + *scan_at_;
            const int own = scans_[k] >= 0 ? scans_[k] : load_le<std::uint16_t>(field) - scans_[k] - 1;
            store_le(field, static_cast<std::uint16_t>(own));
        }
    }
    std::vector<std::shared_ptr<const cloud::RecordSource>> parts_;
    std::vector<int> scans_;  // of each part its number, or - how many come before it - 1 if it holds several
    cloud::RecordLayout layout_;
    std::vector<std::uint64_t> ends_;
    std::optional<std::size_t> scan_at_;
};

[[noreturn]] void different() {
    throw Error(ErrorCode::Unsupported, "The scans have different columns", {},
                "Merge what is shown instead: that makes a file of one format from all.");
}

bool same_fields(const cloud::RecordLayout& a, const cloud::RecordLayout& b) {
    return a.format == b.format && a.record_bytes == b.record_bytes &&
           std::equal(a.fields.begin(), a.fields.end(), b.fields.begin(), b.fields.end(),
                      [](const cloud::Field& x, const cloud::Field& y) {
                          return x.name == y.name && x.type == y.type && x.offset == y.offset;
                      });
}

// Its own coordinates; the rest as in the whole, so that numbers mean the same in all parts.
std::vector<FieldRange> own_ranges(const std::vector<FieldRange>& whole, const cloud::RecordSource& records,
                                   Progress& progress) {
    const auto own = field_ranges(records, progress, {"x", "y", "z"});
    std::vector<FieldRange> ranges = whole;
    for (const char* axis : {"x", "y", "z"}) {
        const auto at =
            static_cast<std::size_t>(records.layout().find(axis) - records.layout().fields.data());
        ranges[at] = own[at];
    }
    return ranges;
}

cloud::PointCloud::Parts known_of(const cloud::PointCloud& c) {
    cloud::PointCloud::Parts known;
    known.crs = c.crs();
    known.unit = c.unit();
    known.height_unit = c.height_unit();
    return known;
}

}  // namespace

RecordStretch::RecordStretch(std::shared_ptr<const cloud::RecordSource> of, std::uint64_t first,
                             std::uint64_t count, std::string head)
    : of_(std::move(of)), first_(first), count_(count), layout_(of_->layout()) {
    if (first > of_->count() || count > of_->count() - first)
        throw Error(ErrorCode::Usage, "A stretch reaches beyond its records");
    layout_.head = std::move(head);
}

void RecordStretch::read(std::uint64_t first, std::span<std::byte> out) const {
    if (first > count_ || out.size() / layout_.record_bytes > count_ - first)
        throw Error(ErrorCode::Io, "Records beyond the last one were asked for");
    of_->read(first_ + first, out);
}

std::vector<ScanHead> scan_heads(const cloud::RecordLayout& layout) {
    std::vector<ScanHead> out;
    if (layout.format == "e57") {
        std::vector<e57::Scan> scans;
        std::vector<e57::Channel> channels;
        std::string crs;
        e57::split_head(layout.head, scans, channels, crs);
        for (const e57::Scan& s : scans) out.push_back({s.name, e57::join_head({s}, channels, crs), s.count});
    } else if (layout.format == "ptx") {
        int decimals = 0;
        std::size_t n = 0;
        for (const PtxScan& s : split_ptx_head(layout.head, decimals))
            out.push_back({fmt::format("Scan {}", ++n), join_ptx_head({s}, decimals), s.cells()});
    }
    return out;
}

std::string joined_head(const std::vector<cloud::RecordLayout>& layouts) {
    const std::string& format = layouts.front().format;
    if (format == "e57") {
        std::vector<e57::Scan> all;
        std::vector<e57::Channel> channels;
        std::string crs;
        for (const cloud::RecordLayout& l : layouts) {
            std::vector<e57::Scan> own;
            std::vector<e57::Channel> own_channels;
            e57::split_head(l.head, own, own_channels, crs);
            // The same names may be stored otherwise.
            if (!channels.empty() && e57::join_head({}, channels, "") != e57::join_head({}, own_channels, ""))
                different();
            channels = own_channels;
            all.insert(all.end(), own.begin(), own.end());
        }
        return e57::join_head(all, channels, crs);
    }
    if (format == "ptx") {
        std::vector<PtxScan> all;
        int decimals = 0, most = 0;
        for (const cloud::RecordLayout& l : layouts) {
            for (PtxScan& s : split_ptx_head(l.head, decimals)) all.push_back(std::move(s));
            most = decimals < 0 || most < 0 ? -1 : std::max(most, decimals);
        }
        return join_ptx_head(all, most);
    }
    different();
}

bool has_several_scans(const cloud::PointCloud& c) {
    const cloud::RecordLayout& l = c.records()->layout();
    return (l.format == "e57" || l.format == "ptx") && c.triangles() == nullptr && scan_heads(l).size() > 1;
}

std::vector<ScanPart> parted_by_scan(const cloud::PointCloud& c, Progress& progress) {
    cloud::PointCloud::Parts known = known_of(c);
    known.stations = c.stations();
    return parted_by_scan(c.records(), known, progress);
}

std::vector<ScanPart> parted_by_scan(const std::shared_ptr<const cloud::RecordSource>& records,
                                     const cloud::PointCloud::Parts& whole_known, Progress& progress) {
    const std::vector<ScanHead> heads = scan_heads(records->layout());
    std::uint64_t sum = 0, first = 0;
    for (const ScanHead& h : heads) sum += h.records;
    if (heads.size() < 2 || sum != records->count())
        throw Error(ErrorCode::Unsupported, "The item holds no scans that could be parted");
    progress.stretch(0, 0.1, "Looking at columns");
    const auto whole = field_ranges(*records, progress);
    std::vector<ScanPart> parts;
    for (std::size_t k = 0; k < heads.size(); first += heads[k++].records) {
        if (heads[k].records == 0) continue;
        const double done = 0.1 + 0.9 * static_cast<double>(first) / static_cast<double>(sum),
                     share = 0.9 * static_cast<double>(heads[k].records) / static_cast<double>(sum);
        const Progress::Part part(progress, done, done + share, "Reading points");
        const auto own = std::make_shared<RecordStretch>(records, first, heads[k].records, heads[k].head);
        progress.stretch(0, 0.2, "Looking at columns");
        const auto ranges = own_ranges(whole, *own, progress);
        cloud::PointCloud::Parts known;
        known.crs = whole_known.crs;
        known.unit = whole_known.unit;
        known.height_unit = whole_known.height_unit;
        if (k < whole_known.stations.size()) known.stations = {whole_known.stations[k]};
        const auto at = static_cast<std::size_t>(own->layout().find("x") - own->layout().fields.data());
        if (!(ranges[at].lo <= ranges[at].hi)) continue;  // no point of it is valid
        const Progress::Part rest(progress, 0.2, 1, "Reading points");
        std::vector<std::string> cells_without_points;
        parts.push_back(
            {heads[k].name, first,
             cloud_from_records(own, ranges, -1, cells_without_points, progress, std::move(known))});
    }
    return parts;
}

std::shared_ptr<const cloud::PointCloud> joined_scans(
    const std::vector<std::shared_ptr<const cloud::PointCloud>>& clouds, Progress& progress) {
    if (clouds.size() < 2) throw Error(ErrorCode::Usage, "Two scans are needed to be joined");
    std::vector<std::shared_ptr<const cloud::RecordSource>> parts;
    std::vector<cloud::RecordLayout> layouts;
    std::vector<int> numbers;
    cloud::PointCloud::Parts known = known_of(*clouds.front());
    bool stations = true;
    int scans = 0;
    for (const auto& c : clouds) {
        const cloud::RecordLayout& l = c->records()->layout();
        if (!same_fields(l, clouds.front()->records()->layout())) different();
        if (c->unit() != known.unit || c->crs() != known.crs || c->height_unit() != known.height_unit)
            throw Error(ErrorCode::Unsupported, "The scans have different units or reference systems", {},
                        "Convert one of them first.");
        const auto own = static_cast<int>(scan_heads(l).size());
        if (own == 0) different();
        stations &= static_cast<int>(c->stations().size()) == own;
        known.stations.insert(known.stations.end(), c->stations().begin(), c->stations().end());
        // Of one scan the number is set, of several it is moved.
        numbers.push_back(own == 1 ? scans : -scans - 1);
        scans += own;
        parts.push_back(c->records());
        layouts.push_back(l);
    }
    if (!stations) known.stations.clear();
    const auto all =
        std::make_shared<JoinedRecords>(std::move(parts), std::move(numbers), joined_head(layouts));
    progress.stretch(0, 0.2, "Looking at columns");
    const auto ranges = field_ranges(*all, progress);
    const Progress::Part part(progress, 0.2, 1, "Reading points");
    std::vector<std::string> cells_without_points;
    return cloud_from_records(all, ranges, -1, cells_without_points, progress, std::move(known));
}

namespace {

// At most `most` bytes, whole characters of UTF-8.
std::string cut_to(std::string text, std::size_t most) {
    if (text.size() <= most) return text;
    while (most > 0 && (static_cast<unsigned char>(text[most]) & 0xC0u) == 0x80u) --most;
    text.resize(most);
    return text;
}

std::string name_for_a_file(const std::string& name) {
    std::string out;
    for (const char c : name) {
        const bool bad = static_cast<unsigned char>(c) < 32 || c == 127 || std::strchr("/\\:*?\"<>|", c);
        out += bad ? '_' : c;
    }
    // Blanks at its ends and a dot at its end are lost on some systems.
    while (!out.empty() && (out.back() == ' ' || out.back() == '.')) out.pop_back();
    out.erase(0, std::min(out.size(), out.find_first_not_of(' ')));
    return cut_to(out, 100);
}

std::string lower(std::string text) {
    for (char& c : text)
        if (c >= 'A' && c <= 'Z') c = static_cast<char>(c - 'A' + 'a');
    return text;
}

}  // namespace

std::vector<std::filesystem::path> files_by_scan(const std::filesystem::path& pattern,
                                                 const std::vector<std::string>& names) {
    std::vector<std::filesystem::path> files;
    std::set<std::string> taken;
    for (std::size_t k = 0; k < names.size(); ++k) {
        std::string own = name_for_a_file(names[k]);
        if (own.empty()) own = fmt::format("{}", k + 1);
        std::string name = own;
        for (int n = 2; !taken.insert(lower(name)).second; ++n) name = fmt::format("{} {}", own, n);
        files.push_back(pattern.parent_path() /
                        (cut_to(pattern.stem().string(), 100) + " - " + name + pattern.extension().string()));
    }
    return files;
}

}  // namespace pristine::io
