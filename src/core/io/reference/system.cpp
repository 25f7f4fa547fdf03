#include "core/io/reference/system.h"

#include <cpl_conv.h>
#include <cpl_string.h>
#include <fmt/format.h>
#include <ogr_spatialref.h>

#include <algorithm>
#include <cctype>
#include <cmath>
#include <map>
#include <mutex>

#include "core/base/error.h"
#include "core/base/units.h"
#include "core/io/gdal_quiet.h"

namespace pristine::io {
namespace {

bool all_digits(const std::string& s) {
    return !s.empty() && std::all_of(s.begin(), s.end(), [](unsigned char c) { return std::isdigit(c); });
}

// "EPSG:25832+7837", whose numbers are digits only.
bool is_code(const std::string& text) {
    if (text.rfind("EPSG:", 0) != 0) return false;
    const std::string numbers = text.substr(5);
    const auto plus = numbers.find('+');
    return plus == std::string::npos
               ? all_digits(numbers)
               : all_digits(numbers.substr(0, plus)) && all_digits(numbers.substr(plus + 1));
}

// Longitude and easting first, whatever a system's own order of axes. Reads codes and WKT and nothing else:
// no file and no address.
bool import(OGRSpatialReference& srs, const std::string& definition) {
    srs.SetAxisMappingStrategy(OAMS_TRADITIONAL_GIS_ORDER);
    if (definition.empty()) return false;
    if (is_code(definition)) {
        static const char* const options[] = {"ALLOW_NETWORK_ACCESS=NO", "ALLOW_FILE_ACCESS=NO", nullptr};
        return srs.SetFromUserInput(definition.c_str(), options) == OGRERR_NONE;
    }
    return definition.size() < 65536 && srs.importFromWkt(definition.c_str()) == OGRERR_NONE;
}

std::string text(const char* s) {
    return s ? s : "";
}

std::string code_of(const OGRSpatialReference& srs, const char* part) {
    return text(srs.GetAuthorityName(part)) == "EPSG" ? text(srs.GetAuthorityCode(part)) : std::string();
}

std::string code_of(const OGRSpatialReference& srs, bool vertical) {
    const std::string plan = code_of(srs, srs.IsProjected() ? "PROJCS" : "GEOGCS");
    if (!vertical) {
        const std::string own = code_of(srs, nullptr);
        return own.empty() ? plan : own;
    }
    const std::string heights = code_of(srs, "VERT_CS");
    return plan.empty() || heights.empty() ? std::string() : plan + "+" + heights;
}

System described(const std::string& definition) {
    const GdalQuiet quiet;
    OGRSpatialReference srs;
    System s;
    if (!import(srs, definition)) return s;
    const bool vertical = srs.GetAttrNode("VERT_CS") != nullptr || srs.IsVertical() != 0;
    const bool plan = srs.IsProjected() || srs.IsGeographic() || srs.IsLocal() || srs.IsGeocentric();
    if (srs.IsProjected())
        s.name = text(srs.GetAttrValue("PROJCS"));
    else if (srs.IsGeographic())
        s.name = text(srs.GetAttrValue("GEOGCS"));
    if (s.name.empty()) s.name = text(srs.GetName());
    if (s.name.empty()) s.name = "unnamed system";
    const std::string up = vertical ? unit_of_metres(srs.GetTargetLinearUnits("VERT_CS")) : std::string();
    if (srs.IsGeographic() && !srs.IsProjected()) {
        s.unit = kDegrees;
        s.height_unit = up.empty() ? "m" : up;
    } else if (plan) {
        s.unit =
            unit_of_metres(srs.IsProjected() ? srs.GetTargetLinearUnits("PROJCS") : srs.GetLinearUnits());
        if (!up.empty() && up != s.unit) s.height_unit = up;
    } else {
        s.unit = up;
    }
    if (vertical && plan) s.heights = text(srs.GetAttrValue("VERT_CS"));
    if (const std::string code = code_of(srs, vertical && plan); !code.empty()) s.code = "EPSG:" + code;
    return s;
}

std::string exported(const OGRSpatialReference& srs, const char* format) {
    const std::string option = std::string("FORMAT=") + format;
    const char* const options[] = {option.c_str(), nullptr};
    char* out = nullptr;
    const bool done = srs.exportToWkt(&out, options) == OGRERR_NONE && out;
    const std::string wkt = done ? out : "";
    CPLFree(out);
    return wkt;
}

std::string as_wkt(const OGRSpatialReference& srs, bool esri) {
    std::string wkt = exported(srs, esri ? "WKT1_ESRI" : "WKT1_GDAL");
    if (wkt.empty()) wkt = exported(srs, "WKT2_2018");
    return wkt;
}

void set_units(OGRSpatialReference& srs, const System& now, const std::string& unit,
               const std::string& height_unit) {
    const LengthUnit& u = length_unit(unit);
    if (is_length(unit) && unit != now.unit && srs.IsProjected())
        srs.SetLinearUnitsAndUpdateParameters(u.title, u.metres, "PROJCS");
    const std::string& up = height_unit.empty() ? unit : height_unit;
    const std::string& is = now.height_unit.empty() ? now.unit : now.height_unit;
    if (!now.heights.empty() && is_length(up) && up != is)
        srs.SetTargetLinearUnits("VERT_CS", length_unit(up).title, length_unit(up).metres);
}

}  // namespace

bool System::degrees() const {
    return unit == kDegrees;
}

std::string System::title() const {
    std::string t = name;
    if (!heights.empty()) t += " + " + heights;
    if (!code.empty()) t += ", " + code;
    return t;
}

System system_of(const std::string& definition) {
    if (definition.empty()) return {};
    static std::mutex mutex;
    static std::map<std::string, System> known;
    {
        const std::lock_guard<std::mutex> guard(mutex);
        if (const auto it = known.find(definition); it != known.end()) return it->second;
    }
    const System s = described(definition);
    const std::lock_guard<std::mutex> guard(mutex);
    if (known.size() > 200) known.clear();
    return known[definition] = s;
}

std::string system_typed(const std::string& typed) {
    std::string text = typed;
    while (!text.empty() && std::isspace(static_cast<unsigned char>(text.back()))) text.pop_back();
    while (!text.empty() && std::isspace(static_cast<unsigned char>(text.front()))) text.erase(0, 1);
    std::string upper = text.substr(0, 5);
    std::transform(upper.begin(), upper.end(), upper.begin(),
                   [](unsigned char c) { return std::toupper(c); });
    if (upper == "EPSG:") text = upper + text.substr(5);
    if (!text.empty() && std::isdigit(static_cast<unsigned char>(text[0]))) text = "EPSG:" + text;
    if (text.empty()) return {};
    if (system_of(text).name.empty())
        throw Error(ErrorCode::Usage,
                    "'" + typed.substr(0, 60) + "' is no reference system that is known here", {},
                    "Give a number of the EPSG register, for example EPSG:25832, or WKT.");
    return text;
}

std::string wkt_with_unit(const std::string& definition, const std::string& unit,
                          const std::string& height_unit, bool esri) {
    const GdalQuiet quiet;
    OGRSpatialReference srs;
    if (import(srs, definition)) {
        set_units(srs, system_of(definition), unit, height_unit);
        return as_wkt(srs, esri);
    }
    if (!is_length(unit)) return {};
    const LengthUnit& u = length_unit(unit);
    const std::string factor = fmt::format("{:.17g}", u.metres);
    if (esri) return fmt::format("LOCAL_CS[\"Local system\",UNIT[\"{}\",{}]]", u.title, factor);
    return fmt::format(
        "LOCAL_CS[\"Local system\",LOCAL_DATUM[\"Local datum\",0],UNIT[\"{}\",{}],AXIS[\"Easting\",EAST],"
        "AXIS[\"Northing\",NORTH]]",
        u.title, factor);
}

std::string zone_for(double longitude, double latitude) {
    const int zone = std::clamp(static_cast<int>(std::floor((longitude + 180) / 6)) + 1, 1, 60);
    return fmt::format("EPSG:{}", (latitude < 0 ? 32700 : 32600) + zone);
}

struct Reprojection::Own {
    OGRSpatialReference from, to;
    std::unique_ptr<OGRCoordinateTransformation> way;
    double plan_in = 1, heights = 1;
};

Reprojection::Reprojection(const std::string& from, const std::string& from_unit,
                           const std::string& from_height_unit, const std::string& to)
    : own_(new Own) {
    const GdalQuiet quiet;
    const auto refuse = [&](const std::string& why) {
        delete own_;
        throw Error(ErrorCode::Usage, why, {}, "State the right reference system of the item first.");
    };
    const System a = system_of(from), b = system_of(to);
    if (!import(own_->from, from) || a.unit.empty()) refuse("The reference system of the data is not known");
    if (!import(own_->to, to) || b.unit.empty()) refuse("The reference system to convert to is not known");
    own_->from.StripVertical();
    own_->to.StripVertical();
    OGRCoordinateTransformationOptions options;
    options.SetBallparkAllowed(false);
    own_->way.reset(OGRCreateCoordinateTransformation(&own_->from, &own_->to, options));
    if (!own_->way) refuse(fmt::format("There is no known way from {} to {}", a.title(), b.title()));
    if (is_length(from_unit) && is_length(a.unit))
        own_->plan_in = length_unit(from_unit).metres / length_unit(a.unit).metres;
    const auto up = [](const std::string& unit, const std::string& height) {
        return height.empty() ? unit : height;
    };
    const std::string source = up(from_unit, from_height_unit), target = up(b.unit, b.height_unit);
    own_->heights = length_unit(source).metres / length_unit(target).metres;
}

Reprojection::~Reprojection() {
    delete own_;
}

void Reprojection::apply(std::vector<Vec3>& places) {
    const GdalQuiet quiet;
    std::vector<double> x(places.size()), y(places.size());
    for (std::size_t i = 0; i < places.size(); ++i) {
        x[i] = places[i].x * own_->plan_in;
        y[i] = places[i].y * own_->plan_in;
    }
    std::vector<int> done(places.size());
    own_->way->Transform(static_cast<int>(places.size()), x.data(), y.data(), nullptr, nullptr, done.data());
    for (std::size_t i = 0; i < places.size(); ++i)
        places[i] = done[i] ? Vec3{x[i], y[i], places[i].z * own_->heights} : Vec3{NAN, NAN, NAN};
}

}  // namespace pristine::io
