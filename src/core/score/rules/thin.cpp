// Thinning to a spacing: which points go, so that no two of those that stay are closer than it, and each that
// goes has one that stays within it. Points are looked at in the order of the cloud, each against those that
// stay so far: a maximal subset (a "Poisson-disk" sample), made of original points, the same every time.

#include <algorithm>
#include <bit>
#include <cmath>
#include <vector>

#include "core/base/error.h"
#include "core/base/spill_vector.h"
#include "core/score/score.h"

namespace pristine::score {
namespace {

constexpr double kMostTimes = 1000;  // of points in the same place

// Those that stay, by cubes as wide as the spacing: what is near a place lies in 27 of them.
class Kept {
  public:
    Kept(double side, Vec3 origin) : side_(side), origin_(origin), slots_(1 << 12) {}

    struct Cube {
        std::int64_t x, y, z;
        bool operator==(const Cube&) const = default;
    };
    Cube cube_of(const Vec3& p) const {
        const auto at = [&](double v, double o) {
            return static_cast<std::int64_t>(std::floor((v - o) / side_));
        };
        return {at(p.x, origin_.x), at(p.y, origin_.y), at(p.z, origin_.z)};
    }

    /// The nearest that stays, of the same class and within the height; none: infinity.
    double nearest(const Vec3& p, std::uint8_t of, double height) const {
        const Cube c = cube_of(p);
        double least = INFINITY;
        for (std::int64_t dz = -1; dz <= 1; ++dz)
            for (std::int64_t dy = -1; dy <= 1; ++dy)
                for (std::int64_t dx = -1; dx <= 1; ++dx)
                    for (std::uint32_t k = first_in({c.x + dx, c.y + dy, c.z + dz}); k != kNone;
                         k = points_[k].next) {
                        const Point& o = points_[k];
                        if (o.of != of || std::fabs(o.at.z - p.z) > height) continue;
                        const Vec3 d = o.at - p;
                        least = std::min(least, dot(d, d));
                    }
        return std::sqrt(least);
    }

    void add(const Vec3& p, std::uint8_t of) {
        if (points_.size() >= kNone)
            throw Error(ErrorCode::Unsupported, "More points would stay than can be counted");
        if (2 * (cubes_ + 1) > slots_.size()) grow();
        Slot& s = slots_[slot_of(cube_of(p))];
        if (s.first == kNone) {
            s.cube = cube_of(p);
            ++cubes_;
        }
        points_.push_back({p, s.first, of});
        s.first = static_cast<std::uint32_t>(points_.size() - 1);
    }

  private:
    static constexpr std::uint32_t kNone = 0xFFFFFFFFu;
    struct Point {
        Vec3 at;
        std::uint32_t next;
        std::uint8_t of;
    };
    struct Slot {
        Cube cube{};
        std::uint32_t first = kNone;
    };

    static std::size_t hash(const Cube& c) {
        const auto mix = [](std::uint64_t h) {
            h ^= h >> 31;
            h *= 0x9E3779B97F4A7C15u;
            return h ^ (h >> 29);
        };
        return mix(mix(mix(static_cast<std::uint64_t>(c.x)) + static_cast<std::uint64_t>(c.y)) +
                   static_cast<std::uint64_t>(c.z));
    }
    // Where the cube is, or would be.
    std::size_t slot_of(const Cube& c) const {
        std::size_t s = hash(c) & (slots_.size() - 1);
        while (slots_[s].first != kNone && !(slots_[s].cube == c)) s = (s + 1) & (slots_.size() - 1);
        return s;
    }
    std::uint32_t first_in(const Cube& c) const { return slots_[slot_of(c)].first; }
    void grow() {
        std::vector<Slot> before(slots_.size() * 2);
        before.swap(slots_);
        for (const Slot& s : before)
            if (s.first != kNone) slots_[slot_of(s.cube)] = s;
    }

    double side_;
    Vec3 origin_;
    std::vector<Slot> slots_;  // a power of two
    SpillVector<Point> points_;
    std::size_t cubes_ = 0;
};

Column thin(const Input& in, const Parameters& p, Progress& progress) {
    const cloud::PointCloud& c = in.cloud;
    const double spacing = p.at("spacing");
    const double height = p.at("height") > 0 ? p.at("height") : INFINITY;
    const bool by_class = p.at("classes") != 0 && c.classification();
    Kept kept(spacing, c.bounds().empty() ? Vec3{} : c.bounds().lo);
    SpillVector<float> times;
    times.resize(c.size());
    for (std::size_t page = 0; page < c.page_count(); ++page) {
        progress.advance(static_cast<double>(page) / static_cast<double>(c.page_count()));
        const cloud::PositionPage points = c.positions(page);
        const std::uint8_t* of = by_class ? c.classification()->page(page).data() : nullptr;
        in.eligible.for_each_in_page(page, [&](std::size_t i) {
            const Vec3 at = c.grid().world(points.x[i], points.y[i], points.z[i]);
            const std::uint8_t k = of ? of[i] : std::uint8_t{0};
            const double near = kept.nearest(at, k, height);
            float& value = times[page * kPageSize + i];
            if (near < spacing) {
                value = static_cast<float>(std::min(kMostTimes, spacing / std::max(near, 1e-300)));
            } else {
                kept.add(at, k);
                value = 0;
            }
        });
    }
    Column out;
    out.values = for_members(in, Progress::none(), [&](std::size_t page, std::vector<float>& values) {
        in.eligible.for_each_in_page(page, [&](std::size_t i) { values[i] = times[page * kPageSize + i]; });
    });
    return out;
}

}  // namespace

void add_thin(std::vector<Score>& s) {
    Score score{
        "thin",
        "Closer than a spacing",
        "times",
        "goes when the cloud is thinned: so many times closer to a point that stays than the spacing",
        "stays (0): no point that stays is closer",
        "What stays is one of many ways to choose; it depends on all points that are shown.",
        {{"spacing", "Spacing", "length", "No two points that stay are closer", 0.05, 0.0001, 1000},
         {"height", "Height tolerance", "length",
          "Only points within this height of one that stays go, so that edges and steps stay; 0: no limit", 0,
          0, 1000},
         {"classes", "Each class by itself", "",
          "1: a point goes only for one of its own class in the file; 0: classes do not matter", 0, 0, 1,
          true}},
        {},
        thin};
    score.reason = "%1 times closer than the spacing";
    score.begins = 1;
    s.push_back(score);
}

}  // namespace pristine::score
