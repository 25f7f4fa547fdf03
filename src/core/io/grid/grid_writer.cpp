#include "core/io/grid/grid_io.h"

#include <cpl_error.h>
#include <fmt/format.h>
#include <gdal_priv.h>
#include <ogr_spatialref.h>

#include <algorithm>
#include <cmath>
#include <cstring>
#include <memory>

#include "core/base/output.h"
#include "core/base/units.h"
#include "core/io/ending.h"
#include "core/io/gdal_quiet.h"
#include "core/io/reference/remark.h"
#include "core/io/reference/system.h"

namespace pristine::io {
namespace {

constexpr std::uint64_t kMostCells = 400'000'000;

struct Raster {
    int columns = 0, rows = 0;
    double x0 = 0, y1 = 0, cell = 1;  // upper left corner
    std::vector<double> z;
};

Box3 box_of(const mesh::TriMesh& m) {
    Box3 box;
    for (const auto& t : m.triangles)
        for (const std::uint32_t v : t) box.add(m.vertices[v]);
    return box;
}

// Whether all vertices lie at multiples of the cell from the first: then cells have their middles there.
bool is_lattice(const mesh::TriMesh& m, double cell) {
    if (m.vertices.empty()) return false;
    const Vec3 first = m.vertices.front();
    return std::all_of(m.vertices.begin(), m.vertices.end(), [&](const Vec3& v) {
        const double x = (v.x - first.x) / cell, y = (v.y - first.y) / cell;
        return std::fabs(x - std::nearbyint(x)) < 1e-3 && std::fabs(y - std::nearbyint(y)) < 1e-3;
    });
}

// The empty raster that covers a surface.
Raster frame_of(const mesh::TriMesh& m, double cell) {
    if (!(cell > 0) || !std::isfinite(cell))
        throw Error(ErrorCode::Usage, "The side of a cell must be more than 0");
    const Box3 box = box_of(m);
    if (box.empty()) throw Error(ErrorCode::Empty, "The surface is empty");
    Raster r;
    r.cell = cell;
    double columns = 0, rows = 0;
    if (is_lattice(m, cell)) {
        r.x0 = box.lo.x - cell / 2;
        r.y1 = box.hi.y + cell / 2;
        columns = std::nearbyint((box.hi.x - box.lo.x) / cell) + 1;
        rows = std::nearbyint((box.hi.y - box.lo.y) / cell) + 1;
    } else {
        r.x0 = std::floor(box.lo.x / cell) * cell;
        r.y1 = std::ceil(box.hi.y / cell) * cell;
        columns = std::ceil((box.hi.x - r.x0) / cell);
        rows = std::ceil((r.y1 - box.lo.y) / cell);
    }
    if (!(columns * rows <= static_cast<double>(kMostCells)))
        throw Error(ErrorCode::Usage, fmt::format("A cell of {} would make too many cells", cell), {},
                    "Take a larger one.");
    if (columns < 2 || rows < 2)
        throw Error(ErrorCode::Usage,
                    fmt::format("With a cell of {} the grid would have {} x {} cells and say nothing", cell,
                                columns, rows),
                    {}, "Take a smaller one.");
    r.columns = static_cast<int>(columns);
    r.rows = static_cast<int>(rows);
    return r;
}

// Heights at the middles of cells, triangle by triangle.
Raster raster_of(const mesh::TriMesh& m, double cell, double no_data, Progress& progress) {
    Raster r = frame_of(m, cell);
    constexpr double kHair = 1e-9;  // of a triangle's sides: middles on its edges belong to it
    r.z.assign(static_cast<std::size_t>(r.columns) * static_cast<std::size_t>(r.rows), no_data);
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
                if (wb < -kHair || wc < -kHair || wb + wc > 1 + kHair) continue;
                r.z[static_cast<std::size_t>(j) * static_cast<std::size_t>(r.columns) +
                    static_cast<std::size_t>(i)] = a.z + wb * (b.z - a.z) + wc * (c.z - a.z);
            }
    }
    return r;
}

void write_ascii(const Raster& r, const GridWriting& options, const std::filesystem::path& path,
                 bool replace) {
    OutputFile out(path, replace);
    out.write(fmt::format("ncols {}\nnrows {}\nxllcorner {}\nyllcorner {}\ncellsize {}\nNODATA_value {}\n",
                          r.columns, r.rows, r.x0, r.y1 - r.rows * r.cell, r.cell, options.no_data));
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

// The system with the unit of the lengths, and the unit of the heights on the band.
void state_reference(GDALDataset& set, const cloud::Reference& reference) {
    const std::string wkt = wkt_with_unit(reference.crs, reference.unit, reference.height_unit);
    OGRSpatialReference srs;
    if (!wkt.empty() && srs.importFromWkt(wkt.c_str()) == OGRERR_NONE) {
        srs.SetAxisMappingStrategy(OAMS_TRADITIONAL_GIS_ORDER);
        set.SetSpatialRef(&srs);
    }
    const std::string& up = reference.height_unit.empty() ? reference.unit : reference.height_unit;
    if (is_length(up))
        set.GetRasterBand(1)->SetUnitType(up == "usft" ? "US survey foot"
                                          : up == "ft" ? "foot"
                                          : up == "m"  ? "metre"
                                                       : length_unit(up).title);
}

// Whether a file holds what was to be written, cell by cell.
bool holds(const std::filesystem::path& path, const Raster& r, const GridWriting& options) {
    const char* const drivers[] = {"GTiff", nullptr};
    const std::unique_ptr<GDALDataset> set(
        GDALDataset::Open(path.c_str(), GDAL_OF_RASTER | GDAL_OF_READONLY, drivers, nullptr, nullptr));
    if (!set || set->GetRasterXSize() != r.columns || set->GetRasterYSize() != r.rows) return false;
    const double corner[6] = {r.x0, r.cell, 0, r.y1, 0, -r.cell};
    double there[6] = {};
    if (set->GetGeoTransform(there) != CE_None || !std::equal(corner, corner + 6, there)) return false;
    if (set->GetRasterBand(1)->GetNoDataValue() != options.no_data) return false;
    if (!options.reference.crs.empty() && !set->GetSpatialRef()) return false;
    std::vector<double> row(static_cast<std::size_t>(r.columns));
    for (int j = 0; j < r.rows; ++j) {
        if (set->GetRasterBand(1)->RasterIO(GF_Read, 0, j, r.columns, 1, row.data(), r.columns, 1,
                                            GDT_Float64, 0, 0) != CE_None)
            return false;
        if (std::memcmp(row.data(), r.z.data() + row.size() * static_cast<std::size_t>(j),
                        row.size() * sizeof(double)) != 0)
            return false;
    }
    return true;
}

void write_tiff(Raster& r, const GridWriting& options, const std::filesystem::path& path, bool replace) {
    const GdalQuiet quiet;
    GDALDriver* driver = GetGDALDriverManager()->GetDriverByName("GTiff");
    if (!driver) throw Error(ErrorCode::Unsupported, "This machine cannot write GeoTIFF");
    OutputFolder folder(path, replace);
    const GdalFailures failures;
    const auto fail = [&] {
        throw Error(ErrorCode::Io, "The grid could not be written: " + failures.first(), path.string());
    };
    {
        std::unique_ptr<GDALDataset> set(
            driver->Create(folder.path().c_str(), r.columns, r.rows, 1, GDT_Float64, nullptr));
        if (!set) fail();
        double transform[6] = {r.x0, r.cell, 0, r.y1, 0, -r.cell};
        set->SetGeoTransform(transform);
        set->GetRasterBand(1)->SetNoDataValue(options.no_data);
        state_reference(*set, options.reference);
        if (set->GetRasterBand(1)->RasterIO(GF_Write, 0, 0, r.columns, r.rows, r.z.data(), r.columns, r.rows,
                                            GDT_Float64, 0, 0) != CE_None)
            fail();
    }
    // A full disk shows only in what closing could not write, and not in every version of the library.
    if (!failures.first().empty()) fail();
    if (!holds(folder.path(), r, options))
        throw Error(ErrorCode::Io, "The grid could not be written: it does not read back as it was",
                    path.string(), "Is the disk full?");
    folder.finish({".tfw", ".ovr", ".aux"});
}

}  // namespace

double suggested_cell(const mesh::TriMesh& m) {
    std::vector<double> shortest;
    const std::size_t stride = m.triangles.size() / 100'000 + 1;
    for (std::size_t t = 0; t < m.triangles.size(); t += stride) {
        double least = INFINITY;
        for (std::size_t k = 0; k < 3; ++k) {
            const Vec3 d = m.vertices[m.triangles[t][k]] - m.vertices[m.triangles[t][(k + 1) % 3]];
            least = std::min(least, std::hypot(d.x, d.y));
        }
        shortest.push_back(least);
    }
    if (shortest.empty()) return 0;
    const auto middle = shortest.begin() + static_cast<std::ptrdiff_t>(shortest.size() / 2);
    std::nth_element(shortest.begin(), middle, shortest.end());
    if (!(*middle > 0)) return 0;
    // A lattice keeps its cell; its numbers were rounded in forming the places.
    const double nine = std::pow(10.0, 9 - std::ceil(std::log10(*middle)));
    const double cell = std::nearbyint(*middle * nine) / nine;
    if (is_lattice(m, cell)) return cell;
    const double two = std::pow(10.0, 1 - std::floor(std::log10(*middle)));
    return std::nearbyint(*middle * two) / two;
}

GridSize grid_size(const mesh::TriMesh& m, double cell) {
    const Raster r = frame_of(m, cell > 0 ? cell : suggested_cell(m));
    const auto columns = static_cast<std::uint64_t>(r.columns), rows = static_cast<std::uint64_t>(r.rows);
    return {r.cell, columns, rows, columns * rows * sizeof(double)};
}

GridSize write_grid(const mesh::TriMesh& m, const GridWriting& options, const std::filesystem::path& path,
                    bool replace, Progress& progress) {
    const GridSize size = grid_size(m, options.cell);
    // A cell that nobody asked for must not make gigabytes of a few triangles.
    constexpr double kFew = 4e6, kOfATriangle = 200;
    const double cells = static_cast<double>(size.columns) * static_cast<double>(size.rows);
    if (!(options.cell > 0) && cells > std::max(kFew, kOfATriangle * static_cast<double>(m.triangles.size())))
        throw Error(ErrorCode::Usage,
                    fmt::format("With cells of {:g} the grid would have {} x {} cells, for {} triangles",
                                size.cell, size.columns, size.rows, m.triangles.size()),
                    {}, "Say the side of a cell (--cell).");
    Raster r = raster_of(m, size.cell, options.no_data, progress);
    if (std::none_of(r.z.begin(), r.z.end(), [&](double z) { return z != options.no_data; }))
        throw Error(
            ErrorCode::Empty,
            fmt::format("No middle of a cell of {} lies on the surface: the grid would be empty", size.cell),
            {}, "Take a smaller cell.");
    if (ending_of(path) == ".asc") {
        OutputGroup together;
        write_ascii(r, options, path, replace);
        write_sidecar(path, options.reference, replace);
        together.commit();
    } else {
        write_tiff(r, options, path, replace);
    }
    return size;
}

}  // namespace pristine::io
