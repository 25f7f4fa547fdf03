// One command on many files: each with an output of its own, one bad file does not stop the rest.

#pragma once

#include <functional>
#include <string>
#include <vector>

#include "cli/command.h"

namespace pristine::cli {

/// What a command on one or many files was asked for.
struct Batch {
    std::vector<std::string> inputs;  ///< files, and folders of them
    std::string output;               ///< of one input
    std::string folder;               ///< of many: results under the names of the inputs
    bool dry_run = false;
};

/// Adds IN, -o, --out-dir and --dry-run with this help.
void add_batch(CLI::App&, Batch&, Common&, const std::string& dry_run_help);

/// Calls one(input, output) for each, prints what it gave as JSON, or in the words of `said`; of several
/// inputs
/// {"results": […], "failed": n}. An output is empty in a dry run. All outputs of one input appear together.
/// Throws Error(Usage) before anything is done when inputs and outputs do not go together, two results would
/// have one name, or a result is in the way; the error of one input; and Error(Format) when some of several
/// failed.
void run_batch(
    Batch, Common&,
    const std::function<nlohmann::json(const std::string& input, const std::string& output, Progress&)>& one,
    const std::function<std::string(const nlohmann::json&)>& said);

/// Where each result goes in a folder. Throws Error(Usage) when two would have one name.
std::vector<std::string> outputs_in(const std::string& folder, const std::vector<std::string>& inputs);
/// Makes the folder for the results. Throws Error(Io).
void make_folder(const std::string& folder);

}  // namespace pristine::cli
