// What contours and maps were made from, so that they know when they are out of date.
//
// A stamp is a number of what an item shows (its triangles and what of them is shown, and its unit) or of
// where a line runs. It changes when any of that does, and is the same after a project was closed and opened
// again.

#pragma once

#include <string>
#include <vector>

#include "core/site/site.h"

namespace pristine::site {

/// O(shown set / 64 + pages); remembered for the sets and clouds asked for last.
std::uint64_t stamp_of(const Item&);
std::uint64_t stamp_of(const Line&);

/// What would be made now from these; items and lines that are not there are left out.
std::vector<MadeFrom> stamps(const Site&, const std::vector<std::uint64_t>& items,
                             const std::vector<std::uint64_t>& lines);

/// Whether something of what it was made from is gone or another than it was then.
bool is_stale(const Site&, const Making&);
/// In words, for people: "Bank 2 changed"; empty when it is up to date.
std::string why_stale(const Site&, const Making&);
/// The making of an item or of a group of lines; null: nobody knows how it was made.
const Making* making_of_item(const Site&, std::uint64_t item);
const Making* making_of_group(const Site&, const std::string& group);
/// Remembers a making in place of the one that the same item or group had; those whose result is gone are
/// forgotten.
SitePtr put_making(const Site&, Making);

}  // namespace pristine::site
