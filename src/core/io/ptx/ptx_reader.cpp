#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

#include "core/base/bytes.h"
#include "core/base/file.h"
#include "core/io/ptx/line_reader.h"
#include "core/io/ptx/ptx.h"
#include "core/io/record_cloud.h"
#include "core/io/scans.h"
#include "core/io/spill.h"

namespace pristine::io {
namespace {

using cloud::Field;
using cloud::FieldType;

constexpr std::size_t kBatch = 1u << 20;  // bytes gathered before they go to the temporary file

// Puts numbers behind each other into records.
class RecordBuffer {
  public:
    RecordBuffer(SpillWriter& out, std::size_t record_bytes) : out_(out), record_bytes_(record_bytes) {}
    template <class T>
    void add(T v) {
        const auto* p = reinterpret_cast<const std::byte*>(&v);
        bytes_.insert(bytes_.end(), p, p + sizeof v);
    }
    void end_record() {
        if (bytes_.size() >= kBatch / record_bytes_ * record_bytes_) flush();
    }
    void flush() {
        out_.write(bytes_);
        bytes_.clear();
    }

  private:
    SpillWriter& out_;
    std::size_t record_bytes_;
    std::vector<std::byte> bytes_;
};

std::uint8_t to_byte(double v) {
    return static_cast<std::uint8_t>(std::clamp(std::nearbyint(v), 0.0, 255.0));
}

// Digits behind the point of the longest number; -1 once an exponent was seen.
void note_decimals(std::string_view line, int& decimals) {
    if (decimals < 0) return;
    std::size_t at = 0;
    for (int word = 0; word < 3; ++word) {
        at = line.find_first_not_of(" \t", at);
        if (at == std::string_view::npos) return;
        const std::size_t end = std::min(line.find_first_of(" \t", at), line.size());
        const std::string_view w = line.substr(at, end - at);
        if (w.find_first_of("eE") != std::string_view::npos) decimals = -1;
        const std::size_t point = w.find('.');
        if (decimals >= 0 && point != std::string_view::npos)
            decimals = std::max(decimals, static_cast<int>(w.size() - point) - 1);
        at = end;
    }
}

cloud::RecordLayout layout_for(const std::string& format, bool gridded, bool colour) {
    cloud::RecordLayout l;
    l.format = format;
    const auto add = [&](const char* name, FieldType type) {
        l.fields.push_back({name, type, l.record_bytes});
        l.record_bytes += bytes_of(type);
    };
    for (const char* name : {"x", "y", "z"}) add(name, FieldType::F64);
    if (gridded)
        for (const char* name : {"local_x", "local_y", "local_z"}) add(name, FieldType::F64);
    add("intensity", FieldType::F32);
    if (colour)
        for (const char* name : {"red", "green", "blue"}) add(name, FieldType::U8);
    add("scan", FieldType::U16);
    if (gridded)
        for (const char* name : {"row", "column"}) add(name, FieldType::U32);
    return l;
}

ReadResult finish(std::shared_ptr<const cloud::RecordSource> records, cloud::PointCloud::Parts parts,
                  int decimals, std::string format, std::vector<std::string> warnings, Progress& progress) {
    ReadResult result;
    result.format = std::move(format);
    result.warnings = std::move(warnings);
    if (records->count() == 0) throw Error(ErrorCode::Format, "The file has no points");
    progress.stretch(0.5, 0.6, "Looking at columns");
    const auto ranges = field_ranges(*records, progress);
    const Progress::Part part(progress, 0.6, 1, "Reading points");
    std::vector<std::string> notes;  // cells without a point are no fault of a grid
    result.cloud = cloud_from_records(records, ranges, decimals, notes, progress, std::move(parts));
    return result;
}

class PtxReader {
  public:
    PtxReader(const InputFile& file, const ReadOptions& options, Progress& progress)
        : file_(file), options_(options), progress_(progress), lines_(file) {}

    // Everything into the temporary file.
    void run() {
        std::string_view line;
        while (next_filled(line)) {
            if (scans_.size() == 65535)
                throw Error(ErrorCode::Unsupported, "More than 65,535 scans", lines_.place());
            try {
                head(line);
                cells();
            } catch (const Error& e) {
                if (!options_.accept_partial || !out_) throw;
                warnings_.push_back(std::string(e.what()) + " What stands before it was read.");
                pad();
                break;
            }
        }
        if (!out_) throw Error(ErrorCode::Format, "The file has no scan", file_.path().filename().string());
        buffer_->flush();
    }
    std::size_t scans() const { return scans_.size(); }
    std::vector<ReadResult> apart() {
        cloud::RecordLayout layout = layout_for("ptx", true, colour_);
        layout.head = join_ptx_head(scans_, decimals_);
        std::vector<ReadResult> results;
        const Progress::Part part(progress_, 0.5, 1, "Reading points");
        for (ScanPart& p : parted_by_scan(out_->finish(std::move(layout)), known(), progress_))
            results.push_back(
                {std::move(p.cloud), fmt::format("PTX, 1 of {} scans", scans_.size()), {}, p.name});
        if (results.empty())
            throw Error(ErrorCode::Format, "The file has no points", file_.path().filename().string());
        results.front().warnings = warnings_;
        return results;
    }
    ReadResult result() {
        cloud::RecordLayout layout = layout_for("ptx", true, colour_);
        layout.head = join_ptx_head(scans_, decimals_);
        return finish(out_->finish(std::move(layout)), known(), -1,
                      fmt::format("PTX, {} {}", scans_.size(), scans_.size() == 1 ? "scan" : "scans"),
                      warnings_, progress_);
    }

  private:
    cloud::PointCloud::Parts known() const {
        cloud::PointCloud::Parts parts;
        for (std::size_t k = 0; k < scans_.size(); ++k)
            parts.stations.push_back({fmt::format("Scan {}", k + 1), scans_[k].position()});
        return parts;
    }
    bool next_filled(std::string_view& line) {
        while (lines_.next(line))
            if (line.find_first_not_of(" \t") != std::string_view::npos) return true;
        return false;
    }
    std::string_view needed() {
        std::string_view line;
        if (!lines_.next(line)) throw Error(ErrorCode::Format, "The file ends inside a scan", lines_.place());
        return line;
    }
    [[noreturn]] void wrong(const std::string& what) const {
        throw Error(ErrorCode::Format, what, lines_.place());
    }

    void head(std::string_view line) {
        PtxScan scan;
        const auto keep = [&](std::string_view l) { scan.head.append(l).append("\n"); };
        const auto size = [&](std::string_view l, const char* what) {
            std::array<double, 1> v{};
            if (numbers_of(l, v) != 1 || !(v[0] >= 0) || v[0] > 4e9 || v[0] != std::floor(v[0]))
                wrong(fmt::format("The number of {} is missing", what));
            keep(l);
            return static_cast<std::uint32_t>(v[0]);
        };
        scan.columns = size(line, "columns");
        scan.rows = size(needed(), "rows");
        // Each cell is a line of at least seven characters and its end.
        if (scan.cells() > file_.size() / 8 + 1)
            wrong(fmt::format("{} columns of {} cells are announced, more than the file can hold",
                              scan.columns, scan.rows));
        for (int i = 0; i < 4; ++i) {
            const std::string_view l = needed();
            std::array<double, 3> v{};
            if (numbers_of(l, v) != 3)
                wrong("A line of the scanner's position or axes should have three numbers");
            keep(l);
        }
        for (std::size_t i = 0; i < 4; ++i) {
            const std::string_view l = needed();
            std::array<double, 4> v{};
            if (numbers_of(l, v) != 4) wrong("A line of the matrix should have four numbers");
            std::copy(v.begin(), v.end(), scan.matrix + 4 * i);
            keep(l);
        }
        for (const double m : scan.matrix)
            if (!std::isfinite(m)) wrong("The matrix holds what is no number");
        scans_.push_back(std::move(scan));
    }

    void cells() {
        const PtxScan& scan = scans_.back();
        row_ = column_ = 0;
        for (; column_ < scan.columns; ++column_) {
            progress_.advance(0.5 * static_cast<double>(lines_.offset()) / static_cast<double>(file_.size()));
            for (row_ = 0; row_ < scan.rows; ++row_) cell(needed());
        }
    }
    void cell(std::string_view line) {
        std::array<double, 7> v{};
        const int n = numbers_of(line, v);
        if (n != 4 && n != 7) wrong("A cell should have four or seven numbers");
        if (!out_) {
            colour_ = n == 7;
            out_.emplace(layout_for("ptx", true, colour_).record_bytes);
            buffer_.emplace(*out_, layout_for("ptx", true, colour_).record_bytes);
        }
        note_decimals(line, decimals_);
        put({v[0], v[1], v[2]}, v[3], n == 7 ? v.data() + 4 : nullptr);
    }
    void put(const Vec3& local, double intensity, const double* rgb) {
        const bool empty = local.x == 0 && local.y == 0 && local.z == 0;
        const Vec3 w = empty ? Vec3{NAN, NAN, NAN} : scans_.back().world(local);
        for (int a = 0; a < 3; ++a) buffer_->add(w[a]);
        for (int a = 0; a < 3; ++a) buffer_->add(local[a]);
        buffer_->add(static_cast<float>(intensity));
        if (colour_)
            for (int c = 0; c < 3; ++c) buffer_->add(rgb ? to_byte(rgb[c]) : std::uint8_t{0});
        buffer_->add(static_cast<std::uint16_t>(scans_.size() - 1));
        buffer_->add(row_);
        buffer_->add(column_);
        buffer_->end_record();
    }
    // The rest of a broken scan as empty cells, so that its grid stays whole.
    void pad() {
        const PtxScan& scan = scans_.back();
        if (scan.cells() == 0 || column_ >= scan.columns) return;
        for (; column_ < scan.columns; ++column_, row_ = 0)
            for (; row_ < scan.rows; ++row_) put({}, 0.5, nullptr);
    }

    const InputFile& file_;
    const ReadOptions& options_;
    Progress& progress_;
    LineReader lines_;
    std::vector<PtxScan> scans_;
    std::vector<std::string> warnings_;
    std::optional<SpillWriter> out_;
    std::optional<RecordBuffer> buffer_;
    bool colour_ = false;
    int decimals_ = 0;
    std::uint32_t row_ = 0, column_ = 0;
};

}  // namespace

Vec3 PtxScan::world(const Vec3& p) const {
    const double* m = matrix;
    return {p.x * m[0] + p.y * m[4] + p.z * m[8] + m[12], p.x * m[1] + p.y * m[5] + p.z * m[9] + m[13],
            p.x * m[2] + p.y * m[6] + p.z * m[10] + m[14]};
}

Vec3 PtxScan::local(const Vec3& w) const {
    const double* m = matrix;
    const Vec3 d{w.x - m[12], w.y - m[13], w.z - m[14]};
    return {d.x * m[0] + d.y * m[1] + d.z * m[2], d.x * m[4] + d.y * m[5] + d.z * m[6],
            d.x * m[8] + d.y * m[9] + d.z * m[10]};
}

std::string join_ptx_head(const std::vector<PtxScan>& scans, int decimals) {
    nlohmann::json j{{"decimals", decimals}, {"scans", nlohmann::json::array()}};
    for (const PtxScan& s : scans)
        j["scans"].push_back(
            {{"columns", s.columns}, {"rows", s.rows}, {"head", s.head}, {"matrix", s.matrix}});
    return j.dump();
}

std::vector<PtxScan> split_ptx_head(const std::string& text, int& decimals) {
    try {
        const auto j = nlohmann::json::parse(text);
        decimals = j.at("decimals");
        std::vector<PtxScan> scans;
        for (const auto& s : j.at("scans")) {
            PtxScan scan;
            scan.columns = s.at("columns");
            scan.rows = s.at("rows");
            scan.head = s.at("head");
            for (std::size_t i = 0; i < 16; ++i) scan.matrix[i] = s.at("matrix").at(i);
            scans.push_back(std::move(scan));
        }
        return scans;
    } catch (const nlohmann::json::exception&) {
        throw Error(ErrorCode::Format, "The stored head of a PTX file is damaged");
    }
}

ReadResult read_ptx(const std::filesystem::path& path, const ReadOptions& options, Progress& progress) {
    const InputFile file(path);
    progress.stretch(0, 1, "Reading points");
    PtxReader reader(file, options, progress);
    reader.run();
    return reader.result();
}

std::vector<ReadResult> read_ptx_apart(const std::filesystem::path& path, const ReadOptions& options,
                                       Progress& progress) {
    const InputFile file(path);
    progress.stretch(0, 1, "Reading points");
    PtxReader reader(file, options, progress);
    reader.run();
    if (reader.scans() > 1) return reader.apart();
    std::vector<ReadResult> one;
    one.push_back(reader.result());
    return one;
}

ReadResult read_pts(const std::filesystem::path& path, const ReadOptions& options, Progress& progress) {
    const InputFile file(path);
    progress.stretch(0, 1, "Reading points");
    LineReader lines(file);
    std::optional<SpillWriter> out;
    std::optional<RecordBuffer> buffer;
    std::vector<std::string> warnings;
    cloud::RecordLayout layout;
    std::uint64_t announced = 0, read = 0, blocks = 0;
    int decimals = 0, columns = 0;
    std::string_view line;
    const auto block_ended = [&] {
        if (read == announced || blocks == 0) return;
        const std::string what = fmt::format("{} points were announced, but there are {}", announced, read);
        if (!options.accept_partial)
            throw Error(ErrorCode::Format, what, lines.place(), "What is there can be read.",
                        Remedy::ReadPart);
        warnings.push_back(what + ". These were read.");
    };
    while (lines.next(line)) {
        std::array<double, 7> v{};
        const int n = numbers_of(line, v);
        if (n == 0) continue;
        if (n == 1) {  // a count begins a block
            block_ended();
            if (!(v[0] >= 0) || v[0] > static_cast<double>(file.size()) || blocks == 65535)
                throw Error(ErrorCode::Format, "The number of points is more than the file can hold",
                            lines.place());
            announced = static_cast<std::uint64_t>(v[0]);
            read = 0;
            ++blocks;
            continue;
        }
        if (n != 3 && n != 4 && n != 6 && n != 7) {
            const std::string what = "A point should have three, four, six or seven numbers";
            if (!options.accept_partial || !out) throw Error(ErrorCode::Format, what, lines.place());
            warnings.push_back(what + " (" + lines.place() + "). What stands before it was read.");
            break;
        }
        if (!out) {
            columns = n;
            layout = layout_for("pts", false, n >= 6);
            out.emplace(layout.record_bytes);
            buffer.emplace(*out, layout.record_bytes);
        }
        note_decimals(line, decimals);
        for (std::size_t a = 0; a < 3; ++a) buffer->add(v[a]);
        buffer->add(static_cast<float>(n == 4 || n == 7 ? v[3] : 0));
        if (columns >= 6)
            for (std::size_t c = 0; c < 3; ++c)
                buffer->add(to_byte(n == 7 ? v[4 + c] : n == 6 ? v[3 + c] : 0));
        buffer->add(static_cast<std::uint16_t>(blocks > 0 ? blocks - 1 : 0));
        buffer->end_record();
        ++read;
        if (read % 65536 == 0)
            progress.advance(0.5 * static_cast<double>(lines.offset()) / static_cast<double>(file.size()));
    }
    block_ended();
    if (!out) throw Error(ErrorCode::Format, "The file has no points", path.filename().string());
    buffer->flush();
    layout.head = fmt::format("{}", decimals);
    return finish(out->finish(std::move(layout)), {}, decimals, "PTS", warnings, progress);
}

CloudFormat ptx_format() {
    return {"ptx",    "PTX gridded scan", {"ptx"},       [](std::span<const std::byte>) { return false; },
            read_ptx, write_ptx,          read_ptx_apart};
}

CloudFormat pts_format() {
    return {"pts",    "PTS point cloud", {"pts"}, [](std::span<const std::byte>) { return false; },
            read_pts, write_pts};
}

}  // namespace pristine::io
