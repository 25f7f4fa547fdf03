#include <cpl_error.h>
#include <gdal_priv.h>
#include <ogrsf_frmts.h>

#include <memory>
#include <mutex>

#include "core/base/error.h"
#include "core/io/lines/line_sources.h"

namespace pristine::io {
namespace {

// GDAL's errors become ours at this boundary and are not printed.
class Quiet {
  public:
    Quiet() {
        static std::once_flag once;
        std::call_once(once, [] { GDALAllRegister(); });
        CPLErrorReset();
        CPLPushErrorHandler(CPLQuietErrorHandler);
    }
    ~Quiet() { CPLPopErrorHandler(); }
    Quiet(const Quiet&) = delete;
    Quiet& operator=(const Quiet&) = delete;
};

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
    const Quiet quiet;
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
            const int field = feature->GetFieldIndex("Layer");
            const std::string name = field >= 0 ? feature->GetFieldAsString(field) : layer->GetName();
            if (const OGRGeometry* g = feature->GetGeometryRef()) add_geometry(*g, name, lines);
        }
    }
    return lines;
}

}  // namespace pristine::io
