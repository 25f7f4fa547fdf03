// Recipes: rules one after the other, to be run on any cloud. Stored as JSON (docs/manual/recipes.md).
//
// Each step looks only at what the steps before it have left. A step that is bound to coordinates (a fence)
// is marked as such, so that a recipe can be told from one that fits any site.

#pragma once

#include <string>
#include <vector>

#include "core/geometry/polygon.h"
#include "core/score/limits.h"

namespace pristine::score {

struct Step {
    std::string score;  ///< id; empty: a fence
    Parameters parameters;
    Limits limits;
    bool keep = false;  ///< what lies in the limits stays, everything else goes
    std::string reason = "Noise";
    std::vector<Polygon> rings;  ///< of a fence, in plan: bound to these coordinates
    bool bound() const { return score.empty(); }
};
using Recipe = std::vector<Step>;

/// "stray[neighbours=16] >3", as on the command line. Throws Error(Usage).
Step parse_step(const std::string& text);
/// The same the other way round; of a fence "inside 2 lines".
std::string text_of(const Step&);

/// Throws Error(Format) with what is wrong and in which step.
Recipe recipe_from_json(const std::string& text);
std::string json_of(const Recipe&);

struct Removal {
    std::string rule, reason;
    ElementSet elements;
};
/// What each step takes away of the eligible points. A step that would leave nothing is refused:
/// Error(Usage). Throws Error, Cancelled.
std::vector<Removal> run(const Recipe&, const cloud::PointCloud&, ElementSet eligible,
                         Progress& = Progress::none());

}  // namespace pristine::score
