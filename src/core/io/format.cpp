#include "core/io/format.h"

#include <algorithm>

#include "core/io/cloud_io.h"
#include "core/io/mesh/mesh_format.h"

namespace pristine::io {

std::vector<Format> formats() {
    std::vector<Format> all;
    for (const CloudFormat& f : cloud_formats())
        all.push_back({Format::Holds::Points, f.title, f.extensions, f.read != nullptr, f.write != nullptr});
    for (const MeshFormat& f : mesh_formats())
        all.push_back({Format::Holds::Triangles, f.title, f.endings, f.read != nullptr, f.write != nullptr});
    all.push_back({Format::Holds::Heights, "GeoTIFF", {"tif", "tiff"}, true, true});
    all.push_back({Format::Holds::Heights, "ASCII grid", {"asc"}, true, true});
    for (const LineFormat& f : line_formats())
        all.push_back({Format::Holds::Lines, f.title, f.endings, true, f.writes});
    return all;
}

std::string format_list(Format::Holds holds, bool writing) {
    std::string list;
    for (const Format& f : formats()) {
        if (f.holds != holds || !(writing ? f.writes : f.reads)) continue;
        list += (list.empty() ? "" : ", ") + f.title + " (";
        for (const std::string& e : f.endings) list += (e == f.endings.front() ? "." : ", .") + e;
        list += ")";
    }
    return list;
}

std::string ending_list(Format::Holds holds, bool writing) {
    std::string list;
    for (const Format& f : formats())
        if (f.holds == holds && (writing ? f.writes : f.reads))
            list += (list.empty() ? "" : ", ") + f.endings.front();
    return list;
}

std::vector<std::string> endings_read() {
    std::vector<std::string> all;
    for (const Format& f : formats())
        for (const std::string& e : f.endings)
            if (f.reads && std::find(all.begin(), all.end(), e) == all.end()) all.push_back(e);
    return all;
}

}  // namespace pristine::io
