// Reference systems: what a definition says of units and datums, in which spellings it comes and goes.
//
// A definition is "EPSG:n", "EPSG:n+m" (plan and heights), or WKT of any age (OGC 01-009, ISO 19162, and the
// spelling of .prj files). PROJ's database, through GDAL, knows the codes. Nothing is asked from a network.

#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "core/geometry/vec.h"

namespace pristine::io {

/// A reference system, as PROJ understands it.
struct System {
    std::string name;         ///< for people: "NAD83 / Texas Central (ftUS)"; empty: not understood
    std::string heights;      ///< name of the vertical system; empty: not stated
    std::string code;         ///< "EPSG:2277", "EPSG:2277+6360"; empty: none
    std::string unit;         ///< of the plan, an id of units.h, or "deg"; empty: not known
    std::string height_unit;  ///< of the heights, where it differs from `unit`; else empty

    bool degrees() const;
    /// "NAD83 / Texas Central (ftUS) + NAVD88 height (ftUS), EPSG:2277+6360".
    std::string title() const;
    bool operator==(const System&) const = default;
};

/// What a definition says. Never throws: what is not understood has no name and no unit. Remembered, so that
/// it may be asked often. Thread safe.
System system_of(const std::string& definition);

/// The definition that a person means by "EPSG:25832", "25832", "25832+7837" or WKT. Throws Error(Usage).
std::string system_typed(const std::string& text);

/// The same system as WKT (OGC 01-009, or ISO 19162 where that cannot say it), in which the lengths of plan
/// and heights are `unit` and `height_unit` (empty: as `unit`). Without a system but with a unit: a local
/// system of that unit. Empty when nothing is known. `esri`: in the spelling of .prj files.
std::string wkt_with_unit(const std::string& definition, const std::string& unit,
                          const std::string& height_unit = {}, bool esri = false);

/// The keys by which GeoTIFF and LAS before version 1.4 state a system (OGC 19-008).
struct GeoKeys {
    std::vector<std::uint16_t> directory;
    std::vector<double> numbers;
    std::string text;
};
/// Empty when the keys say nothing that is understood.
std::string definition_of(const GeoKeys&);
/// None when the system cannot be said in keys.
std::optional<GeoKeys> geokeys_of(const std::string& wkt);

/// "EPSG:32632": the zone of the transverse Mercator grid (WGS 84) that a place in degrees lies in.
std::string zone_for(double longitude, double latitude);

/// From one system to another: the plan by PROJ, without guessed datum shifts; heights change their unit and
/// keep their datum. Throws Error(Usage) when there is no way.
class Reprojection {
  public:
    /// `from_unit`, `from_height_unit`: of the coordinates given; they need not be those of the system.
    Reprojection(const std::string& from, const std::string& from_unit, const std::string& from_height_unit,
                 const std::string& to);
    ~Reprojection();
    Reprojection(const Reprojection&) = delete;
    Reprojection& operator=(const Reprojection&) = delete;
    /// Places that have no image become not-a-number. Not thread safe: one object a thread.
    void apply(std::vector<Vec3>& places);

  private:
    struct Own;
    Own* own_;
};

}  // namespace pristine::io
