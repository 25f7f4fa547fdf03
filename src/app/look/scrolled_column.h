// A column of widgets that scrolls up and down only: what stands in it is as wide as the column.

#pragma once

#include <QScrollArea>

namespace pristine::app {

class ScrolledColumn : public QScrollArea {
  public:
    explicit ScrolledColumn(QWidget* parent = nullptr) : QScrollArea(parent) {
        setFrameShape(QFrame::NoFrame);
        setWidgetResizable(true);
        setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
        setFocusPolicy(Qt::NoFocus);
    }

  protected:
    void resizeEvent(QResizeEvent* e) override {
        if (widget()) widget()->setFixedWidth(viewport()->width());
        QScrollArea::resizeEvent(e);
    }
};

}  // namespace pristine::app
