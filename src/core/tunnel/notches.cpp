#include "core/tunnel/notches.h"

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <limits>
#include <numbers>

namespace pristine::tunnel {
namespace {

// Greatest or least of a window of 2 reach + 1 cells of a ring or a row; not-a-numbers do not count.
std::vector<float> extreme(const std::vector<float>& v, std::size_t reach, bool ring, bool greatest) {
    const auto n = static_cast<std::ptrdiff_t>(v.size()), w = static_cast<std::ptrdiff_t>(reach);
    std::vector<float> out(v.size(), NAN);
    for (std::ptrdiff_t i = 0; i < n; ++i)
        for (std::ptrdiff_t k = i - w; k <= i + w; ++k) {
            if (!ring && (k < 0 || k >= n)) continue;
            const float o = v[static_cast<std::size_t>(((k % n) + n) % n)];
            float& best = out[static_cast<std::size_t>(i)];
            if (!std::isnan(o) && (std::isnan(best) || (greatest ? o > best : o < best))) best = o;
        }
    return out;
}

// What nothing reaches from either side stays not-a-number: gaps of up to 2 reach cells are closed over.
std::vector<float> closing(const std::vector<float>& v, std::size_t reach, bool ring) {
    const std::vector<float> reached = extreme(v, reach, ring, true);
    std::vector<float> out = extreme(reached, reach, ring, false);
    for (std::size_t i = 0; i < out.size(); ++i)
        if (std::isnan(reached[i])) out[i] = NAN;
    return out;
}

// How far out the straight lines pass that join what lies on both sides of a place, at most `span` cells
// apart: not-a-number where there is nothing on both sides. `delta`: angle of a cell; 0: cells of a row.
float chord(const std::vector<float>& v, std::ptrdiff_t at, std::ptrdiff_t span, double delta) {
    const auto n = static_cast<std::ptrdiff_t>(v.size());
    const bool ring = delta > 0;
    float farthest = NAN;
    const auto value = [&](std::ptrdiff_t k) {
        if (!ring && (k < 0 || k >= n)) return std::numeric_limits<float>::quiet_NaN();
        return v[static_cast<std::size_t>((k % n + n) % n)];
    };
    for (std::ptrdiff_t a = 1; a < span; ++a) {
        const auto left = static_cast<double>(value(at - a));
        if (std::isnan(left)) continue;
        for (std::ptrdiff_t b = 1; a + b <= span; ++b) {
            const auto right = static_cast<double>(value(at + b));
            const double before = static_cast<double>(a), behind = static_cast<double>(b);
            if (std::isnan(right) || (before + behind) * delta > 0.9 * std::numbers::pi) continue;
            const double r = ring ? left * right * std::sin((before + behind) * delta) /
                                        (left * std::sin(before * delta) + right * std::sin(behind * delta))
                                  : (left * behind + right * before) / (before + behind);
            if (std::isnan(farthest) || static_cast<float>(r) > farthest) farthest = static_cast<float>(r);
        }
    }
    return farthest;
}

}  // namespace

// Inward notches of up to 2 reach cells are closed, as far out as a straight line over them.
std::vector<float> closed_notches(const std::vector<float>& v, std::size_t reach, double delta) {
    std::vector<float> out = closing(v, reach, delta > 0);
    for (std::size_t i = 0; i < v.size(); ++i) {
        if (std::isnan(out[i]) || out[i] == v[i]) continue;
        const float over =
            chord(v, static_cast<std::ptrdiff_t>(i), 2 * static_cast<std::ptrdiff_t>(reach), delta);
        if (std::isnan(over)) {  // at an end, where no line can be drawn: what was measured holds
            if (!std::isnan(v[i])) out[i] = v[i];
            continue;
        }
        out[i] = std::isnan(v[i]) ? std::min(out[i], over) : std::max(v[i], std::min(out[i], over));
    }
    return out;
}

// Strips of a ring or a row, no wider than `most`, with nothing measured on either side: 1 where one is.
std::vector<char> strips_between_gaps(const std::vector<float>& v, std::size_t most, bool ring) {
    const std::size_t n = v.size(), turns = ring ? 2 * n : n;  // a strip may pass the seam of the ring
    std::vector<char> in(n, 0);
    for (std::size_t i = 1; i < turns; ++i) {
        if (std::isnan(v[i % n]) || !std::isnan(v[(i - 1) % n])) continue;
        std::size_t end = i;
        while (end < turns && end - i <= most && !std::isnan(v[end % n])) ++end;
        if (end >= turns || end - i > most) continue;  // too wide, or it goes on beyond the end
        for (std::size_t k = i; k < end; ++k) in[k % n] = 1;
    }
    return in;
}

// The straight line over each of the cells `over`, from the nearest others that were measured on both sides.
std::vector<float> lines_over(std::vector<float> v, const std::vector<char>& over, double delta) {
    const auto n = static_cast<std::ptrdiff_t>(v.size());
    std::vector<float> out(v.size(), NAN);
    for (std::size_t i = 0; i < v.size(); ++i)
        if (over[i]) v[i] = NAN;
    const auto nearest = [&](std::ptrdiff_t from, std::ptrdiff_t step) {
        std::ptrdiff_t k = 1;
        for (; k < n; ++k) {
            const std::ptrdiff_t at = from + step * k;
            if (delta == 0 && (at < 0 || at >= n)) return n;
            if (!std::isnan(v[static_cast<std::size_t>((at % n + n) % n)])) return k;
        }
        return n;
    };
    for (std::ptrdiff_t i = 0; i < n; ++i) {
        if (!over[static_cast<std::size_t>(i)]) continue;
        const std::ptrdiff_t a = nearest(i, -1), b = nearest(i, 1);
        const double span = static_cast<double>(a + b) * delta;
        if (a == n || b == n || span > 0.9 * std::numbers::pi) continue;
        const auto left = static_cast<double>(v[static_cast<std::size_t>(((i - a) % n + n) % n)]),
                   right = static_cast<double>(v[static_cast<std::size_t>((i + b) % n)]);
        const auto before = static_cast<double>(a), behind = static_cast<double>(b);
        out[static_cast<std::size_t>(i)] = static_cast<float>(
            delta > 0 ? left * right * std::sin(span) /
                            (left * std::sin(before * delta) + right * std::sin(behind * delta))
                      : (left * behind + right * before) / (before + behind));
    }
    return out;
}

}  // namespace pristine::tunnel
