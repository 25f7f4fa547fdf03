// Which files an export makes, and what goes into each. The window shows it before anything is written.

#pragma once

#include <string>
#include <vector>

#include "core/site/written.h"

namespace pristine::site {

enum class Export {
    Shown,      ///< what is shown, in one file
    EachShown,  ///< each item that is shown in a file of its own
    Withheld,   ///< all of the items that are shown; what is out carries the withheld flag
    Noise,      ///< the same with class 7
    HighNoise,  ///< the same with class 18
    Removed,    ///< what is out of the item in work
    Reasons,    ///< the same, each reason in a file of its own
};

struct ExportFile {
    std::string suffix;  ///< of the name: "-noise", " - Chamber station 1"; empty where there is one file
    std::vector<ItemPtr> items;
    std::vector<ElementSet> elements;  ///< of each item: those that are in the file, marked ones included
    std::vector<ElementSet> marked;    ///< of each item: those that carry a mark; empty where none does
    io::Dropped mark = io::Dropped::LeftOut;
};

/// O(items), sets are shared. Throws Error(Usage) where there is nothing to write, or a piece of a scan would
/// be marked.
std::vector<ExportFile> export_files(const Site&, Export);

/// The records of a file. `source_classes`: classes as the sources have them, not as they were decided.
/// O(records). Throws Cancelled.
std::vector<io::WriteItem> records_of(const ExportFile&, bool source_classes, Progress&);

/// Sentences: which items of it were made from something that has changed since.
std::vector<std::string> stale_in(const Site&, const ExportFile&);

/// "bank.las" and "-noise": "bank-noise.las".
std::filesystem::path file_of(const std::filesystem::path&, const ExportFile&);

}  // namespace pristine::site
