#include "core/score/surroundings.h"

#include <algorithm>
#include <cmath>
#include <numeric>

#include "core/base/parallel.h"

namespace pristine::score {
namespace {

constexpr unsigned kBits = 21;
constexpr std::int32_t kMost = (1 << kBits) - 2;

}  // namespace

std::uint64_t Surroundings::key_of(const Cube& c) {
    return static_cast<std::uint64_t>(c[0]) | static_cast<std::uint64_t>(c[1]) << kBits |
           static_cast<std::uint64_t>(c[2]) << 2 * kBits;
}

Surroundings::Cube Surroundings::cube_of(std::uint64_t key) {
    constexpr std::uint64_t mask = (1u << kBits) - 1;
    return {static_cast<std::int32_t>(key & mask), static_cast<std::int32_t>(key >> kBits & mask),
            static_cast<std::int32_t>(key >> 2 * kBits & mask)};
}

std::size_t Surroundings::Level::find(std::uint64_t wanted) const {
    const auto at = std::lower_bound(key.begin(), key.end(), wanted);
    return at != key.end() && *at == wanted ? static_cast<std::size_t>(at - key.begin()) : SIZE_MAX;
}

// Means over each cube and the 26 round it.
void Surroundings::Level::finish() {
    mean.resize(key.size());
    parallel::for_ranges(key.size(), 2048, [&](std::size_t from, std::size_t to) {
        for (std::size_t c = from; c < to; ++c) {
            const Cube at = cube_of(key[c]);
            double count = 0, total = 0;
            for (std::int32_t z = -1; z <= 1; ++z)
                for (std::int32_t y = -1; y <= 1; ++y) {
                    // Three cubes along x follow each other in the order of keys.
                    const Cube first{std::max(0, at[0] - 1), at[1] + y, at[2] + z};
                    if (first[1] < 0 || first[2] < 0) continue;
                    const std::uint64_t last = key_of({at[0] + 1, at[1] + y, at[2] + z});
                    for (auto k = std::lower_bound(key.begin(), key.end(), key_of(first));
                         k != key.end() && *k <= last; ++k) {
                        const auto i = static_cast<std::size_t>(k - key.begin());
                        count += n[i];
                        total += sum[i];
                    }
                }
            mean[c] = total / count;
        }
    });
}

Surroundings::Surroundings(const SpillVector<Vec3>& places, const SpillVector<float>& values, double finest)
    : finest_(finest), own_(places.size()), levels_(kLevels) {
    Box3 box;
    for (const Vec3& p : places) box.add(p);
    // Cubes are counted from a corner that every level has.
    const double whole = finest * (1 << (kLevels - 1));
    Vec3 corner;
    for (int a = 0; a < 3; ++a) corner[a] = std::floor(box.lo[a] / whole) * whole;
    parallel::for_ranges(places.size(), 65536, [&](std::size_t from, std::size_t to) {
        for (std::size_t i = from; i < to; ++i) {
            Cube c;
            for (int a = 0; a < 3; ++a)
                c[static_cast<std::size_t>(a)] = static_cast<std::int32_t>(
                    std::min<double>(kMost, std::floor((places[i][a] - corner[a]) / finest)));
            own_[i] = key_of(c);
        }
    });
    SpillVector<std::uint32_t> order(places.size());
    std::iota(order.begin(), order.end(), 0u);
    std::sort(order.begin(), order.end(), [&](std::uint32_t a, std::uint32_t b) {
        return own_[a] != own_[b] ? own_[a] < own_[b] : a < b;
    });
    const auto add = [](Level& level, std::uint64_t key, double n, double sum) {
        if (level.key.empty() || level.key.back() != key) {
            level.key.push_back(key);
            level.n.push_back(0);
            level.sum.push_back(0);
        }
        level.n.back() += n;
        level.sum.back() += sum;
    };
    for (const std::uint32_t i : order) add(levels_[0], own_[i], 1, static_cast<double>(values[i]));
    for (std::size_t l = 1; l < levels_.size(); ++l) {
        const Level& fine = levels_[l - 1];
        SpillVector<std::pair<std::uint64_t, std::uint32_t>> up(fine.key.size());
        for (std::size_t c = 0; c < up.size(); ++c) {
            const Cube k = cube_of(fine.key[c]);
            up[c] = {key_of({k[0] >> 1, k[1] >> 1, k[2] >> 1}), static_cast<std::uint32_t>(c)};
        }
        std::sort(up.begin(), up.end());
        for (const auto& [key, c] : up) add(levels_[l], key, fine.n[c], fine.sum[c]);
    }
    for (Level& level : levels_) level.finish();
}

int Surroundings::level_for(double side) const {
    return std::clamp(static_cast<int>(std::ceil(std::log2(side / finest_))), 0, kLevels - 1);
}

double Surroundings::mean(std::size_t i, int level) const {
    const Cube c = cube_of(own_[i]);
    const Level& l = levels_[static_cast<std::size_t>(level)];
    return l.mean[l.find(key_of({c[0] >> level, c[1] >> level, c[2] >> level}))];
}

}  // namespace pristine::score
