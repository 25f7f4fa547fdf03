// Exact geometric decisions.
//
// Law 1: orientation(a,b,c) has the sign of the exact determinant of the given doubles, for all finite inputs
// whose
//        products neither overflow nor underflow.
// Law 2: swapping two arguments flips the sign.
//
// Method: a floating-point filter first, then exact expansion arithmetic (Shewchuk 1997, "Adaptive precision
// floating-point arithmetic and fast robust geometric predicates"). Unlike Shewchuk we have one exact stage,
// not three.

#pragma once

namespace pristine {

/// +1 when a, b, c turn left (counter-clockwise with y upwards), -1 when right, 0 when exactly on one line.
int orientation(double ax, double ay, double bx, double by, double cx, double cy);

/// The exact rung alone, without the filter: the tests hold the two against each other.
int orientation_exact(double ax, double ay, double bx, double by, double cx, double cy);

}  // namespace pristine
