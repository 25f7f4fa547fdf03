#include "core/tunnel/design.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/base/error.h"

namespace pristine::tunnel {
namespace {

using Corner = std::array<double, 2>;  // right, up

// A polygon that is seen whole from the line: by angle, ascending.
struct Ring {
    std::vector<double> angle;
    std::vector<Corner> corner;

    // Where a ray from the line at this angle meets it.
    double radius(double a) const {
        const std::size_t n = angle.size();
        const auto above = std::upper_bound(angle.begin(), angle.end(), a) - angle.begin();
        const Corner &p = corner[(static_cast<std::size_t>(above) + n - 1) % n],
                     &q = corner[static_cast<std::size_t>(above) % n];
        const double s = std::sin(a), c = std::cos(a);  // the direction: right s, up c
        const double ex = q[0] - p[0], ey = q[1] - p[1];
        const double across = s * ey - c * ex;
        return across != 0 ? (p[0] * ey - p[1] * ex) / across : std::hypot(p[0], p[1]);
    }
};

double angle_of(const Corner& c) {
    return std::atan2(c[0], c[1]);
}

Ring ring_of(std::vector<Corner> corners, const char* trouble) {
    const auto refuse = [&] {
        return Error(ErrorCode::Usage, trouble, {},
                     "Each direction from the line must meet it once: lift the line, or take another.");
    };
    if (corners.size() < 3) throw refuse();
    double area = 0;
    for (std::size_t i = 0; i < corners.size(); ++i) {
        const Corner &p = corners[i], &q = corners[(i + 1) % corners.size()];
        area += p[1] * q[0] - p[0] * q[1];  // positive as the angle grows
    }
    if (area < 0) std::reverse(corners.begin(), corners.end());
    double turned = 0;
    for (std::size_t i = 0; i < corners.size(); ++i) {
        const double step = std::remainder(angle_of(corners[(i + 1) % corners.size()]) - angle_of(corners[i]),
                                           2 * std::numbers::pi);
        if (!(step > 0)) throw refuse();
        turned += step;
    }
    if (std::fabs(turned - 2 * std::numbers::pi) > 1e-6) throw refuse();
    std::sort(corners.begin(), corners.end(),
              [](const Corner& a, const Corner& b) { return angle_of(a) < angle_of(b); });
    Ring r;
    for (const Corner& c : corners) {
        r.angle.push_back(angle_of(c));
        r.corner.push_back(c);
    }
    return r;
}

struct Areas {
    double over = 0, under = 0, most_over = 0, most_under = 0;
};

// Between two rays both polygons are straight; they may cross once.
void add_sector(double from, double to, const Ring& lining, const Ring& design, Areas& out) {
    const double width = to - from;
    if (!(width > 0)) return;
    const double l0 = lining.radius(from), l1 = lining.radius(to), d0 = design.radius(from),
                 d1 = design.radius(to);
    const double off0 = l0 - d0, off1 = l1 - d1;
    for (const double off : {off0, off1}) {
        out.most_over = std::max(out.most_over, off);
        out.most_under = std::max(out.most_under, -off);
    }
    const auto sector = [](double r0, double r1, double angle) { return 0.5 * r0 * r1 * std::sin(angle); };
    const auto add = [&](double area) { (area > 0 ? out.over : out.under) += std::fabs(area); };
    if (off0 * off1 >= 0) return add(sector(l0, l1, width) - sector(d0, d1, width));
    // 1/r is a sum of sine and cosine along a straight line, so the crossing has a closed form.
    const double side = off0 < 0 ? 1 : -1;
    const double u = side * (1 / l0 - 1 / d0), v = side * (1 / l1 - 1 / d1);  // u above 0, v below
    const double at = std::atan2(u * std::sin(width), u * std::cos(width) - v);
    const double r = 1 / ((std::sin(width - at) / l0 + std::sin(at) / l1) / std::sin(width));
    add(sector(l0, r, at) - sector(d0, r, at));
    add(sector(r, l1, width - at) - sector(r, d1, width - at));
}

Areas compared(const Ring& lining, const Ring& design) {
    std::vector<double> rays = lining.angle;
    rays.insert(rays.end(), design.angle.begin(), design.angle.end());
    std::sort(rays.begin(), rays.end());
    Areas out;
    for (std::size_t k = 0; k + 1 < rays.size(); ++k) add_sector(rays[k], rays[k + 1], lining, design, out);
    add_sector(rays.back(), rays.front() + 2 * std::numbers::pi, lining, design, out);
    return out;
}

}  // namespace

std::vector<BreakInterval> against_design(const Lining& lining, const DesignProfile& profile,
                                          double interval) {
    const Ring design = ring_of(profile.corners, "The design profile does not go once round the line");
    const double length = lining.axis().length();
    std::vector<BreakInterval> out;
    for (double from = 0; from < length; from += interval)
        out.push_back({.from = from, .to = std::min(length, from + interval), .measured = 0});
    const std::vector<Section> sections = lining.sections();
    std::vector<Areas> areas;
    for (const Section& s : sections)
        areas.push_back(
            compared(ring_of(s.corners, "A section of the lining does not go once round the line"), design));
    for (std::size_t k = 0; k + 1 < sections.size(); ++k) {
        const double from = sections[k].chainage, to = sections[k + 1].chainage;
        for (BreakInterval& i : out) {
            const double in = std::min(to, i.to) - std::max(from, i.from);
            if (!(in > 0)) continue;
            i.over += 0.5 * (areas[k].over + areas[k + 1].over) * in;
            i.under += 0.5 * (areas[k].under + areas[k + 1].under) * in;
            i.measured += 0.5 * (sections[k].measured + sections[k + 1].measured) * in / (i.to - i.from);
            for (const Areas& a : {areas[k], areas[k + 1]}) {
                i.most_over = std::max(i.most_over, a.most_over);
                i.most_under = std::max(i.most_under, a.most_under);
            }
        }
    }
    for (BreakInterval& i : out) i.measured = std::clamp(i.measured, 0.0, 1.0);  // of the rounding of sums
    return out;
}

}  // namespace pristine::tunnel
