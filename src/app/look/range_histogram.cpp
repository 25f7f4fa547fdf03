#include "app/look/range_histogram.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>
#include <utility>

#include "app/look/theme.h"

namespace pristine::app {
namespace {

constexpr double kMargin = 8, kBottom = 18;

}  // namespace

RangeHistogram::RangeHistogram(QWidget* parent) : QWidget(parent) {
    setObjectName(QStringLiteral("ruleHistogram"));
    setAccessibleName(
        tr("Spread of the values: arrow keys move the upper end of the range, with Shift the lower"));
    setToolTip(tr("Drag the ends of the range"));
    setFocusPolicy(Qt::TabFocus);
    setMinimumHeight(120);
}

void RangeHistogram::set(const score::Profile& p) {
    profile_ = p;
    update();
}

void RangeHistogram::set_range(double lo, double hi, bool outside) {
    lo_ = lo;
    hi_ = hi;
    outside_ = outside;
    update();
}

double RangeHistogram::x_of(double value) const {
    const double t = std::isinf(value) ? (value > 0 ? 1.0 : 0.0) : profile_.place(value);
    return kMargin + std::clamp(t, 0.0, 1.0) * (width() - 2 * kMargin);
}

double RangeHistogram::value_at(double x) const {
    return profile_.value_at(std::clamp((x - kMargin) / std::max(1.0, width() - 2 * kMargin), 0.0, 1.0));
}

void RangeHistogram::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const QRectF box = QRectF(rect()).adjusted(0.5, 0.5, -0.5, -kBottom);
    p.setPen(hasFocus() ? QPen(token::pick, 2) : QPen(token::line));
    p.setBrush(QColor(0xFF, 0xFD, 0xF9));
    p.drawRoundedRect(box, 4, 4);
    if (profile_.count == 0) return;
    double most = 1;
    for (const std::uint64_t n : profile_.bins) most = std::max(most, std::log1p(static_cast<double>(n)));
    const double w = (width() - 2 * kMargin) / static_cast<double>(profile_.bins.size());
    p.setPen(Qt::NoPen);
    for (std::size_t b = 0; b < profile_.bins.size(); ++b) {
        if (profile_.bins[b] == 0) continue;
        const double middle = value_at(kMargin + (static_cast<double>(b) + 0.5) * w);
        const bool in = (middle >= lo_ && middle <= hi_) != outside_;
        const double h = std::log1p(static_cast<double>(profile_.bins[b])) / most * (box.height() - 8);
        p.setBrush(in ? token::pick : QColor(0xB9, 0xB3, 0xA6));
        p.drawRect(QRectF(kMargin + static_cast<double>(b) * w, box.bottom() - 1 - std::max(1.5, h),
                          std::max(1.0, w - 0.6), std::max(1.5, h)));
    }
    for (const double v : {lo_, hi_}) {
        const double x = x_of(v);
        p.setPen(QPen(token::ink, 2));
        p.drawLine(QPointF(x, box.top() + 2), QPointF(x, box.bottom()));
        p.setBrush(token::ink);
        p.drawEllipse(QPointF(x, box.top() + 8), 4.5, 4.5);
    }
}

void RangeHistogram::move_end(bool high, double value) {
    // An end at the rim takes everything beyond it as well.
    if (high)
        hi_ = std::max(value >= profile_.bin_hi ? INFINITY : value, lo_);
    else
        lo_ = std::min(value <= profile_.bin_lo ? -INFINITY : value, hi_);
    update();
    emit dragged(lo_, hi_);
}

void RangeHistogram::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton || profile_.count == 0) return;
    const double x = e->position().x(), to_lo = std::fabs(x - x_of(lo_)), to_hi = std::fabs(x - x_of(hi_));
    high_ = to_hi < to_lo || (to_hi == to_lo && x > x_of(hi_));
    dragging_ = true;
    move_end(high_, value_at(x));
}

void RangeHistogram::mouseMoveEvent(QMouseEvent* e) {
    if (dragging_) move_end(high_, value_at(e->position().x()));
}

void RangeHistogram::mouseReleaseEvent(QMouseEvent*) {
    if (std::exchange(dragging_, false)) emit let_go();
}

void RangeHistogram::keyPressEvent(QKeyEvent* e) {
    const int step = e->key() == Qt::Key_Right ? 1 : e->key() == Qt::Key_Left ? -1 : 0;
    if (step == 0 || profile_.count == 0) return QWidget::keyPressEvent(e);
    const bool high = !(e->modifiers() & Qt::ShiftModifier);
    const double now = std::clamp(high ? hi_ : lo_, profile_.bin_lo, profile_.bin_hi);
    move_end(high, profile_.value_at(std::clamp(profile_.place(now) + step / 100.0, 0.0, 1.0)));
    emit let_go();
}

}  // namespace pristine::app
