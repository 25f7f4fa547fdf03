// The panorama: a scan as its scanner saw it, to select in.

#pragma once

#include <QImage>
#include <QWidget>
#include <memory>

#include "app/model/latest_job.h"
#include "app/tools/tool.h"
#include "core/select/panorama.h"
#include "core/site/site.h"

class QComboBox;
class QScrollArea;

namespace pristine::app {

class Jobs;

/// The picture itself: fence tools work in its pixels.
class PanoramaView : public QWidget {
    Q_OBJECT
  public:
    explicit PanoramaView(QWidget* parent);
    void set_picture(const QImage&);
    const QImage& picture() const { return picture_; }
    void set_tool(Tool*);
    /// A view in which pixels are the world, so that fences come out in pixels.
    static ViewFrame flat();

  signals:
    void fence_closed(const Polygon& corners, Qt::KeyboardModifiers modifiers);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

  private:
    void after_tool();
    QImage picture_;
    Tool* tool_ = nullptr;
    Qt::KeyboardModifiers modifiers_;
};

class PanoramaPane : public QWidget {
    Q_OBJECT
  public:
    PanoramaPane(Jobs*, QWidget* parent);
    PanoramaView& view() { return *view_; }
    bool is_open() const { return open_; }
    const select::PanoramaFrame& frame() const { return frame_; }
    /// What is seen; null while it is drawn.
    std::shared_ptr<const select::RangePicture> seen() const { return seen_; }
    /// Opens it for the item in work. Without a station of its own, `here` is taken for one.
    /// `ahead_deg`: the azimuth that comes to its middle.
    /// `station`: which one of the item is shown first.
    void open(const site::SitePtr&, Vec3 here, double ahead_deg, std::size_t station = 0);
    void close_pane();
    void refresh(const site::SitePtr&);

  private:
    void draw();
    void colour();
    PanoramaView* view_;
    QComboBox *station_, *mode_;
    bool open_ = false;
    site::SitePtr site_;
    Vec3 here_;
    double ahead_deg_ = 0;
    bool centred_ = false;
    QScrollArea* scroll_;
    select::PanoramaFrame frame_;
    std::shared_ptr<const select::RangePicture> seen_;
    site::SetPtr drawn_absent_;
    const cloud::PointCloud* drawn_cloud_ = nullptr;
    LatestJob latest_;
};

}  // namespace pristine::app
