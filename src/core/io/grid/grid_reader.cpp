#include <cpl_error.h>
#include <fmt/format.h>
#include <gdal_priv.h>

#include <algorithm>
#include <cmath>
#include <cstring>
#include <memory>

#include "core/base/file.h"
#include "core/base/units.h"
#include "core/io/ending.h"
#include "core/io/gdal_quiet.h"
#include "core/io/grid/grid_io.h"
#include "core/io/reference/remark.h"
#include "core/io/reference/system.h"

namespace pristine::io {
namespace {

constexpr std::uint32_t kNone = UINT32_MAX;

// Only what is meant: a file of another kind under these endings could be one that asks the network.
std::unique_ptr<GDALDataset> opened(const std::filesystem::path& path) {
    static const char* const drivers[] = {"GTiff", "AAIGrid", nullptr};
    return std::unique_ptr<GDALDataset>(
        GDALDataset::Open(path.c_str(), GDAL_OF_RASTER | GDAL_OF_READONLY, drivers, nullptr, nullptr));
}

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

class Source {
  public:
    Source(const std::filesystem::path& path) : place_(path.filename().string()) {
        data_ = opened(path);
        if (!data_ || data_->GetRasterCount() < 1)
            throw Error(ErrorCode::Format,
                        *CPLGetLastErrorMsg()
                            ? std::string("The grid cannot be read: ") + CPLGetLastErrorMsg()
                            : std::string("The file is no GeoTIFF and no ASCII grid"),
                        place_);
        // A few bytes can state any size.
        constexpr double kMostCells = 20e9;
        if (double(data_->GetRasterXSize()) * double(data_->GetRasterYSize()) > kMostCells)
            throw Error(ErrorCode::Unsupported,
                        fmt::format("The grid has {} x {} cells, more than can be read",
                                    data_->GetRasterXSize(), data_->GetRasterYSize()),
                        place_, "Cut it into parts.");
        if (shows_a_picture(*data_))
            throw Error(ErrorCode::Unsupported, "The file is a picture, not a grid of heights", place_,
                        "Drape it on a surface as an orthophoto.");
        data_->GetGeoTransform(place);
        band_ = data_->GetRasterBand(1);
        mask_ = band_->GetMaskBand();
        all_valid_ = (band_->GetMaskFlags() & GMF_ALL_VALID) != 0;
        int given = 0;
        scale_ = band_->GetScale(&given);
        if (!given || scale_ == 0) scale_ = 1;
        offset_ = band_->GetOffset(&given);
        if (!given) offset_ = 0;
        columns = data_->GetRasterXSize();
        rows = data_->GetRasterYSize();
        valid_.resize(static_cast<std::size_t>(columns));
    }
    // Heights of a row; not-a-number where the cell holds none.
    void row(int j, std::vector<double>& z) {
        z.resize(static_cast<std::size_t>(columns));
        if (!there(j)) {
            std::fill(z.begin(), z.end(), NAN);
            return;
        }
        const auto read = [&](GDALRasterBand& band, void* to, GDALDataType type) {
            if (band.RasterIO(GF_Read, 0, j, columns, 1, to, columns, 1, type, 0, 0) != CE_None)
                throw Error(ErrorCode::Format,
                            std::string("The grid cannot be read: ") + CPLGetLastErrorMsg(),
                            fmt::format("{}, row {}", place_, j + 1));
        };
        read(*band_, z.data(), GDT_Float64);
        if (!all_valid_) read(*mask_, valid_.data(), GDT_Byte);
        for (std::size_t i = 0; i < z.size(); ++i) {
            const bool there = (all_valid_ || valid_[i] != 0) && std::isfinite(z[i]);
            z[i] = there ? z[i] * scale_ + offset_ : NAN;
        }
    }
    /// Whether the file holds anything for a row: of a sparse file most blocks are not there, and would be
    /// read as empty one by one.
    bool there(int j) {
        int width = 0, height = 1;
        band_->GetBlockSize(&width, &height);
        if (j / height != known_block_) {
            known_block_ = j / height;
            const int from = known_block_ * height;
            const int coverage = band_->GetDataCoverageStatus(0, from, columns, std::min(height, rows - from),
                                                              GDAL_DATA_COVERAGE_STATUS_DATA, nullptr);
            // Where no "no data" value is stated, what is not there is 0 by the rules of the format.
            int stated = 0;
            band_->GetNoDataValue(&stated);
            block_there_ =
                !stated || (coverage & GDAL_DATA_COVERAGE_STATUS_EMPTY) == 0 ||
                (coverage & (GDAL_DATA_COVERAGE_STATUS_DATA | GDAL_DATA_COVERAGE_STATUS_UNIMPLEMENTED)) != 0;
        }
        return block_there_;
    }
    Vec3 middle(int i, int j, double z) const {
        return {place[0] + (i + 0.5) * place[1] + (j + 0.5) * place[2],
                place[3] + (i + 0.5) * place[4] + (j + 0.5) * place[5], z};
    }
    bool mirrored() const { return place[1] * place[5] - place[2] * place[4] < 0; }
    cloud::Reference reference() const {
        cloud::Reference r;
        if (const OGRSpatialReference* srs = data_->GetSpatialRef()) {
            char* wkt = nullptr;
            if (srs->exportToWkt(&wkt) == OGRERR_NONE && wkt) r = reference_of(wkt);
            CPLFree(wkt);
            const System s = system_of(r.crs);
            if (!s.code.empty() && system_of(s.code) == s) r.crs = s.code;
        }
        // The unit of the heights, where the band states one.
        const std::string up = unit_named(band_->GetUnitType());
        if (!up.empty() && system_of(r.crs).heights.empty()) r.height_unit = up == r.unit ? "" : up;
        if (r.unit.empty() && !r.height_unit.empty()) r.height_unit.clear();  // half of it is no statement
        return r;
    }
    std::string format() const {
        return fmt::format("{}, {} x {} heights",
                           std::strcmp(data_->GetDriverName(), "GTiff") == 0 ? "GeoTIFF" : "ASCII grid",
                           columns, rows);
    }

    int columns = 0, rows = 0;
    double place[6] = {0, 1, 0, 0, 0, 1};

  private:
    static std::string unit_named(const std::string& name) {
        if (name == "m" || name == "metre" || name == "meter" || name == "metres" || name == "meters")
            return "m";
        if (name == "US survey foot" || name == "ftUS" || name == "us-ft" || name == "Foot_US") return "usft";
        if (name == "ft" || name == "foot" || name == "feet") return "ft";
        return {};
    }
    std::string place_;
    std::unique_ptr<GDALDataset> data_;
    GDALRasterBand *band_ = nullptr, *mask_ = nullptr;
    bool all_valid_ = true, block_there_ = true;
    int known_block_ = -1;
    double scale_ = 1, offset_ = 0;
    std::vector<std::uint8_t> valid_;
};

// The lattice of every `step`-th row and column, the last ones left over included in neither.
struct Lattice {
    int step, columns, rows;
    std::vector<double> z;
    double at(int i, int j) const {
        return z[static_cast<std::size_t>(j) * static_cast<std::size_t>(columns) +
                 static_cast<std::size_t>(i)];
    }
};

Lattice lattice_of(Source& s, int step, std::uint64_t& valid, Progress& progress) {
    Lattice l{step, (s.columns - 1) / step + 1, (s.rows - 1) / step + 1, {}};
    l.z.reserve(static_cast<std::size_t>(l.columns) * static_cast<std::size_t>(l.rows));
    std::vector<double> z;
    valid = 0;
    for (int j = 0; j < s.rows; ++j) {
        progress.advance(static_cast<double>(j) / s.rows);
        s.row(j, z);
        for (const double v : z) valid += std::isfinite(v);
        if (j % step != 0) continue;
        for (int i = 0; i < l.columns; ++i) l.z.push_back(z[static_cast<std::size_t>(i * step)]);
    }
    return l;
}

// How a square is cut: along the diagonal whose ends differ less in height.
bool cut_down(double a, double b, double c, double d) {
    return std::fabs(a - d) <= std::fabs(b - c);
}

// Height inside a square of the lattice with corners a b (above) and c d (below), u and v in 0..1.
double height_in(double a, double b, double c, double d, double u, double v) {
    if (cut_down(a, b, c, d)) return u >= v ? a + (b - a) * u + (d - b) * v : a + (d - c) * u + (c - a) * v;
    return u + v <= 1 ? a + (b - a) * u + (c - a) * v : d + (c - d) * (1 - u) + (b - d) * (1 - v);
}

// Which squares hold heights all over, and how far the heights left out lie from their triangles.
double check_squares(Source& s, const Lattice& l, std::vector<std::uint8_t>& whole, Progress& progress) {
    whole.assign(static_cast<std::size_t>(l.columns) * static_cast<std::size_t>(l.rows), 1);
    std::vector<double> z;
    double worst = 0;
    for (int j = 0; j <= (l.rows - 1) * l.step; ++j) {
        progress.advance(static_cast<double>(j) / s.rows);
        s.row(j, z);
        const int row = std::min(j / l.step, l.rows - 2);
        for (int i = 0; i <= (l.columns - 1) * l.step; ++i) {
            const int column = std::min(i / l.step, l.columns - 2);
            if (row < 0 || column < 0) continue;
            const double v = z[static_cast<std::size_t>(i)];
            if (!std::isfinite(v)) {
                // A height on the side of a square belongs to the squares on both sides of it.
                for (int r = j % l.step == 0 ? row - 1 : row; r <= row; ++r)
                    for (int c = i % l.step == 0 ? column - 1 : column; c <= column; ++c)
                        if (r >= 0 && c >= 0)
                            whole[static_cast<std::size_t>(r) * static_cast<std::size_t>(l.columns) +
                                  static_cast<std::size_t>(c)] = 0;
                continue;
            }
            const double a = l.at(column, row), b = l.at(column + 1, row), c = l.at(column, row + 1),
                         d = l.at(column + 1, row + 1);
            if (!std::isfinite(a + b + c + d)) continue;
            const double h = height_in(a, b, c, d, static_cast<double>(i - column * l.step) / l.step,
                                       static_cast<double>(j - row * l.step) / l.step);
            worst = std::max(worst, std::fabs(v - h));
        }
    }
    return worst;
}

mesh::TriMesh mesh_of(const Source& s, const Lattice& l, const std::vector<std::uint8_t>* whole) {
    mesh::TriMesh m;
    std::vector<std::uint32_t> number(l.z.size(), kNone);
    for (int j = 0; j < l.rows; ++j)
        for (int i = 0; i < l.columns; ++i) {
            if (!std::isfinite(l.at(i, j))) continue;
            number[static_cast<std::size_t>(j) * static_cast<std::size_t>(l.columns) +
                   static_cast<std::size_t>(i)] = static_cast<std::uint32_t>(m.vertices.size());
            m.vertices.push_back(s.middle(i * l.step, j * l.step, l.at(i, j)));
        }
    const bool mirrored = s.mirrored();
    const auto add = [&](std::uint32_t p, std::uint32_t q, std::uint32_t r) {
        if (mirrored) std::swap(q, r);  // rows run southwards: seen from above the corners turn the other way
        m.triangles.push_back({p, q, r});
    };
    for (int j = 0; j + 1 < l.rows; ++j)
        for (int i = 0; i + 1 < l.columns; ++i) {
            const std::size_t at = static_cast<std::size_t>(j) * static_cast<std::size_t>(l.columns) +
                                   static_cast<std::size_t>(i),
                              below = at + static_cast<std::size_t>(l.columns);
            const std::uint32_t a = number[at], b = number[at + 1], c = number[below], d = number[below + 1];
            if (a == kNone || b == kNone || c == kNone || d == kNone || (whole && !(*whole)[at])) continue;
            if (cut_down(l.z[at], l.z[at + 1], l.z[below], l.z[below + 1])) {
                add(a, b, d);
                add(a, d, c);
            } else {
                add(a, b, c);
                add(b, d, c);
            }
        }
    return m;
}

std::uint64_t cells_at(const Source& s, int step) {
    return (static_cast<std::uint64_t>(s.columns - 1) / static_cast<std::uint64_t>(step) + 1) *
           (static_cast<std::uint64_t>(s.rows - 1) / static_cast<std::uint64_t>(step) + 1);
}

bool begins_as_ascii_grid(const std::filesystem::path& path) {
    try {
        const InputFile file(path);
        std::string head = file.read_string(0, std::min<std::uint64_t>(file.size(), 64));
        std::transform(head.begin(), head.end(), head.begin(),
                       [](unsigned char c) { return std::tolower(c); });
        const std::size_t from = head.find_first_not_of(" \t\r\n");
        return from != std::string::npos &&
               (head.compare(from, 5, "ncols") == 0 || head.compare(from, 5, "nrows") == 0);
    } catch (const Error&) {
        return false;
    }
}

}  // namespace

bool is_grid_ending(const std::filesystem::path& path) {
    const std::string e = ending_of(path);
    return e == ".tif" || e == ".tiff" || e == ".asc";
}

bool is_grid_file(const std::filesystem::path& path) {
    return is_grid_ending(path) && (ending_of(path) != ".asc" || begins_as_ascii_grid(path));
}

bool is_picture(const std::filesystem::path& path) {
    const std::string e = ending_of(path);
    if (e != ".tif" && e != ".tiff") return false;
    const GdalQuiet quiet;
    const auto data = opened(path);
    return data && data->GetRasterCount() > 0 && shows_a_picture(*data);
}

GridShape shape_of_grid(const std::filesystem::path& path) {
    const InputFile there(path);  // a clear word when it is missing
    const GdalQuiet quiet;
    const Source s(path);
    return {s.columns, s.rows, s.reference()};
}

HeightGrid read_height_grid(const std::filesystem::path& path, const GridReading& options,
                            Progress& progress) {
    const InputFile there(path);  // a clear word when it is missing
    const GdalQuiet quiet;
    Source s(path);
    HeightGrid g;
    g.reference = s.reference();
    g.format = s.format();
    g.columns = s.columns;
    g.rows = s.rows;
    int step = 1;
    while (cells_at(s, step) > options.most_cells) ++step;
    if (step > 1 && (s.columns / step < 2 || s.rows / step < 2))
        throw Error(ErrorCode::Unsupported, "The grid has too many cells in one row or column to be thinned",
                    path.filename().string());
    Lattice l = lattice_of(s, step, g.valid, progress);
    std::vector<std::uint8_t> whole;
    if (step > 1) g.error = check_squares(s, l, whole, progress);
    // Doubled while the error is still within what was asked for.
    while (options.max_error > 0 && g.error <= options.max_error && s.columns / (2 * step) >= 2 &&
           s.rows / (2 * step) >= 2) {
        std::uint64_t valid = 0;
        std::vector<std::uint8_t> coarser;
        Lattice next = lattice_of(s, 2 * step, valid, progress);
        const double error = check_squares(s, next, coarser, progress);
        if (error > options.max_error) break;
        step *= 2;
        l = std::move(next);
        whole = std::move(coarser);
        g.error = error;
    }
    g.step = step;
    g.mesh = mesh_of(s, l, step > 1 ? &whole : nullptr);
    if (g.valid == 0)
        throw Error(ErrorCode::Format, "No cell of the grid holds a height", path.filename().string());
    if (step > 1)
        g.warnings.push_back(fmt::format(
            "The grid of {} x {} cells was thinned: of {} rows and columns one was taken. Heights lie at "
            "most "
            "{:.3g} {} "
            "from those of the file; along gaps and at the edge up to {} cells are missing.",
            s.columns, s.rows, step, g.error,
            g.reference.unit.empty()
                ? "units"
                : length_unit(g.reference.height_unit.empty() ? g.reference.unit : g.reference.height_unit)
                      .symbol,
            step - 1));
    return g;
}

std::vector<Vec3> read_grid(const std::filesystem::path& path, Progress& progress) {
    const InputFile there(path);
    const GdalQuiet quiet;
    Source s(path);
    std::vector<double> z;
    std::vector<Vec3> points;
    for (int j = 0; j < s.rows; ++j) {
        progress.check();
        s.row(j, z);
        for (int i = 0; i < s.columns; ++i)
            if (const double v = z[static_cast<std::size_t>(i)]; std::isfinite(v))
                points.push_back(s.middle(i, j, v));
    }
    return points;
}

}  // namespace pristine::io
