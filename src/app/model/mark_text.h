// Marks in the words of the reader.

#pragma once

#include <QString>

#include "app/look/lengths.h"
#include "core/geometry/mark.h"
#include "core/site/site.h"

namespace pristine::app {

QString title_of(MarkKind);
/// What is to be done in the stage to draw one.
QString how_to_draw(MarkKind);
/// "Distance in plan", "Height difference", …
QString title_of_figure(const char* id);
QString text_of(const MarkFigure&, const Lengths&);
/// The one figure that stands behind the name: of a point its height.
QString main_figure(const site::Mark&, const Lengths&);
/// All figures, a line each.
QString all_figures(const site::Mark&, const Lengths&);

}  // namespace pristine::app
