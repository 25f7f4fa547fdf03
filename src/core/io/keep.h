// From a set of elements (page order) to records in file order.

#pragma once

#include "core/elements/element_set.h"
#include "core/io/cloud_io.h"

namespace pristine::io {

/// Keeps every record but those whose element is in `dropped`. Looks only into pages that lose something.
std::shared_ptr<const KeepBits> keep_all_but(const cloud::PointCloud&, const ElementSet& dropped,
                                             Progress& = Progress::none());

/// Keeps only the records of `kept`: to write what was removed.
std::shared_ptr<const KeepBits> keep_only(const cloud::PointCloud&, const ElementSet& kept,
                                          Progress& = Progress::none());

/// What is kept of an item, without the records that have no point: empty cells of a grid, coordinates that
/// are no numbers. Only formats that know such records can hold them.
std::shared_ptr<const KeepBits> keep_points(const WriteItem&, Progress& = Progress::none());

/// The layout of the records that for_kept_records gives: that of the cloud, with a column "class" at the end
/// where classes are given and it has none.
cloud::RecordLayout layout_of(const WriteItem&);

/// Calls visit(records, how many) for the kept records of a cloud (or all, marked), in file order, in
/// stretches, with the classes that are given. `records` holds only the kept ones, packed together, in the
/// layout of layout_of. Throws Error(Usage) for a class that a record has no room for. Progress runs from
/// `from` to `to` of the present stretch.
void for_kept_records(const WriteItem&, Progress&, double from, double to,
                      const std::function<void(const std::byte*, std::size_t)>& visit);

}  // namespace pristine::io
