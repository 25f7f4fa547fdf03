#include "app/window/view_marks.h"

#include <QPainter>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "app/stage/stage.h"

namespace pristine::app {
namespace {

constexpr int kMarksWidth = 172, kMarksHeight = 66, kCompass = 17;  // radius
constexpr double kLongest = 125;

}  // namespace

ViewMarks::ViewMarks(Stage* stage) : QWidget(stage), stage_(stage) {
    setObjectName(QStringLiteral("viewMarks"));
    setAttribute(Qt::WA_TransparentForMouseEvents);  // a fence may begin here
    setFixedSize(kMarksWidth, kMarksHeight);
    connect(stage, &Stage::camera_changed, this, qOverload<>(&QWidget::update));
    connect(stage, &Stage::settled_now, this, qOverload<>(&QWidget::update));
}

void ViewMarks::set_lengths(const Lengths& l) {
    lengths_ = l;
    setVisible(!stage_->scene().items().empty());
    update();
}

// In perspective a length holds at one depth only: where the view is centred.
std::optional<ViewMarks::Bar> ViewMarks::bar() const {
    const render::Camera& c = stage_->camera();
    const double half = std::tan(c.field_deg * std::numbers::pi / 360);
    const double data_per_pixel = 2 * c.focus * half / std::max(1, stage_->height());
    const double longest = lengths_.shown(kLongest * data_per_pixel);
    if (!(longest > 0) || !std::isfinite(longest)) return std::nullopt;
    Bar b;
    b.length = round_step(longest);
    b.pixels = lengths_.data(b.length) / data_per_pixel;
    const int decimals = std::max(0, static_cast<int>(std::ceil(-std::log10(b.length) - 1e-9)));
    b.text =
        shown_figure(b.length, decimals) + (lengths_.known() ? lengths_.suffix() : tr(" (unit not set)"));
    if (c.perspective) b.text += tr(", in the middle");
    return b;
}

QString ViewMarks::view_name() const {
    const auto axis = stage_->axis();
    const QString kind = stage_->camera().perspective ? tr("perspective") : tr("parallel");
    if (!axis) return kind;
    switch (*axis) {
        case render::AxisView::Top:
            return tr("From above · %1").arg(kind);
        case render::AxisView::Bottom:
            return tr("From below · %1").arg(kind);
        case render::AxisView::Front:
            return tr("Front · %1").arg(kind);
        case render::AxisView::Back:
            return tr("Back · %1").arg(kind);
        case render::AxisView::Left:
            return tr("Left · %1").arg(kind);
        case render::AxisView::Right:
            return tr("Right · %1").arg(kind);
    }
    return kind;
}

QPointF ViewMarks::north() const {
    const render::Camera& c = stage_->camera();
    const Vec3 right = c.right(), down = cross(c.ahead(), right);
    return {right.y, down.y};
}

void ViewMarks::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    QFont font = p.font();
    font.setPointSizeF(8);
    p.setFont(font);
    const QColor ink(0xF5, 0xF2, 0xEC), ground(18, 23, 30, 170);
    p.setPen(Qt::NoPen);
    p.setBrush(ground);
    p.drawRoundedRect(rect(), 4, 4);
    // The compass.
    const QPointF middle(kMarksWidth - kCompass - 8, 8 + kCompass), n = north();
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(QColor(0x8C, 0x85, 0x77), 1));
    p.drawEllipse(middle, kCompass, kCompass);
    const double seen = std::hypot(n.x(), n.y());
    p.setPen(QPen(ink, 1.8));
    if (seen > 0.05) {
        const QPointF tip = middle + n * (kCompass - 6.0), across(-n.y() / seen * 3, n.x() / seen * 3);
        const QPointF back = tip - n / seen * 6;
        p.drawLine(middle - n * (kCompass - 6.0), tip);
        p.setBrush(ink);
        p.drawPolygon(QPolygonF{tip, back + across, back - across});
    } else {
        p.drawPoint(middle);
    }
    const QPointF at = seen > 0.05 ? middle + n / seen * (kCompass - 1.0) : middle + QPointF(0, -9);
    const QRectF letter(at - QPointF(7, 7), QSizeF(14, 14));
    p.setPen(Qt::NoPen);
    p.setBrush(QColor(18, 23, 30));
    p.drawEllipse(letter.center(), 6, 6);
    p.setPen(ink);
    p.drawText(letter, Qt::AlignCenter, tr("N"));
    // Name and bar.
    p.setPen(QColor(0xD9, 0xD4, 0xC8));
    p.drawText(QRect(8, 4, kMarksWidth - 2 * kCompass - 20, 18), Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(view_name(), Qt::ElideRight, kMarksWidth - 2 * kCompass - 20));
    const auto b = bar();
    if (!b) return;
    p.setPen(QPen(ink, 1.6));
    const double y = kMarksHeight - 9;
    p.drawLine(QPointF(8, y), QPointF(8 + b->pixels, y));
    for (const double x : {8.0, 8 + b->pixels}) p.drawLine(QPointF(x, y - 4), QPointF(x, y + 1));
    p.setPen(ink);
    p.drawText(QRect(8, static_cast<int>(y) - 22, kMarksWidth - 12, 17), Qt::AlignLeft | Qt::AlignVCenter,
               b->text);
}

}  // namespace pristine::app
