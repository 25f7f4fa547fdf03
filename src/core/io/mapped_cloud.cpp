#include "core/io/mapped_cloud.h"

#include <cmath>
#include <cstring>

#include "core/base/bytes.h"
#include "core/base/error.h"
#include "core/cloud/triangles.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/io/record_cloud.h"
#include "core/mesh/attributes.h"
#include "core/mesh/weld.h"

namespace pristine::io {
namespace {

using cloud::Field;
using cloud::FieldType;

// The records of another source behind their places elsewhere.
class MappedRecords : public cloud::RecordSource {
  public:
    MappedRecords(std::shared_ptr<const cloud::RecordSource> own, PlaceMap map)
        : own_(std::move(own)), map_(std::move(map)) {
        layout_.format = "mapped";
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
        map_(places);
        for (std::size_t i = 0; i < n; ++i) {
            std::byte* to = out.data() + i * layout_.record_bytes;
            for (int a = 0; a < 3; ++a) store_le(to + 8 * a, places[i][a]);
            std::memcpy(to + 24, raw.data() + i * from.record_bytes, from.record_bytes);
        }
    }

  private:
    std::shared_ptr<const cloud::RecordSource> own_;
    PlaceMap map_;
    cloud::RecordLayout layout_;
};

Mapped mapped_triangles(const cloud::PointCloud& c, const PlaceMap& map, const cloud::Reference& target,
                        Progress& progress, bool tilted) {
    // In the order of the records, so that record k stays record k.
    std::vector<std::uint32_t> order(c.size());
    const auto source = c.order();
    for (std::size_t p = 0; p < c.page_count(); ++p) {
        const auto page = source->page(p);
        for (std::size_t i = 0; i < page.size(); ++i)
            order[page[i]] = static_cast<std::uint32_t>(p * kPageSize + i);
    }
    mesh::TriMesh m = mesh::part_of(*c.triangles(), order);
    map(m.vertices);
    Mapped out;
    for (const Vec3& v : m.vertices) out.without_image += !std::isfinite(v.x);
    if (out.without_image > 0) return out;
    const bool surface = cloud::is_surface(c) && (!tilted || faces_up(m));
    cloud::TriangleParts parts{target.unit, target.crs, surface, {}, {}, {}};
    parts.height_unit = target.height_unit;
    if (c.attributes()) parts.attributes = mesh::part_of(*c.attributes(), order);
    out.cloud = cloud::cloud_of_triangles(m, parts, progress);
    return out;
}

}  // namespace

Mapped mapped(const std::shared_ptr<const cloud::PointCloud>& c, PlaceMap map,
              const cloud::Reference& reference, Progress& progress, bool tilted) {
    if (c->triangles()) return mapped_triangles(*c, map, reference, progress, tilted);
    const auto records = std::make_shared<MappedRecords>(c->records(), map);
    progress.stretch(0, 0.4, "Moving points");
    const auto ranges = field_ranges(*records, progress);
    const Progress::Part part(progress, 0.4, 1, "Ordering points");
    cloud::PointCloud::Parts known;
    known.crs = reference.crs;
    known.unit = reference.unit;
    known.height_unit = reference.height_unit;
    for (const cloud::Station& s : c->stations()) {
        std::vector<Vec3> place{s.position};
        map(place);
        known.stations.push_back({s.name, place[0]});
    }
    std::vector<std::string> warnings;
    Mapped out;
    out.cloud = cloud_from_records(records, ranges, -1, warnings, progress, std::move(known));
    out.without_image = c->size() - std::min(c->size(), out.cloud->size());
    if (out.without_image > 0) out.cloud = nullptr;
    return out;
}

std::shared_ptr<const cloud::PointCloud> placed(const std::shared_ptr<const cloud::PointCloud>& c,
                                                const Similarity& placement,
                                                const cloud::Reference& reference, Progress& progress) {
    Mapped out = mapped(
        c,
        [placement](std::vector<Vec3>& places) {
            for (Vec3& p : places) p = placement(p);
        },
        reference, progress);
    if (!out.cloud)
        throw Error(ErrorCode::Usage, "Some points would come to no place", {}, "Check the numbers.");
    return out.cloud;
}

}  // namespace pristine::io
