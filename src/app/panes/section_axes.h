// Over the picture of the section: heights at the left, lengths along its line at the foot.

#pragma once

#include <QWidget>
#include <vector>

#include "app/look/lengths.h"
#include "core/geometry/vec.h"

namespace pristine::app {

class Stage;

class SectionAxes : public QWidget {
    Q_OBJECT
  public:
    explicit SectionAxes(Stage*);
    /// The start of the section's line and a place along it.
    void set_line(Vec3 from, Vec3 to, const Lengths&);

    struct Tick {
        double pixel = 0;  ///< from the top, or from the left
        QString text;
    };
    /// Empty while the view is turned so that heights, or lengths along the line, have no one scale.
    std::vector<Tick> heights() const;
    std::vector<Tick> along() const;

  protected:
    void paintEvent(QPaintEvent*) override;
    bool eventFilter(QObject*, QEvent*) override;

  private:
    std::vector<Tick> ticks(double at_zero_px, double px_per_data, double first_px, double last_px,
                            double apart_px) const;
    Stage* stage_;
    Vec3 from_, to_{1, 0, 0};
    Lengths lengths_;
};

}  // namespace pristine::app
