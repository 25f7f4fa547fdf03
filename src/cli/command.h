// What the sub-commands of `pristine` share: output as text or JSON, progress on standard error, exit status.

#pragma once

#include <CLI/CLI.hpp>
#include <functional>
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

#include "core/base/progress.h"
#include "core/geometry/polygon.h"
#include "core/io/cloud_io.h"
#include "core/io/fence_file.h"
#include "core/io/lines/lines.h"
#include "core/io/mesh/mesh_io.h"

namespace pristine::cli {

inline constexpr int kDone = 0, kFault = 1, kWrongUsage = 2;

struct Common {
    bool json = false;     ///< one JSON object on standard output and nothing else there
    bool force = false;    ///< an existing output may be replaced
    bool partial = false;  ///< read what a broken input still holds
    // How text inputs are read; without columns they are guessed.
    std::vector<std::string> columns{};
    std::size_t skip = 0;
    std::string separator{};
    bool decimal_comma = false;
    // What inputs do not say, or say wrongly.
    std::string unit{}, crs{};
    std::string item{};     ///< of a file with several
    double grid_error = 0;  ///< grids are thinned as far as it allows
};

/// Adds --json, and --partial or --force where they make sense.
void add_common(CLI::App&, Common&, bool reads, bool writes);

/// Shows progress of `work` on standard error while that is a terminal.
void with_progress(const std::function<void(Progress&)>& work);

/// Reads a cloud and says its warnings on standard error.
io::ReadResult read_input(const std::filesystem::path&, const Common&, Progress&);

/// Everything that a file holds, or the one item that the options name.
std::vector<io::ReadResult> read_inputs(const std::filesystem::path&, const Common&, Progress&);

/// Reads the triangles of a mesh, surface or grid file; says its warnings on standard error.
io::MeshFile read_triangles(const std::filesystem::path&, const Common&, Progress&);

/// Lines of a file as data of the reference `wanted` have them; says on standard error when they were
/// converted.
std::vector<io::MapLine> read_lines_in(const std::filesystem::path&, const cloud::Reference& wanted,
                                       double sagitta = io::kSagitta);
/// Likewise rings of a fence.
std::vector<Polygon> read_rings_in(const std::filesystem::path&, const cloud::Reference& wanted);

/// What a person says of the coordinates in place of what the file says.
cloud::Reference stated(cloud::Reference, const Common&);

/// Throws Error(Usage) when the output is one of the inputs, whatever the spelling of the paths.
void refuse_overwriting_input(const std::vector<std::string>& inputs, const std::string& output);

/// What stands behind a length, an area (power 2) or a volume (3): " m²", " (unit not set)".
std::string after_number(const std::string& unit, int power = 1);

/// Prints the JSON object, or the text.
void print(const Common&, const nlohmann::json&, const std::string& text);

// One function per sub-command: adds it to the program, with the work as its callback.
void add_info(CLI::App&);
void add_convert(CLI::App&);
void add_select(CLI::App&);
void add_demo(CLI::App&);
void add_scores(CLI::App&);
void add_score(CLI::App&);
void add_clean(CLI::App&);
void add_run(CLI::App&);
void add_tunnel(CLI::App&);
void add_objects(CLI::App&);
void add_surface(CLI::App&);
void add_measure(CLI::App&);
void add_mesh(CLI::App&);
void add_difference(CLI::App&);

}  // namespace pristine::cli
