#include "core/cloud/curve.h"

#include <algorithm>
#include <bit>
#include <map>
#include <memory>
#include <mutex>
#include <numeric>

#include "core/base/parallel.h"
#include "core/elements/page.h"

namespace pristine::cloud {
namespace {

constexpr unsigned rotate_right(unsigned b, unsigned by) {
    return ((b >> by) | (b << (3 - by))) & 7u;
}
constexpr unsigned rotate_left(unsigned b, unsigned by) {
    return rotate_right(b, (3 - by) % 3);
}
constexpr unsigned gray(unsigned i) {
    return i ^ (i >> 1);
}
constexpr unsigned gray_inverse(unsigned g) {
    return g ^ (g >> 1) ^ (g >> 2);
}
constexpr unsigned trailing_ones(unsigned i) {
    return static_cast<unsigned>(std::countr_one(i));
}
// Paper: entry corner and direction of the w-th octant along the curve.
constexpr unsigned entry(unsigned w) {
    return w == 0 ? 0 : gray(2 * ((w - 1) / 2));
}
constexpr unsigned direction(unsigned w) {
    return w == 0 ? 0 : (w % 2 == 0 ? trailing_ones(w - 1) : trailing_ones(w)) % 3;
}

struct Step {
    std::uint8_t digits;  // along the curve
    std::uint8_t next;    // state = entry corner * 3 + direction
};

constexpr Step one_level(unsigned state, unsigned octant) {
    const unsigned e = state / 3, d = state % 3;
    const unsigned w = gray_inverse(rotate_right(octant ^ e, (d + 1) % 3));
    const unsigned e2 = e ^ rotate_left(entry(w), (d + 1) % 3);
    const unsigned d2 = (d + direction(w) + 1) % 3;
    return {static_cast<std::uint8_t>(w), static_cast<std::uint8_t>(e2 * 3 + d2)};
}

constexpr auto make_table() {
    std::array<std::array<Step, 8>, 24> table{};
    for (unsigned s = 0; s < 24; ++s)
        for (unsigned o = 0; o < 8; ++o) table[s][o] = one_level(s, o);
    return table;
}
constexpr auto kOne = make_table();

// Three levels at a time: 9 bits of octants to 9 digits and the state after them, packed as digits << 5 |
// state, so that the whole table (24 KiB) stays in the first-level cache.
std::array<std::array<std::uint16_t, 512>, 24> make_three_levels() {
    std::array<std::array<std::uint16_t, 512>, 24> t{};
    for (unsigned s = 0; s < 24; ++s)
        for (unsigned o = 0; o < 512; ++o) {
            const Step a = kOne[s][o >> 6], b = kOne[a.next][(o >> 3) & 7], c = kOne[b.next][o & 7];
            t[s][o] = static_cast<std::uint16_t>((a.digits << 6 | b.digits << 3 | c.digits) << 5 | c.next);
        }
    return t;
}
const std::array<std::array<std::uint16_t, 512>, 24> kThree = make_three_levels();

// Spreads 3 bits to every third position: abc -> 00a00b00c.
constexpr std::array<std::uint16_t, 8> kSpread{0, 1, 8, 9, 64, 65, 72, 73};

}  // namespace

std::uint64_t curve_index(std::uint32_t x, std::uint32_t y, std::uint32_t z) {
    static_assert(kCurveBits % 3 == 0);
    std::uint64_t index = 0;
    unsigned state = 0;
    for (int level = kCurveBits - 3; level >= 0; level -= 3) {
        const unsigned octants = static_cast<unsigned>(
            kSpread[(x >> level) & 7] | kSpread[(y >> level) & 7] << 1 | kSpread[(z >> level) & 7] << 2);
        const unsigned step = kThree[state][octants];
        index = index << 9 | step >> 5;
        state = step & 31u;
    }
    return index;
}

CurveFrame curve_frame(std::array<std::vector<std::int32_t>, 3>& samples) {
    CurveFrame frame;
    if (samples[0].empty()) return frame;
    std::array<std::int64_t, 3> length{};
    parallel::for_each(3, [&](std::size_t axis) {
        auto& s = samples[axis];
        const std::size_t cut = s.size() / 1000;
        std::nth_element(s.begin(), s.begin() + static_cast<std::ptrdiff_t>(cut), s.end());
        const std::int64_t lo = s[cut];
        // What lies before is not above it.
        std::nth_element(s.begin() + static_cast<std::ptrdiff_t>(cut),
                         s.end() - 1 - static_cast<std::ptrdiff_t>(cut), s.end());
        const std::int64_t hi = s[s.size() - 1 - cut];
        const std::int64_t margin = (hi - lo) / 2 + 1;
        frame.lo[axis] = lo - margin;
        length[axis] = hi + margin - frame.lo[axis];
    });
    const std::int64_t longest = std::max(std::int64_t{1}, *std::max_element(length.begin(), length.end()));
    while ((longest >> frame.shift) >= (std::int64_t{1} << kCurveBits)) ++frame.shift;
    return frame;
}

const std::vector<std::uint16_t>& block_shuffle(std::size_t length) {
    static std::mutex mutex;
    static std::map<std::size_t, std::unique_ptr<const std::vector<std::uint16_t>>> known;
    const std::lock_guard<std::mutex> guard(mutex);
    auto& entry = known[length];
    if (!entry) {
        std::vector<std::uint16_t> order(length);
        std::iota(order.begin(), order.end(), std::uint16_t{0});
        std::uint64_t state =
            0x9E3779B97F4A7C15u ^ length;  // our own generator: the standard ones differ by library
        for (std::size_t i = length; i > 1; --i) {
            state ^= state << 13;
            state ^= state >> 7;
            state ^= state << 17;
            std::swap(order[i - 1], order[(state >> 16) % i]);
        }
        entry = std::make_unique<const std::vector<std::uint16_t>>(std::move(order));
    }
    return *entry;
}

}  // namespace pristine::cloud
