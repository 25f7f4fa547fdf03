// Grids and pictures, between pristine-reader and who called it.

#pragma once

#include <functional>
#include <string>
#include <string_view>

#include "core/io/grid/grid_rows.h"
#include "core/io/grid/picture.h"
#include "core/surface/orthophoto.h"

namespace pristine::io {

/// What takes the frames of an answer (guarded.h).
using Frames = std::function<void(std::string_view)>;

/// The facts of a grid, then each row: as 32-bit numbers where that is exact, empty where no cell holds a
/// height.
void give_grid(GridRows&, const Frames&);
/// The opposite, of the grid as another process reads it. Throws Error(Format) for an answer that is none.
std::unique_ptr<GridRows> open_grid_guarded(const std::filesystem::path&);

/// Width and height, then the pixels, row by row.
void give_picture(const Pixels&, const Frames&);
void give_orthophoto(const PlacedPixels&, const Frames&);
Pixels decode_picture_guarded(const std::string& bytes, const std::string& name);
PlacedPixels read_orthophoto_guarded(const std::filesystem::path&, std::uint64_t most_pixels, Progress&);

}  // namespace pristine::io
