// In the corner of the stage: which way north is, how long things are, and what the view is called.

#pragma once

#include <QWidget>
#include <optional>

#include "app/look/lengths.h"

namespace pristine::app {

class Stage;

class ViewMarks : public QWidget {
    Q_OBJECT
  public:
    explicit ViewMarks(Stage*);
    void set_lengths(const Lengths&);

    /// A bar of a round length: as long as fits between 50 and 125 pixels; none where nothing has a scale.
    struct Bar {
        double length = 0;  ///< shown unit
        double pixels = 0;
        QString text;
    };
    std::optional<Bar> bar() const;
    /// "From above · parallel".
    QString view_name() const;
    /// North on the screen, as long as it is seen of one: (0, -1) is up; (0, 0) right ahead or behind.
    QPointF north() const;

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    Stage* stage_;
    Lengths lengths_;
};

}  // namespace pristine::app
