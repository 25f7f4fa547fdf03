#include "demo/spoil.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <nlohmann/json.hpp>

#include "core/base/bytes.h"
#include "core/base/output.h"
#include "core/cloud/builder.h"
#include "core/io/cloud_io.h"
#include "core/io/lines/lines.h"
#include "core/surface/clip.h"
#include "demo/ashmere.h"
#include "demo/dice.h"

namespace pristine::demo {
namespace {

// A frustum on the ground or, with a negative height, in it: two rectangles with the same middle.
struct Frustum {
    double x, y;            // middle
    double half_x, half_y;  // at the ground
    double top_x, top_y;    // at its height
    double height;

    // Above the ground.
    double at(double px, double py) const {
        const double u = std::fabs(px - x), v = std::fabs(py - y);
        if (u >= half_x || v >= half_y) return 0;
        const double by_x = (half_x - u) / (half_x - top_x), by_y = (half_y - v) / (half_y - top_y);
        return height * std::min({1.0, by_x, by_y});
    }
    // Prismatoid: a sixth of the height times both ends and four times the middle.
    double volume() const {
        const double base = 4 * half_x * half_y, top = 4 * top_x * top_y,
                     middle = (half_x + top_x) * (half_y + top_y);
        return height / 6 * (base + top + 4 * middle);
    }
    std::vector<Vec3> ring(bool upper) const {
        const double a = upper ? top_x : half_x, b = upper ? top_y : half_y;
        return {{x - a, y - b, 0}, {x + a, y - b, 0}, {x + a, y + b, 0}, {x - a, y + b, 0}};
    }
};

// Slopes fall the same way on all sides, so that hips lie on the diagonals of the rectangles' difference.
constexpr Frustum kBank1{100, 40, 26, 16, 18, 8, 4}, kBank2{100, 40, 30, 20, 18, 8, 6},
    kPit{140, 20, 8, 6, 6, 4, -2};

double ground(double x, double y) {
    return kSiteOrigin.z + 0.02 * (x - 60) - 0.01 * y;
}

double height(int date, double x, double y) {
    return ground(x, y) + (date == 0 ? kBank1.at(x, y) : kBank2.at(x, y) + kPit.at(x, y));
}

Vec3 world(int date, double x, double y, double above = 0) {
    const auto fine = [](double v) { return std::round(v * 1e4) / 1e4; };
    return {kSiteOrigin.x + fine(x), kSiteOrigin.y + fine(y), fine(height(date, x, y) + above)};
}

std::vector<Vec3> in_world(const std::vector<Vec3>& ring) {
    std::vector<Vec3> out;
    for (const Vec3& p : ring) out.push_back(world(0, p.x, p.y));
    return out;
}

void add_breaklines(const Frustum& f, int date, std::vector<std::vector<Vec3>>& lines) {
    const auto low = f.ring(false), high = f.ring(true);
    for (const auto& ring : {low, high}) {
        lines.emplace_back();
        for (const Vec3& p : ring) lines.back().push_back(world(date, p.x, p.y));
        lines.back().push_back(lines.back().front());
    }
    for (std::size_t k = 0; k < 4; ++k)
        lines.push_back({world(date, low[k].x, low[k].y), world(date, high[k].x, high[k].y)});
}

// Points on the sides and the top of a box that stands on the ground.
void add_box(Dice& dice, double x, double y, double length, double width, double from, double to,
             std::size_t n, std::vector<Vec3>& out) {
    for (std::size_t i = 0; i < n; ++i) {
        double u = dice.between(-0.5, 0.5), v = dice.between(-0.5, 0.5), w = dice.between(from, to);
        const double side = dice.uniform();
        if (side < 0.4)
            w = to;
        else if (side < 0.7)
            u = u < 0 ? -0.5 : 0.5;
        else
            v = v < 0 ? -0.5 : 0.5;
        out.push_back(world(1, x + u * length, y + v * width, w));
    }
}

std::shared_ptr<const cloud::PointCloud> cloud_of(const Spoil& s) {
    using cloud::FieldType;
    constexpr double kStep = 0.0001;
    cloud::RecordLayout layout{"spoil",
                               13,
                               {{"x", FieldType::I32, 0, 0, 0, kStep, kSiteOrigin.x},
                                {"y", FieldType::I32, 4, 0, 0, kStep, kSiteOrigin.y},
                                {"z", FieldType::I32, 8, 0, 0, kStep, kSiteOrigin.z},
                                {"truth", FieldType::U8, 12}},
                               {}};
    std::string bytes;
    std::vector<cloud::PointBatch> batches;
    std::size_t n = 0;
    const auto add = [&](const std::vector<Vec3>& points, std::uint8_t truth) {
        for (const Vec3& p : points) {
            if (n++ % kPageSize == 0) batches.emplace_back();
            cloud::PointBatch& b = batches.back();
            const Vec3 d = (p - kSiteOrigin) * (1 / kStep);
            b.x.push_back(static_cast<std::int32_t>(std::lround(d.x)));
            b.y.push_back(static_cast<std::int32_t>(std::lround(d.y)));
            b.z.push_back(static_cast<std::int32_t>(std::lround(d.z)));
            append_le(bytes, b.x.back());
            append_le(bytes, b.y.back());
            append_le(bytes, b.z.back());
            append_le(bytes, truth);
        }
    };
    add(s.ground, static_cast<std::uint8_t>(Kind::Ground));
    add(s.machines, static_cast<std::uint8_t>(Kind::Cart));
    add(s.spike, static_cast<std::uint8_t>(Kind::Stray));
    cloud::PointCloud::Parts parts;
    parts.grid = {{kStep, kStep, kStep}, kSiteOrigin};
    parts.unit = "m";
    parts.records = std::make_shared<cloud::MemoryRecords>(std::move(layout), std::move(bytes));
    return cloud::build(std::move(batches), std::move(parts));
}

}  // namespace

std::vector<Vec3> spoil_outline() {
    return in_world({{62, 2, 0}, {158, 2, 0}, {158, 60, 0}, {142, 78, 0}, {118, 66, 0}, {62, 78, 0}});
}

std::vector<Vec3> spoil_pond() {
    return in_world({{66, 6, 0}, {82, 5, 0}, {86, 14, 0}, {76, 19, 0}, {65, 15, 0}});
}

std::vector<Vec3> spoil_island() {
    return in_world({{73, 9, 0}, {78, 9, 0}, {77, 13, 0}, {73, 13, 0}});
}

double spoil_fill() {
    return kBank2.volume() - kBank1.volume();
}

double spoil_cut() {
    return -kPit.volume();
}

Spoil make_spoil(int date, std::uint64_t points, std::uint64_t seed) {
    Dice dice(seed * 7919 + static_cast<std::uint64_t>(date));
    Spoil s;
    const surface::Inside inside({spoil_outline(), spoil_pond(), spoil_island()});
    while (s.ground.size() < points) {
        const Vec3 p = world(date, dice.between(60, 160), dice.between(0, 80));
        if (inside(p.x, p.y)) s.ground.push_back(p);
    }
    add_breaklines(date == 0 ? kBank1 : kBank2, date, s.breaklines);
    if (date == 0) return s;
    add_breaklines(kPit, date, s.breaklines);
    const std::size_t n = points / 100;
    add_box(dice, 138, 34, 4.5, 2.8, 0.3, 1.2, n, s.machines);  // excavator: tracks, cab, boom
    add_box(dice, 138.5, 34, 2, 1.8, 1.2, 3.1, n, s.machines);
    add_box(dice, 141.5, 33.5, 4, 0.5, 2, 2.6, n / 3, s.machines);
    add_box(dice, 147, 45, 7, 2.5, 0.5, 2.8, n, s.machines);  // truck
    s.spike.push_back(world(date, 112.5, 60.25, 10));
    return s;
}

void write_spoil(const std::filesystem::path& folder, std::uint64_t points, std::uint64_t seed, bool replace,
                 Progress& progress) {
    io::WriteOptions options;
    options.replace = replace;
    for (int date = 0; date < 2; ++date) {
        const Spoil s = make_spoil(date, points, seed);
        const std::string number = std::to_string(date + 1);
        io::write_cloud({{cloud_of(s)}}, folder / ("spoil-bank-" + number + ".las"), options, progress);
        std::vector<io::MapLine> lines;
        for (const auto& l : s.breaklines) lines.push_back({"breakline", l, false});
        io::write_lines(lines, folder / ("spoil-breaklines-" + number + ".geojson"), replace);
    }
    io::write_lines(
        {{"outline", spoil_outline(), true}, {"pond", spoil_pond(), true}, {"island", spoil_island(), true}},
        folder / "spoil-outline.geojson", replace);
    OutputFile truth(folder / "spoil-truth.json", replace);
    truth.write(nlohmann::json{{"fill", spoil_fill()}, {"cut", spoil_cut()}, {"unit", "m"}}.dump(2) + "\n");
    truth.finish();
}

}  // namespace pristine::demo
