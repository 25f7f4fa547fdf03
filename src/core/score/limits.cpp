#include "core/score/limits.h"

#include <fmt/format.h>
#include <immintrin.h>

#include <algorithm>
#include <bit>
#include <charconv>
#include <cmath>
#include <type_traits>
#include <utility>

#include "core/base/error.h"
#include "core/base/parallel.h"

namespace pristine::score {
namespace {

double number(std::string_view text, const std::string& whole) {
    double v = 0;
    const auto [end, problem] = std::from_chars(text.data(), text.data() + text.size(), v);
    if (problem != std::errc{} || end != text.data() + text.size() || !std::isfinite(v))
        throw Error(ErrorCode::Usage, "'" + whole + "' is no range", {}, "Write >3, <=0.5, 3..35 or !3..35.");
    return v;
}

// All floats but not-a-numbers in their order, as whole numbers.
float float_of(std::int32_t order) {
    return std::bit_cast<float>(
        order >= 0 ? order : static_cast<std::int32_t>(0x80000000u - static_cast<std::uint32_t>(order)));
}
constexpr std::int32_t kInfinite = 0x7F800000;

// The least float of which `holds` is true, if it is true of all greater ones; infinity if of none.
template <class Holds>
float least(const Holds& holds) {
    std::int64_t lo = -std::int64_t{kInfinite}, hi = kInfinite;
    while (lo < hi) {
        const std::int64_t middle = lo + (hi - lo) / 2;
        if (holds(float_of(static_cast<std::int32_t>(middle))))
            hi = middle;
        else
            lo = middle + 1;
    }
    return float_of(static_cast<std::int32_t>(lo));
}

// The limits in the floats of a column: the least and the greatest whose value in double precision lies
// inside.
std::pair<float, float> in_floats(const Limits& l, double base) {
    const float lo = least([&](float v) {
        const double d = static_cast<double>(v) + base;
        return l.lo_open ? d > l.lo : d >= l.lo;
    });
    const float beyond = least([&](float v) {
        const double d = static_cast<double>(v) + base;
        return l.hi_open ? d >= l.hi : d > l.hi;
    });
    if (std::isinf(l.hi) && l.hi > 0 && !l.hi_open) return {lo, INFINITY};
    return {lo, std::nextafter(beyond, -INFINITY)};
}

void plain_bits(std::span<const float> v, std::size_t from, float lo, float hi, PageBits& bits) {
    for (std::size_t i = from; i < v.size(); ++i)
        bits.words[i / 64] |= std::uint64_t{v[i] >= lo && v[i] <= hi} << (i % 64);
}

__attribute__((target("avx2"))) std::size_t avx2_bits(std::span<const float> v, float lo, float hi,
                                                      PageBits& bits) {
    const __m256 low = _mm256_set1_ps(lo), high = _mm256_set1_ps(hi);
    std::size_t i = 0;
    for (; i + 8 <= v.size(); i += 8) {
        const __m256 x = _mm256_loadu_ps(v.data() + i);
        const auto in = static_cast<unsigned>(_mm256_movemask_ps(
            _mm256_and_ps(_mm256_cmp_ps(x, low, _CMP_GE_OQ), _mm256_cmp_ps(x, high, _CMP_LE_OQ))));
        bits.words[i / 64] |= std::uint64_t{in} << (i % 64);
    }
    return i;
}

}  // namespace

Limits parse_limits(const std::string& text) {
    std::string_view t = text;
    Limits l{-INFINITY, INFINITY, false, false, false};
    if (t.starts_with('>') || t.starts_with('<')) {
        const bool more = t.front() == '>';
        t.remove_prefix(1);
        const bool with = t.starts_with('=');
        if (with) t.remove_prefix(1);
        (more ? l.lo : l.hi) = number(t, text);
        (more ? l.lo_open : l.hi_open) = !with;
        return l;
    }
    if (t.starts_with('!')) {
        l.outside = true;
        t.remove_prefix(1);
    }
    const std::size_t dots = t.find("..");
    l.lo = number(dots == t.npos ? t : t.substr(0, dots), text);
    l.hi = dots == t.npos ? l.lo : number(t.substr(dots + 2), text);
    if (l.lo > l.hi) throw Error(ErrorCode::Usage, fmt::format("The range '{}' ends before it begins", text));
    return l;
}

std::string text_of(const Limits& l) {
    if (std::isinf(l.lo) && !l.outside) return fmt::format("<{}{}", l.hi_open ? "" : "=", l.hi);
    if (std::isinf(l.hi) && !l.outside) return fmt::format(">{}{}", l.lo_open ? "" : "=", l.lo);
    return fmt::format("{}{}..{}", l.outside ? "!" : "", l.lo, l.hi);
}

ElementSet within(const Column& column, const ElementSet& eligible, const Limits& limits) {
    ElementSet result(eligible.size());
    const auto [lo, hi] = in_floats(limits, column.base);
    static const bool avx2 = __builtin_cpu_supports("avx2") != 0;
    parallel::for_each(eligible.page_count(), [&, lo = lo, hi = hi](std::size_t p) {
        if (eligible.kind(p) == ElementSet::Kind::None) return;
        const std::span<const float> v = column.values.page(p);
        PageBits bits, known;
        plain_bits(v, avx2 ? avx2_bits(v, lo, hi, bits) : 0, lo, hi, bits);
        if (limits.outside) {
            plain_bits(v, avx2 ? avx2_bits(v, -INFINITY, INFINITY, known) : 0, -INFINITY, INFINITY, known);
            for (std::size_t w = 0; w < bits.words.size(); ++w)
                bits.words[w] = known.words[w] & ~bits.words[w];
        }
        result.set_page(p, bits);
    });
    return result & eligible;
}

double Profile::place(double value) const {
    if (!logarithmic) return (value - bin_lo) / (bin_hi - bin_lo);
    return value > 0 ? std::log(value / bin_lo) / std::log(bin_hi / bin_lo) : 0;
}

double Profile::value_at(double place) const {
    return logarithmic ? bin_lo * std::pow(bin_hi / bin_lo, place) : bin_lo + place * (bin_hi - bin_lo);
}

namespace {

struct Part {
    std::uint64_t count = 0;
    double min = INFINITY, max = -INFINITY;
    std::vector<float> sample;  // as differences to the base of the first column
};

// Pages of all columns, one after the other.
template <class Each>
auto map_pages(std::span<const Column> columns, Each each) {
    std::vector<std::pair<std::size_t, std::size_t>> pages;
    for (std::size_t k = 0; k < columns.size(); ++k)
        for (std::size_t p = 0; p < columns[k].values.page_count(); ++p) pages.push_back({k, p});
    return parallel::map<std::invoke_result_t<Each, const Column&, std::size_t>>(
        pages.size(), [&](std::size_t i) { return each(columns[pages[i].first], pages[i].second); });
}

}  // namespace

Profile profile(const Column& column, bool logarithmic, std::size_t bins, double begins) {
    return profile(std::span(&column, 1), logarithmic, bins, begins);
}

Profile profile(std::span<const Column> columns, bool logarithmic, std::size_t bins, double begins) {
    constexpr std::uint64_t kMost = 4'000'000;
    std::uint64_t n = 0;
    for (const Column& c : columns) n += c.values.size();
    const double base = columns.empty() ? 0 : columns.front().base;
    const auto per_block = static_cast<std::size_t>(
        n <= kMost ? kBlockSize : std::max<std::uint64_t>(kBlockHead, kBlockSize * kMost / n));
    auto parts = map_pages(columns, [&](const Column& column, std::size_t p) {
        Part part;
        const auto v = column.values.page(p);
        const double off = column.base - base;
        for (std::size_t i = 0; i < v.size(); ++i) {
            if (!std::isfinite(v[i])) continue;
            const double d = static_cast<double>(v[i]) + off;
            ++part.count;
            part.min = std::min(part.min, d);
            part.max = std::max(part.max, d);
            if (i % kBlockSize < per_block) part.sample.push_back(static_cast<float>(d));
        }
        return part;
    });
    Profile r;
    std::vector<float> sample;
    double min = INFINITY, max = -INFINITY;
    for (Part& part : parts) {
        r.count += part.count;
        min = std::min(min, part.min);
        max = std::max(max, part.max);
        sample.insert(sample.end(), part.sample.begin(), part.sample.end());
    }
    r.bins.assign(bins, 0);
    if (sample.empty()) return r;
    const auto quantile = [&](double q) {
        const auto k = static_cast<std::ptrdiff_t>(q * static_cast<double>(sample.size() - 1));
        std::nth_element(sample.begin(), sample.begin() + k, sample.end());
        return static_cast<double>(sample[static_cast<std::size_t>(k)]);
    };
    const double median = quantile(0.5), lo = quantile(0.005), hi = quantile(0.995);
    r.min = base + min;
    r.max = base + max;
    r.median = base + median;
    r.bin_lo = base + lo;
    r.bin_hi = base + hi;
    if (!(hi > lo)) {  // nearly all are the same: what matters are the few that are not
        r.bin_lo = r.min;
        r.bin_hi = r.max > r.min ? r.max : r.min + 1e-6 * std::max(1.0, std::fabs(r.min));
    }
    r.low = r.bin_lo;
    r.high = r.bin_hi;
    constexpr double kRoom = 6;  // times from the median to where a rule begins
    if (std::isfinite(begins))
        r.bin_hi = std::max(r.bin_hi, std::min(r.max, r.median + kRoom * (begins - r.median)));
    if (logarithmic && r.max > 0) {
        r.logarithmic = true;
        r.bin_hi = r.max;
        r.bin_lo = r.min > 0 && r.min < r.max ? r.min : r.max * 1e-6;
    }
    const auto counted = map_pages(columns, [&](const Column& column, std::size_t p) {
        std::vector<std::uint64_t> own(bins, 0);
        for (const float v : column.values.page(p))
            if (std::isfinite(v))
                ++own[static_cast<std::size_t>(
                    std::clamp(r.place(column.base + static_cast<double>(v)) * static_cast<double>(bins), 0.0,
                               static_cast<double>(bins - 1)))];
        return own;
    });
    for (const auto& own : counted)
        for (std::size_t b = 0; b < bins; ++b) r.bins[b] += own[b];
    for (float& v : sample) v = static_cast<float>(std::fabs(static_cast<double>(v) - median));
    r.mad = quantile(0.5);
    return r;
}

}  // namespace pristine::score
