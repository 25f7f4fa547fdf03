// The demo site "Ashmere Lock": an invented canal lock under repair, scanned from two stations while people
// work in it.
//
// Every ray of the scanner is cast against simple solids, so shadows, occlusion and density are those of a
// real scan, and the true kind of each point is known. It goes into the extra-bytes column `truth`, which no
// rule ever reads. Same options, same bytes.

#pragma once

#include <array>
#include <cstdint>
#include <filesystem>
#include <string>
#include <vector>

#include "core/base/progress.h"
#include "core/geometry/vec.h"

namespace pristine::demo {

enum class Kind : std::uint8_t {
    Floor = 1,
    Wall = 2,
    Ground = 3,
    Gate = 4,
    Ladder = 5,
    Worker = 6,
    Cart = 7,
    Stray = 8
};
inline constexpr std::size_t kKinds = 9;
const char* name_of(Kind);

struct Options {
    std::uint64_t points =
        600'000;  ///< at least so many in the first station's scan; the second has nine tenths of it
    std::uint64_t seed = 1;
    bool replace = false;  ///< overwrite existing files
};

struct Scan {
    std::string file;  ///< name inside the folder
    std::string title;
    Vec3 station;  ///< world
    std::uint64_t points = 0;
    std::array<std::uint64_t, kKinds> of_kind{};
};

/// The corner of the site that local coordinates are counted from.
inline constexpr Vec3 kSiteOrigin{412300, 5218930, 58};

/// Feet of the workers in the scan of a station (0 or 1), world coordinates.
std::vector<Vec3> workers_at(int station);

/// Writes the scans and truth.json into the folder (made if missing). Throws Error, Cancelled.
std::vector<Scan> write_site(const std::filesystem::path& folder, const Options& = {},
                             Progress& = Progress::none());

/// The same chamber and people as chamber.e57, both scans in one file that knows its stations and the row and
/// column of each point; `points` as for write_site. In memory. Throws Error, Cancelled.
void write_chamber_with_stations(const std::filesystem::path& folder, const Options& = {},
                                 Progress& = Progress::none());

}  // namespace pristine::demo
