// Plan sheets: one figure of the site on a page at a true scale, with a frame and a title block.
//
// Law (tested): what lies d metres apart lies d / scale apart on the page, to 0.2 mm in the PDF.

#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "core/report/compose.h"

namespace pristine::report {

/// What is on a sheet. `part.kind`: "plan", "view", "contours", "change", "sections", "tunnel"; its number
/// "scale" is that of the sheet, 0 or missing: the largest round one that fits.
struct SheetSetup {
    PartSetup part;
    PageForm page{"A3", true, 20, 10, 10, 10};
    std::string title, number, client, place, office, surveyor;  ///< empty: not in the title block
    std::string logo;                                            ///< bytes of a picture; empty: none
};

/// A page.
struct Sheet {
    Drawing drawing;
    int scale = 0;                   ///< 0: not to scale
    std::optional<Ground> ground{};  ///< of a plan: where its places are on the page
    double x = 0, y = 0;             ///< of the figure on the page, mm
};

/// Kinds of part that a sheet can show.
const std::vector<std::string>& sheet_kinds();
/// Several when a set of sections needs them. Throws Error(Usage) when the scale does not fit or the kind has
/// no figure, Cancelled.
std::vector<Sheet> sheets_of(const Material&, const SheetSetup&, Progress& = Progress::none());

/// By the ending: .pdf (all sheets), .svg and .png (one: several get -1, -2, … before the ending), .dxf:
/// lines and words in layers by role, of a plan at their places in the world, else in metres on the ground at
/// 1:1. The files that were written. Throws Error(Usage, Io, Conflict).
std::vector<std::filesystem::path> write_sheets(const std::vector<Sheet>&, const PdfWords&,
                                                const std::filesystem::path&, bool replace,
                                                const cloud::Reference&, double metres_per_unit,
                                                double dpi = 300);

}  // namespace pristine::report
