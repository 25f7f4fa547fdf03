// A table of stockpiles.

#pragma once

#include <string>
#include <vector>

#include "core/cloud/point_cloud.h"
#include "core/measure/stockpile.h"

namespace pristine::io {

struct NamedPile {
    std::string name;
    measure::Pile pile;
    std::string problem{};  ///< why it has no volume; empty: it has
};

/// Tonnes of a volume in cubic data units; `density` in tonnes a cubic metre.
double tonnes(double volume, double density, const cloud::Reference&);

/// CSV with a row for each pile and one for all; units stand in the headings, and so does that one is not
/// set. `density` 0: no column of masses. The standard deviation of all is that of independent piles.
std::string pile_table(const std::vector<NamedPile>&, measure::PileBase, double density,
                       const cloud::Reference&);

}  // namespace pristine::io
