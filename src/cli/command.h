// What the sub-commands of `pristine` share: output as text or JSON, progress on standard error, exit status.

#pragma once

#include <CLI/CLI.hpp>
#include <functional>
#include <memory>
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
/// The sentence of an error, with the option that helps.
std::string told(const Error&);

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
    std::string station{};     ///< "E,N,H": where the scanner stood
    std::string item{};        ///< of a file with several
    bool scans_apart = false;  ///< each scan of a file of many is an item
    double grid_error = 0;     ///< grids are thinned as far as it allows
    // Options that name files (reads, writes).
    std::vector<CLI::Option*> inputs{}, outputs{};
    // Lengths that came with a unit; they wait for the unit of the data.
    struct Length {
        double* value;
        std::string unit, typed;
    };
    std::shared_ptr<std::vector<Length>> lengths = std::make_shared<std::vector<Length>>();
};

/// What --columns and its companions say of a text file; none: nothing was said.
std::optional<io::TextReading> text_reading(const Common&);

enum class Least { Any, Zero, AboveZero };
/// An option for a length: "0.25", in the unit of the data, or "0.25m", "3ft", "3usft", which becomes that
/// unit when the first input was read. Throws CLI::ValidationError for what is no length.
CLI::Option* length_option(CLI::App&, const std::string& name, double& value, const std::string& help, Least,
                           Common&);
/// --point-format and --step: how LAS and LAZ are written.
void add_las_options(CLI::App&, io::LasOptions&, Common&);
/// "0.25" and "m" of "0.25m"; false when the text is no number, or what follows it no unit.
bool split_length(const std::string& text, double& number, std::string& unit);
/// A length of that unit in the unit of the data. Throws Error(Usage) when the data state none.
double in_unit_of(const cloud::Reference& data, double value, const std::string& unit,
                  const std::string& typed);

/// Says that an option names files that the command reads, or writes. with_progress() sees to it that none is
/// both, before anything is read.
CLI::Option* reads(CLI::Option*, Common&);
CLI::Option* writes(CLI::Option*, Common&);
/// What was given for such options.
std::vector<std::filesystem::path> files_of(const std::vector<CLI::Option*>&);
/// The files that a command reads; of a folder those in it.
std::vector<std::filesystem::path> inputs_of(const Common&);
/// Folders among the inputs become the files in them that a format knows by its ending, by name. Throws
/// Error(Usage) for a folder without one.
void expand_folders(std::vector<std::string>& inputs);

/// "412300.1,5218930.2,59.7". Throws Error(Usage).
Vec3 place_typed(const std::string&);

/// Adds --json, and --partial or --force where they make sense.
void add_common(CLI::App&, Common&, bool reads, bool writes);

/// Shows progress of `work` on standard error while that is a terminal. The outputs that it writes appear
/// together when it is done, or none does; one that is an input, or that exists and may not be replaced, is
/// refused before.
void with_progress(const Common&, const std::function<void(Progress&)>& work);
/// Shows progress only: for work on many files, each with outputs of its own.
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
void add_thin(CLI::App&);
void add_place(CLI::App&);
void add_align(CLI::App&);
void add_fit(CLI::App&);
void add_score(CLI::App&);
void add_classify(CLI::App&);
void add_clean(CLI::App&);
void add_run(CLI::App&);
void add_tunnel(CLI::App&);
void add_objects(CLI::App&);
void add_surface(CLI::App&);
void add_measure(CLI::App&);
void add_markers(CLI::App&);
void add_marks(CLI::App&);
void add_sections(CLI::App&);
void add_stockpiles(CLI::App&);
void add_merge(CLI::App&);
void add_report(CLI::App&);
void add_sheet(CLI::App&);
void add_deliver(CLI::App&);
void add_picture(CLI::App&);
void add_archive(CLI::App&);
void add_mesh(CLI::App&);
void add_difference(CLI::App&);

}  // namespace pristine::cli
