// What floats over the top of the stage: the item in work, and the views along the axes.

#pragma once

#include "app/window/part.h"

class QPushButton;

namespace pristine::app {

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
    QPushButton* working_on_;
    QWidget* view_strip_;
};

}  // namespace pristine::app
