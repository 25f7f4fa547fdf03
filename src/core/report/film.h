// Pictures and short films of the site: a turn about what is shown, or a flight along a line.

#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "core/report/compose.h"

namespace pristine::report {

/// What a picture of the stage has on it.
struct StillLook {
    int width = 1920, height = 1080;
    double yaw_deg = 45, pitch_deg = -30;  ///< as Shot
    bool plan = false;                     ///< from above instead
    bool legend = true;                    ///< scale bar, north arrow and a line of words below
    bool clear = false;                    ///< nothing behind what is shown
    bool before = false;                   ///< as it was before any decision
};
/// Items that are shown. Throws Error(Empty) when nothing is.
Image still(const Material&, const StillLook&);
/// Before at the left, after at the right, of the same size and viewpoint.
Image before_and_after(const Material&, const StillLook&);

/// The frames of a film.
struct FilmSpec {
    StillLook look;
    int frames = 72;            ///< at least 2
    double seconds = 6;         ///< of all of them
    double turn_deg = 360;      ///< about what is shown; the last frame is one before the first again
    std::vector<Vec3> along{};  ///< instead: a flight along this line, data unit
};
/// PNG files frame-0001.png … in a folder that is made, or one animated WebP by the ending. Whole or not at
/// all. Throws Error(Usage, Io, Conflict), Cancelled.
void write_film(const Material&, const FilmSpec&, const std::filesystem::path&, bool replace,
                Progress& = Progress::none());

}  // namespace pristine::report
