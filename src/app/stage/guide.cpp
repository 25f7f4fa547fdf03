#include "app/stage/guide.h"

#include <QFontMetrics>
#include <QLineF>
#include <QPainter>
#include <QPolygonF>
#include <algorithm>

namespace pristine::app {
namespace {

const QColor kLine(0xFF, 0xE0, 0x8A), kGround(18, 23, 30, 200);

QColor colour_of(const Guide& g) {
    return g.colour.isValid() ? g.colour : kLine;
}

// Words that were written; another is not written over them.
class Words {
  public:
    explicit Words(QPainter& painter)
        : painter_(painter),
          seen_(painter.viewport()),
          columns_(seen_.width() / kCell + 2),
          taken_(static_cast<std::size_t>(columns_) * static_cast<std::size_t>(seen_.height() / kCell + 2)) {}
    // Whether a word may begin here; asked before its length is measured.
    bool room_at(const QPointF& p) const {
        const QPoint at = p.toPoint();
        if (!seen_.contains(at)) return false;
        const QPoint in = at - seen_.topLeft();
        return !taken_[static_cast<std::size_t>(in.y() / kCell) * static_cast<std::size_t>(columns_) +
                       static_cast<std::size_t>(in.x() / kCell)];
    }
    bool write(const QString& text, const QColor& colour, const QRectF& box, double angle = 0) {
        QTransform turn;
        turn.translate(box.center().x(), box.center().y());
        turn.rotate(angle);
        turn.translate(-box.center().x(), -box.center().y());
        const QRectF over = turn.mapRect(box);
        if (!over.intersects(seen_) || !take(over)) return false;
        painter_.save();
        painter_.setTransform(turn, true);
        painter_.fillRect(box, kGround);
        painter_.setPen(colour);
        painter_.drawText(box, Qt::AlignCenter, text);
        painter_.restore();
        return true;
    }
    QRectF box_of(const QString& text) const {
        const QFontMetrics m = painter_.fontMetrics();
        return {0, 0, m.horizontalAdvance(text) + 8.0, m.height() + 2.0};
    }

  private:
    static constexpr int kCell = 6;
    // By cells of the picture: heights of a hundred thousand vertices are asked, and few have room.
    bool take(const QRectF& box) {
        const QRect in = box.intersected(seen_).toAlignedRect().translated(-seen_.topLeft());
        const auto at = [&](int x, int y) {
            return static_cast<std::size_t>(y) * static_cast<std::size_t>(columns_) +
                   static_cast<std::size_t>(x);
        };
        for (int y = in.top() / kCell; y <= in.bottom() / kCell; ++y)
            for (int x = in.left() / kCell; x <= in.right() / kCell; ++x)
                if (taken_[at(x, y)]) return false;
        for (int y = in.top() / kCell; y <= in.bottom() / kCell; ++y)
            for (int x = in.left() / kCell; x <= in.right() / kCell; ++x) taken_[at(x, y)] = true;
        return true;
    }
    QPainter& painter_;
    QRect seen_;
    int columns_;
    std::vector<bool> taken_;
};

// The place at a share of the length, and the direction there.
std::optional<std::pair<QPointF, double>> along(const QPolygonF& line, double share) {
    double length = 0;
    for (qsizetype i = 1; i < line.size(); ++i) length += QLineF(line[i - 1], line[i]).length();
    double left = length * share;
    for (qsizetype i = 1; i < line.size(); ++i) {
        const QLineF step(line[i - 1], line[i]);
        if (step.length() == 0) continue;
        if (left <= step.length()) return std::pair(step.pointAt(left / step.length()), -step.angle());
        left -= step.length();
    }
    return std::nullopt;
}

// Along the line, never upside down; not on lines shorter than the text.
void write_along(Words& words, const Guide& g, const QPolygonF& line) {
    double length = 0;
    for (qsizetype i = 1; i < line.size(); ++i) length += QLineF(line[i - 1], line[i]).length();
    QRectF box = words.box_of(g.label);
    if (length < 2 * box.width()) return;
    const auto middle = along(line, 0.5);
    if (!middle) return;
    double angle = middle->second;
    if (angle < -90 && angle > -270) angle += 180;
    box.moveCenter(middle->first);
    words.write(g.label, colour_of(g), box, angle);
}

void write_level(Words& words, const Guide& g, const QPolygonF& line) {
    if (line.isEmpty()) return;
    const auto middle = along(line, 0.5);
    const QPointF at = middle ? middle->first : line.front();
    QRectF box = words.box_of(g.label);
    // Above its middle; where that is taken, below, right, left.
    for (const QPointF& off : {QPointF(0, -16), QPointF(0, 16), QPointF(box.width() / 2 + 10, 0),
                               QPointF(-box.width() / 2 - 10, 0), QPointF(0, -34), QPointF(0, 34)}) {
        box.moveCenter(at + off);
        if (words.write(g.label, colour_of(g), box)) return;
    }
}

void paint_line(QPainter& painter, const Guide& g, const QPolygonF& line, bool thin) {
    if (thin) {
        painter.setPen(QPen(colour_of(g), 0));
        painter.drawPolyline(line);
        return;
    }
    const double width = g.thick ? 2.6 : 1.6;
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(QColor(0, 0, 0, 130), width + 1.9));
    painter.drawPolyline(line);
    painter.setPen(QPen(colour_of(g), width));
    painter.drawPolyline(line);
    if (!g.places) return;
    painter.setPen(QPen(QColor(0x12, 0x17, 0x1E), 1));
    painter.setBrush(colour_of(g));
    for (const QPointF& p : line) painter.drawEllipse(p, 3.5, 3.5);
}

// As many places as the picture has pixels for.
std::vector<QPolygonF> projected(const std::vector<Guide>& all, const Projection& project) {
    std::vector<QPolygonF> lines(all.size());
    for (std::size_t k = 0; k < all.size(); ++k) {
        // Contours have far more vertices than the picture has pixels for them.
        constexpr double kSame_px = 0.7;
        for (std::size_t i = 0; i < all[k].points.size(); ++i) {
            const auto p = project(all[k].points[i]);
            if (!p) continue;
            const bool last = i + 1 == all[k].points.size();
            if (last || lines[k].isEmpty() || (*p - lines[k].back()).manhattanLength() >= kSame_px)
                lines[k] << *p;
        }
    }
    return lines;
}

void paint_words(QPainter& painter, const std::vector<Guide>& all, const std::vector<QPolygonF>& lines,
                 const Projection& project) {
    QFont font = painter.font();
    font.setPointSizeF(9);
    painter.setFont(font);
    Words words(painter);
    for (std::size_t k = 0; k < all.size(); ++k) {
        const Guide& g = all[k];
        if (g.label.isEmpty()) continue;
        if (g.level_label)
            write_level(words, g, lines[k]);
        else
            write_along(words, g, lines[k]);
    }
    for (const Guide& g : all)
        for (std::size_t i = 0; i < std::min(g.beside.size(), g.points.size()); ++i) {
            const auto p = project(g.points[i]);
            if (!p || !words.room_at(*p + QPointF(7, -6))) continue;
            QRectF box = words.box_of(g.beside[i]);
            box.moveBottomLeft(*p + QPointF(6, -4));
            words.write(g.beside[i], colour_of(g), box);
        }
}

constexpr qsizetype kFullPicture = 60'000;  // vertices that fill a picture
constexpr qsizetype kLong = 100;
constexpr std::size_t kManyWhileMoving = 8'000;

}  // namespace

void paint_guides(QPainter& painter, const std::vector<Guide>& all, const Projection& project, bool rough) {
    const std::vector<QPolygonF> lines = projected(all, project);
    qsizetype vertices = 0;
    for (const QPolygonF& line : lines) vertices += line.size();
    const bool full = rough || vertices > kFullPicture;
    const bool smooth = painter.testRenderHint(QPainter::Antialiasing);
    for (std::size_t k = 0; k < all.size(); ++k) {
        const bool thin = full && lines[k].size() > kLong;
        painter.setRenderHint(QPainter::Antialiasing, smooth && !thin);
        paint_line(painter, all[k], lines[k], thin);
    }
    painter.setRenderHint(QPainter::Antialiasing, smooth);
    if (!rough) paint_words(painter, all, lines, project);
}

Projection projection_of(const ViewFrame& view) {
    return [view](const Vec3& w) -> std::optional<QPointF> {
        if (view.depth(w) <= view.near_depth) return std::nullopt;
        const PixelPoint p = view.project(w);
        return QPointF(p.x, p.y);
    };
}

void GuideLayer::set(std::vector<Guide> guides) {
    guides_ = std::move(guides);
    vertices_ = 0;
    for (const Guide& g : guides_) vertices_ += g.points.size();
    picture_ = {};
}

bool GuideLayer::holds(const ViewFrame& v, bool rough, double pixel_ratio) const {
    return !picture_.isNull() && rough == rough_ && picture_.devicePixelRatio() == pixel_ratio &&
           v.eye == view_.eye && v.right == view_.right && v.ahead == view_.ahead &&
           v.perspective == view_.perspective && v.scale == view_.scale && v.width == view_.width &&
           v.height == view_.height;
}

void GuideLayer::paint(QPainter& painter, const ViewFrame& view, bool moving) {
    if (guides_.empty()) return;
    const bool rough = moving && vertices_ > kManyWhileMoving;
    const double ratio = painter.device()->devicePixelRatioF();
    if (!holds(view, rough, ratio)) {
        picture_ = QImage(QSize(view.width, view.height) * ratio, QImage::Format_ARGB32_Premultiplied);
        picture_.setDevicePixelRatio(ratio);
        picture_.fill(Qt::transparent);
        QPainter into(&picture_);
        into.setFont(painter.font());
        into.setRenderHint(QPainter::Antialiasing);
        paint_guides(into, guides_, projection_of(view), rough);
        view_ = view;
        rough_ = rough;
    }
    painter.drawImage(0, 0, picture_);
}

}  // namespace pristine::app
