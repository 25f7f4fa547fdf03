#include "core/cloud/page_sink.h"

#include <mutex>

namespace pristine::cloud {

// Packed order pages one after the other as they came, with a table of where each is.
class ScratchOrder : public OrderSource {
  public:
    explicit ScratchOrder(std::uint64_t points) : points_(points), places_(pages_for(points)) {}
    void put(std::size_t p, const std::string& packed) {
        {
            const std::lock_guard guard(mutex_);
            places_[p] = {end_, packed.size()};
            end_ += packed.size();
        }
        file_.write_at(places_[p].first, std::as_bytes(std::span(packed)));
    }
    std::vector<std::uint32_t> page(std::size_t p) const override {
        return unpack_order(packed(p), page_length(points_, p));
    }
    std::string packed(std::size_t p) const override {
        std::string bytes(places_[p].second, '\0');
        file_.read_at(places_[p].first, std::as_writable_bytes(std::span(bytes)));
        return bytes;
    }

  private:
    std::uint64_t points_, end_ = 0;
    std::mutex mutex_;
    ScratchFile file_;
    std::vector<std::pair<std::uint64_t, std::size_t>> places_;
};

PageSink::PageSink(std::uint64_t points, const ColumnSet& set, bool through_file)
    : points_(points), set_(set) {
    std::shared_ptr<ScratchFile> file;
    std::uint64_t at = 0;
    if (through_file) {
        file = std::make_shared<ScratchFile>(pages_for(points) * kPageSize * set.bytes());
        order_in_file_ = std::make_shared<ScratchOrder>(points);
    } else {
        order_.resize(pages_for(points));
    }
    const auto make = [&](auto& column, bool wanted) {
        using Column = std::remove_reference_t<decltype(column)>;
        if (wanted) column = through_file ? Column(points, file, at) : Column(points);
    };
    make(x_, true);
    make(y_, true);
    make(z_, true);
    make(colour_, set.colour);
    make(intensity_, set.intensity);
    make(classification_, set.classification);
}
PageSink::~PageSink() = default;

void PageSink::put(std::size_t p, PageColumns c) {
    x_.put(p, std::move(c.x));
    y_.put(p, std::move(c.y));
    z_.put(p, std::move(c.z));
    if (set_.intensity) intensity_.put(p, std::move(c.intensity));
    if (set_.colour) colour_.put(p, std::move(c.colour));
    if (set_.classification) classification_.put(p, std::move(c.classification));
    if (order_in_file_ && !c.packed_order.empty())
        order_in_file_->put(p, c.packed_order);
    else if (!order_in_file_)
        order_[p] = std::move(c.packed_order);
}

void PageSink::finish(PointCloud::Parts& parts) {
    parts.x = x_.finish();
    parts.y = y_.finish();
    parts.z = z_.finish();
    if (set_.intensity) parts.intensity = intensity_.finish();
    if (set_.colour) parts.colour = colour_.finish();
    if (set_.classification) parts.classification = classification_.finish();
    if (parts.order) return;
    if (order_in_file_)
        parts.order = std::move(order_in_file_);
    else
        parts.order = std::make_shared<PackedOrder>(points_, std::move(order_));
}

std::uint64_t memory_needed(std::uint64_t points, const ColumnSet& set) {
    return points * (set.bytes() + 6);
}

}  // namespace pristine::cloud
