// Items that are scans of one file: parted, and joined again, with all that was decided about them.

#pragma once

#include "core/io/scans.h"
#include "core/site/site.h"

namespace pristine::site {

/// An item for each scan in place of one that holds them all, under a heading with its name. Decisions,
/// guards and kept selections keep their numbers: one decision in several items. Throws Error(Usage) when
/// the item is gone or locked. O(n) for each set.
SitePtr part_scans(const Site&, std::uint64_t item, const std::vector<io::ScanPart>&);

/// One item in place of several, whose scans `cloud` holds in this order (io::joined_scans). Entries of one
/// number become one again, unless one of them is lifted and the other not. Throws Error(Usage) when one of
/// them is gone or locked. O(n) for each set.
SitePtr join_scans(const Site&, const Reach& items, const std::shared_ptr<const cloud::PointCloud>& cloud,
                   const std::string& name);

}  // namespace pristine::site
