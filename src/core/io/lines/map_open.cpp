#include "core/io/lines/map_open.h"

#include <cpl_error.h>
#include <gdal_priv.h>

#include <algorithm>
#include <string>

#include "core/base/error.h"
#include "core/base/file.h"
#include "core/io/lines/ogr_writer.h"

namespace pristine::io {
namespace {

bool begins_with_brace(const std::filesystem::path& path) {
    const InputFile file(path);
    const std::string head = file.read_string(0, std::min<std::uint64_t>(file.size(), 64));
    const std::size_t first = head.find_first_not_of(" \t\r\n\xef\xbb\xbf");
    return first != std::string::npos && head[first] == '{';
}

}  // namespace

void CloseMap::operator()(GDALDataset* d) const {
    GDALClose(d);
}

OpenMap open_map(const std::filesystem::path& path) {
    const char* name = driver_of(path) ? driver_of(path) : begins_with_brace(path) ? "GeoJSON" : nullptr;
    const char* const drivers[] = {name, nullptr};
    OpenMap data(
        name ? GDALDataset::Open(path.c_str(), GDAL_OF_VECTOR | GDAL_OF_READONLY, drivers, nullptr, nullptr)
             : nullptr);
    if (!data)
        throw Error(ErrorCode::Format,
                    std::string("The file cannot be read as lines: ") + CPLGetLastErrorMsg(),
                    path.filename().string());
    return data;
}

}  // namespace pristine::io
