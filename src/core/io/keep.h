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

/// Calls visit(records, how many) for the kept records of a cloud (or all, marked), in file order, in
/// stretches. `records` holds only the kept ones, packed together. Progress runs from `from` to `to` of the
/// present stretch.
void for_kept_records(const WriteItem&, Progress&, double from, double to,
                      const std::function<void(const std::byte*, std::size_t)>& visit);

}  // namespace pristine::io
