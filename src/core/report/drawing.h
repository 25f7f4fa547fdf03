// A drawing in millimetres: what pages, figures and plan sheets are made of, whatever they are written as.
//
// x runs right and y down from the upper left corner. Shapes are drawn in their order.

#pragma once

#include <array>
#include <cstdint>
#include <memory>
#include <string>
#include <variant>
#include <vector>

namespace pristine::report {

/// Opaque 0x00RRGGBB.
using Ink = std::uint32_t;
inline constexpr Ink kInk = 0x1D2733, kSecondInk = 0x565B61, kPaper = 0xFFFFFF;

/// A place on the page, millimetres.
struct Spot {
    double x = 0, y = 0;
    bool operator==(const Spot&) const = default;
};

/// A picture, 0xAARRGGBB row by row from above; AA 0: nothing there.
struct Image {
    int width = 0, height = 0;
    std::vector<std::uint32_t> argb;
};
using ImagePtr = std::shared_ptr<const Image>;

/// A line or an area.
struct Path {
    std::vector<std::vector<Spot>> rings;  ///< several: areas with holes (even-odd), lines beside each other
    bool closed = false;
    double width = 0.25;  ///< of the stroke, mm; 0: none
    Ink stroke = kInk;
    std::vector<double> dash{};  ///< mm on, mm off, …; empty: solid
    bool filled = false;
    Ink fill = kPaper;
    double opacity = 1;   ///< of the filling
    std::string layer{};  ///< what it stands for, in formats with layers: "boundary"
};

/// Some words of a line in one weight.
struct Run {
    std::string text;
    bool bold = false;
    bool operator==(const Run&) const = default;
};

enum class Anchor : std::uint8_t { Left, Middle, Right };

/// One line of text; `at` is on its baseline.
struct Text {
    Spot at;
    std::vector<Run> runs;
    double size = 9;  ///< points
    Ink ink = kInk;
    Anchor anchor = Anchor::Left;
    double turned = 0;    ///< degrees, counter-clockwise on the page
    bool haloed = false;  ///< with a paper-coloured edge, over maps
    std::string layer{};
};

/// A picture in a rectangle.
struct Placed {
    ImagePtr image;
    double x = 0, y = 0, width = 0, height = 0;
};

using Shape = std::variant<Path, Text, Placed>;

/// What is drawn, and on how large a sheet.
struct Drawing {
    double width = 0, height = 0;
    std::vector<Shape> shapes;

    void line(Spot from, Spot to, double width = 0.25, Ink = kInk, std::vector<double> dash = {});
    void rectangle(double x, double y, double width, double height, Ink fill);
    void frame(double x, double y, double width, double height, double stroke = 0.25, Ink = kInk);
    void text(Spot at, const std::string&, double size = 9, Anchor = Anchor::Left, Ink = kInk,
              bool bold = false);
    /// All shapes of another, moved.
    void put(const Drawing&, double x, double y);
};

/// All of it larger or smaller: places, widths and words.
Drawing scaled(const Drawing&, double factor);

inline constexpr double kMmPerPoint = 25.4 / 72;

/// Pixels for the width on paper at this resolution.
int pixels_for(double mm, double dpi);

}  // namespace pristine::report
