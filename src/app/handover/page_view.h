// Pages as they will be printed, one below the other: moved, made larger and smaller.

#pragma once

#include <QAbstractScrollArea>
#include <QImage>
#include <map>
#include <memory>
#include <vector>

#include "core/report/drawing.h"

namespace pristine::app {

using PagesPtr = std::shared_ptr<const std::vector<report::Drawing>>;

/// A drawing as it looks on a screen, `width` pixels wide.
QImage picture_of_page(const report::Drawing&, int width);

class PageView : public QAbstractScrollArea {
    Q_OBJECT
  public:
    explicit PageView(QWidget* parent);
    /// The place stays where it was as far as there are so many pages.
    void set_pages(PagesPtr);
    int pages() const { return pages_ ? static_cast<int>(pages_->size()) : 0; }
    /// From 0; `mm` of it stands at the upper edge.
    void show_page(int page, double mm = 0);
    int current() const;
    /// 1: the page is as wide as there is room.
    void zoom(double factor);
    /// Where a page stands in the viewport, pixels.
    QRect place_of(int page) const;

  signals:
    void current_changed(int page);

  protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void scrollContentsBy(int, int) override;
    void wheelEvent(QWheelEvent*) override;

  private:
    int page_width() const;
    void lay_out();
    PagesPtr pages_;
    std::vector<int> tops_;  // of each page, pixels from the top of all
    int height_ = 0, said_ = -1;
    double zoom_ = 1;
    std::map<int, QImage> drawn_;  // those near the viewport
};

}  // namespace pristine::app
