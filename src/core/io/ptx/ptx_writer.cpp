#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/io/by_station.h"
#include "core/io/full_scale.h"
#include "core/io/keep.h"
#include "core/io/ptx/ptx.h"

namespace pristine::io {
namespace {

using cloud::Field;
using cloud::RecordLayout;

void number(std::string& text, const Field& f, const std::byte* r, int decimals) {
    const double v = value(f, r);
    if (decimals >= 0)
        fmt::format_to(std::back_inserter(text), "{:.{}f}", v, decimals);
    else if (f.type == cloud::FieldType::F32 && f.scale == 1 && f.shift == 0)
        fmt::format_to(std::back_inserter(text), "{}", static_cast<float>(v));
    else
        fmt::format_to(std::back_inserter(text), "{}", v);
}

// As many digits as the coordinates have; -1: as many as tell the numbers apart.
int decimals_of(const Field& x) {
    if (x.type == cloud::FieldType::F32 || x.type == cloud::FieldType::F64) return -1;
    return std::clamp(static_cast<int>(std::ceil(-std::log10(x.scale) - 1e-9)), 0, 12);
}

// What follows the coordinates of a line: intensity by the rule of the format, then colours as bytes.
class Attributes {
  public:
    /// `own`: intensities of the same format are written as they are; others by their scale, 0 to 1.
    Attributes(const RecordLayout& l, bool colour, bool own, const Scales& scales)
        : intensity_(l.find("intensity")), own_(own), colour_(colour), scales_(scales) {
        const char* names[3] = {"red", "green", "blue"};
        for (int c = 0; c < 3; ++c) rgb_[c] = l.find(names[c]);
    }
    void append(std::string& text, const std::byte* r) const {
        if (own_)
            fmt::format_to(std::back_inserter(text), " {}",
                           static_cast<float>(intensity_ ? value(*intensity_, r) : 0.5));
        else
            fmt::format_to(std::back_inserter(text), " {:.6f}",
                           intensity_ ? scales_.intensity.share(value(*intensity_, r)) : 0.5);
        if (!colour_) return;
        for (const Field* f : rgb_)
            fmt::format_to(
                std::back_inserter(text), " {}",
                std::min(255, static_cast<int>((f ? scales_.colour.share(value(*f, r)) : 0) * 255.999)));
    }

  private:
    const Field* intensity_;
    bool own_, colour_;
    const Scales& scales_;
    const Field* rgb_[3] = {};
};

bool has_colour(const RecordLayout& l) {
    return l.find("red") && l.find("green") && l.find("blue");
}

// A cloud that came as PTX: every cell in its place, those that are left out as empty ones.
std::uint64_t write_grid(const WriteItem& item, OutputFile& out, Progress& progress, double from, double to) {
    const auto source = item.cloud->records();
    const RecordLayout& l = source->layout();
    int decimals = -1;
    const std::vector<PtxScan> scans = split_ptx_head(l.head, decimals);
    std::uint64_t cells = 0;
    for (const PtxScan& scan : scans) cells += scan.cells();
    if (cells != source->count() || !l.find("local_x") || !l.find("local_y") || !l.find("local_z"))
        throw Error(ErrorCode::Format, "The stored head of a PTX file is damaged");
    const Field local[3] = {*l.find("local_x"), *l.find("local_y"), *l.find("local_z")};
    const bool colour = has_colour(l);
    Scales scales;
    scales.colour = {0, 255};  // bytes, by the format
    const Attributes attributes(l, colour, true, scales);
    const std::string empty = colour ? "0 0 0 0.5 0 0 0\n" : "0 0 0 0.5\n";
    std::vector<std::byte> raw;
    std::uint64_t first = 0, written = 0;
    for (const PtxScan& scan : scans) {
        out.write(scan.head);
        for (std::uint64_t done = 0; done < scan.cells();) {
            const auto n = static_cast<std::size_t>(std::min<std::uint64_t>(kPageSize, scan.cells() - done));
            raw.resize(n * l.record_bytes);
            source->read(first, raw);
            std::string text;
            for (std::size_t i = 0; i < n; ++i) {
                const std::byte* r = raw.data() + i * l.record_bytes;
                const Vec3 p{value(local[0], r), value(local[1], r), value(local[2], r)};
                if ((p.x == 0 && p.y == 0 && p.z == 0) || (item.keep && !(*item.keep)[first + i])) {
                    text += empty;
                    continue;
                }
                ++written;
                for (int a = 0; a < 3; ++a) {
                    if (a) text += ' ';
                    number(text, local[a], r, decimals);
                }
                attributes.append(text, r);
                text += '\n';
            }
            out.write(text);
            first += n;
            done += n;
            progress.advance(from +
                             (to - from) * static_cast<double>(first) / static_cast<double>(source->count()));
        }
    }
    return written;
}

// Any other cloud: for each station one column of points, with numbers from there; where there is none, from
// the middle of the points, so that numbers are short.
std::uint64_t write_ungridded(const WriteItem& item, OutputFile& out, Progress& progress, double from,
                              double to) {
    const RecordLayout& l = item.cloud->records()->layout();
    const Field *x = l.find("x"), *y = l.find("y"), *z = l.find("z");
    const Scales scales = scales_of({item}, Progress::none());
    const Attributes attributes(l, has_colour(l), false, scales);
    const Box3 box = item.cloud->robust_bounds();
    const Vec3 middle = box.empty() ? Vec3{}
                                    : Vec3{std::floor((box.lo.x + box.hi.x) / 2),
                                           std::floor((box.lo.y + box.hi.y) / 2), std::floor(box.lo.z)};
    Vec3 origin;
    std::string text;
    const auto begin = [&](const cloud::Station* station, std::uint64_t count) {
        if (count > UINT32_MAX) throw Error(ErrorCode::Unsupported, "A PTX scan cannot have so many cells");
        origin = station ? station->position : middle;
        out.write(fmt::format("{}\n1\n{} {} {}\n1 0 0\n0 1 0\n0 0 1\n1 0 0 0\n0 1 0 0\n0 0 1 0\n{} {} {} 1\n",
                              count, origin.x, origin.y, origin.z, origin.x, origin.y, origin.z));
    };
    const auto flush = [&] {
        out.write(text);
        text.clear();
    };
    const auto add = [&](const std::byte* r) {
        const Vec3 p{value(*x, r) - origin.x, value(*y, r) - origin.y, value(*z, r) - origin.z};
        // A point exactly at the origin would read as an empty cell.
        const bool at_origin = std::fabs(p.x) < 5e-7 && std::fabs(p.y) < 5e-7 && std::fabs(p.z) < 5e-7;
        fmt::format_to(std::back_inserter(text), "{:.6f} {:.6f} {:.6f}", at_origin ? 1e-6 : p.x, p.y, p.z);
        attributes.append(text, r);
        text += '\n';
        if (text.size() > 1 << 20) flush();
    };
    return for_each_station(item, progress, from, to, {begin, add, flush});
}

}  // namespace

std::uint64_t write_ptx(const std::vector<WriteItem>& items, OutputFile& out, const WriteOptions&,
                        Progress& progress) {
    if (items.empty()) throw Error(ErrorCode::Usage, "There is nothing to write");
    progress.stretch(0, 1, "Writing points");
    std::uint64_t written = 0;
    const double share = 1.0 / static_cast<double>(items.size());
    for (std::size_t k = 0; k < items.size(); ++k) {
        const bool grid = items[k].cloud->records()->layout().format == "ptx";
        const double from = static_cast<double>(k) * share;
        written += (grid ? write_grid : write_ungridded)(items[k], out, progress, from, from + share);
    }
    return written;
}

std::uint64_t write_pts(const std::vector<WriteItem>& items, OutputFile& out, const WriteOptions&,
                        Progress& progress) {
    if (items.empty()) throw Error(ErrorCode::Usage, "There is nothing to write");
    progress.stretch(0, 1, "Writing points");
    std::uint64_t written = 0;
    const double share = 1.0 / static_cast<double>(items.size());
    for (std::size_t k = 0; k < items.size(); ++k) {
        const RecordLayout& l = items[k].cloud->records()->layout();
        const Field *x = l.find("x"), *y = l.find("y"), *z = l.find("z");
        const bool own = l.format == "pts";
        const int decimals = own ? std::atoi(l.head.c_str()) : decimals_of(*x);
        const Scales scales = scales_of({items[k]}, Progress::none());
        const Attributes attributes(l, has_colour(l), own, scales);
        const double from = static_cast<double>(k) * share, middle = from + share * 0.2;
        std::uint64_t count = 0;
        for_kept_records(items[k], progress, from, middle, [&](const std::byte* r, std::size_t n) {
            for (std::size_t i = 0; i < n; ++i) count += std::isfinite(value(*x, r + i * l.record_bytes));
        });
        out.write(fmt::format("{}\n", count));
        written += count;
        for_kept_records(items[k], progress, middle, from + share, [&](const std::byte* r, std::size_t n) {
            std::string text;
            for (std::size_t i = 0; i < n; ++i, r += l.record_bytes) {
                if (!std::isfinite(value(*x, r))) continue;
                number(text, *x, r, decimals);
                text += ' ';
                number(text, *y, r, decimals);
                text += ' ';
                number(text, *z, r, decimals);
                attributes.append(text, r);
                text += '\n';
            }
            out.write(text);
        });
    }
    return written;
}

}  // namespace pristine::io
