// The picture of the panorama: tools work in its pixels.

#pragma once

#include <QImage>
#include <QWidget>

#include "app/stage/guide.h"
#include "app/tools/tool.h"

namespace pristine::app {

class PanoramaView : public QWidget {
    Q_OBJECT
  public:
    explicit PanoramaView(QWidget* parent);
    void set_picture(const QImage&);
    const QImage& picture() const { return picture_; }
    /// The tool in hand; not owned, null when it does not work here.
    void set_tool(Tool*);
    bool tool_begun() const { return tool_ && tool_->begun(); }
    /// A view in which pixels are the world, so that fences come out in pixels.
    static ViewFrame flat();
    /// Drawn over the picture; `project`: where a place of the world is in it.
    void set_guides(std::vector<Guide>, Projection project);

  signals:
    void fence_closed(const Polygon& corners, Qt::KeyboardModifiers modifiers);
    /// A piece of a brush stroke; stroke_ended follows when the button is let go.
    void stroke_step(const Polygon& corners, Qt::KeyboardModifiers modifiers);
    void stroke_ended();
    void picked(const PixelPoint& at, Qt::KeyboardModifiers modifiers);
    void marked(const std::vector<Vec3>& pixels);
    /// The wheel: so many notches, with this pixel staying where it is.
    void zoom_wanted(double notches, QPointF at);
    /// Dragged by the middle or right button.
    void pulled(QPoint by);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void leaveEvent(QEvent*) override;

  private:
    void after_tool();
    QImage picture_;
    Tool* tool_ = nullptr;
    std::vector<Guide> guides_;
    Projection project_;
    Qt::KeyboardModifiers modifiers_;
    QPoint last_;  // on the screen, of a pull
    bool pulling_ = false;
};

}  // namespace pristine::app
