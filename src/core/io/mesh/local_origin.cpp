#include "core/io/mesh/local_origin.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <locale>
#include <sstream>

#include "core/base/error.h"
#include "core/base/file.h"
#include "core/base/units.h"

namespace pristine::io {

namespace fs = std::filesystem;

bool has_local_origin(const Box3& box) {
    if (box.empty()) return false;
    double far = 0, extent = 0;
    for (int k = 0; k < 3; ++k) {
        far = std::max({far, std::fabs(box.lo[k]), std::fabs(box.hi[k])});
        extent = std::max(extent, box.hi[k] - box.lo[k]);
    }
    return far > 1000 && far > 8 * extent;
}

std::optional<Vec3> local_origin_for(const mesh::TriMesh& m) {
    Box3 box;
    for (const Vec3& v : m.vertices) box.add(v);
    if (!has_local_origin(box)) return {};
    return Vec3{std::round((box.lo.x + box.hi.x) / 2), std::round((box.lo.y + box.hi.y) / 2),
                std::round((box.lo.z + box.hi.z) / 2)};
}

fs::path origin_beside(const fs::path& file) {
    return fs::path(file).replace_extension(kOriginEnding);
}

std::string origin_text(const fs::path& file, const Vec3& o, const cloud::Reference& r) {
    std::string s = fmt::format(
        "# The coordinates of {} count from this place. Add it to have those of the site.\n"
        "east {}\nnorth {}\nheight {}\n",
        file.filename().string(), o.x, o.y, o.z);
    if (!r.unit.empty()) s += "unit " + r.unit + "\n";
    std::string system = r.crs;
    std::replace(system.begin(), system.end(), '\n', ' ');
    if (!system.empty()) s += "system " + system + "\n";
    return s;
}

std::optional<LocalOrigin> read_local_origin(const fs::path& file) {
    const fs::path beside = origin_beside(file);
    std::error_code none;
    if (!fs::exists(beside, none)) return {};
    const InputFile in(beside);
    std::istringstream lines(in.read_string(0, std::min<std::uint64_t>(in.size(), 1 << 20)));
    LocalOrigin out;
    std::string line;
    int found = 0;
    while (std::getline(lines, line)) {
        if (!line.empty() && line.back() == '\r') line.pop_back();
        if (line.empty() || line.front() == '#') continue;
        const std::size_t space = line.find(' ');
        const std::string key = line.substr(0, space),
                          said = space == std::string::npos ? std::string() : line.substr(space + 1);
        const int axis = key == "east" ? 0 : key == "north" ? 1 : key == "height" ? 2 : -1;
        if (axis >= 0) {
            double v = 0;
            std::istringstream number(said);
            number.imbue(std::locale::classic());
            if (!(number >> v) || !std::isfinite(v))
                throw Error(ErrorCode::Format, "'" + line + "' is no place to count from", beside.string());
            out.place[axis] = v;
            found |= 1 << axis;
        } else if (key == "unit" && is_length(said)) {
            out.unit = said;
        } else if (key == "system") {
            out.crs = said;
        }
    }
    if (found != 7)
        throw Error(ErrorCode::Format, "East, north and height of the place to count from are not all there",
                    beside.string(), "Mend the file, or take it away to read the coordinates as they are.");
    return out;
}

}  // namespace pristine::io
