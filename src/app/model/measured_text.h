// Figures of a surface or a mesh, and what the measure board says of them.

#pragma once

#include <QString>
#include <optional>
#include <string>
#include <vector>

#include "app/look/lengths.h"
#include "core/measure/areas.h"
#include "core/measure/board.h"
#include "core/measure/classes.h"
#include "core/measure/solid.h"

namespace pristine::app {

/// Data units; of the item as it is shown, and whole.
struct Measured : measure::Board {
    std::string later_date, earlier_date;  ///< of the difference; empty when one has none
    /// Where the noise of both is from, in words.
    QString later_noise, earlier_noise;
    double band = 0;  ///< that the difference leaves out, data unit
    std::optional<measure::AreaTable> areas;
    /// Of a scan mesh, instead of all others.
    std::optional<measure::SolidFigures> solid_now, solid_before;
};

/// Rich text. `volumes` is empty when there are none.
struct MeasuredText {
    QString state, now, volumes;
};
MeasuredText text_of_surface(const Measured&, const Lengths&);
/// Those of now beside those that were pinned, and what one is more than the other. `what`: of the pinned.
/// Empty when both have no figure in common.
QString text_beside(const Measured& now, const Measured& pinned, const QString& what, const Lengths&);
/// `density`: kg/m³; 0: not given.
MeasuredText text_of_solid(const Measured&, double density, const Lengths&);
/// A row for each class of a map of change, and their sum.
QString table_of_classes(const std::vector<measure::ClassFigures>&, const Lengths&);

}  // namespace pristine::app
