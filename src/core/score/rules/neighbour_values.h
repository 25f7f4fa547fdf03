// What scores that come from neighbours share: values by point of the index, put where the elements are.

#pragma once

#include "core/cloud/neighbours.h"
#include "core/score/score.h"

namespace pristine::score {

inline Parameter neighbours_parameter(double usual) {
    return {"neighbours", "Neighbours", "points", "How many nearest points are looked at", usual, 1,
            64,           true};
}

/// A column from one value for each point of an index.
Column in_place(const Input&, const cloud::NeighbourIndex&, const SpillVector<float>& values);

}  // namespace pristine::score
