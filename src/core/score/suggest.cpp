#include "core/score/suggest.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/base/figure.h"
#include "core/base/units.h"

namespace pristine::score {
namespace {

// How many spacings a length must reach for what it does; 0: it has nothing to do with the spacing.
double spacings_for(const std::string& score, const std::string& parameter) {
    if (parameter == "gap") return 3;
    if (parameter == "radius") return 4;
    if (score == "lining" && parameter == "spacing") return 3;
    if (score == "thin" && parameter == "spacing") return 2;
    return 0;
}

std::string length_text(double v, const std::string& unit) {
    return fmt::format("{:g}{}", v, unit.empty() ? "" : std::string(" ") + length_unit(unit).symbol);
}

}  // namespace

double spacing_of(const cloud::PointCloud& c) {
    std::vector<float> all;
    for (std::size_t p = 0; p < c.page_count(); ++p)
        for (const float s : c.info(p).spacing)
            if (s > 0 && std::isfinite(s)) all.push_back(s);
    if (all.empty()) return 0;
    const auto middle = all.begin() + static_cast<std::ptrdiff_t>(all.size() / 2);
    std::nth_element(all.begin(), middle, all.end());
    return static_cast<double>(*middle);
}

Suggestion suggested(const Score& s, const cloud::PointCloud& c) {
    Suggestion out;
    if (s.applies == Score::Applies::Triangles || c.unit() == kDegrees) return out;
    const double spacing = two_digits(spacing_of(c)), metre = 1 / length_unit(c.unit()).metres;
    for (const Parameter& p : s.parameters) {
        const double wanted = two_digits(spacings_for(s.id, p.name) * spacing);
        if (p.unit != "length" || wanted <= p.usual * metre) continue;
        const double v = std::min(wanted, p.most * metre);
        out.parameters[p.name] = v;
        std::string name = p.title;
        name[0] = static_cast<char>(std::tolower(static_cast<unsigned char>(name[0])));
        out.why += out.why.empty() ? fmt::format("spacing {}, so {} {}", length_text(spacing, c.unit()), name,
                                                 length_text(v, c.unit()))
                                   : fmt::format(", {} {}", name, length_text(v, c.unit()));
    }
    return out;
}

namespace {

// How much ground scatters: as much above itself as below it, where nothing else is. The median: strays below
// the ground must not count. From an even sample; 0: too little lies below.
double scatter_below(const Column& column) {
    constexpr std::size_t kSample = 2'000'000, kFew = 30;
    std::size_t all = 0;
    for (std::size_t p = 0; p < column.values.page_count(); ++p) all += column.values.page(p).size();
    const std::size_t step = all / kSample + 1;
    std::vector<double> depths;
    std::size_t i = 0;
    for (std::size_t p = 0; p < column.values.page_count(); ++p)
        for (const float v : column.values.page(p))
            if (i++ % step == 0 && column.base + static_cast<double>(v) < 0)
                depths.push_back(-column.base - static_cast<double>(v));
    if (depths.size() < kFew) return 0;
    const auto middle = depths.begin() + static_cast<std::ptrdiff_t>(depths.size() / 2);
    std::nth_element(depths.begin(), middle, depths.end());
    return 1.4826 * *middle;
}

}  // namespace

std::optional<FirstRange> first_range(const Score& s, const Profile& profile, const Column& column,
                                      const cloud::PointCloud& c) {
    const double metre = 1 / length_unit(c.unit()).metres;
    if (s.id == "group") {
        // What is to go are small groups, not the one that holds the site.
        const double few = std::clamp(static_cast<double>(c.size()) / 5000, 3.0, 200.0);
        if (profile.min > few) return std::nullopt;
        return FirstRange{{-INFINITY, std::floor(few)}, {}};
    }
    if ((s.id != "ground" && s.id != "floor") || !std::isfinite(s.begins)) return std::nullopt;
    // Dense points say exactly where the ground is; what lies below it there are pits and strays, no scatter.
    constexpr double kSparse = 0.25;  // metres
    if (spacing_of(c) < kSparse * metre) return std::nullopt;
    const double usual = s.begins * metre, scatter = scatter_below(column);
    const double begins = two_digits(3 * scatter);
    if (begins <= usual) return std::nullopt;
    return FirstRange{{begins, INFINITY},
                      fmt::format("the ground scatters by {}, so from {}",
                                  length_text(two_digits(scatter), c.unit()), length_text(begins, c.unit()))};
}

Limits far_from_usual(const Profile& p, double begins, double least) {
    constexpr double kFar =
        6 * 1.4826;  // six standard deviations of normal values, from the median deviation
    const double reach = std::max({kFar * p.mad, 1e-3 * (p.bin_hi - p.bin_lo), least});
    if (std::isfinite(begins) && begins < p.max) return {begins, p.max};
    if (p.max - p.median >= p.median - p.min) return {std::min(p.median + reach, p.max), p.max};
    return {p.min, std::max(p.median - reach, p.min)};
}

}  // namespace pristine::score
