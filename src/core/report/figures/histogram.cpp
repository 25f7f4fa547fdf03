#include "core/report/figures/histogram.h"

#include <algorithm>
#include <cmath>

#include "core/base/figure.h"

namespace pristine::report {
namespace {

constexpr Ink kTaken = 0x1D2733, kLeft = 0xB9B3A6;
constexpr double kLeftEdge = 4, kScaleFoot = 9, kTop = 5;

bool took(const HistogramSpec& s, double v) {
    const score::Limits& l = s.limits;
    const bool above = l.lo_open ? v > l.lo : v >= l.lo, below = l.hi_open ? v < l.hi : v <= l.hi;
    return (above && below) != (l.outside != s.keeps);
}

}  // namespace

std::vector<double> round_places(double lo, double hi, int count) {
    std::vector<double> out;
    if (!(hi > lo) || !std::isfinite(hi - lo)) return out;
    const double raw = (hi - lo) / count;
    double step = round_step(raw);
    if (step < raw * 0.75) step = round_step(raw * 2.01);
    if (!(step > 0)) return out;
    for (double k = std::ceil(lo / step - 1e-9); k * step <= hi + 1e-9 * step && out.size() < 1000; ++k)
        out.push_back(k * step);
    return out;
}

Drawing histogram(const HistogramSpec& s) {
    Drawing d;
    d.width = s.width;
    d.height = s.height;
    const score::Profile& p = s.profile;
    const double wide = s.width - 2 * kLeftEdge, high = s.height - kScaleFoot - kTop,
                 floor = s.height - kScaleFoot;
    const auto most =
        static_cast<double>(p.bins.empty() ? 0 : *std::max_element(p.bins.begin(), p.bins.end()));
    const bool by_log = most > 1000;
    const auto tall = [&](std::uint64_t n) {
        const auto v = static_cast<double>(n);
        return most > 0 ? high * (by_log ? std::log1p(v) / std::log1p(most) : v / most) : 0;
    };
    const auto bins = static_cast<double>(p.bins.size());
    for (std::size_t k = 0; k < p.bins.size(); ++k) {
        if (p.bins[k] == 0) continue;
        const double place = (static_cast<double>(k) + 0.5) / bins, h = tall(p.bins[k]);
        d.rectangle(kLeftEdge + wide * static_cast<double>(k) / bins, floor - h, wide / bins * 0.92, h,
                    took(s, p.value_at(place)) ? kTaken : kLeft);
    }
    d.line({kLeftEdge, floor}, {kLeftEdge + wide, floor}, 0.25);
    const auto mark = [&](double v, bool limit) {
        const double place = p.place(v);
        if (!(place >= -1e-9 && place <= 1 + 1e-9)) return;
        const double x = kLeftEdge + wide * place;
        const double shown = v * s.factor;
        if (limit) {
            d.line({x, kTop - 1}, {x, floor}, 0.35, 0x964800, {1.2, 0.8});
            d.text({x, kTop - 1.8}, figure(shown, decimals_for(shown, 3)), 7, Anchor::Middle, 0x964800, true);
        } else {
            d.line({x, floor}, {x, floor + 1}, 0.2);
            d.text({x, floor + 4}, figure(shown, std::fabs(shown) < 1e-12 ? 0 : decimals_for(shown, 2)), 7,
                   Anchor::Middle, kSecondInk);
        }
    };
    if (p.logarithmic) {
        for (double place = 0; place <= 1.001; place += 0.2) mark(p.value_at(std::min(place, 1.0)), false);
    } else {
        for (const double v : round_places(p.bin_lo * s.factor, p.bin_hi * s.factor, 6))
            mark(v / s.factor, false);
    }
    if (std::isfinite(s.limits.lo)) mark(s.limits.lo, true);
    if (std::isfinite(s.limits.hi) && s.limits.hi != s.limits.lo) mark(s.limits.hi, true);
    d.text({kLeftEdge, s.height - 0.8}, s.title + (s.unit.empty() ? "" : ", " + s.unit), 7.5);
    d.text({kLeftEdge + wide, s.height - 0.8}, by_log ? "height: logarithm of the count" : "height: count", 7,
           Anchor::Right, kSecondInk);
    return d;
}

}  // namespace pristine::report
