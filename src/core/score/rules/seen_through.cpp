// What one station measured but another saw straight through: people who walked on, vehicles that drove off.
//
// Method. A range image for each station. A point is a candidate when another station measured nothing within
// a margin in front of or at it along the same line of sight and all round it, but something behind. Cubes of
// space gather the candidates of a scan; where they make a shape so narrow that the other station's beams may
// have missed it (wires, edges), they prove nothing. From cubes that prove something, candidates that touch
// them follow, and then points beside them that no other station measured either: what was in shadow. Along a
// floor a direction holds much: whether a point lies on what is there is then told by the plane through it,
// and of points beside what moved by a fifth of the margin, which tells soles from the floor.

#include <Eigen/Eigenvalues>
#include <algorithm>
#include <cmath>
#include <memory>
#include <numeric>
#include <optional>
#include <unordered_map>

#include "core/base/parallel.h"
#include "core/base/units.h"
#include "core/cloud/column.h"
#include "core/score/range_image.h"
#include "core/score/score.h"

namespace pristine::score {
namespace {

constexpr double kCube = 0.1;         // metres
constexpr int kFewPoints = 4;         // in the cubes round one, to speak of a width
constexpr double kCellsAcross = 2;    // a shape this wide cannot have been missed
constexpr double kOneSurface = 0.15;  // of the range: what differs by less round a direction is one surface
constexpr double kLeastSlant = 0.02;  // of a sight to a plane, as a sine
constexpr double kReach = 4;          // margins from a plane: farther off it is a question of sight
constexpr double kFine = 0.2;         // of a margin: what tells soles from the floor

struct Seen {
    float behind = NAN;    // least distance behind the point that another station measured; 0: it confirms it
    float cell = 0;        // size of a cell of that station at the point
    std::uint16_t by = 0;  // the station
};

// Which station of a cloud measured a point. A cloud with one station was measured from there.
class Owners {
  public:
    Owners(const cloud::PointCloud& c, Progress& progress) : stations_(c.stations().size()) {
        // A scan of a file of many counts as in that file, whatever its own station's number is.
        if (stations_ > 1 && c.records()->layout().find("scan"))
            scan_ = cloud::fetch_column(c, "scan", progress);
    }
    /// SIZE_MAX: none.
    std::size_t of(std::size_t page, std::size_t i) const {
        if (!scan_) return stations_ == 1 ? 0 : SIZE_MAX;
        const double s = scan_->base + static_cast<double>(scan_->values.page(page)[i]);
        return s >= 0 && s < static_cast<double>(stations_) ? static_cast<std::size_t>(s) : SIZE_MAX;
    }

  private:
    std::size_t stations_;
    std::shared_ptr<const cloud::FetchedColumn> scan_;
};

// What each station of the cloud, and of those beside it, saw.
class Sights {
  public:
    Sights(const Input& in, Progress& progress) : owners_(in.cloud, progress) {
        add(in.cloud, in.eligible, owners_, progress);
        for (const OtherScan& b : in.beside)
            if (!b.cloud->stations().empty()) add(*b.cloud, *b.members, Owners(*b.cloud, progress), progress);
    }
    // Of all stations that look, in the order of Seen::by.
    const std::vector<std::string>& names() const { return names_; }
    std::size_t station_of(std::size_t page, std::size_t i) const { return owners_.of(page, i); }
    Seen look(std::size_t own, const Vec3& world, double margin) const {
        Seen seen;
        bool doubtful = false, confirmed = false;
        for (std::size_t s = 0; s < images_.size(); ++s) {
            if (s == own) continue;
            const Vec3 d = world - places_[s];
            const RangeImage::Sight sight = images_[s].sight(d);
            if (sight.far < sight.near) continue;
            const double range = norm(d), behind = static_cast<double>(sight.near) - range;
            const double spread = static_cast<double>(sight.far - sight.near);
            if (behind > margin) {
                take(seen, s, range, behind);
            } else if (static_cast<double>(sight.far) >= range - margin &&
                       spread <= kOneSurface * range + margin) {
                // Along a floor a cell holds so much that what stands on it lies in it too.
                (spread > margin ? doubtful : confirmed) = true;
            }
            // Else something stood in front of it, or an edge runs through there: nothing can be said.
        }
        if (confirmed) return {0, 0, 0};
        if (!doubtful) return seen;
        return seen.behind > 0 && !on_a_surface(own, world, margin) ? seen : Seen{0, 0, 0};
    }
    // The same by the planes of what the others measured, for a place beside something that moved: seen when
    // it lies in front of a plane by more than `fine` and on none.
    Seen look_closely(std::size_t own, const Vec3& world, double margin, double fine) const {
        Seen seen;
        for (std::size_t s = 0; s < images_.size(); ++s) {
            const auto front = s == own ? std::nullopt : in_front(s, world, fine);
            if (!front || std::fabs(*front) > kReach * margin) continue;
            if (std::fabs(*front) <= fine) return {0, 0, 0};
            if (*front > fine) take(seen, s, norm(world - places_[s]), *front);
        }
        return seen;
    }
    // How far in front of the surface that a station measured there; nothing where it measured none as plane
    // as that, or looks along it.
    std::optional<double> in_front(std::size_t s, const Vec3& world, double rough) const {
        const Vec3 d = world - places_[s];
        const auto surface = images_[s].surface(d);
        if (!surface || surface->rough > rough || dot(surface->away, d) < kLeastSlant * norm(d))
            return std::nullopt;
        return surface->in_front(d);
    }

  private:
    void take(Seen& seen, std::size_t s, double range, double behind) const {
        if (std::isnan(seen.behind) || behind > static_cast<double>(seen.behind))
            seen = {static_cast<float>(behind), static_cast<float>(images_[s].cell() * range),
                    static_cast<std::uint16_t>(s)};
    }
    bool on_a_surface(std::size_t own, const Vec3& world, double margin) const {
        for (std::size_t s = 0; s < images_.size(); ++s) {
            if (s == own) continue;
            const RangeImage::Sight sight = images_[s].sight(world - places_[s]);
            if (sight.far < sight.near) continue;
            const double range = norm(world - places_[s]);
            if (static_cast<double>(sight.near) - range > margin ||
                static_cast<double>(sight.far) < range - margin ||
                static_cast<double>(sight.far - sight.near) > kOneSurface * range + margin)
                continue;
            const auto front = in_front(s, world, margin / 2);
            if (!front || std::fabs(*front) <= margin) return true;
        }
        return false;
    }
    void add(const cloud::PointCloud& c, const ElementSet& members, const Owners& owners,
             Progress& progress) {
        const std::size_t n = c.stations().size(), pages = c.page_count();
        std::vector<std::vector<std::size_t>> first(n, std::vector<std::size_t>(pages + 1, 0));
        parallel::for_each(pages, [&](std::size_t p) {
            progress.check();
            members.for_each_in_page(p, [&](std::size_t i) {
                if (const std::size_t s = owners.of(p, i); s < n) ++first[s][p + 1];
            });
        });
        std::vector<SpillVector<std::array<float, 3>>> points(n);
        for (std::size_t s = 0; s < n; ++s) {
            std::partial_sum(first[s].begin(), first[s].end(), first[s].begin());
            points[s].resize(first[s].back());
        }
        parallel::for_each(pages, [&](std::size_t p) {
            progress.check();
            const cloud::PositionPage page = c.positions(p);
            members.for_each_in_page(p, [&](std::size_t i) {
                const std::size_t s = owners.of(p, i);
                if (s >= n) return;
                const Vec3 d = c.grid().world(page.x[i], page.y[i], page.z[i]) - c.stations()[s].position;
                points[s][first[s][p]++] = {static_cast<float>(d.x), static_cast<float>(d.y),
                                            static_cast<float>(d.z)};
            });
        });
        std::vector<std::optional<RangeImage>> images(n);
        parallel::for_each(n, [&](std::size_t s) {
            progress.check();
            images[s].emplace(points[s]);
        });
        for (std::size_t s = 0; s < n; ++s) {
            images_.push_back(std::move(*images[s]));
            places_.push_back(c.stations()[s].position);
            const std::string& name = c.stations()[s].name;
            names_.push_back(name.empty() ? "station " + std::to_string(names_.size() + 1) : name);
        }
    }

    Owners owners_;
    std::vector<Vec3> places_;
    std::vector<std::string> names_;
    std::vector<RangeImage> images_;
};

struct Cube {
    double n = 0, x = 0, y = 0, z = 0, xx = 0, xy = 0, xz = 0, yy = 0, yz = 0, zz = 0;
    float cell = 0, behind = 0;  // largest cell; largest distance behind
    std::uint16_t by = 0;        // who measured that
    bool proved = false;
};

// Cubes of one scan, by place.
class Cubes {
  public:
    // Cubes of the world, so that the same places fall together however scans are shared out among items;
    // sums from the origin, for their digits.
    Cubes(double side, const Vec3& origin) : side_(side), origin_(origin) {}
    using Key = std::array<std::int32_t, 3>;
    Key key(const Vec3& world) const {
        const auto cube = [&](double v) {
            return static_cast<std::int32_t>(std::clamp(std::floor(v / side_), -2e9, 2e9));
        };
        return {cube(world.x), cube(world.y), cube(world.z)};
    }
    void add(const Vec3& world, const Seen& seen) {
        Cube& c = cubes_[key(world)];
        const Vec3 p = world - origin_;
        c.n += 1;
        c.x += p.x, c.y += p.y, c.z += p.z;
        c.xx += p.x * p.x, c.xy += p.x * p.y, c.xz += p.x * p.z;
        c.yy += p.y * p.y, c.yz += p.y * p.z, c.zz += p.z * p.z;
        c.cell = std::max(c.cell, seen.cell);
        if (seen.behind > c.behind) {
            c.behind = seen.behind;
            c.by = seen.by;
        }
    }
    // Decides which cubes prove something, and lets candidates that touch them follow.
    void decide(const Progress& progress) {
        std::vector<Key> front;
        for (auto& [k, c] : cubes_) {
            progress.check();
            if ((c.proved = wide(k, c))) front.push_back(k);
        }
        while (!front.empty()) {
            const Key k = front.back();
            front.pop_back();
            around(k, [&](const Key& o) {
                const auto it = cubes_.find(o);
                if (it == cubes_.end() || it->second.proved) return;
                it->second.proved = true;
                front.push_back(o);
            });
        }
        // Asked of nearly every point there is, so worked out once.
        for (const auto& one : cubes_) {
            const Cube& c = one.second;
            if (!c.proved) continue;
            const auto spread = [&](const Key& o) {
                Seen& best = near_.try_emplace(o, Seen{0, 0, 0}).first->second;
                if (c.behind > best.behind || (c.behind == best.behind && c.by < best.by))
                    best = {c.behind, 0, c.by};
            };
            spread(one.first);
            around(one.first, spread);
        }
    }
    // How far behind and by whom in a cube whose candidates were proved; 0: they were not.
    Seen proved_at(const Vec3& world) const {
        const auto it = cubes_.find(key(world));
        return it != cubes_.end() && it->second.proved ? Seen{it->second.behind, 0, it->second.by}
                                                       : Seen{0, 0, 0};
    }
    // The same of a cube and those round it: the farthest behind.
    Seen proved_near(const Vec3& world) const {
        const auto it = near_.find(key(world));
        return it != near_.end() ? it->second : Seen{0, 0, 0};
    }

  private:
    struct Hash {
        std::size_t operator()(const Key& k) const {
            std::uint64_t h = 0;
            for (const std::int32_t v : k) h = (h ^ static_cast<std::uint32_t>(v)) * 0x9E3779B97F4A7C15ull;
            return static_cast<std::size_t>(h ^ h >> 31);
        }
    };
    template <class Visit>
    static void around(const Key& k, Visit&& visit) {
        for (int dz = -1; dz <= 1; ++dz)
            for (int dy = -1; dy <= 1; ++dy)
                for (int dx = -1; dx <= 1; ++dx)
                    if (dx || dy || dz) visit(Key{k[0] + dx, k[1] + dy, k[2] + dz});
    }
    bool wide(const Key& k, const Cube& own) const {
        Cube s = own;
        around(k, [&](const Key& o) {
            const auto it = cubes_.find(o);
            if (it == cubes_.end()) return;
            const Cube& c = it->second;
            s.n += c.n;
            s.x += c.x, s.y += c.y, s.z += c.z;
            s.xx += c.xx, s.xy += c.xy, s.xz += c.xz, s.yy += c.yy, s.yz += c.yz, s.zz += c.zz;
        });
        if (s.n < kFewPoints) return false;
        const double mx = s.x / s.n, my = s.y / s.n, mz = s.z / s.n;
        Eigen::Matrix3d m;
        m << s.xx / s.n - mx * mx, s.xy / s.n - mx * my, s.xz / s.n - mx * mz, 0, s.yy / s.n - my * my,
            s.yz / s.n - my * mz, 0, 0, s.zz / s.n - mz * mz;
        m(1, 0) = m(0, 1), m(2, 0) = m(0, 2), m(2, 1) = m(1, 2);
        Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d> solver;
        solver.computeDirect(m, Eigen::EigenvaluesOnly);
        // A strip of width w spreads by w / sqrt(12).
        const double width = std::sqrt(12 * std::max(0.0, solver.eigenvalues()(1)));
        return width >= kCellsAcross * static_cast<double>(own.cell);
    }
    double side_;
    Vec3 origin_;
    std::unordered_map<Key, Cube, Hash> cubes_;
    std::unordered_map<Key, Seen, Hash> near_;
};

std::string no_station(const Input& in) {
    const cloud::PointCloud& c = in.cloud;
    std::size_t stations = c.stations().size();
    for (const OtherScan& b : in.beside) stations += b.cloud->stations().size();
    if (stations >= 2 && c.stations().empty())
        return "This scan does not say where its station stood; take one that does in work";
    if (stations < 2)
        return "There are not two stations at least: neither in this scan nor in others that are shown";
    if (c.stations().size() > 1 && !c.records()->layout().find("scan"))
        return "The cloud does not say which station measured which point";
    return {};
}

Column seen_through(const Input& in, const Parameters& p, Progress& progress) {
    const double margin = p.at("margin");
    const double side = kCube / length_unit(in.cloud.unit()).metres;
    const Sights sights(in, progress);
    progress.advance(0.3);
    const std::size_t stations = in.cloud.stations().size();
    const Vec3 origin = in.cloud.stations().front().position;
    struct Candidate {
        std::uint16_t station;
        Vec3 at;
        Seen seen;
    };
    std::vector<std::vector<Candidate>> candidates(in.cloud.page_count());
    std::vector<std::vector<std::uint16_t>> by(in.cloud.page_count());
    Column c;
    c.values = for_members(in, progress, [&](std::size_t page, std::vector<float>& values) {
        const cloud::PositionPage points = in.cloud.positions(page);
        by[page].resize(points.size());
        in.eligible.for_each_in_page(page, [&](std::size_t i) {
            const Vec3 w = in.cloud.grid().world(points.x[i], points.y[i], points.z[i]);
            const std::size_t own = sights.station_of(page, i);
            if (own >= stations) return;
            const Seen seen = sights.look(own, w, margin);
            values[i] = seen.behind;
            by[page][i] = seen.by;
            if (seen.behind > 0) candidates[page].push_back({static_cast<std::uint16_t>(own), w, seen});
        });
    });
    std::vector<Cubes> cubes(stations, Cubes(side, origin));
    for (const auto& of_page : candidates)
        for (const Candidate& k : of_page) cubes[k.station].add(k.at, k.seen);
    parallel::for_each(stations, [&](std::size_t s) { cubes[s].decide(progress); });
    const Column first = std::move(c);
    Column out;
    out.values = for_members(in, progress, [&](std::size_t page, std::vector<float>& values) {
        const auto before = first.values.page(page);
        const cloud::PositionPage points = in.cloud.positions(page);
        in.eligible.for_each_in_page(page, [&](std::size_t i) {
            values[i] = before[i];
            const std::size_t own = sights.station_of(page, i);
            if (own >= stations) return;
            const Vec3 w = in.cloud.grid().world(points.x[i], points.y[i], points.z[i]);
            const bool candidate = before[i] > 0;
            Seen near = candidate ? cubes[own].proved_at(w) : cubes[own].proved_near(w);
            // Another measured it, as it seems: at the foot of what moved that is looked at more closely.
            if (before[i] == 0 && near.behind > 0) near = sights.look_closely(own, w, margin, kFine * margin);
            if (!(near.behind > 0)) {
                if (candidate) values[i] = 0;
            } else if (!candidate) {
                values[i] = near.behind;
                by[page][i] = near.by;
            }
        });
    });
    std::vector<PagedArray<std::uint16_t>::PagePtr> pages(by.size());
    for (std::size_t p = 0; p < by.size(); ++p) {
        by[p].resize(page_length(in.cloud.size(), p));
        pages[p] = std::make_shared<const std::vector<std::uint16_t>>(std::move(by[p]));
    }
    out.by = {in.cloud.size(), std::move(pages)};
    out.names = sights.names();
    return out;
}

}  // namespace

void add_seen_through(std::vector<Score>& s) {
    s.push_back(
        {"through",
         "Seen through",
         "length",
         "another station looked straight through it and measured something so far behind: it moved",
         "another station measured a surface here (0)",
         "Things that stood still at the same place for all stations; glass; stations that are not well "
         "registered. Without a value: no other station looked there.",
         {{"margin", "Margin", "length", "Nearer than this counts as the same surface", 0.08, 0.005, 10,
           false}},
         no_station,
         seen_through});
    s.back().looks_beside = true;
    s.back().reason = "%2 looked past it and measured a surface %1 behind it";
}

}  // namespace pristine::score
