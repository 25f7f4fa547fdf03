#include "core/io/grid/orthophoto_reader.h"

#include <cpl_error.h>
#include <gdal_priv.h>

#include <algorithm>
#include <cmath>

#include "core/base/file.h"
#include "core/io/gdal_quiet.h"
#include "core/io/grid/picture.h"

namespace pristine::io {
std::shared_ptr<const surface::Orthophoto> read_orthophoto(const std::filesystem::path& path,
                                                           std::uint64_t most_pixels, Progress& progress) {
    const InputFile there(path);  // a clear word when it is missing
    const GdalQuiet quiet;
    const std::string place = path.filename().string();
    static const char* const drivers[] = {"GTiff", "PNG", "JPEG", "BMP", nullptr};
    const std::unique_ptr<GDALDataset> data(
        GDALDataset::Open(path.c_str(), GDAL_OF_RASTER | GDAL_OF_READONLY, drivers, nullptr, nullptr));
    if (!data || data->GetRasterCount() < 1)
        throw Error(ErrorCode::Format,
                    std::string("The file cannot be read as a picture: ") + CPLGetLastErrorMsg(), place);
    double to_world[6], to_pixel[6];
    if (data->GetGeoTransform(to_world) != CE_None || !GDALInvGeoTransform(to_world, to_pixel))
        throw Error(ErrorCode::Format, "The picture does not say where it lies", place,
                    "It needs a GeoTIFF's place, or a world file beside it.");
    const double w = data->GetRasterXSize(), h = data->GetRasterYSize();
    const double shrink = std::min(1.0, std::sqrt(static_cast<double>(most_pixels) / (w * h)));
    const int width = std::max(1, static_cast<int>(w * shrink)),
              height = std::max(1, static_cast<int>(h * shrink));
    std::array<double, 6> at{};
    for (std::size_t k = 0; k < 3; ++k) {
        at[k] = to_pixel[k] * width / w;
        at[k + 3] = to_pixel[k + 3] * height / h;
    }
    return std::make_shared<const surface::Orthophoto>(place, width, height, at,
                                                       picture_pixels(*data, width, height, progress, place));
}

}  // namespace pristine::io
