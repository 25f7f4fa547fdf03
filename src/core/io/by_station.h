// Points of a cloud, station by station: for formats that hold scans with the place that each was made from.

#pragma once

#include <functional>

#include "core/io/cloud_io.h"

namespace pristine::io {

/// Kept records with coordinates, grouped by the station that measured them (the column "scan", or the only
/// station there is); what has none comes by itself. Calls begin(station or null, how many points), then
/// add(record) for each, then end(). Stations without a point are left out; if nothing is kept at all, there
/// is one group of no points. In the order of the records when the points of each station follow each other
/// there (two passes), else station by station (a pass for each). Returns how many points. Progress runs from
/// `from` to `to` of the present stretch. Throws Error(Io), Cancelled.
struct StationVisitor {
    std::function<void(const cloud::Station*, std::uint64_t)> begin;
    std::function<void(const std::byte*)> add;
    std::function<void()> end;
};
std::uint64_t for_each_station(const WriteItem&, Progress&, double from, double to, const StationVisitor&);

}  // namespace pristine::io
