#include "demo/ashmere.h"

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>
#include <numbers>

#include "core/base/bytes.h"
#include "core/base/output.h"
#include "core/base/parallel.h"
#include "core/cloud/builder.h"
#include "core/io/cloud_io.h"
#include "core/io/las/las_header.h"
#include "core/io/reference/system.h"
#include "demo/dice.h"
#include "demo/scene.h"

namespace pristine::demo {
namespace {

using cloud::Field;
using cloud::FieldType;

constexpr int kPointFormat = 7;
constexpr std::size_t kRecord = 37;  // point format 7 and one extra byte
constexpr double kNoise = 0.002;     // of a range, m, one sigma
constexpr double kStrayShare = 0.0012;
constexpr double kLowest = -62, kHighest = 78;  // elevation of rays, degrees
constexpr std::size_t kColumnsAtOnce = 64;

constexpr Vec3 kStations[2] = {{0.3, 4.2, 1.62}, {-0.8, 23.4, 1.58}};  // local

struct Raster {
    std::uint64_t columns = 0, rows = 0;
};

class Scanner {
  public:
    Scanner(int station, std::uint64_t seed) : station_(station), seed_(seed), scene_(make_scene(station)) {}

    // Enough rays for so many returns: the share of rays that hit something is found on a coarse raster.
    Raster raster_for(std::uint64_t points) const {
        std::uint64_t hits = 0, rays = 0;
        for (int c = 0; c < 360; c += 2)
            for (double e = kLowest; e < kHighest; e += 1.0, ++rays)
                if (cast(scene_, kStations[station_], direction(c, e))) ++hits;
        const double needed =
            1.01 * static_cast<double>(points) * static_cast<double>(rays) / static_cast<double>(hits) + 1000;
        Raster r;
        r.rows = static_cast<std::uint64_t>(std::sqrt(needed * (kHighest - kLowest) / 360)) + 1;
        r.columns = static_cast<std::uint64_t>(needed / static_cast<double>(r.rows)) + 1;
        return r;
    }

    // Records of one column of the raster, from below upwards; with `place`, each is followed by its row and
    // column.
    std::string column(std::uint64_t c, const Raster& r, bool place = false) const {
        Dice dice(seed_ * 1'000'003 + static_cast<std::uint64_t>(station_) * 7919 + c * 0x9E3779B9u);
        std::string out;
        for (std::uint64_t row = 0; row < r.rows; ++row) {
            const double azimuth =
                360.0 * (static_cast<double>(c) + 0.3 * dice.uniform()) / static_cast<double>(r.columns);
            const double elevation = kLowest + (kHighest - kLowest) *
                                                   (static_cast<double>(row) + 0.3 * dice.uniform()) /
                                                   static_cast<double>(r.rows);
            const Vec3 d = direction(azimuth, elevation);
            const auto hit = cast(scene_, kStations[station_], d);
            const double luck = dice.uniform();
            if (!hit || hit->range > 60) continue;
            Kind kind = hit->solid->kind;
            double range = hit->range + kNoise * dice.normal();
            if (luck < kStrayShare) {  // between the scanner and the surface, or a little behind it
                kind = Kind::Stray;
                range = hit->range * (0.25 + 0.85 * dice.uniform());
            }
            const double time =
                1.0e5 + static_cast<double>(station_) * 1800 + static_cast<double>(c * r.rows + row) * 1e-5;
            append(out, kStations[station_] + d * range, *hit, d, kind, time, dice);
            if (!place) continue;
            append_le(out, static_cast<std::uint32_t>(row));
            append_le(out, static_cast<std::uint32_t>(c));
        }
        return out;
    }

  private:
    static Vec3 direction(double azimuth_deg, double elevation_deg) {
        const double a = azimuth_deg * std::numbers::pi / 180, e = elevation_deg * std::numbers::pi / 180;
        return {std::cos(e) * std::sin(a), std::cos(e) * std::cos(a), std::sin(e)};
    }

    void append(std::string& out, Vec3 p, const Hit& hit, Vec3 d, Kind kind, double time, Dice& dice) const {
        char r[kRecord] = {};
        for (int a = 0; a < 3; ++a) store_le(r + 4 * a, static_cast<std::int32_t>(std::lround(p[a] * 1000)));
        const double facing = std::fabs(dot(hit.normal, d));
        const double intensity =
            (0.25 + 0.75 * facing) * 42000 / (1 + hit.range * 0.02) * (kind == Kind::Stray ? 0.2 : 1.0);
        store_le(r + 12, static_cast<std::uint16_t>(
                             std::clamp(intensity * (0.95 + 0.1 * dice.uniform()), 0.0, 65535.0)));
        r[14] = 0x11;  // return 1 of 1
        store_le(r + 20, static_cast<std::uint16_t>(station_ + 1));
        store_le(r + 22, time);
        const Rgb c = colour_at(hit, p);
        const double channels[3] = {c.r, c.g, c.b};
        for (int k = 0; k < 3; ++k)
            store_le(r + 30 + 2 * k,
                     static_cast<std::uint16_t>(static_cast<int>(std::clamp(channels[k], 0.0, 255.0)) * 257));
        r[36] = static_cast<char>(kind);
        out.append(r, kRecord);
    }

    int station_;
    std::uint64_t seed_;
    std::vector<Solid> scene_;
};

Scan write_scan(const std::filesystem::path& folder, int station, std::uint64_t points,
                const Options& options, Progress& progress) {
    Scan scan{station == 0 ? "chamber-station-1.las" : "chamber-station-2.las",
              station == 0 ? "Chamber, station 1" : "Chamber, station 2", kStations[station] + kSiteOrigin};
    const Scanner scanner(station, options.seed);
    const Raster raster = scanner.raster_for(points);
    OutputFile out(folder / scan.file, options.replace);
    std::string head = io::new_las_head(kPointFormat, {{0.001, 0.001, 0.001}, kSiteOrigin},
                                        {Field{"truth", FieldType::U8, 36}}, io::wkt_with_unit({}, "m"));
    out.write(head);
    io::LasCounts counts;
    for (std::uint64_t first = 0; first < raster.columns; first += kColumnsAtOnce) {
        const auto n =
            static_cast<std::size_t>(std::min<std::uint64_t>(kColumnsAtOnce, raster.columns - first));
        const auto columns =
            parallel::map<std::string>(n, [&](std::size_t k) { return scanner.column(first + k, raster); });
        for (const std::string& column : columns) {
            for (std::size_t at = 0; at < column.size(); at += kRecord) {
                counts.add(reinterpret_cast<const std::byte*>(column.data() + at), kPointFormat);
                ++scan.of_kind[static_cast<unsigned char>(column[at + 36])];
            }
            out.write(column);
        }
        progress.advance(static_cast<double>(first + n) / static_cast<double>(raster.columns));
    }
    io::update_las_header(head, counts);
    out.write_at(0, head.data(), head.size());
    out.finish();
    scan.points = counts.points;
    return scan;
}

// With its station and the row and column of each point.
std::shared_ptr<const cloud::PointCloud> gridded_scan(int station, const Options& options) {
    const Scanner scanner(station, options.seed);
    const Raster raster = scanner.raster_for(options.points);
    const auto columns = parallel::map<std::string>(
        raster.columns, [&](std::size_t c) { return scanner.column(c, raster, true); });
    std::string records;
    for (const std::string& column : columns) records += column;
    cloud::RecordLayout layout{"demo",
                               kRecord + 8,
                               {{"x", FieldType::I32, 0, 0, 0, 0.001, kSiteOrigin.x},
                                {"y", FieldType::I32, 4, 0, 0, 0.001, kSiteOrigin.y},
                                {"z", FieldType::I32, 8, 0, 0, 0.001, kSiteOrigin.z},
                                {"intensity", FieldType::U16, 12},
                                {"red", FieldType::U16, 30},
                                {"green", FieldType::U16, 32},
                                {"blue", FieldType::U16, 34},
                                {"truth", FieldType::U8, 36},
                                {"row", FieldType::U32, kRecord},
                                {"column", FieldType::U32, kRecord + 4}},
                               {}};
    std::vector<cloud::PointBatch> batches;
    for (std::size_t at = 0; at < records.size(); at += kRecord + 8) {
        if (at / (kRecord + 8) % kPageSize == 0) batches.emplace_back();
        cloud::PointBatch& b = batches.back();
        const auto* r = reinterpret_cast<const std::byte*>(records.data() + at);
        b.x.push_back(load_le<std::int32_t>(r));
        b.y.push_back(load_le<std::int32_t>(r + 4));
        b.z.push_back(load_le<std::int32_t>(r + 8));
    }
    cloud::PointCloud::Parts parts;
    parts.grid = {{0.001, 0.001, 0.001}, kSiteOrigin};
    parts.unit = "m";
    parts.stations = {{station == 0 ? "Station 1" : "Station 2", kStations[station] + kSiteOrigin}};
    parts.records = std::make_shared<cloud::MemoryRecords>(std::move(layout), std::move(records));
    return cloud::build(std::move(batches), std::move(parts));
}

}  // namespace

void write_chamber_with_stations(const std::filesystem::path& folder, const Options& options,
                                 Progress& progress) {
    std::vector<io::WriteItem> items;
    for (const int station : {0, 1}) items.push_back({gridded_scan(station, options)});
    io::WriteOptions write;
    write.replace = options.replace;
    io::write_cloud(items, folder / "chamber.e57", write, progress);
}

const char* name_of(Kind kind) {
    constexpr const char* names[kKinds] = {"",       "floor",  "wall", "ground", "gate",
                                           "ladder", "worker", "cart", "stray"};
    return names[static_cast<std::size_t>(kind)];
}

std::vector<Scan> write_site(const std::filesystem::path& folder, const Options& options,
                             Progress& progress) {
    std::error_code error;
    std::filesystem::create_directories(folder, error);
    if (error)
        throw Error(ErrorCode::Io, "The folder could not be made: " + error.message(), folder.string());
    std::vector<Scan> scans;
    progress.stretch(0, 0.5, "Scanning from station 1");
    scans.push_back(write_scan(folder, 0, options.points, options, progress));
    progress.stretch(0.5, 1, "Scanning from station 2");
    scans.push_back(write_scan(folder, 1, options.points * 9 / 10, options, progress));

    nlohmann::json truth{{"site", "Ashmere Lock"}, {"column", "truth"}, {"kinds", nlohmann::json::object()}};
    for (std::size_t k = 1; k < kKinds; ++k)
        truth["kinds"][std::to_string(k)] = name_of(static_cast<Kind>(k));
    for (const Scan& s : scans) {
        nlohmann::json counts = nlohmann::json::object();
        for (std::size_t k = 1; k < kKinds; ++k) counts[name_of(static_cast<Kind>(k))] = s.of_kind[k];
        truth["scans"].push_back({{"file", s.file},
                                  {"title", s.title},
                                  {"points", s.points},
                                  {"station", {s.station.x, s.station.y, s.station.z}},
                                  {"counts", counts}});
    }
    OutputFile out(folder / "truth.json", options.replace);
    out.write(truth.dump(2) + "\n");
    out.finish();
    return scans;
}

}  // namespace pristine::demo
