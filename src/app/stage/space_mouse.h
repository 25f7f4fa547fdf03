// A mouse with six axes that turns and moves the view, through the daemon that serves it (libspnav).

#pragma once

#include <QObject>
#include <functional>
#include <optional>

#include "render/camera.h"

class QSocketNotifier;

namespace pristine::app {

/// How far the cap is out of its rest, 1 being all the way; to the right, up and towards the person; turned
/// about these axes, counter-clockwise seen from their ends.
struct SpaceMotion {
    double right = 0, up = 0, near = 0, pitch = 0, yaw = 0, roll = 0;
    double seconds = 0;  ///< since the motion before
};

class SpaceMouse : public QObject {
    Q_OBJECT
  public:
    struct Event {
        std::optional<SpaceMotion> motion;
        std::optional<int> button;  ///< that was pressed
    };
    /// Where events come from: `open` says a file that can be waited for, -1 for none; `poll` the next event
    /// that is there.
    struct Source {
        std::function<int()> open;
        std::function<std::optional<Event>()> poll;
        std::function<void()> close;
    };
    /// The daemon of this machine.
    static Source daemon();

    explicit SpaceMouse(Source, QObject* parent = nullptr);
    ~SpaceMouse() override;
    /// Whether something serves such a mouse.
    bool is_there() const { return notifier_ != nullptr; }

  signals:
    void moved(const SpaceMotion&);
    void pressed(int button);

  private:
    void read();
    Source source_;
    QSocketNotifier* notifier_ = nullptr;
};

/// The camera after a motion. What is looked at is in the hand (or, with `viewer`, the person moves): all the
/// way to a side moves it by the height of the view in a second, turns it by a quarter, or comes nearer by a
/// factor of e; `speed` times that.
render::Camera after_motion(render::Camera, const SpaceMotion&, double speed, bool viewer, const Vec3& centre,
                            double depth, int viewport_height);

}  // namespace pristine::app
