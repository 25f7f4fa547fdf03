#include "core/report/figures/view.h"

#include <cmath>

#include "core/base/figure.h"

namespace pristine::report {
namespace {

void haloed(Drawing& d, Spot at, const std::string& words, double size, Anchor anchor, bool bold) {
    Text t;
    t.at = at;
    t.runs = {{words, bold}};
    t.size = size;
    t.anchor = anchor;
    t.haloed = true;
    d.shapes.emplace_back(std::move(t));
}

void scale_bar(Drawing& d, double mm_per_shown, const std::string& unit) {
    const double length = round_step(std::min(22.0, d.width / 4) / mm_per_shown),
                 wide = length * mm_per_shown;
    if (!(wide > 0)) return;
    const double x = 3, y = d.height - 3;
    d.line({x, y}, {x + wide, y}, 0.9, kPaper);
    d.line({x, y}, {x + wide, y}, 0.45);
    for (const double end : {x, x + wide}) d.line({end, y - 1}, {end, y + 0.6}, 0.3);
    haloed(d, {x + wide + 1.5, y + 0.9}, figure(length, decimals_for(length, 1)) + " " + unit, 7,
           Anchor::Left, false);
}

// Where north is in the view; nothing where it runs along the line of sight.
void north(Drawing& d, const ViewFrame& f) {
    double x = f.right.y, y = f.down.y;
    const double length = std::hypot(x, y);
    if (length < 0.15) return;
    x /= length;
    y /= length;
    const Spot centre{d.width - 8, d.height - 8};
    const double size = 4 * std::max(0.5, length);
    const auto at = [&](double along, double across) {
        return Spot{centre.x + along * x - across * y, centre.y + along * y + across * x};
    };
    Path arrow;
    arrow.closed = arrow.filled = true;
    arrow.fill = kInk;
    arrow.stroke = kPaper;
    arrow.width = 0.2;
    arrow.rings = {{at(size, 0), at(-size * 0.7, 1.6), at(-size * 0.3, 0), at(-size * 0.7, -1.6)}};
    d.shapes.emplace_back(std::move(arrow));
    const Spot letter = at(size + 2.2, 0);
    haloed(d, {letter.x, letter.y + 1.1}, "N", 7.5, Anchor::Middle, true);
}

}  // namespace

Drawing view(Shot shot, const ViewLook& look, const Drawer& draw, double dpi) {
    Drawing d;
    d.width = look.width;
    d.height = look.height;
    shot.width = pixels_for(look.width, dpi);
    shot.height = pixels_for(look.height, dpi);
    d.shapes.emplace_back(Placed{std::make_shared<const Image>(draw(shot)), 0, 0, look.width, look.height});
    if (look.framed) d.frame(0, 0, look.width, look.height, 0.2, kSecondInk);
    const ViewFrame f = frame_of(shot, {});
    scale_bar(d, f.scale / look.shown_factor * look.width / shot.width, look.unit);
    north(d, f);
    if (!look.title.empty()) haloed(d, {2, 4.5}, look.title, 8, Anchor::Left, true);
    return d;
}

}  // namespace pristine::report
