#include "core/cloud/neighbours.h"

#include <fmt/format.h>
#include <immintrin.h>

#include <algorithm>
#include <array>
#include <atomic>
#include <bit>
#include <cmath>
#include <utility>

#include "core/base/parallel.h"

namespace pristine::cloud {
namespace {

constexpr int kAxisBits = 21;
constexpr std::int32_t kMostCell = (1 << kAxisBits) - 1;
constexpr std::size_t kLeaf = 48;      // points of a cell that is not cut further
constexpr std::size_t kDescend = 192;  // a longer stretch is descended into
constexpr std::size_t kPadding = 16;   // read but not used behind the last point
constexpr unsigned kMostNeighbours = 64;

std::uint64_t spread(std::uint64_t v) {
    v &= 0x1FFFFF;
    v = (v | v << 32) & 0x1F00000000FFFFull;
    v = (v | v << 16) & 0x1F0000FF0000FFull;
    v = (v | v << 8) & 0x100F00F00F00F00Full;
    v = (v | v << 4) & 0x10C30C30C30C30C3ull;
    return (v | v << 2) & 0x1249249249249249ull;
}

std::uint32_t gathered(std::uint64_t v) {
    v &= 0x1249249249249249ull;
    v = (v ^ v >> 2) & 0x10C30C30C30C30C3ull;
    v = (v ^ v >> 4) & 0x100F00F00F00F00Full;
    v = (v ^ v >> 8) & 0x1F0000FF0000FFull;
    v = (v ^ v >> 16) & 0x1F00000000FFFFull;
    return static_cast<std::uint32_t>((v ^ v >> 32) & 0x1FFFFF);
}

std::uint64_t morton(std::int32_t x, std::int32_t y, std::int32_t z) {
    return spread(static_cast<std::uint64_t>(x)) | spread(static_cast<std::uint64_t>(y)) << 1 |
           spread(static_cast<std::uint64_t>(z)) << 2;
}

std::array<std::int32_t, 3> cell_of(std::uint64_t code) {
    return {static_cast<std::int32_t>(gathered(code)), static_cast<std::int32_t>(gathered(code >> 1)),
            static_cast<std::int32_t>(gathered(code >> 2))};
}

// The 26 neighbours and the cell itself, nearest first.
std::array<std::array<std::int8_t, 3>, 27> make_steps() {
    std::array<std::array<std::int8_t, 3>, 27> steps{};
    std::size_t n = 0;
    for (int away = 0; away <= 3; ++away)
        for (int a = -1; a <= 1; ++a)
            for (int b = -1; b <= 1; ++b)
                for (int c = -1; c <= 1; ++c)
                    if (std::abs(a) + std::abs(b) + std::abs(c) == away)
                        steps[n++] = {static_cast<std::int8_t>(a), static_cast<std::int8_t>(b),
                                      static_cast<std::int8_t>(c)};
    return steps;
}
const auto kSteps = make_steps();

struct Keyed {
    std::uint64_t code;
    std::uint32_t element;
};

}  // namespace

// Occupied cells of one level: bricks of 4 x 4 x 4 cells, a bit for each that holds something.
struct NeighbourIndex::Level {
    struct Brick {
        std::uint64_t key = UINT64_MAX, mask = 0;
        std::uint32_t first = 0;  // of its cells in `start`
    };
    SpillVector<std::uint32_t> start;  // of each cell in the order of the points, and the end
    SpillVector<Brick> bricks;         // open addressing

    static std::size_t slot(std::uint64_t key) {
        return static_cast<std::size_t>((key * 0x9E3779B97F4A7C15ull) >> 32);
    }
    void add(std::uint64_t cell, std::uint32_t number) {
        Brick& b = bricks[place(cell >> 6)];
        if (b.key == UINT64_MAX) b = {cell >> 6, 0, number};
        b.mask |= std::uint64_t{1} << (cell & 63);
    }
    std::size_t place(std::uint64_t key) const {
        std::size_t at = slot(key) & (bricks.size() - 1);
        while (bricks[at].key != key && bricks[at].key != UINT64_MAX) at = (at + 1) & (bricks.size() - 1);
        return at;
    }
    // Points [first, last) of a cell; empty when it holds none.
    std::pair<std::uint32_t, std::uint32_t> points(std::uint64_t cell) const {
        const Brick& b = bricks[place(cell >> 6)];
        const std::uint64_t bit = std::uint64_t{1} << (cell & 63);
        if (b.key == UINT64_MAX || !(b.mask & bit)) return {0, 0};
        const std::uint32_t n = b.first + static_cast<std::uint32_t>(std::popcount(b.mask & (bit - 1)));
        return {start[n], start[n + 1]};
    }
};

NeighbourIndex::~NeighbourIndex() = default;

NeighbourIndex::NeighbourIndex(const PointCloud& cloud, const ElementSet& members, Progress& progress) {
    const std::uint64_t n = members.count();
    if (n == 0) return;
    const Box3 robust = cloud.robust_bounds();
    const double extent =
        std::max({robust.hi.x - robust.lo.x, robust.hi.y - robust.lo.y, robust.hi.z - robust.lo.z, 1e-6});
    // On a surface about one point in a finest cell. The grid reaches a million cells to either side; what
    // lies beyond is put into the cells at its rim, to which it is no nearer than to the place itself.
    side_ = static_cast<float>(std::exp2(
        std::floor(std::log2(std::max(extent / std::sqrt(static_cast<double>(n)), extent * 2e-6)))));
    const Vec3 middle = (robust.lo + robust.hi) * 0.5;
    const double reach = static_cast<double>(side_) * (kMostCell / 2);
    origin_ = middle - Vec3{reach, reach, reach};
    sort(cloud, members, progress);
    make_levels();
}

void NeighbourIndex::sort(const PointCloud& cloud, const ElementSet& members, Progress& progress) {
    // Positions as differences to the middle, where the points are: they fit a float.
    const Vec3 base = origin_;
    const double inverse = 1 / static_cast<double>(side_);
    const Vec3 middle = origin_ + Vec3{1, 1, 1} * (static_cast<double>(side_) * (kMostCell / 2));
    std::vector<std::uint64_t> first(cloud.page_count() + 1, 0);
    for (std::size_t p = 0; p < cloud.page_count(); ++p) first[p + 1] = first[p] + members.page_members(p);
    const std::size_t n = first.back();
    SpillVector<Keyed> keys(n);
    const Grid& grid = cloud.grid();
    parallel::for_each(cloud.page_count(), [&](std::size_t p) {
        if (members.kind(p) == ElementSet::Kind::None) return;
        progress.check();
        const PositionPage points = cloud.positions(p);
        std::size_t at = first[p];
        members.for_each_in_page(p, [&](std::size_t i) {
            const Vec3 w = grid.world(points.x[i], points.y[i], points.z[i]) - base;
            const auto cell = [&](double v) {
                return static_cast<std::int32_t>(
                    std::clamp(v * inverse, 0.0, static_cast<double>(kMostCell)));
            };
            keys[at++] = {morton(cell(w.x), cell(w.y), cell(w.z)),
                          static_cast<std::uint32_t>(p * kPageSize + i)};
        });
    });
    origin_ = middle;
    progress.advance(0.1);
    // Stretches by a sample of the codes, each sorted for itself; ties by element.
    std::vector<std::uint64_t> cuts;
    for (std::size_t i = 0; i < n; i += std::max<std::size_t>(1, n / 65536)) cuts.push_back(keys[i].code);
    std::sort(cuts.begin(), cuts.end());
    const std::size_t buckets = std::max<std::size_t>(1, n / 32768);
    std::vector<std::uint64_t> splitters;
    for (std::size_t k = 1; k < buckets; ++k) splitters.push_back(cuts[k * cuts.size() / buckets]);
    splitters.erase(std::unique(splitters.begin(), splitters.end()), splitters.end());
    const std::size_t parts = splitters.size() + 1, runs = pages_for(n);
    const auto part_of = [&](std::uint64_t code) {
        return static_cast<std::size_t>(std::upper_bound(splitters.begin(), splitters.end(), code) -
                                        splitters.begin());
    };
    std::vector<std::vector<std::uint32_t>> counts(runs, std::vector<std::uint32_t>(parts, 0));
    parallel::for_each(runs, [&](std::size_t r) {
        for (std::size_t i = r * kPageSize; i < std::min(n, (r + 1) * kPageSize); ++i)
            ++counts[r][part_of(keys[i].code)];
    });
    std::vector<std::size_t> starts(parts + 1, 0);
    std::size_t sum = 0;
    for (std::size_t k = 0; k < parts; ++k) {
        starts[k] = sum;
        for (auto& c : counts) {
            const std::uint32_t own = c[k];
            c[k] = static_cast<std::uint32_t>(sum);
            sum += own;
        }
    }
    starts[parts] = sum;
    SpillVector<Keyed> sorted(n);
    parallel::for_each(runs, [&](std::size_t r) {
        for (std::size_t i = r * kPageSize; i < std::min(n, (r + 1) * kPageSize); ++i)
            sorted[counts[r][part_of(keys[i].code)]++] = keys[i];
    });
    SpillVector<Keyed>().swap(keys);
    x_.resize(n + kPadding);
    y_.resize(n + kPadding);
    z_.resize(n + kPadding);
    element_.resize(n);
    code_.resize(n);
    progress.advance(0.2);
    parallel::for_each(parts, [&](std::size_t k) {
        progress.check();
        std::sort(sorted.begin() + static_cast<std::ptrdiff_t>(starts[k]),
                  sorted.begin() + static_cast<std::ptrdiff_t>(starts[k + 1]),
                  [](const Keyed& a, const Keyed& b) {
                      return a.code != b.code ? a.code < b.code : a.element < b.element;
                  });
        for (std::size_t i = starts[k]; i < starts[k + 1]; ++i) {
            const Vec3 w = cloud.position(sorted[i].element) - middle;
            x_[i] = static_cast<float>(w.x);
            y_[i] = static_cast<float>(w.y);
            z_[i] = static_cast<float>(w.z);
            element_[i] = sorted[i].element;
            code_[i] = sorted[i].code;
        }
    });
    progress.advance(0.3);
}

void NeighbourIndex::make_levels() {
    const std::size_t n = code_.size();
    for (unsigned l = 0; l <= kAxisBits; ++l) {
        Level level;
        std::size_t bricks = 0;
        std::uint64_t cell = UINT64_MAX, brick = UINT64_MAX;
        // The first points of the cells one level below are the only ones where a cell may begin.
        const SpillVector<std::uint32_t>* below = l > 0 ? &levels_.back().start : nullptr;
        const std::size_t candidates = below ? below->size() - 1 : n;
        for (std::size_t c = 0; c < candidates; ++c) {
            const std::uint32_t i = below ? (*below)[c] : static_cast<std::uint32_t>(c);
            const std::uint64_t own = code_[i] >> (3 * l);
            if (own == cell) continue;
            cell = own;
            level.start.push_back(i);
            bricks += own >> 6 != brick;
            brick = own >> 6;
        }
        level.bricks.resize(std::bit_ceil(2 * bricks + 1));
        for (std::uint32_t c = 0; c < level.start.size(); ++c) level.add(code_[level.start[c]] >> (3 * l), c);
        level.start.push_back(static_cast<std::uint32_t>(n));
        levels_.push_back(std::move(level));
        const std::size_t cells = levels_.back().start.size() - 1;
        if (n < 6 * cells) start_level_ = l;
        if (cells == 1) break;
    }
    start_level_ = std::min(start_level_ + 1, levels_.size() - 1);
}

// What one worker needs: the list of the nearest so far, and points that have to be asked again one level up.
class NeighbourIndex::Search {
  public:
    Search(const NeighbourIndex& index, unsigned k) : g_(index), k_(k), again_(index.levels_.size() + 1) {}

    template <class Visit>
    void run(std::size_t first_cell, std::size_t last_cell, const Visit& visit) {
        const SpillVector<std::uint32_t>& start = g_.levels_[g_.start_level_].start;
        for (std::size_t c = first_cell; c < last_cell; ++c)
            leaf(start[c], start[c + 1], g_.start_level_, visit);
        for (std::size_t l = 0; l < again_.size(); ++l) {
            std::vector<std::uint32_t> points = std::exchange(again_[l], {});
            std::sort(points.begin(), points.end());
            std::uint64_t cell = UINT64_MAX;
            for (const std::uint32_t q : points) {
                if (g_.code_[q] >> (3 * l) != cell) {
                    cell = g_.code_[q] >> (3 * l);
                    gather(cell, l);
                }
                ask(q, cell, l, visit);
            }
        }
    }

  private:
    struct Stretch {
        std::uint32_t first, last;
        std::array<std::int8_t, 3> step;
    };

    template <class Visit>
    void leaf(std::uint32_t first, std::uint32_t last, std::size_t level, const Visit& visit) {
        if (last - first > kLeaf && level > 0) {
            for (std::uint32_t i = first; i < last;) {
                const std::uint64_t child = g_.code_[i] >> (3 * (level - 1));
                std::uint32_t j = i + 1;
                while (j < last && g_.code_[j] >> (3 * (level - 1)) == child) ++j;
                leaf(i, j, level - 1, visit);
                i = j;
            }
            return;
        }
        const std::uint64_t cell = g_.code_[first] >> (3 * level);
        gather(cell, level);
        for (std::uint32_t q = first; q < last; ++q) ask(q, cell, level, visit);
    }

    void gather(std::uint64_t cell, std::size_t level) {
        stretches_.clear();
        const auto at = cell_of(cell);
        const std::int32_t most = kMostCell >> level;
        for (const auto& s : kSteps) {
            const std::int32_t x = at[0] + s[0], y = at[1] + s[1], z = at[2] + s[2];
            if (x < 0 || y < 0 || z < 0 || x > most || y > most || z > most) continue;
            const auto [first, last] = g_.levels_[level].points(morton(x, y, z));
            if (first != last) stretches_.push_back({first, last, s});
        }
    }

    // How far a place may seem from where it is, in floats.
    float rounding(const std::array<float, 3>& p) const {
        return 1e-3f * g_.side_ + 1e-6f * (std::fabs(p[0]) + std::fabs(p[1]) + std::fabs(p[2]));
    }

    // Low corner of a cell, relative to the origin of the index.
    std::array<float, 3> corner(std::uint64_t cell, std::size_t level) const {
        std::array<float, 3> c{};
        const auto at = cell_of(cell);
        for (std::size_t a = 0; a < 3; ++a)
            c[a] = static_cast<float>((static_cast<double>(std::int64_t{at[a]} << level) - kMostCell / 2) *
                                      static_cast<double>(g_.side_));
        return c;
    }

    template <class Visit>
    void ask(std::uint32_t q, std::uint64_t cell, std::size_t level, const Visit& visit) {
        const std::array<float, 3> p{g_.x_[q], g_.y_[q], g_.z_[q]}, low = corner(cell, level);
        const float side = std::ldexp(g_.side_, static_cast<int>(level));
        // Distances to the six sides of the cell; a hair less, for the rounding of places to floats.
        std::array<std::array<float, 3>, 3> away{};
        float inner = side;
        const float hair = rounding(p);
        for (std::size_t a = 0; a < 3; ++a) {
            const float below = p[a] - low[a], above = low[a] + side - p[a];
            inner = std::min({inner, below, above});
            away[a] = {std::max(0.0f, below - hair), 0, std::max(0.0f, above - hair)};
        }
        std::fill_n(squared_.begin(), std::max(k_, 16u), INFINITY);
        limit_ = INFINITY;
        for (const Stretch& s : stretches_) {
            float d = 0;
            for (std::size_t a = 0; a < 3; ++a) {
                const float one = away[a][static_cast<std::size_t>(s.step[a] + 1)];
                d += one * one;
            }
            if (d >= limit_) continue;
            if (s.last - s.first > kDescend && level > 0)
                descend(s.first, s.last, level, q, p);
            else
                scan(s.first, s.last, q, p);
        }
        const float sure = side + inner - hair;  // everything within this distance lies in the 27 cells
        if ((sure > 0 && limit_ <= sure * sure) || level + 1 >= g_.levels_.size()) {
            std::size_t found = k_;
            while (found > 0 && std::isinf(squared_[found - 1])) --found;
            visit(q, Nearest{{squared_.data(), found}, {index_.data(), found}});
        } else {
            again_[level + 1].push_back(q);
        }
    }

    // Children of a cell, nearest first.
    void descend(std::uint32_t first, std::uint32_t last, std::size_t level, std::uint32_t q,
                 const std::array<float, 3>& p) {
        struct Child {
            float distance;
            std::uint32_t first, last;
        };
        std::array<Child, 8> children;
        std::size_t n = 0;
        const std::size_t below = level - 1;
        const float side = std::ldexp(g_.side_, static_cast<int>(below)), hair = rounding(p);
        for (std::uint32_t i = first; i < last;) {
            const std::uint64_t cell = g_.code_[i] >> (3 * below);
            const auto end = std::upper_bound(g_.code_.begin() + i, g_.code_.begin() + last,
                                              ((cell + 1) << (3 * below)) - 1);
            const auto j = static_cast<std::uint32_t>(end - g_.code_.begin());
            const std::array<float, 3> low = corner(cell, below);
            const auto at = cell_of(cell);
            float d = 0;
            for (std::size_t a = 0; a < 3; ++a) {
                // A cell at the rim of the grid also holds what lies beyond it.
                const float under = at[a] == 0 ? 0 : low[a] - p[a] - hair,
                            over = at[a] == kMostCell >> below ? 0 : p[a] - low[a] - side - hair;
                const float out = std::max({0.0f, under, over});
                d += out * out;
            }
            std::size_t place = n++;
            for (; place > 0 && children[place - 1].distance > d; --place)
                children[place] = children[place - 1];
            children[place] = {d, i, j};
            i = j;
        }
        for (std::size_t c = 0; c < n; ++c) {
            if (children[c].distance >= limit_) return;
            if (children[c].last - children[c].first > kDescend && below > 0)
                descend(children[c].first, children[c].last, below, q, p);
            else
                scan(children[c].first, children[c].last, q, p);
        }
    }

    void scan(std::uint32_t first, std::uint32_t last, std::uint32_t q, const std::array<float, 3>& p) {
        static const bool avx2 = __builtin_cpu_supports("avx2") != 0,
                          avx512 = __builtin_cpu_supports("avx512f") != 0;
        if (avx512 && k_ <= 16)
            scan_avx512(first, last, q, p);
        else if (avx2)
            scan_avx2(first, last, q, p);
        else
            scan_plain(first, last, q, p);
    }
    void scan_plain(std::uint32_t first, std::uint32_t last, std::uint32_t q, const std::array<float, 3>& p) {
        for (std::uint32_t i = first; i < last; ++i) {
            const float dx = g_.x_[i] - p[0], dy = g_.y_[i] - p[1], dz = g_.z_[i] - p[2];
            const float d = dx * dx + dy * dy + dz * dz;
            if (d < limit_ && i != q) insert(d, i);
        }
    }
    // The same order of operations as the plain one, so that both give the same bits.
    __attribute__((target("avx2"))) void scan_avx2(std::uint32_t first, std::uint32_t last, std::uint32_t q,
                                                   const std::array<float, 3>& p) {
        const __m256 px = _mm256_set1_ps(p[0]), py = _mm256_set1_ps(p[1]), pz = _mm256_set1_ps(p[2]);
        alignas(32) std::array<float, 8> distances;
        for (std::uint32_t i = first; i < last; i += 8) {
            const __m256 dx = _mm256_sub_ps(_mm256_loadu_ps(g_.x_.data() + i), px),
                         dy = _mm256_sub_ps(_mm256_loadu_ps(g_.y_.data() + i), py),
                         dz = _mm256_sub_ps(_mm256_loadu_ps(g_.z_.data() + i), pz);
            const __m256 d = _mm256_add_ps(_mm256_add_ps(_mm256_mul_ps(dx, dx), _mm256_mul_ps(dy, dy)),
                                           _mm256_mul_ps(dz, dz));
            auto near = static_cast<unsigned>(
                _mm256_movemask_ps(_mm256_cmp_ps(d, _mm256_set1_ps(limit_), _CMP_LT_OQ)));
            if (last - i < 8) near &= (1u << (last - i)) - 1;
            if (near == 0) continue;
            _mm256_store_ps(distances.data(), d);
            for (; near != 0; near &= near - 1) {
                const auto lane = static_cast<unsigned>(std::countr_zero(near));
                if (distances[lane] < limit_ && i + lane != q) insert(distances[lane], i + lane);
            }
        }
    }

// GCC 12 takes the undefined operands inside its own AVX-512 header for uninitialised variables (its bug
// 105593).
#ifndef __clang__
#pragma GCC diagnostic push
#pragma GCC diagnostic ignored "-Wuninitialized"
#pragma GCC diagnostic ignored "-Wmaybe-uninitialized"
#endif
    // The list of up to 16 in one register each for distances and numbers: an insertion shifts both under a
    // mask and never branches.
    __attribute__((target("avx512f"))) void scan_avx512(std::uint32_t first, std::uint32_t last,
                                                        std::uint32_t q, const std::array<float, 3>& p) {
        const __m512 px = _mm512_set1_ps(p[0]), py = _mm512_set1_ps(p[1]), pz = _mm512_set1_ps(p[2]);
        const __m512i lanes = _mm512_setr_epi32(0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15),
                      own = _mm512_set1_epi32(static_cast<int>(q)),
                      kth = _mm512_set1_epi32(static_cast<int>(k_ - 1));
        __m512 list = _mm512_load_ps(squared_.data());
        __m512i numbers = _mm512_load_si512(index_.data());
        __m512 limit = _mm512_permutexvar_ps(kth, list);
        for (std::uint32_t i = first; i < last; i += 16) {
            const __m512 dx = _mm512_sub_ps(_mm512_loadu_ps(g_.x_.data() + i), px),
                         dy = _mm512_sub_ps(_mm512_loadu_ps(g_.y_.data() + i), py),
                         dz = _mm512_sub_ps(_mm512_loadu_ps(g_.z_.data() + i), pz);
            const __m512 d = _mm512_add_ps(_mm512_add_ps(_mm512_mul_ps(dx, dx), _mm512_mul_ps(dy, dy)),
                                           _mm512_mul_ps(dz, dz));
            const __m512i at = _mm512_add_epi32(_mm512_set1_epi32(static_cast<int>(i)), lanes);
            __mmask16 near = _mm512_cmp_ps_mask(d, limit, _CMP_LT_OQ) & _mm512_cmpneq_epi32_mask(at, own);
            if (last - i < 16) near &= static_cast<__mmask16>((1u << (last - i)) - 1);
            while (near) {
                const __m512i lane = _mm512_set1_epi32(std::countr_zero(static_cast<unsigned>(near)));
                const __m512 one = _mm512_permutexvar_ps(lane, d);
                const __m512i number = _mm512_permutexvar_epi32(lane, at);
                const __mmask16 behind = _mm512_cmp_ps_mask(list, one, _CMP_GT_OQ);
                const auto place = static_cast<__mmask16>(behind & -behind);
                const __m512 shifted = _mm512_castsi512_ps(
                    _mm512_alignr_epi32(_mm512_castps_si512(list), _mm512_castps_si512(list), 15));
                list = _mm512_mask_mov_ps(_mm512_mask_mov_ps(list, behind, shifted), place, one);
                numbers = _mm512_mask_mov_epi32(
                    _mm512_mask_mov_epi32(numbers, behind, _mm512_alignr_epi32(numbers, numbers, 15)), place,
                    number);
                limit = _mm512_permutexvar_ps(kth, list);
                near &= static_cast<__mmask16>(near - 1);
                near &= _mm512_cmp_ps_mask(d, limit, _CMP_LT_OQ);
            }
        }
        _mm512_store_ps(squared_.data(), list);
        _mm512_store_si512(index_.data(), numbers);
        limit_ = squared_[k_ - 1];
    }
#ifndef __clang__
#pragma GCC diagnostic pop
#endif

    void insert(float d, std::uint32_t i) {
        unsigned at = k_ - 1;
        for (; at > 0 && squared_[at - 1] > d; --at) {
            squared_[at] = squared_[at - 1];
            index_[at] = index_[at - 1];
        }
        squared_[at] = d;
        index_[at] = i;
        limit_ = squared_[k_ - 1];
    }

    const NeighbourIndex& g_;
    unsigned k_;
    float limit_ = INFINITY;
    alignas(64) std::array<float, kMostNeighbours> squared_{};
    alignas(64) std::array<std::uint32_t, kMostNeighbours> index_{};
    std::vector<Stretch> stretches_;
    std::vector<std::vector<std::uint32_t>> again_;
};

void NeighbourIndex::for_each_nearest(unsigned k,
                                      const std::function<void(std::size_t, const Nearest&)>& visit,
                                      Progress& progress) const {
    if (k < 1 || k > kMostNeighbours)
        throw Error(ErrorCode::Usage,
                    fmt::format("From 1 to {} neighbours can be looked for", kMostNeighbours));
    if (size() == 0) return;
    const std::size_t cells = levels_[start_level_].start.size() - 1;
    constexpr std::size_t kCellsATime = 4096;
    const std::size_t runs = (cells + kCellsATime - 1) / kCellsATime;
    std::atomic<std::size_t> done{0};
    parallel::for_each(runs, [&](std::size_t r) {
        progress.check();
        Search search(*this, k);
        search.run(r * kCellsATime, std::min(cells, (r + 1) * kCellsATime), visit);
        progress.advance(0.3 + 0.7 * static_cast<double>(++done) / static_cast<double>(runs));
    });
}

}  // namespace pristine::cloud
