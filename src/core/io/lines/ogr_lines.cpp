#include <cpl_conv.h>
#include <cpl_error.h>
#include <gdal_priv.h>
#include <ogrsf_frmts.h>

#include <algorithm>
#include <cmath>
#include <memory>
#include <numbers>

#include "core/base/error.h"
#include "core/geometry/arc.h"
#include "core/io/ending.h"
#include "core/io/gdal_quiet.h"
#include "core/io/lines/line_sources.h"

namespace pristine::io {
namespace {

// Straight parts, arcs through three places each, or some of both.
void add_places(const OGRCurve& c, double sagitta, std::vector<Vec3>& out) {
    if (const auto* compound = dynamic_cast<const OGRCompoundCurve*>(&c)) {
        for (int i = 0; i < compound->getNumCurves(); ++i) add_places(*compound->getCurve(i), sagitta, out);
        return;
    }
    const auto* simple = dynamic_cast<const OGRSimpleCurve*>(&c);
    if (!simple) return;
    const auto at = [&](int i) { return Vec3{simple->getX(i), simple->getY(i), simple->getZ(i)}; };
    const int n = simple->getNumPoints();
    if (n > 0 && (out.empty() || !(out.back() == at(0)))) out.push_back(at(0));
    if (wkbFlatten(c.getGeometryType()) == wkbCircularString) {
        for (int i = 2; i < n; i += 2) {
            const auto arc = arc_points_through(at(i - 2), at(i - 1), at(i), sagitta);
            out.insert(out.end(), arc.begin(), arc.end());
        }
        return;
    }
    for (int i = 1; i < n; ++i) out.push_back(at(i));
}

void add_curve(const OGRCurve& c, double sagitta, const std::string& layer, std::vector<MapLine>& out) {
    MapLine l;
    l.layer = layer;
    add_places(c, sagitta, l.points);
    out.push_back(std::move(l));
}

void add_geometry(const OGRGeometry& g, double sagitta, const std::string& layer, std::vector<MapLine>& out) {
    switch (wkbFlatten(g.getGeometryType())) {
        case wkbLineString:
        case wkbCircularString:
        case wkbCompoundCurve:
            add_curve(*g.toCurve(), sagitta, layer, out);
            break;
        case wkbPolygon:
        case wkbTriangle:
        case wkbCurvePolygon: {
            const OGRCurvePolygon& p = *g.toCurvePolygon();
            if (p.getExteriorRingCurve()) add_curve(*p.getExteriorRingCurve(), sagitta, layer, out);
            for (int i = 0; i < p.getNumInteriorRings(); ++i)
                add_curve(*p.getInteriorRingCurve(i), sagitta, layer, out);
            break;
        }
        case wkbMultiLineString:
        case wkbMultiPolygon:
        case wkbMultiCurve:
        case wkbMultiSurface:
        case wkbGeometryCollection:
            for (const OGRGeometry* part : *g.toGeometryCollection())
                add_geometry(*part, sagitta, layer, out);
            break;
        default:
            if (g.hasCurveGeometry()) {
                const std::unique_ptr<OGRGeometry> chords(g.getLinearGeometry());
                if (chords && !chords->hasCurveGeometry()) add_geometry(*chords, sagitta, layer, out);
            }
    }
}

// Makes the DXF reader, which makes chords by an angle and not by their sagitta, keep to it for radii of up
// to 10,000 units: more chords than needed on smaller ones.
class ChordsOfDxf {
  public:
    explicit ChordsOfDxf(double sagitta) {
        const double step = 2 * std::acos(1 - std::min(sagitta / 10'000, 0.001)) * 180 / std::numbers::pi;
        CPLSetThreadLocalConfigOption("OGR_ARC_STEPSIZE", std::to_string(step).c_str());
    }
    ~ChordsOfDxf() { CPLSetThreadLocalConfigOption("OGR_ARC_STEPSIZE", nullptr); }
    ChordsOfDxf(const ChordsOfDxf&) = delete;
    ChordsOfDxf& operator=(const ChordsOfDxf&) = delete;
};

}  // namespace

std::vector<MapLine> read_ogr_lines(const std::filesystem::path& path, double sagitta) {
    const GdalQuiet quiet;
    const ChordsOfDxf chords(sagitta);
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
            if (const OGRGeometry* g = feature->GetGeometryRef()) add_geometry(*g, sagitta, name, lines);
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
