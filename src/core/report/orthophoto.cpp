#include "core/report/orthophoto.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/io/grid/orthophoto_writer.h"
#include "core/report/parts/context.h"
#include "core/report/parts/plans.h"

namespace pristine::report {
namespace {

constexpr int kTile = 2048, kRing = 16;  // pixels; the ring gives shading its surroundings
constexpr double kMostPixels = 4e8;

}  // namespace

GroundPictureSize write_ground_picture(const Material& m, const GroundPicture& wanted,
                                       const std::filesystem::path& path, bool replace, Progress& progress) {
    if (!m.draw) throw Error(ErrorCode::Usage, "Pictures were not asked for");
    std::vector<site::ItemPtr> items;
    for (const site::ItemPtr& i : m.site->items)
        if (wanted.items.empty()
                ? i->visible
                : std::find(wanted.items.begin(), wanted.items.end(), i->id) != wanted.items.end())
            items.push_back(i);
    if (items.empty()) throw Error(ErrorCode::Empty, "Nothing is shown");
    const Box3 box = shown_box(items);
    if (box.empty()) throw Error(ErrorCode::Empty, "Everything is out of what is shown");
    GroundPictureSize size;
    const double wide = box.hi.x - box.lo.x, high = box.hi.y - box.lo.y;
    size.cell = wanted.cell > 0 ? wanted.cell : std::max({wide, high, 1e-9}) / 4000;
    const double columns = std::max(1.0, std::ceil(wide / size.cell)),
                 rows = std::max(1.0, std::ceil(high / size.cell));
    if (columns * rows > kMostPixels)
        throw Error(ErrorCode::Usage,
                    fmt::format("With pixels of {:g} the picture would have {:.0f} x {:.0f}", size.cell,
                                columns, rows),
                    {}, "Take larger ones.");
    size.columns = static_cast<int>(columns);
    size.rows = static_cast<int>(rows);
    const double west = box.lo.x, north = box.hi.y;
    io::OrthophotoWriter out(path, replace, {size.columns, size.rows, west, north, size.cell},
                             items.front()->cloud->reference());
    for (int top = 0; top < size.rows; top += kTile)
        for (int left = 0; left < size.columns; left += kTile) {
            progress.advance(static_cast<double>(top) / size.rows);
            const int w = std::min(kTile, size.columns - left), h = std::min(kTile, size.rows - top);
            Shot shot;
            for (const site::ItemPtr& i : items) shot.things.push_back(seen(*i));
            shot.plan = true;
            shot.width = w + 2 * kRing;
            shot.height = h + 2 * kRing;
            const double x0 = west + (left - kRing) * size.cell, y1 = north - (top - kRing) * size.cell;
            shot.box.add(Vec3{x0, y1 - shot.height * size.cell, box.lo.z});
            shot.box.add(Vec3{x0 + shot.width * size.cell, y1, box.hi.z});
            const Image image = m.draw(shot);
            std::vector<std::uint32_t> tile;
            tile.reserve(static_cast<std::size_t>(w) * static_cast<std::size_t>(h));
            for (int y = 0; y < h; ++y) {
                const auto row =
                    image.argb.begin() + static_cast<std::ptrdiff_t>(y + kRing) * image.width + kRing;
                tile.insert(tile.end(), row, row + w);
            }
            out.put(left, top, w, h, tile);
        }
    out.finish();
    return size;
}

}  // namespace pristine::report
