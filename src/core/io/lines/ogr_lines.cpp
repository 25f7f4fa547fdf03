#include <cpl_error.h>
#include <gdal_priv.h>
#include <ogrsf_frmts.h>

#include <memory>

#include "core/base/error.h"
#include "core/io/ending.h"
#include "core/io/gdal_quiet.h"
#include "core/io/lines/line_sources.h"

namespace pristine::io {
namespace {

void add_curve(const OGRSimpleCurve& c, const std::string& layer, std::vector<MapLine>& out) {
    MapLine l;
    l.layer = layer;
    for (int i = 0; i < c.getNumPoints(); ++i) l.points.push_back({c.getX(i), c.getY(i), c.getZ(i)});
    out.push_back(std::move(l));
}

void add_geometry(const OGRGeometry& g, const std::string& layer, std::vector<MapLine>& out) {
    switch (wkbFlatten(g.getGeometryType())) {
        case wkbLineString:
            add_curve(*g.toLineString(), layer, out);
            break;
        case wkbPolygon:
        case wkbTriangle:
            for (const OGRLinearRing* ring : *g.toPolygon()) add_curve(*ring, layer, out);
            break;
        case wkbMultiLineString:
        case wkbMultiPolygon:
        case wkbGeometryCollection:
            for (const OGRGeometry* part : *g.toGeometryCollection()) add_geometry(*part, layer, out);
            break;
        default:
            if (g.hasCurveGeometry()) {
                const std::unique_ptr<OGRGeometry> chords(g.getLinearGeometry());
                if (chords && !chords->hasCurveGeometry()) add_geometry(*chords, layer, out);
            }
    }
}

}  // namespace

std::vector<MapLine> read_ogr_lines(const std::filesystem::path& path) {
    const GdalQuiet quiet;
    const std::unique_ptr<GDALDataset> data(
        GDALDataset::Open(path.c_str(), GDAL_OF_VECTOR | GDAL_OF_READONLY, nullptr, nullptr, nullptr));
    if (!data)
        throw Error(ErrorCode::Format,
                    std::string("The file cannot be read as lines: ") + CPLGetLastErrorMsg(),
                    path.filename().string());
    std::vector<MapLine> lines;
    for (OGRLayer* layer : data->GetLayers()) {
        layer->ResetReading();
        while (const std::unique_ptr<OGRFeature> feature{layer->GetNextFeature()}) {
            // DXF has one layer for all, and its own in a field.
            int field = feature->GetFieldIndex("Layer");
            if (field < 0) field = feature->GetFieldIndex("name");
            const std::string name = field >= 0 ? feature->GetFieldAsString(field) : layer->GetName();
            if (const OGRGeometry* g = feature->GetGeometryRef()) add_geometry(*g, name, lines);
        }
    }
    return lines;
}

namespace {

const char* driver_of(const std::filesystem::path& path) {
    const std::string e = ending_of(path);
    return e == ".geojson" || e == ".json" ? "GeoJSON"
           : e == ".dxf"                   ? "DXF"
           : e == ".gpkg"                  ? "GPKG"
           : e == ".shp"                   ? "ESRI Shapefile"
           : e == ".csv"                   ? "CSV"
                                           : nullptr;
}

void fill(OGRLayer& layer, const std::vector<MapLine>& lines, bool fields, const std::string& place) {
    for (const MapLine& l : lines) {
        const std::unique_ptr<OGRFeature> feature(OGRFeature::CreateFeature(layer.GetLayerDefn()));
        OGRLineString line;
        for (const Vec3& p : l.points) line.addPoint(p.x, p.y, p.z);
        if (l.closed && !l.points.empty()) line.addPoint(l.points[0].x, l.points[0].y, l.points[0].z);
        feature->SetGeometry(&line);
        feature->SetField(fields ? "name" : "Layer", l.layer.c_str());
        if (layer.CreateFeature(feature.get()) != OGRERR_NONE)
            throw Error(ErrorCode::Io, std::string("A line could not be written: ") + CPLGetLastErrorMsg(),
                        place);
    }
}

}  // namespace

void write_lines(const std::vector<MapLine>& lines, const std::filesystem::path& path, bool replace) {
    const char* name = driver_of(path);
    if (!name)
        throw Error(ErrorCode::Unsupported, "Lines cannot be written into a file of this ending",
                    path.string(), "There are .geojson, .dxf, .gpkg and .shp.");
    if (std::filesystem::exists(path)) {
        if (!replace) throw Error(ErrorCode::Conflict, "The file exists already", path.string());
        std::filesystem::remove(path);
    }
    const GdalQuiet quiet;
    GDALDriver* driver = GetGDALDriverManager()->GetDriverByName(name);
    const std::unique_ptr<GDALDataset> set(
        driver ? driver->Create(path.c_str(), 0, 0, 0, GDT_Unknown, nullptr) : nullptr);
    const std::string driver_name = name;
    // GeoJSON would otherwise round to seven decimals, and think of degrees.
    char* options[] = {const_cast<char*>("COORDINATE_PRECISION=9"), const_cast<char*>("RFC7946=NO"), nullptr};
    OGRLayer* layer = set ? set->CreateLayer("lines", nullptr, wkbLineString25D,
                                             driver_name == "GeoJSON" ? options : nullptr)
                          : nullptr;
    if (!layer)
        throw Error(ErrorCode::Io, std::string("The file could not be made: ") + CPLGetLastErrorMsg(),
                    path.string());
    const bool fields = driver_name != "DXF";  // it has fields of its own
    if (fields) {
        OGRFieldDefn field("name", OFTString);
        layer->CreateField(&field);
    }
    fill(*layer, lines, fields, path.string());
}

}  // namespace pristine::io
