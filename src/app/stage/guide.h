// Lines and places of the world that are drawn over a picture: how they look, in the stage, the section and
// the panorama.

#pragma once

#include <QColor>
#include <QImage>
#include <QPointF>
#include <QString>
#include <functional>
#include <optional>
#include <vector>

#include "core/geometry/view_frame.h"

class QPainter;

namespace pristine::app {

struct Guide {
    std::vector<Vec3> points;
    QString label{};  ///< written at its middle, along it where it is long enough
    bool thick = false;
    QColor colour{};                ///< invalid: that of lines
    bool level_label = false;       ///< the label stands level, and is always written
    bool places = false;            ///< its places are dots
    std::vector<QString> beside{};  ///< written beside its places: one for each, or none
    bool snaps = false;             ///< tools that measure are drawn to it
};

/// Where a place of the world is in the picture; none where it is not seen.
using Projection = std::function<std::optional<QPointF>(const Vec3&)>;

/// Draws all of them: lines first, then words over them, none over another. Where lines fill the picture they
/// are drawn thin. `rough`: thin lines without words.
void paint_guides(QPainter&, const std::vector<Guide>&, const Projection&, bool rough = false);

/// How a view puts them into its picture: nothing that lies behind the eye.
Projection projection_of(const ViewFrame&);

/// Guides of a view as a picture that is kept until they or the view change: a surface may have contours of a
/// hundred thousand vertices.
class GuideLayer {
  public:
    void set(std::vector<Guide>);
    const std::vector<Guide>& guides() const { return guides_; }
    /// Over all of the view. `moving`: more views follow at once; many lines are drawn rough then.
    void paint(QPainter&, const ViewFrame&, bool moving);

  private:
    bool holds(const ViewFrame&, bool rough, double pixel_ratio) const;
    std::vector<Guide> guides_;
    std::size_t vertices_ = 0;
    QImage picture_;  // null: to be drawn
    ViewFrame view_;
    bool rough_ = false;
};

}  // namespace pristine::app
