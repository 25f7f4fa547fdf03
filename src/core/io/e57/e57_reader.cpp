#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstring>

#include "core/base/bytes.h"
#include "core/base/file.h"
#include "core/base/units.h"
#include "core/io/e57/e57.h"
#include "core/io/e57/head.h"
#include "core/io/e57/pages.h"
#include "core/io/e57/scan.h"
#include "core/io/record_cloud.h"
#include "core/io/reference/system.h"
#include "core/io/scans.h"
#include "core/io/spill.h"

namespace pristine::io {
namespace {

using e57::Channel;
using e57::Scan;

// The bytes of one channel, gathered from the packets, taken out value by value.
class Stream {
  public:
    explicit Stream(unsigned bits) : bits_(bits) {}
    void append(std::span<const std::byte> b) {
        bytes_.erase(bytes_.begin(), bytes_.begin() + static_cast<std::ptrdiff_t>(bit_ / 8));
        bit_ %= 8;
        bytes_.insert(bytes_.end(), b.begin(), b.end());
    }
    std::uint64_t available() const { return bits_ == 0 ? UINT64_MAX : (bytes_.size() * 8 - bit_) / bits_; }
    /// The next value as an integer of so many bits; the caller has looked at available().
    std::uint64_t next() {
        if (bits_ == 0) return 0;
        std::uint64_t v = 0;
        const std::size_t at = bit_ / 8, shift = bit_ % 8;
        std::byte near[16] = {};
        std::memcpy(near, bytes_.data() + at, std::min<std::size_t>(9, bytes_.size() - at));
        v = load_le<std::uint64_t>(near) >> shift;
        if (shift + bits_ > 64) v |= static_cast<std::uint64_t>(near[8]) << (64 - shift);
        bit_ += bits_;
        return bits_ == 64 ? v : v & ((std::uint64_t{1} << bits_) - 1);
    }

  private:
    unsigned bits_;
    std::vector<std::byte> bytes_;
    std::size_t bit_ = 0;
};

// Unpacks one scan into records of the common layout.
class ScanDecoder {
  public:
    ScanDecoder(const Scan& scan, std::size_t number, const cloud::RecordLayout& layout,
                const std::vector<Channel>& common)
        : scan_(scan), number_(number), layout_(layout) {
        for (const Channel& c : scan.channels) {
            std::size_t k = 0;
            while (common[k].name != c.name) ++k;
            parts_.push_back({c, common[k], layout.fields[e57::kFirstChannelField + k], Stream(c.bits())});
        }
        const auto part = [&](const char* name) {
            for (std::size_t i = 0; i < parts_.size(); ++i)
                if (parts_[i].own.name == name) return static_cast<int>(i);
            return -1;
        };
        const char* cartesian[3] = {"cartesianX", "cartesianY", "cartesianZ"};
        const char* spherical[3] = {"sphericalRange", "sphericalAzimuth", "sphericalElevation"};
        is_spherical_ = part(cartesian[0]) < 0;
        for (int a = 0; a < 3; ++a) {
            axes_[a] = part(is_spherical_ ? spherical[a] : cartesian[a]);
            if (axes_[a] < 0)
                throw Error(ErrorCode::Format,
                            fmt::format("'{}' has neither cartesian nor spherical coordinates", scan.name),
                            "XML part");
        }
        invalid_ = part(is_spherical_ ? "sphericalInvalidState" : "cartesianInvalidState");
    }
    std::size_t channels() const { return parts_.size(); }
    void append(std::size_t channel, std::span<const std::byte> b) { parts_[channel].stream.append(b); }

    /// Decodes what is there, at most `most` points; returns how many.
    std::uint64_t take(std::uint64_t most, std::vector<std::byte>& out) {
        std::uint64_t n = most;
        for (const Part& p : parts_) n = std::min(n, p.stream.available());
        for (std::uint64_t i = 0; i < n; ++i) one(out);
        return n;
    }

  private:
    struct Part {
        Channel own, common;
        cloud::Field field;
        Stream stream;
    };

    void one(std::vector<std::byte>& out) {
        const std::size_t at = out.size();
        out.resize(at + layout_.record_bytes);
        std::byte* r = out.data() + at;
        values_.resize(parts_.size());
        for (std::size_t i = 0; i < parts_.size(); ++i) values_[i] = put(parts_[i], r);
        Vec3 local{values_[static_cast<std::size_t>(axes_[0])], values_[static_cast<std::size_t>(axes_[1])],
                   values_[static_cast<std::size_t>(axes_[2])]};
        if (is_spherical_) {
            const double range = local.x, azimuth = local.y, elevation = local.z;
            local = {range * std::cos(elevation) * std::cos(azimuth),
                     range * std::cos(elevation) * std::sin(azimuth), range * std::sin(elevation)};
        }
        const bool there = invalid_ < 0 || values_[static_cast<std::size_t>(invalid_)] == 0;
        const Vec3 w = there ? scan_.pose.world(local) : Vec3{NAN, NAN, NAN};
        for (int a = 0; a < 3; ++a) store_le(r + 8 * a, w[a]);
        store_le(r + 24, static_cast<std::uint16_t>(number_));
    }

    // Stores a value in the common encoding and returns it in its own unit.
    static double put(Part& p, std::byte* record) {
        const std::uint64_t raw = p.stream.next();
        std::byte* at = record + p.field.offset;
        double v = 0;
        if (p.own.kind == Channel::Kind::Float32) {
            const auto f = std::bit_cast<float>(static_cast<std::uint32_t>(raw));
            v = static_cast<double>(f);
            if (p.common.kind == Channel::Kind::Float32) store_le(at, f);
        } else if (p.own.kind == Channel::Kind::Float64) {
            v = std::bit_cast<double>(raw);
        } else {
            const auto whole = static_cast<std::int64_t>(raw + static_cast<std::uint64_t>(p.own.min));
            v = static_cast<double>(whole) * p.own.scale + p.own.offset;
            if (!p.common.is_float()) {
                const std::uint64_t stored =
                    static_cast<std::uint64_t>(whole) - static_cast<std::uint64_t>(p.common.min);
                std::memcpy(at, &stored, bytes_of(p.field.type));
            }
        }
        if (p.common.kind == Channel::Kind::Float64) store_le(at, v);
        return v;
    }

    const Scan& scan_;
    std::size_t number_;
    const cloud::RecordLayout& layout_;
    std::vector<Part> parts_;
    std::vector<double> values_;
    int axes_[3] = {}, invalid_ = -1;
    bool is_spherical_ = false;
};

class Reader {
  public:
    Reader(const InputFile& file, const ReadOptions& options, Progress& progress)
        : options_(options), progress_(progress), pages_(file) {
        contents_ = e57::parse_xml(e57::read_xml(file, pages_), file.place(0));
        layout_ = e57::layout_of(contents_.scans, channels_);
        for (const Scan& s : contents_.scans) total_ += static_cast<double>(s.count);
    }

    void run(std::vector<std::string>& warnings) {
        if (contents_.images > 0)
            warnings.push_back(
                fmt::format("{} pictures stay in the file: the panorama shows them, and 'Item, Colour by its "
                            "pictures' colours the points.",
                            contents_.images));
        out_.emplace(layout_.record_bytes);
        for (std::size_t k = 0; k < contents_.scans.size(); ++k) {
            Scan& s = contents_.scans[k];
            const std::uint64_t before = out_->count();
            try {
                if (s.count > 0) scan(s, k);
            } catch (const Error& e) {
                if (!options_.accept_partial)
                    throw Error(e.code(), fmt::format("'{}' cannot be read whole: {}", s.name, e.what()), {},
                                "What is whole can be read.", Remedy::ReadPart);
                warnings.push_back(fmt::format("Of '{}', {} of {} points were read: {}", s.name,
                                               out_->count() - before, s.count, e.what()));
            }
            s.count = out_->count() - before;
        }
    }
    std::shared_ptr<const cloud::RecordSource> records() {
        layout_.head = e57::join_head(contents_.scans, channels_, contents_.crs);
        return out_->finish(layout_);
    }
    const e57::Contents& contents() const { return contents_; }

  private:
    void scan(const Scan& s, std::size_t number) {
        ScanDecoder decoder(s, number, layout_, channels_);
        std::uint64_t at = e57::to_logical(s.section);
        std::array<std::byte, 32> head{};
        pages_.read(at, head);
        if (head[0] != std::byte{1}) throw damaged(at, "No points begin here");
        const std::uint64_t end = at + load_le<std::uint64_t>(head.data() + 8);
        at = e57::to_logical(load_le<std::uint64_t>(head.data() + 16));
        std::uint64_t left = s.count;
        // Constant channels cost no bytes; without a single bit a point, the count is all there is to
        // believe.
        unsigned bits = 0;
        for (const Channel& c : s.channels) bits += c.bits();
        if (bits == 0 || s.count / 8 > pages_.size() / std::max(1u, bits) + 1)
            throw damaged(e57::to_logical(s.section),
                          fmt::format("{} points are announced, more than the file can hold", s.count));
        std::vector<std::byte> packet, records;
        while (left > 0) {
            if (at >= end) throw damaged(at, fmt::format("{} points are missing", left));
            const bool points = next_packet(at, packet);
            if (!points) continue;
            feed(decoder, packet, at);
            records.clear();
            left -= decoder.take(left, records);
            out_->write(records);
            progress_.advance(0.5 * static_cast<double>(out_->count()) / std::max(1.0, total_));
        }
    }
    Error damaged(std::uint64_t at, const std::string& what) const {
        return Error(ErrorCode::Format, what, pages_.place(at));
    }

    // Reads the packet at `at` and moves past it; false for packets that hold no points.
    bool next_packet(std::uint64_t& at, std::vector<std::byte>& packet) {
        std::array<std::byte, 4> head{};
        pages_.read(at, head);
        const auto type = static_cast<unsigned>(head[0]);
        const std::size_t length = std::size_t{load_le<std::uint16_t>(head.data() + 2)} + 1;
        if (type > 2 || length < 6) throw damaged(at, "A packet of points is damaged");
        packet.resize(length);
        pages_.read(at, packet);
        at += length;
        return type == 1;
    }
    void feed(ScanDecoder& decoder, const std::vector<std::byte>& packet, std::uint64_t at) const {
        const std::size_t streams = load_le<std::uint16_t>(packet.data() + 4);
        std::size_t from = 6 + 2 * streams;
        if (streams != decoder.channels() || from > packet.size())
            throw damaged(
                at, fmt::format("A packet has {} channels, the scan has {}", streams, decoder.channels()));
        for (std::size_t k = 0; k < streams; ++k) {
            const std::size_t n = load_le<std::uint16_t>(packet.data() + 6 + 2 * k);
            if (n > packet.size() - from)
                throw damaged(at, "A packet of points is shorter than its channels");
            decoder.append(k, std::span(packet).subspan(from, n));
            from += n;
        }
    }

    const ReadOptions& options_;
    Progress& progress_;
    e57::PagedReader pages_;
    e57::Contents contents_;
    cloud::RecordLayout layout_;
    std::vector<Channel> channels_;
    std::optional<SpillWriter> out_;
    double total_ = 0;
};

// Where scans were made from. Coordinates of the world without a pose have no station: their origin lies
// farther off than anything is measured. Stations go by the number of the scan, so that they are known for
// all or for none.
std::vector<cloud::Station> stations_of(const std::vector<Scan>& scans, const cloud::RecordLayout& layout,
                                        const std::vector<FieldRange>& ranges) {
    constexpr double kFar = 10, kAnyway = 1000;  // sizes of the site, and length units, from its box
    Box3 box;
    const char* names[3] = {"x", "y", "z"};
    for (int a = 0; a < 3; ++a) {
        const auto& r = ranges[static_cast<std::size_t>(layout.find(names[a]) - layout.fields.data())];
        box.lo[a] = r.lo;
        box.hi[a] = r.hi;
    }
    std::vector<cloud::Station> stations;
    for (const Scan& s : scans) {
        Vec3 off;
        for (int a = 0; a < 3; ++a)
            off[a] = std::max({0.0, box.lo[a] - s.pose.shift[a], s.pose.shift[a] - box.hi[a]});
        if (norm(off) > kFar * box.diagonal() + kAnyway) return {};
        stations.push_back({s.name, s.pose.shift});
    }
    return stations;
}

// Everything but the cloud itself.
struct Unpacked {
    std::shared_ptr<const cloud::RecordSource> records;
    std::vector<FieldRange> ranges;
    cloud::PointCloud::Parts known;
    std::vector<std::string> warnings;
    std::size_t scans = 0;
};

Unpacked unpack(const std::filesystem::path& path, const ReadOptions& options, Progress& progress) {
    const InputFile file(path);
    progress.stretch(0, 1, "Reading points");
    Reader reader(file, options, progress);
    Unpacked u;
    reader.run(u.warnings);
    u.records = reader.records();
    if (u.records->count() == 0)
        throw Error(ErrorCode::Format, "The file has no points that can be read", path.filename().string());
    u.known.crs = reader.contents().crs;
    u.known.unit = "m";  // the standard's unit of length, whatever the reference system
    const System system = system_of(u.known.crs);
    if (is_length(system.unit) && system.unit != "m")
        u.warnings.push_back(
            fmt::format("The reference system counts in {}, but lengths in E57 are metres by the standard "
                        "and are taken so. If "
                        "the program that wrote the file left them in {}, state that unit.",
                        length_unit(system.unit).title, length_unit(system.unit).title));
    progress.stretch(0.5, 0.6, "Looking at columns");
    u.ranges = field_ranges(*u.records, progress);
    u.known.stations = stations_of(reader.contents().scans, u.records->layout(), u.ranges);
    u.scans = reader.contents().scans.size();
    return u;
}

ReadResult whole(Unpacked u, Progress& progress) {
    ReadResult result;
    const Progress::Part part(progress, 0.6, 1, "Reading points");
    std::vector<std::string> cells_without_points;  // no fault
    result.cloud =
        cloud_from_records(u.records, u.ranges, -1, cells_without_points, progress, std::move(u.known));
    result.format = fmt::format("E57, {} {}", u.scans, u.scans == 1 ? "scan" : "scans");
    result.warnings = std::move(u.warnings);
    return result;
}

}  // namespace

ReadResult read_e57(const std::filesystem::path& path, const ReadOptions& options, Progress& progress) {
    return whole(unpack(path, options, progress), progress);
}

std::vector<ReadResult> read_e57_apart(const std::filesystem::path& path, const ReadOptions& options,
                                       Progress& progress) {
    Unpacked u = unpack(path, options, progress);
    std::vector<ReadResult> results;
    if (u.scans < 2) {
        results.push_back(whole(std::move(u), progress));
        return results;
    }
    const Progress::Part part(progress, 0.6, 1, "Reading points");
    for (ScanPart& p : parted_by_scan(u.records, u.known, progress))
        results.push_back({std::move(p.cloud), fmt::format("E57, 1 of {} scans", u.scans), {}, p.name});
    if (results.empty())
        throw Error(ErrorCode::Format, "The file has no points that can be read", path.filename().string());
    results.front().warnings = std::move(u.warnings);
    return results;
}

CloudFormat e57_format() {
    return {"e57",
            "E57 scans",
            {"e57"},
            [](std::span<const std::byte> head) {
                return head.size() >= 8 && std::memcmp(head.data(), "ASTM-E57", 8) == 0;
            },
            read_e57,
            write_e57,
            read_e57_apart};
}

}  // namespace pristine::io
