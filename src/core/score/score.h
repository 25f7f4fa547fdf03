// Scores: every rule is a number for each point, with a unit; a range of it is what the rule takes.
//
// The registry is all that the work card, the command line, recipes, the manual and the tests know of a rule:
// a new one is a file that adds an entry, and a test. Scores are deterministic and do not depend on the
// number of workers.

#pragma once

#include <cmath>
#include <functional>
#include <map>
#include <string>
#include <vector>

#include "core/base/progress.h"
#include "core/cloud/point_cloud.h"
#include "core/elements/element_set.h"

namespace pristine::score {

/// A number that a score can be tuned by.
struct Parameter {
    std::string name;   ///< in recipes and on the command line
    std::string title;  ///< "Neighbours"
    std::string unit;   ///< as Score::unit
    std::string help;   ///< one sentence
    double usual = 0, least = 0, most = 0;
    bool whole = false;  ///< only whole numbers
    int digits = 2;      ///< behind the mark, where a plain number is typed
};
using Parameters = std::map<std::string, double>;

/// Not a number: the point has no value (it was not looked at, or nothing can be said).
struct Column {
    double base = 0;  ///< added to each value, so that large numbers keep their digits
    PagedArray<float> values;
    /// Who says so, where somebody does: numbers into `names`. Empty: nobody.
    PagedArray<std::uint16_t> by{};
    std::vector<std::string> names{};
    /// What a person should know of how the values came about; one sentence. Empty: nothing.
    std::string note{};
};

/// An item shown beside the one that a score is asked for.
struct OtherScan {
    const cloud::PointCloud* cloud = nullptr;
    const ElementSet* members = nullptr;
};

/// What a score is asked for.
struct Input {
    const cloud::PointCloud& cloud;
    const ElementSet& eligible;  ///< only these points get a value, and only they count for others
    /// What scores that compare look at; null: nothing.
    const cloud::PointCloud* other = nullptr;
    const ElementSet* other_members = nullptr;
    const std::vector<Vec3>* line = nullptr;  ///< a line of the site, for scores that go by one
    std::vector<OtherScan> beside{};          ///< other scans of the site, for scores that look from there
    std::string column{};                     ///< name of a column of the file, for the score that reads one
};

/// A number for each point or triangle: what it says, what it needs, how it is computed.
struct Score {
    std::string id, title;
    std::string unit;  ///< "length": the unit of the data; "area": its square; "angle": degrees; "times";
                       ///< "points"; "": a plain number
    std::string high, low;  ///< what a high value means, and a low one
    std::string wrong;      ///< when not to trust it
    std::vector<Parameter> parameters;
    /// Why it cannot be had for this input; empty: it can. May be null.
    std::function<std::string(const Input&)> why_not;
    /// Throws Error, Cancelled. Progress over the present stretch.
    std::function<Column(const Input&, const Parameters&, Progress&)> compute;
    bool logarithmic = false;  ///< values are positive and spread over orders of magnitude
    std::string reason{};     ///< of a value above 0, in words; %1 is the value with its unit, %2 who says so
    bool needs_line = false;  ///< Input::line must be given
    std::string line_title{};   ///< what that line is: "Line inside the tunnel"
    bool needs_other = false;   ///< Input::other must be given
    bool looks_beside = false;  ///< Input::beside counts
    bool needs_column = false;  ///< Input::column must be given
    enum class Applies : std::uint8_t { Points, Triangles, Both } applies = Applies::Points;
    /// What is greater is what the rule is for; lengths in metres. Not a number: that depends on the cloud.
    double begins = NAN;
};

/// All of them, in the order in which they are offered.
const std::vector<Score>& scores();
/// Throws Error(Usage) with a list of what there is.
const Score& find(const std::string& id);
/// With the usual value of each parameter that is not given. Throws Error(Usage) for an unknown name or a
/// value outside its limits. Usual lengths and limits are metres; per_metre: data units in a metre.
Parameters complete(const Score&, const Parameters& given, double per_metre = 1);
/// Completes the parameters, asks why_not, and computes.
Column compute(const Score&, const Input&, const Parameters& given, Progress& = Progress::none());

/// Pages of a column, each made on its own: value(page, index in page) for members, not-a-number for others.
PagedArray<float> for_members(const Input&, Progress&,
                              const std::function<void(std::size_t page, std::vector<float>& values)>& fill);

}  // namespace pristine::score
