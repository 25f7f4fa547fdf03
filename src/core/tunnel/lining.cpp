#include "core/tunnel/lining.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <numeric>

#include "core/base/parallel.h"
#include "core/geometry/plane_under.h"
#include "core/tunnel/notches.h"

namespace pristine::tunnel {
namespace {

constexpr double kAlong = 3;    // metres to either side that tell what is usual
constexpr int kReach = 2;       // cells: as far as the sides of a step are smeared
constexpr double kOnIt = 0.02;  // metres: nearer than the noise of a lining, and so of it
constexpr double kStep = 0.1;   // metres: a lining that lies so much farther out steps back
constexpr double kBand = 0.04;  // metres within which points bear each other out
constexpr std::size_t kBacked = 3;
constexpr double kScale = 0.02;    // metres, of the noise of a lining
constexpr double kFarthest = 100;  // metres from the line that still may be lining

float larger(float a, float b) {
    return std::isnan(a) ? b : std::isnan(b) ? a : std::max(a, b);
}

}  // namespace

Lining::Lining(const cloud::PointCloud& cloud, const ElementSet& eligible, const std::vector<Vec3>& line,
               const Options& options, Progress& progress)
    : axis_(line, options.lift), options_(options), metre_(1 / options.metres_per_unit) {
    gather(cloud, eligible, progress);
    find_outer();
    close_notches();
    if (drop_islands()) close_notches();
    fit(progress);
    fill_holes();
    find_usual();
    std::vector<Sample>().swap(samples_);
}

void Lining::gather(const cloud::PointCloud& cloud, const ElementSet& eligible, Progress& progress) {
    struct Raw {
        float chainage, angle, radius;
    };
    const auto parts = parallel::map<std::vector<Raw>>(cloud.page_count(), [&](std::size_t p) {
        std::vector<Raw> out;
        progress.check();
        if (eligible.kind(p) == ElementSet::Kind::None) return out;
        const auto stretches = axis_.near(world_box(cloud.info(p).bounds, cloud.grid()));
        const cloud::PositionPage page = cloud.positions(p);
        eligible.for_each_in_page(p, [&](std::size_t i) {
            const Place at = axis_.place(cloud.grid().world(page.x[i], page.y[i], page.z[i]), &stretches);
            if (at.beyond || at.radius > kFarthest * metre_) return;
            out.push_back({static_cast<float>(at.chainage), static_cast<float>(at.angle),
                           static_cast<float>(at.radius)});
        });
        return out;
    });
    std::vector<float> radii;
    for (const auto& part : parts)
        for (std::size_t i = 0; i < part.size(); i += 16) radii.push_back(part[i].radius);
    if (radii.empty())
        throw Error(ErrorCode::Empty, "No point lies round the centreline", {},
                    "Take a line that runs inside the tunnel, in the same coordinates.");
    std::nth_element(radii.begin(), radii.begin() + static_cast<std::ptrdiff_t>(radii.size() / 2),
                     radii.end());
    typical_radius_ = static_cast<double>(radii[radii.size() / 2]);
    rows_ =
        std::max<std::size_t>(1, static_cast<std::size_t>(std::lround(axis_.length() / options_.spacing)));
    columns_ = std::clamp<std::size_t>(
        static_cast<std::size_t>(2 * std::numbers::pi * typical_radius_ / options_.spacing), 12, 4096);
    row_length_ = axis_.length() / static_cast<double>(rows_);
    column_angle_ = 2 * std::numbers::pi / static_cast<double>(columns_);
    if (rows_ * columns_ > 100'000'000)
        throw Error(ErrorCode::Usage, "The spacing is too small for a tunnel of this length");
    cells_.assign(rows_ * columns_, {});
    first_.assign(cells_.size() + 1, 0);
    const auto cell_of = [&](const Raw& r) {
        const auto row =
            std::min(rows_ - 1, static_cast<std::size_t>(static_cast<double>(r.chainage) / row_length_));
        const auto column = std::min(
            columns_ - 1,
            static_cast<std::size_t>((static_cast<double>(r.angle) + std::numbers::pi) / column_angle_));
        return row * columns_ + column;
    };
    for (const auto& part : parts)
        for (const Raw& r : part) ++first_[cell_of(r) + 1];
    std::partial_sum(first_.begin(), first_.end(), first_.begin());
    samples_.resize(first_.back());
    std::vector<std::size_t> next(first_.begin(), first_.end() - 1);
    for (const auto& part : parts)
        for (const Raw& r : part) {
            const std::size_t c = cell_of(r);
            const double s0 = (static_cast<double>(c / columns_) + 0.5) * row_length_,
                         a0 = (static_cast<double>(c % columns_) + 0.5) * column_angle_ - std::numbers::pi;
            samples_[next[c]++] = {static_cast<std::uint32_t>(c),
                                   static_cast<float>(static_cast<double>(r.chainage) - s0),
                                   static_cast<float>(static_cast<double>(r.angle) - a0), r.radius};
        }
}

void Lining::find_outer() {
    const auto band = static_cast<float>(kBand * metre_);
    parallel::for_ranges(cells_.size(), 1024, [&](std::size_t from, std::size_t to) {
        for (std::size_t c = from; c < to; ++c) {
            const auto begin = samples_.begin() + static_cast<std::ptrdiff_t>(first_[c]),
                       end = samples_.begin() + static_cast<std::ptrdiff_t>(first_[c + 1]);
            std::sort(begin, end, [](const Sample& a, const Sample& b) { return a.radius > b.radius; });
            const auto n = static_cast<std::size_t>(end - begin);
            const std::size_t wanted = std::min(n, std::max(kBacked, n / 20));
            cells_[c].outer = NAN;
            for (std::size_t i = 0; wanted > 0 && i + wanted <= n; ++i)
                if (begin[static_cast<std::ptrdiff_t>(i)].radius -
                        begin[static_cast<std::ptrdiff_t>(i + wanted - 1)].radius <=
                    band + static_cast<float>(n < kBacked ? INFINITY : 0)) {
                    cells_[c].outer = begin[static_cast<std::ptrdiff_t>(i)].radius;
                    break;
                }
            // A slanting lining spreads over its cell: then its middle.
            if (std::isnan(cells_[c].outer) && n > 0)
                cells_[c].outer = begin[static_cast<std::ptrdiff_t>(n / 2)].radius;
        }
    });
}

// What crosses an opening (a pipe before a niche) is no lining: a strip no wider than a fitting, with nothing
// measured on either side of it, inside the straight line from lining to lining, round or along the tunnel.
// Beside the opening the lining may be hidden by the same pipe: it is taken with its notches closed.
bool Lining::drop_islands() {
    const auto width = [&](double side) {
        return static_cast<std::size_t>(std::ceil(options_.widest_fitting * metre_ / side));
    };
    const auto row_of = [&](std::size_t row) {
        std::vector<float> v(columns_);
        for (std::size_t c = 0; c < columns_; ++c)
            v[c] = std::isnan(cell(row, c).outer) ? NAN : cell(row, c).r;
        return v;
    };
    const auto column_of = [&](std::size_t c) {
        std::vector<float> v(rows_);
        for (std::size_t row = 0; row < rows_; ++row)
            v[row] = std::isnan(cell(row, c).outer) ? NAN : cell(row, c).r;
        return v;
    };
    std::vector<char> strip(cells_.size(), 0);
    const std::size_t across = width(column_angle_ * typical_radius_), along = width(row_length_);
    parallel::for_each(rows_, [&](std::size_t row) {
        const std::vector<char> in = strips_between_gaps(row_of(row), across, true);
        std::copy(in.begin(), in.end(), strip.begin() + static_cast<std::ptrdiff_t>(row * columns_));
    });
    for (std::size_t c = 0; c < columns_; ++c) {
        const std::vector<char> in = strips_between_gaps(column_of(c), along, false);
        for (std::size_t row = 0; row < rows_; ++row) strip[row * columns_ + c] |= in[row];
    }
    const auto least = static_cast<float>(1.5 * kBand * metre_);
    std::vector<char> island(cells_.size(), 0);
    for (std::size_t row = 0; row < rows_; ++row) {
        const auto own = strip.begin() + static_cast<std::ptrdiff_t>(row * columns_);
        const std::vector<float> over =
            lines_over(row_of(row), {own, own + static_cast<std::ptrdiff_t>(columns_)}, column_angle_);
        for (std::size_t c = 0; c < columns_; ++c)
            island[row * columns_ + c] = cell(row, c).outer < over[c] - least;
    }
    for (std::size_t c = 0; c < columns_; ++c) {
        std::vector<char> own(rows_);
        for (std::size_t row = 0; row < rows_; ++row) own[row] = strip[row * columns_ + c];
        const std::vector<float> over = lines_over(column_of(c), own, 0);
        for (std::size_t row = 0; row < rows_; ++row)
            island[row * columns_ + c] |= cell(row, c).outer < over[row] - least;
    }
    bool any = false;
    for (std::size_t k = 0; k < cells_.size(); ++k)
        if (island[k]) {
            cells_[k].island = any = true;
            cells_[k].outer = NAN;
        }
    return any;
}

// Narrower than a fitting along or across: closed either way.
void Lining::close_notches() {
    const double half = 0.5 * options_.widest_fitting * metre_;
    const auto across = static_cast<std::size_t>(std::ceil(half / (column_angle_ * typical_radius_))),
               along = static_cast<std::size_t>(std::ceil(half / row_length_));
    std::vector<float> round(cells_.size()), lengthwise(cells_.size());
    parallel::for_each(rows_, [&](std::size_t row) {
        std::vector<float> v(columns_);
        for (std::size_t c = 0; c < columns_; ++c) v[c] = cell(row, c).outer;
        v = closed_notches(v, across, column_angle_);
        std::copy(v.begin(), v.end(), round.begin() + static_cast<std::ptrdiff_t>(row * columns_));
    });
    parallel::for_each(columns_, [&](std::size_t c) {
        std::vector<float> v(rows_);
        for (std::size_t row = 0; row < rows_; ++row) v[row] = cell(row, c).outer;
        v = closed_notches(v, along, 0);
        for (std::size_t row = 0; row < rows_; ++row) lengthwise[row * columns_ + c] = v[row];
    });
    for (std::size_t c = 0; c < cells_.size(); ++c) {
        cells_[c].r = larger(round[c], lengthwise[c]);
        cells_[c].hole = std::isnan(cells_[c].r);
    }
    spread_holes();
}

// What was closed at the rim of an opening belongs to the opening.
void Lining::spread_holes() {
    std::vector<std::size_t> front;
    for (std::size_t c = 0; c < cells_.size(); ++c)
        if (cells_[c].hole) front.push_back(c);
    while (!front.empty()) {
        const std::size_t row = front.back() / columns_, column = front.back() % columns_;
        front.pop_back();
        const auto visit = [&](std::size_t r, std::size_t q) {
            Cell& o = cells_[r * columns_ + q];
            if (o.hole || !std::isnan(o.outer)) return;
            o.hole = true;
            o.r = NAN;
            front.push_back(r * columns_ + q);
        };
        if (row > 0) visit(row - 1, column);
        if (row + 1 < rows_) visit(row + 1, column);
        visit(row, (column + 1) % columns_);
        visit(row, (column + columns_ - 1) % columns_);
    }
}

// How much the radius may differ inside a cell.
float Lining::slant_at(std::size_t row, std::size_t column) const {
    const float r = cell(row, column).r;
    float most = 0;
    for (const std::size_t c : {column + 1, column + columns_ - 1})
        if (const float o = cell(row, c % columns_).r; !std::isnan(o))
            most = std::max(most, std::fabs(o - r));
    return most;
}

// The outermost points of the cells from `first` to `last` columns away, three rows of them: angle, chainage
// and negative radius from the middle of the cell. `straight`: across and out in the section instead.
std::vector<Vec3> Lining::outer_places(std::size_t row, std::size_t column, int first, int last,
                                       bool straight) const {
    const double band = kBand * metre_;
    std::vector<Vec3> places;
    for (int dr = -1; dr <= 1; ++dr)
        for (int dc = first; dc <= last; ++dc) {
            const auto r = static_cast<std::ptrdiff_t>(row) + dr;
            if (r < 0 || r >= static_cast<std::ptrdiff_t>(rows_)) continue;
            const std::size_t c = (column + columns_ + static_cast<std::size_t>(dc + 8) - 8) % columns_;
            const std::size_t k = static_cast<std::size_t>(r) * columns_ + c;
            if (hidden(k)) continue;  // it says nothing of the lining
            // Fittings in the cell do not count: only what lies as far out as a lining of this slant may.
            const float least =
                cells_[k].outer - static_cast<float>(2 * band) - slant_at(static_cast<std::size_t>(r), c);
            const std::size_t n = first_[k + 1] - first_[k], stride = std::max<std::size_t>(1, n / 40);
            for (std::size_t i = first_[k]; i < first_[k + 1]; i += stride) {
                if (samples_[i].radius < least) continue;
                const double angle = static_cast<double>(samples_[i].angle) + dc * column_angle_,
                             along = static_cast<double>(samples_[i].chainage) + dr * row_length_,
                             radius = static_cast<double>(samples_[i].radius);
                places.push_back(straight ? Vec3{radius * std::sin(angle), along, -radius * std::cos(angle)}
                                          : Vec3{angle, along, -radius});
            }
        }
    return places;
}

bool Lining::hidden(std::size_t k) const {
    return std::isnan(cells_[k].outer) || cells_[k].outer < cells_[k].r - static_cast<float>(kBand * metre_);
}

// The planes that fit better than the even radius what lies outermost in the cell; none: no better.
std::optional<Lining::Flat> Lining::flat_at(std::size_t row, std::size_t column, const Cell& even) const {
    const double near = 0.5 * kBand * metre_;
    const std::vector<Vec3> own = outer_places(row, column, 0, 0, true);
    if (own.size() < 8) return std::nullopt;
    const auto share = [&](const auto& depth) {
        std::size_t fit = 0;
        for (const Vec3& p : own)
            fit += std::fabs(depth(std::hypot(p.x, p.z), std::atan2(p.x, -p.z), p.y)) < near;
        return static_cast<double>(fit) / static_cast<double>(own.size());
    };
    double best = share([&](double r, double da, double ds) {
        const auto by_angle = static_cast<double>(even.by_angle),
                   by_chainage = static_cast<double>(even.by_chainage);
        const double slant = by_angle / std::max(static_cast<double>(even.r), 1e-9);
        return (static_cast<double>(even.r) + by_angle * da + by_chainage * ds - r) /
               std::sqrt(1 + slant * slant + by_chainage * by_chainage);
    });
    constexpr double kGood = 0.95, kBetter = 0.02;
    if (best >= kGood) return std::nullopt;
    const auto plane = [&](int first, int last) -> std::optional<Plane> {
        const std::vector<Vec3> places = outer_places(row, column, first, last, true);
        const auto p = places.size() < 8 ? std::nullopt : plane_under(places, kScale * metre_, 8);
        if (!p) return std::nullopt;
        return Plane{-p->a, -p->b, -p->c};
    };
    std::optional<Flat> found;
    const auto attempt = [&](const std::optional<Plane>& a, const std::optional<Plane>& b) {
        if (!a || !b) return;
        const double s = share([&](double r, double da, double ds) {
            return std::min(a->depth(r, da, ds), b->depth(r, da, ds));
        });
        if (s < best + kBetter) return;
        best = s;
        found = Flat{*a, *b};
    };
    const auto middle = plane(0, 0), before = plane(-2, -1), behind = plane(1, 2);
    attempt(middle, middle);
    attempt(before, before);
    attempt(behind, behind);
    attempt(before, behind);
    return found;
}

void Lining::fit(Progress& progress) {
    std::vector<Cell> fitted = cells_;
    std::vector<std::vector<std::pair<std::size_t, Flat>>> flats(rows_);
    parallel::for_each(rows_, [&](std::size_t row) {
        progress.check();
        for (std::size_t column = 0; column < columns_; ++column) {
            Cell& out = fitted[row * columns_ + column];
            if (out.hole) continue;
            const std::vector<Vec3> places = outer_places(row, column, -1, 1, false);
            const auto plane = places.size() < 8 ? std::nullopt : plane_under(places, kScale * metre_, 8);
            if (!plane) continue;
            // Where the lining itself is hidden, only its slope is taken from beside.
            out.by_angle = static_cast<float>(-plane->b);
            out.by_chainage = static_cast<float>(-plane->c);
            if (hidden(row * columns_ + column)) continue;
            out.r = static_cast<float>(-plane->a);
            if (const auto flat = flat_at(row, column, out)) flats[row].emplace_back(column, *flat);
        }
    });
    cells_ = std::move(fitted);
    for (std::size_t row = 0; row < rows_; ++row)
        for (const auto& [column, flat] : flats[row]) {
            flats_.push_back(flat);
            Cell& c = cells_[row * columns_ + column];
            c.flat = static_cast<std::uint32_t>(flats_.size());
            c.r = static_cast<float>(radius_at(row * columns_ + column, 0, 0));
        }
}

// Of the lining, from the middle of a cell; data unit.
double Lining::radius_at(std::size_t k, double da, double ds) const {
    const Cell& c = cells_[k];
    if (c.flat == 0)
        return static_cast<double>(c.r) + static_cast<double>(c.by_angle) * da +
               static_cast<double>(c.by_chainage) * ds;
    const Flat& f = flats_[c.flat - 1];
    return std::min(f.one.radius(da, ds), f.two.radius(da, ds));
}

// Holes take the mean of what is round them, ring by ring: only meshes and volumes use that.
void Lining::fill_holes() {
    for (bool any = true; any;) {
        any = false;
        std::vector<std::pair<std::size_t, float>> fresh;
        for (std::size_t row = 0; row < rows_; ++row)
            for (std::size_t column = 0; column < columns_; ++column) {
                if (!std::isnan(cell(row, column).r)) continue;
                double sum = 0, n = 0;
                for (int dr = -1; dr <= 1; ++dr)
                    for (std::size_t dc = 0; dc < 3; ++dc) {
                        const auto r = static_cast<std::ptrdiff_t>(row) + dr;
                        if (r < 0 || r >= static_cast<std::ptrdiff_t>(rows_)) continue;
                        const float o =
                            cell(static_cast<std::size_t>(r), (column + columns_ + dc - 1) % columns_).r;
                        if (std::isnan(o)) continue;
                        sum += static_cast<double>(o);
                        n += 1;
                    }
                if (n > 0) fresh.push_back({row * columns_ + column, static_cast<float>(sum / n)});
            }
        for (const auto& [c, r] : fresh) cells_[c].r = r;
        any = !fresh.empty();
    }
}

double Lining::radius(std::size_t row, std::size_t column) const {
    const Cell& c = cell(row, column);
    return c.hole ? NAN : static_cast<double>(c.r);
}

std::optional<std::size_t> Lining::cell_at(const Place& p) const {
    if (p.beyond || p.radius > kFarthest * metre_) return std::nullopt;
    const auto row = std::min(rows_ - 1, static_cast<std::size_t>(p.chainage / row_length_));
    const auto column =
        std::min(columns_ - 1, static_cast<std::size_t>((p.angle + std::numbers::pi) / column_angle_));
    return row * columns_ + column;
}

std::optional<double> Lining::depth(const Vec3& world, const std::vector<std::size_t>* stretches) const {
    const Place p = axis_.place(world, stretches);
    const auto at = cell_at(p);
    if (!at) return std::nullopt;
    const std::size_t row = *at / columns_, column = *at % columns_;
    const Cell& c = cells_[*at];
    if (c.hole && !c.island) return std::nullopt;
    const double own = depth_in(row, column, p);
    return own > kOnIt * metre_ ? behind_neighbour(row, column, p, own) : own;
}

// Inwards from the lining of a cell, which may be continued beyond it.
double Lining::depth_in(std::size_t row, std::size_t column, const Place& p) const {
    const Cell& c = cell(row, column);
    const double ds = p.chainage - (static_cast<double>(row) + 0.5) * row_length_,
                 da = std::remainder(
                     p.angle - ((static_cast<double>(column) + 0.5) * column_angle_ - std::numbers::pi),
                     2 * std::numbers::pi);
    if (c.flat > 0) {
        const Flat& f = flats_[c.flat - 1];
        return std::min(f.one.depth(p.radius, da, ds), f.two.depth(p.radius, da, ds));
    }
    const auto by_angle = static_cast<double>(c.by_angle), by_chainage = static_cast<double>(c.by_chainage);
    const double r = static_cast<double>(c.r) + by_angle * da + by_chainage * ds;
    // Radially, then across the slanting lining.
    const double slant = by_angle / std::max(r, 1e-9);
    return (r - p.radius) / std::sqrt(1 + slant * slant + by_chainage * by_chainage);
}

// The usual radius along the tunnel at each angle: what lies farther in is something that hangs there and
// hides the lining, what lies farther out is a niche.
void Lining::find_usual() {
    const auto reach = static_cast<std::ptrdiff_t>(std::ceil(kAlong * metre_ / row_length_)),
               rows = static_cast<std::ptrdiff_t>(rows_);
    usual_.resize(cells_.size());
    std::vector<float> near;
    for (std::size_t column = 0; column < columns_; ++column)
        for (std::ptrdiff_t row = 0; row < rows; ++row) {
            near.clear();
            for (std::ptrdiff_t r = std::max<std::ptrdiff_t>(0, row - reach);
                 r < std::min(rows, row + reach + 1); ++r)
                if (const Cell& c = cell(static_cast<std::size_t>(r), column); !c.hole) near.push_back(c.r);
            const auto middle = near.begin() + static_cast<std::ptrdiff_t>(near.size() / 2);
            std::nth_element(near.begin(), middle, near.end());
            usual_[static_cast<std::size_t>(row) * columns_ + column] = near.empty() ? 0 : *middle;
        }
}

// Where the lining steps back, as in a niche, the sides of the step lie before its back and behind the wall
// round it: they are lining, and what lies before the wall is not.
double Lining::behind_neighbour(std::size_t row, std::size_t column, const Place& p, double own) const {
    double least = own, second = own;  // of two neighbours that agree: one alone may be off
    for (int dr = -kReach; dr <= kReach; ++dr)
        for (int dc = -kReach; dc <= kReach; ++dc) {
            const auto r = static_cast<std::ptrdiff_t>(row) + dr;
            if ((dr == 0 && dc == 0) || r < 0 || r >= static_cast<std::ptrdiff_t>(rows_)) continue;
            const auto round = static_cast<std::ptrdiff_t>(columns_);
            const std::size_t near = static_cast<std::size_t>(r),
                              beside = static_cast<std::size_t>(
                                  (static_cast<std::ptrdiff_t>(column) + dc + round) % round);
            const Cell& c = cell(near, beside);
            const double off =
                static_cast<double>(c.r) - static_cast<double>(usual_[near * columns_ + beside]);
            if (c.hole || std::fabs(off) > kStep * metre_) continue;
            const double there = depth_in(near, beside, p);
            if (own - there <= kStep * metre_ || there >= second) continue;
            second = std::max(least, there);
            least = std::min(least, there);
        }
    return second <= 0.02 * metre_ ? std::max(second, 0.0) : own;
}

std::vector<Hole> Lining::holes() const {
    std::vector<Hole> out;
    std::vector<char> seen(cells_.size(), 0);
    std::vector<std::size_t> group;
    for (std::size_t c = 0; c < cells_.size(); ++c) {
        if (!cells_[c].hole || seen[c]) continue;
        group.assign(1, c);
        seen[c] = 1;
        double chainage = 0, x = 0, y = 0, area = 0;
        for (std::size_t k = 0; k < group.size(); ++k) {
            const std::size_t row = group[k] / columns_, column = group[k] % columns_;
            const double angle = (static_cast<double>(column) + 0.5) * column_angle_ - std::numbers::pi;
            chainage += (static_cast<double>(row) + 0.5) * row_length_;
            x += std::cos(angle);
            y += std::sin(angle);
            area += row_length_ * column_angle_ * static_cast<double>(cells_[group[k]].r);
            const auto visit = [&](std::size_t r, std::size_t q) {
                const std::size_t o = r * columns_ + q;
                if (cells_[o].hole && !seen[o]) {
                    seen[o] = 1;
                    group.push_back(o);
                }
            };
            if (row > 0) visit(row - 1, column);
            if (row + 1 < rows_) visit(row + 1, column);
            visit(row, (column + 1) % columns_);
            visit(row, (column + columns_ - 1) % columns_);
        }
        out.push_back({chainage / static_cast<double>(group.size()),
                       std::atan2(y, x) * 180 / std::numbers::pi, area, group});
    }
    return out;
}

}  // namespace pristine::tunnel
