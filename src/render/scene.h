// What is to be drawn, and the colours of it.

#pragma once

#include <array>
#include <functional>
#include <memory>
#include <optional>
#include <vector>

#include "core/cloud/column.h"
#include "core/cloud/point_cloud.h"
#include "core/elements/element_set.h"
#include "core/geometry/view_frame.h"
#include "core/site/item_classes.h"
#include "core/site/site.h"

namespace pristine::render {

using Rgb = std::uint32_t;  ///< 0x00RRGGBB

/// The colours of look.md that the stage needs.
struct Palette {
    Rgb stage_top = 0x2A3340, stage_bottom = 0x12171E;
    Rgb pick = 0xB86BFF, ghost = 0x8C8577, guard = 0x19B5A5;
};

/// By the code of a class.
using ClassColours = std::array<Rgb, 256>;

/// One cloud to draw. Sets are over its elements; null means empty.
struct DrawItem {
    std::uint64_t id = 0;  ///< of the site item
    std::shared_ptr<const cloud::PointCloud> cloud;
    site::SetPtr hidden, selected, ghosts;
    site::Style style;
    std::shared_ptr<const cloud::FetchedColumn>
        column{};  ///< what ColourBy::Column shows; null until it is fetched
    site::SetPtr guarded{}, picked_ghosts{};
    std::shared_ptr<const surface::Orthophoto> drape{};
    std::shared_ptr<const site::DecidedClasses> decided{};
    std::shared_ptr<const ClassColours> class_colours{};  ///< null: those of the standard
};

/// What the colour ramp of an item spans; none where colours are no ramp.
struct ColourRange {
    double lo = 0, hi = 1;              ///< as drawn
    double usual_lo = 0, usual_hi = 1;  ///< without a range of its own
    bool change = false;                ///< cut and fill: one colour to either side of 0
    std::vector<double> classes{};      ///< limits: every value between two has the colour of their middle
    /// Where on the ramp a value lies, 0 to 255 and beyond.
    double position(double value) const;
};
std::optional<ColourRange> colour_range(const DrawItem&);

/// A list of items with their pages numbered through: the upper 16 bits of an element id are the number of
/// the page.
class Scene {
  public:
    /// At most 65,536 pages are drawn; items beyond that are left out.
    explicit Scene(std::vector<DrawItem> items = {});

    struct PageRef {
        std::uint32_t item;  ///< index into items()
        std::uint32_t page;
    };
    const std::vector<DrawItem>& items() const { return items_; }
    const std::vector<PageRef>& pages() const { return pages_; }
    const Box3& bounds() const { return bounds_; }
    /// Box of what belongs together, strays left out, of all items.
    const Box3& robust_bounds() const { return robust_bounds_; }

    /// Colour of an element by its item's style; selection tint included.
    Rgb colour(std::uint32_t id) const;
    /// As above but for the tint; whether it is selected.
    bool selected(std::uint32_t id) const;
    bool guarded(std::uint32_t id) const;
    /// Whether it stands for a triangle.
    bool triangle(std::uint32_t id) const { return looks_[pages_[id >> 16].item].triangles != nullptr; }
    /// The corners of the triangle that it stands for; none for points.
    std::optional<std::array<Vec3, 3>> corners(std::uint32_t id) const;
    /// How its item's triangles are drawn.
    site::Faces faces(std::uint32_t id) const { return looks_[pages_[id >> 16].item].faces; }
    /// How a triangle lies: to the light, and whether its back is turned to the eye; terrain has no back.
    struct Facing {
        double light = 1;
        bool away = false;
    };
    Facing facing(std::uint32_t id, const ViewFrame&) const;
    /// Colour by its item's style, without any light.
    Rgb plain_colour(std::uint32_t id) const;
    /// The picture draped on its item; null: none.
    const surface::Orthophoto* drape(std::uint32_t id) const { return looks_[pages_[id >> 16].item].drape; }
    /// Whether its triangle is drawn by its texture or the colours of its corners.
    bool painted(std::uint32_t id) const { return looks_[pages_[id >> 16].item].attributes != nullptr; }
    /// The colour of a painted triangle at a place of it, of a spot as large as `pixel` in the world.
    Rgb paint(std::uint32_t id, const Vec3& place, double pixel) const;
    /// Of ghosts: whether it is selected to be put back.
    bool picked_ghost(std::uint32_t id) const;
    /// Makes the processor fetch what colour(id) will read.
    void prefetch(std::uint32_t id) const;

  private:
    struct Look {  // what an item's style means, worked out once
        site::ColourBy by = site::ColourBy::Single;
        double z_scale = 1, z_offset = 0;  // integer height to 0..255 on the ramp
        double i_scale = 1, i_offset = 0;  // intensity to 0..255
        const cloud::PointCloud* cloud = nullptr;
        const mesh::TriMesh* triangles = nullptr;  // lit by where they face
        const surface::Orthophoto* drape = nullptr;
        const mesh::Attributes* attributes = nullptr;  // to be drawn by
        site::Faces faces = site::Faces::Edged;
        bool two_sided = true;  // terrain
        const ElementSet *selected = nullptr, *guarded = nullptr, *picked_ghosts = nullptr;
        Rgb single = 0;
        const site::DecidedClasses* decided = nullptr;
        const ClassColours* class_colours = nullptr;
        const PagedArray<float>* column = nullptr;
        double column_base = 0;
        float c_scale = 1, c_offset = 0;     // value to 0..255 on the ramp
        bool change = false;                 // that of cut and fill
        std::optional<ColourRange> stepped;  // in classes

        std::uint8_t class_of(std::size_t page, std::size_t i) const;
    };
    static Look look_of(const DrawItem&);

    std::vector<DrawItem> items_;
    std::vector<Look> looks_;
    std::vector<PageRef> pages_;
    Box3 bounds_, robust_bounds_;
};

/// The scene of a site: every visible item, what is out left away. `ghosts`: what of each item is drawn as
/// ghosts.
using ColumnOf = std::function<std::shared_ptr<const cloud::FetchedColumn>(const site::Item&)>;
Scene scene_of(const site::Site&, const site::Parts& ghosts = {}, const ColumnOf& column_of = {});

Rgb mix(Rgb a, Rgb b, double share_of_b);
Rgb scaled(Rgb c, double factor);
/// The column that says how far a made mesh lies from what it was made of, in its unit.
inline constexpr const char* kDeviationColumn = "deviation";
/// From cut (0) through near-white to fill (255).
Rgb change_colour(int position);
/// The height ramp, position 0..255.
Rgb height_colour(int position);

}  // namespace pristine::render
