#include "core/io/lines/map_points.h"

#include <ogrsf_frmts.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <cmath>
#include <limits>
#include <string_view>

#include "core/base/error.h"
#include "core/io/ending.h"
#include "core/io/foreign/answer_bytes.h"
#include "core/io/foreign/guarded.h"
#include "core/io/foreign/point_answer.h"
#include "core/io/gdal_quiet.h"
#include "core/io/lines/lines.h"
#include "core/io/lines/map_open.h"

namespace pristine::io {
namespace {

std::string lower(std::string s) {
    std::transform(s.begin(), s.end(), s.begin(), [](unsigned char c) { return std::tolower(c); });
    return s;
}

// The first field of one of these names, whatever its letters are like; -1: none.
template <std::size_t N>
int field_of(const OGRFeatureDefn& d, const std::array<const char*, N>& names) {
    for (const char* wanted : names)
        for (int i = 0; i < d.GetFieldCount(); ++i)
            if (lower(d.GetFieldDefn(i)->GetNameRef()) == wanted) return i;
    return -1;
}
constexpr std::array kNames{"point", "name", "point_id", "pointid", "pt",     "number",
                            "nr",    "no",   "num",      "id",      "punktnr"};
constexpr std::array kCodes{"code", "kode",  "feature", "kind", "type",
                            "art",  "layer", "descr",   "desc", "description"};
constexpr std::array kHeights{"z", "height", "h", "elev", "elevation", "hoehe", "höhe", "rl", "level"};
// Names of columns that mean something to the program, which a map means otherwise.
constexpr std::array kTaken{"x",     "y",    "z",    "point",    "code", "class",   "intensity", "red",
                            "green", "blue", "time", "gps time", "scan", "station", "return",    "returns"};

bool is_number(const OGRFieldDefn& f) {
    return f.GetType() == OFTInteger || f.GetType() == OFTInteger64 || f.GetType() == OFTReal;
}

// One layer of points as it is read.
class LayerOfPoints {
  public:
    explicit LayerOfPoints(OGRLayer& layer, bool dxf) : layer_(layer), dxf_(dxf) {
        const OGRFeatureDefn& d = *layer.GetLayerDefn();
        out_.list.name = layer.GetName();
        name_ = dxf ? -1 : field_of(d, kNames);
        code_ = field_of(d, kCodes);
        height_ = dxf ? -1 : field_of(d, kHeights);
        sub_class_ = dxf ? field_of(d, std::array{"subclasses"}) : -1;
        // Of a DXF only the layer says something of a point.
        for (int i = 0; i < d.GetFieldCount() && !dxf; ++i)
            if (i != name_ && i != code_)
                columns_.push_back(i), out_.list.columns.push_back({title(d, i), {}, {}});
    }

    MapPoints read() {
        layer_.ResetReading();
        while (const std::unique_ptr<OGRFeature> f{layer_.GetNextFeature()}) {
            if (dxf_ && !is_point_of_dxf(*f)) continue;
            if (const OGRGeometry* g = f->GetGeometryRef()) add(*f, *g);
        }
        // A height of the map stands in for the one that no place has.
        out_.flat = !any_height_ && !height_of_field_;
        if (!any_height_ && height_of_field_)
            for (std::size_t i = 0; i < heights_.size(); ++i) out_.list.points[i].z = heights_[i];
        const auto all_empty = [](const std::vector<std::string>& w) {
            return std::all_of(w.begin(), w.end(), [](const auto& s) { return s.empty(); });
        };
        if (all_empty(out_.list.names)) out_.list.names.clear();
        if (all_empty(out_.list.codes)) out_.list.codes.clear();
        return std::move(out_);
    }

  private:
    static std::string title(const OGRFeatureDefn& d, int field) {
        const std::string name = d.GetFieldDefn(field)->GetNameRef();
        const bool taken = std::find(kTaken.begin(), kTaken.end(), lower(name)) != kTaken.end();
        return taken ? name + " of the map" : name;
    }
    // Texts are points to the reader as well. Old files name no subclass: there the style tells them apart.
    bool is_point_of_dxf(const OGRFeature& f) const {
        const std::string kind = sub_class_ < 0 ? "" : f.GetFieldAsString(sub_class_);
        if (!kind.empty()) return kind.find("AcDbPoint") != std::string::npos;
        const char* style = f.GetStyleString();
        return !style || !std::string_view(style).starts_with("LABEL");
    }
    void add(const OGRFeature& f, const OGRGeometry& g) {
        if (wkbFlatten(g.getGeometryType()) == wkbPoint) return add_point(f, *g.toPoint());
        if (wkbFlatten(g.getGeometryType()) == wkbMultiPoint)
            for (const OGRPoint* p : *g.toMultiPoint()) add_point(f, *p);
    }
    void add_point(const OGRFeature& f, const OGRPoint& p) {
        if (p.IsEmpty() || !std::isfinite(p.getX()) || !std::isfinite(p.getY())) return;
        const double z = p.Is3D() && std::isfinite(p.getZ()) ? p.getZ() : 0;
        any_height_ |= z != 0;
        out_.list.points.push_back({p.getX(), p.getY(), z});
        out_.list.names.emplace_back(name_ >= 0 ? f.GetFieldAsString(name_) : "");
        out_.list.codes.emplace_back(code_ >= 0 ? f.GetFieldAsString(code_) : "");
        const bool has = height_ >= 0 && f.IsFieldSetAndNotNull(height_);
        const double h = has ? f.GetFieldAsDouble(height_) : 0;
        height_of_field_ |= has;
        heights_.push_back(std::isfinite(h) ? h : 0);
        for (std::size_t k = 0; k < columns_.size(); ++k) {
            PointList::Column& c = out_.list.columns[k];
            const bool set = f.IsFieldSetAndNotNull(columns_[k]);
            if (is_number(*f.GetFieldDefnRef(columns_[k])))
                c.numbers.push_back(set ? f.GetFieldAsDouble(columns_[k])
                                        : std::numeric_limits<double>::quiet_NaN());
            else
                c.words.emplace_back(set ? f.GetFieldAsString(columns_[k]) : "");
        }
    }

    OGRLayer& layer_;
    bool dxf_;
    int name_ = -1, code_ = -1, height_ = -1, sub_class_ = -1;
    std::vector<int> columns_;
    std::vector<double> heights_;
    bool any_height_ = false, height_of_field_ = false;
    MapPoints out_;
};

}  // namespace

bool can_hold_map_points(const std::filesystem::path& path) {
    const std::string e = ending_of(path);
    return e == ".shp" || e == ".gpkg" || e == ".geojson" || e == ".json" || e == ".dxf";
}

std::vector<MapPoints> read_map_points(const std::filesystem::path& path) {
    const std::string place = path.filename().string();
    return map_points_from(
        run_guarded({"points", std::filesystem::absolute(path).string()}, limits_for(path), place));
}

std::vector<MapPoints> read_map_points_here(const std::filesystem::path& path) {
    const GdalQuiet quiet;
    const OpenMap data = open_map(path);
    std::vector<MapPoints> all;
    for (int k = 0; k < data->GetLayerCount(); ++k) {
        MapPoints p = LayerOfPoints(*data->GetLayer(k), ending_of(path) == ".dxf").read();
        if (!p.list.points.empty()) all.push_back(std::move(p));
    }
    return all;
}

std::vector<ReadResult> read_map_point_clouds(const std::filesystem::path& path, Progress& progress) {
    progress.stretch(0, 0.6, "Reading points");
    const std::vector<MapPoints> layers = read_map_points(path);
    if (layers.empty())
        throw Error(ErrorCode::Format, "The file holds no points", path.filename().string(),
                    "Its lines come in by Add lines.");
    const cloud::Reference reference = reference_of_lines(path);
    progress.stretch(0.6, 1, "Ordering points");
    std::vector<ReadResult> out;
    for (const MapPoints& p : layers) {
        ReadResult r{cloud_of_points(p.list, reference, progress), "points of a map", {}, {}};
        if (layers.size() > 1) r.name = p.list.name;
        if (p.flat) r.warnings.push_back("The points have no heights: they lie at 0.");
        out.push_back(std::move(r));
    }
    return out;
}

}  // namespace pristine::io
