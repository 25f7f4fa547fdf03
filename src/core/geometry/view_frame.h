// How a view maps the world to pixels: what a fence drawn in the view needs to know of it.
//
// Conventions: `right`, `down` and `ahead` are unit vectors, at right angles to each other. Depth is the
// distance along `ahead` from the eye, in world units. Law: lift(project(p), depth(p)) == p up to rounding.

#pragma once

#include "core/geometry/vec.h"

namespace pristine {

/// How a view maps the world to pixels, in perspective or parallel. x runs right, y down.
struct ViewFrame {
    Vec3 eye;
    Vec3 right{1, 0, 0}, down{0, -1, 0}, ahead{0, 0, -1};
    bool perspective = false;
    double scale = 1;  ///< perspective: focal length in pixels; parallel: pixels per world unit
    double centre_x = 0, centre_y = 0;  ///< the pixel that the eye looks at
    int width = 0, height = 0;          ///< the viewport, in pixels
    double near_depth = 0;  ///< what is nearer than this (or behind) is not seen; >0 in perspective

    double depth(Vec3 p) const { return dot(p - eye, ahead); }
    /// Pixel position of p. Meaningless when depth(p) < near_depth.
    PixelPoint project(Vec3 p) const {
        const Vec3 v = p - eye;
        const double s = perspective ? scale / dot(v, ahead) : scale;
        return {centre_x + dot(v, right) * s, centre_y + dot(v, down) * s};
    }
    /// The world point at this pixel and depth.
    Vec3 lift(PixelPoint q, double at_depth) const {
        const double s = perspective ? at_depth / scale : 1 / scale;
        return eye + right * ((q.x - centre_x) * s) + down * ((q.y - centre_y) * s) + ahead * at_depth;
    }
    /// How many pixels one world unit covers at this depth.
    double pixels_per_unit(double at_depth) const { return perspective ? scale / at_depth : scale; }
};

}  // namespace pristine
