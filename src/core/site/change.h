// What the files of this folder share: one changed copy of a snapshot.

#pragma once

#include <functional>

#include "core/base/error.h"
#include "core/site/site.h"

namespace pristine::site::detail {

/// What is thrown for something that is not there any more.
Error missing(const char* what);
/// A copy of the site in which one item is replaced by a changed copy of itself. Throws Error(Usage) when it
/// is not there.
std::shared_ptr<Site> with_item(const Site&, std::uint64_t id, const std::function<void(Item&)>& change);
/// The item in work. Throws Error(Usage) when there is none, or when it is locked or hidden.
const Item& item_in_work(const Site&);
/// Null for an empty set.
SetPtr shared(ElementSet);
/// Elements outside a box; null: none. O(points in blocks that its faces cross).
SetPtr outside(const cloud::PointCloud&, const select::Box&, Progress&);
/// Gives a new item what the clip box in force makes of it.
void clip_item(const Site&, Item&);
/// Law 3: after a change of what is out, shown or locked, the selection may hold too much.
void trim_selection(Site&);
/// The selection is empty from now on, and can be had again.
void let_go(Site&);
/// An item is not what it was: what was selected of it means nothing any more.
void forget_selection(Site&, std::uint64_t item);
/// What is selected, not among what is out. Throws Error(Usage) when that is nothing.
const Parts& selected_or_refuse(const Site&);

}  // namespace pristine::site::detail
