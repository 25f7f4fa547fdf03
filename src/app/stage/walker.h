// Walking through the stage by keys and mouse, and flying along a line: takes the keys and the right mouse
// button of the stage while it lasts; the left one stays with the tool in hand.

#pragma once

#include <QElapsedTimer>
#include <QObject>
#include <QPointF>
#include <QTimer>
#include <optional>
#include <set>

#include "app/look/lengths.h"
#include "render/journey.h"

class QKeyEvent;
class QLabel;

namespace pristine::app {

class Stage;

class Walker : public QObject {
    Q_OBJECT
  public:
    explicit Walker(Stage*);
    /// Stands on the floor at a place, looking where the stage looks. `lengths`: of what is shown.
    void walk(const Vec3& place, render::Walk::Floor, const Lengths& lengths);
    /// Starts to fly. `name`: of the line.
    void fly(render::Flight, const QString& name, const Lengths& lengths);
    void end();
    bool walking() const { return walk_.has_value(); }
    bool flying() const { return flight_.has_value(); }
    bool paused() const { return paused_; }
    /// From the start of the line, data unit.
    double flown() const { return flown_; }
    /// Data units a second.
    double speed() const { return speed_; }
    /// What the band over the stage says.
    QString text() const;

  signals:
    void begun_or_ended();

  protected:
    bool eventFilter(QObject*, QEvent*) override;

  private:
    void begin(const Lengths&, double speed_metres);
    bool takes(int key) const;
    bool key(const QKeyEvent&, bool down);
    bool mouse(QEvent*);
    void advance();
    void step(double seconds);
    void go_on(double by);
    void move(const render::Camera&);
    void show_text();
    int held(int forth, int back) const;

    Stage* stage_;
    QLabel* band_;
    std::optional<render::Walk> walk_;
    std::optional<render::Flight> flight_;
    QString line_name_;
    Lengths lengths_;
    double speed_ = 0, flown_ = 0;
    bool paused_ = false;
    bool own_ = false;    // the camera is moved from here
    std::set<int> keys_;  // that are held
    bool sidestep_ = false;
    std::optional<QPointF> turning_;
    QTimer timer_;
    QElapsedTimer since_;
};

}  // namespace pristine::app
