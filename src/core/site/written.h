// An item as it is written to a file: its records, its classes as they were decided, and what a surface was
// built from.

#pragma once

#include "core/base/progress.h"
#include "core/io/cloud_io.h"
#include "core/site/site.h"

namespace pristine::site {

/// All of the item but `gone`. O(records) for classes. Throws Cancelled.
io::WriteItem without(const Item&, const ElementSet& gone, Progress&);
/// Only these elements of it.
io::WriteItem only(const Item&, const ElementSet& kept, Progress&);

/// What is out of an item by reason, in the order of the ledger: each element once, for the first entry that
/// took it. What was given a class or changed in the build is not out.
struct OutByReason {
    std::string reason;
    ElementSet elements;
};
std::vector<OutByReason> out_by_reason(const Item&);

}  // namespace pristine::site
