#include "app/panes/cross_section_sheet.h"

#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>

#include "app/look/theme.h"
#include "app/panes/curve_colours.h"
#include "core/base/figure.h"
#include "render/scene.h"

namespace pristine::app {
namespace {

constexpr int kLeft = 86, kRight = 20, kHead = 20, kFoot = 22;
constexpr double kLowest = 40;  // of the drawing of a row, pixels

// The height of a stretch at an offset; none beside it.
std::optional<double> height_at(const std::vector<measure::SectionStretch>& stretches, double offset) {
    for (const measure::SectionStretch& s : stretches)
        for (std::size_t i = 0; i + 1 < s.size(); ++i)
            if (s[i].offset <= offset && offset <= s[i + 1].offset) {
                const double w = s[i + 1].offset - s[i].offset;
                const double t = w > 0 ? (offset - s[i].offset) / w : 0;
                return s[i].height + t * (s[i + 1].height - s[i].height);
            }
    return std::nullopt;
}

}  // namespace

CrossSectionSheet::CrossSectionSheet(QWidget* parent) : QWidget(parent) {
    setObjectName(QStringLiteral("crossSheet"));
    setAccessibleName(tr("The sections, first at the top"));
    setMouseTracking(true);
    setAutoFillBackground(true);
    setBackgroundRole(QPalette::Base);
}

void CrossSectionSheet::show_sections(const measure::Sections& sections,
                                      const std::vector<std::string>& surfaces, const Lengths& lengths) {
    sections_ = sections;
    surfaces_ = surfaces;
    lengths_ = lengths;
    highlighted_ = SIZE_MAX;
    half_width_ = 1e-9;
    for (const measure::CrossSection& s : sections_.all)
        half_width_ = std::max(half_width_, 0.5 * std::hypot(s.right.x - s.left.x, s.right.y - s.left.y));
    lay_out();
}

void CrossSectionSheet::set_exaggeration(double times) {
    exaggeration_ = times;
    lay_out();
}

void CrossSectionSheet::set_highlighted(std::size_t section) {
    highlighted_ = section;
    update();
}

double CrossSectionSheet::scale() const {
    return std::max(50, width() - kLeft - kRight) / (2 * half_width_);
}

double CrossSectionSheet::x_of(double offset) const {
    return kLeft + (offset + half_width_) * scale();
}

double CrossSectionSheet::y_of(const Row& row, double height) const {
    return row.top + row.height - kFoot - (height - row.lo) * scale() * exaggeration_;
}

void CrossSectionSheet::lay_out() {
    rows_.clear();
    double top = 6;
    for (const measure::CrossSection& s : sections_.all) {
        Row row;
        row.top = top;
        row.lo = INFINITY, row.hi = -INFINITY;
        for (const auto& surface : s.surfaces)
            for (const auto& stretch : surface)
                for (const measure::OffsetHeight& p : stretch)
                    row.lo = std::min(row.lo, p.height), row.hi = std::max(row.hi, p.height);
        if (!(row.lo <= row.hi)) row.lo = row.hi = 0;
        const double drawn = std::clamp((row.hi - row.lo) * scale() * exaggeration_, kLowest, 2000.0);
        row.height = kHead + drawn + kFoot;
        top += row.height + 8;
        rows_.push_back(row);
    }
    setMinimumHeight(static_cast<int>(std::min(top, 16'000'000.0)) + 6);
    update();
}

void CrossSectionSheet::resizeEvent(QResizeEvent* e) {
    if (e->size().width() != e->oldSize().width()) lay_out();
}

QRect CrossSectionSheet::place_of(std::size_t section) const {
    if (section >= rows_.size()) return {};
    return {0, static_cast<int>(rows_[section].top), width(), static_cast<int>(rows_[section].height)};
}

std::optional<std::size_t> CrossSectionSheet::row_at(int y) const {
    const auto after =
        std::upper_bound(rows_.begin(), rows_.end(), y, [](int at, const Row& r) { return at < r.top; });
    if (after == rows_.begin()) return std::nullopt;
    const auto k = static_cast<std::size_t>(after - rows_.begin()) - 1;
    return y < rows_[k].top + rows_[k].height ? std::optional(k) : std::nullopt;
}

void CrossSectionSheet::paintEvent(QPaintEvent* e) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setFont(QFont(font().family(), 8));
    for (std::size_t k = 0; k < rows_.size(); ++k)
        if (place_of(k).intersects(e->rect())) paint_row(painter, k);
}

void CrossSectionSheet::paint_grid(QPainter& painter, const Row& row) const {
    const double unit = lengths_.data(1);  // of what is shown, in data units
    const double across = round_step(100 / scale() / unit) * unit,
                 up = round_step(30 / (scale() * exaggeration_) / unit) * unit;
    const int digits = lengths_.decimals();
    painter.setPen(QPen(token::paper_deep, 1));
    const double bottom = row.top + row.height - kFoot, top = row.top + kHead;
    if (across > 0)
        for (double o = std::ceil(-half_width_ / across) * across; o <= half_width_; o += across) {
            painter.setPen(QPen(std::fabs(o) < across / 2 ? token::ink_soft : token::line, 1));
            painter.drawLine(QPointF(x_of(o), top), QPointF(x_of(o), bottom));
            painter.setPen(token::ink_soft);
            painter.drawText(QRectF(x_of(o) - 40, bottom + 2, 80, 14), Qt::AlignHCenter,
                             lengths_.number(o, across / unit < 1 ? 0 : -digits));
        }
    if (up > 0)
        for (double h = std::ceil(row.lo / up) * up; h <= row.hi + up / 1e6; h += up) {
            const double y = y_of(row, h);
            if (y < top) break;
            painter.setPen(QPen(token::line, 1));
            painter.drawLine(QPointF(kLeft, y), QPointF(x_of(half_width_), y));
            painter.setPen(token::ink_soft);
            painter.drawText(QRectF(0, y - 7, kLeft - 6, 14), Qt::AlignRight | Qt::AlignVCenter,
                             lengths_.number(h));
        }
}

// What was added and what was taken away, in the colours of a map of change.
void CrossSectionSheet::paint_between(QPainter& painter, const Row& row,
                                      const measure::CrossSection& s) const {
    if (s.surfaces.size() < 2) return;
    const auto &first = s.surfaces.front(), &last = s.surfaces.back();
    const double step = std::max(1 / scale(), half_width_ / 2000);
    for (double o = -half_width_; o < half_width_; o += step) {
        const auto a = height_at(first, o + step / 2), b = height_at(last, o + step / 2);
        if (!a || !b) continue;
        QColor colour = QColor::fromRgb(render::change_colour(*b > *a ? 235 : 20));
        colour.setAlpha(110);
        const double y0 = y_of(row, *a), y1 = y_of(row, *b);
        painter.fillRect(QRectF(x_of(o), std::min(y0, y1), step * scale(), std::fabs(y1 - y0)), colour);
    }
}

void CrossSectionSheet::paint_row(QPainter& painter, std::size_t k) {
    const Row& row = rows_[k];
    const measure::CrossSection& s = sections_.all[k];
    if (k == highlighted_) painter.fillRect(place_of(k), token::paper_deep);
    paint_grid(painter, row);
    painter.setPen(token::ink);
    QString title = tr("at %1").arg(lengths_.number(s.chainage) + lengths_.suffix());
    if (s.surfaces.size() > 1)
        title += tr(":  cut %1, fill %2").arg(lengths_.plain_area(s.cut), lengths_.plain_area(s.fill));
    painter.drawText(QRectF(8, row.top + 2, width() - 16, kHead - 4), Qt::AlignLeft | Qt::AlignVCenter,
                     title);
    painter.save();
    painter.setClipRect(
        QRectF(kLeft, row.top + kHead - 3, x_of(half_width_) - kLeft, row.height - kHead - kFoot + 6));
    painter.setRenderHint(QPainter::Antialiasing, false);
    paint_between(painter, row, s);
    painter.setRenderHint(QPainter::Antialiasing);
    for (std::size_t i = 0; i < s.surfaces.size(); ++i) {
        painter.setPen(QPen(curve_colour(i), 1.8));
        for (const measure::SectionStretch& stretch : s.surfaces[i]) {
            QPolygonF line;
            for (const measure::OffsetHeight& p : stretch)
                line << QPointF(x_of(p.offset), y_of(row, p.height));
            painter.drawPolyline(line);
        }
    }
    painter.restore();
}

QImage CrossSectionSheet::picture() {
    // Taller than a picture can be: the first rows.
    QImage image(width(), std::min(minimumHeight(), 30'000), QImage::Format_RGB32);
    image.fill(palette().base().color());
    QPainter painter(&image);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setFont(QFont(font().family(), 8));
    for (std::size_t k = 0; k < rows_.size() && place_of(k).bottom() < image.height(); ++k)
        paint_row(painter, k);
    return image;
}

QString CrossSectionSheet::told_at(const QPoint& at) const {
    const auto k = row_at(at.y());
    if (!k || at.x() < kLeft) return {};
    const double offset = (at.x() - kLeft) / scale() - half_width_;
    if (std::fabs(offset) > half_width_) return {};
    QString text = tr("at %1, %2 %3")
                       .arg(lengths_.number(sections_.all[*k].chainage) + lengths_.suffix(),
                            lengths_.number(std::fabs(offset)) + lengths_.suffix(),
                            offset < 0 ? tr("left") : tr("right"));
    for (std::size_t i = 0; i < sections_.all[*k].surfaces.size(); ++i)
        if (const auto h = height_at(sections_.all[*k].surfaces[i], offset))
            text += tr("; %1 %2").arg(QString::fromStdString(surfaces_.at(i)),
                                      lengths_.number(*h, 1) + lengths_.suffix());
    return text;
}

void CrossSectionSheet::mouseMoveEvent(QMouseEvent* e) {
    emit pointed(told_at(e->position().toPoint()));
}

void CrossSectionSheet::leaveEvent(QEvent*) {
    emit pointed({});
}

void CrossSectionSheet::mousePressEvent(QMouseEvent* e) {
    if (const auto k = row_at(e->position().toPoint().y())) emit chosen(*k);
}

}  // namespace pristine::app
