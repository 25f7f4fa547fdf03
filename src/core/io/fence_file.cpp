#include "core/io/fence_file.h"

#include <fmt/format.h>

#include "core/base/error.h"
#include "core/io/lines/lines.h"
#include "core/io/reference/placing.h"

namespace pristine::io {

std::vector<Polygon> read_rings(const std::filesystem::path& path) {
    const std::string name = path.filename().string();
    std::vector<Polygon> rings;
    std::size_t number = 0;
    for (const MapLine& l : read_lines(path)) {
        ++number;
        // Drawings and databases hold other lines too; text cannot say that a line is closed.
        if (!l.closed && is_line_file(path)) continue;
        if (!l.closed && !is_text_of_lines(path))
            throw Error(ErrorCode::Format, fmt::format("Line {} is not closed: its ends differ", number),
                        name, "A fence needs closed lines.");
        if (l.points.size() < 3)
            throw Error(ErrorCode::Format, fmt::format("Ring {} has fewer than three corners", number), name);
        rings.emplace_back();
        for (const Vec3& p : l.points) rings.back().push_back({p.x, p.y});
    }
    if (rings.empty()) throw Error(ErrorCode::Format, "The file holds no closed line", name);
    return rings;
}

PlacedRings read_rings_in(const std::filesystem::path& path, const cloud::Reference& wanted) {
    PlacedRings out{read_rings(path), {}};
    Placing placing(reference_of_lines(path), wanted);
    for (Polygon& ring : out.rings) {
        std::vector<Vec3> places;
        for (const PixelPoint& c : ring) places.push_back({c.x, c.y, 0});
        placing.apply(places);
        for (std::size_t i = 0; i < ring.size(); ++i) ring[i] = {places[i].x, places[i].y};
    }
    out.note = placing.note();
    return out;
}

}  // namespace pristine::io
