// Distance of a point's colour from a given one, as people see it: CIEDE2000 (ISO/CIE 11664-6), after Sharma,
// Wu & Dalal 2005, "The CIEDE2000 color-difference formula: implementation notes".

#include "core/score/colour.h"

#include <array>
#include <cmath>
#include <numbers>

#include "core/score/score.h"

namespace pristine::score {
namespace {

constexpr double kDegree = std::numbers::pi / 180;

double linear(double channel) {
    const double c = channel / 255;
    return c <= 0.04045 ? c / 12.92 : std::pow((c + 0.055) / 1.055, 2.4);
}

double hue_deg(double b, double a) {
    if (a == 0 && b == 0) return 0;
    const double h = std::atan2(b, a) / kDegree;
    return h < 0 ? h + 360 : h;
}

}  // namespace

Lab lab_of(std::uint32_t rgb) {
    const double r = linear(rgb >> 16 & 255u), g = linear(rgb >> 8 & 255u), b = linear(rgb & 255u);
    const auto f = [](double t) { return t > 216.0 / 24389 ? std::cbrt(t) : (24389.0 / 27 * t + 16) / 116; };
    const double x = f((0.4124564 * r + 0.3575761 * g + 0.1804375 * b) / 0.95047),
                 y = f(0.2126729 * r + 0.7151522 * g + 0.0721750 * b),
                 z = f((0.0193339 * r + 0.1191920 * g + 0.9503041 * b) / 1.08883);
    return {116 * y - 16, 500 * (x - y), 200 * (y - z)};
}

double ciede2000(const Lab& one, const Lab& two) {
    const double c_mean = (std::hypot(one.a, one.b) + std::hypot(two.a, two.b)) / 2;
    const double c7 = std::pow(c_mean, 7), g = 0.5 * (1 - std::sqrt(c7 / (c7 + std::pow(25.0, 7))));
    const double a1 = (1 + g) * one.a, a2 = (1 + g) * two.a;
    const double c1 = std::hypot(a1, one.b), c2 = std::hypot(a2, two.b);
    const double h1 = hue_deg(one.b, a1), h2 = hue_deg(two.b, a2);
    const double dl = two.l - one.l, dc = c2 - c1;
    double dh = 0;
    if (c1 * c2 != 0) {
        dh = h2 - h1;
        if (dh > 180) dh -= 360;
        if (dh < -180) dh += 360;
    }
    const double dH = 2 * std::sqrt(c1 * c2) * std::sin(dh / 2 * kDegree);
    const double l_mean = (one.l + two.l) / 2, cc = (c1 + c2) / 2;
    double h_mean = h1 + h2;
    if (c1 * c2 != 0) {
        if (std::fabs(h1 - h2) <= 180)
            h_mean /= 2;
        else
            h_mean = h_mean < 360 ? (h_mean + 360) / 2 : (h_mean - 360) / 2;
    }
    const double t = 1 - 0.17 * std::cos((h_mean - 30) * kDegree) + 0.24 * std::cos(2 * h_mean * kDegree) +
                     0.32 * std::cos((3 * h_mean + 6) * kDegree) -
                     0.20 * std::cos((4 * h_mean - 63) * kDegree);
    const double turn = 30 * std::exp(-std::pow((h_mean - 275) / 25, 2));
    const double cc7 = std::pow(cc, 7), rc = 2 * std::sqrt(cc7 / (cc7 + std::pow(25.0, 7)));
    const double l50 = (l_mean - 50) * (l_mean - 50);
    const double sl = 1 + 0.015 * l50 / std::sqrt(20 + l50), sc = 1 + 0.045 * cc, sh = 1 + 0.015 * cc * t;
    const double rt = -std::sin(2 * turn * kDegree) * rc;
    const double pl = dl / sl, pc = dc / sc, ph = dH / sh;
    return std::sqrt(pl * pl + pc * pc + ph * ph + rt * pc * ph);
}

void add_colour(std::vector<Score>& s) {
    const auto channel = [](const char* name, const char* title) {
        return Parameter{name, title, "", "Of the colour compared with, 0 to 255", 255, 0, 255, true};
    };
    const auto also = [](const char* name, const char* title) {
        return Parameter{
            name,     title,
            "colour", "One more colour, as 65536 red + 256 green + blue; the nearest counts. -1: none",
            -1,       -1,
            0xFFFFFF, true};
    };
    s.push_back(
        {"colour",
         "Distance to colours",
         "",
         "another colour altogether (above 20)",
         "the same to the eye (below 2)",
         "Light and shade change colours; white sky is also white paint.",
         {channel("red", "Red"), channel("green", "Green"), channel("blue", "Blue"),
          also("second", "Second colour"), also("third", "Third colour"), also("fourth", "Fourth colour")},
         [](const Input& in) {
             return in.cloud.colour() ? std::string() : std::string("The cloud has no colours");
         },
         [](const Input& in, const Parameters& p, Progress& progress) {
             const auto part = [&](const char* name) { return static_cast<std::uint32_t>(p.at(name)); };
             std::vector<Lab> wanted{lab_of(part("red") << 16 | part("green") << 8 | part("blue"))};
             for (const char* name : {"second", "third", "fourth"})
                 if (p.at(name) >= 0) wanted.push_back(lab_of(part(name)));
             const auto nearest = [&](std::uint32_t colour) {
                 const Lab lab = lab_of(colour);
                 double least = INFINITY;
                 for (const Lab& w : wanted) least = std::min(least, ciede2000(lab, w));
                 return static_cast<float>(least);
             };
             Column c;
             c.values = for_members(in, progress, [&](std::size_t page, std::vector<float>& values) {
                 const auto colours = in.cloud.colour()->page(page);
                 std::uint32_t last = 0;
                 float distance = nearest(0);
                 in.eligible.for_each_in_page(page, [&](std::size_t i) {
                     if (colours[i] != last) {
                         last = colours[i];
                         distance = nearest(last);
                     }
                     values[i] = distance;
                 });
             });
             return c;
         }});
}

}  // namespace pristine::score
