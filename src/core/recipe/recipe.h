// Recipes: rules one after the other, to be run on any cloud. Stored as JSON (docs/manual/recipes.md).
//
// Each step looks only at what the steps before it have left. A step that is bound to coordinates (a fence, a
// rule along a line) is marked as such, so that a recipe can be told from one that fits any site. What a rule
// compares with is named, and looked for where the recipe runs.

#pragma once

#include <cstdint>
#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "core/geometry/polygon.h"
#include "core/score/limits.h"

namespace pristine::score {

/// One rule of a recipe, or a fence.
struct Step {
    std::string score;  ///< id; empty: a fence
    Parameters parameters;
    Limits limits;
    bool keep = false;  ///< what lies in the limits stays, everything else goes
    std::string reason = "Noise";
    /// What is taken is given this class, and stays; none: it is taken out.
    std::optional<std::uint8_t> to_class{};
    std::vector<Polygon> rings;  ///< of a fence, in plan: bound to these coordinates
    /// Name of the item that the rule compares with, of the line it goes by, or of the column it reads.
    std::string with{};
    /// Of a column of words: those that are taken, or with Limits::outside all others. Limits have no ends
    /// then.
    std::vector<std::string> words{};
    std::vector<Vec3> line{};  ///< that line: bound to these coordinates
    bool fence() const { return score.empty(); }
    bool bound() const { return fence() || !line.empty(); }
    bool operator==(const Step&) const = default;
};
using Recipe = std::vector<Step>;

/// What stands round a cloud on which a recipe runs. Each may be null or empty: there is none.
struct ScanContext {
    /// By the name of Step::with; both are null when there is none of that name.
    std::function<OtherScan(const std::string&)> other{};
    std::function<const std::vector<Vec3>*(const std::string&)> line{};
    std::vector<OtherScan> beside{};  ///< other scans, for rules that look from there
};

/// "stray[neighbours=16] >3", as on the command line; with a name: "other[reach=1] "Bank in May" >0.2"; with
/// words: "column "code" =TOE,BANK" or "column "code" !="TOE, east""; to give a class instead of removing:
/// "height 2..5 -> class 4". Throws Error(Usage).
Step parse_step(const std::string& text);
/// The same the other way round; of a fence "inside 2 lines".
std::string text_of(const Step&);

/// Throws Error(Format) with what is wrong and in which step.
Recipe recipe_from_json(const std::string& text);
std::string json_of(const Recipe&);
/// One step as it stands in a recipe.
std::string json_of_step(const Step&);
/// Throws Error(Format).
Step step_from_json(const std::string& text);

/// What the step takes of a column that its rule has computed: values in its limits, or its words.
ElementSet within(const Step&, const Column&, const cloud::PointCloud&, const ElementSet& eligible);

/// What one step took.
struct Removal {
    std::string rule, reason;
    Step step;
    ElementSet elements;
};
/// What each step takes of the eligible points that no step before it has removed. What a step gives a class
/// stays for those after it; of several classes the last one holds. A step that would leave nothing, or that
/// compares with what is not there, is refused: Error(Usage). Throws Error, Cancelled.
std::vector<Removal> run(const Recipe&, const cloud::PointCloud&, ElementSet eligible,
                         Progress& = Progress::none(), const ScanContext& = {});

}  // namespace pristine::score
