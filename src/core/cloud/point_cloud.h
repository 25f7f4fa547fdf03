// A point cloud in pages: what is shown and selected by in memory, the rest of each record where it came
// from.
//
// Invariants: 1. Page p holds elements [p * kPageSize, …) along the curve of cloud/curve.h, in blocks that
// are shuffled inside, so that any prefix of a block is an even sample of its place. 2. Positions are 32-bit
// integers on a grid; world = integer * scale + offset, in double, formed last. 3. A finished cloud never
// changes.

#pragma once

#include <array>
#include <atomic>
#include <cstdint>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "core/cloud/record.h"
#include "core/elements/paged_array.h"
#include "core/geometry/vec.h"
#include "core/mesh/attributes.h"
#include "core/mesh/tri_mesh.h"

namespace pristine::cloud {

/// The integer grid of a cloud's positions, in the unit of the data.
struct Grid {
    Vec3 scale{1e-4, 1e-4, 1e-4};
    Vec3 offset{};

    Vec3 world(std::int32_t x, std::int32_t y, std::int32_t z) const {
        return {x * scale.x + offset.x, y * scale.y + offset.y, z * scale.z + offset.z};
    }
};

/// A box of grid coordinates, both ends inside.
struct IntBox {
    std::array<std::int32_t, 3> lo{}, hi{};
};

/// The positions of one page, wherever they are held; valid as long as the cloud.
struct PositionPage {
    std::span<const std::int32_t> x, y, z;
    std::size_t size() const { return x.size(); }
};

/// What is known of a page without looking into it.
struct PageInfo {
    IntBox bounds;
    std::array<IntBox, kBlocksPerPage> blocks{};
    std::array<float, kBlocksPerPage>
        spacing{};  ///< typical distance to the next point, data units, all points drawn
    std::uint16_t intensity_lo = 0, intensity_hi = 0;
};

/// Where a scanner stood.
struct Station {
    std::string name;
    Vec3 position;  ///< data unit
    bool operator==(const Station&) const = default;
};

/// The original number of each element, packed; read page by page. Replaceable by a reader of the project
/// file.
class OrderSource {
  public:
    virtual ~OrderSource() = default;
    /// Original numbers of the elements of a page, in page order.
    virtual std::vector<std::uint32_t> page(std::size_t page) const = 0;
    /// The packed form, as stored: curve order, before the shuffle.
    virtual std::string packed(std::size_t page) const = 0;
};

/// What the coordinates mean.
struct Reference {
    std::string crs;          ///< WKT or "EPSG:n"; empty: not stated
    std::string unit;         ///< of units.h, or "deg"; empty: not stated
    std::string height_unit;  ///< where it is not `unit`; else empty
    bool operator==(const Reference&) const = default;
};

/// Points with their columns, in pages. Never changes; safe to read from several threads.
class PointCloud {
  public:
    struct Parts {
        std::uint64_t size = 0;
        Grid grid;
        PagedArray<std::int32_t> x, y, z;
        std::vector<PageInfo> info;
        std::optional<PagedArray<std::uint16_t>> intensity;
        std::optional<PagedArray<std::uint32_t>> colour;  ///< 0x00RRGGBB
        std::optional<PagedArray<std::uint8_t>> classification;
        std::shared_ptr<const OrderSource> order;
        std::shared_ptr<const RecordSource> records;
        std::vector<Station> stations;
        std::string crs;                                       ///< WKT or "EPSG:n"; empty: not stated
        std::string unit;                                      ///< of units.h, or "deg"; empty: not stated
        std::string height_unit{};                             ///< where it is not `unit`; else empty
        std::shared_ptr<const mesh::TriMesh> triangles{};      ///< see triangles.h; null: elements are points
        std::shared_ptr<const mesh::Attributes> attributes{};  ///< of the triangles; null: none
    };
    explicit PointCloud(Parts parts);
    /// The same points, pages and records under another reference, and with other stations if some are given;
    /// see with_reference and with_stations. The base must not have a base of its own.
    PointCloud(const std::shared_ptr<const PointCloud>& base, const Reference&,
               std::optional<std::vector<Station>> stations = {});

    std::uint64_t size() const { return p_.size; }
    std::size_t page_count() const { return p_.info.size(); }
    const Grid& grid() const { return p_.grid; }
    PositionPage positions(std::size_t page) const {
        return {p_.x.page(page), p_.y.page(page), p_.z.page(page)};
    }
    /// The first `count` positions of a block; up to kBlockHead of them need no loading.
    PositionPage block_positions(std::size_t page, std::size_t block, std::size_t count) const {
        return {{p_.x.block(page, block, count), count},
                {p_.y.block(page, block, count), count},
                {p_.z.block(page, block, count), count}};
    }
    const PageInfo& info(std::size_t page) const { return p_.info[page]; }
    const PagedArray<std::int32_t>& z() const { return p_.z; }
    const std::optional<PagedArray<std::uint16_t>>& intensity() const { return p_.intensity; }
    const std::optional<PagedArray<std::uint32_t>>& colour() const { return p_.colour; }
    const std::optional<PagedArray<std::uint8_t>>& classification() const { return p_.classification; }
    const std::vector<Station>& stations() const { return p_.stations; }
    const std::string& crs() const { return p_.crs; }
    const std::string& unit() const { return p_.unit; }
    /// Of the heights, where it differs from unit(); else empty.
    const std::string& height_unit() const { return p_.height_unit; }
    Reference reference() const { return {p_.crs, p_.unit, p_.height_unit}; }
    /// Whether a person said where the stations are, and not what it was read from.
    bool stations_given() const { return stations_given_; }
    /// The cloud that this is another reference of, or other stations; null: it has its own.
    const std::shared_ptr<const PointCloud>& base() const { return base_; }
    /// What the elements stand for, in their order; null: they are points.
    const std::shared_ptr<const mesh::TriMesh>& triangles() const { return p_.triangles; }
    /// What those carry beside their shape; null: nothing.
    const std::shared_ptr<const mesh::Attributes>& attributes() const { return p_.attributes; }
    /// World box of a page: of its points, or of the whole triangles that they stand for.
    const Box3& page_box(std::size_t page) const { return page_boxes_[page]; }

    /// May be swapped for a reader of the project file while others read; hence by value.
    std::shared_ptr<const OrderSource> order() const { return base_ ? base_->order() : order_.load(); }
    std::shared_ptr<const RecordSource> records() const { return base_ ? base_->records() : records_.load(); }
    /// Lets go of the opened file and of the packed order in memory, once both are in the project file. The
    /// content is the same, so this is no change of the cloud.
    void move_sources(std::shared_ptr<const OrderSource> order,
                      std::shared_ptr<const RecordSource> records) const;

    Vec3 position(std::uint64_t element) const;
    /// World box of all points; empty for an empty cloud.
    Box3 bounds() const { return bounds_; }
    /// World box of the points that belong together: strays far outside do not count. See robust_bounds.cpp.
    Box3 robust_bounds() const { return robust_bounds_; }
    /// Lowest and highest intensity; 0,0 without the column.
    std::pair<std::uint16_t, std::uint16_t> intensity_range() const { return intensity_range_; }
    /// 1 % and 99 % of an even sample, the second larger: what a grey ramp should span, whatever a few glints
    /// do.
    std::pair<double, double> intensity_span() const { return intensity_span_; }

  private:
    Parts p_;
    std::shared_ptr<const PointCloud> base_;
    bool stations_given_ = false;
    std::vector<Box3> page_boxes_;
    Box3 bounds_, robust_bounds_;
    std::pair<std::uint16_t, std::uint16_t> intensity_range_{0, 0};
    std::pair<double, double> intensity_span_{0, 1};
    mutable std::atomic<std::shared_ptr<const OrderSource>> order_;
    mutable std::atomic<std::shared_ptr<const RecordSource>> records_;
};

/// The same cloud under another reference: everything is shared, nothing is copied but the tables of pages.
/// The cloud itself, or the one that it is another reference of, when that has this reference. O(pages).
std::shared_ptr<const PointCloud> with_reference(const std::shared_ptr<const PointCloud>&, const Reference&);
/// The same cloud with stations that a person gave; none: those of its file again. O(pages).
std::shared_ptr<const PointCloud> with_stations(const std::shared_ptr<const PointCloud>&,
                                                const std::optional<std::vector<Station>>&);

/// World box of an integer box on a grid.
Box3 world_box(const IntBox&, const Grid&);

/// Packed order pages in memory.
class PackedOrder : public OrderSource {
  public:
    PackedOrder(std::uint64_t size, std::vector<std::string> pages) : size_(size), pages_(std::move(pages)) {}
    std::vector<std::uint32_t> page(std::size_t page) const override;
    std::string packed(std::size_t page) const override { return pages_[page]; }

  private:
    std::uint64_t size_;
    std::vector<std::string> pages_;
};

/// Unpacks one page of an OrderSource: curve order to page order.
std::vector<std::uint32_t> unpack_order(std::string_view packed, std::size_t length);

}  // namespace pristine::cloud
