// Makes a report of a site: each part from the ledger's structured causes and by the same functions that the
// window measures with.
//
// Law (tested): what the report says of cut, fill, piles, sections and tunnels is what measure/ says.

#pragma once

#include <map>
#include <string>

#include "core/base/progress.h"
#include "core/report/picture.h"
#include "core/report/report.h"
#include "core/report/setup.h"

namespace pristine::report {

/// What a report is made of.
struct Material {
    site::SitePtr site;
    Drawer draw;            ///< null: no pictures
    std::string program;    ///< name and version
    std::string date;       ///< of writing, as 2026-11-25
    double dpi = 200;       ///< of pictures on paper
    std::string project{};  ///< path of the project; empty: none
};

/// Parts that were made before, by what they were made of; a part that did not change is taken from here.
struct PartCache {
    struct Made {
        site::SitePtr site;
        Part part;
        std::vector<std::string> warnings;
    };
    std::map<std::string, std::shared_ptr<const Made>> parts;
};

/// The parts that are on, in their order. Throws Error when a part cannot be made, with its title; Cancelled.
Report compose(const Material&, const Setup&, Progress& = Progress::none(), PartCache* = nullptr);

/// The title of a report: that of the setup, else "Report of" the site's.
std::string title_of(const Setup&, const site::Site&);

}  // namespace pristine::report
