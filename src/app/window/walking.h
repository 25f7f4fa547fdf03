// Walking through what is shown, and flying along its lines.

#pragma once

#include "app/window/part.h"
#include "core/geometry/vec.h"

namespace pristine::app {

class Walker;

class Walking : public Part {
    Q_OBJECT
  public:
    explicit Walking(Desk&);
    void add_commands() override;
    void fly_along(std::uint64_t line);
    const Walker& walker() const { return *walker_; }

  private:
    void walk();
    void fill_lines(QMenu*);
    std::optional<double> floor_below(const Vec3& eye, double least_below, double most_below) const;
    Walker* walker_;
    PixelPoint pointer_;  // in the stage
};

}  // namespace pristine::app
