// Recipes that are made for a cloud, from what it says of itself.

#pragma once

#include "core/recipe/recipe.h"
#include "core/score/score.h"

namespace pristine::score {

/// Classes of a terrain cloud by the LAS standard: ground 2 as far as its own scatter goes (first_range),
/// vegetation by its height above the ground, 0.3 to 2 m low 3, to 5 m medium 4, above it high 5; noise 7
/// three times as far below the ground as its scatter goes, and strays. Later steps win. Buildings and water
/// are a person's. `per_metre`: data units in a metre. Throws Error(Usage) when no ground is found,
/// Cancelled.
Recipe terrain_classes(const cloud::PointCloud&, const ElementSet& eligible, double per_metre,
                       Progress& = Progress::none());

}  // namespace pristine::score
