// From keys to colours: closing gaps, depth shading, selection and ghosts.

#pragma once

#include "render/renderer.h"

namespace pristine::render {

/// A pixel that is empty, or lies well behind at least two different elements among its eight neighbours,
/// takes the nearest of them: near surfaces close up and hide what is behind them, detail on a surface and
/// the outlines of lone things stay as they are. An element that has one pixel and nothing near around it
/// gets four, two by two, so that it is seen.
void grow_keys(const ViewFrame&, const std::uint64_t* from, std::uint64_t* to);

/// Colours every pixel by its key. `ghosts` are keys too, and may be null.
///
/// Depth shading: a pixel is darkened by how far its neighbours lie in front of it, measured in pixels, in
/// the manner of Boucheny 2009 (eye-dome lighting); unlike there, the effect fades again for jumps so large
/// that the two belong to different things, so that lone points wear no dark rings.
void shade(const RenderOptions&, const std::uint64_t* ghosts, Picture&);

}  // namespace pristine::render
