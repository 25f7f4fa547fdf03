#include "app/model/marking.h"

#include <QCoreApplication>

#include "app/look/lengths.h"
#include "app/model/mark_text.h"
#include "core/base/error.h"
#include "core/measure/height_above.h"
#include "core/site/making.h"

namespace pristine::app {
namespace {

Error refused(const char* sentence) {
    return Error(ErrorCode::Usage, QCoreApplication::translate("Marks", sentence).toStdString());
}

}  // namespace

site::Mark measured_above(const site::Site& s, site::Mark m) {
    const site::ItemPtr item = s.item(m.over);
    if (!item) throw refused(QT_TRANSLATE_NOOP("Marks", "Choose what the height is measured above first."));
    const ElementSet shown = ~*item->absent;
    const Vec3 top = m.points.front();
    const auto z = item->cloud->triangles() ? measure::surface_below(*item->cloud, shown, top)
                                            : measure::ground_below(*item->cloud, shown, top,
                                                                    1 / Lengths(s, item.get()).data_metres());
    if (!z)
        throw refused(item->cloud->triangles()
                          ? QT_TRANSLATE_NOOP("Marks", "The surface does not lie below this place.")
                          : QT_TRANSLATE_NOOP("Marks",
                                              "There is no ground below this place: too few points "
                                              "within 8 m, or too steep."));
    m.points = {top, {top.x, top.y, *z}};
    m.stamp = site::stamp_of(*item);
    return m;
}

site::Mark new_mark(const site::Site& s, MarkKind kind, std::vector<Vec3> places, std::uint64_t over) {
    if (kind != MarkKind::Point && site::reference_of(s).unit == kDegrees)
        throw refused(QT_TRANSLATE_NOOP("Marks",
                                        "The site is in degrees, in which lengths mean nothing: project "
                                        "it to metres first (Item, Unit and reference system)."));
    site::Mark m;
    m.kind = kind;
    m.points = std::move(places);
    std::size_t number = 1;
    for (const site::MarkPtr& other : s.marks) number += other->kind == kind;
    m.name = QStringLiteral("%1 %2").arg(title_of(kind)).arg(number).toStdString();
    if (kind == MarkKind::Above) {
        m.over = over;
        m = measured_above(s, std::move(m));
    }
    (void)mark_figures(m.kind, m.points);
    return m;
}

}  // namespace pristine::app
