// Maps on paper: a piece of the plan at a true scale, with grid, coordinates, lines, legend, scale bar and
// north arrow.
//
// Law (tested): two places that lie d metres apart lie d / scale apart on the paper, to 0.01 mm.

#pragma once

#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "core/geometry/line_role.h"
#include "core/geometry/vec.h"
#include "core/mesh/tri_mesh.h"
#include "core/report/drawing.h"

namespace pristine::report {

/// A line on a map; data unit.
struct MapLine {
    std::vector<Vec3> points;
    bool closed = false;
    enum class Kind : std::uint8_t {
        Plain,
        Boundary,
        WorkArea,
        Breakline,
        Contour,
        IndexContour,
        Section,
        Hole
    } kind = Kind::Plain;
    std::string label{};  ///< a number in a disc for work areas, a height for contours, letters for sections
};
MapLine::Kind kind_of_role(LineRole);

struct LegendRow {
    Ink colour;
    std::string words;
};
struct LegendLine {
    MapLine::Kind kind;
    std::string words;
};
struct Legend {
    std::string title;
    std::vector<LegendRow> rows;
    std::vector<LegendLine> lines{};
    /// A ramp between two ends instead of rows; empty: none.
    std::vector<Ink> ramp{};
    std::string low{}, high{};
};

struct MapSpec {
    double west = 0, south = 0, east = 0, north = 0;  ///< what is to be seen, data unit
    double width = 165, height = 120;                 ///< of the whole drawing at most, mm
    bool all_height = false;  ///< the frame takes it all, however little the plan needs
    int scale = 0;            ///< 1 : scale; 0: the largest round one that fits
    double metres = 1;        ///< in a data unit
    double shown_factor = 1;  ///< shown units in a data unit: for the grid and the scale bar
    std::string unit;         ///< that is shown: "m"
    bool side = true;         ///< legend, north arrow and scale bar at the right
    double dpi = 200;
    /// The ground: pixels of a rectangle of the world (west, south, east, north). Null: none.
    std::function<Image(double, double, double, double, int width, int height)> ground{};
    std::vector<MapLine> lines{};
    Legend legend{};
};

/// A map, and the scale that it got.
struct Map {
    Drawing drawing;
    int scale = 0;
    /// The frame of the map in the drawing, mm, and the place at its upper left.
    double x = 0, y = 0, width = 0, height = 0, west = 0, north = 0;
    /// Millimetres in a data unit.
    double mm_per_unit = 1;
};
/// Throws Error(Usage) when the scale that is asked for does not fit, with the largest that does.
Map map(const MapSpec&);

/// 100, 200, 250, 500, 750, 1000, … : round scales.
const std::vector<int>& round_scales();

/// The scale that is asked for (0: the largest round one) where `least` is the largest that fits. Throws
/// Error(Usage) naming what does not fit.
int scale_for(double least, int asked, const std::string& what);

/// Paints the triangles of a mesh by a function of z, seen from above; clear where there are none.
Image painted(const mesh::TriMesh&, double west, double south, double east, double north, int width,
              int height, const std::function<Ink(double z)>& colour);

/// Colours of cut and fill in classes: what is no more than the band is grey.
struct ChangeClasses {
    std::vector<double> limits;  ///< ascending
    std::vector<Ink> colours;    ///< one more
    bool band_shown = true;      ///< the middle class is the band
    Ink of(double change) const;
};
/// `least` and `greatest` change, and the band; data unit. Limits are round in the shown unit.
ChangeClasses change_classes(double least, double greatest, double band, double shown_factor);
Legend legend_of(const ChangeClasses&, double shown_factor, const std::string& unit);

}  // namespace pristine::report
