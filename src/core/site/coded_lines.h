// Lines from the codes of a survey list: points with the same code, one after the other, are a line.
//
// A code is a word ("TOE"), with a number where several lines of its kind run at a time ("TOE2"), and with a
// mark behind a blank, a dot or a dash where a line starts, ends or closes ("TOE S", "TOE2.E"). Points follow
// each other in the order of the file.

#pragma once

#include <string>
#include <vector>

#include "core/site/site.h"

namespace pristine::site {

/// A code of a list, and how many points have it.
struct CodeCount {
    std::string code;  ///< without number and mark
    std::uint64_t points = 0;
};

/// The codes of a cloud's column "code", most frequent first; empty when it has none. O(n).
std::vector<CodeCount> codes_of(const cloud::PointCloud&);

/// A table that knows all of these codes: roles that were given before stay; others are proposed by the word.
CodeTable proposed(const CodeTable& known, const std::vector<CodeCount>&);

/// The lines of an item's points: those whose code has the role of a breakline or boundary; removed points do
/// not count. Lines of one point are left out and counted. Throws Error(Usage) when there is no column
/// "code".
struct CodedLines {
    std::vector<Line> lines;
    std::uint64_t single_points = 0;
};
CodedLines lines_from_codes(const Item&, const CodeTable&);

/// Keeps the table with the site.
SitePtr set_codes(const Site&, const CodeTable&);

}  // namespace pristine::site
