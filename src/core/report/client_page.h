// A page for the client: one HTML file without network that shows the site in three dimensions, what was
// removed by reason, marks, figures and pictures.

#pragma once

#include <cstdint>
#include <string>

#include "core/report/compose.h"

namespace pristine::report {

struct ClientPageSpec {
    double megabytes = 12;  ///< of the file, about: 5 to 50
    bool removed = true;    ///< what was removed can be shown
};
/// What a page of that size holds.
struct ClientPageSize {
    std::uint64_t points = 0, of_points = 0;  ///< shown of those that there are, removed ones included
    std::uint64_t triangles = 0, of_triangles = 0;
};
struct ClientPage {
    std::string html;
    ClientPageSize size;
};
/// The report's parts stand below the view. Points are an even sample; triangles of larger meshes are
/// reduced. Throws Error(Usage: a size beyond its limits; Empty; Unsupported: this program was built without
/// the view), Cancelled.
ClientPage client_page(const Material&, const Report&, const ClientPageSpec&, Progress& = Progress::none());

}  // namespace pristine::report
