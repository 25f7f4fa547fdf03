#include "core/report/figures/sections.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/base/error.h"
#include "core/base/figure.h"
#include "core/report/figures/histogram.h"
#include "core/report/figures/map.h"

namespace pristine::report {
namespace {

using measure::CrossSection;
using measure::OffsetHeight;

constexpr double kAxis = 14, kTitle = 5, kFoot = 6, kHatch = 1.1;
constexpr Ink kFill = 0x1F5FA8, kCut = 0x964800, kFillPale = 0xD9E6F4, kCutPale = 0xF7E0C8;

struct Extent {
    double left = INFINITY, right = -INFINITY, low = INFINITY, high = -INFINITY;
    bool empty() const { return !(right >= left); }
};

Extent extent_of(const CrossSection& s) {
    Extent e;
    for (const auto& surface : s.surfaces)
        for (const auto& stretch : surface)
            for (const OffsetHeight& p : stretch) {
                e.left = std::min(e.left, p.offset);
                e.right = std::max(e.right, p.offset);
                e.low = std::min(e.low, p.height);
                e.high = std::max(e.high, p.height);
            }
    return e;
}

// Height of a surface at an offset; not-a-number in a gap.
double height_at(const std::vector<measure::SectionStretch>& surface, double offset) {
    for (const auto& stretch : surface) {
        if (stretch.empty() || offset < stretch.front().offset || offset > stretch.back().offset) continue;
        const auto it = std::lower_bound(stretch.begin(), stretch.end(), offset,
                                         [](const OffsetHeight& p, double at) { return p.offset < at; });
        if (it == stretch.begin()) return it->height;
        const OffsetHeight &a = *(it - 1), &b = *it;
        const double t = b.offset > a.offset ? (offset - a.offset) / (b.offset - a.offset) : 0;
        return a.height + t * (b.height - a.height);
    }
    return NAN;
}

class SectionsDrawer {
  public:
    SectionsDrawer(const SectionsSpec& spec, int scale) : s_(spec) {
        mm_ = 1000 * s_.metres / scale;
        mm_up_ = mm_ * s_.exaggeration;
    }

    double height_of(const CrossSection& c) const {
        const Extent e = extent_of(c);
        return kTitle + kFoot + (e.empty() ? 4 : std::max(6.0, (e.high - base_of(e)) * mm_up_ + 2));
    }

    void draw(const CrossSection& c, Drawing& d, double top) const {
        const Extent e = extent_of(c);
        const double f = s_.shown_factor, foot = top + height_of(c) - kFoot;
        d.text({0, top + 3.4}, fmt::format("{} {}", figure(c.chainage * f, 2), s_.unit), 8, Anchor::Left,
               kInk, true);
        if (e.empty()) {
            d.text({30, top + 3.4}, "no surface here", 7.5, Anchor::Left, kSecondInk);
            return;
        }
        if (s_.surfaces.size() > 1) {
            const auto area = [&](double v) { return figure(v * f * f, decimals_for(v * f * f, 1, 2)); };
            d.text({s_.width, top + 3.4},
                   fmt::format("cut {} {}², fill {} {}²", area(c.cut), s_.unit, area(c.fill), s_.unit), 7.5,
                   Anchor::Right, kSecondInk);
        }
        const double middle = kAxis + (s_.width - kAxis) / 2, base = base_of(e);
        const auto spot = [&](double offset, double height) {
            return Spot{middle + offset * mm_, foot - (height - base) * mm_up_};
        };
        between(c, e, spot, d);
        axes(e, base, top, foot, spot, d);
        for (std::size_t k = 0; k < c.surfaces.size(); ++k) {
            Path p;
            p.width = k + 1 == c.surfaces.size() ? 0.35 : 0.2;
            if (k + 1 < c.surfaces.size()) p.dash = {1.6, 0.8};
            p.layer = k < s_.surfaces.size() ? s_.surfaces[k] : "surface";
            for (const auto& stretch : c.surfaces[k]) {
                p.rings.emplace_back();
                for (const OffsetHeight& q : stretch) p.rings.back().push_back(spot(q.offset, q.height));
            }
            d.shapes.emplace_back(std::move(p));
        }
    }

  private:
    double base_of(const Extent& e) const {
        const double step = step_of(e) / s_.shown_factor;
        return std::floor(e.low / step) * step;
    }
    // In shown units: about a line each centimetre.
    double step_of(const Extent&) const {
        const double raw = 10 / (mm_up_ / s_.shown_factor);
        return std::max(round_step(raw), 1e-6);
    }

    template <class At>
    void axes(const Extent& e, double base, double top, double foot, const At& spot, Drawing& d) const {
        const double f = s_.shown_factor, step = step_of(e);
        const int digits = decimals_for(step, 1);
        for (double h = base * f; h <= e.high * f + 1e-9; h += step) {
            const double y = spot(0, h / f).y;
            if (y < top + kTitle) break;
            d.line({kAxis, y}, {s_.width, y}, 0.1, 0xD8CFBE);
            d.text({kAxis - 1.5, y + 0.9}, figure(h, digits), 6.5, Anchor::Right, kSecondInk);
        }
        d.line({kAxis, foot}, {s_.width, foot}, 0.2);
        const Spot axis = spot(0, base);
        d.line({axis.x, top + kTitle}, {axis.x, foot}, 0.15, kSecondInk, {1.5, 0.7, 0.3, 0.7});
        for (const double x : round_places(e.left * f, e.right * f, 8)) {
            const double px = spot(x / f, base).x;
            d.line({px, foot}, {px, foot + 0.9}, 0.15);
            d.text({px, foot + 3.6}, figure(x, x == std::floor(x) ? 0 : 1), 6.5, Anchor::Middle, kSecondInk);
        }
    }

    // Fill and cut between the first and the last: colours, and strokes to either side for who sees none.
    template <class At>
    void between(const CrossSection& c, const Extent& e, const At& spot, Drawing& d) const {
        if (c.surfaces.size() < 2) return;
        std::vector<double> at;
        for (const auto* surface : {&c.surfaces.front(), &c.surfaces.back()})
            for (const auto& stretch : *surface)
                for (const OffsetHeight& p : stretch) at.push_back(p.offset);
        for (double x = e.left; x <= e.right; x += kHatch / mm_) at.push_back(x);
        std::sort(at.begin(), at.end());
        Path fill, cut, up, down;
        for (Path* p : {&fill, &cut}) {
            p->closed = p->filled = true;
            p->width = 0;
        }
        fill.fill = kFillPale;
        cut.fill = kCutPale;
        fill.layer = "fill";
        cut.layer = "cut";
        up.stroke = kFill;
        down.stroke = kCut;
        up.width = down.width = 0.12;
        up.layer = "fill";
        down.layer = "cut";
        for (std::size_t k = 1; k < at.size(); ++k) {
            const double a = at[k - 1], b = at[k];
            if (!(b > a)) continue;
            const double a0 = height_at(c.surfaces.front(), a), a1 = height_at(c.surfaces.back(), a),
                         b0 = height_at(c.surfaces.front(), b), b1 = height_at(c.surfaces.back(), b);
            if (!std::isfinite(a0 + a1 + b0 + b1)) continue;
            const double change = (a1 - a0) + (b1 - b0);
            if (std::fabs(change) * mm_up_ < 0.04) continue;
            (change > 0 ? fill : cut).rings.push_back({spot(a, a0), spot(b, b0), spot(b, b1), spot(a, a1)});
        }
        // Upright strokes for cut, slanting ones for fill.
        for (double x = e.left; x <= e.right; x += kHatch / mm_) {
            const double h0 = height_at(c.surfaces.front(), x), h1 = height_at(c.surfaces.back(), x);
            if (!std::isfinite(h0 + h1) || std::fabs(h1 - h0) * mm_up_ < 0.25) continue;
            if (h1 > h0) {
                const double lean = std::min((h1 - h0) * mm_up_, 1.2);
                const Spot low = spot(x, h0), high = spot(x, h1);
                up.rings.push_back({{low.x, low.y}, {low.x + lean * 0.7, std::max(high.y, low.y - lean)}});
            } else {
                down.rings.push_back({spot(x, h0), spot(x, h1)});
            }
        }
        for (Path* p : {&fill, &cut, &up, &down})
            if (!p->rings.empty()) d.shapes.emplace_back(std::move(*p));
    }

    const SectionsSpec& s_;
    double mm_ = 1, mm_up_ = 1;
};

}  // namespace

SectionsDrawn section_drawings(const std::vector<CrossSection>& all, const SectionsSpec& spec) {
    double widest = 0;
    for (const CrossSection& c : all) {
        const Extent e = extent_of(c);
        if (!e.empty()) widest = std::max({widest, 2 * std::fabs(e.left), 2 * std::fabs(e.right)});
    }
    SectionsDrawn out;
    const double least = 1000 * spec.metres * std::max(widest, 1e-6) / (spec.width - kAxis);
    out.scale = scale_for(least, spec.scale, "one of the sections");
    const SectionsDrawer drawer(spec, out.scale);
    double y = 0;
    for (const CrossSection& c : all) {
        const double high = drawer.height_of(c);
        if (out.drawings.empty() || y + high > spec.most_height) {
            out.drawings.emplace_back();
            out.drawings.back().width = spec.width;
            y = 0;
        }
        drawer.draw(c, out.drawings.back(), y);
        y += high + 2;
        out.drawings.back().height = y;
    }
    return out;
}

}  // namespace pristine::report
