// What floats over the top of the stage: the item in work, and the views along the axes.

#pragma once

#include <utility>
#include <vector>

#include "app/window/part.h"
#include "render/camera.h"

class QPushButton;
class QToolButton;

namespace pristine::app {

class ViewMarks;

class StageCorner : public Part {
    Q_OBJECT
  public:
    explicit StageCorner(Desk&);
    /// The item in work may be another one, or out of date.
    void refresh();

  protected:
    bool eventFilter(QObject*, QEvent*) override;

  private:
    void add_views();
    void place();
    void choose_item();
    void light_side();
    QPushButton* working_on_;
    QWidget* view_strip_;
    ViewMarks* marks_;
    std::vector<std::pair<render::AxisView, QToolButton*>> sides_;
};

}  // namespace pristine::app
