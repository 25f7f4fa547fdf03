#include <fmt/format.h>

#include <algorithm>
#include <bit>
#include <cmath>
#include <cstring>
#include <optional>
#include <utility>

#include "core/base/bytes.h"
#include "core/base/units.h"
#include "core/io/by_station.h"
#include "core/io/e57/e57.h"
#include "core/io/e57/pages.h"
#include "core/io/e57/scan.h"
#include "core/io/full_scale.h"
#include "core/io/reference/system.h"

namespace pristine::io {
namespace {

using cloud::Field;
using cloud::FieldType;
using e57::Channel;
using e57::Scan;

// A channel and where its stored numbers come from.
struct Source {
    Channel channel;
    Field field;
    double less = 0;      // taken off numbers that are stored as they are
    bool formed = false;  // the value is worked out and stored as a double
};

// Gathers the numbers of one channel for a packet. Packets hold a multiple of eight points, so every stream
// ends with a whole byte.
class Packer {
  public:
    explicit Packer(unsigned bits) : bits_(bits) {}
    void add(std::uint64_t v) {
        if (bits_ == 0) return;
        low_ |= v << filled_;
        const unsigned before = filled_;
        filled_ += bits_;
        if (filled_ < 64) return;
        append_le(bytes_, low_);
        filled_ -= 64;
        low_ = filled_ == 0 ? 0 : v >> (64 - before);
    }
    std::string take() {
        for (; filled_ > 0; filled_ -= std::min(filled_, 8u), low_ >>= 8)
            bytes_.push_back(static_cast<char>(low_));
        low_ = 0;
        return std::exchange(bytes_, {});
    }

  private:
    unsigned bits_, filled_ = 0;
    std::uint64_t low_ = 0;
    std::string bytes_;
};

std::uint64_t stored_bits(const Field& f, const std::byte* r) {
    std::uint64_t v = 0;
    std::memcpy(&v, r + f.offset, bytes_of(f.type));
    if (f.bits != 0) v = v >> f.first_bit & ((std::uint64_t{1} << f.bits) - 1);
    return v;
}

// Signed integers count from the least value of their type.
std::uint64_t from_least(const Field& f, std::uint64_t v) {
    switch (f.type) {
        case FieldType::I8:
            return (v ^ 0x80u) & 0xFFu;
        case FieldType::I16:
            return (v ^ 0x8000u) & 0xFFFFu;
        case FieldType::I32:
            return (v ^ 0x80000000u) & 0xFFFFFFFFu;
        case FieldType::I64:
            return v ^ (std::uint64_t{1} << 63);
        default:
            return v;
    }
}

// A name for what was written, from its bytes: the same points give the same file. Two multiplicative hashes
// of 64 bits, eight bytes at a time.
class NameOfContent {
  public:
    void add(const std::string& bytes) {
        std::size_t i = 0;
        for (; i + 8 <= bytes.size(); i += 8)
            mix(load_le<std::uint64_t>(reinterpret_cast<const std::byte*>(bytes.data()) + i));
        for (; i < bytes.size(); ++i) mix(static_cast<unsigned char>(bytes[i]));
        mix(bytes.size());
    }
    std::string guid() const {
        return fmt::format("{{{:08x}-{:04x}-{:04x}-{:04x}-{:012x}}}", a_ >> 32, a_ >> 16 & 0xFFFF,
                           a_ & 0xFFFF, b_ >> 48, b_ & 0xFFFF'FFFF'FFFF);
    }

  private:
    void mix(std::uint64_t w) {
        a_ = std::rotl(a_ ^ w, 27) * 0x9E3779B97F4A7C15ull;
        b_ = std::rotl(b_ + w, 31) * 0xC2B2AE3D27D4EB4Full;
    }
    std::uint64_t a_ = 0x243F6A8885A308D3ull, b_ = 0x13198A2E03707344ull;
};

class ScanWriter {
  public:
    ScanWriter(e57::PagedWriter& out, Scan scan, std::vector<Source> sources)
        : out_(out), scan_(std::move(scan)), sources_(std::move(sources)) {
        std::size_t bits = 0;
        for (const Source& s : sources_) {
            packers_.emplace_back(s.channel.bits());
            bits += s.channel.bits();
            scan_.channels.push_back(s.channel);
        }
        per_packet_ = std::max<std::uint64_t>(8, 56'000 * 8 / std::max<std::size_t>(bits, 1) / 8 * 8);
    }
    /// Begins the section for so many points.
    void begin(std::uint64_t count) {
        scan_.count = count;
        scan_.section = out_.physical();
        std::string head(32, '\0');
        head[0] = 1;
        const std::uint64_t first = out_.logical() + 32, index = first + data_bytes(count);
        store_le(head.data() + 8, index + 32 - out_.logical());
        store_le(head.data() + 16, e57::to_physical(first));
        store_le(head.data() + 24, e57::to_physical(index));
        first_packet_ = e57::to_physical(first);
        out_.write(head);
    }
    void add(const std::byte* r) {
        for (std::size_t i = 0; i < sources_.size(); ++i) {
            const Source& s = sources_[i];
            packers_[i].add(s.formed ? std::bit_cast<std::uint64_t>(value(s.field, r) - s.less)
                                     : from_least(s.field, stored_bits(s.field, r)));
        }
        if (++waiting_ == per_packet_) packet();
    }
    Scan finish() {
        if (waiting_ > 0) packet();
        std::string index(32, '\0');  // one entry: all points follow from the first packet
        store_le(index.data() + 2, std::uint16_t{31});
        store_le(index.data() + 4, std::uint16_t{1});
        store_le(index.data() + 24, first_packet_);
        out_.write(index);
        if (scan_.guid.empty()) {
            name_.add(scan_.name);
            scan_.guid = name_.guid();
        }
        return scan_;
    }

  private:
    std::uint64_t packet_bytes(std::uint64_t points) const {
        std::uint64_t n = 6 + 2 * sources_.size();
        for (const Source& s : sources_) n += (points * s.channel.bits() + 7) / 8;
        return (n + 3) / 4 * 4;
    }
    std::uint64_t data_bytes(std::uint64_t count) const {
        const std::uint64_t rest = count % per_packet_;
        return count / per_packet_ * packet_bytes(per_packet_) + (rest ? packet_bytes(rest) : 0);
    }
    void packet() {
        std::string lengths, body;
        for (Packer& p : packers_) {
            const std::string bytes = p.take();
            append_le(lengths, static_cast<std::uint16_t>(bytes.size()));
            body += bytes;
        }
        std::string head(6, '\0');
        head[0] = 1;
        std::string whole = head + lengths + body;
        whole.resize((whole.size() + 3) / 4 * 4, '\0');
        store_le(whole.data() + 2, static_cast<std::uint16_t>(whole.size() - 1));
        store_le(whole.data() + 4, static_cast<std::uint16_t>(packers_.size()));
        out_.write(whole);
        name_.add(whole);
        waiting_ = 0;
    }

    e57::PagedWriter& out_;
    Scan scan_;
    std::vector<Source> sources_;
    std::vector<Packer> packers_;
    NameOfContent name_;
    std::uint64_t per_packet_ = 8, waiting_ = 0, first_packet_ = 0;
};

// How a column of another format is stored: integers stay integers with their scale, so nothing is rounded.
Channel channel_for(const Field& f, const std::string& name) {
    Channel c;
    c.name = name;
    if (f.type == FieldType::F32 || f.type == FieldType::F64) {
        c.kind = f.type == FieldType::F32 ? Channel::Kind::Float32 : Channel::Kind::Float64;
        return c;
    }
    const unsigned bits = f.bits ? f.bits : 8 * static_cast<unsigned>(bytes_of(f.type));
    const bool is_signed = f.type == FieldType::I8 || f.type == FieldType::I16 || f.type == FieldType::I32 ||
                           f.type == FieldType::I64;
    c.kind = f.scale == 1 && f.shift == 0 ? Channel::Kind::Integer : Channel::Kind::Scaled;
    c.min = is_signed ? (bits == 64 ? INT64_MIN : -(std::int64_t{1} << (bits - 1))) : 0;
    c.max = is_signed    ? (bits == 64 ? INT64_MAX : (std::int64_t{1} << (bits - 1)) - 1)
            : bits >= 63 ? INT64_MAX
                         : (std::int64_t{1} << bits) - 1;
    c.scale = f.scale;
    c.offset = f.shift;
    return c;
}

// Coordinates are written from `origin`. The number of the scan is left out where the file has scans of its
// own.
std::vector<Source> sources_for(const cloud::RecordLayout& l, const Vec3& origin, bool several) {
    const char* axes[3] = {"cartesianX", "cartesianY", "cartesianZ"};
    const char* names[3] = {"x", "y", "z"};
    std::vector<Source> sources;
    for (int a = 0; a < 3; ++a) {
        Field f = *l.find(names[a]);
        if (f.type == FieldType::F32 || f.type == FieldType::F64) {
            const bool formed = origin[a] != 0 || f.scale != 1 || f.shift != 0;
            sources.push_back({channel_for(f, axes[a]), f, origin[a], formed});
            if (formed) sources.back().channel.kind = Channel::Kind::Float64;
            continue;
        }
        f.shift -= origin[a];
        sources.push_back({channel_for(f, axes[a]), f});
    }
    for (const Field& f : l.fields) {
        if (f.name == "x" || f.name == "y" || f.name == "z" || f.name.rfind("local_", 0) == 0) continue;
        if (several && f.name == "scan") continue;
        if (f.type == FieldType::U64 || f.words) continue;  // beyond the integers of the format; words
        const std::string own = e57::channel_name(f.name);
        const auto taken = [&](const std::string& name) {
            return std::any_of(sources.begin(), sources.end(),
                               [&](const Source& s) { return s.channel.name == name; });
        };
        // Names that differ only in characters that XML has no place for.
        std::string name = own;
        for (int k = 2; taken(name); ++k) name = own + "_" + std::to_string(k);
        sources.push_back({channel_for(f, name), f});
    }
    return sources;
}

std::uint64_t kept_in(const WriteItem& item, std::uint64_t first, std::uint64_t count) {
    if (!item.keep) return count;
    std::uint64_t n = 0;
    for (std::uint64_t i = first; i < first + count; ++i) n += (*item.keep)[i];
    return n;
}

// A cloud that came as E57: every scan with its own channels, as they were stored.
void write_own(const WriteItem& item, e57::PagedWriter& out, std::vector<Scan>& done, Progress& progress) {
    const auto records = item.cloud->records();
    const cloud::RecordLayout& l = records->layout();
    std::vector<Scan> scans;
    std::vector<Channel> channels;
    std::string crs;
    e57::split_head(l.head, scans, channels, crs);
    std::uint64_t first = 0;
    std::vector<std::byte> raw;
    for (Scan& scan : scans) {
        std::vector<Source> sources;
        for (const Channel& c : scan.channels) {
            std::size_t k = 0;
            while (k < channels.size() && channels[k].name != c.name) ++k;
            if (k == channels.size() || e57::kFirstChannelField + k >= l.fields.size())
                throw Error(ErrorCode::Format, "The stored head of an E57 file is damaged");
            sources.push_back({channels[k], l.fields[e57::kFirstChannelField + k]});
        }
        const std::uint64_t count = scan.count;
        scan.channels.clear();
        ScanWriter writer(out, scan, std::move(sources));
        writer.begin(kept_in(item, first, count));
        for (std::uint64_t i = 0; i < count; i += kPageSize) {
            const auto n = static_cast<std::size_t>(std::min<std::uint64_t>(kPageSize, count - i));
            raw.resize(n * l.record_bytes);
            records->read(first + i, raw);
            for (std::size_t k = 0; k < n; ++k)
                if (!item.keep || (*item.keep)[first + i + k]) writer.add(raw.data() + k * l.record_bytes);
            progress.advance(static_cast<double>(first + i) /
                             static_cast<double>(std::max<std::uint64_t>(1, records->count())));
        }
        first += count;
        done.push_back(writer.finish());
    }
}

// What makes metres of plan and heights; 1 where no unit is stated.
std::pair<double, double> to_metres(const cloud::PointCloud& c) {
    const std::string& up = c.height_unit().empty() ? c.unit() : c.height_unit();
    return {length_unit(c.unit()).metres, length_unit(up).metres};
}

// Any other cloud: a scan for each of its stations, with coordinates from there; one with those of the world
// for what has none.
void write_other(const WriteItem& item, e57::PagedWriter& out, std::vector<Scan>& done, Progress& progress) {
    // Lengths are metres by the standard.
    const std::pair<double, double> metres = to_metres(*item.cloud);
    const double plan = metres.first, up = metres.second;
    cloud::RecordLayout l = item.cloud->records()->layout();
    for (Field& f : l.fields)
        if (const double k = f.name == "x" || f.name == "y" ? plan : f.name == "z" ? up : 1; k != 1) {
            f.scale *= k;
            f.shift *= k;
        }
    const Field *intensity = l.find("intensity"), *red = l.find("red");
    const Scales scales = scales_of({item}, Progress::none());
    std::optional<ScanWriter> writer;
    const auto begin = [&](const cloud::Station* station, std::uint64_t count) {
        Scan scan;
        scan.name = station ? station->name : fmt::format("Cloud {}", done.size() + 1);
        if (station)
            scan.pose.shift = {station->position.x * plan, station->position.y * plan,
                               station->position.z * up};
        if (intensity) scan.intensity = {scales.intensity.lo, scales.intensity.hi};
        if (red) scan.colour = {scales.colour.lo, scales.colour.hi};
        writer.emplace(out, scan, sources_for(l, scan.pose.shift, item.cloud->stations().size() > 1));
        writer->begin(count);
    };
    for_each_station(
        item, progress, 0, 1,
        {begin, [&](const std::byte* r) { writer->add(r); }, [&] { done.push_back(writer->finish()); }});
}

}  // namespace

std::uint64_t write_e57(const std::vector<WriteItem>& items, OutputFile& out, const WriteOptions&,
                        Progress& progress) {
    if (items.empty()) throw Error(ErrorCode::Usage, "There is nothing to write");
    progress.stretch(0, 1, "Writing points");
    e57::PagedWriter pages(out);
    pages.write(std::string(48, '\0'));
    std::vector<Scan> scans;
    const double share = 1.0 / static_cast<double>(items.size());
    for (std::size_t k = 0; k < items.size(); ++k) {
        progress.stretch(static_cast<double>(k) * share, static_cast<double>(k + 1) * share,
                         "Writing points");
        // As it came, unless its numbers are not metres after all.
        const bool own = items[k].cloud->records()->layout().format == "e57" &&
                         to_metres(*items[k].cloud) == std::pair(1.0, 1.0);
        (own ? write_own : write_other)(items[k], pages, scans, progress);
    }
    NameOfContent name;
    for (const Scan& scan : scans) name.add(scan.guid);
    const cloud::PointCloud& first = *items.front().cloud;
    // A system that counts in metres is named as it came.
    const System system = system_of(first.crs());
    const bool metres = (system.unit == "m" || system.degrees()) && system.height_unit.empty();
    const std::string crs = metres || system.name.empty() ? first.crs() : wkt_with_unit(first.crs(), "m");
    const std::string xml = e57::format_xml(scans, crs, name.guid());
    std::string head(48, '\0');
    std::memcpy(head.data(), "ASTM-E57", 8);
    store_le(head.data() + 8, std::uint32_t{1});
    store_le(head.data() + 24, pages.physical());
    store_le(head.data() + 32, static_cast<std::uint64_t>(xml.size()));
    store_le(head.data() + 40, e57::kPageBytes);
    pages.write(xml);
    store_le(head.data() + 16, (pages.logical() + e57::kPayload - 1) / e57::kPayload * e57::kPageBytes);
    pages.finish(head);
    std::uint64_t written = 0;
    for (const Scan& s : scans) written += s.count;
    return written;
}

}  // namespace pristine::io
