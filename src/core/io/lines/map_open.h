// Opening files of maps with GDAL, inside pristine-reader.

#pragma once

#include <filesystem>
#include <memory>

class GDALDataset;

namespace pristine::io {

struct CloseMap {
    void operator()(GDALDataset*) const;
};
using OpenMap = std::unique_ptr<GDALDataset, CloseMap>;

/// A file of points, lines and areas, read by the driver that its ending names and by no other: others follow
/// links, to other files and to the net. A file that no ending names can be GeoJSON, which says so itself.
/// Throws Error(Io, Format).
OpenMap open_map(const std::filesystem::path&);

}  // namespace pristine::io
