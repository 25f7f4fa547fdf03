#include "app/stage/tool_outline.h"

#include <QPainter>
#include <QPainterPath>

#include "app/look/theme.h"

namespace pristine::app {

void paint_tool_outline(QPainter& painter, const Polygon& outline, bool open) {
    if (outline.empty()) return;
    QPainterPath path(QPointF(outline[0].x, outline[0].y));
    for (std::size_t i = 1; i < outline.size(); ++i) path.lineTo(outline[i].x, outline[i].y);
    if (!open) path.closeSubpath();
    QColor fill = token::pick;
    fill.setAlpha(open ? 0 : 36);
    painter.setBrush(fill);
    painter.setPen(QPen(QColor(0, 0, 0, 120), 3));
    painter.drawPath(path);
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(Qt::white, 1.4, Qt::DashLine));
    painter.drawPath(path);
    constexpr std::size_t kDrawnFreehand = 14;
    if (outline.size() > kDrawnFreehand) return;  // the line says it all
    painter.setPen(QPen(token::ink, 1));
    painter.setBrush(Qt::white);
    for (const PixelPoint& c : outline) painter.drawEllipse(QPointF(c.x, c.y), 3.5, 3.5);
}

}  // namespace pristine::app
