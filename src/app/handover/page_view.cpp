#include "app/handover/page_view.h"

#include <QPainter>
#include <QScrollBar>
#include <QWheelEvent>
#include <algorithm>

#include "core/report/paint.h"

namespace pristine::app {

namespace {
constexpr int kGap = 12, kMargin = 24;
}

QImage picture_of_page(const report::Drawing& d, int width) {
    const report::Image image = report::image_of(d, width / d.width * 25.4);
    QImage out(image.width, image.height, QImage::Format_RGB32);
    for (int y = 0; y < image.height; ++y)
        std::copy_n(image.argb.data() + static_cast<std::ptrdiff_t>(y) * image.width, image.width,
                    reinterpret_cast<std::uint32_t*>(out.scanLine(y)));
    return out;
}

PageView::PageView(QWidget* parent) : QAbstractScrollArea(parent) {
    setObjectName(QStringLiteral("reportPages"));
    setAccessibleName(tr("Pages of the report"));
    setFrameShape(QFrame::NoFrame);
    setProperty("copies_as_picture", true);
    setFocusPolicy(Qt::StrongFocus);
    setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOn);
}

void PageView::set_pages(PagesPtr pages) {
    pages_ = std::move(pages);
    drawn_.clear();
    lay_out();
    viewport()->update();
    said_ = -1;
    scrollContentsBy(0, 0);
}

int PageView::page_width() const {
    return std::max(80, static_cast<int>((viewport()->width() - 2 * kMargin) * zoom_));
}

void PageView::lay_out() {
    tops_.clear();
    int y = kGap;
    if (pages_)
        for (const report::Drawing& d : *pages_) {
            tops_.push_back(y);
            y += static_cast<int>(page_width() * d.height / d.width) + kGap;
        }
    height_ = y;
    verticalScrollBar()->setPageStep(viewport()->height());
    verticalScrollBar()->setSingleStep(40);
    verticalScrollBar()->setRange(0, std::max(0, height_ - viewport()->height()));
    const int wide = page_width() + 2 * kMargin;
    horizontalScrollBar()->setPageStep(viewport()->width());
    horizontalScrollBar()->setRange(0, std::max(0, wide - viewport()->width()));
}

QRect PageView::place_of(int page) const {
    if (page < 0 || page >= pages()) return {};
    const report::Drawing& d = (*pages_)[static_cast<std::size_t>(page)];
    const int w = page_width(), left = std::max((viewport()->width() - w) / 2, kMargin);
    return {left - horizontalScrollBar()->value(),
            tops_[static_cast<std::size_t>(page)] - verticalScrollBar()->value(), w,
            static_cast<int>(w * d.height / d.width)};
}

void PageView::show_page(int page, double mm) {
    if (page < 0 || page >= pages()) return;
    const report::Drawing& d = (*pages_)[static_cast<std::size_t>(page)];
    const int down = static_cast<int>(mm / d.width * page_width());
    verticalScrollBar()->setValue(tops_[static_cast<std::size_t>(page)] - kGap + down);
}

// The one in the middle of what is seen.
int PageView::current() const {
    const int middle = verticalScrollBar()->value() + viewport()->height() / 2;
    const auto it = std::upper_bound(tops_.begin(), tops_.end(), middle);
    return std::max(0, static_cast<int>(it - tops_.begin()) - 1);
}

void PageView::zoom(double factor) {
    const int page = current();
    zoom_ = std::clamp(zoom_ * factor, 0.25, 4.0);
    drawn_.clear();
    lay_out();
    show_page(page);
    viewport()->update();
}

void PageView::paintEvent(QPaintEvent*) {
    QPainter painter(viewport());
    painter.fillRect(viewport()->rect(), QColor(0xD9, 0xD1, 0xC3));
    const double ratio = devicePixelRatioF();
    for (int k = 0; k < pages(); ++k) {
        const QRect r = place_of(k);
        if (!r.intersects(viewport()->rect())) {
            drawn_.erase(k);
            continue;
        }
        QImage& image = drawn_[k];
        if (image.isNull()) {
            image =
                picture_of_page((*pages_)[static_cast<std::size_t>(k)], static_cast<int>(r.width() * ratio));
            image.setDevicePixelRatio(ratio);
        }
        painter.drawImage(r.topLeft(), image);
        painter.setPen(QColor(0xB5, 0xAC, 0x9B));
        painter.drawRect(r.adjusted(-1, -1, 0, 0));
    }
}

void PageView::resizeEvent(QResizeEvent*) {
    const int page = current();
    drawn_.clear();
    lay_out();
    show_page(page);
}

void PageView::scrollContentsBy(int, int) {
    viewport()->update();
    if (pages() == 0 || said_ == current()) return;
    said_ = current();
    emit current_changed(said_);
}

void PageView::wheelEvent(QWheelEvent* e) {
    if (!(e->modifiers() & Qt::ControlModifier)) return QAbstractScrollArea::wheelEvent(e);
    zoom(e->angleDelta().y() > 0 ? 1.15 : 1 / 1.15);
    e->accept();
}

}  // namespace pristine::app
