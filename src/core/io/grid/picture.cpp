#include "core/io/grid/picture.h"

#include <cpl_error.h>
#include <cpl_vsi.h>
#include <gdal_priv.h>

#include <algorithm>
#include <atomic>
#include <cmath>

#include "core/base/error.h"
#include "core/base/fuzzing.h"
#include "core/io/foreign/grid_answer.h"
#include "core/io/gdal_quiet.h"

namespace pristine::io {
namespace {

// One band, at the size wanted, as bytes.
std::vector<std::uint8_t> band_of(GDALDataset& data, int number, int width, int height,
                                  const std::string& place) {
    GDALRasterBand* band = data.GetRasterBand(number);
    GDALRasterIOExtraArg how;
    INIT_RASTERIO_EXTRA_ARG(how);
    // Numbers of a palette must not be averaged.
    how.eResampleAlg = band->GetColorTable() ? GRIORA_NearestNeighbour : GRIORA_Average;
    const bool wide = band->GetRasterDataType() == GDT_UInt16;
    const auto n = static_cast<std::size_t>(width) * static_cast<std::size_t>(height);
    std::vector<std::uint8_t> out(n);
    std::vector<std::uint16_t> words(wide ? n : 0);
    const CPLErr e = band->RasterIO(GF_Read, 0, 0, data.GetRasterXSize(), data.GetRasterYSize(),
                                    wide ? static_cast<void*>(words.data()) : static_cast<void*>(out.data()),
                                    width, height, wide ? GDT_UInt16 : GDT_Byte, 0, 0, &how);
    if (e != CE_None)
        throw Error(ErrorCode::Format, std::string("The picture cannot be read: ") + CPLGetLastErrorMsg(),
                    place);
    for (std::size_t i = 0; i < words.size(); ++i) out[i] = static_cast<std::uint8_t>(words[i] >> 8);
    return out;
}

std::uint32_t rgb(std::uint32_t r, std::uint32_t g, std::uint32_t b) {
    return 0xFF000000u | r << 16 | g << 8 | b;
}

// Averaged to the size wanted.
std::vector<std::uint32_t> picture_pixels(GDALDataset& data, int width, int height, Progress& progress,
                                          const std::string& place) {
    const int bands = data.GetRasterCount();
    const auto first = band_of(data, 1, width, height, place);
    std::vector<std::uint32_t> out(first.size());
    progress.check();
    if (bands < 3) {
        const GDALColorTable* palette = data.GetRasterBand(1)->GetColorTable();
        for (std::size_t i = 0; i < out.size(); ++i) {
            const GDALColorEntry* e = palette ? palette->GetColorEntry(first[i]) : nullptr;
            out[i] = e ? rgb(static_cast<std::uint8_t>(e->c1), static_cast<std::uint8_t>(e->c2),
                             static_cast<std::uint8_t>(e->c3))
                       : rgb(first[i], first[i], first[i]);
        }
    } else {
        const auto second = band_of(data, 2, width, height, place),
                   third = band_of(data, 3, width, height, place);
        for (std::size_t i = 0; i < out.size(); ++i) out[i] = rgb(first[i], second[i], third[i]);
    }
    progress.check();
    const int alpha = bands == 2 ? 2 : bands >= 4 ? bands : 0;
    if (alpha > 0 && data.GetRasterBand(alpha)->GetColorInterpretation() == GCI_AlphaBand) {
        const auto a = band_of(data, alpha, width, height, place);
        for (std::size_t i = 0; i < out.size(); ++i)
            if (a[i] < 128) out[i] = 0;
    }
    return out;
}

}  // namespace

std::shared_ptr<const Mipmap> decode_picture(const std::string& bytes, const std::string& name) {
    Pixels p = fuzzing ? decode_picture_here(bytes, name) : decode_picture_guarded(bytes, name);
    return std::make_shared<const Mipmap>(p.width, p.height, std::move(p.argb));
}

Pixels decode_picture_here(const std::string& bytes, const std::string& name) {
    const GdalQuiet quiet;
    static std::atomic<std::uint64_t> number{0};
    // A file that GDAL sees in memory; it is not changed, whatever the type of the pointer.
    const std::string path = "/vsimem/pristine-picture-" + std::to_string(number++);
    VSILFILE* file = VSIFileFromMemBuffer(
        path.c_str(), reinterpret_cast<GByte*>(const_cast<char*>(bytes.data())), bytes.size(), FALSE);
    if (!file) throw Error(ErrorCode::Io, "There is no memory for a picture", name);
    VSIFCloseL(file);
    struct Gone {
        const std::string& path;
        ~Gone() { VSIUnlink(path.c_str()); }
    } const gone{path};
    const char* const drivers[] = {"PNG", "JPEG", "GTiff", "BMP", nullptr};
    const std::unique_ptr<GDALDataset> data(
        GDALDataset::Open(path.c_str(), GDAL_OF_RASTER | GDAL_OF_READONLY, drivers, nullptr, nullptr));
    if (!data || data->GetRasterCount() < 1)
        throw Error(ErrorCode::Format, "The file cannot be read as a picture", name,
                    "There are PNG, JPEG, TIFF and BMP.");
    constexpr double kMostPixels = 100e6;
    // Such a file is decoded whole, however small it is shown: a few bytes can stand for all of it.
    constexpr double kMostDecoded = 268'435'456;  // 16,384 squared
    if (double(data->GetRasterXSize()) * double(data->GetRasterYSize()) > kMostDecoded)
        throw Error(ErrorCode::Memory,
                    "The picture has " + std::to_string(data->GetRasterXSize()) + " x " +
                        std::to_string(data->GetRasterYSize()) + " pixels, more than fit",
                    name, "Make it smaller: 16,384 x 16,384 at most.");
    const double w = data->GetRasterXSize(), h = data->GetRasterYSize(),
                 shrink = std::min(1.0, std::sqrt(kMostPixels / (w * h)));
    const int width = std::max(1, static_cast<int>(w * shrink)),
              height = std::max(1, static_cast<int>(h * shrink));
    return {width, height, picture_pixels(*data, width, height, Progress::none(), name)};
}

PlacedPixels read_orthophoto_here(const std::filesystem::path& path, std::uint64_t most_pixels,
                                  Progress& progress) {
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
    PlacedPixels p;
    const int width = p.pixels.width = std::max(1, static_cast<int>(w * shrink)),
              height = p.pixels.height = std::max(1, static_cast<int>(h * shrink));
    for (std::size_t k = 0; k < 3; ++k) {
        p.at[k] = to_pixel[k] * width / w;
        p.at[k + 3] = to_pixel[k + 3] * height / h;
    }
    p.pixels.argb = picture_pixels(*data, width, height, progress, place);
    return p;
}

}  // namespace pristine::io
