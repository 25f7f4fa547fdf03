#include "core/report/drawing.h"

#include <algorithm>
#include <cmath>

namespace pristine::report {
namespace {

void shift(Path& p, double x, double y) {
    for (auto& ring : p.rings)
        for (Spot& s : ring) s = {s.x + x, s.y + y};
}
void shift(Text& t, double x, double y) {
    t.at = {t.at.x + x, t.at.y + y};
}
void shift(Placed& p, double x, double y) {
    p.x += x;
    p.y += y;
}

Path box(double x, double y, double width, double height) {
    Path p;
    p.rings = {{{x, y}, {x + width, y}, {x + width, y + height}, {x, y + height}}};
    p.closed = true;
    return p;
}

}  // namespace

void Drawing::line(Spot from, Spot to, double stroke, Ink ink, std::vector<double> dash) {
    Path p;
    p.rings = {{from, to}};
    p.width = stroke;
    p.stroke = ink;
    p.dash = std::move(dash);
    shapes.emplace_back(std::move(p));
}

void Drawing::rectangle(double x, double y, double w, double h, Ink fill) {
    Path p = box(x, y, w, h);
    p.width = 0;
    p.filled = true;
    p.fill = fill;
    shapes.emplace_back(std::move(p));
}

void Drawing::frame(double x, double y, double w, double h, double stroke, Ink ink) {
    Path p = box(x, y, w, h);
    p.width = stroke;
    p.stroke = ink;
    shapes.emplace_back(std::move(p));
}

void Drawing::text(Spot at, const std::string& words, double size, Anchor anchor, Ink ink, bool bold) {
    Text t;
    t.at = at;
    t.runs = {{words, bold}};
    t.size = size;
    t.anchor = anchor;
    t.ink = ink;
    shapes.emplace_back(std::move(t));
}

void Drawing::put(const Drawing& other, double x, double y) {
    for (Shape s : other.shapes) {
        std::visit([&](auto& shape) { shift(shape, x, y); }, s);
        shapes.push_back(std::move(s));
    }
}

Drawing scaled(const Drawing& d, double f) {
    struct Scale {
        double f;
        void operator()(Path& p) const {
            for (auto& ring : p.rings)
                for (Spot& s : ring) s = {s.x * f, s.y * f};
            p.width *= f;
            for (double& dash : p.dash) dash *= f;
        }
        void operator()(Text& t) const {
            t.at = {t.at.x * f, t.at.y * f};
            t.size *= f;
        }
        void operator()(Placed& p) const {
            p.x *= f;
            p.y *= f;
            p.width *= f;
            p.height *= f;
        }
    };
    Drawing out = d;
    out.width *= f;
    out.height *= f;
    for (Shape& s : out.shapes) std::visit(Scale{f}, s);
    return out;
}

int pixels_for(double mm, double dpi) {
    return std::max(1, static_cast<int>(std::lround(mm / 25.4 * dpi)));
}

}  // namespace pristine::report
