#include "app/panes/section_axes.h"

#include <QEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "app/stage/stage.h"

namespace pristine::app {
namespace {

constexpr double kHeightsApart_px = 26, kLengthsApart_px = 74, kFoot_px = 20;
constexpr std::size_t kMost = 200;

}  // namespace

SectionAxes::SectionAxes(Stage* stage) : QWidget(stage), stage_(stage) {
    setObjectName(QStringLiteral("sectionAxes"));
    setAttribute(Qt::WA_TransparentForMouseEvents);  // a fence may begin here
    setGeometry(stage->rect());
    stage->installEventFilter(this);
    connect(stage, &Stage::camera_changed, this, qOverload<>(&QWidget::update));
}

void SectionAxes::set_line(Vec3 from, Vec3 to, const Lengths& l) {
    from_ = from;
    to_ = to;
    lengths_ = l;
    update();
}

bool SectionAxes::eventFilter(QObject* watched, QEvent* event) {
    if (watched == stage_ && event->type() == QEvent::Resize) setGeometry(stage_->rect());
    return QWidget::eventFilter(watched, event);
}

// Round values between two pixels, no two closer than `apart_px`.
std::vector<SectionAxes::Tick> SectionAxes::ticks(double at_zero_px, double px_per_data, double first_px,
                                                  double last_px, double apart_px) const {
    std::vector<Tick> all;
    const double px = px_per_data / lengths_.shown(1);  // of a shown unit
    if (!(std::fabs(px) > 1e-12) || !std::isfinite(px)) return all;
    double step = round_step(apart_px / std::fabs(px));
    while (step * std::fabs(px) < apart_px) step = round_step(step * 2.5000001);
    const int decimals = std::clamp(static_cast<int>(std::ceil(-std::log10(step) - 1e-9)), 0, 6);
    const double a = (first_px - at_zero_px) / px, b = (last_px - at_zero_px) / px;
    for (double k = std::ceil(std::min(a, b) / step); k * step <= std::max(a, b) && all.size() < kMost; ++k)
        all.push_back({at_zero_px + k * step * px, shown_figure(k * step, decimals)});
    return all;
}

std::vector<SectionAxes::Tick> SectionAxes::heights() const {
    const ViewFrame f = stage_->frame();
    if (f.perspective || std::fabs(f.down.z + 1) > 1e-6) return {};
    return ticks(f.project({f.eye.x, f.eye.y, 0}).y, -f.scale, 8, height() - kFoot_px, kHeightsApart_px);
}

std::vector<SectionAxes::Tick> SectionAxes::along() const {
    const ViewFrame f = stage_->frame();
    const Vec3 line = normalized({to_.x - from_.x, to_.y - from_.y, 0});
    if (f.perspective || std::fabs(dot(f.right, line) - 1) > 1e-6) return {};
    return ticks(f.project(from_).x, f.scale, 62, width() - 30.0, kLengthsApart_px);
}

void SectionAxes::paintEvent(QPaintEvent*) {
    QPainter p(this);
    QFont font = p.font();
    font.setPointSizeF(8);
    p.setFont(font);
    const QColor ink(0xF5, 0xF2, 0xEC), ground(18, 23, 30, 170);
    const std::vector<Tick> up = heights(), to_right = along();
    const QString unit = lengths_.known() ? lengths_.suffix().trimmed() : tr("unit not set");
    if (!up.empty()) {
        p.fillRect(QRect(0, 0, 56, height()), ground);
        p.setPen(ink);
        for (const Tick& t : up) {
            p.drawLine(QPointF(50, t.pixel), QPointF(56, t.pixel));
            p.drawText(QRectF(0, t.pixel - 8, 47, 16), Qt::AlignRight | Qt::AlignVCenter, t.text);
        }
        p.drawText(QRectF(4, 0, 90, 14), Qt::AlignLeft | Qt::AlignVCenter, tr("H, %1").arg(unit));
    }
    if (to_right.empty()) return;
    const double y = height() - kFoot_px;
    p.fillRect(QRectF(up.empty() ? 0 : 56, y, width(), kFoot_px), ground);
    p.setPen(ink);
    for (std::size_t k = 0; k < to_right.size(); ++k) {
        const Tick& t = to_right[k];
        p.drawLine(QPointF(t.pixel, y), QPointF(t.pixel, y + 5));
        const QString text = k + 1 == to_right.size() ? t.text + QLatin1Char(' ') + unit : t.text;
        p.drawText(QRectF(t.pixel - 50, y + 5, 100, 14), Qt::AlignCenter, text);
    }
}

}  // namespace pristine::app
