// Lines and places of the world that are drawn over a picture: how they look, in the stage, the section and
// the panorama.

#pragma once

#include <QColor>
#include <QPointF>
#include <QString>
#include <functional>
#include <optional>
#include <vector>

#include "core/geometry/vec.h"

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

/// Draws all of them: lines first, then words over them, none over another.
void paint_guides(QPainter&, const std::vector<Guide>&, const Projection&);

}  // namespace pristine::app
