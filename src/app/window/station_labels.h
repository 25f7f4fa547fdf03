// Names of stations over the stage, at the places where the scanners stood; each can be pressed.

#pragma once

#include <QWidget>
#include <vector>

#include "core/site/site.h"

class QToolButton;

namespace pristine::app {

class Stage;

/// A station of an item.
struct StationOf {
    std::uint64_t item = 0;
    std::size_t number = 0;
    std::string name;
    Vec3 position;
    bool operator==(const StationOf&) const = default;
};

class StationLabels : public QObject {
    Q_OBJECT
  public:
    explicit StationLabels(Stage*);
    void show_stations(std::vector<StationOf>);

  signals:
    void pressed(const StationOf& station, const QPoint& on_screen);

  protected:
    bool eventFilter(QObject*, QEvent*) override;

  private:
    void place();
    Stage* stage_;
    std::vector<StationOf> stations_;
    std::vector<QToolButton*> labels_;  // one for each
};

}  // namespace pristine::app
