#include "core/io/lines/ogr_writer.h"

#include <cpl_conv.h>
#include <cpl_error.h>
#include <cpl_string.h>
#include <cpl_vsi.h>
#include <fmt/format.h>
#include <gdal_priv.h>
#include <ogrsf_frmts.h>

#include <algorithm>
#include <atomic>
#include <memory>
#include <set>

#include "core/base/error.h"
#include "core/base/output.h"
#include "core/io/ending.h"
#include "core/io/gdal_quiet.h"
#include "core/io/reference/system.h"

namespace pristine::io {
namespace {

using Shape = MapFeature::Shape;

std::unique_ptr<OGRGeometry> geometry_of(const MapFeature& f) {
    const auto fill = [&](OGRSimpleCurve& c, bool closed) {
        for (const Vec3& p : f.points) c.addPoint(p.x, p.y, p.z);
        if (closed && !f.points.empty()) c.addPoint(f.points[0].x, f.points[0].y, f.points[0].z);
    };
    switch (f.shape) {
        case Shape::Point:
            return std::make_unique<OGRPoint>(f.points.at(0).x, f.points[0].y, f.points[0].z);
        case Shape::Line: {
            auto line = std::make_unique<OGRLineString>();
            fill(*line, false);
            return line;
        }
        case Shape::Area: {
            OGRLinearRing ring;
            fill(ring, true);
            auto area = std::make_unique<OGRPolygon>();
            area->addRing(&ring);
            return area;
        }
    }
    return nullptr;
}

void add(OGRLayer& layer, OGRFeature& feature, const FeatureKind& kind, const std::string& place) {
    if (layer.CreateFeature(&feature) != OGRERR_NONE)
        throw Error(ErrorCode::Io,
                    fmt::format("One of the {} could not be written: {}", kind.name, CPLGetLastErrorMsg()),
                    place);
}

// A text beside the first place, where labels are things of their own.
void add_label(OGRLayer& layer, const MapFeature& f, const FeatureKind& kind, double height,
               const std::string& place) {
    std::string text;
    for (const char c : f.label) text += c == '"' ? std::string("\\\"") : std::string(1, c);
    const std::unique_ptr<OGRFeature> feature(OGRFeature::CreateFeature(layer.GetLayerDefn()));
    const OGRPoint at(f.points.at(0).x, f.points[0].y, f.points[0].z);
    feature->SetGeometry(&at);
    feature->SetField("Layer", f.layer.c_str());
    feature->SetStyleString(fmt::format("LABEL(t:\"{}\",s:{}g)", text, height).c_str());
    add(layer, *feature, kind, place);
}

void fill(OGRLayer& layer, const std::vector<MapFeature>& all, const FeatureKind& kind, bool has_fields,
          double text_height, const std::string& place) {
    for (const MapFeature& f : all) {
        const std::unique_ptr<OGRFeature> feature(OGRFeature::CreateFeature(layer.GetLayerDefn()));
        feature->SetGeometryDirectly(geometry_of(f).release());
        if (!has_fields) feature->SetField("Layer", f.layer.c_str());
        for (const auto& [name, value] : f.fields) {
            if (!has_fields) break;
            if (const auto* text = std::get_if<std::string>(&value))
                feature->SetField(name.c_str(), text->c_str());
            else
                feature->SetField(name.c_str(), std::get<double>(value));
        }
        add(layer, *feature, kind, place);
        if (!has_fields && !f.label.empty()) add_label(layer, f, kind, text_height, place);
    }
}

void make_fields(OGRLayer& layer, const std::vector<MapFeature>& all) {
    std::set<std::string> made;
    for (const MapFeature& f : all)
        for (const auto& [name, value] : f.fields) {
            if (!made.insert(name).second) continue;
            OGRFieldDefn field(name.c_str(), std::holds_alternative<double>(value) ? OFTReal : OFTString);
            layer.CreateField(&field);
        }
}

OGRwkbGeometryType type_of(const FeatureKind& kind) {
    if (!kind.shape) return wkbUnknown;
    return *kind.shape == Shape::Point  ? wkbPoint25D
           : *kind.shape == Shape::Line ? wkbLineString25D
                                        : wkbPolygon25D;
}

// Writes a file of its own, and closes it. `place`: for messages.
void make_file(const std::vector<MapFeature>& all, const FeatureKind& kind, const std::string& driver_name,
               const std::filesystem::path& path, const std::filesystem::path& place,
               const cloud::Reference& reference, double text_height) {
    GDALDriver* driver = GetGDALDriverManager()->GetDriverByName(driver_name.c_str());
    const std::unique_ptr<GDALDataset> set(
        driver ? driver->Create(path.c_str(), 0, 0, 0, GDT_Unknown, nullptr) : nullptr);
    // GeoJSON would otherwise round to seven decimals, and think of degrees.
    char* options[] = {const_cast<char*>("COORDINATE_PRECISION=9"), const_cast<char*>("RFC7946=NO"), nullptr};
    OGRSpatialReference srs;
    const std::string wkt = wkt_with_unit(reference.crs, reference.unit, reference.height_unit);
    const bool stated = !wkt.empty() && srs.importFromWkt(wkt.c_str()) == OGRERR_NONE;
    srs.SetAxisMappingStrategy(OAMS_TRADITIONAL_GIS_ORDER);
    OGRLayer* layer = set ? set->CreateLayer(kind.name, stated ? &srs : nullptr, type_of(kind),
                                             driver_name == "GeoJSON" ? options : nullptr)
                          : nullptr;
    if (!layer)
        throw Error(ErrorCode::Io, std::string("The file could not be made: ") + CPLGetLastErrorMsg(),
                    place.string());
    const bool has_fields = driver_name != "DXF";
    if (has_fields) make_fields(*layer, all);
    fill(*layer, all, kind, has_fields, text_height, place.string());
}

// How many features a file holds, each read whole.
std::size_t features_in(const std::filesystem::path& path, const std::string& driver_name) {
    const char* const drivers[] = {driver_name.c_str(), nullptr};
    const std::unique_ptr<GDALDataset> set(
        GDALDataset::Open(path.c_str(), GDAL_OF_VECTOR | GDAL_OF_READONLY, drivers, nullptr, nullptr));
    std::size_t n = 0;
    if (!set) return n;
    for (OGRLayer* layer : set->GetLayers()) {
        layer->ResetReading();
        while (const std::unique_ptr<OGRFeature> feature{layer->GetNextFeature()})
            n += feature->GetGeometryRef() != nullptr;
    }
    return n;
}

// A folder of GDAL's in memory.
class MemoryFolder {
  public:
    MemoryFolder() {
        static std::atomic<std::uint64_t> number{0};
        path_ = fmt::format("/vsimem/pristine-lines-{}", number++);
        VSIMkdir(path_.c_str(), 0700);
    }
    ~MemoryFolder() { VSIRmdirRecursive(path_.c_str()); }
    MemoryFolder(const MemoryFolder&) = delete;
    MemoryFolder& operator=(const MemoryFolder&) = delete;
    std::filesystem::path path() const { return path_; }
    void move_to(OutputFolder& folder) const {
        const std::unique_ptr<char*, decltype(&CSLDestroy)> names(VSIReadDir(path_.c_str()), &CSLDestroy);
        for (char** name = names.get(); name && *name; ++name) {
            vsi_l_offset bytes = 0;
            const GByte* data = VSIGetMemFileBuffer((path_ + "/" + *name).c_str(), &bytes, FALSE);
            if (data) folder.add(*name, data, bytes);
        }
    }

  private:
    std::string path_;
};

}  // namespace

const char* driver_of(const std::filesystem::path& path) {
    const std::string e = ending_of(path);
    return e == ".geojson" || e == ".json" ? "GeoJSON"
           : e == ".dxf"                   ? "DXF"
           : e == ".gpkg"                  ? "GPKG"
           : e == ".shp"                   ? "ESRI Shapefile"
           : e == ".csv"                   ? "CSV"
                                           : nullptr;
}

void write_features(const std::vector<MapFeature>& all, const FeatureKind& kind,
                    const std::filesystem::path& path, bool replace, const cloud::Reference& reference,
                    double text_height) {
    const char* name = driver_of(path);
    if (!name)
        throw Error(ErrorCode::Unsupported,
                    fmt::format("The {} cannot be written into a file of this ending", kind.name),
                    path.string());
    const GdalQuiet quiet;
    OutputFolder folder(path, replace);
    const GdalFailures failures;
    // In memory, and from there by our own hand: drivers do not tell of every call that fails on a disk.
    const MemoryFolder memory;
    const std::filesystem::path made = memory.path() / path.filename();
    make_file(all, kind, name, made, path, reference, text_height);
    if (!failures.first().empty())
        throw Error(ErrorCode::Io,
                    fmt::format("The {} could not be written: {}", kind.name, failures.first()),
                    path.string());
    std::size_t wanted = all.size();
    if (std::string(name) == "DXF")
        wanted += static_cast<std::size_t>(
            std::count_if(all.begin(), all.end(), [](const MapFeature& f) { return !f.label.empty(); }));
    if (const std::size_t there = features_in(made, name); there != wanted)
        throw Error(ErrorCode::Io,
                    fmt::format("The {} could not be written: {} of {} read back", kind.name, there, wanted),
                    path.string());
    memory.move_to(folder);
    // The system of a file that was there must not speak for this one.
    folder.finish(ending_of(path) == ".shp"
                      ? std::vector<std::string>{".prj", ".cpg", ".qix", ".sbn", ".sbx", ".shx", ".dbf"}
                      : std::vector<std::string>());
}

}  // namespace pristine::io
