// A score over several scans at once: one histogram, one range for all of them.

#pragma once

#include <cstdint>
#include <map>
#include <memory>
#include <string>
#include <vector>

#include "core/score/limits.h"
#include "core/score/score.h"

namespace pristine::score {

/// A scan that is judged, or looked from.
struct Scan {
    std::uint64_t id = 0;  ///< the caller's; comes back with the values
    std::string name;      ///< a scan of one station is called by it where a value names who says so
    std::shared_ptr<const cloud::PointCloud> cloud;
    std::shared_ptr<const ElementSet> eligible;
};

/// What is computed over several scans.
struct OverScansRequest {
    const Score* score = nullptr;
    Parameters parameters;
    Scan first;                 ///< must have values: why it cannot is an error
    std::vector<Scan> others;   ///< looked from, by scores that look beside
    bool judge_others = false;  ///< they get values too
    OtherScan compared{};       ///< Input::other
    std::vector<Vec3> line{};   ///< Input::line; empty: none
    std::string column{};       ///< Input::column
    double begins = NAN;        ///< where the rule begins, data unit (profile)
};

/// A scan with its values.
struct ScoredScan {
    Scan scan;
    Column column;
};

/// One column a scan, in the order of the request.
struct OverScans {
    Column first;
    std::vector<ScoredScan> others;  ///< those that can have values; the rest are left out without a word
    Profile profile;                 ///< of all values together
};

/// Throws Error(Usage) when the score cannot be had for the first scan, Cancelled.
OverScans over_scans(const OverScansRequest&, Progress& = Progress::none());

/// How many points of a scored column of words have each word; words of no point are left out.
std::map<std::string, std::uint64_t> word_counts(const Column&, const cloud::PointCloud&,
                                                 const std::string& column);

/// Names of the columns of a file that points can be judged by: all but the coordinates, which have rules of
/// their own. Columns of words come first, "code" before all others: who has codes means them.
std::vector<std::string> columns_to_judge_by(const cloud::RecordLayout&);
/// The scores for points or for triangles, in the order in which they are offered.
std::vector<const Score*> scores_for(Score::Applies);

}  // namespace pristine::score
