#include <cpl_conv.h>
#include <cpl_error.h>
#include <cpl_string.h>
#include <cpl_vsi.h>
#include <fmt/format.h>
#include <gdal_priv.h>
#include <ogrsf_frmts.h>

#include <algorithm>
#include <atomic>
#include <cmath>
#include <memory>
#include <numbers>
#include <optional>

#include "core/base/error.h"
#include "core/base/file.h"
#include "core/base/fuzzing.h"
#include "core/base/output.h"
#include "core/geometry/arc.h"
#include "core/io/ending.h"
#include "core/io/foreign/guarded.h"
#include "core/io/foreign/line_answer.h"
#include "core/io/gdal_quiet.h"
#include "core/io/landxml_writer.h"
#include "core/io/lines/line_sources.h"
#include "core/io/lines/map_open.h"
#include "core/io/lines/ogr_writer.h"
#include "core/io/reference/remark.h"
#include "core/io/reference/system.h"

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

// The angle of a chord for the DXF reader, which knows nothing of a sagitta.
class ChordsOfDxf {
  public:
    explicit ChordsOfDxf(double step_deg) {
        CPLSetThreadLocalConfigOption("OGR_ARC_STEPSIZE", fmt::format("{:.9f}", step_deg).c_str());
    }
    ~ChordsOfDxf() { CPLSetThreadLocalConfigOption("OGR_ARC_STEPSIZE", nullptr); }
    ChordsOfDxf(const ChordsOfDxf&) = delete;
    ChordsOfDxf& operator=(const ChordsOfDxf&) = delete;
};

std::vector<MapLine> lines_of(const OGRFeature& feature, OGRLayer& layer, double sagitta) {
    // DXF has one layer for all, and its own in a field.
    int field = feature.GetFieldIndex("Layer");
    if (field < 0) field = feature.GetFieldIndex("name");
    const std::string name = field >= 0 ? feature.GetFieldAsString(field) : layer.GetName();
    std::vector<MapLine> lines;
    if (const OGRGeometry* g = feature.GetGeometryRef()) add_geometry(*g, sagitta, name, lines);
    const int role = feature.GetFieldIndex("role");
    for (MapLine& l : lines)
        if (role >= 0 && *feature.GetFieldAsString(role))
            l.role = role_of_word(feature.GetFieldAsString(role));
    return lines;
}

std::vector<MapLine> read_all(const std::filesystem::path& path, double sagitta) {
    const auto data = open_map(path);
    std::vector<MapLine> lines;
    for (OGRLayer* layer : data->GetLayers()) {
        layer->ResetReading();
        while (const std::unique_ptr<OGRFeature> feature{layer->GetNextFeature()})
            for (MapLine& l : lines_of(*feature, *layer, sagitta)) lines.push_back(std::move(l));
    }
    return lines;
}

double to_segment(const Vec3& p, const Vec3& a, const Vec3& b) {
    const Vec3 d = b - a;
    const double l = dot(d, d), t = l > 0 ? std::clamp(dot(p - a, d) / l, 0.0, 1.0) : 0;
    return norm(p - a - d * t);
}

bool lies_on(const Vec3& p, const Vec3& q) {
    return norm(p - q) <= 1e-11 * (1 + norm(p));
}

// Of chords that are far finer than need be only so many that the others lie within the sagitta; what a
// reading with the largest chords has too was drawn, and stays.
std::vector<Vec3> fewer_chords(const std::vector<Vec3>& drawn, const std::vector<Vec3>& fine,
                               double sagitta) {
    if (fine.size() <= drawn.size() || fine.size() < 3) return fine;
    std::vector<std::size_t> stays;  // of `fine`
    for (std::size_t i = 0, next = 0; i < fine.size(); ++i)
        if (i == 0 || i + 1 == fine.size() || (next < drawn.size() && lies_on(fine[i], drawn[next]))) {
            if (next < drawn.size() && lies_on(fine[i], drawn[next])) ++next;
            stays.push_back(i);
        }
    const auto within = [&](std::size_t from, std::size_t to) {
        // Between drawn places a curve is smooth: a few of its places are enough.
        const std::size_t stride = (to - from) / 16 + 1;
        for (std::size_t i = from + 1 + stride / 2; i < to; i += stride)
            if (to_segment(fine[i], fine[from], fine[to]) > 0.9 * sagitta) return false;
        return true;
    };
    std::vector<Vec3> out{fine[0]};
    for (std::size_t k = 1; k < stays.size(); ++k)
        for (std::size_t from = stays[k - 1]; from < stays[k];) {
            // The longest chord from here: doubled while it fits, then halved towards it.
            std::size_t reach = 1;
            while (from + 2 * reach <= stays[k] && within(from, from + 2 * reach)) reach *= 2;
            for (std::size_t step = reach / 2; step > 0; step /= 2)
                if (from + reach + step <= stays[k] && within(from, from + reach + step)) reach += step;
            from += reach;
            out.push_back(fine[from]);
        }
    return out;
}

// Whether chords of this reading may leave their curves too far: where they are too long for their bend, or
// where two drawn places follow each other and a very flat arc may lie between.
bool may_leave(const std::vector<Vec3>& drawn, const std::vector<Vec3>& chords, double sagitta) {
    if (drawn.size() < 2 || chords.size() == drawn.size()) return true;
    std::size_t next = 0;
    bool after_drawn = false;
    for (std::size_t i = 0; i < chords.size(); ++i) {
        const bool is_drawn = next < drawn.size() && lies_on(chords[i], drawn[next]);
        next += is_drawn;
        if (is_drawn && after_drawn) return true;
        after_drawn = is_drawn;
        // The corner lies four sagittas of a chord off the line past it.
        if (!is_drawn && i > 0 && i + 1 < chords.size() &&
            to_segment(chords[i], chords[i - 1], chords[i + 1]) > 0.4 * sagitta)
            return true;
    }
    return false;
}

// A DXF file of which features are read with one angle of chords or another.
class DxfPass {
  public:
    explicit DxfPass(const std::filesystem::path& path) : data_(open_map(path)) {}
    int layers() { return data_->GetLayerCount(); }
    std::optional<std::vector<MapLine>> next(int layer, double step_deg, double sagitta) {
        const ChordsOfDxf chords(step_deg);
        OGRLayer* l = data_->GetLayer(layer);
        const std::unique_ptr<OGRFeature> feature{l->GetNextFeature()};
        return feature ? std::optional(lines_of(*feature, *l, sagitta)) : std::nullopt;
    }

  private:
    OpenMap data_;
};

// The reader makes chords by an angle: first as asked for by a radius of a thousand units, where that is not
// sure to be enough by one of a million; then fewer of them.
std::vector<MapLine> read_dxf(const std::filesystem::path& path, double sagitta) {
    constexpr double kLeast_deg = 0.01, kDrawn_deg = 90;
    const auto angle_for = [&](double radius) {
        const double share = std::min(0.1 * sagitta / radius, 0.01);
        return std::max(kLeast_deg, 2 * std::acos(1 - share) * 180 / std::numbers::pi);
    };
    DxfPass drawn(path), usual(path), flat(path);
    std::vector<MapLine> out;
    for (int k = 0; k < drawn.layers(); ++k)
        for (;;) {
            auto coarse = drawn.next(k, kDrawn_deg, sagitta), lines = usual.next(k, angle_for(1e3), sagitta);
            if (!coarse || !lines) break;
            bool finer = false;
            for (std::size_t l = 0; l < std::min(coarse->size(), lines->size()); ++l)
                finer |= may_leave((*coarse)[l].points, (*lines)[l].points, sagitta);
            if (auto fine = flat.next(k, finer ? angle_for(1e6) : kDrawn_deg, sagitta); finer && fine)
                lines = std::move(fine);
            for (std::size_t l = 0; l < std::min(coarse->size(), lines->size()); ++l) {
                MapLine& line = (*lines)[l];
                line.points = fewer_chords((*coarse)[l].points, line.points, sagitta);
                out.push_back(std::move(line));
            }
        }
    return out;
}

}  // namespace

std::vector<MapLine> read_ogr_lines(const std::filesystem::path& path, double sagitta) {
    if (fuzzing) return read_ogr_lines_here(path, sagitta);
    return lines_from(
        run_guarded({"lines", std::filesystem::absolute(path).string(), fmt::format("{}", sagitta)},
                    limits_for(path), path.filename().string()));
}

cloud::Reference reference_of_ogr_lines(const std::filesystem::path& path) {
    if (fuzzing) return reference_of_ogr_lines_here(path);
    return reference_from(run_guarded({"reference", std::filesystem::absolute(path).string()},
                                      limits_for(path), path.filename().string()));
}

std::vector<MapLine> read_ogr_lines_here(const std::filesystem::path& path, double sagitta) {
    const GdalQuiet quiet;
    return ending_of(path) == ".dxf" ? read_dxf(path, sagitta) : read_all(path, sagitta);
}

cloud::Reference reference_of_ogr_lines_here(const std::filesystem::path& path) {
    const GdalQuiet quiet;
    if (ending_of(path) == ".geojson" || ending_of(path) == ".json") {
        const InputFile file(path);
        const std::string head = file.read_string(0, std::min<std::uint64_t>(file.size(), 1u << 20));
        if (head.find("\"crs\"") == std::string::npos) return {};
    }
    const auto data = open_map(path);
    for (OGRLayer* layer : data->GetLayers()) {
        const OGRSpatialReference* srs = layer->GetSpatialRef();
        char* wkt = nullptr;
        if (!srs || srs->exportToWkt(&wkt) != OGRERR_NONE || !wkt) {
            CPLFree(wkt);
            continue;
        }
        cloud::Reference r = reference_of(wkt);
        CPLFree(wkt);
        const System s = system_of(r.crs);
        if (s.name.rfind("Undefined", 0) == 0 || s.name == "unknown") continue;
        if (!s.code.empty() && system_of(s.code) == s) r.crs = s.code;
        return r;
    }
    return {};
}

void write_lines(const std::vector<MapLine>& lines, const std::filesystem::path& path, bool replace,
                 const cloud::Reference& reference) {
    if (ending_of(path) == ".xml") {
        OutputFile out(path, replace);
        out.write(text_of(LandXml{reference, {}, lines, {}}));
        return out.finish();
    }
    if (!driver_of(path))
        throw Error(ErrorCode::Unsupported, "Lines cannot be written into a file of this ending",
                    path.string(), "There are .geojson, .dxf, .gpkg, .shp and .xml (LandXML).");
    std::vector<MapFeature> all;
    for (const MapLine& l : lines) {
        MapFeature f{MapFeature::Shape::Line, l.points, l.layer};
        if (l.closed && !l.points.empty()) f.points.push_back(l.points.front());
        f.fields = {{"name", l.layer}};
        if (l.role) f.fields.emplace_back("role", std::string(name_of(*l.role)));
        all.push_back(std::move(f));
    }
    static constexpr auto kLine = MapFeature::Shape::Line;
    write_features(all, {"lines", &kLine}, path, replace, reference);
}

}  // namespace pristine::io
