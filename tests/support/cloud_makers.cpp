#include "support/cloud_makers.h"

#include <fmt/format.h>

#include <unistd.h>

#include <algorithm>
#include <cstdlib>
#include <cstring>
#include <fstream>
#include <numeric>

#include "core/base/bytes.h"
#include "core/cloud/curve.h"
#include "core/cloud/sample.h"
#include "core/io/e57/scan.h"
#include "core/io/las/las_header.h"

namespace pristine::test {
namespace fs = std::filesystem;
using cloud::PointBatch;

std::uint64_t seed_for(const char* test) {
    if (const char* s = std::getenv("PRISTINE_SEED")) return std::stoull(s);
    return std::hash<std::string>{}(test);
}

TemporaryFolder::TemporaryFolder() {
    std::string name = (fs::temp_directory_path() / "pristine-test-XXXXXX").string();
    if (!mkdtemp(name.data())) throw std::runtime_error("no temporary folder");
    path_ = name;
}

TemporaryFolder::~TemporaryFolder() {
    std::error_code ignored;
    fs::remove_all(path_, ignored);
}

std::string read_file(const fs::path& path) {
    std::ifstream in(path, std::ios::binary);
    return {std::istreambuf_iterator<char>(in), {}};
}

void write_file(const fs::path& path, const std::string& content) {
    std::ofstream(path, std::ios::binary) << content;
}

namespace {

struct Xyz {
    std::int32_t x, y, z;
};

Xyz random_point(Shape shape, std::mt19937_64& dice, std::uint64_t i) {
    const auto uniform = [&](int lo, int hi) {
        return static_cast<std::int32_t>(
            lo + static_cast<std::int64_t>(dice() % static_cast<std::uint64_t>(std::int64_t{hi} - lo)));
    };
    switch (shape) {
        case Shape::Terrain: {
            const std::int32_t x = uniform(0, 200000), y = uniform(0, 150000);
            return {x, y, x / 7 + (y / 1000 % 5) * 30 + uniform(0, 20)};
        }
        case Shape::Clusters: {
            const int c = uniform(0, 9);
            return {c * 40000 + uniform(0, 900), c * c * 3000 + uniform(0, 900), uniform(0, 900)};
        }
        case Shape::OnePlace:
            return {1234, -5678, 42};
        case Shape::Line:
            return {static_cast<std::int32_t>(i) * 3, static_cast<std::int32_t>(i) * 3, 0};
        case Shape::Grid:
            return {static_cast<std::int32_t>(i % 300) * 10, static_cast<std::int32_t>(i / 300) * 10, 0};
        case Shape::WithFarStrays:
            if (dice() % 997 == 0)
                return {uniform(-2147483647, 2147483647), uniform(-2147483647, 2147483647),
                        uniform(-2147483647, 2147483647)};
            return {uniform(0, 5000), uniform(0, 5000), uniform(0, 3000)};
    }
    return {};
}

}  // namespace

std::vector<PointBatch> random_batches(std::uint64_t points, Shape shape, std::uint64_t seed) {
    std::mt19937_64 dice(seed);
    std::vector<PointBatch> batches;
    for (std::uint64_t i = 0; i < points; ++i) {
        if (i % 50000 == 0) batches.emplace_back();
        PointBatch& b = batches.back();
        const Xyz p = random_point(shape, dice, i);
        b.x.push_back(p.x);
        b.y.push_back(p.y);
        b.z.push_back(p.z);
        b.intensity.push_back(static_cast<std::uint16_t>(dice()));
        b.colour.push_back(static_cast<std::uint32_t>(dice() & 0xFFFFFFu));
        b.classification.push_back(static_cast<std::uint8_t>(dice() % 20));
    }
    return batches;
}

std::shared_ptr<const cloud::PointCloud> random_cloud(std::uint64_t points, Shape shape, std::uint64_t seed) {
    std::vector<PointBatch> batches = random_batches(points, shape, seed);
    using cloud::FieldType;
    cloud::RecordLayout layout{"test",
                               18,
                               {{"x", FieldType::I32, 0, 0, 0, 0.001, 412300},
                                {"y", FieldType::I32, 4, 0, 0, 0.001, 5218930},
                                {"z", FieldType::I32, 8, 0, 0, 0.001, 58},
                                {"intensity", FieldType::U16, 12},
                                {"number", FieldType::U32, 14}},
                               {}};
    std::string bytes;
    std::uint32_t number = 0;
    for (const PointBatch& b : batches)
        for (std::size_t i = 0; i < b.size(); ++i) {
            append_le(bytes, b.x[i]);
            append_le(bytes, b.y[i]);
            append_le(bytes, b.z[i]);
            append_le(bytes, b.intensity[i]);
            append_le(bytes, number++);
        }
    cloud::PointCloud::Parts parts;
    parts.grid = {{0.001, 0.001, 0.001}, {412300, 5218930, 58}};
    parts.records = std::make_shared<cloud::MemoryRecords>(std::move(layout), std::move(bytes));
    return cloud::build(std::move(batches), std::move(parts));
}

ReferenceOrder reference_order(const std::vector<PointBatch>& batches) {
    cloud::Sample sample;
    std::uint64_t all = 0, base = 0;
    for (const auto& b : batches) all += b.size();
    for (const auto& b : batches) {
        sample.add(b, base, all);
        base += b.size();
    }
    const cloud::CurveFrame frame = sample.frame();
    std::vector<std::uint64_t> code;
    for (const PointBatch& b : batches)
        for (std::size_t i = 0; i < b.size(); ++i) code.push_back(frame.index(b.x[i], b.y[i], b.z[i]));
    std::vector<std::uint32_t> sorted(code.size());
    std::iota(sorted.begin(), sorted.end(), 0u);
    std::stable_sort(sorted.begin(), sorted.end(), [&](auto a, auto b) { return code[a] < code[b]; });
    ReferenceOrder out;
    for (std::size_t b = 0; b < sorted.size(); b += kBlockSize) {
        // Blocks never cross a page: kPageSize is a multiple of kBlockSize.
        const auto& shuffle = cloud::block_shuffle(std::min(kBlockSize, sorted.size() - b));
        for (const std::uint16_t s : shuffle) out.records.push_back(sorted[b + s]);
    }
    return out;
}

ElementSet reference_fence(const cloud::PointCloud& cloud, const select::Fence& f,
                           const ElementSet& eligible) {
    ElementSet out(cloud.size());
    for (std::size_t p = 0; p < cloud.page_count(); ++p) {
        PageBits bits;
        for (std::size_t i = 0; i < page_length(cloud.size(), p); ++i) {
            const std::uint64_t e = std::uint64_t{p} * kPageSize + i;
            const Vec3 w = cloud.position(e);
            if (eligible.contains(e) && f.view.depth(w) >= f.view.near_depth &&
                contains(f.corners, f.view.project(w)))
                bits.set(i);
        }
        out.set_page(p, bits);
    }
    return out;
}

select::Fence random_fence(const cloud::PointCloud& cloud, std::mt19937_64& dice, bool perspective) {
    std::uniform_real_distribution<double> unit(-1, 1);
    const Box3 box = cloud.robust_bounds();
    select::Fence f;
    Vec3 ahead{};
    do ahead = {unit(dice), unit(dice), unit(dice)};
    while (norm(ahead) < 0.1);
    f.view.ahead = normalized(ahead);
    f.view.right = normalized(cross(f.view.ahead, {0.13, 0.21, 0.97}));
    f.view.down = cross(f.view.ahead, f.view.right);
    f.view.perspective = perspective;
    f.view.width = 900;
    f.view.height = 700;
    f.view.centre_x = 450;
    f.view.centre_y = 350;
    const double size = std::max(box.diagonal(), 0.01);
    // Sometimes outside, sometimes in the middle of the points.
    f.view.eye = box.centre() - f.view.ahead * (size * std::uniform_real_distribution<double>(0, 1.5)(dice));
    f.view.near_depth = perspective ? size * 1e-3 : -1e300;
    f.view.scale = perspective ? 700 : 800 / size;
    const int corners = 3 + static_cast<int>(dice() % 12);
    for (int i = 0; i < corners; ++i) f.corners.push_back({450 + 420 * unit(dice), 350 + 330 * unit(dice)});
    return f;
}

namespace {

// Pulses of one to five returns from up to three channels, times that run on with jumps between two
// sequences, colours that drift, and now and then something unexpected.
class ScanLikeRecords {
  public:
    explicit ScanLikeRecords(const LasSpec& spec)
        : pf_(spec.point_format), one_channel_(spec.one_channel), dice_(spec.seed) {}
    void fill(std::string& r) {
        if (return_ >= returns_) next_pulse();
        ++return_;
        x_ += static_cast<std::int32_t>(dice_() % 41) - 20;
        y_ += static_cast<std::int32_t>(dice_() % 9) - 4;
        store_le(r.data(), x_);
        store_le(r.data() + 4, y_);
        store_le(r.data() + 8, static_cast<std::int32_t>(1000 * return_ + dice_() % 200));
        store_le(r.data() + 12, static_cast<std::uint16_t>(400 + dice_() % 50 * return_));
        const unsigned odd = dice_() % 97 == 0 ? 1 : 0;
        std::size_t at = 20;
        if (pf_ < 6) {
            r[14] = static_cast<char>(return_ | returns_ << 3 | odd << 6);
            r[15] = static_cast<char>(odd ? dice_() % 32 : 2);
            r[16] = static_cast<char>(angle_);
            r[17] = static_cast<char>(odd ? dice_() : 7);
            store_le(r.data() + 18, static_cast<std::uint16_t>(11 + odd * channel_));
        } else {
            r[14] = static_cast<char>(return_ | returns_ << 4);
            r[15] = static_cast<char>(channel_ << 4 | odd << 6 | (odd ? dice_() % 16 : 0));
            r[16] = static_cast<char>(odd ? dice_() : 2);
            r[17] = static_cast<char>(odd ? dice_() : 7);
            store_le(r.data() + 18, static_cast<std::int16_t>(angle_ * 100));
            store_le(r.data() + 20, static_cast<std::uint16_t>(11 + odd * channel_));
            at = 22;
        }
        if (pf_ == 1 || pf_ >= 3) {
            store_le(r.data() + at, time_[channel_ % 2]);
            at += 8;
        }
        if (pf_ == 2 || pf_ == 3 || pf_ == 5 || pf_ == 7 || pf_ == 8 || pf_ == 10)
            for (unsigned c = 0; c < 3; ++c, at += 2) {
                colour_[c] = static_cast<std::uint16_t>(colour_[c] + dice_() % 700 - 350);
                store_le(r.data() + at, colour_[odd ? 0 : c]);
            }
        if (pf_ == 8 || pf_ == 10) {
            store_le(r.data() + at, static_cast<std::uint16_t>(colour_[0] / 2));
            at += 2;
        }
        if (pf_ == 4 || pf_ == 5 || pf_ >= 9) {
            wave_ += odd ? dice_() % 1'000'000'000'000 : 256;
            r[at] = 1;
            store_le(r.data() + at + 1, wave_);
            store_le(r.data() + at + 9, std::uint32_t{256});
            store_le(r.data() + at + 13, 100.0f * static_cast<float>(return_));
            at += 29;
        }
        for (; at < r.size(); ++at) r[at] = static_cast<char>(at % 2 ? return_ : dice_() % 3);
    }

  private:
    void next_pulse() {
        return_ = 0;
        returns_ = 1 + static_cast<unsigned>(dice_() % 10 == 0 ? dice_() % 5 : 0);
        channel_ = static_cast<unsigned>(dice_() % 20 == 0 && !one_channel_ ? dice_() % 3 : channel_);
        time_[channel_ % 2] += dice_() % 300 == 0 ? 4.0 + static_cast<double>(dice_() % 1000)
                                                  : 1e-5 * static_cast<double>(dice_() % 4);
        if (dice_() % 50 == 0) angle_ = static_cast<int>(dice_() % 60) - 30;
    }
    int pf_;
    bool one_channel_;
    std::mt19937_64 dice_;
    std::int32_t x_ = 0, y_ = 0;
    unsigned return_ = 0, returns_ = 0, channel_ = 0;
    int angle_ = -12;
    double time_[2] = {320000.0, 91000000.0};
    std::uint16_t colour_[3] = {20000, 18000, 15000};
    std::uint64_t wave_ = 60;
};

}  // namespace

std::string las_file(const LasSpec& spec) {
    std::mt19937_64 dice(spec.seed);
    const std::size_t header = spec.minor == 4 ? 375 : spec.minor == 3 ? 235 : 227;
    const std::size_t record = io::las_base_bytes(spec.point_format) + spec.extra_bytes;
    std::string s(header, '\0');
    std::memcpy(s.data(), "LASF", 4);
    s[24] = 1;
    s[25] = static_cast<char>(spec.minor);
    std::string vlr(54 + 7, '\0');
    std::memcpy(vlr.data() + 2, "Ashmere", 7);
    store_le(vlr.data() + 18, std::uint16_t{77});
    store_le(vlr.data() + 20, std::uint16_t{7});
    std::memcpy(vlr.data() + 54, "chamber", 7);
    const std::string gap = "??";  // bytes between VLRs and points, as some writers leave
    store_le(s.data() + 94, static_cast<std::uint16_t>(header));
    store_le(s.data() + 96, static_cast<std::uint32_t>(header + vlr.size() + gap.size()));
    store_le(s.data() + 100, std::uint32_t{1});
    s[104] = static_cast<char>(spec.point_format);
    store_le(s.data() + 105, static_cast<std::uint16_t>(record));
    if (spec.point_format < 6) store_le(s.data() + 107, static_cast<std::uint32_t>(spec.points));
    for (int a = 0; a < 3; ++a) {
        store_le(s.data() + 131 + 8 * a, 0.001);
        store_le(s.data() + 155 + 8 * a, a == 2 ? 58.0 : a == 1 ? 5218930.0 : 412300.0);
    }
    const std::size_t points_at = header + vlr.size() + gap.size();
    if (spec.minor == 4) {
        store_le(s.data() + 247, spec.points);
        if (!spec.after.empty()) {
            store_le(s.data() + 235, static_cast<std::uint64_t>(points_at + record * spec.points));
            store_le(s.data() + 243, std::uint32_t{1});
        }
    }
    s += vlr + gap;
    ScanLikeRecords scan(spec);
    for (std::uint64_t i = 0; i < spec.points; ++i) {
        std::string r(record, '\0');
        if (spec.scan_like) {
            scan.fill(r);
            s += r;
            continue;
        }
        for (char& c : r) c = static_cast<char>(dice());
        for (int a = 0; a < 3; ++a) store_le(r.data() + 4 * a, static_cast<std::int32_t>(dice() % 50000));
        s += r;
    }
    return s + spec.after;
}

std::shared_ptr<const cloud::PointCloud> e57_scans(std::uint64_t n, std::uint64_t seed) {
    using io::e57::Channel;
    std::mt19937_64 dice(seed);
    std::vector<io::e57::Scan> scans(2);
    const auto whole = [](const char* name, std::int64_t lo, std::int64_t hi) {
        return Channel{Channel::Kind::Integer, name, lo, hi, 1, 0};
    };
    const auto scaled = [](const char* name) {
        return Channel{Channel::Kind::Scaled, name, -500'000, 700'000, 1e-4, 0.5};
    };
    scans[0] = {"Chamber east", "{1}",   n, 0, {0.5, 0.5, 0.5, 0.5, {412300, 5218930, 58}}, {},
                {0, 4095},      {0, 255}};
    scans[0].channels = {scaled("cartesianX"),        scaled("cartesianY"),
                         scaled("cartesianZ"),        whole("cartesianInvalidState", 0, 2),
                         whole("rowIndex", 0, 999),   whole("columnIndex", 0, 1999),
                         whole("intensity", 0, 4095), whole("colorRed", 0, 255),
                         whole("colorGreen", 0, 255), whole("colorBlue", 0, 255),
                         whole("returnIndex", 1, 1)};
    scans[1] = {"Chamber west", "{2}", n, 0, {1, 0, 0, 0, {412310, 5218935, 58.5}}, {}, {0, 1}, {}};
    scans[1].channels = {{Channel::Kind::Float32, "sphericalRange", 0, 0, 1, 0},
                         {Channel::Kind::Float64, "sphericalAzimuth", 0, 0, 1, 0},
                         {Channel::Kind::Float64, "sphericalElevation", 0, 0, 1, 0},
                         whole("rowIndex", 0, 999)};
    std::vector<Channel> channels;
    cloud::RecordLayout layout = io::e57::layout_of(scans, channels);
    layout.head = io::e57::join_head(scans, channels, "Ashmere local grid");
    std::string bytes;
    std::vector<PointBatch> batches(1);
    std::uint32_t number = 0;
    for (std::size_t k = 0; k < 2; ++k)
        for (std::uint64_t i = 0; i < n; ++i, ++number) {
            std::string r(layout.record_bytes, '\0');
            const auto at = [&](const char* name) { return r.data() + layout.find(name)->offset; };
            Vec3 local;
            bool valid = true;
            if (k == 0) {
                for (int a = 0; a < 3; ++a) {
                    const auto stored = static_cast<std::uint32_t>(dice() % 1'200'001);
                    const char* names[3] = {"local_x", "local_y", "local_z"};
                    store_le(at(names[a]), stored);
                    local[a] = (static_cast<double>(stored) - 500'000) * 1e-4 + 0.5;
                }
                const auto state = static_cast<std::uint8_t>(dice() % 10 == 0 ? 2 : 0);
                valid = state == 0;
                store_le(at("invalid"), state);
                store_le(at("column"), static_cast<std::uint16_t>(i % 2000));
                store_le(at("intensity"), static_cast<std::uint16_t>(dice() % 4096));
                for (const char* c : {"red", "green", "blue"})
                    store_le(at(c), static_cast<std::uint8_t>(dice()));
            } else {
                const float range = 2 + static_cast<float>(dice() % 1000) * 0.01f;
                const double azimuth = static_cast<double>(dice() % 6283) * 1e-3,
                             elevation = static_cast<double>(dice() % 3000) * 1e-3 - 1.5;
                store_le(at("range"), range);
                store_le(at("azimuth"), azimuth);
                store_le(at("elevation"), elevation);
                const double d = static_cast<double>(range);
                local = {d * std::cos(elevation) * std::cos(azimuth),
                         d * std::cos(elevation) * std::sin(azimuth), d * std::sin(elevation)};
            }
            store_le(at("row"), static_cast<std::uint16_t>(i % 1000));
            store_le(at("scan"), static_cast<std::uint16_t>(k));
            const Vec3 w = valid ? scans[k].pose.world(local) : Vec3{NAN, NAN, NAN};
            for (int a = 0; a < 3; ++a) store_le(r.data() + 8 * a, w[a]);
            bytes += r;
            if (!valid) continue;
            PointBatch& b = batches[0];
            b.x.push_back(static_cast<std::int32_t>((w.x - 412300) * 1e4));
            b.y.push_back(static_cast<std::int32_t>((w.y - 5218930) * 1e4));
            b.z.push_back(static_cast<std::int32_t>((w.z - 58) * 1e4));
            b.record.push_back(number);
        }
    cloud::PointCloud::Parts parts;
    parts.grid = {{1e-4, 1e-4, 1e-4}, {412300, 5218930, 58}};
    parts.records = std::make_shared<cloud::MemoryRecords>(layout, bytes);
    parts.crs = "Ashmere local grid";
    return cloud::build(std::move(batches), std::move(parts));
}

std::string ptx_text(unsigned columns, unsigned rows, bool colour) {
    std::string s;
    for (int scan = 0; scan < 2; ++scan) {
        s += fmt::format("{}\n{}\n412300.5 5218930 58\n1 0 0\n0 1 0\n0 0 1\n", columns, rows);
        s += scan == 0 ? "0 1 0 0\n-1 0 0 0\n0 0 1 0\n" : "1 0 0 0\n0 1 0 0\n0 0 1 0\n";
        s += fmt::format("{} 5218930 58 1\n", 412300 + 10 * scan);
        for (unsigned i = 0; i < columns * rows; ++i) {
            if (i % 7 == 3)
                s += "0 0 0 0.5";
            else
                s += fmt::format("{:.4f} {:.4f} {:.4f} {}", 0.5 + i * 0.25, 2.0 + scan, -1.25 * i - 1, 0.25);
            if (colour) s += i % 7 == 3 ? " 0 0 0" : fmt::format(" {} 20 30", i % 256);
            s += "\n";
        }
    }
    return s;
}

}  // namespace pristine::test
