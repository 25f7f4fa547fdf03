// What the measure board makes of surfaces: maps of change, and contours.

#include <QComboBox>
#include <algorithm>
#include <cmath>

#include "app/cards/measure_card.h"
#include "app/model/document.h"
#include "app/model/jobs.h"
#include "core/cloud/triangles.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/measure/change_map.h"
#include "core/measure/smooth_contours.h"
#include "core/site/making.h"
#include "core/surface/clip.h"

namespace pristine::app {
namespace {

mesh::TriMesh shown_mesh(const site::Item& item) {
    return io::mesh_of(*item.cloud, ~*item.absent);
}

// Limits of the classes of a map: the band, and even steps beyond it to about where the change ends.
std::vector<double> classes_of_band(double band, double least, double greatest) {
    const double reach = std::max(std::fabs(least), std::fabs(greatest)) - band;
    const double step = round_step(std::max(reach, band) / 3);
    std::vector<double> limits;
    for (int k = 3; k >= 0; --k) limits.push_back(-band - k * step);
    for (int k = 0; k <= 3; ++k) limits.push_back(band + k * step);
    return limits;
}

}  // namespace

void MeasureCard::make_map() {
    const site::SitePtr s = document_->site();
    site::ItemPtr later = s->active_item(), earlier = s->item(other_->currentData().toULongLong());
    if (!later || !earlier) return;
    if (is_swapped(*later, earlier.get())) std::swap(later, earlier);
    map_of(later, earlier, s->line(within_->currentData().toULongLong()), 0);
}

// A new map, or the item `again` anew.
void MeasureCard::map_of(const site::ItemPtr& later, const site::ItemPtr& earlier, const site::LinePtr& line,
                         std::uint64_t again) {
    const site::SitePtr s = document_->site();
    std::vector<std::uint64_t> lines;
    if (line) lines.push_back(line->id);
    struct Made {
        std::shared_ptr<const cloud::PointCloud> cloud;
        double least = 0, greatest = 0;
    };
    const auto made = std::make_shared<Made>();
    jobs_->start(
        tr("Mapping the change"),
        [=](Progress& p) {
            mesh::TriMesh m = shown_mesh(*later), o = shown_mesh(*earlier);
            if (line)
                for (mesh::TriMesh* one : {&m, &o})
                    *one =
                        surface::clip(*one, {line->points}, surface::Keep::Inside, surface::Edges::Exact, p);
            measure::ChangeMap map = measure::change_map(o, m, p);
            if (map.mesh.triangles.empty()) throw Error(ErrorCode::Usage, "The surfaces do not overlap");
            const auto [lo, hi] = std::minmax_element(map.change.begin(), map.change.end());
            made->least = *lo, made->greatest = *hi;
            cloud::TriangleParts parts{later->cloud->unit(), later->cloud->crs(), true, site::kChangeColumn,
                                       std::move(map.change)};
            made->cloud = cloud::cloud_of_triangles(map.mesh, parts, p);
        },
        [this, made, later, earlier, again, band = band_->in_data(),
         from = site::stamps(*s, {later->id, earlier->id}, lines)] {
            const std::string name =
                tr("%1 minus %2")
                    .arg(QString::fromStdString(later->name), QString::fromStdString(earlier->name))
                    .toStdString();
            document_->apply(
                again ? tr("Make %1 again").arg(QString::fromStdString(name)) : tr("Map the change"),
                [&](const site::Site& now) {
                    site::SitePtr next = std::make_shared<const site::Site>(now);
                    site::Style style;
                    const site::ItemPtr old = again ? now.item(again) : nullptr;
                    if (old) style = old->style;
                    if (!old)
                        for (const std::uint64_t id : {later->id, earlier->id})
                            next = site::set_visible(*next, id, false);
                    next = site::add_cloud(*next, made->cloud, old ? old->name : name, "measured");
                    const std::uint64_t fresh = next->items.back()->id;
                    if (!old) style = next->items.back()->style;
                    style.colour_by = site::ColourBy::Column;
                    style.column = site::kChangeColumn;
                    // What counts as unchanged is one class of the map.
                    if (!old && band > 0) style.classes = classes_of_band(band, made->least, made->greatest);
                    next = site::set_style(*next, fresh, style);
                    if (old) {
                        const std::uint64_t active = now.active == again ? fresh : now.active;
                        next = site::activate(*site::drop_item(*next, again), active);
                    }
                    return site::put_making(*next, {site::Making::Kind::ChangeMap, fresh, {}, from, 0});
                });
        });
}

void MeasureCard::make_contours() {
    if (const site::ItemPtr item = document_->site()->active_item())
        contours_of(item, interval_->in_data(), smooth_->in_data(), {});
}

// New contours, or those of the group `again` anew.
void MeasureCard::contours_of(const site::ItemPtr& item, double interval, double smooth,
                              const std::string& again) {
    const auto found = std::make_shared<measure::SmoothContours>();
    jobs_->start(
        tr("Drawing contours"),
        [=](Progress& p) {
            const mesh::TriMesh m = shown_mesh(*item);
            found->contours = measure::contours(m, interval, p);
            if (smooth > 0) *found = measure::smoothed(m, found->contours, interval, smooth, p);
        },
        [this, found, interval, smooth, again, name = item->name,
         from = site::stamps(*document_->site(), {item->id}, {})] {
            if (found->contours.empty())
                return emit said(tr("No level of this interval crosses the surface."));
            const Lengths l(*document_->site());
            document_->apply(
                again.empty() ? tr("Contours") : tr("Make the contours again"), [&](const site::Site& s) {
                    std::vector<site::Line> made;
                    const std::string group =
                        !again.empty()
                            ? again
                            : (smooth > 0 ? tr("Contours of %1, %2, smoothed") : tr("Contours of %1, %2"))
                                  .arg(QString::fromStdString(name), l.text(interval))
                                  .toStdString();
                    for (const measure::Contour& c : found->contours) {
                        site::Line line;
                        line.name = tr("Contour %1").arg(l.number(c.level)).toStdString();
                        line.points = c.points;
                        line.closed = c.closed && c.points.size() > 2;
                        line.group = group;
                        line.role = LineRole::Contour;
                        // Every fifth is an index contour.
                        line.thick = std::llround(c.level / interval) % 5 == 0;
                        if (line.thick) line.label = l.number(c.level).toStdString();
                        made.push_back(std::move(line));
                    }
                    const bool replaces =
                        std::any_of(s.lines.begin(), s.lines.end(),
                                    [&](const site::LinePtr& line) { return line->group == group; });
                    const site::SitePtr without =
                        replaces ? site::drop_lines(s, group) : std::make_shared<const site::Site>(s);
                    return site::put_making(*site::put_lines(*without, std::move(made)),
                                            {site::Making::Kind::Contours, 0, group, from, interval, smooth});
                });
            QString text = tr("%n contour(s)", "", static_cast<int>(found->contours.size()));
            if (smooth > 0)
                text += tr(", moved by at most %1; the surface is within %2 of their levels")
                            .arg(l.spread(found->plan), l.spread(found->height));
            emit said(text);
        });
}

void MeasureCard::make_again(const site::Making& making) {
    const site::SitePtr s = document_->site();
    if (making.kind == site::Making::Kind::Contours) {
        const site::ItemPtr item = making.from.empty() ? nullptr : s->item(making.from[0].id);
        if (!item) return emit said(tr("The surface that the contours were made of is gone."));
        return contours_of(item, making.interval, making.smoothed, making.group);
    }
    const site::ItemPtr later = making.from.size() < 2 ? nullptr : s->item(making.from[0].id),
                        earlier = making.from.size() < 2 ? nullptr : s->item(making.from[1].id);
    if (!later || !earlier) return emit said(tr("A surface that the map was made of is gone."));
    map_of(later, earlier, making.from.size() > 2 ? s->line(making.from[2].id) : nullptr, making.item);
}

}  // namespace pristine::app
