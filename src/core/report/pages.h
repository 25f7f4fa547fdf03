// A report on pages.
//
// Laws (tested): 1. No row of a table and no figure is cut by the end of a page; a row higher than a page is
// the only exception and goes on on the next. 2. A heading is never the last on a page. 3. The head of a
// table is repeated on each page that it reaches.

#pragma once

#include <string>
#include <vector>

#include "core/report/paint.h"
#include "core/report/report.h"

namespace pristine::report {

/// Sizes in millimetres.
struct PageForm {
    std::string size = "A4";  ///< of page_sizes()
    bool landscape = false;
    double left = 22, right = 20, top = 18, bottom = 18;
    bool operator==(const PageForm&) const = default;
};
/// "A4", "A3", "A5", "Letter", "Legal", "Tabloid", with width and height upright, mm.
struct PageSize {
    const char* name;
    double width, height;
};
const std::vector<PageSize>& page_sizes();
/// Width and height as it lies. Throws Error(Usage) for a size that is not known, or margins that leave less
/// than 60 mm.
Spot sheet_of(const PageForm&);
/// What is left between the margins, head and foot.
Spot room_of(const PageForm&);

struct Pages {
    std::vector<Drawing> sheets;
    std::vector<int> first_page;  ///< of each part, from 1
    std::vector<double> first_y;  ///< where its heading begins there, mm
};
/// O(text). Throws Cancelled.
Pages pages_of(const Report&, const PageForm&, Progress& = Progress::none());
/// Those as a PDF, with the parts as its outline.
std::string pdf_of(const Report&, const Pages&, Progress& = Progress::none());

}  // namespace pristine::report
