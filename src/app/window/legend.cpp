#include "app/window/legend.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

namespace pristine::app {
namespace {

constexpr int kLegendWidth = 104, kLegendHeight = 190, kTop = 26, kBottom = 14, kBar = 14;
constexpr int kLine = 17;  // height of a name, and the least distance of two numbers
constexpr int kWidest = 220, kMostNames = 13;

}  // namespace

Legend::Legend(QWidget* stage) : QWidget(stage) {
    setObjectName(QStringLiteral("legend"));
    setAccessibleName(tr(
        "Legend: arrow keys move the upper end of the range, with Shift the lower; double click resets it"));
    setToolTip(tr("Drag the ends of the range; double click for the usual one"));
    setFocusPolicy(Qt::TabFocus);
    setFixedSize(kLegendWidth, kLegendHeight);
    hide();
}

void Legend::set(const QString& title, bool grey, const std::optional<render::ColourRange>& range,
                 double per_shown) {
    per_shown_ = per_shown;
    title_ = title;
    grey_ = grey;
    names_.clear();
    key_.clear();
    if (held_ == Held::None) {
        range_ = range;
        if (range) {  // the axis shows the usual range and the own one, so that both ends can be reached
            axis_lo_ = std::min(range->lo, range->usual_lo);
            axis_hi_ = std::max(range->hi, range->usual_hi);
        }
    }
    setVisible(range.has_value());
    fit();
}

void Legend::set_names(std::vector<std::pair<double, QString>> names) {
    names_ = std::move(names);
    fit();
}

void Legend::set_key(const QString& title, std::vector<Entry> key) {
    title_ = title;
    names_.clear();
    range_.reset();
    key_ = std::move(key);
    setVisible(!key_.empty());
    fit();
}

// A ramp has a size of its own; names have that of the longest, and of their number.
void Legend::fit() {
    int width = kLegendWidth, names = 0;
    const auto add = [&](const QString& name) {
        ++names;
        width = std::max(width, fontMetrics().horizontalAdvance(name) + 40);
    };
    for (const Entry& e : key_) add(e.name);
    for (const auto& [value, name] : names_) add(name);
    width = std::min(std::max(width, names > 0 ? fontMetrics().horizontalAdvance(title_) + 20 : 0), kWidest);
    setFixedSize(width, names > 0 ? kTop + std::min(names, kMostNames) * kLine + 8 : kLegendHeight);
    update();
}

QColor Legend::colour_at(double value) const {
    const int k = static_cast<int>(std::clamp(range_->position(value), 0.0, 255.0));
    return QColor::fromRgb(grey_            ? static_cast<render::Rgb>(k << 16 | k << 8 | k)
                           : range_->change ? render::change_colour(k)
                                            : render::height_colour(k));
}

QString Legend::number(double value, int decimals) const {
    return QString::number(value / per_shown_, 'f', decimals);
}

// Each name beside its colour; those that do not fit are counted.
void Legend::paint_names(QPainter& p) const {
    std::vector<Entry> entries = key_;
    for (const auto& [value, name] : names_) entries.push_back({colour_at(value), name});
    const int all = static_cast<int>(entries.size());
    const int shown = all <= kMostNames ? all : kMostNames - 1;
    for (int i = 0; i < shown; ++i) {
        const auto& [colour, name] = entries[static_cast<std::size_t>(i)];
        const QRect line(12, kTop + i * kLine, width() - 16, kLine);
        p.fillRect(QRect(line.left(), line.top() + 3, 10, 10), colour);
        p.setPen(QColor(0xF5, 0xF2, 0xEC));
        p.drawText(line.adjusted(16, 0, 0, 0), Qt::AlignLeft | Qt::AlignVCenter,
                   fontMetrics().elidedText(name, Qt::ElideRight, line.width() - 16));
    }
    if (shown < all)
        p.drawText(QRect(12, kTop + shown * kLine, width() - 16, kLine), Qt::AlignLeft | Qt::AlignVCenter,
                   tr("and %1 more").arg(all - shown));
}

// Limits of classes, where they do not run into each other or into the numbers at the ends.
void Legend::paint_limits(QPainter& p, int decimals) const {
    const QRectF r = ramp();
    std::vector<double> taken{y_of(range_->hi), y_of(range_->lo)};
    for (const double v : range_->classes) {
        if (v <= axis_lo_ || v >= axis_hi_) continue;
        const double y = y_of(v);
        p.setPen(QPen(QColor(18, 23, 30), 1));
        p.drawLine(QPointF(r.left(), y), QPointF(r.right(), y));
        if (std::any_of(taken.begin(), taken.end(), [&](double t) { return std::fabs(t - y) < kLine - 4; }))
            continue;
        taken.push_back(y);
        p.setPen(QColor(0xD9, 0xD4, 0xC8));
        p.drawText(QRectF(r.right() + 9, y - 9, kLegendWidth, 18), Qt::AlignLeft | Qt::AlignVCenter,
                   number(v, decimals));
    }
}

QRectF Legend::ramp() const {
    return QRectF(12, kTop, kBar, kLegendHeight - kTop - kBottom);
}

double Legend::y_of(double v) const {
    const QRectF r = ramp();
    return r.bottom() - (v - axis_lo_) / (axis_hi_ - axis_lo_) * r.height();
}

double Legend::value_at(double y) const {
    const QRectF r = ramp();
    return std::clamp(axis_lo_ + (r.bottom() - y) / r.height() * (axis_hi_ - axis_lo_), axis_lo_, axis_hi_);
}

void Legend::paintEvent(QPaintEvent*) {
    if (!range_ && key_.empty()) return;
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.setBrush(QColor(18, 23, 30, 170));
    p.setPen(hasFocus() ? QPen(QColor(0xB8, 0x6B, 0xFF), 1.5) : QPen(Qt::NoPen));
    p.drawRoundedRect(QRectF(rect()).adjusted(1, 1, -1, -1), 5, 5);
    p.setPen(QColor(0xD9, 0xD4, 0xC8));
    p.drawText(QRect(8, 3, width() - 12, 20), Qt::AlignLeft | Qt::AlignVCenter,
               fontMetrics().elidedText(title_, Qt::ElideRight, width() - 14));
    if (!names_.empty() || !key_.empty()) return paint_names(p);
    const QRectF r = ramp();
    for (int y = static_cast<int>(r.top()); y < static_cast<int>(r.bottom()); ++y)
        p.fillRect(QRectF(r.left(), y, r.width(), 1), colour_at(value_at(y + 0.5)));
    const int decimals = std::clamp(
        2 - static_cast<int>(std::floor(std::log10(std::max((range_->hi - range_->lo) / per_shown_, 1e-9)))),
        0, 4);
    if (range_->classes.size() >= 2) paint_limits(p, decimals);
    for (const double v : {range_->hi, range_->lo}) {
        const double y = y_of(v);
        p.setPen(QPen(Qt::white, 2));
        p.drawLine(QPointF(r.left() - 5, y), QPointF(r.right() + 5, y));
        p.setPen(QColor(0xF5, 0xF2, 0xEC));
        p.drawText(QRectF(r.right() + 9, y - 9, kLegendWidth, 18), Qt::AlignLeft | Qt::AlignVCenter,
                   number(v, decimals));
    }
}

// Whether a place is on the colours or on one of the two ends. Elsewhere the stage below has the mouse: a
// fence may begin on the legend, and a click beside it must not move an end.
bool Legend::is_handle(const QPointF& p) const {
    if (!range_ || !names_.empty()) return false;
    const QRectF r = ramp().adjusted(-6, -6, 6, 6);
    const bool at_end =
        std::min(std::fabs(p.y() - y_of(range_->hi)), std::fabs(p.y() - y_of(range_->lo))) <= 8;
    return r.contains(p) || (at_end && p.x() >= r.left());
}

void Legend::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton || !is_handle(e->position())) return e->ignore();
    const double y = e->position().y();
    held_ = std::fabs(y - y_of(range_->hi)) <= std::fabs(y - y_of(range_->lo)) ? Held::High : Held::Low;
    high_end_ = held_ == Held::High;
}

void Legend::move_end(bool high, double v) {
    const double least = (axis_hi_ - axis_lo_) / 200;
    if (high)
        range_->hi = std::max(v, range_->lo + least);
    else
        range_->lo = std::min(v, range_->hi - least);
    update();
}

void Legend::mouseMoveEvent(QMouseEvent* e) {
    if (held_ == Held::None || !range_) return e->ignore();
    move_end(held_ == Held::High, value_at(e->position().y()));
    emit dragged(range_->lo, range_->hi);
}

void Legend::mouseReleaseEvent(QMouseEvent* e) {
    if (held_ == Held::None) return e->ignore();
    if (std::exchange(held_, Held::None) != Held::None && range_) emit changed(range_->lo, range_->hi);
}

void Legend::mouseDoubleClickEvent(QMouseEvent* e) {
    if (!is_handle(e->position())) return e->ignore();
    held_ = Held::None;
    emit reset();
}

void Legend::keyPressEvent(QKeyEvent* e) {
    const int step = e->key() == Qt::Key_Up ? 1 : e->key() == Qt::Key_Down ? -1 : 0;
    if (step == 0 || !range_ || !names_.empty()) return QWidget::keyPressEvent(e);
    const bool high = !(e->modifiers() & Qt::ShiftModifier);
    move_end(high, (high ? range_->hi : range_->lo) + step * (axis_hi_ - axis_lo_) / 50);
    emit changed(range_->lo, range_->hi);
}

}  // namespace pristine::app
