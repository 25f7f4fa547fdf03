// How a cloud lies in the project file: one row for what holds for all of it, one per page for positions and
// columns, one per page for the original order, one per 65,536 full records. A cloud that grew out of another
// (cloud/grown.h) names the rows of that one for the records that they share.

#pragma once

#include "core/base/progress.h"
#include "core/cloud/point_cloud.h"
#include "core/store/database.h"

namespace pristine::store {

/// The tables that clouds are kept in. Throws Error(Io).
void create_cloud_tables(Database&);

/// Writes the cloud inside the transaction that is open; returns its row. On the calling thread alone.
std::int64_t write_cloud_rows(Database&, const cloud::PointCloud&, Progress&);

/// Reads it back; records and order stay in the file and are read through `reader`, which the cloud then
/// shares.
std::shared_ptr<const cloud::PointCloud> read_cloud_rows(const std::shared_ptr<Database>& reader,
                                                         std::int64_t row, Progress&);

/// Makes a cloud read its records and order from the file that they were written to.
void use_cloud_rows(const std::shared_ptr<Database>& reader, std::int64_t row, const cloud::PointCloud&);

}  // namespace pristine::store
