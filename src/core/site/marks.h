// Marks of a site: put in, changed, taken off, and whether what they were measured over is still the same.

#pragma once

#include <string>

#include "core/site/site.h"

namespace pristine::site {

/// Adds a mark (id 0) or changes one. Throws Error(Usage) when its kind cannot have these places
/// (mark_figures), or when the mark is not there any more.
SitePtr put_mark(const Site&, Mark);
SitePtr drop_mark(const Site&, std::uint64_t id);
/// All at once; with no marks nothing changes.
SitePtr show_marks(const Site&, bool visible);
/// Why a height above an item is out of date, for people: "Bank 2 changed"; empty when it is not, and for
/// kinds that rest on nothing but their places.
std::string why_stale(const Site&, const Mark&);

}  // namespace pristine::site
