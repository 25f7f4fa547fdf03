// A deliverable: one folder or zip with everything that another office needs to use and to check the work.
//
// Laws (tested): 1. The folder appears whole or not at all. 2. What is cleaned and what is removed of an item
// are together its source, record for record. 3. Every file but the manifest is in the manifest with its
// SHA-256. 4. The ledger fits docs/ledger-format.schema.json.

#pragma once

#include <filesystem>
#include <nlohmann/json_fwd.hpp>
#include <string>
#include <vector>

#include "core/io/cloud_io.h"
#include "core/report/compose.h"
#include "core/report/sheet.h"

namespace pristine::report {

/// What goes in.
struct DeliverableSetup {
    std::string
        points;  ///< ending of clouds without the dot: "las", "laz", "e57", …; empty: that of the source
    io::LasOptions las{};         ///< of clouds that are written as LAS or LAZ
    bool source_classes = false;  ///< classes as the sources have them, not as they were decided
    std::string meshes = "ply";
    std::string surfaces = "xml";  ///< LandXML, with breaklines
    std::string lines = "geojson";
    bool merged = false;   ///< all cleaned clouds also in one file
    bool removed = true;   ///< what was removed, by reason
    bool sources = false;  ///< copies of the files that it all came from, so that it can be checked by itself
    std::string recipe;    ///< JSON; empty: none
    Setup report;          ///< without parts: no report
    std::vector<SheetSetup> sheets;
};

/// What was written, or would be.
struct DeliverablePlan {
    struct Line {
        std::string path,
            role;  ///< role: "cleaned", "removed", "surface", "mesh", "lines", "report", "sheet", …
        std::uint64_t records = 0;  ///< points or triangles; 0: not counted
        std::string lost;           ///< what the format has no place for, in words
    };
    std::vector<Line> files;
};
/// What deliver() would write, without writing it. O(items).
DeliverablePlan deliverable_plan(const Material&, const DeliverableSetup&);

/// Writes the folder, or a zip where the path ends in .zip. With `replace` a folder that holds a manifest is
/// put in its place once all is written. Returns the manifest. Throws Error(Usage: nothing to deliver, or
/// into a source's own folder; Conflict, Io), Cancelled.
nlohmann::json deliver(const Material&, const DeliverableSetup&, const std::filesystem::path&, bool replace,
                       Progress& = Progress::none());

/// The ledger of a site in the open schema.
nlohmann::json ledger_json(const site::Site&);

inline constexpr const char* kManifest = "manifest.json";
inline constexpr const char* kManifestFormat = "pristine-deliverable";
inline constexpr const char* kLedgerFormat = "pristine-ledger";

/// A zip of a folder's files, appearing whole. Throws Error(Io, Conflict).
void zip_folder(const std::filesystem::path& folder, const std::filesystem::path& zip, bool replace);
/// The files of a zip into a folder that is empty. Refuses names that lead out of it, and more than 500 GB.
/// Throws Error(Format, Io).
void unzip(const std::filesystem::path& zip, const std::filesystem::path& folder);

}  // namespace pristine::report
