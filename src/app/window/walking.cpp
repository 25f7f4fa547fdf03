#include "app/window/walking.h"

#include <QMenu>
#include <algorithm>

#include "app/look/lengths.h"
#include "app/model/document.h"
#include "app/stage/stage.h"
#include "app/stage/walker.h"
#include "core/base/error.h"
#include "core/measure/floor.h"

namespace pristine::app {
namespace {

// Metres.
constexpr double kColumn = 0.3;  // in which points are a floor
constexpr double kAbove = 1.65;  // eyes over a line
constexpr double kLookAhead = 4;
constexpr double kLeastOfLine = 1.0 / 300;  // and that share of a long line

}  // namespace

Walking::Walking(Desk& desk) : Part(desk), walker_(new Walker(stage_)) {
    connect(walker_, &Walker::begun_or_ended, this, [this] { commands_.refresh(); });
    connect(stage_, &Stage::pointed_at, this, [this](double x, double y) { pointer_ = {x, y}; });
    connect(document_, &Document::replaced, walker_, &Walker::end);
}

void Walking::add_commands() {
    add(
        "view.walk", tr("Walk from here"),
        tr("Stands on the floor under the pointer, eyes at 1.65 m: arrow keys walk and turn, Shift with them "
           "steps aside, right drag looks about, the wheel steps, Page keys raise the eyes, + and - change "
           "the pace, Esc ends"),
        QKeySequence(Qt::Key_7), tr("-View"), [this] { walk(); }, [this] { return needs_item(); },
        [this] { return walker_->walking(); });
    add_menu("view.fly", tr("Fly along a line"),
             tr("Along a line of the site at eye height: Space stops and goes on, arrow keys and the wheel "
                "move by steps, + and - change the pace, Esc ends"),
             tr("View"), [this](QMenu* menu) { fill_lines(menu); });
}

void Walking::walk() {
    if (walker_->walking()) return walker_->end();
    // Under the pointer, else in the middle of the view.
    const PixelPoint middle{stage_->width() / 2.0, stage_->height() / 2.0};
    const auto there = stage_->seen_at(pointer_) ? std::optional(pointer_)
                       : stage_->seen_at(middle) ? std::optional(middle)
                                                 : std::nullopt;
    if (!there) return say_refused(tr("Point at the floor to stand on: there is nothing under the pointer."));
    walker_->walk(
        stage_->anchor(*there),
        [this](const Vec3& eye, double least, double most) { return floor_below(eye, least, most); },
        Lengths(*document_->site()));
}

std::optional<double> Walking::floor_below(const Vec3& eye, double least, double most) const {
    const site::SitePtr s = document_->site();
    const double metre = 1 / Lengths(*s).data_metres();
    std::optional<double> highest;
    for (const site::ItemPtr& item : s->items) {
        const Box3 box = item->cloud->bounds();
        if (!item->visible || box.empty() || eye.x < box.lo.x || eye.x > box.hi.x || eye.y < box.lo.y ||
            eye.y > box.hi.y)
            continue;
        const auto z =
            measure::floor_below(*item->cloud, ~*item->absent, eye, {least, most, kColumn * metre});
        if (z && (!highest || *z > *highest)) highest = z;
    }
    return highest;
}

void Walking::fill_lines(QMenu* menu) {
    for (const site::LinePtr& line : document_->site()->lines)
        menu->addAction(QString::fromStdString(line->name), this, [this, id = line->id] { fly_along(id); });
    if (menu->isEmpty()) menu->addAction(tr("The site has no line yet"))->setEnabled(false);
}

void Walking::fly_along(std::uint64_t id) {
    const site::LinePtr line = document_->site()->line(id);
    if (!line) return;
    const Lengths lengths(*document_->site());
    double length = 0;
    for (std::size_t i = 1; i < line->points.size(); ++i)
        length += norm(line->points[i] - line->points[i - 1]);
    const double metre = 1 / lengths.data_metres();
    try {
        walker_->fly(
            {line->points, line->closed, kAbove * metre, std::max(kLookAhead * metre, length * kLeastOfLine)},
            QString::fromStdString(line->name), lengths);
    } catch (const Error& e) {
        say_refused(QString::fromStdString(e.what()));
    }
}

}  // namespace pristine::app
