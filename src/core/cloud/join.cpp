#include "core/cloud/join.h"

#include <algorithm>

#include "core/cloud/builder.h"
#include "core/cloud/by_records.h"

namespace pristine::cloud {
namespace {

bool alike(const PointCloud& a, const PointCloud& b) {
    const RecordLayout &l = a.records()->layout(), &m = b.records()->layout();
    const bool fields = std::equal(l.fields.begin(), l.fields.end(), m.fields.begin(), m.fields.end(),
                                   [](const Field& f, const Field& g) {
                                       return f.name == g.name && f.type == g.type && f.offset == g.offset;
                                   });
    return a.grid().scale == b.grid().scale && a.grid().offset == b.grid().offset && a.unit() == b.unit() &&
           l.record_bytes == m.record_bytes && fields && a.colour().has_value() == b.colour().has_value() &&
           a.intensity().has_value() == b.intensity().has_value() &&
           a.classification().has_value() == b.classification().has_value();
}

// Records of several sources one after the other.
class JoinedRecords : public RecordSource {
  public:
    void add(std::shared_ptr<const RecordSource> source) {
        first_.push_back(count_);
        count_ += source->count();
        sources_.push_back(std::move(source));
    }
    const RecordLayout& layout() const override { return sources_.front()->layout(); }
    std::uint64_t count() const override { return count_; }
    void read(std::uint64_t first, std::span<std::byte> out) const override {
        const std::size_t bytes = layout().record_bytes;
        while (!out.empty()) {
            const auto after = std::upper_bound(first_.begin(), first_.end(), first);
            const auto s = static_cast<std::size_t>(after - first_.begin()) - 1;
            const std::uint64_t end = first_[s] + sources_[s]->count();
            const auto n = static_cast<std::size_t>(std::min<std::uint64_t>(end - first, out.size() / bytes));
            sources_[s]->read(first - first_[s], out.first(n * bytes));
            out = out.subspan(n * bytes);
            first += n;
        }
    }

  private:
    std::vector<std::shared_ptr<const RecordSource>> sources_;
    std::vector<std::uint64_t> first_;
    std::uint64_t count_ = 0;
};

// The points of a page in a box, or all.
PointBatch batch_of(const PointCloud& c, std::size_t p, std::uint64_t first_record, const Box3* box) {
    PointBatch b;
    const PositionPage page = c.positions(p);
    const auto original = c.order()->page(p);
    for (std::size_t i = 0; i < page.size(); ++i) {
        if (box) {
            const Vec3 w = c.grid().world(page.x[i], page.y[i], page.z[i]);
            if (w.x < box->lo.x || w.y < box->lo.y || w.x > box->hi.x || w.y > box->hi.y) continue;
        }
        b.x.push_back(page.x[i]);
        b.y.push_back(page.y[i]);
        b.z.push_back(page.z[i]);
        if (c.intensity()) b.intensity.push_back(c.intensity()->page(p)[i]);
        if (c.colour()) b.colour.push_back(c.colour()->page(p)[i]);
        if (c.classification()) b.classification.push_back(c.classification()->page(p)[i]);
        b.record.push_back(static_cast<std::uint32_t>(first_record + original[i]));
    }
    return b;
}

}  // namespace

WithNeighbours::WithNeighbours(std::shared_ptr<const PointCloud> own,
                               const std::vector<std::shared_ptr<const PointCloud>>& others, double buffer,
                               Progress& progress)
    : own_(std::move(own)) {
    Box3 box = own_->bounds();
    box.lo = box.lo - Vec3{buffer, buffer, buffer};
    box.hi = box.hi + Vec3{buffer, buffer, buffer};
    auto records = std::make_shared<JoinedRecords>();
    std::vector<PointBatch> batches;
    const auto add = [&](const PointCloud& c, const Box3* within) {
        const std::uint64_t first = records->count();
        check_point_count(first + c.records()->count());
        records->add(c.records());
        for (std::size_t p = 0; p < c.page_count(); ++p) {
            progress.check();
            if (PointBatch b = batch_of(c, p, first, within); b.size() > 0) batches.push_back(std::move(b));
        }
    };
    add(*own_, nullptr);
    for (const auto& other : others) {
        if (!alike(*own_, *other))
            throw Error(ErrorCode::Usage,
                        "The tiles do not have the same grid of coordinates and the same columns", {},
                        "Convert them to one format first, or run without a buffer.");
        const Box3 o = other->bounds();
        if (o.empty() || o.lo.x > box.hi.x || o.hi.x < box.lo.x || o.lo.y > box.hi.y || o.hi.y < box.lo.y)
            continue;
        add(*other, &box);
    }
    PointCloud::Parts parts;
    parts.grid = own_->grid();
    parts.stations = own_->stations();
    parts.crs = own_->crs();
    parts.unit = own_->unit();
    parts.height_unit = own_->height_unit();
    parts.records = records;
    joined_ = build(std::move(batches), std::move(parts), progress);
}

ElementSet WithNeighbours::own_part(const ElementSet& joined) const {
    return moved_by_records(joined, *joined_, *own_);
}

}  // namespace pristine::cloud
