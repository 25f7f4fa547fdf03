#include "core/report/figures/map.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/base/error.h"
#include "core/base/figure.h"
#include "core/report/figures/histogram.h"
#include "core/report/paint.h"

namespace pristine::report {
namespace {

constexpr double kSide = 34, kLeftAxis = 6, kFootAxis = 6, kTick = 1.4;
constexpr double kGridSize = 7, kAir = 4;

// A line cut to a rectangle (Liang and Barsky, 1984), piece by piece.
std::vector<std::vector<Spot>> cut_to(const std::vector<Spot>& line, double x0, double y0, double x1,
                                      double y1) {
    std::vector<std::vector<Spot>> out;
    for (std::size_t k = 1; k < line.size(); ++k) {
        const Spot a = line[k - 1], b = line[k];
        double from = 0, to = 1;
        const double dx = b.x - a.x, dy = b.y - a.y;
        const auto clip = [&](double p, double q) {  // p t <= q
            if (p == 0) return q >= 0;
            const double t = q / p;
            if (p < 0)
                from = std::max(from, t);
            else
                to = std::min(to, t);
            return from <= to;
        };
        if (!(clip(-dx, a.x - x0) && clip(dx, x1 - a.x) && clip(-dy, a.y - y0) && clip(dy, y1 - a.y)))
            continue;
        const Spot s{a.x + from * dx, a.y + from * dy}, e{a.x + to * dx, a.y + to * dy};
        if (out.empty() || !(out.back().back() == s)) out.push_back({s});
        out.back().push_back(e);
    }
    return out;
}

// On paper all lines are in ink; width, dashes and signs tell them apart.
Path stroke_of(MapLine::Kind kind) {
    Path p;
    switch (kind) {
        case MapLine::Kind::Boundary:
            p.width = 0.55;
            p.layer = "boundary";
            break;
        case MapLine::Kind::WorkArea:
            p.width = 0.4;
            p.dash = {2.4, 1.6};
            p.layer = "work area";
            break;
        case MapLine::Kind::Breakline:
            p.width = 0.3;
            p.layer = "breakline";
            break;
        case MapLine::Kind::Contour:
            p.width = 0.13;
            p.layer = "contour";
            break;
        case MapLine::Kind::IndexContour:
            p.width = 0.32;
            p.layer = "index contour";
            break;
        case MapLine::Kind::Section:
            p.width = 0.35;
            p.dash = {2.6, 0.9, 0.5, 0.9};
            p.layer = "section";
            break;
        case MapLine::Kind::Hole:
            p.width = 0.3;
            p.dash = {1.5, 1};
            p.layer = "hole";
            break;
        case MapLine::Kind::Plain:
            p.width = 0.3;
            p.layer = "line";
            break;
    }
    return p;
}

class Mapper {
  public:
    explicit Mapper(const MapSpec& s) : s_(s) {}

    Map draw() {
        lay_out();
        ground();
        Drawing& d = out_.drawing;
        for (const MapLine& l : s_.lines) line(l);
        grid();
        d.frame(out_.x, out_.y, out_.width, out_.height, 0.3);
        for (const MapLine& l : s_.lines) label(l);
        if (s_.side) side();
        return std::move(out_);
    }

  private:
    void lay_out() {
        const double wide = std::max(s_.east - s_.west, 1e-9), high = std::max(s_.north - s_.south, 1e-9);
        const double room_x = s_.width - kLeftAxis - (s_.side ? kSide : 0), room_y = s_.height - kFootAxis;
        const double least =
            1000 * s_.metres * std::max(wide / (room_x - 2 * kAir), high / (room_y - 2 * kAir));
        out_.scale = scale_for(least, s_.scale, "the plan");
        out_.mm_per_unit = 1000 * s_.metres / out_.scale;
        // The frame takes the width there is, and no more height than the plan needs with some air.
        out_.x = kLeftAxis;
        out_.width = room_x;
        out_.height = s_.all_height ? room_y : std::min(room_y, high * out_.mm_per_unit + 2 * kAir);
        if (s_.side) out_.height = std::max(out_.height, std::min(room_y, side_height()));
        out_.west = (s_.west + s_.east) / 2 - out_.width / 2 / out_.mm_per_unit;
        out_.north = (s_.south + s_.north) / 2 + out_.height / 2 / out_.mm_per_unit;
        out_.drawing.width = s_.width;
        out_.drawing.height = out_.height + kFootAxis;
    }

    double east_end() const { return out_.west + out_.width / out_.mm_per_unit; }
    double south_end() const { return out_.north - out_.height / out_.mm_per_unit; }
    Spot spot(double x, double y) const {
        return {out_.x + (x - out_.west) * out_.mm_per_unit, out_.y + (out_.north - y) * out_.mm_per_unit};
    }
    bool inside(Spot p) const {
        return p.x >= out_.x && p.x <= out_.x + out_.width && p.y >= out_.y && p.y <= out_.y + out_.height;
    }

    void ground() {
        if (!s_.ground) return;
        const Image image = s_.ground(out_.west, south_end(), east_end(), out_.north,
                                      pixels_for(out_.width, s_.dpi), pixels_for(out_.height, s_.dpi));
        out_.drawing.shapes.emplace_back(
            Placed{std::make_shared<const Image>(image), out_.x, out_.y, out_.width, out_.height});
    }

    std::vector<std::vector<Spot>> pieces(const MapLine& l) const {
        std::vector<Spot> all;
        for (const Vec3& p : l.points) all.push_back(spot(p.x, p.y));
        if (l.closed && !all.empty()) all.push_back(all.front());
        return cut_to(all, out_.x, out_.y, out_.x + out_.width, out_.y + out_.height);
    }

    void line(const MapLine& l) {
        Path p = stroke_of(l.kind);
        p.rings = pieces(l);
        if (p.rings.empty()) return;
        if (l.kind != MapLine::Kind::Contour && l.kind != MapLine::Kind::IndexContour) halo(p);
        if (l.kind == MapLine::Kind::Boundary) ticks(l);
        out_.drawing.shapes.emplace_back(std::move(p));
    }

    void halo(const Path& of) {
        Path p = of;
        p.width += 0.5;
        p.stroke = kPaper;
        p.dash.clear();
        p.layer = "paper";
        out_.drawing.shapes.emplace_back(std::move(p));
    }

    // Short ones on the inner side.
    void ticks(const MapLine& l) {
        double area = 0;
        for (std::size_t k = 0; k < l.points.size(); ++k) {
            const Vec3 &a = l.points[k], &b = l.points[(k + 1) % l.points.size()];
            area +=
                (a.x - l.points[0].x) * (b.y - l.points[0].y) - (b.x - l.points[0].x) * (a.y - l.points[0].y);
        }
        Path p;
        p.width = 0.3;
        p.layer = "boundary";
        const double inner = area > 0 ? 1 : -1;
        for (std::size_t k = 0; l.closed && k < l.points.size(); ++k) {
            const Spot a = spot(l.points[k].x, l.points[k].y);
            const Vec3& next = l.points[(k + 1) % l.points.size()];
            const Spot b = spot(next.x, next.y);
            const double length = std::hypot(b.x - a.x, b.y - a.y);
            for (double at = 2.5; at < length; at += 5) {
                const double ux = (b.x - a.x) / length, uy = (b.y - a.y) / length;
                const Spot foot{a.x + at * ux, a.y + at * uy};
                // y runs down on the page: left of the way is (uy, -ux).
                const Spot tip{foot.x + inner * uy * 1.2, foot.y - inner * ux * 1.2};
                if (inside(foot) && inside(tip)) p.rings.push_back({foot, tip});
            }
        }
        if (!p.rings.empty()) out_.drawing.shapes.emplace_back(std::move(p));
    }

    void label(const MapLine& l) {
        if (l.label.empty()) return;
        if (l.kind == MapLine::Kind::Section) {
            for (const bool end : {false, true}) {
                const Vec3& p = end ? l.points.back() : l.points.front();
                place_text(spot(p.x, p.y), l.label + (end ? "\u2032" : ""), 8.5, true);
            }
        } else if (l.kind == MapLine::Kind::WorkArea) {
            const Spot at = free_spot(l);
            if (!inside(at)) return;
            numbers_.push_back(at);
            Path disc;
            disc.closed = disc.filled = true;
            disc.width = 0.3;
            disc.rings.emplace_back();
            for (int k = 0; k < 32; ++k)
                disc.rings[0].push_back(
                    {at.x + 2.3 * std::cos(k * M_PI / 16), at.y + 2.3 * std::sin(k * M_PI / 16)});
            out_.drawing.shapes.emplace_back(std::move(disc));
            out_.drawing.text({at.x, at.y + 1.15}, l.label, 8, Anchor::Middle, kInk, true);
        } else if (l.kind == MapLine::Kind::IndexContour || l.kind == MapLine::Kind::Contour) {
            contour_label(l);
        } else {
            const Vec3& p = l.points.front();
            place_text(spot(p.x, p.y), l.label, 7.5, false);
        }
    }

    // The middle of the corners, or a place on the way to one of them where no other number stands.
    Spot free_spot(const MapLine& l) const {
        Vec3 middle;
        for (const Vec3& p : l.points) middle = middle + p * (1.0 / static_cast<double>(l.points.size()));
        const auto is_free = [&](const Spot& at) {
            return inside(at) && std::none_of(numbers_.begin(), numbers_.end(), [&](const Spot& other) {
                       return std::hypot(at.x - other.x, at.y - other.y) < 5.2;
                   });
        };
        const Spot centre = spot(middle.x, middle.y);
        if (is_free(centre)) return centre;
        for (const double share : {0.5, 0.75, 1.0})
            for (const Vec3& p : l.points)
                if (const Spot at =
                        spot(middle.x + share * (p.x - middle.x), middle.y + share * (p.y - middle.y));
                    is_free(at))
                    return at;
        // Of one that is smaller than its number the number stands beside it.
        for (const double away : {5.5, 7.5, 10.0})
            for (int k = 0; k < 16; ++k)
                if (const Spot at{centre.x + away * std::cos(k * M_PI / 8),
                                  centre.y + away * std::sin(k * M_PI / 8)};
                    is_free(at))
                    return at;
        return centre;
    }

    void place_text(Spot at, const std::string& words, double size, bool bold) {
        if (!inside(at)) return;
        Text t;
        t.at = {at.x, at.y + size * 0.13};
        t.runs = {{words, bold}};
        t.size = size;
        t.anchor = Anchor::Middle;
        t.haloed = true;
        out_.drawing.shapes.emplace_back(std::move(t));
    }

    // Along the line at its middle, readable from below; none on lines too short for it.
    void contour_label(const MapLine& l) {
        for (const auto& piece : pieces(l)) {
            double length = 0;
            for (std::size_t k = 1; k < piece.size(); ++k)
                length += std::hypot(piece[k].x - piece[k - 1].x, piece[k].y - piece[k - 1].y);
            if (length < 22) continue;
            double at = length / 2;
            for (std::size_t k = 1; k < piece.size(); ++k) {
                const double step = std::hypot(piece[k].x - piece[k - 1].x, piece[k].y - piece[k - 1].y);
                if (at > step) {
                    at -= step;
                    continue;
                }
                // The direction over a few millimetres, since steps may be tiny.
                std::size_t i = k - 1, j = k;
                while (i > 0 && std::hypot(piece[k].x - piece[i].x, piece[k].y - piece[i].y) < 3) --i;
                while (j + 1 < piece.size() &&
                       std::hypot(piece[k].x - piece[j].x, piece[k].y - piece[j].y) < 3)
                    ++j;
                double turn = -std::atan2(piece[j].y - piece[i].y, piece[j].x - piece[i].x) * 180 / M_PI;
                if (turn > 90) turn -= 180;
                if (turn <= -90) turn += 180;
                const double share = step > 0 ? at / step : 0;
                Text t;
                t.at = {piece[k - 1].x + share * (piece[k].x - piece[k - 1].x),
                        piece[k - 1].y + share * (piece[k].y - piece[k - 1].y)};
                t.at = {t.at.x + 0.9 * std::sin(turn * M_PI / 180),
                        t.at.y + 0.9 * std::cos(turn * M_PI / 180)};
                t.runs = {{l.label, false}};
                t.size = 6.5;
                t.anchor = Anchor::Middle;
                t.turned = turn;
                t.haloed = true;
                t.layer = "contour height";
                out_.drawing.shapes.emplace_back(std::move(t));
                break;
            }
        }
    }

    void grid() {
        const double f = s_.shown_factor;
        const double spacing = 40 / out_.mm_per_unit * f;  // about four centimetres
        double step = round_step(spacing);
        if (!(step > 0)) return;
        Path crosses;
        crosses.width = 0.2;
        crosses.layer = "grid";
        const double w = out_.west * f, e = east_end() * f, s = south_end() * f, n = out_.north * f;
        for (double x = std::ceil(w / step) * step; x <= e; x += step)
            for (double y = std::ceil(s / step) * step; y <= n; y += step) {
                const Spot at = spot(x / f, y / f);
                crosses.rings.push_back({{at.x - kTick, at.y}, {at.x + kTick, at.y}});
                crosses.rings.push_back({{at.x, at.y - kTick}, {at.x, at.y + kTick}});
            }
        for (double x = std::ceil(w / step) * step; x <= e; x += step) {
            const double px = spot(x / f, 0).x;
            crosses.rings.push_back({{px, out_.y + out_.height}, {px, out_.y + out_.height + kTick}});
            if (px < out_.x + out_.width - 8 && px > out_.x + 6)
                out_.drawing.text({px, out_.y + out_.height + 4.4}, "E " + axis_text(x, step), kGridSize,
                                  Anchor::Middle);
        }
        for (double y = std::ceil(s / step) * step; y <= n; y += step) {
            const double py = spot(0, y / f).y;
            crosses.rings.push_back({{out_.x - kTick, py}, {out_.x, py}});
            if (py < out_.y + 9 || py > out_.y + out_.height - 9) continue;
            Text t;
            t.at = {out_.x - 2, py};
            t.runs = {{"N " + axis_text(y, step), false}};
            t.size = kGridSize;
            t.anchor = Anchor::Middle;
            t.turned = 90;
            out_.drawing.shapes.emplace_back(std::move(t));
        }
        out_.drawing.shapes.emplace_back(std::move(crosses));
    }

    static std::string axis_text(double v, double step) {
        return figure(v, step >= 1 ? 0 : decimals_for(step, 1));
    }

    double side_height() const {
        return 22 + 6 + 4.6 * static_cast<double>(s_.legend.rows.size() + s_.legend.lines.size()) +
               (s_.legend.ramp.empty() ? 0 : 36) + 16;
    }

    void side() {
        const double x = out_.x + out_.width + 4;
        double y = out_.y + 2;
        north(x + 5, y);
        y += 22;
        legend(x, y);
        scale_bar(x, out_.y + out_.height - 8);
    }

    void north(double x, double y) {
        Drawing& d = out_.drawing;
        Path arrow;
        arrow.closed = arrow.filled = true;
        arrow.fill = kInk;
        arrow.width = 0.2;
        arrow.rings = {{{x, y + 4}, {x + 2.2, y + 13}, {x, y + 11}, {x - 2.2, y + 13}}};
        d.shapes.emplace_back(std::move(arrow));
        d.text({x, y + 3}, "N", 9, Anchor::Middle, kInk, true);
    }

    void legend(double x, double y) {
        Drawing& d = out_.drawing;
        const Legend& l = s_.legend;
        if (l.rows.empty() && l.ramp.empty() && l.lines.empty()) return;
        for (const auto& row : wrapped({{l.title, true}}, 7.5, kSide - 5)) {
            Text t;
            t.at = {x, y + 2.5};
            t.runs = row;
            t.size = 7.5;
            d.shapes.emplace_back(std::move(t));
            y += 3.6;
        }
        y += 1;
        for (const LegendRow& r : l.rows) {
            d.rectangle(x, y, 3.2, 3.2, r.colour);
            d.frame(x, y, 3.2, 3.2, 0.15);
            d.text({x + 4.6, y + 2.6}, r.words, 7);
            y += 4.6;
        }
        for (const LegendLine& r : l.lines) {
            Path p = stroke_of(r.kind);
            p.rings = {{{x, y + 1.6}, {x + 9, y + 1.6}}};
            d.shapes.emplace_back(std::move(p));
            d.text({x + 10.5, y + 2.6}, r.words, 7);
            y += 4.6;
        }
        if (l.ramp.empty()) return;
        const double step = 30.0 / static_cast<double>(l.ramp.size());
        for (std::size_t k = 0; k < l.ramp.size(); ++k)
            d.rectangle(x, y + 30 - step * static_cast<double>(k + 1), 4, step + 0.05, l.ramp[k]);
        d.frame(x, y, 4, 30, 0.15);
        d.text({x + 5.5, y + 2.4}, l.high, 7);
        d.text({x + 5.5, y + 30}, l.low, 7);
    }

    void scale_bar(double x, double y) {
        Drawing& d = out_.drawing;
        const double mm_per_shown = out_.mm_per_unit / s_.shown_factor;
        const double length = round_step(24 / mm_per_shown), wide = length * mm_per_shown;
        d.rectangle(x, y, wide / 2, 1.2, kInk);
        d.frame(x, y, wide, 1.2, 0.2);
        const int digits =
            length / 2 >= 1 ? (length == 5 || length == 1 ? 1 : 0) : decimals_for(length / 2, 2);
        d.text({x, y + 4.4}, "0", 7, Anchor::Middle);
        d.text({x + wide / 2, y + 4.4}, figure(length / 2, digits), 7, Anchor::Middle);
        d.text({x + wide, y + 4.4}, figure(length, length >= 1 ? 0 : digits) + " " + s_.unit, 7,
               Anchor::Middle);
        d.text({x, y - 1.6}, fmt::format("1 : {}", figure(out_.scale, 0)), 8, Anchor::Left, kInk, true);
    }

    const MapSpec& s_;
    Map out_;
    std::vector<Spot> numbers_;  // where discs with numbers stand
};

}  // namespace

const std::vector<int>& round_scales() {
    static const std::vector<int> scales = [] {
        std::vector<int> out;
        for (int ten = 1; ten <= 10'000'000; ten *= 10)
            for (const double n : {1.0, 2.0, 2.5, 5.0, 7.5}) {
                const double v = n * ten;
                if (v == std::floor(v)) out.push_back(static_cast<int>(v));
            }
        return out;
    }();
    return scales;
}

int scale_for(double least, int asked, const std::string& what) {
    const auto& all = round_scales();
    const auto fits = std::find_if(all.begin(), all.end(), [&](int n) { return n >= least * (1 - 1e-9); });
    const int largest = fits == all.end() ? static_cast<int>(std::ceil(least)) : *fits;
    if (asked > 0 && asked < least * (1 - 1e-9))
        throw Error(ErrorCode::Usage, fmt::format("At 1:{} {} does not fit on the page", asked, what), {},
                    fmt::format("1:{} does.", largest));
    return asked > 0 ? asked : largest;
}

MapLine::Kind kind_of_role(LineRole role) {
    switch (role) {
        case LineRole::Breakline:
            return MapLine::Kind::Breakline;
        case LineRole::Boundary:
            return MapLine::Kind::Boundary;
        case LineRole::Hole:
            return MapLine::Kind::Hole;
        case LineRole::Axis:
            return MapLine::Kind::Section;
        case LineRole::Contour:
            return MapLine::Kind::Contour;
        case LineRole::Free:
        case LineRole::Finding:
            break;
    }
    return MapLine::Kind::Plain;
}

Map map(const MapSpec& spec) {
    return Mapper(spec).draw();
}

Image painted(const mesh::TriMesh& m, double west, double south, double east, double north, int width,
              int height, const std::function<Ink(double)>& colour) {
    Image out{width, height, {}};
    out.argb.assign(static_cast<std::size_t>(width) * static_cast<std::size_t>(height), 0);
    const double sx = width / (east - west), sy = height / (north - south);
    for (const auto& t : m.triangles) {
        double x[3], y[3], z[3];
        for (std::size_t k = 0; k < 3; ++k) {
            const Vec3& v = m.vertices[t[k]];
            x[k] = (v.x - west) * sx;
            y[k] = (north - v.y) * sy;
            z[k] = v.z;
        }
        const double area = (x[1] - x[0]) * (y[2] - y[0]) - (x[2] - x[0]) * (y[1] - y[0]);
        if (area == 0) continue;
        const int top = std::max(0, static_cast<int>(std::ceil(std::min({y[0], y[1], y[2]}) - 0.5)));
        const int foot =
            std::min(height - 1, static_cast<int>(std::floor(std::max({y[0], y[1], y[2]}) - 0.5)));
        const int left = std::max(0, static_cast<int>(std::ceil(std::min({x[0], x[1], x[2]}) - 0.5)));
        const int right =
            std::min(width - 1, static_cast<int>(std::floor(std::max({x[0], x[1], x[2]}) - 0.5)));
        for (int py = top; py <= foot; ++py)
            for (int px = left; px <= right; ++px) {
                const double cx = px + 0.5, cy = py + 0.5;
                const double a = ((x[1] - cx) * (y[2] - cy) - (x[2] - cx) * (y[1] - cy)) / area;
                const double b = ((x[2] - cx) * (y[0] - cy) - (x[0] - cx) * (y[2] - cy)) / area;
                const double c = 1 - a - b;
                constexpr double kEdge = -1e-9;
                if (a < kEdge || b < kEdge || c < kEdge) continue;
                out.argb[static_cast<std::size_t>(py) * static_cast<std::size_t>(width) +
                         static_cast<std::size_t>(px)] = 0xff000000u | colour(a * z[0] + b * z[1] + c * z[2]);
            }
    }
    return out;
}

Ink ChangeClasses::of(double change) const {
    const auto k =
        static_cast<std::size_t>(std::lower_bound(limits.begin(), limits.end(), change) - limits.begin());
    return colours[k];
}

ChangeClasses change_classes(double least, double greatest, double band, double factor) {
    ChangeClasses c;
    const double most = std::max(std::fabs(least), std::fabs(greatest)) * factor;
    const double step = std::max(round_step(most / 2), 1e-6) / factor;
    // A band that cannot be seen in the colours gives way to one that can; the legend says which.
    const double inner = std::clamp(band, step / 50, step / 2);
    c.band_shown = inner == band;
    constexpr Ink kCut3 = 0x9C4A06, kCut2 = 0xD98535, kCut1 = 0xF1CFA6, kSame = 0xD3D1CB, kFill1 = 0xC3D6EC,
                  kFill2 = 0x6F9FD8, kFill3 = 0x1F5FA8;
    c.limits = {-2 * step, -step, -inner, inner, step, 2 * step};
    c.colours = {kCut3, kCut2, kCut1, kSame, kFill1, kFill2, kFill3};
    return c;
}

Legend legend_of(const ChangeClasses& c, double factor, const std::string& unit) {
    Legend l{"Change of height, " + unit, {}};
    const auto text = [&](std::size_t k) {
        const double v = c.limits[k] * factor;
        std::string s = figure(v, decimals_for(v, 1));
        if (!s.empty() && s[0] == '-') s = "\u2212" + s.substr(1);
        return s;
    };
    l.rows = {{c.colours[6], "\u2265 " + text(5) + " fill"}, {c.colours[5], text(4) + " to " + text(5)},
              {c.colours[4], text(3) + " to " + text(4)},    {c.colours[3], "as it was"},
              {c.colours[2], text(1) + " to " + text(2)},    {c.colours[1], text(0) + " to " + text(1)},
              {c.colours[0], "\u2264 " + text(0) + " cut"}};
    return l;
}

}  // namespace pristine::report
