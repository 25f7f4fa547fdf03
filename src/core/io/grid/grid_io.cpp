#include "core/io/grid/grid_io.h"

#include <cpl_error.h>
#include <fmt/format.h>
#include <gdal_priv.h>

#include <algorithm>
#include <cmath>
#include <memory>

#include "core/base/file.h"
#include "core/io/ending.h"
#include "core/io/gdal_quiet.h"

namespace pristine::io {
namespace {

constexpr double kNoData = -9999;
constexpr std::uint64_t kMostCells = 400'000'000;

struct Raster {
    int columns = 0, rows = 0;
    double x0 = 0, y1 = 0, cell = 1;  // upper left corner
    std::vector<double> z;
};

// Heights at the middles of cells, triangle by triangle.
Raster raster_of(const mesh::TriMesh& m, double cell, Progress& progress) {
    Box3 box;
    for (const Vec3& v : m.vertices) box.add(v);
    if (box.empty()) throw Error(ErrorCode::Usage, "The surface is empty");
    Raster r;
    r.cell = cell;
    r.x0 = std::floor(box.lo.x / cell) * cell;
    r.y1 = std::ceil(box.hi.y / cell) * cell;
    const double columns = std::ceil((box.hi.x - r.x0) / cell), rows = std::ceil((r.y1 - box.lo.y) / cell);
    if (!(columns * rows <= static_cast<double>(kMostCells)))
        throw Error(ErrorCode::Usage, fmt::format("A cell of {} would make too many cells", cell), {},
                    "Take a larger one.");
    r.columns = std::max(1, static_cast<int>(columns));
    r.rows = std::max(1, static_cast<int>(rows));
    r.z.assign(static_cast<std::size_t>(r.columns) * static_cast<std::size_t>(r.rows), kNoData);
    for (std::size_t t = 0; t < m.triangles.size(); ++t) {
        if (t % 65536 == 0) progress.check();
        const Vec3 &a = m.vertices[m.triangles[t][0]], &b = m.vertices[m.triangles[t][1]],
                   &c = m.vertices[m.triangles[t][2]];
        const double w = (b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x);
        if (w <= 0) continue;
        const auto column = [&](double x) {
            return static_cast<int>(std::clamp((x - r.x0) / cell, 0.0, r.columns - 1.0));
        };
        const auto row = [&](double y) {
            return static_cast<int>(std::clamp((r.y1 - y) / cell, 0.0, r.rows - 1.0));
        };
        for (int j = row(std::max({a.y, b.y, c.y})); j <= row(std::min({a.y, b.y, c.y})); ++j)
            for (int i = column(std::min({a.x, b.x, c.x})); i <= column(std::max({a.x, b.x, c.x})); ++i) {
                const double x = r.x0 + (i + 0.5) * cell - a.x, y = r.y1 - (j + 0.5) * cell - a.y;
                const double wb = (x * (c.y - a.y) - y * (c.x - a.x)) / w,
                             wc = ((b.x - a.x) * y - (b.y - a.y) * x) / w;
                if (wb < 0 || wc < 0 || wb + wc > 1) continue;
                r.z[static_cast<std::size_t>(j) * static_cast<std::size_t>(r.columns) +
                    static_cast<std::size_t>(i)] = a.z + wb * (b.z - a.z) + wc * (c.z - a.z);
            }
    }
    return r;
}

void write_ascii(const Raster& r, const std::filesystem::path& path, bool replace) {
    OutputFile out(path, replace);
    out.write(fmt::format("ncols {}\nnrows {}\nxllcorner {}\nyllcorner {}\ncellsize {}\nNODATA_value {}\n",
                          r.columns, r.rows, r.x0, r.y1 - r.rows * r.cell, r.cell, kNoData));
    std::string line;
    for (int j = 0; j < r.rows; ++j) {
        line.clear();
        for (int i = 0; i < r.columns; ++i)
            fmt::format_to(std::back_inserter(line), "{}{}", i > 0 ? " " : "",
                           r.z[static_cast<std::size_t>(j) * static_cast<std::size_t>(r.columns) +
                               static_cast<std::size_t>(i)]);
        out.write(line + "\n");
    }
    out.finish();
}

void write_tiff(Raster& r, const std::filesystem::path& path, bool replace) {
    if (!replace && std::filesystem::exists(path))
        throw Error(ErrorCode::Conflict, "The file exists already", path.string());
    const GdalQuiet quiet;
    GDALDriver* driver = GetGDALDriverManager()->GetDriverByName("GTiff");
    if (!driver) throw Error(ErrorCode::Unsupported, "This machine cannot write GeoTIFF");
    // Beside the target and renamed: it is whole or untouched.
    std::filesystem::path beside = path;
    beside += ".part.tif";
    const auto fail = [&] {
        std::error_code ignored;
        std::filesystem::remove(beside, ignored);
        throw Error(ErrorCode::Io, std::string("The grid could not be written: ") + CPLGetLastErrorMsg(),
                    path.string());
    };
    {
        std::unique_ptr<GDALDataset> set(
            driver->Create(beside.c_str(), r.columns, r.rows, 1, GDT_Float64, nullptr));
        if (!set) fail();
        double transform[6] = {r.x0, r.cell, 0, r.y1, 0, -r.cell};
        set->SetGeoTransform(transform);
        set->GetRasterBand(1)->SetNoDataValue(kNoData);
        if (set->GetRasterBand(1)->RasterIO(GF_Write, 0, 0, r.columns, r.rows, r.z.data(), r.columns, r.rows,
                                            GDT_Float64, 0, 0) != CE_None)
            fail();
    }
    std::error_code error;
    std::filesystem::rename(beside, path, error);
    if (error) fail();
}

}  // namespace

bool is_grid_file(const std::filesystem::path& path) {
    const std::string e = ending_of(path);
    return e == ".tif" || e == ".tiff" || e == ".asc";
}

std::vector<Vec3> read_grid(const std::filesystem::path& path, Progress& progress) {
    const InputFile there(path);  // a clear word when it is missing
    const GdalQuiet quiet;
    const std::unique_ptr<GDALDataset> set(static_cast<GDALDataset*>(
        GDALOpenEx(path.c_str(), GDAL_OF_RASTER | GDAL_OF_READONLY, nullptr, nullptr, nullptr)));
    if (!set || set->GetRasterCount() < 1)
        throw Error(ErrorCode::Format, std::string("The grid cannot be read: ") + CPLGetLastErrorMsg(),
                    path.string());
    double g[6] = {0, 1, 0, 0, 0, 1};
    set->GetGeoTransform(g);
    GDALRasterBand* band = set->GetRasterBand(1);
    int has_none = 0;
    const double none = band->GetNoDataValue(&has_none);
    const int columns = set->GetRasterXSize(), rows = set->GetRasterYSize();
    std::vector<double> line(static_cast<std::size_t>(columns));
    std::vector<Vec3> points;
    for (int j = 0; j < rows; ++j) {
        progress.check();
        if (band->RasterIO(GF_Read, 0, j, columns, 1, line.data(), columns, 1, GDT_Float64, 0, 0) != CE_None)
            throw Error(ErrorCode::Format, std::string("The grid cannot be read: ") + CPLGetLastErrorMsg(),
                        fmt::format("{}, row {}", path.string(), j + 1));
        for (int i = 0; i < columns; ++i) {
            const double z = line[static_cast<std::size_t>(i)];
            if (!std::isfinite(z) || (has_none && z == none)) continue;
            points.push_back(
                {g[0] + (i + 0.5) * g[1] + (j + 0.5) * g[2], g[3] + (i + 0.5) * g[4] + (j + 0.5) * g[5], z});
        }
    }
    return points;
}

void write_grid(const mesh::TriMesh& m, double cell, const std::filesystem::path& path, bool replace,
                Progress& progress) {
    if (!(cell > 0)) throw Error(ErrorCode::Usage, "The side of a cell must be more than 0");
    Raster r = raster_of(m, cell, progress);
    if (ending_of(path) == ".asc") return write_ascii(r, path, replace);
    write_tiff(r, path, replace);
}

}  // namespace pristine::io
