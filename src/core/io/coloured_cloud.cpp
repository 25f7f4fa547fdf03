#include "core/io/coloured_cloud.h"

#include <array>
#include <cstring>
#include <utility>

#include "core/base/error.h"
#include "core/io/record_cloud.h"

namespace pristine::io {
namespace {

using cloud::Field;
using cloud::FieldType;

constexpr std::array<const char*, 3> kColours{"red", "green", "blue"};

// Records of another source with three bytes behind each.
class ColouredRecords : public cloud::RecordSource {
  public:
    ColouredRecords(std::shared_ptr<const cloud::RecordSource> own, std::vector<std::uint32_t> rgb)
        : own_(std::move(own)), rgb_(std::move(rgb)) {
        layout_.format = "coloured";
        for (const Field& f : own_->layout().fields)
            if (f.name != kColours[0] && f.name != kColours[1] && f.name != kColours[2])
                layout_.fields.push_back(f);
        layout_.record_bytes = own_->layout().record_bytes;
        for (const char* name : kColours)
            layout_.fields.push_back({name, FieldType::U8, layout_.record_bytes++});
    }
    const cloud::RecordLayout& layout() const override { return layout_; }
    std::uint64_t count() const override { return own_->count(); }
    void read(std::uint64_t first, std::span<std::byte> out) const override {
        const std::size_t own = own_->layout().record_bytes, n = out.size() / layout_.record_bytes;
        std::vector<std::byte> raw(n * own);
        own_->read(first, raw);
        for (std::size_t i = 0; i < n; ++i) {
            std::byte* to = out.data() + i * layout_.record_bytes;
            std::memcpy(to, raw.data() + i * own, own);
            for (std::size_t k = 0; k < 3; ++k)
                to[own + k] = static_cast<std::byte>(rgb_[first + i] >> (16 - 8 * k) & 255u);
        }
    }

  private:
    std::shared_ptr<const cloud::RecordSource> own_;
    std::vector<std::uint32_t> rgb_;  // by record
    cloud::RecordLayout layout_;
};

}  // namespace

std::shared_ptr<const cloud::PointCloud> coloured(const std::shared_ptr<const cloud::PointCloud>& c,
                                                  const std::vector<std::uint32_t>& rgb, Progress& progress) {
    if (c->triangles()) throw Error(ErrorCode::Usage, "Only points are coloured");
    if (rgb.size() != c->size()) throw Error(ErrorCode::Usage, "There are not as many colours as points");
    // Records without a point (empty cells of a grid) are grey, and nobody sees it.
    std::vector<std::uint32_t> by_record(c->records()->count(), 0x808080);
    const auto order = c->order();
    for (std::size_t p = 0; p < c->page_count(); ++p) {
        const std::vector<std::uint32_t> numbers = order->page(p);
        for (std::size_t i = 0; i < numbers.size(); ++i) by_record[numbers[i]] = rgb[p * kPageSize + i];
    }
    const auto records = std::make_shared<ColouredRecords>(c->records(), std::move(by_record));
    progress.stretch(0, 0.4, "Colouring points");
    const auto ranges = field_ranges(*records, progress);
    const Progress::Part part(progress, 0.4, 1, "Ordering points");
    cloud::PointCloud::Parts known;
    known.crs = c->crs();
    known.unit = c->unit();
    known.height_unit = c->height_unit();
    known.stations = c->stations();
    std::vector<std::string> warnings;
    return cloud_from_records(records, ranges, -1, warnings, progress, std::move(known));
}

}  // namespace pristine::io
