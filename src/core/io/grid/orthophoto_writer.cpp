#include "core/io/grid/orthophoto_writer.h"

#include <gdal_priv.h>
#include <ogr_spatialref.h>

#include "core/base/output.h"
#include "core/io/gdal_quiet.h"
#include "core/io/reference/system.h"

namespace pristine::io {

struct OrthophotoWriter::Own {
    GdalQuiet quiet;
    GdalFailures failures;
    std::filesystem::path path;
    OutputFolder folder;
    std::unique_ptr<GDALDataset> set;

    Own(const std::filesystem::path& to, bool replace) : path(to), folder(to, replace) {}
    [[noreturn]] void fail() const {
        throw Error(ErrorCode::Io, "The picture could not be written: " + failures.first(), path.string());
    }
};

OrthophotoWriter::OrthophotoWriter(const std::filesystem::path& path, bool replace, const OrthophotoShape& s,
                                   const cloud::Reference& reference)
    : own_(std::make_unique<Own>(path, replace)) {
    GDALDriver* driver = GetGDALDriverManager()->GetDriverByName("GTiff");
    if (!driver) throw Error(ErrorCode::Unsupported, "This machine cannot write GeoTIFF");
    const char* const options[] = {"TILED=YES", "COMPRESS=DEFLATE", "PREDICTOR=2",      "PHOTOMETRIC=RGB",
                                   "ALPHA=YES", "TFW=YES",          "BIGTIFF=IF_SAFER", nullptr};
    own_->set.reset(driver->Create(own_->folder.path().c_str(), s.columns, s.rows, 4, GDT_Byte,
                                   const_cast<char**>(options)));
    if (!own_->set) own_->fail();
    double transform[6] = {s.west, s.cell, 0, s.north, 0, -s.cell};
    own_->set->SetGeoTransform(transform);
    const std::string wkt = wkt_with_unit(reference.crs, reference.unit, reference.height_unit);
    OGRSpatialReference system;
    if (!wkt.empty() && system.importFromWkt(wkt.c_str()) == OGRERR_NONE) {
        system.SetAxisMappingStrategy(OAMS_TRADITIONAL_GIS_ORDER);
        own_->set->SetSpatialRef(&system);
    }
}

OrthophotoWriter::~OrthophotoWriter() = default;

void OrthophotoWriter::put(int left, int top, int width, int height, const std::vector<std::uint32_t>& argb) {
    std::vector<std::uint8_t> band(argb.size());
    for (int b = 0; b < 4; ++b) {
        const int shift = b == 3 ? 24 : 16 - 8 * b;
        for (std::size_t k = 0; k < argb.size(); ++k) band[k] = static_cast<std::uint8_t>(argb[k] >> shift);
        if (own_->set->GetRasterBand(b + 1)->RasterIO(GF_Write, left, top, width, height, band.data(), width,
                                                      height, GDT_Byte, 0, 0, nullptr) != CE_None)
            own_->fail();
    }
}

void OrthophotoWriter::finish() {
    own_->set.reset();
    // A full disk shows only in what closing could not write.
    if (!own_->failures.first().empty()) own_->fail();
    own_->folder.finish({".tfw", ".ovr", ".aux"});
}

}  // namespace pristine::io
