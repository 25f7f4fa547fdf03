#include "core/io/grid/grid_rows.h"

#include <cpl_error.h>
#include <fmt/format.h>
#include <gdal_priv.h>

#include <algorithm>
#include <cmath>
#include <cstring>

#include "core/base/error.h"
#include "core/base/fuzzing.h"
#include "core/io/foreign/grid_answer.h"
#include "core/io/gdal_quiet.h"
#include "core/io/reference/remark.h"
#include "core/io/reference/system.h"

namespace pristine::io {
namespace {

bool shows_a_picture(GDALDataset& data) {
    GDALRasterBand* first = data.GetRasterBand(1);
    const GDALColorInterp means = first->GetColorInterpretation();
    if (first->GetColorTable() || means == GCI_RedBand || means == GCI_PaletteIndex) return true;
    // Grey of one byte: heights have more to say than 0 to 255, or a scale.
    int scaled = 0;
    first->GetScale(&scaled);
    const bool bytes = first->GetRasterDataType() == GDT_Byte && !(scaled && first->GetScale() != 1);
    return bytes || (data.GetRasterCount() >= 3 && first->GetRasterDataType() == GDT_UInt16);
}

std::string unit_named(const std::string& name) {
    if (name == "m" || name == "metre" || name == "meter" || name == "metres" || name == "meters") return "m";
    if (name == "US survey foot" || name == "ftUS" || name == "us-ft" || name == "Foot_US") return "usft";
    if (name == "ft" || name == "foot" || name == "feet") return "ft";
    return {};
}

cloud::Reference reference_of(GDALDataset& data) {
    cloud::Reference r;
    if (const OGRSpatialReference* srs = data.GetSpatialRef()) {
        char* wkt = nullptr;
        if (srs->exportToWkt(&wkt) == OGRERR_NONE && wkt) r = io::reference_of(wkt);
        CPLFree(wkt);
        const System s = system_of(r.crs);
        if (!s.code.empty() && system_of(s.code) == s) r.crs = s.code;
    }
    // The unit of the heights, where the band states one.
    const std::string up = unit_named(data.GetRasterBand(1)->GetUnitType());
    if (!up.empty() && system_of(r.crs).heights.empty()) r.height_unit = up == r.unit ? "" : up;
    if (r.unit.empty() && !r.height_unit.empty()) r.height_unit.clear();  // half of it is no statement
    return r;
}

class FileRows : public GridRows {
  public:
    explicit FileRows(const std::filesystem::path& path) : place_(path.filename().string()) {
        // Only what is meant: a file of another kind under these endings could be one that asks the network.
        static const char* const drivers[] = {"GTiff", "AAIGrid", nullptr};
        data_.reset(
            GDALDataset::Open(path.c_str(), GDAL_OF_RASTER | GDAL_OF_READONLY, drivers, nullptr, nullptr));
        if (!data_ || data_->GetRasterCount() < 1)
            throw Error(ErrorCode::Format,
                        *CPLGetLastErrorMsg()
                            ? std::string("The grid cannot be read: ") + CPLGetLastErrorMsg()
                            : std::string("The file is no GeoTIFF and no ASCII grid"),
                        place_);
        facts_.columns = data_->GetRasterXSize();
        facts_.rows = data_->GetRasterYSize();
        // A few bytes can state any size.
        constexpr double kMostCells = 20e9;
        if (double(facts_.columns) * double(facts_.rows) > kMostCells)
            throw Error(
                ErrorCode::Unsupported,
                fmt::format("The grid has {} x {} cells, more than can be read", facts_.columns, facts_.rows),
                place_, "Cut it into parts.");
        facts_.picture = shows_a_picture(*data_);
        data_->GetGeoTransform(facts_.place);
        facts_.reference = reference_of(*data_);
        facts_.format =
            fmt::format("{}, {} x {} heights",
                        std::strcmp(data_->GetDriverName(), "GTiff") == 0 ? "GeoTIFF" : "ASCII grid",
                        facts_.columns, facts_.rows);
        band_ = data_->GetRasterBand(1);
        mask_ = band_->GetMaskBand();
        all_valid_ = (band_->GetMaskFlags() & GMF_ALL_VALID) != 0;
        int given = 0;
        scale_ = band_->GetScale(&given);
        if (!given || scale_ == 0) scale_ = 1;
        offset_ = band_->GetOffset(&given);
        if (!given) offset_ = 0;
        valid_.resize(static_cast<std::size_t>(facts_.columns));
    }

    const GridFacts& facts() const override { return facts_; }

    void next(std::vector<double>& z) override {
        const int j = row_++;
        if (j >= facts_.rows) throw Error(ErrorCode::Usage, "The grid has no more rows", place_);
        z.resize(static_cast<std::size_t>(facts_.columns));
        if (!there(j)) {
            std::fill(z.begin(), z.end(), NAN);
            return;
        }
        read(*band_, j, z.data(), GDT_Float64);
        if (!all_valid_) read(*mask_, j, valid_.data(), GDT_Byte);
        for (std::size_t i = 0; i < z.size(); ++i) {
            const bool there = (all_valid_ || valid_[i] != 0) && std::isfinite(z[i]);
            z[i] = there ? z[i] * scale_ + offset_ : NAN;
        }
    }

  private:
    void read(GDALRasterBand& band, int j, void* to, GDALDataType type) {
        const int n = facts_.columns;
        if (band.RasterIO(GF_Read, 0, j, n, 1, to, n, 1, type, 0, 0) != CE_None)
            throw Error(ErrorCode::Format, std::string("The grid cannot be read: ") + CPLGetLastErrorMsg(),
                        fmt::format("{}, row {}", place_, j + 1));
    }
    // Whether the file holds anything for a row: of a sparse file most blocks are not there, and would be
    // read as empty one by one.
    bool there(int j) {
        int width = 0, height = 1;
        band_->GetBlockSize(&width, &height);
        if (j / height == known_block_) return block_there_;
        known_block_ = j / height;
        const int from = known_block_ * height;
        const int coverage =
            band_->GetDataCoverageStatus(0, from, facts_.columns, std::min(height, facts_.rows - from),
                                         GDAL_DATA_COVERAGE_STATUS_DATA, nullptr);
        // Where no "no data" value is stated, what is not there is 0 by the rules of the format.
        int stated = 0;
        band_->GetNoDataValue(&stated);
        block_there_ =
            !stated || (coverage & GDAL_DATA_COVERAGE_STATUS_EMPTY) == 0 ||
            (coverage & (GDAL_DATA_COVERAGE_STATUS_DATA | GDAL_DATA_COVERAGE_STATUS_UNIMPLEMENTED)) != 0;
        return block_there_;
    }

    const GdalQuiet quiet_;
    std::string place_;
    GridFacts facts_;
    std::unique_ptr<GDALDataset> data_;
    GDALRasterBand *band_ = nullptr, *mask_ = nullptr;
    bool all_valid_ = true, block_there_ = true;
    int known_block_ = -1, row_ = 0;
    double scale_ = 1, offset_ = 0;
    std::vector<std::uint8_t> valid_;
};

}  // namespace

std::unique_ptr<GridRows> open_grid_here(const std::filesystem::path& path) {
    return std::make_unique<FileRows>(path);
}

std::unique_ptr<GridRows> open_grid(const std::filesystem::path& path) {
    if (fuzzing) return open_grid_here(path);
    return open_grid_guarded(path);
}

}  // namespace pristine::io
