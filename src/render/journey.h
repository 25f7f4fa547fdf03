// Ways through a scene at eye height: walking by hand, and flying along a line.

#pragma once

#include <functional>
#include <optional>
#include <vector>

#include "render/camera.h"

namespace pristine::render {

/// Someone who walks. Lengths in data units.
class Walk {
  public:
    /// The floor below eyes at a place, from `least_below` to `most_below` under them; none where there is
    /// none.
    using Floor =
        std::function<std::optional<double>(const Vec3& eye, double least_below, double most_below)>;

    /// `metre`: so many data units. Eyes are 1.65 m above the floor until told otherwise.
    Walk(Floor floor, double metre);

    /// Where someone stands at `place`, looking the way of the camera, level: on the floor there or the one
    /// below it; where there is none, at the place itself.
    Camera stand_at(const Camera&, const Vec3& place);
    /// So far ahead and to the right, whatever the pitch, over steps up to 0.6 m up and 1 m down; where there
    /// is no floor the height stays.
    Camera walked(Camera, double ahead, double right);
    /// Higher or lower eyes, 0.3 m to 30 m above the floor; the camera moves along.
    Camera raised(Camera, double by);
    double eye_height() const { return eye_height_; }
    /// Whether there was a floor at the last step.
    bool on_floor() const { return on_floor_; }

  private:
    Floor floor_;
    double metre_, eye_height_;
    bool on_floor_ = false;
    Vec3 asked_at_;  // where the floor was looked for last
};

/// Along a line, ends not joined unless it is closed.
class Flight {
  public:
    /// `above`: so high over the line. The eye looks at the place `look_ahead` farther along, so that corners
    /// are turned gently. Throws Error(Usage) for a line without length.
    Flight(std::vector<Vec3> line, bool closed, double above, double look_ahead);
    double length() const { return length_.back(); }
    /// The camera at a distance from the start, clamped to the line; field and focus as in `like`.
    Camera at(double distance, const Camera& like) const;

  private:
    Vec3 place(double distance) const;
    std::vector<Vec3> line_;
    std::vector<double> length_;  // up to each place
    bool closed_;
    double above_, look_ahead_;
};

}  // namespace pristine::render
