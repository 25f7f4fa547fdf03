// Classes of the points of an item: those of its file, and those that decisions gave. Like a removal, such a
// decision is an entry of the ledger; the last active one of an element holds, and lifting it gives the class
// back that was there before.

#pragma once

#include <map>

#include "core/base/progress.h"
#include "core/site/site.h"

namespace pristine::site {

/// What active entries gave; the sets are disjoint, and none is empty.
struct DecidedClasses {
    std::map<std::uint8_t, ElementSet> sets;
};
/// Null: no active entry gives a class. O(entries * pages).
std::shared_ptr<const DecidedClasses> decided_by(const std::vector<LedgerEntry>&);

/// 0, never classified, where neither file nor decision says anything.
std::uint8_t class_of(const Item&, std::uint64_t element);
/// Elements of a class, whatever is out or hidden. O(pages); the first time for a cloud O(n).
ElementSet of_class(const Item&, std::uint8_t code);
/// Elements by class of what belongs to the item and is not removed; no class with none.
std::map<std::uint8_t, std::uint64_t> class_counts(const Item&);
/// One byte for each record in the order of the file; null: no decision gave a class.
std::shared_ptr<const std::vector<std::uint8_t>> classes_by_record(const Item&, Progress& = Progress::none());

/// Gives a class to what is selected, as one decision. Throws Error(Usage) when nothing is selected, when
/// what is selected is out, or for triangles.
SitePtr class_selection(const Site&, std::uint8_t code, const Decision&);
/// The same for what of these sets may be touched; Error(Empty) when that is nothing.
SitePtr class_parts(const Site&, const Parts&, std::uint8_t code, const Decision&);
/// Shows or hides a class of an item. What is hidden is safe from every tool. Throws Error(Usage).
SitePtr show_class(const Site&, std::uint64_t item, std::uint8_t code, bool shown);

/// Name and colour of a class on this site. Throws Error(Usage) for a colour beyond 0xFFFFFF.
SitePtr put_class(const Site&, const SiteClass&);
/// Back to what the standard says.
SitePtr drop_class(const Site&, std::uint8_t code);
/// "Building", or "Class 40" where neither site nor standard name it.
std::string class_name(const Site&, std::uint8_t code);
std::uint32_t class_colour(const Site&, std::uint8_t code);

}  // namespace pristine::site
