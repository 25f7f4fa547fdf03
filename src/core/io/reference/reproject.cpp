#include "core/io/reference/reproject.h"

#include <cmath>
#include <cstring>
#include <mutex>
#include <vector>

#include "core/base/bytes.h"
#include "core/base/error.h"
#include "core/cloud/triangles.h"
#include "core/io/record_cloud.h"
#include "core/io/reference/system.h"
#include "core/mesh/attributes.h"
#include "core/mesh/weld.h"

namespace pristine::io {
namespace {

using cloud::Field;
using cloud::FieldType;

// What makes one is slow beside using it, and only one thread may use one at a time.
class Ways {
  public:
    Ways(const cloud::Reference& from, std::string to) : from_(from), to_(std::move(to)) { give(take()); }
    void apply(std::vector<Vec3>& places) {
        auto way = take();
        way->apply(places);
        give(std::move(way));
    }

  private:
    std::unique_ptr<Reprojection> take() {
        {
            const std::lock_guard<std::mutex> guard(mutex_);
            if (!free_.empty()) {
                auto way = std::move(free_.back());
                free_.pop_back();
                return way;
            }
        }
        return std::make_unique<Reprojection>(from_.crs, from_.unit, from_.height_unit, to_);
    }
    void give(std::unique_ptr<Reprojection> way) {
        const std::lock_guard<std::mutex> guard(mutex_);
        free_.push_back(std::move(way));
    }
    cloud::Reference from_;
    std::string to_;
    std::mutex mutex_;
    std::vector<std::unique_ptr<Reprojection>> free_;
};

// The records of another source behind their places in the new system.
class ReprojectedRecords : public cloud::RecordSource {
  public:
    ReprojectedRecords(std::shared_ptr<const cloud::RecordSource> own, std::shared_ptr<Ways> ways)
        : own_(std::move(own)), ways_(std::move(ways)) {
        layout_.format = "reprojected";
        layout_.fields = {{"x", FieldType::F64, 0}, {"y", FieldType::F64, 8}, {"z", FieldType::F64, 16}};
        for (Field f : own_->layout().fields) {
            if (f.name == "x" || f.name == "y" || f.name == "z") continue;
            f.offset += 24;
            layout_.fields.push_back(std::move(f));
        }
        layout_.record_bytes = own_->layout().record_bytes + 24;
    }
    const cloud::RecordLayout& layout() const override { return layout_; }
    std::uint64_t count() const override { return own_->count(); }
    void read(std::uint64_t first, std::span<std::byte> out) const override {
        const cloud::RecordLayout& from = own_->layout();
        const std::size_t n = out.size() / layout_.record_bytes;
        std::vector<std::byte> raw(n * from.record_bytes);
        own_->read(first, raw);
        const Field &x = *from.find("x"), &y = *from.find("y"), &z = *from.find("z");
        std::vector<Vec3> places(n);
        for (std::size_t i = 0; i < n; ++i) {
            const std::byte* r = raw.data() + i * from.record_bytes;
            places[i] = {value(x, r), value(y, r), value(z, r)};
        }
        ways_->apply(places);
        for (std::size_t i = 0; i < n; ++i) {
            std::byte* to = out.data() + i * layout_.record_bytes;
            for (int a = 0; a < 3; ++a) store_le(to + 8 * a, places[i][a]);
            std::memcpy(to + 24, raw.data() + i * from.record_bytes, from.record_bytes);
        }
    }

  private:
    std::shared_ptr<const cloud::RecordSource> own_;
    std::shared_ptr<Ways> ways_;
    cloud::RecordLayout layout_;
};

Error no_image(std::uint64_t count) {
    return Error(ErrorCode::Usage, std::to_string(count) + " points have no image in that reference system",
                 {}, "Choose one that covers the site.");
}

std::shared_ptr<const cloud::PointCloud> triangles_in(const cloud::PointCloud& c, Ways& ways,
                                                      const cloud::Reference& target, Progress& progress) {
    // In the order of the records, so that record k stays record k.
    std::vector<std::uint32_t> order(c.size());
    const auto source = c.order();
    for (std::size_t p = 0; p < c.page_count(); ++p) {
        const auto page = source->page(p);
        for (std::size_t i = 0; i < page.size(); ++i)
            order[page[i]] = static_cast<std::uint32_t>(p * kPageSize + i);
    }
    mesh::TriMesh m = mesh::part_of(*c.triangles(), order);
    ways.apply(m.vertices);
    std::uint64_t bad = 0;
    for (const Vec3& v : m.vertices) bad += !std::isfinite(v.x);
    if (bad > 0) throw no_image(bad);
    cloud::TriangleParts parts{target.unit, target.crs, cloud::is_surface(c), {}, {}, {}};
    parts.height_unit = target.height_unit;
    if (c.attributes()) parts.attributes = mesh::part_of(*c.attributes(), order);
    return cloud::cloud_of_triangles(m, parts, progress);
}

}  // namespace

std::shared_ptr<const cloud::PointCloud> reprojected(const std::shared_ptr<const cloud::PointCloud>& c,
                                                     const std::string& target, Progress& progress) {
    const System to = system_of(target);
    const cloud::Reference reference{target, to.unit, to.height_unit};
    const auto ways = std::make_shared<Ways>(c->reference(), target);
    if (c->triangles()) return triangles_in(*c, *ways, reference, progress);
    const auto records = std::make_shared<ReprojectedRecords>(c->records(), ways);
    progress.stretch(0, 0.4, "Converting coordinates");
    const auto ranges = field_ranges(*records, progress);
    const Progress::Part part(progress, 0.4, 1, "Ordering points");
    cloud::PointCloud::Parts known;
    known.crs = reference.crs;
    known.unit = reference.unit;
    known.height_unit = reference.height_unit;
    for (const cloud::Station& s : c->stations()) {
        std::vector<Vec3> place{s.position};
        ways->apply(place);
        known.stations.push_back({s.name, place[0]});
    }
    std::vector<std::string> warnings;
    auto made = cloud_from_records(records, ranges, -1, warnings, progress, std::move(known));
    if (made->size() < c->size()) throw no_image(c->size() - made->size());
    return made;
}

std::string fitting_zone(const cloud::PointCloud& c) {
    const Box3 box = c.robust_bounds();
    if (box.empty()) return {};
    return zone_for((box.lo.x + box.hi.x) / 2, (box.lo.y + box.hi.y) / 2);
}

}  // namespace pristine::io
