// The spread of the values of a score, with a range that is dragged.

#pragma once

#include <QWidget>

#include "core/score/limits.h"

namespace pristine::app {

/// Bars of a score, their heights by the logarithm of the count, with two ends that are dragged.
class RangeHistogram : public QWidget {
    Q_OBJECT
  public:
    explicit RangeHistogram(QWidget* parent = nullptr);
    void set(const score::Profile&);
    void set_range(double lo, double hi, bool outside);
    /// Pixel of a value, for the mouse.
    double x_of(double value) const;
    double value_at(double x) const;

  signals:
    void dragged(double lo, double hi);
    void let_go();

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

  private:
    void move_end(bool high, double value);
    score::Profile profile_;
    double lo_ = 0, hi_ = 0;
    bool outside_ = false, dragging_ = false, high_ = false;
};

}  // namespace pristine::app
